namespace Pelto.Core.Layouts;

/// <summary>Where Tab goes on a screen: as one reads, unless a layer says otherwise.</summary>
/// <param name="Order">Ids of places in the order in which Tab comes to them; null when that is the order in which one reads.</param>
/// <param name="Skipped">Ids of places that Tab passes by.</param>
public sealed record TabOrder(IReadOnlyList<string>? Order, IReadOnlySet<string> Skipped)
{
    /// <summary>As one reads, with no exception.</summary>
    public static TabOrder AsRead { get; } = new(null, new HashSet<string>());

    /// <summary>The order after all that layers say of it, in turn.</summary>
    /// <param name="layout">The screen.</param>
    /// <param name="operations">What layers say of Tab, in the order in which they do.</param>
    /// <returns>
    /// The order, and the operations that cannot be carried out since one of both is not there, or they are not of one part.
    /// </returns>
    public static (TabOrder Order, IReadOnlyList<LayerOperation> Lost) For(Layout layout, IReadOnlyList<LayerOperation> operations)
    {
        if (operations.Count == 0)
            return (AsRead, []);
        var places = layout.Places.ToDictionary(place => place.Id, StringComparer.Ordinal);
        var read = places.Keys.ToList();
        var order = read.ToList();
        var skipped = new HashSet<string>(StringComparer.Ordinal);
        var lost = new List<LayerOperation>();
        foreach (var operation in operations)
        {
            if (!places.TryGetValue(operation.Part, out var place))
                continue;
            if (operation.Off)
            {
                skipped.Add(operation.Part);
                continue;
            }

            skipped.Remove(operation.Part);
            if (operation.After is not { } after)
                continue;
            if (!places.TryGetValue(after, out var before) || before.Field.Part != place.Field.Part || before == place)
            {
                lost.Add(operation);
                continue;
            }

            order.Remove(operation.Part);
            order.Insert(order.IndexOf(after) + 1, operation.Part);
        }

        var isAsRead = order.SequenceEqual(read);
        return (isAsRead && skipped.Count == 0 ? AsRead : new(isAsRead ? null : order, skipped), lost);
    }

    /// <summary>The places that Tab comes to, in its order.</summary>
    public IEnumerable<string> StopsOf(Layout layout) =>
        (Order ?? [.. layout.Places.Select(place => place.Id)]).Where(id => !Skipped.Contains(id));
}
