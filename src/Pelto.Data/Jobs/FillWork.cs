using NpgsqlTypes;

namespace Pelto.Data.Jobs;

/// <summary>Gives rows that have no value one: in the database, a batch at a time, which puts down there as well what it changed.</summary>
/// <param name="field">The field.</param>
/// <param name="job">The job.</param>
/// <param name="value">What they get; nothing takes it from those that have it.</param>
internal sealed class FillWork(Field field, Guid job, Value value) : JobWork(field)
{
    // Few enough that a save which meets them does not wait for long.
    private const int Together = 4000;

    // No more at once of a table whose rows are few and wide.
    private const int MaxBlocks = 160;

    private long end;
    private long span;

    public override async Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        // Two counts cost a fraction of what one over both tables joined does.
        await using var command = Command(connection, null, $"SELECT (SELECT count(*) FROM {Host}) - (SELECT count({First}) FROM {Table})");
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    // First the rows that stand beside their host's already, in the order in which they lie on the disk, then those that do not, by id;
    // what is reached is a block of the table in the first, and, below nought, an id in the second.
    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        if (reached >= 0 && await UpdateAsync(transaction, reached, cancel) is { Examined: > 0 } updated)
            return updated;
        var inserted = await InsertAsync(transaction, reached >= 0 ? 0 : -reached - 1, cancel);
        return inserted with { Position = -inserted.Position - 1 };
    }

    // Blocks one after another are read several times as fast as rows by an index. What is written meanwhile lies behind the end, and is
    // looked for once the rest is done.
    private async Task<Batch> UpdateAsync(NpgsqlTransaction transaction, long block, CancellationToken cancel)
    {
        if (block == 0 || span == 0)
            await MeasureAsync(transaction, cancel);
        for (; block < end; block += span)
        {
            await using var command = Command(
                transaction.Connection!,
                transaction,
                $"""
                WITH done AS (UPDATE {Table} SET ({Names()}) = ROW({List(
                    4
                )}) WHERE ctid >= $2 AND ctid < $3 AND {First} IS NULL RETURNING id), {KeepsBatch("$1", "NULL", "done")}
                SELECT count(*) FROM done
                """,
                [P(job), At(block), At(block + span), .. ParametersOf(value)]
            );
            var count = (long)(await command.ExecuteScalarAsync(cancel))!;
            if (count > 0)
                return new(block + span, (int)count, []) { Changed = count };
        }

        return new(block, 0, []);
    }

    private static NpgsqlParameter At(long block) => new() { NpgsqlDbType = NpgsqlDbType.Tid, Value = new NpgsqlTid((uint)block, 0) };

    // How far the table reaches, and how many of its blocks hold a batch.
    private async Task MeasureAsync(NpgsqlTransaction transaction, CancellationToken cancel)
    {
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"SELECT pg_relation_size(oid) / current_setting('block_size')::int, least({MaxBlocks}, greatest(1, "
                + $"{Together} / greatest(25, reltuples / greatest(1, relpages))))::bigint FROM pg_class WHERE oid = '{Table}'::regclass"
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        (end, span) = (reader.GetInt64(0), reader.GetInt64(1));
    }

    // Records that are being saved just now are skipped: a job waits for nobody, and a save waits for a batch at most.
    private async Task<Batch> InsertAsync(NpgsqlTransaction transaction, long after, CancellationToken cancel)
    {
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"""
            WITH batch AS (SELECT h.id FROM {Host} h LEFT JOIN {Table} a ON a.id = h.id AND a.id > $2 WHERE h.id > $2 AND a.id IS NULL
                ORDER BY h.id LIMIT {Together} FOR KEY SHARE OF h SKIP LOCKED),
            {Founded("SELECT id FROM batch")}done AS (INSERT INTO {Table} (id, {Names()}) SELECT id, {List(
                3
            )} FROM batch ON CONFLICT (id) DO NOTHING RETURNING id),
            {KeepsBatch("$1", "NULL", "done")}
            SELECT coalesce((SELECT max(id) FROM batch), $2), (SELECT count(*)::int FROM batch), (SELECT count(*) FROM done)
            """,
            [P(job), P(after), .. ParametersOf(value)]
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        return new(reader.GetInt64(0), reader.GetInt32(1), []) { Changed = reader.GetInt64(2) };
    }

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        var same = value.IsEmpty
            ? ""
            : string.Concat(
                Field.Columns.Select((column, i) => string.Create(CultureInfo.InvariantCulture, $" AND {Sql.Name(column.Name)} = ${i + 2}"))
            );
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"UPDATE {Table} SET {string.Join(", ", Columns.Quoted(Field).Select(name => name + " = NULL"))} WHERE id = ANY($1){same}",
            (value.IsEmpty ? [] : ParametersOf(value)).Prepend(P(ids))
        );
        await command.ExecuteNonQueryAsync(cancel);
    }
}
