using System.Text.Json;
using Pelto.Core.Fills;
using Pelto.Core.Queries;
using Pelto.Data.Records;

namespace Pelto.Data.Jobs;

/// <summary>
/// Asks the query of a field again for the records on file, one after the other, and stores what it gives where something else is stored.
/// </summary>
/// <param name="field">The field.</param>
/// <param name="fills">Asks.</param>
/// <param name="now">When.</param>
internal sealed class QueryRefillWork(Field field, QueryFills fills, DateTime now) : StoredAgainWork(field)
{
    // All are asked for first, and stored in one go: nobody waits for a query that somebody else's record is asked for.
    private const int Together = 50;

    // Those that somebody saved, or was saving, between asking and storing.
    private List<long> passed = [];
    private List<long>? again;

    // Each record is looked at once, but for those that were skipped.
    public override Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        (again, passed) = (passed, []);
        return Task.FromResult((long)again.Count);
    }

    public override async Task<long> EstimateAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var command = Command(connection, null, $"SELECT count(*) FROM {Sql.Base(Field.Part.RecordType.Header)}");
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var records = new List<long>();
        await using (
            var next = Command(
                transaction.Connection!,
                transaction,
                $"SELECT id FROM {Sql.Base(Field.Part.RecordType.Header)} WHERE id > "
                    + $"$1{(again is null ? "" : " AND id = ANY($2)")} ORDER BY id LIMIT {Together}",
                again is null ? [P(reached)] : [P(reached), P(again.ToArray())]
            )
        )
        await using (var reader = await next.ExecuteReaderAsync(cancel))
            while (await reader.ReadAsync(cancel))
                records.Add(reader.GetInt64(0));
        if (records.Count == 0)
            return new(reached, 0, []);
        var differing = new List<QueryFill>();
        foreach (var record in records)
        {
            var given = await fills.OfAsync(transaction, Field, record, cancel);
            if (given.FirstOrDefault(fill => fill is { IsStopped: true, Given.IsError: true }) is { } stopped)
                throw new JobEndedException($"{stopped.Given.Reason} It was not asked any further.");
            differing.AddRange(given.Where(fill => !fill.Given.IsError && fill.Now != fill.Given));
        }

        var (ids, befores) = (new List<long>(), new List<string>());
        foreach (var record in differing.GroupBy(fill => fill.Record).OrderBy(record => record.Key))
        {
            if (!await RecordRows.HoldAsItWasAsync(transaction, Field.Part.RecordType, record.Key, record.First().Version, cancel))
            {
                passed.Add(record.Key);
                continue;
            }

            foreach (var fill in record.OrderBy(fill => fill.Row))
            {
                if (await StoreAsync(transaction, fill, cancel) is not { } stored)
                    continue;
                ids.Add(fill.Row);
                befores.Add(stored);
            }
        }

        return new(records[^1], records.Count, [.. ids], [.. befores]);
    }

    // Null where it does not stand there any more. Where values come from stands in the first table, whichever holds the field.
    internal async Task<string?> StoreAsync(NpgsqlTransaction transaction, QueryFill fill, CancellationToken cancel)
    {
        var connection = transaction.Connection!;
        var count = Field.Columns.Count;
        var names = Columns.Quoted(Field, "t.").ToList();
        var origin = Columns.Parameter(
            ColumnType.Text,
            JsonSerializer.Serialize(
                new Dictionary<string, object> { [Field.Id] = new { at = now, from = Filling.QueryPrefix + Field.Asking!.Query.Id } }
            )
        );
        string Marked(int at) => Invariant($"{Sql.Origins} = (coalesce(t.{Sql.Origins}, '{{}}')::jsonb || ${at}::jsonb)::text");

        // A row that holds nothing says the same as none.
        await using (
            var first = Command(
                connection,
                transaction,
                $"INSERT INTO {FirstTable} (id) SELECT id FROM {Host} WHERE id = $1 ON CONFLICT (id) DO NOTHING",
                P(fill.Row)
            )
        )
            await first.ExecuteNonQueryAsync(cancel);
        if (IsFurther)
            await using (
                var further = Command(
                    connection,
                    transaction,
                    $"INSERT INTO {Table} (id) SELECT id FROM {FirstTable} WHERE id = $1 ON CONFLICT (id) DO NOTHING",
                    P(fill.Row)
                )
            )
                await further.ExecuteNonQueryAsync(cancel);
        var stands = names.Select((name, i) => Invariant($"{name} IS NOT DISTINCT FROM ${2 + count + i}"));
        var sets = Field
            .Columns.Select((column, i) => Invariant($"{Sql.Name(column.Name)} = ${2 + i}"))
            .Concat(IsFurther ? [] : [Marked(2 + (2 * count))]);
        var values = ParametersOf(fill.Given)
            .Concat(ParametersOf(fill.Now))
            .Concat(IsFurther ? [] : [origin])
            .Prepend(P(fill.Row))
            .ToList();
        await using var update = Command(
            connection,
            transaction,
            $"UPDATE {Table} t SET {string.Join(", ", sets)} WHERE t.id = $1 "
                + $"AND {string.Join(" AND ", stands)} RETURNING {string.Join(", ", names.Select(name => name + "::text"))}",
            values
        );
        if (await TextsAsync(update, cancel) is not { } after)
            return null;
        if (IsFurther)
            await using (
                var mark = Command(connection, transaction, $"UPDATE {FirstTable} t SET {Marked(2)} WHERE t.id = $1", P(fill.Row), origin)
            )
                await mark.ExecuteNonQueryAsync(cancel);
        return Pair(await AsTextAsync(transaction, fill.Now, cancel), after);
    }

    private async Task<string?[]?> TextsAsync(NpgsqlCommand command, CancellationToken cancel)
    {
        await using var reader = await command.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel)
            ? [.. Enumerable.Range(0, Field.Columns.Count).Select(i => reader.IsDBNull(i) ? null : reader.GetString(i))]
            : null;
    }

    private async Task<string?[]> AsTextAsync(NpgsqlTransaction transaction, Value value, CancellationToken cancel)
    {
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"SELECT {string.Join(", ", Field.Columns.Select((column, i) => Invariant($"${i + 1}::{column.Type.SqlType()}::text")))}",
            ParametersOf(value)
        );
        return (await TextsAsync(command, cancel))!;
    }
}
