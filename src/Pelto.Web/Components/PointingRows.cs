using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>The first of the records that point to one by a field, with the columns that tell most.</summary>
/// <param name="Field">The link.</param>
/// <param name="Columns">What is shown of each.</param>
/// <param name="Rows">The records.</param>
/// <param name="HasMore">True when there are more.</param>
/// <param name="Address">Where all of them are listed.</param>
/// <param name="Viewer">For whom.</param>
public sealed record PointingRows(
    Field Field,
    IReadOnlyList<LayoutPlace> Columns,
    IReadOnlyList<ListRow> Rows,
    bool HasMore,
    string Address,
    Viewer Viewer
)
{
    private const int Most = 10;

    /// <summary>Reads them, in the order of their list.</summary>
    public static async Task<PointingRows> OfAsync(Field field, long id, RecordLists lists, Viewer viewer, CancellationToken cancel)
    {
        var type = field.Part.RecordType;
        var filter = Filter.Pointing(field, id);
        var shown = (field.Target ?? type).Screens.ListFor(viewer, field);
        var columns = ListOrder.Visible(shown, viewer);
        var page = await lists.ReadAsync(
            new(type, ListOrder.For(type, shown, viewer), Most) { Shown = columns.Select(column => column.Field), Filters = [filter] },
            viewer,
            cancel
        );
        return new(
            field,
            columns,
            page.Rows,
            page.Next is not null,
            $"/records/{type.Code}?filter={Uri.EscapeDataString(filter.Write())}",
            viewer
        );
    }
}
