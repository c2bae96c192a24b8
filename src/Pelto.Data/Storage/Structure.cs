using System.Text.Json;
using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>
/// What stands in the schemas that releases change: tables, columns, rules, indexes, triggers and sequences, each with what the database
/// says of it.
/// </summary>
/// <remarks>
/// A publishing writes it down before its first step. What takes it back is calculated from what is there then, whatever the steps were:
/// a step that is thought of later is taken back as well.
/// </remarks>
/// <param name="OfHost">True when the tables of the host are among it.</param>
/// <param name="Parts">All there is, in no order.</param>
public sealed record Structure(bool OfHost, IReadOnlyList<Structure.Part> Parts)
{
    /// <summary>One thing of a table, or a table, sequence or schema itself.</summary>
    /// <param name="Kind">
    /// What it is: <c>schema</c>, <c>table</c>, <c>column</c>, <c>rule</c>, <c>index</c>, <c>trigger</c> or <c>sequence</c>.
    /// </param>
    /// <param name="Schema">The schema that it is or stands in.</param>
    /// <param name="Table">Its table; of a sequence, the sequence.</param>
    /// <param name="Name">Its name; empty for schemas, tables and sequences.</param>
    /// <param name="Says">How the database would make it; of a column, whether it may be empty; of a rule that lasts, nothing.</param>
    /// <param name="IsSound">False for an index that cannot be used, and for a rule that rows on file were not held against.</param>
    public sealed record Part(string Kind, string Schema, string Table, string Name, string Says, bool IsSound)
    {
        internal string On => Sql.Table(Schema, Table);

        internal bool IsSame(Part other) => (Kind, Schema, Table, Name) == (other.Kind, other.Schema, other.Table, other.Name);
    }

    private const string Query = """
        WITH schemas AS (SELECT oid, nspname::text FROM pg_namespace WHERE nspname IN ('added', 'own', 'linked') OR (nspname = 'erp' AND $1)),
        tables AS (SELECT c.oid, n.nspname, c.relname::text, c.relkind FROM pg_class c JOIN schemas n ON n.oid = c.relnamespace)
        SELECT 'schema', nspname, '', '', '', true FROM schemas
        UNION ALL SELECT 'table', nspname, relname, '', '', true FROM tables WHERE relkind = 'r'
        UNION ALL SELECT 'sequence', nspname, relname, '', '', true FROM tables WHERE relkind = 'S'
        UNION ALL SELECT 'column', nspname, relname, a.attname, CASE WHEN a.attnotnull THEN 'NOT NULL' ELSE '' END, true
          FROM tables t JOIN pg_attribute a ON a.attrelid = t.oid WHERE t.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped
        UNION ALL SELECT 'rule', nspname, relname, c.conname, CASE WHEN nspname = 'added' AND relname || ' ' || c.conname = ANY($2) THEN '' ELSE regexp_replace(pg_get_constraintdef(c.oid), ' NOT VALID$', '') END, c.convalidated
          FROM tables t JOIN pg_constraint c ON c.conrelid = t.oid WHERE c.contype IN ('c', 'f')
        UNION ALL SELECT 'index', t.nspname, t.relname, x.relname, pg_get_indexdef(i.indexrelid), i.indisvalid
          FROM tables t JOIN pg_index i ON i.indrelid = t.oid JOIN pg_class x ON x.oid = i.indexrelid WHERE NOT EXISTS (SELECT FROM pg_constraint c WHERE c.conindid = i.indexrelid AND c.contype IN ('p', 'u', 'x'))
        UNION ALL SELECT 'trigger', nspname, relname, g.tgname, pg_get_triggerdef(g.oid), true
          FROM tables t JOIN pg_trigger g ON g.tgrelid = t.oid WHERE NOT g.tgisinternal
        """;

    /// <summary>Reads what stands there now.</summary>
    /// <param name="source">Where.</param>
    /// <param name="ofHost">True to read the tables of the host as well, which only an update of it changes.</param>
    /// <param name="lasting">
    /// The rules on what is added that no publishing takes off, each as its table and its name. What they say is not asked: of a table of
    /// hundreds of columns that takes the database a millisecond for each.
    /// </param>
    /// <param name="cancel">Stops it.</param>
    public static async Task<Structure> ReadAsync(
        NpgsqlDataSource source,
        bool ofHost,
        IEnumerable<string> lasting,
        CancellationToken cancel = default
    )
    {
        await using var command = source.CreateCommand(Query);
        command.Parameters.Add(new() { Value = ofHost });
        command.Parameters.Add(new() { Value = lasting.ToArray() });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var parts = new List<Part>();
        while (await reader.ReadAsync(cancel))
            parts.Add(
                new(
                    reader.GetString(0),
                    reader.GetString(1),
                    reader.GetString(2),
                    reader.GetString(3),
                    reader.GetString(4),
                    reader.GetBoolean(5)
                )
            );
        return new(ofHost, parts);
    }

    /// <summary>The rules of which it was not asked what they say.</summary>
    internal IEnumerable<string> Lasting =>
        Parts.Where(part => part is { Kind: "rule", Says.Length: 0 }).Select(part => NameOf(part.Table, part.Name));

    /// <summary>A rule among those that last.</summary>
    /// <param name="table">The table, in schema <c>added</c>.</param>
    /// <param name="rule">Its name.</param>
    public static string NameOf(string table, string rule) => $"{table} {rule}";

    /// <summary>As it is kept.</summary>
    public string ToJson() => JsonSerializer.Serialize(this);

    /// <summary>From what was kept.</summary>
    public static Structure FromJson(string json) => JsonSerializer.Deserialize<Structure>(json)!;

    /// <summary>
    /// The statements that make <paramref name="now"/> this again, in order; each can be repeated, and is a transaction of its own.
    /// </summary>
    public IEnumerable<string> From(Structure now)
    {
        var before = Parts.ToLookup(part => (part.Schema, part.Table));
        var there = now.Parts.ToLookup(part => (part.Schema, part.Table));
        bool Was(Part part) => before[(part.Schema, part.Table)].Any(part.IsSame);
        bool Stood(Part part) =>
            before[(part.Schema, part.Table)].Any(old => part.IsSame(old) && part.Says == old.Says && (part.IsSound || !old.IsSound));
        bool Stands(Part part) =>
            there[(part.Schema, part.Table)].Any(now => part.IsSame(now) && part.Says == now.Says && (now.IsSound || !part.IsSound));
        List<Part> Made(string kind) => [.. now.Parts.Where(part => part.Kind == kind && !Stood(part) && IsOnOld(part))];
        List<Part> Gone(string kind) => [.. Parts.Where(part => part.Kind == kind && !Stands(part))];

        // What stands on a table that is dropped goes with it.
        bool IsOnOld(Part part) =>
            part.Kind is "schema" or "table" or "sequence" || before[(part.Schema, part.Table)].Any(old => old.Kind == "table");

        foreach (var trigger in Made("trigger"))
        {
            yield return $"DROP TRIGGER IF EXISTS {Sql.Name(trigger.Name)} ON {trigger.On};";
            if (trigger.Name.StartsWith(TrackColumn.Prefix, StringComparison.Ordinal))
                yield return $"DELETE FROM pelto.conversion WHERE table_name = '{Quoted(trigger.Table)}' AND column_name = '{Quoted(trigger.Name[TrackColumn.Prefix.Length..])}';";
        }

        foreach (var rule in Made("rule"))
            yield return $"ALTER TABLE {rule.On} DROP CONSTRAINT IF EXISTS {Sql.Name(rule.Name)};";
        foreach (var index in Made("index"))
            yield return $"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(index.Schema, index.Name)};";
        foreach (var table in Made("column").Where(column => !Was(column)).GroupBy(column => column.On))
            yield return $"ALTER TABLE {table.Key} {string.Join(", ", table.Select(column => $"DROP COLUMN IF EXISTS {Sql.Name(column.Name)}"))};";
        if (Made("table") is { Count: > 0 } tables)
            yield return $"DROP TABLE IF EXISTS {string.Join(", ", tables.Select(table => table.On))};";
        if (Made("sequence") is { Count: > 0 } sequences)
            yield return $"DROP SEQUENCE IF EXISTS {string.Join(", ", sequences.Select(sequence => sequence.On))};";
        foreach (var schema in Made("schema"))
            yield return $"DROP SCHEMA IF EXISTS {Sql.Name(schema.Schema)};";

        foreach (var column in Gone("column").Where(column => there[(column.Schema, column.Table)].Any(column.IsSame)))
            yield return $"ALTER TABLE {column.On} ALTER COLUMN {Sql.Name(column.Name)} {(column.Says.Length > 0 ? "SET" : "DROP")} NOT NULL;";
        foreach (var rule in Gone("rule").Where(rule => rule.Says.Length > 0))
        {
            yield return $"ALTER TABLE {rule.On} DROP CONSTRAINT IF EXISTS {Sql.Name(rule.Name)}, ADD CONSTRAINT {Sql.Name(rule.Name)} {rule.Says} NOT VALID;";
            if (rule.IsSound)
                yield return $"ALTER TABLE {rule.On} VALIDATE CONSTRAINT {Sql.Name(rule.Name)};";
        }

        foreach (var index in Gone("index"))
        {
            yield return $"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(index.Schema, index.Name)};";
            yield return index.Says.Replace(" INDEX ", " INDEX CONCURRENTLY ", StringComparison.Ordinal) + ";";
        }

        foreach (var trigger in Gone("trigger"))
            yield return $"DROP TRIGGER IF EXISTS {Sql.Name(trigger.Name)} ON {trigger.On}; {trigger.Says};";
    }

    private static string Quoted(string text) => text.Replace("'", "''", StringComparison.Ordinal);
}
