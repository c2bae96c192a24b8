using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>
/// What the address of a list says, read for one person; and in words what of it could not be read, so that nobody takes more than was
/// asked for to be all of it.
/// </summary>
/// <param name="Order">The order, where one is said that can be kept to.</param>
/// <param name="Filters">What rows are held to.</param>
/// <param name="Keys">What it is grouped by.</param>
/// <param name="Unread">What was left out, each as a sentence.</param>
public sealed record ListAddress(
    IReadOnlyList<SortKey>? Order,
    IReadOnlyList<Filter> Filters,
    IReadOnlyList<GroupKey> Keys,
    IReadOnlyList<string> Unread
)
{
    // What a list knows, the inputs of a filter that is about to be added included.
    private static readonly HashSet<string> Names = new(
        [
            "search",
            "order",
            "after",
            "filter",
            "group",
            "deleted",
            "undo",
            "lost",
            "inside",
            "offer",
            "handler",
            nameof(FilterInput.In),
            nameof(FilterInput.Test),
            nameof(FilterInput.Value),
            nameof(FilterInput.Until),
            nameof(FilterInput.IsAsked),
        ],
        StringComparer.OrdinalIgnoreCase
    );

    /// <summary>Reads it.</summary>
    public static ListAddress Read(RecordType type, IQueryCollection address, Viewer viewer)
    {
        bool Knows(Field field) => viewer.LevelAt(field) > AccessLevel.None;
        var (unread, filters, keys) = (new List<string>(), new List<Filter>(), new List<GroupKey>());
        IReadOnlyList<SortKey>? order = null;
        if (address["order"].ToString() is { Length: > 0 } said && !string.IsNullOrWhiteSpace(said))
        {
            if (RecordLists.TryOrder(type, said, viewer, out var read) is { } disorder)
                unread.Add(disorder);
            else
                order = read;
        }

        foreach (var text in address["filter"].OfType<string>())
        {
            var (filter, refusal) = Filter.Parse(type, text, Knows);
            if (filter is not null && FilterInput.MayFilter(viewer, filter.Field))
                filters.Add(filter);
            else
                unread.Add(refusal ?? $"You may not search {filter!.Field.Label}.");
        }

        foreach (var text in address["group"].OfType<string>())
        {
            var (key, refusal) = GroupKey.Parse(type, text, Knows);
            if (key is not { } one || !FilterInput.MayFilter(viewer, one.Field))
                unread.Add(refusal ?? $"There is no field “{key?.Field.Code}” to group by.");
            else if (keys.TrueForAll(other => other.Field != one.Field) && keys.Count < ListGroups.MaxKeys)
                keys.Add(one);
        }

        unread.AddRange(address.Keys.Where(name => !Names.Contains(name)).Select(name => $"A list knows nothing of “{name}”."));
        return new(order, filters, keys, unread);
    }
}
