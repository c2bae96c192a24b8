namespace Pelto.Data.Records;

/// <summary>What is on hand, for those who may read it.</summary>
public sealed class StockLevels(NpgsqlDataSource source)
{
    /// <summary>
    /// What lies below zero now of what a document moved out, for whoever reads what is on hand; none where stock may not go below zero.
    /// </summary>
    public async Task<IReadOnlyList<(long Item, decimal OnHand)>> BelowZeroAsync(
        RecordState document,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (document.Type.StockMoves is not { IsOut: true } moves || !viewer.ReadsWhereRead(moves.OnHand))
            return [];
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        return await new StockPosting(transaction, moves).BelowZeroAsync(document, cancel);
    }
}
