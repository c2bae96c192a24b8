using Pelto.Core.Formulas;
using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>What a formula would do to the records on file.</summary>
/// <param name="Looked">How many rows were looked at.</param>
/// <param name="IsAll">False when only the newest were.</param>
/// <param name="Filled">How many get a value.</param>
/// <param name="Failing">How many cannot be calculated.</param>
/// <param name="Changed">How many get another value than they have now; null when the field is new.</param>
/// <param name="Emptied">How many of those become empty.</param>
/// <param name="Examples">Some of them, those that fail or change first.</param>
public sealed record FormulaProof(
    long Looked,
    bool IsAll,
    long Filled,
    long Failing,
    long? Changed,
    long Emptied,
    IReadOnlyList<FormulaExample> Examples
);

/// <summary>One record under a formula.</summary>
/// <param name="Record">The record's id.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Now">What stands there now.</param>
/// <param name="Draft">What the formula gives.</param>
/// <param name="Fails">True when it cannot be calculated.</param>
public sealed record FormulaExample(long Record, string Title, Value Now, Value Draft, bool Fails);

/// <summary>Runs a formula over the records on file before it is live, in the database, saving nothing.</summary>
public sealed class FormulaProofs(NpgsqlDataSource source, TimeProvider clock)
{
    private const int Most = 20_000;
    private const int Shown = 6;
    private const int ShownOfRefill = 12;
    private const string Limit = "SET LOCAL statement_timeout = '2s'";

    /// <summary>
    /// Looks at the newest rows. Null when the database cannot tell yet: it takes too long, or reads what is only in the draft.
    /// </summary>
    /// <param name="field">The field as the draft has it, with its formula.</param>
    /// <param name="live">The same field as it is live; null for a new one.</param>
    /// <param name="viewer">For whom; whoever may not see the field gets nothing.</param>
    /// <param name="cancel">Stops it.</param>
    public Task<FormulaProof?> OfAsync(Field field, Field? live, Viewer viewer, CancellationToken cancel) =>
        OfAsync(field, live, viewer, static (_, _) => "", Shown, cancel);

    /// <summary>
    /// What filling a stored field again would do: to the rows that a refill may touch, with what is stored and what it would be.
    /// </summary>
    public Task<FormulaProof?> OfRefillAsync(Field field, Viewer viewer, CancellationToken cancel) =>
        OfAsync(
            field,
            field,
            viewer,
            static (rows, command) => string.Join(" AND ", rows.Refillable(command)) is { Length: > 0 } where ? $" WHERE {where}" : "",
            ShownOfRefill,
            cancel
        );

    private async Task<FormulaProof?> OfAsync(
        Field field,
        Field? live,
        Viewer viewer,
        Func<FormulaRows, NpgsqlCommand, string> where,
        int shown,
        CancellationToken cancel
    )
    {
        if (viewer.SureAt(field) < AccessLevel.Read)
            return null;
        var type = field.Part.RecordType;
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        try
        {
            await using (var limit = new NpgsqlCommand(Limit, connection, transaction))
                await limit.ExecuteNonQueryAsync(cancel);
            await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
            var rows = new FormulaRows(field, command, Clock);
            var (draft, values) = (rows.Given, rows.Values.ToList());
            var (value, unit) = (values[0], values.Count > 1 ? values[1] : "NULL::text");
            var (now, nowUnit) = live is null ? ("NULL", "NULL") : NowOf(live, rows.Names);
            var differs = live is null ? "false" : $"(v IS DISTINCT FROM n OR u IS DISTINCT FROM nu)";
            command.CommandText = $"""
                WITH worked AS MATERIALIZED (SELECT h.id, h.{Sql.Name(
                    type.Identifier.Columns[0].Name
                )}::text AS t, {value} AS v, {unit} AS u, {draft.Fails ?? "false"} AS f, {now} AS n, {nowUnit} AS nu
                    FROM {rows.From(live is { IsAdded: true, IsStored: true })}{where(rows, command)} ORDER BY h.id DESC LIMIT {Most}),
                given AS (SELECT *, {differs} AS d FROM worked),
                counted AS (SELECT count(*) AS looked, count(v) AS filled, count(*) FILTER (WHERE f) AS failing, count(*) FILTER (WHERE d) AS changed, count(*) FILTER (WHERE d AND v IS NULL) AS emptied FROM given)
                SELECT looked, filled, failing, changed, emptied, e.* FROM counted LEFT JOIN LATERAL (SELECT id, t, f, v{(
                    field.Columns.Count > 1 ? ", u" : ""
                )}{(
                    live is null ? "" : $", n{(live.Columns.Count > 1 ? ", nu" : "")}"
                )} FROM given ORDER BY f DESC, d DESC, v IS NULL, id DESC LIMIT {shown}) AS e ON true
                """;
            await using var reader = await command.ExecuteReaderAsync(cancel);
            FormulaProof? proof = null;
            var examples = new List<FormulaExample>();
            while (await reader.ReadAsync(cancel))
            {
                proof ??= new(
                    reader.GetInt64(0),
                    reader.GetInt64(0) < Most,
                    reader.GetInt64(1),
                    reader.GetInt64(2),
                    live is null ? null : reader.GetInt64(3),
                    reader.GetInt64(4),
                    examples
                );
                if (reader.IsDBNull(5))
                    break;
                var at = 8;
                var given = Columns.Read(reader, ref at, field);
                examples.Add(
                    new(
                        reader.GetInt64(5),
                        reader.IsDBNull(6) ? "" : reader.GetString(6),
                        live is null ? Value.Empty : Columns.Read(reader, ref at, live),
                        given,
                        reader.GetBoolean(7)
                    )
                );
            }

            return proof;
        }
        catch (FormulaTooLongException)
        {
            return null;
        }
        catch (PostgresException refused)
            when (refused.SqlState
                    is PostgresErrorCodes.UndefinedColumn
                        or PostgresErrorCodes.UndefinedTable
                        or PostgresErrorCodes.QueryCanceled
            )
        {
            return null;
        }
    }

    /// <summary>
    /// On how many of the newest rows a condition holds, and how many were looked at. Null when the database cannot tell yet: it takes too
    /// long, or the condition reads what is only in the draft.
    /// </summary>
    /// <param name="condition">A formula that gives yes or no.</param>
    /// <param name="part">The part whose rows it is about.</param>
    /// <param name="viewer">For whom; whoever may not see all that it reads gets nothing.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<(long Holds, long Looked)?> CountAsync(Formula condition, Part part, Viewer viewer, CancellationToken cancel)
    {
        if (!viewer.MayKnow(condition) || !viewer.AccessAt(part.RecordType).For(part.RecordType).Read.IsSure)
            return null;
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        try
        {
            await using (var limit = new NpgsqlCommand(Limit, connection, transaction))
                await limit.ExecuteNonQueryAsync(cancel);
            await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
            var rows = new FormulaRows(part, condition, command, Clock);
            command.CommandText =
                $"SELECT count(*) FILTER (WHERE v), count(*) FROM (SELECT {rows.Given.Unfailing.Text} AS v "
                + $"FROM {rows.From(withStored: false)} ORDER BY h.id DESC LIMIT {Most}) AS looked";
            await using var reader = await command.ExecuteReaderAsync(cancel);
            await reader.ReadAsync(cancel);
            return (reader.GetInt64(0), reader.GetInt64(1));
        }
        catch (Exception unknown)
            when (unknown
                    is FormulaTooLongException
                        or PostgresException
                        {
                            SqlState: PostgresErrorCodes.UndefinedColumn
                                or PostgresErrorCodes.UndefinedTable
                                or PostgresErrorCodes.QueryCanceled
                        }
            )
        {
            return null;
        }
    }

    /// <summary>
    /// How many stored values are not what their formula gives now; one statement. Null when that takes too long to tell at once, and for
    /// whoever may not see them.
    /// </summary>
    public async Task<long?> CountStaleAsync(Field field, Viewer viewer, CancellationToken cancel)
    {
        if (viewer.SureAt(field) < AccessLevel.Read)
            return null;
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        try
        {
            await using (var limit = new NpgsqlCommand(Limit, connection, transaction))
                await limit.ExecuteNonQueryAsync(cancel);
            await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
            command.CommandText = StaleSql(field, command, Clock);
            return (long)(await command.ExecuteScalarAsync(cancel))!;
        }
        catch (PostgresException refused) when (refused.SqlState == PostgresErrorCodes.QueryCanceled)
        {
            return null;
        }
    }

    private Clock Clock => Clock.From(clock);

    /// <summary>A count of the rows of a kept field whose stored value is not what the formula gives.</summary>
    internal static string StaleSql(Field field, NpgsqlCommand command, Clock clock)
    {
        var rows = new FormulaRows(field, command, clock);
        var differs = rows.Values.Zip(Columns.Quoted(field, rows.Beside + "."), (value, column) => $"{value} IS DISTINCT FROM {column}");
        return $"SELECT count(*) FROM {rows.From(withStored: true)} WHERE "
            + $"{string.Join(" AND ", rows.Refillable(command).Append($"({string.Join(" OR ", differs)})"))}";
    }

    private static (string Value, string Unit) NowOf(Field live, FormulaNames names)
    {
        if (live.IsLive)
        {
            var given = Formula.ToSql(live, names);
            return (given.Unfailing.Text, given.Unfailing.Unit ?? "NULL::text");
        }

        var columns = Columns
            .Quoted(
                live,
                live.Part.IsLines
                    ? live.IsAdded
                        ? "la."
                        : "l."
                    : live.IsAdded
                        ? "a."
                        : "h."
            )
            .ToList();
        return (columns[0], columns.Count > 1 ? columns[1] : "NULL::text");
    }
}
