using Npgsql;

namespace Pelto.Web.Components;

/// <summary>Says what lies below zero after a document moved it out, where the ERP lets it.</summary>
public sealed class StockNotes(StockLevels stock, RecordLists lists)
{
    private const int MaxNamed = 3;

    /// <summary>One sentence, or null when nothing does, or whoever saved may not know.</summary>
    /// <remarks>
    /// The document is saved by then: where the database goes away meanwhile there is no remark, rather than an answer that sounds as if it
    /// was not.
    /// </remarks>
    public async Task<string?> OfAsync(RecordState saved, Viewer viewer, CancellationToken cancel = default)
    {
        try
        {
            return await SayAsync(saved, viewer, cancel);
        }
        catch (NpgsqlException)
        {
            return null;
        }
    }

    private async Task<string?> SayAsync(RecordState saved, Viewer viewer, CancellationToken cancel)
    {
        var below = await stock.BelowZeroAsync(saved, viewer, cancel);
        if (below.Count == 0)
            return null;
        var moves = saved.Type.StockMoves!;
        var items = await lists.TargetsAsync(moves.Places.RecordType, [.. below.Select(one => one.Item)], viewer, cancel);
        var named = below
            .Where(one => items.ContainsKey(one.Item))
            .Select(one =>
                $"{items[one.Item].Identifier} ({Numbers.Format(one.OnHand / 1.0000000000000000000000000000m, locale: viewer.Locale)})"
            )
            .ToList();
        if (named.Count == 0)
            return null;
        var more = named.Count > MaxNamed ? $" and {named.Count - MaxNamed} more" : "";
        return "Stock on hand is now below zero there for "
            + $"{string.Join(", ", named.Take(MaxNamed))}{more}: stock may go below zero here, so nothing was held back.";
    }
}
