using System.Globalization;
using CsvHelper;
using Npgsql;
using NpgsqlTypes;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Jobs;

/// <summary>What a batch did.</summary>
/// <param name="Reached">The id of the last row that it looked at.</param>
/// <param name="Looked">How many rows it looked at; none at the end.</param>
/// <param name="Ids">Rows that it changed.</param>
/// <param name="Befores">What they held before, when it was not all the same.</param>
internal sealed record Batch(long Reached, int Looked, long[] Ids, string[]? Befores = null)
{
    /// <summary>How many rows it changed.</summary>
    public long Changed { get; init; } = Ids.Length;
}

/// <summary>Ends a job before its time, with a sentence for people; what it did until then stays, and can be undone.</summary>
internal sealed class JobEndedException(string sentence) : Exception(sentence);

/// <summary>One kind of work on the rows of a field: counts what is to do, does a batch, takes a batch back.</summary>
internal abstract class JobWork(Field field)
{
    protected const int Size = 1000;

    protected Field Field { get; } = field;

    protected string Table => Sql.Table(Sql.Added, Field.Part.Table);

    protected string Host => Sql.Base(Field.Part);

    protected string First => Sql.Name(Field.Columns[0].Name);

    public abstract Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel);

    /// <summary>About how many rows are to be looked at, for the progress that people see.</summary>
    public virtual Task<long> EstimateAsync(NpgsqlConnection connection, CancellationToken cancel) => CountAsync(connection, cancel);

    public abstract Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel);

    public abstract Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel);

    protected static NpgsqlCommand Command(NpgsqlConnection connection, NpgsqlTransaction? transaction, string sql, params IEnumerable<NpgsqlParameter> parameters)
    {
        var command = new NpgsqlCommand(sql, connection, transaction) { CommandTimeout = 0 };
        command.Parameters.AddRange(parameters.ToArray());
        return command;
    }

    protected static NpgsqlParameter P(object value) => new() { Value = value };

    // The value in each column, from a place among the parameters on.
    protected IEnumerable<NpgsqlParameter> Kept(Value value) => Field.Columns.Select((column, i) => Columns.Parameter(column.Type, Field.Kind.ToColumn(value, i)));

    protected string List(int from) => string.Join(", ", Field.Columns.Select((_, i) => string.Create(CultureInfo.InvariantCulture, $"${from + i}")));

    protected string Names(string prefix = "") => string.Join(", ", Columns.Quoted(Field, prefix));
}

/// <summary>Gives rows that have no value one.</summary>
internal sealed class FillWork(Field field, Value value) : JobWork(field)
{
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
        if (reached >= 0 && await UpdateAsync(transaction, reached, cancel) is { Looked: > 0 } updated) return updated;
        var inserted = await InsertAsync(transaction, reached >= 0 ? 0 : -reached - 1, cancel);
        return inserted with { Reached = -inserted.Reached - 1 };
    }

    // Blocks one after another are read several times as fast as rows by an index. What is written meanwhile lies behind the end, and is looked for once the rest is done.
    private async Task<Batch> UpdateAsync(NpgsqlTransaction transaction, long block, CancellationToken cancel)
    {
        if (block == 0 || span == 0) await MeasureAsync(transaction, cancel);
        for (var ids = new List<long>(); block < end; block += span)
        {
            await using var command = Command(transaction.Connection!, transaction,
                $"UPDATE {Table} SET {string.Join(", ", Columns.Quoted(Field).Select((name, i) => string.Create(CultureInfo.InvariantCulture, $"{name} = ${i + 3}")))} WHERE ctid >= $1 AND ctid < $2 AND {First} IS NULL RETURNING id", [At(block), At(block + span), .. Kept(value)]);
            await using (var reader = await command.ExecuteReaderAsync(cancel))
                while (await reader.ReadAsync(cancel)) ids.Add(reader.GetInt64(0));
            if (ids.Count > 0) return new(block + span, ids.Count, [.. ids]);
        }

        return new(block, 0, []);
    }

    private static NpgsqlParameter At(long block) => new() { NpgsqlDbType = NpgsqlDbType.Tid, Value = new NpgsqlTid((uint)block, 0) };

    // How far the table reaches, and how many of its blocks hold a batch.
    private async Task MeasureAsync(NpgsqlTransaction transaction, CancellationToken cancel)
    {
        await using var command = Command(transaction.Connection!, transaction,
            $"SELECT pg_relation_size(oid) / current_setting('block_size')::int, least(40, greatest(1, {Size} / greatest(25, reltuples / greatest(1, relpages))))::bigint FROM pg_class WHERE oid = '{Table}'::regclass");
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        (end, span) = (reader.GetInt64(0), reader.GetInt64(1));
    }

    // Records that are being saved just now are passed over: a job waits for nobody, and a save waits for a batch at most.
    private async Task<Batch> InsertAsync(NpgsqlTransaction transaction, long after, CancellationToken cancel)
    {
        await using var command = Command(transaction.Connection!, transaction,
            $"""
            WITH batch AS (SELECT h.id FROM {Host} h LEFT JOIN {Table} a ON a.id = h.id AND a.id > $1 WHERE h.id > $1 AND a.id IS NULL ORDER BY h.id LIMIT {Size} FOR KEY SHARE OF h SKIP LOCKED),
            done AS (INSERT INTO {Table} (id, {Names()}) SELECT id, {List(2)} FROM batch ON CONFLICT (id) DO NOTHING RETURNING id)
            SELECT coalesce((SELECT max(id) FROM batch), $1), (SELECT count(*)::int FROM batch), coalesce((SELECT array_agg(id) FROM done), ARRAY[]::bigint[])
            """, Kept(value).Prepend(P(after)));
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        return new(reader.GetInt64(0), reader.GetInt32(1), reader.GetFieldValue<long[]>(2));
    }

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        var same = value.IsEmpty ? "" : string.Concat(Field.Columns.Select((column, i) => string.Create(CultureInfo.InvariantCulture, $" AND {Sql.Name(column.Name)} = ${i + 2}")));
        await using var command = Command(transaction.Connection!, transaction, $"UPDATE {Table} SET {string.Join(", ", Columns.Quoted(Field).Select(name => name + " = NULL"))} WHERE id = ANY($1){same}", (value.IsEmpty ? [] : Kept(value)).Prepend(P(ids)));
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>Gives rows that hold one choice another.</summary>
internal sealed class MergeWork(Field field, string from, string to) : JobWork(field)
{
    private bool IsSeveral => Field.Kind is SeveralChoicesKind;

    private string Holds => IsSeveral ? $"{First} @> ARRAY[$1]" : $"{First} = $1";

    public override async Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var command = Command(connection, null, $"SELECT count(*) FROM {Table} WHERE {Holds}", P(from));
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var rows = new List<(long Id, Value Value)>();
        await using (var read = Command(transaction.Connection!, transaction, $"SELECT id, {Names()} FROM {Table} WHERE {Holds} AND id > $2 ORDER BY id LIMIT {Size} FOR UPDATE SKIP LOCKED", P(from), P(reached)))
        await using (var reader = await read.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                var at = 1;
                rows.Add((reader.GetInt64(0), Columns.Read(reader, ref at, Field)));
            }
        }

        if (rows.Count == 0) return new(reached, 0, []);
        await using var write = new NpgsqlCommand(BulkUpdate.Of(Field), transaction.Connection, transaction);
        BulkUpdate.Bind(write, Field, [.. rows.Select(row => (row.Id, IsSeveral ? Value.Of(row.Value.Codes.Select(code => code == from ? to : code).Distinct()) : Value.Of(to)))]);
        await write.ExecuteNonQueryAsync(cancel);
        return new(rows[^1].Id, rows.Count, [.. rows.Select(row => row.Id)], IsSeveral ? [.. rows.Select(row => string.Join(' ', row.Value.Codes))] : null);
    }

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(BulkUpdate.Of(Field, IsSeveral ? $"AND t.{First} @> ARRAY[$3]" : $"AND t.{First} = $3"), transaction.Connection, transaction);
        BulkUpdate.Bind(command, Field, [.. ids.Select((id, i) => (id, befores is null ? Value.Of(from) : Value.Of(befores[i].Split(' '))))]);
        command.Parameters.Add(P(to));
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>Gives rows back what was saved when their field was removed; what is there meanwhile stays.</summary>
internal sealed class ReadBackWork : JobWork
{
    private readonly List<(long Id, string[] Texts)> rows;

    private ReadBackWork(Field field, List<(long Id, string[] Texts)> rows) : base(field) => this.rows = rows;

    /// <summary>Reads the newest saved data of a field; columns that it has not are passed over.</summary>
    public static async Task<ReadBackWork> OfAsync(NpgsqlConnection connection, Field field, CancellationToken cancel)
    {
        await using var command = Command(connection, null, "SELECT csv FROM pelto.saved_data WHERE field = $1 ORDER BY saved_at DESC LIMIT 1", P(field.Id));
        var rows = new List<(long, string[])>();
        if (await command.ExecuteScalarAsync(cancel) is not string csv) return new(field, rows);
        using var reader = new CsvReader(new StringReader(csv), CultureInfo.InvariantCulture);
        await reader.ReadAsync();
        reader.ReadHeader();
        var headings = reader.HeaderRecord ?? [];

        // A field that comes back stands in its first column again, whatever it was kept in last.
        var places = field.Columns.Select(column => Array.FindLastIndex(headings, heading => heading != DataSaver.IdHeading && heading.EndsWith(column.Suffix, StringComparison.Ordinal) && (column.Suffix.Length > 0 || !field.Kind.Columns.Any(other => other.Suffix.Length > 0 && heading.EndsWith(other.Suffix, StringComparison.Ordinal))))).ToArray();
        while (await reader.ReadAsync()) rows.Add((reader.GetField<long>(0), [.. places.Select(place => place < 0 ? "" : reader.GetField(place) ?? "")]));
        return new(field, rows);
    }

    public override Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel) => Task.FromResult((long)rows.Count(row => row.Id > Done));

    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var batch = rows.Where(row => row.Id > reached).OrderBy(row => row.Id).Take(Size).ToList();
        if (batch.Count == 0) return new(reached, 0, []);
        Done = Math.Max(Done, batch[^1].Id);
        var casts = Field.Columns.Select((column, i) => column.Type == ColumnType.TextArray ? $"ARRAY(SELECT jsonb_array_elements_text(nullif(u.c{i}, '')::jsonb))"
            : column.Type == ColumnType.IntegerArray ? $"nullif(ARRAY(SELECT e.v::bigint FROM jsonb_array_elements_text(nullif(u.c{i}, '')::jsonb) WITH ORDINALITY AS e(v, o) WHERE EXISTS (SELECT FROM {Sql.Base(Field.Target!.Header)} t WHERE t.id = e.v::bigint) ORDER BY e.o), '{{}}')" : $"nullif(u.c{i}, '')::{column.Type.SqlType()}");
        var arrays = Field.Columns.Select((_, i) => string.Create(CultureInfo.InvariantCulture, $"${i + 2}::text[]"));
        await using var command = Command(transaction.Connection!, transaction,
            $"""
            WITH done AS (INSERT INTO {Table} AS t (id, {Names()})
                SELECT u.id, {string.Join(", ", casts)} FROM unnest($1::bigint[], {string.Join(", ", arrays)}) AS u(id, {string.Join(", ", Field.Columns.Select((_, i) => $"c{i}"))}) JOIN {Host} h ON h.id = u.id
                ON CONFLICT (id) DO UPDATE SET ({Names()}) = ROW({Names("excluded.")}) WHERE t.{First} IS NULL RETURNING id)
            SELECT coalesce(array_agg(id), ARRAY[]::bigint[]) FROM done
            """, Field.Columns.Select((_, i) => P(batch.Select(row => row.Texts[i]).ToArray())).Prepend(P(batch.Select(row => row.Id).ToArray())));
        return new(batch[^1].Id, batch.Count, (long[])(await command.ExecuteScalarAsync(cancel))!);
    }

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        await using var command = Command(transaction.Connection!, transaction, $"UPDATE {Table} SET {string.Join(", ", Columns.Quoted(Field).Select(name => name + " = NULL"))} WHERE id = ANY($1)", P(ids));
        await command.ExecuteNonQueryAsync(cancel);
    }

    private long Done { get; set; }
}
