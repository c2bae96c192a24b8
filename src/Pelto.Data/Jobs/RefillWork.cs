using System.Text.Json;
using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Data.Records;
using Pelto.Data.Storage;

namespace Pelto.Data.Jobs;

/// <summary>Stores anew what a formula gives, where something else is stored: worked out in the database, a batch at a time, which puts down there as well what it needs to be undone.</summary>
/// <param name="field">The kept field.</param>
/// <param name="job">The job.</param>
/// <param name="clock">What the clock says.</param>
internal sealed class RefillWork(Field field, Guid job, Clock clock) : JobWork(field)
{
    private const char Mark = '|';

    public override async Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand { Connection = connection, CommandTimeout = 0 };
        command.CommandText = FormulaProofs.StaleSql(Field, command, clock);
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    // All of them are looked at, and counting the rows alone costs next to nothing.
    public override async Task<long> EstimateAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var command = Command(connection, null, $"SELECT count(*) FROM {Host}");
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    // Two statements: what is worked out is worked out from records that nobody is saving by then. Those that somebody is saving just now are passed over, and come out right by that save.
    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var lines = Field.Part.IsLines ? $" JOIN {Host} l ON l.parent = h.id" : "";
        var row = Field.Part.IsLines ? "l" : "h";
        var held = new List<long>();
        await using (var hold = Command(transaction.Connection!, transaction, $"SELECT {row}.id FROM {Sql.Base(Field.Part.RecordType.Header)} h{lines} WHERE {row}.id > $1 ORDER BY {row}.id LIMIT {Size} FOR NO KEY UPDATE OF h SKIP LOCKED", P(reached)))
        await using (var reader = await hold.ExecuteReaderAsync(cancel))
            while (await reader.ReadAsync(cancel)) held.Add(reader.GetInt64(0));
        if (held.Count == 0) return new(reached, 0, []);

        await using var command = new NpgsqlCommand { Connection = transaction.Connection, Transaction = transaction, CommandTimeout = 0 };
        command.Parameters.Add(P(held.ToArray()));
        command.Parameters.Add(P(job));
        var rows = new FormulaRows(Field, command, clock);
        var names = Columns.Quoted(Field).ToList();
        var values = rows.Values.Select((value, i) => $"{value} AS v{i}").Concat(names.Select((name, i) => $"{rows.Beside}.{name} AS b{i}")).ToList();
        string All(string prefix, string suffix = "") => string.Join(", ", names.Select((_, i) => $"{prefix}{i}{suffix}"));

        // Numbers and days are put together by a mark, which costs half of what JSON does; a text could hold any mark.
        var before = Field.Columns.All(column => column.Type is not Core.Values.ColumnType.Text)
            ? $"'#' || {string.Join($" || '{Mark}' || ", names.Select((_, i) => $"coalesce(b{i}::text, '')").Concat(names.Select((_, i) => $"coalesce(v{i}::text, '')")))}"
            : $"jsonb_build_array({All("b", "::text")}, {All("v", "::text")})::text";
        command.CommandText =
            $"""
            WITH given AS MATERIALIZED (SELECT {rows.Row}.id, {rows.Beside}.id IS NULL AS fresh, {string.Join(", ", values)} FROM {rows.From(withKept: true)} WHERE {string.Join(" AND ", rows.Refillable(command).Prepend($"{rows.Row}.id = ANY($1)"))}),
            differ AS MATERIALIZED (SELECT * FROM given WHERE ({All("v")}) IS DISTINCT FROM ({All("b")})),
            updated AS (UPDATE {Table} t SET ({Names()}) = ROW({All("d.v")}) FROM differ d WHERE t.id = d.id AND NOT d.fresh),
            inserted AS (INSERT INTO {Table} (id, {Names()}) SELECT id, {All("v")} FROM differ WHERE fresh ON CONFLICT (id) DO UPDATE SET ({Names()}) = ROW({Names("excluded.")})),
            kept AS (INSERT INTO pelto.job_batch (job_id, number, ids, befores) SELECT $2, (SELECT coalesce(max(number), 0) + 1 FROM pelto.job_batch WHERE job_id = $2), array_agg(id), array_agg({before}) FROM differ HAVING count(*) > 0)
            SELECT count(*) FROM differ
            """;
        return new(held[^1], held.Count, []) { Changed = (long)(await command.ExecuteScalarAsync(cancel))! };
    }

    private static string?[] Read(string before) => before[0] == '#' ? [.. before[1..].Split(Mark).Select(text => text.Length == 0 ? null : text)] : JsonSerializer.Deserialize<string?[]>(before)!;

    // What was stored comes back where what the job stored still stands.
    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        var pairs = befores!.Select(Read).ToList();
        var count = Field.Columns.Count;
        var sets = Field.Columns.Select((column, i) => $"{Sql.Name(column.Name)} = u.b{i}::{column.Type.SqlType()}");
        var stands = Field.Columns.Select((column, i) => $"t.{Sql.Name(column.Name)}::text IS NOT DISTINCT FROM u.v{i}");
        var columns = Enumerable.Range(0, count).Select(i => $"b{i}").Concat(Enumerable.Range(0, count).Select(i => $"v{i}"));
        await using var command = Command(transaction.Connection!, transaction,
            $"UPDATE {Table} t SET {string.Join(", ", sets)} FROM unnest($1::bigint[], {string.Join(", ", Enumerable.Range(2, 2 * count).Select(i => RecordLists.Inv($"${i}::text[]")))}) AS u(id, {string.Join(", ", columns)}) WHERE t.id = u.id AND {string.Join(" AND ", stands)}",
            Enumerable.Range(0, 2 * count).Select(i => Columns.Parameter(Core.Values.ColumnType.TextArray, pairs.Select(pair => pair[i]).ToArray())).Prepend(P(ids)));
        await command.ExecuteNonQueryAsync(cancel);
    }
}
