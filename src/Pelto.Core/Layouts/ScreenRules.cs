namespace Pelto.Core.Layouts;

/// <summary>What a screen asks of what is sent from it, besides what definitions do.</summary>
public static class ScreenRules
{
    /// <summary>What was typed where the screen is locked, and what is missing that it asks for.</summary>
    /// <param name="layout">The screen of the record as it is to be.</param>
    /// <param name="changes">What was sent.</param>
    /// <param name="current">The record as it is on file.</param>
    /// <param name="state">The record as it is to be.</param>
    /// <param name="isDemanded">Says for a field whether this save is held to the screen: one drawn before a release is not.</param>
    public static IEnumerable<Message> Check(
        Layout layout,
        RecordChanges changes,
        RecordState current,
        RecordState state,
        Func<Field, bool> isDemanded
    )
    {
        foreach (var place in layout.Places.Where(place => !place.IsAgain && place.Field.IsTyped && (place.IsLocked || place.IsRequired)))
        {
            var field = place.Field;
            if (!isDemanded(field))
                continue;
            if (
                place.IsLocked
                && !field.Part.IsLines
                && changes.Header.ContainsKey(field)
                && state.Header[field.Slot] != current.Header[field.Slot]
            )
                yield return new(new(field.Part, null, field), $"{field.Label} is locked on this screen.");
            if (!place.IsRequired || place.IsLocked || field.Required)
                continue;
            if (!field.Part.IsLines && state.Header[field.Slot].IsEmpty && state.Origins.GetValueOrDefault(field)?.IsAwaited != true)
                yield return new(new(field.Part, null, field), $"{field.Label} is required here.");
            if (!field.Part.IsLines)
                continue;
            foreach (
                var line in state
                    .LinesOf(field.Part)
                    .Where(line => line.Values[field.Slot].IsEmpty && line.Origins.GetValueOrDefault(field)?.IsAwaited != true)
            )
                yield return new(new(field.Part, line.Key, field), $"{field.Label} is required here.");
        }
    }

    /// <summary>
    /// What was sent for fields that a condition has taken off the screen: it is not saved. Taken out of what was sent, and told.
    /// </summary>
    /// <param name="shown">The screen of the record as it is to be.</param>
    /// <param name="all">The screen with all that conditions can bring.</param>
    /// <param name="changes">What was sent.</param>
    /// <param name="wasSeen">
    /// False for a field that stood on no screen when it was sent, such as what a document took over from the one before: nobody typed it,
    /// and it stays.
    /// </param>
    public static IReadOnlyList<Field> TakeOff(Layout shown, Layout all, RecordChanges changes, Func<Field, bool> wasSeen)
    {
        if (ReferenceEquals(shown, all))
            return [];
        var stand = shown.Fields.ToHashSet();
        var off = all
            .Fields.Where(field => !field.Part.IsLines && !stand.Contains(field) && changes.Header.ContainsKey(field) && wasSeen(field))
            .ToList();
        foreach (var field in off)
            changes.Header.Remove(field);
        return off;
    }
}
