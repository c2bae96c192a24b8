namespace Pelto.Data.Records;

/// <summary>
/// Moves stock by what a document says now and did not say before: a move on record for each difference, and what lies in the warehouse and
/// in the lot goes along.
/// </summary>
internal sealed class StockPosting(NpgsqlTransaction transaction, StockMoves moves)
{
    private readonly record struct Place(long Item, long Warehouse, long? Lot);

    /// <summary>
    /// Posts the difference. Items are held in the order of their ids, so that two documents never wait for each other in a circle.
    /// </summary>
    /// <param name="before">The document as it was; null for a new one.</param>
    /// <param name="after">The document as it is now; null for one that is gone.</param>
    /// <param name="viewer">Who saves; they are told how much is there only where they may read it.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>What keeps it from being saved: more than is there, where that may not be.</returns>
    public async Task<IReadOnlyList<Message>> PostAsync(RecordState? before, RecordState? after, Viewer viewer, CancellationToken cancel)
    {
        var messages = new List<Message>();
        var difference = Of(after);
        foreach (var (place, quantity) in Of(before))
            difference[place] = difference.GetValueOrDefault(place) - quantity;
        var moved = difference
            .Where(pair => pair.Value != 0)
            .OrderBy(pair => pair.Key.Item)
            .ThenBy(pair => pair.Key.Warehouse)
            .ThenBy(pair => pair.Key.Lot)
            .ToList();
        if (moved.Count == 0)
            return messages;
        var document = after ?? before!;
        await transaction
            .Command(
                $"SELECT FROM {Sql.Base(moves.Places.RecordType.Header)} WHERE id = ANY($1) ORDER BY id FOR NO KEY UPDATE",
                moved.Select(pair => pair.Key.Item).Distinct().ToArray()
            )
            .RunAsync(cancel);
        foreach (var (place, quantity) in moved)
        {
            var left = await PutAsync(place, quantity, cancel);
            await WriteAsync(place, quantity, document, cancel);
            if (quantity < 0 && left < 0 && !moves.MayGoBelow)
                messages.Add(new(AddressOf(after, place) ?? new(document.Type.Header, null, null), TooMuch(left - quantity, viewer)));
        }

        return messages;
    }

    // The last of the lines that take it, which is where it becomes too much.
    private FieldAddress? AddressOf(RecordState? after, Place place) =>
        after
            ?.LinesOf(moves.Lines)
            .LastOrDefault(line =>
                line.Values[moves.Item.Slot] is { DataType: DataType.Link } item
                && item.Target == place.Item
                && (
                    moves.Lot is null
                    || (line.Values[moves.Lot.Slot] is { DataType: DataType.Link } lot ? lot.Target : (long?)null) == place.Lot
                )
            )
            is { } line
            ? new(moves.Lines, line.Key, moves.Quantity)
            : null;

    private string TooMuch(decimal there, Viewer viewer) =>
        viewer.ReadsWhereRead(moves.OnHand)
            ? $"{(there <= 0 ? "Nothing" : $"Only {Numbers.Format(there / 1.0000000000000000000000000000m)}")} of this is there, and stock may not go below zero."
            : "Less than that is there, and stock may not go below zero.";

    private Dictionary<Place, decimal> Of(RecordState? state)
    {
        var sums = new Dictionary<Place, decimal>();
        if (
            state is null
            || state.Type.Document?.IsCancelled(state.Header[state.Type.Document.Status.Slot]) == true
            || state.Header[moves.Warehouse.Slot] is not { DataType: DataType.Link } warehouse
        )
            return sums;
        foreach (var line in state.LinesOf(moves.Lines))
        {
            if (
                line.Values[moves.Item.Slot] is not { DataType: DataType.Link } item
                || line.Values[moves.Quantity.Slot] is not { DataType: DataType.Number } quantity
            )
                continue;
            var lot = moves.Lot is null ? default : line.Values[moves.Lot.Slot];
            var place = new Place(item.Target, warehouse.Target, lot.DataType == DataType.Link ? lot.Target : null);
            sums[place] = sums.GetValueOrDefault(place) + (moves.IsOut ? -quantity.Number : quantity.Number);
        }

        return sums;
    }

    // Gives what is left there, of the lot where it is of one.
    private async Task<decimal> PutAsync(Place place, decimal quantity, CancellationToken cancel)
    {
        var (table, onHand, warehouse) = (Sql.Base(moves.Places), Sql.Column(moves.OnHand), Sql.Column(moves.PlaceWarehouse));
        var left = await transaction
            .Command(
                $"UPDATE {table} SET {onHand} = coalesce({onHand}, 0) + $1 WHERE id = (SELECT min(id) "
                    + $"FROM {table} WHERE parent = $2 AND {warehouse} = $3) RETURNING {onHand}",
                quantity,
                place.Item,
                place.Warehouse
            )
            .ValueAsync<decimal?>(cancel)
            ?? await transaction
                .Command(
                    $"INSERT INTO {table} (id, parent, position, {warehouse}, {onHand}) "
                        + $"SELECT nextval('{RecordNumbers.IdSequence(moves.Places)}'), $2, "
                        + $"coalesce(max(position) + 1, 0), $3, $1 FROM {table} WHERE parent = $2 RETURNING {onHand}",
                    quantity,
                    place.Item,
                    place.Warehouse
                )
                .ValueAsync<decimal?>(cancel)
            ?? 0;
        if (place.Lot is not { } lot)
            return left;
        var ofLot = await transaction
            .Command(
                $"UPDATE {Sql.Base(moves.LotOnHand.Part)} SET {Sql.Column(moves.LotOnHand)} = "
                    + $"coalesce({Sql.Column(moves.LotOnHand)}, 0) + $1 WHERE id = $2 RETURNING {Sql.Column(moves.LotOnHand)}",
                quantity,
                lot
            )
            .ValueAsync<decimal?>(cancel);
        return Math.Min(left, ofLot ?? left);
    }

    private async Task WriteAsync(Place place, decimal quantity, RecordState document, CancellationToken cancel)
    {
        var header = moves.Move.Header;
        var number = moves.Move.Identifier;
        var next = await transaction.Command($"SELECT nextval('{RecordNumbers.Sequence(number)}')").ValueAsync<long>(cancel);
        var written = number.Numbering!.Write(next, 0);
        await transaction
            .Command(
                $"INSERT INTO {Sql.Base(header)} (id, {Sql.Column(number)}, item, warehouse, lot, moved_on, quantity, "
                    + $"document) VALUES (nextval('{RecordNumbers.IdSequence(header)}'), $1, $2, $3, $4, $5, $6, $7)",
                written,
                place.Item,
                place.Warehouse,
                place.Lot,
                document.Header[moves.Date.Slot].Date,
                quantity,
                document.Title
            )
            .RunAsync(cancel);
    }

    /// <summary>What lies below zero of what a document moved, by item: where it moved it.</summary>
    public async Task<IReadOnlyList<(long Item, decimal OnHand)>> BelowZeroAsync(RecordState document, CancellationToken cancel)
    {
        var items = Of(document).Keys.Select(place => place.Item).Distinct().ToArray();
        if (items.Length == 0)
            return [];
        var below = transaction.Command(
            $"SELECT parent, {Sql.Column(moves.OnHand)} FROM {Sql.Base(moves.Places)} WHERE parent = ANY($1) "
                + $"AND {Sql.Column(moves.PlaceWarehouse)} = $2 AND {Sql.Column(moves.OnHand)} < 0 ORDER BY parent",
            items,
            document.Header[moves.Warehouse.Slot].Target
        );
        return await below.ListAsync(row => (row.GetInt64(0), row.GetDecimal(1)), cancel);
    }
}
