using Pelto.Core.Access;

namespace Pelto.Core.Layouts;

/// <summary>What locks a field on somebody's screen.</summary>
public static class Locks
{
    /// <summary>
    /// The layers by which it is locked at each place at which this person finds it; none where it is open at one of them.
    /// </summary>
    /// <param name="viewer">Who.</param>
    /// <param name="field">Which field.</param>
    /// <param name="state">The record; null for any.</param>
    public static IReadOnlyList<Layer> LocksOf(this Viewer viewer, Field field, RecordState? state)
    {
        var screens = field.Part.RecordType.Screens;
        var screen = state is null ? screens.AtMost(viewer, RecordMode.Changing) : screens.For(viewer, state);
        var places = screen.Layout.PlacesOf(field).ToList();
        if (places.Count == 0 || places.Exists(place => !place.IsLocked))
            return [];
        return
        [
            .. places
                .SelectMany(place => screen.Trace.GetValueOrDefault(place.Id) ?? [])
                .Where(step => step.Operation is { Op: LayerOperation.Lock, Off: false })
                .Select(step => step.Layer)
                .Distinct(),
        ];
    }
}
