using Pelto.Core.Formulas;
using Pelto.Data.Records;

namespace Pelto.Data.Jobs;

/// <summary>
/// Stores anew what a formula gives, where something else is stored: calculated in the database, a batch at a time, which puts down there
/// as well what it needs to be undone.
/// </summary>
/// <param name="field">The kept field.</param>
/// <param name="job">The job.</param>
/// <param name="clock">What the clock says.</param>
internal sealed class RefillWork(Field field, Guid job, Clock clock) : StoredAgainWork(field)
{
    // Few enough that a save which meets them does not wait for long.
    private const int Together = 4000;

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

    // Records are not held, which would cost as much as the work itself: where somebody saved one meanwhile, the row beside it is another
    // one by then and is skipped; and a save whose row this changed is run again.
    // Lines are: a save changes several of them, in an order of its own.
    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var (last, looked, held) = Field.Part.IsLines
            ? await HoldAsync(transaction, reached, cancel)
            : await NextAsync(transaction, reached, cancel);
        if (looked == 0)
            return new(reached, 0, []);
        await using var command = new NpgsqlCommand
        {
            Connection = transaction.Connection,
            Transaction = transaction,
            CommandTimeout = 0,
        };
        command.Parameters.Add(P(job));
        command.Parameters.Add(P(reached));
        command.Parameters.Add(P(last));
        var rows = new FormulaRows(Field, command, clock);
        var names = Columns.Quoted(Field).ToList();
        var values = rows
            .Values.Select((value, i) => $"{value} AS v{i}")
            .Concat(names.Select((name, i) => $"{rows.Beside}.{name} AS b{i}"))
            .ToList();
        string All(string prefix, string suffix = "") => string.Join(", ", names.Select((_, i) => $"{prefix}{i}{suffix}"));
        var which = new List<string> { $"{rows.Row}.id > $2 AND {rows.Row}.id <= $3" };
        if (held is not null)
        {
            command.Parameters.Add(P(held));
            which.Add(Invariant($"{rows.Row}.id = ANY(${command.Parameters.Count})"));
        }

        // Numbers and days are put together by a mark, which costs half of what JSON does; a text could hold any mark.
        string Told(string prefix) =>
            string.Join(
                $", '{Mark}', ",
                Field.Columns.Select((column, i) => $"{prefix}{i}{(column.Type is Core.Values.ColumnType.Boolean ? "::text" : "")}")
            );
        var before = Field.Columns.All(column => column.Type is not Core.Values.ColumnType.Text)
            ? $"concat('#', {Told("b")}, '{Mark}', {Told("v")})"
            : $"jsonb_build_array({All("b", "::text")}, {All("v", "::text")})::text";
        // OFFSET 0 keeps what is given from being calculated twice, for the comparison and for what is stored.
        command.CommandText = $"""
            WITH differ AS MATERIALIZED (SELECT * FROM (SELECT {rows.Row}.id, {rows.Stored}.ctid AS at, {string.Join(
                ", ",
                values
            )} FROM {rows.From(withStored: true, $" AND {rows.Beside}.id > $2 AND {rows.Beside}.id <= $3")} WHERE {string.Join(
                " AND ",
                which.Concat(rows.Refillable(command))
            )} OFFSET 0) AS given
                WHERE ({All("v")}) IS DISTINCT FROM ({All("b")})),
            updated AS (UPDATE {Table} t SET ({Names()}) = ROW({All("d.v")}) FROM differ d WHERE t.ctid = d.at RETURNING d.id, {All(
                "d.b"
            )}, {All("d.v")}),
            {Founded("SELECT id FROM differ WHERE at IS NULL")}inserted AS (INSERT INTO {Table} AS t (id, {Names()}) SELECT id, {All(
                "v"
            )} FROM differ WHERE at IS NULL ON CONFLICT (id) DO NOTHING RETURNING t.id),
            done AS (SELECT * FROM updated UNION ALL SELECT d.id, {All("d.b")}, {All(
                "d.v"
            )} FROM inserted JOIN differ d ON d.id = inserted.id),
            {KeepsBatch("$1", $"array_agg({before})", "done")}
            SELECT count(*) FROM done
            """;
        return new(last, looked, []) { Changed = (long)(await command.ExecuteScalarAsync(cancel))! };
    }

    private async Task<(long Last, int Looked, long[]? Held)> NextAsync(
        NpgsqlTransaction transaction,
        long reached,
        CancellationToken cancel
    )
    {
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"SELECT coalesce(max(id), 0), count(*)::int FROM (SELECT id FROM {Host} WHERE id > $1 ORDER BY id LIMIT {Together}) AS next",
            P(reached)
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        return (reader.GetInt64(0), reader.GetInt32(1), null);
    }

    // Those that somebody is saving just now are skipped, and come out right by that save.
    private async Task<(long Last, int Looked, long[]? Held)> HoldAsync(
        NpgsqlTransaction transaction,
        long reached,
        CancellationToken cancel
    )
    {
        var held = new List<long>();
        await using var hold = Command(
            transaction.Connection!,
            transaction,
            $"SELECT l.id FROM {Sql.Base(Field.Part.RecordType.Header)} h JOIN {Host} l ON l.parent = h.id "
                + $"WHERE l.id > $1 ORDER BY l.id LIMIT {Size} FOR NO KEY UPDATE OF h SKIP LOCKED",
            P(reached)
        );
        await using var reader = await hold.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            held.Add(reader.GetInt64(0));
        return held.Count == 0 ? (reached, 0, null) : (held[^1], held.Count, [.. held]);
    }
}
