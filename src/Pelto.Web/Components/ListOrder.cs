namespace Pelto.Web.Components;

/// <summary>A list as a person sees it: what they may not know of is not there, nor does it order anything.</summary>
public static class ListOrder
{
    /// <summary>The columns.</summary>
    public static IReadOnlyList<LayoutPlace> Visible(Resolved list, Viewer viewer) =>
        [.. list.Layout.Places.Where(place => viewer.LevelAt(place.Field) > AccessLevel.None)];

    /// <summary>The order of the rows, until somebody sorts them.</summary>
    public static IReadOnlyList<SortKey> For(RecordType type, Resolved list, Viewer viewer)
    {
        var keys = list.Sorted.Where(key => viewer.MayFind(key.Column)).Select(key => new SortKey(key.Column, key.Descending)).ToList();
        if (keys.Count > 0)
            return keys;
        RecordLists.TryOrder(type, null, viewer, out var standard);
        return standard;
    }
}
