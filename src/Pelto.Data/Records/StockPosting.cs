using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>Moves stock by what a document says now and did not say before: a move on record for each difference, and what lies in the warehouse and in the lot goes along.</summary>
internal sealed class StockPosting(NpgsqlTransaction transaction, StockMoves moves)
{
    private readonly record struct Place(long Item, long Warehouse, long? Lot);

    /// <summary>Posts the difference. Items are held in the order of their ids, so that two documents never wait for each other in a circle.</summary>
    public async Task PostAsync(RecordState? before, RecordState? after, CancellationToken cancel)
    {
        var difference = Of(after);
        foreach (var (place, quantity) in Of(before)) difference[place] = difference.GetValueOrDefault(place) - quantity;
        var moved = difference.Where(pair => pair.Value != 0).OrderBy(pair => pair.Key.Item).ThenBy(pair => pair.Key.Warehouse).ThenBy(pair => pair.Key.Lot).ToList();
        if (moved.Count == 0) return;
        var document = after ?? before!;
        await RunAsync($"SELECT FROM {Sql.Base(moves.Places.RecordType.Header)} WHERE id = ANY($1) ORDER BY id FOR NO KEY UPDATE", cancel, moved.Select(pair => pair.Key.Item).Distinct().ToArray());
        foreach (var (place, quantity) in moved)
        {
            await PutAsync(place, quantity, cancel);
            await WriteAsync(place, quantity, document, cancel);
        }
    }

    private Dictionary<Place, decimal> Of(RecordState? state)
    {
        var sums = new Dictionary<Place, decimal>();
        if (state is null || state.Type.Document?.IsCancelled(state.Header[state.Type.Document.Status.Slot]) == true || state.Header[moves.Warehouse.Slot] is not { Type: ValueForm.Link } warehouse) return sums;
        foreach (var line in state.LinesOf(moves.Lines))
        {
            if (line.Values[moves.Item.Slot] is not { Type: ValueForm.Link } item || line.Values[moves.Quantity.Slot] is not { Type: ValueForm.Number } quantity) continue;
            var lot = moves.Lot is null ? default : line.Values[moves.Lot.Slot];
            var place = new Place(item.Target, warehouse.Target, lot.Type == ValueForm.Link ? lot.Target : null);
            sums[place] = sums.GetValueOrDefault(place) + (moves.IsOut ? -quantity.Number : quantity.Number);
        }

        return sums;
    }

    private async Task PutAsync(Place place, decimal quantity, CancellationToken cancel)
    {
        var (table, onHand, warehouse) = (Sql.Base(moves.Places), Sql.Column(moves.OnHand), Sql.Column(moves.PlaceWarehouse));
        if (await RunAsync($"UPDATE {table} SET {onHand} = coalesce({onHand}, 0) + $1 WHERE id = (SELECT min(id) FROM {table} WHERE parent = $2 AND {warehouse} = $3)", cancel, quantity, place.Item, place.Warehouse) == 0)
            await RunAsync($"INSERT INTO {table} (id, parent, position, {warehouse}, {onHand}) SELECT nextval('{RecordNumbers.IdSequence(moves.Places)}'), $2, coalesce(max(position) + 1, 0), $3, $1 FROM {table} WHERE parent = $2", cancel, quantity, place.Item, place.Warehouse);
        if (place.Lot is { } lot) await RunAsync($"UPDATE {Sql.Base(moves.LotOnHand.Part)} SET {Sql.Column(moves.LotOnHand)} = coalesce({Sql.Column(moves.LotOnHand)}, 0) + $1 WHERE id = $2", cancel, quantity, lot);
    }

    private async Task WriteAsync(Place place, decimal quantity, RecordState document, CancellationToken cancel)
    {
        var header = moves.Move.Header;
        var number = moves.Move.Identifier;
        await using var next = new NpgsqlCommand($"SELECT nextval('{RecordNumbers.Sequence(number)}')", transaction.Connection, transaction);
        var written = number.Numbering!.Write((long)(await next.ExecuteScalarAsync(cancel))!, 0);
        await RunAsync($"INSERT INTO {Sql.Base(header)} (id, {Sql.Column(number)}, item, warehouse, lot, moved_on, quantity, document) VALUES (nextval('{RecordNumbers.IdSequence(header)}'), $1, $2, $3, $4, $5, $6, $7)", cancel,
            written, place.Item, place.Warehouse, place.Lot, document.Header[moves.Date.Slot].Date, quantity, document.Title);
    }

    private async Task<int> RunAsync(string sql, CancellationToken cancel, params object?[] values)
    {
        await using var command = new NpgsqlCommand(sql, transaction.Connection, transaction);
        foreach (var value in values) command.Parameters.Add(value is null ? new() { Value = DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Bigint } : new() { Value = value });
        return await command.ExecuteNonQueryAsync(cancel);
    }
}
