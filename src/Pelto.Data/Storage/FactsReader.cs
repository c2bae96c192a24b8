using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Reads from the database what a plan has to know.</summary>
public sealed class FactsReader(NpgsqlDataSource source)
{
    private const string CommentPrefix = "field ";

    /// <summary>The comment that ties a column to the field that it was made for.</summary>
    public static string CommentFor(Field field) => CommentPrefix + field.Id;

    /// <summary>All facts for going from one catalogue to another: tables and rules, counts of records, and values that changed rules would refuse.</summary>
    public async Task<StorageFacts> ReadAsync(Catalogue live, Catalogue draft, CancellationToken cancel = default)
    {
        var facts = await ReadStorageAsync(draft, cancel);
        var touched = Touched(live, draft);
        var records = new Dictionary<string, long>(StringComparer.Ordinal);
        foreach (var type in draft.RecordTypes.Where(type => touched.Contains(type.Code))) records[type.Code] = await CountAsync(type, cancel);
        return facts with { Records = records };
    }

    /// <summary>The facts that decide what has to be done and whether it can be: without counts of records, which only people read.</summary>
    public async Task<StorageFacts> ReadStorageAsync(Catalogue draft, CancellationToken cancel = default)
    {
        var facts = await ReadTablesAsync(cancel);
        var misfits = new Dictionary<string, long>(StringComparer.Ordinal);
        foreach (var field in draft.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.AddedFields))
        {
            var changed = AddCheck.For(field).Where(check => !check.IsDone(facts)).Select(check => check.Check.Sql).ToList();
            if (changed.Count > 0 && facts.Added.TryGetValue(field.Part.Table, out var table) && table.Columns.TryGetValue(field.Code, out var column) && column.FieldId == field.Id)
                misfits[field.Id] = await ScalarAsync($"SELECT count(*) FROM {Sql.Table(Sql.Added, field.Part.Table)} WHERE NOT ({string.Join(" AND ", changed)})", cancel);
        }

        return facts with { Misfits = misfits };
    }

    /// <summary>Tables, columns and rules in schema <c>added</c>, without looking at any data.</summary>
    public async Task<StorageFacts> ReadTablesAsync(CancellationToken cancel = default)
    {
        var columns = new Dictionary<string, Dictionary<string, ColumnFacts>>(StringComparer.Ordinal);
        var checks = new Dictionary<string, List<CheckFacts>>(StringComparer.Ordinal);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var command = new NpgsqlCommand(
            """
            SELECT t.relname, a.attname, coalesce(col_description(t.oid, a.attnum), ''), format_type(a.atttypid, a.atttypmod)
            FROM pg_class t JOIN pg_namespace n ON n.oid = t.relnamespace JOIN pg_attribute a ON a.attrelid = t.oid
            WHERE n.nspname = 'added' AND t.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped;
            SELECT t.relname, c.conname, a.attname, c.convalidated
            FROM pg_constraint c JOIN pg_class t ON t.oid = c.conrelid JOIN pg_namespace n ON n.oid = t.relnamespace
            JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = c.conkey[1]
            WHERE n.nspname = 'added' AND c.contype = 'c';
            """, connection);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var comment = reader.GetString(2);
            var table = columns.TryGetValue(reader.GetString(0), out var known) ? known : columns[reader.GetString(0)] = new(StringComparer.Ordinal);
            table[reader.GetString(1)] = new(comment.StartsWith(CommentPrefix, StringComparison.Ordinal) ? comment[CommentPrefix.Length..] : "", Columns.TypeOf(reader.GetString(3)));
        }

        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var list = checks.TryGetValue(reader.GetString(0), out var known) ? known : checks[reader.GetString(0)] = [];
            list.Add(new(reader.GetString(1), reader.GetString(2), reader.GetBoolean(3)));
        }

        return StorageFacts.Nothing with
        {
            Added = columns.ToDictionary(pair => pair.Key, pair => new TableFacts(pair.Value, checks.GetValueOrDefault(pair.Key) ?? []), StringComparer.Ordinal),
        };
    }

    /// <summary>How many records a type has: exact for small tables, PostgreSQL's estimate for large ones, so that nobody waits for a count.</summary>
    public Task<long> CountAsync(RecordType type, CancellationToken cancel = default)
    {
        var table = Sql.Table(Sql.Erp, type.Header.Table);
        return ScalarAsync(
            $"""
            SELECT CASE WHEN (SELECT reltuples FROM pg_class WHERE oid = '{table}'::regclass) > 50000
                   THEN (SELECT reltuples::bigint FROM pg_class WHERE oid = '{table}'::regclass)
                   ELSE (SELECT count(*) FROM {table}) END
            """, cancel);
    }

    private static HashSet<string> Touched(Catalogue live, Catalogue draft) =>
        draft.Site.Fields.Where(field => live.Site.Find(field.Id) != field).Select(field => field.RecordType).ToHashSet(StringComparer.Ordinal);

    private async Task<long> ScalarAsync(string sql, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(sql);
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }
}
