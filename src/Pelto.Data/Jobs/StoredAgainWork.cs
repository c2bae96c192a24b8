using System.Text.Json;

namespace Pelto.Data.Jobs;

/// <summary>
/// Work that stores other values where something fills a field; what was stored before is kept, and comes back where what the job stored
/// still stands.
/// </summary>
internal abstract class StoredAgainWork(Field field) : JobWork(field)
{
    /// <summary>Stands between numbers and days that are put together.</summary>
    protected const char Mark = '|';

    /// <summary>What stood there and what was stored, column by column, as it is kept for undoing.</summary>
    protected static string Pair(IEnumerable<string?> before, IEnumerable<string?> after) => JsonSerializer.Serialize(before.Concat(after));

    private static string?[] Read(string before) =>
        before[0] == '#'
            ? [.. before[1..].Split(Mark).Select(text => text.Length == 0 ? null : text)]
            : JsonSerializer.Deserialize<string?[]>(before)!;

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        var pairs = befores!.Select(Read).ToList();
        var count = Field.Columns.Count;
        var sets = Field.Columns.Select((column, i) => $"{Sql.Name(column.Name)} = u.b{i}::{column.Type.SqlType()}");
        var stands = Field.Columns.Select((column, i) => $"t.{Sql.Name(column.Name)}::text IS NOT DISTINCT FROM u.v{i}");
        var columns = Enumerable.Range(0, count).Select(i => $"b{i}").Concat(Enumerable.Range(0, count).Select(i => $"v{i}"));
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"UPDATE {Table} t SET {string.Join(", ", sets)} FROM unnest($1::bigint[], "
                + $"{string.Join(", ", Enumerable.Range(2, 2 * count).Select(i => Invariant($"${i}::text[]")))}) AS u(id, "
                + $"{string.Join(", ", columns)}) WHERE t.id = u.id AND {string.Join(" AND ", stands)}",
            Enumerable
                .Range(0, 2 * count)
                .Select(i => Columns.Parameter(Core.Values.ColumnType.TextArray, pairs.Select(pair => pair[i]).ToArray()))
                .Prepend(P(ids))
        );
        await command.ExecuteNonQueryAsync(cancel);
    }
}
