using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data.Records;

namespace Pelto.Web.Components;

/// <summary>The first of the records that point to one by a field, with the columns that tell most.</summary>
/// <param name="Field">The link.</param>
/// <param name="Columns">What is shown of each.</param>
/// <param name="Rows">The records.</param>
/// <param name="HasMore">True when there are more.</param>
/// <param name="Address">Where all of them are listed.</param>
/// <param name="Locale">For whom.</param>
public sealed record PointingRows(Field Field, IReadOnlyList<Field> Columns, IReadOnlyList<ListRow> Rows, bool HasMore, string Address, Locale Locale)
{
    private const int Most = 10;
    private const int MostColumns = 6;

    /// <summary>Reads them, in the order of their list.</summary>
    public static async Task<PointingRows> OfAsync(Field field, long id, RecordLists lists, Viewer viewer, CancellationToken cancel)
    {
        var type = field.Part.RecordType;
        var filter = Filter.Pointing(field, id);
        RecordLists.TryOrder(type, null, viewer, out var order);
        var page = await lists.ReadAsync(new(type, order, Most) { Filters = [filter] }, viewer, cancel);

        // The column that would say the same in every row is left out.
        var columns = type.ListColumns.Where(column => column != field && viewer.LevelAt(column) >= AccessLevel.Read).Take(MostColumns);
        return new(field, [.. columns], page.Rows, page.Next is not null, $"/records/{type.Code}?filter={Uri.EscapeDataString(filter.Write())}", viewer.Locale);
    }
}
