namespace Pelto.Core.Releases;

/// <summary>
/// Makes the table in which the database keeps what a field with several links points to, with a foreign key for each; or changes what
/// deleting a target does.
/// </summary>
public sealed record KeepLinks(Field Field) : PlanStep
{
    private const int LongestName = 63;

    /// <summary>The table's name, in schema <c>linked</c>.</summary>
    public string Table => TableOf(Field.Part, Field.Columns[0].Name);

    /// <summary>The name of the foreign key.</summary>
    public string Name => $"target_{Digest($"{Field.Target!.Header.Table} {(Clears ? "clears" : "stays")}")}";

    /// <summary>True when deleting what it points to takes that away here, rather than being refused.</summary>
    public bool Clears => Field.Kind.ClearsWithTarget;

    /// <inheritdoc/>
    public override string Description => $"Makes a table for what {Field.Label} points to.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.LinkTables.GetValueOrDefault(Table)?.Keeps(Field, Clears) == true;

    /// <summary>The name of the table for a column with several links.</summary>
    public static string TableOf(Part part, string column) =>
        $"{part.Table}__{column}" is { Length: <= LongestName } name ? name : $"{part.Table}__{Digest(column)}";

    // The column holds what people read and write, in order; from it, the database itself keeps the table, whose foreign key holds what is
    // pointed to. Whoever saves locks what is pointed to first; in the other order both would wait for each other.
    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names)
    {
        var (table, target) = (names.Linked(Table), names.TargetOf(Field));
        var (column, at) = (Field.Columns[0].Name, names.Text(names.Linked(Table)) + "::regclass");
        return
        [
            $"CREATE SCHEMA IF NOT EXISTS {names.LinkedSchema};",
            $"CREATE TABLE IF NOT EXISTS {table} (owner bigint NOT NULL REFERENCES {names.TableOf(Field)} ON DELETE CASCADE, "
                + "position integer NOT NULL, target bigint NOT NULL, PRIMARY KEY (owner, target));",
            $"CREATE INDEX IF NOT EXISTS {names.Name(Table + "_target")} ON {table} (target);",
            $"""
                DO $$ DECLARE other text; BEGIN
                  FOR other IN SELECT conname FROM pg_constraint c JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attname = 'target'
                    WHERE c.conrelid = {at} AND c.contype = 'f' AND c.conkey = ARRAY[a.attnum] LOOP
                    LOCK TABLE {target} IN ACCESS EXCLUSIVE MODE;
                    EXECUTE format('ALTER TABLE %s DROP CONSTRAINT %I', {at}, other);
                  END LOOP;
                  ALTER TABLE {table} ADD CONSTRAINT {names.Name(Name)} FOREIGN KEY (target) REFERENCES {target}{(
                    Clears ? " ON DELETE CASCADE" : ""
                )} NOT VALID;
                END $$;
                """,
            $"CREATE OR REPLACE TRIGGER {names.Name(TriggerOf(column))} AFTER INSERT OR "
                + $"UPDATE OF {names.Column(Field)} ON {names.TableOf(Field)} "
                + $"FOR EACH ROW EXECUTE FUNCTION pelto.keep_links({names.Text(Table)}, {names.Text(column)});",
            $"CREATE OR REPLACE TRIGGER release AFTER DELETE ON {table} "
                + $"FOR EACH ROW EXECUTE FUNCTION pelto.release_link({names.Text(Field.Table)}, {names.Text(column)});",
        ];
    }

    /// <summary>The name of the trigger that keeps the table of a column.</summary>
    internal static string TriggerOf(string column) => "links_" + column;
}

/// <summary>Looks through what several links point to on file, while people go on working.</summary>
/// <param name="Field">The field.</param>
/// <param name="Name">The name of the foreign key.</param>
public sealed record ValidateLinks(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Makes sure that everything that {Field.Label} points to exists.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) =>
        facts.LinkTables.GetValueOrDefault(new KeepLinks(Field).Table) is { IsValidated: true } stored && stored.Name == Name;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [$"ALTER TABLE {names.Linked(new KeepLinks(Field).Table)} VALIDATE CONSTRAINT {names.Name(Name)};"];
}
