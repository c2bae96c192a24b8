namespace Pelto.Core.Layouts;

/// <summary>Where something stands on the grid of its section.</summary>
/// <param name="Row">Its row, from 1.</param>
/// <param name="Column">Its first column of twelve, from 1.</param>
public sealed record GridCell(int Row, int Column);

/// <summary>
/// How what stands in a section falls on its twelve columns: side by side in reading order, on to the next row where it does not fit. The
/// same rule as CSS Grid's auto-placement (W3C, CSS Grid Layout 1, 8.5, sparse), by which browsers draw it.
/// </summary>
public static class GridFlow
{
    private const int Columns = 12;

    /// <summary>Where each stands, by its id.</summary>
    public static IReadOnlyDictionary<string, GridCell> For(LayoutSection section)
    {
        var addresses = new Dictionary<string, GridCell>(StringComparer.Ordinal);
        var (row, column) = (1, 1);
        foreach (var item in section.Items)
        {
            if (column + item.Width - 1 > Columns || (item.StartsRow && column > 1))
                (row, column) = (row + 1, 1);
            addresses[item.Id] = new(row, column);
            column += item.Width;
        }

        return addresses;
    }

    /// <summary>
    /// Which others moved, between two states of a screen, by what was done to one part: in reading order, with where each stands now.
    /// </summary>
    /// <param name="before">The screen before.</param>
    /// <param name="after">The screen after.</param>
    /// <param name="part">The id of the part that it was done to.</param>
    public static IReadOnlyList<(LayoutItem Item, GridCell Was, GridCell Is)> Moved(Layout before, Layout after, string part)
    {
        var was = before.Sections.Where(section => section.Lines is null).ToDictionary(section => section.Id, For, StringComparer.Ordinal);
        return
        [
            .. from section in after.Sections
            where section.Lines is null && was.ContainsKey(section.Id)
            let now = For(section)
            from item in section.Items
            where item.Id != part && was[section.Id].TryGetValue(item.Id, out var old) && old != now[item.Id]
            select (item, was[section.Id][item.Id], now[item.Id]),
        ];
    }

    /// <summary>
    /// Behind what something of this width can stand in a section without moving anything: at the end of the last row that has room, or
    /// else on a row of its own at the end; null where nothing stands yet.
    /// </summary>
    /// <param name="section">The section.</param>
    /// <param name="width">Columns of twelve.</param>
    /// <param name="part">The id of what is to stand there, which does not count.</param>
    public static LayoutItem? Gap(LayoutSection section, int width, string part)
    {
        var items = section.Items.Where(item => item.Id != part).ToList();
        var addresses = For(section with { Items = items });
        for (var i = items.Count - 1; i >= 0; i--)
        {
            var isLastOfRow = i + 1 == items.Count || addresses[items[i + 1].Id].Row > addresses[items[i].Id].Row;
            if (isLastOfRow && addresses[items[i].Id].Column + items[i].Width - 1 + width <= Columns)
                return items[i];
        }

        return items.Count > 0 ? items[^1] : null;
    }
}
