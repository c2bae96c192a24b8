using System.Text.Json;
using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Core.Fills;
using Pelto.Core.Values;
using Pelto.Data.Records;
using Pelto.Data.Storage;

namespace Pelto.Data.Jobs;

/// <summary>Asks the query of a field again for the records on file, one after the other, and stores what it gives where something else is stored.</summary>
/// <param name="field">The field.</param>
/// <param name="fills">Asks.</param>
/// <param name="now">When.</param>
internal sealed class QueryRefillWork(Field field, QueryFills fills, DateTime now) : StoredAgainWork(field)
{
    // All are asked for first, and stored in one go: nobody waits for a query that somebody else's record is asked for.
    private const int Together = 50;

    // Each record is looked at once; what changes while that goes on is asked for by whoever changes it.
    public override Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel) => Task.FromResult(0L);

    public override async Task<long> EstimateAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var command = Command(connection, null, $"SELECT count(*) FROM {Sql.Base(Field.Part.RecordType.Header)}");
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var records = new List<long>();
        await using (var next = Command(transaction.Connection!, transaction, $"SELECT id FROM {Sql.Base(Field.Part.RecordType.Header)} WHERE id > $1 ORDER BY id LIMIT {Together}", P(reached)))
        await using (var reader = await next.ExecuteReaderAsync(cancel))
            while (await reader.ReadAsync(cancel)) records.Add(reader.GetInt64(0));
        if (records.Count == 0) return new(reached, 0, []);
        var differing = new List<QueryFill>();
        foreach (var record in records)
        {
            var given = await fills.OfAsync(transaction, Field, record, cancel);
            if (given.FirstOrDefault(fill => fill is { IsStopped: true, Given.IsError: true }) is { } stopped) throw new JobEndedException($"{stopped.Given.Reason} It was not asked any further.");
            differing.AddRange(given.Where(fill => !fill.Given.IsError && fill.Now != fill.Given));
        }

        var (ids, befores) = (new List<long>(), new List<string>());
        foreach (var fill in differing.OrderBy(fill => fill.Row))
        {
            if (await StoreAsync(transaction, fill, cancel) is not { } kept) continue;
            ids.Add(fill.Row);
            befores.Add(kept);
        }

        return new(records[^1], records.Count, [.. ids], [.. befores]);
    }

    // Null where somebody saved it meanwhile.
    private async Task<string?> StoreAsync(NpgsqlTransaction transaction, QueryFill fill, CancellationToken cancel)
    {
        var count = Field.Columns.Count;
        var names = Columns.Quoted(Field, "t.").ToList();
        var origin = JsonSerializer.Serialize(new Dictionary<string, object> { [Field.Id] = new { at = now, from = Filling.QueryPrefix + Field.Asking!.Query.Id } });
        var stands = names.Select((name, i) => RecordLists.Inv($"{name} IS NOT DISTINCT FROM ${2 + count + i}"));
        var sets = Field.Columns.Select((column, i) => RecordLists.Inv($"{Sql.Name(column.Name)} = ${2 + i}")).Append(RecordLists.Inv($"{Sql.Origins} = (coalesce(t.{Sql.Origins}, '{{}}')::jsonb || ${2 + (2 * count)}::jsonb)::text"));
        var returned = string.Join(", ", names.Select(name => name + "::text"));
        var values = Kept(fill.Given).Concat(Kept(fill.Now)).Append(Columns.Parameter(ColumnType.Text, origin)).Prepend(P(fill.Row)).ToList();
        await using var update = Command(transaction.Connection!, transaction, $"UPDATE {Table} t SET {string.Join(", ", sets)} WHERE t.id = $1 AND {string.Join(" AND ", stands)} RETURNING {returned}", values);
        if (await TextsAsync(update, cancel) is { } after) return Pair(await AsTextAsync(transaction, fill.Now, cancel), after);
        if (!fill.Now.IsEmpty) return null;
        var inserted = Kept(fill.Given).Append(Columns.Parameter(ColumnType.Text, origin)).Prepend(P(fill.Row)).ToList();
        await using var insert = Command(transaction.Connection!, transaction, $"INSERT INTO {Table} AS t (id, {Names()}, {Sql.Origins}) VALUES ({string.Join(", ", inserted.Select((_, i) => RecordLists.Inv($"${i + 1}")))}) ON CONFLICT (id) DO NOTHING RETURNING {returned}", inserted);
        return await TextsAsync(insert, cancel) is { } fresh ? Pair(new string?[count], fresh) : null;
    }

    private async Task<string?[]?> TextsAsync(NpgsqlCommand command, CancellationToken cancel)
    {
        await using var reader = await command.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel) ? [.. Enumerable.Range(0, Field.Columns.Count).Select(i => reader.IsDBNull(i) ? null : reader.GetString(i))] : null;
    }

    private async Task<string?[]> AsTextAsync(NpgsqlTransaction transaction, Value value, CancellationToken cancel)
    {
        await using var command = Command(transaction.Connection!, transaction, $"SELECT {string.Join(", ", Field.Columns.Select((column, i) => RecordLists.Inv($"${i + 1}::{column.Type.SqlType()}::text")))}", Kept(value));
        return (await TextsAsync(command, cancel))!;
    }
}
