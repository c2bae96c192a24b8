using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Carries the values of a field from the column of one kind to that of another, while people work.</summary>
/// <remarks>
/// Each value is turned by the new kind's own rule (<see cref="FieldKind.Convert"/>), so that what the preview says is what happens.
/// A value that stands in the new column already and turns back into the old one stays: that is how taking a change of kind back loses
/// nothing.
/// What people change meanwhile is written down by a trigger and carried after.
/// </remarks>
public sealed class ValueConversion(OwnerDatabase database)
{
    private readonly NpgsqlDataSource source = database.Source;
    private const int Batch = 1000;
    private const int MaxExamples = 20;
    private static readonly string After = $"a.id > $1 ORDER BY a.id LIMIT {Batch}";

    /// <summary>Counts what carrying would do, and shows some of what cannot be turned.</summary>
    /// <param name="from">The field as it is.</param>
    /// <param name="to">The field as it is to be.</param>
    /// <param name="most">How many values to look at, at most; null for all of them.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<Conversions> PreviewAsync(Field from, Field to, int? most = null, CancellationToken cancel = default)
    {
        var (converts, fails, examples) = (0L, 0L, new List<(long, string, string)>());
        await using var command = source.CreateCommand(
            $"SELECT {Owner(from)}, {string.Join(", ", Columns.Quoted(from, "a."))} FROM {Table(from)} a{Joined(from)} WHERE "
                + $"{from.ColumnNames("a.")("")} IS NOT NULL ORDER BY a.id{(most is { } limit ? $" LIMIT {limit}" : "")}"
        );
        command.CommandTimeout = 0;
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var at = 1;
            var value = Columns.Read(reader, ref at, from);
            if (to.Kind.Convert(value, from.Kind) is not { Refusal: { } why })
            {
                converts++;
                continue;
            }

            fails++;
            if (examples.Count < MaxExamples)
                examples.Add((reader.GetInt64(0), from.Kind.Format(value), why));
        }

        return new(converts, fails, examples);
    }

    /// <summary>Carries all rows, a batch at a time.</summary>
    public async Task ConvertAllAsync(Field from, Field to, Func<string, Task> say, CancellationToken cancel)
    {
        await using var reader = await source.OpenConnectionAsync(cancel);
        await using var writer = await OpenAsync(cancel);
        var (carried, next) = (0L, ReadAsync(reader, from, to, After, new() { Value = 0L }, cancel));
        try
        {
            while (await next is { Count: > 0 } rows)
            {
                // The next batch is read while this one is written. What changes in between is written down, and carried after.
                next = ReadAsync(reader, from, to, After, new() { Value = rows[^1].Id }, cancel);
                await WriteAsync(writer, to, Wanted(rows, from, to), cancel);
                carried += rows.Count;
                await say($"Converts the values of {from.Label}: {Numbers.Format(carried)} rows so far.");
            }
        }
        finally
        {
            await Task.WhenAny(next);
        }
    }

    /// <summary>Carries the rows that were changed since, until none is left.</summary>
    public async Task ConvertChangedAsync(Field from, Field to, CancellationToken cancel)
    {
        while (true)
        {
            await using var connection = await OpenAsync(cancel);
            var ids = await TakeChangedAsync(connection, from, cancel);
            if (ids.Length == 0)
                return;
            var rows = await ReadAsync(connection, from, to, "a.id = ANY($1)", new() { Value = ids }, cancel);
            await WriteAsync(connection, to, Wanted(rows, from, to), cancel);
        }
    }

    // No batch waits until it is on the disk: what a crash loses of them is carried again, and the switch, which comes after, waits for
    // all.
    private async Task<NpgsqlConnection> OpenAsync(CancellationToken cancel)
    {
        var connection = await source.OpenConnectionAsync(cancel);
        await connection.Command("SET synchronous_commit = off").RunAsync(cancel);
        return connection;
    }

    private sealed record Row(long Id, Value From, Value To);

    private static List<(long Id, Value Value)> Wanted(List<Row> rows, Field from, Field to)
    {
        var wanted = new List<(long, Value)>();
        foreach (var row in rows)
        {
            if (!row.To.IsEmpty || row.From.IsEmpty)
            {
                var back = from.Kind.Convert(row.To, to.Kind);
                if ((back.Refusal is null ? back.Value : Value.Empty) == row.From)
                    continue;
            }

            var turned = to.Kind.Convert(row.From, from.Kind);
            var value = turned.Refusal is null ? turned.Value : Value.Empty;
            if (value != row.To)
                wanted.Add((row.Id, value));
        }

        return wanted;
    }

    private static async Task<List<Row>> ReadAsync(
        NpgsqlConnection connection,
        Field from,
        Field to,
        string condition,
        NpgsqlParameter parameter,
        CancellationToken cancel
    )
    {
        await using var command = new NpgsqlCommand(
            $"SELECT a.id, {string.Join(", ", Columns.Quoted(from, "a.").Concat(Columns.Quoted(to, "a.")))} FROM {Table(from)} a WHERE {condition}",
            connection
        );
        command.Parameters.Add(parameter);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var rows = new List<Row>();
        while (await reader.ReadAsync(cancel))
        {
            var at = 1;
            rows.Add(new(reader.GetInt64(0), Columns.Read(reader, ref at, from), Columns.Read(reader, ref at, to)));
        }

        return rows;
    }

    private static async Task WriteAsync(NpgsqlConnection connection, Field to, List<(long Id, Value Value)> rows, CancellationToken cancel)
    {
        if (rows.Count == 0)
            return;
        await using var command = new NpgsqlCommand(BulkUpdate.For(to), connection);
        BulkUpdate.Bind(command, to, rows);
        await command.ExecuteNonQueryAsync(cancel);
    }

    private static async Task<long[]> TakeChangedAsync(NpgsqlConnection connection, Field from, CancellationToken cancel)
    {
        return (
            await connection
                .Command(
                    "WITH taken AS (DELETE FROM pelto.conversion WHERE number IN (SELECT number "
                        + $"FROM pelto.conversion WHERE table_name = $1 AND column_name = $2 ORDER BY number LIMIT {Batch}) "
                        + "RETURNING row_id) SELECT coalesce(array_agg(DISTINCT row_id), '{}') FROM taken",
                    from.Table,
                    from.Columns[0].Name
                )
                .ValueAsync<long[]>(cancel)
        )!;
    }

    // The record that a row belongs to: its own id, or for a line that of the header.
    private static string Owner(Field field) => field.Part.IsLines ? "h.parent" : "a.id";

    private static string Joined(Field field) => field.Part.IsLines ? $" JOIN {Sql.Base(field.Part)} h ON h.id = a.id" : "";

    private static string Table(Field field) => Sql.Of(field);
}
