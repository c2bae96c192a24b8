namespace Pelto.Core.Releases;

/// <summary>Makes the table of a part of a user-defined record type, with its counters.</summary>
public sealed record CreateOwnTable(Part Part) : PlanStep
{
    /// <inheritdoc/>
    public override string Description =>
        $"Makes a table for {Part.Plural.ToLowerInvariant()}{(Part.IsLines ? $" of {Part.RecordType.Plural.ToLowerInvariant()}" : "")}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.UserDefined.Contains(Part.Table);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) => [names.CreateTable(Part)];
}

/// <summary>Makes a table that holds what is added to a part, beside the host's own table.</summary>
/// <param name="Part">The part.</param>
/// <param name="Table">The table's name: see <see cref="AddedTables"/>.</param>
public sealed record CreateTable(Part Part, string Table) : PlanStep
{
    /// <inheritdoc/>
    public override string Description =>
        $"Makes a {(Table == Part.Table ? "" : "further ")}table for what is added to {Part.Plural.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Added.ContainsKey(Table);

    // The row beside a host row carries its key, and goes when that goes; a row of a further table hangs on the first one's in the same
    // way.
    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names)
    {
        var isFirst = Table == Part.Table;
        var (table, beside) = (names.Added(Table), isFirst ? names.TableOf(Part) : names.Added(Part.Table));
        var origins = isFirst ? $" {names.Origins} text," : "";
        yield return $"CREATE TABLE {table} (id bigint NOT NULL,{origins} CONSTRAINT {names.Name(Table + "_pkey")} PRIMARY KEY (id), "
            + $"CONSTRAINT {names.Name(Table + "_id_fkey")} FOREIGN KEY (id) REFERENCES {beside} (id) ON DELETE CASCADE);";
        var about = $"What the site added to {names.Called(Part)}{(isFirst ? "" : ", further columns")}.";
        yield return $"COMMENT ON TABLE {table} IS {names.Text(about)};";
        if (!isFirst)
            yield break;
        yield return $"COMMENT ON COLUMN {table}.{names.Origins} IS 'Where values come from that were filled and may be changed.';";
    }
}

/// <summary>Gives a table one more column. Takes a lock for a moment; on a busy table it steps back and tries again.</summary>
public sealed record AddColumn(Field Field, FieldColumn Column) : PlanStep
{
    /// <inheritdoc/>
    public override string Description => $"Adds a column for {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Column(Field.Table, Column.Name) is not null;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"ALTER TABLE {names.TableOf(Field)} ADD {names.Name(Column.Name)} {names.TypeOf(Column.Type)};",
            $"COMMENT ON COLUMN {names.TableOf(Field)}.{names.Name(Column.Name)} IS {names.Text(names.MarkOf(Field))};",
        ];
}

/// <summary>Writes the data of a field to a file that can be downloaded and read back, before its columns go.</summary>
public sealed record SaveData(Part Part, string Table, string FieldId, string Label, IReadOnlyList<string> Columns, string Definition)
    : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Saves the data of {Label} to a file.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => Columns.All(column => facts.Column(Table, column) is null);

    // Done by the program, which writes the file.
    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) => [];
}

/// <summary>Drops columns for good, once nobody works under a release that names them.</summary>
public sealed record DropColumns(Part Part, string Table, string FieldId, string Label, IReadOnlyList<string> Columns) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description =>
        $"Drops the {(Columns.Count == 1 ? "column" : "columns")} {string.Join(", ", Columns)} of {Part.Plural.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => Columns.All(column => facts.Column(Table, column) is null);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names)
    {
        foreach (var column in Columns)
            yield return $"DROP TRIGGER IF EXISTS {names.Name(KeepLinks.TriggerOf(column))} ON {names.Added(Table)}; "
                + $"DROP TABLE IF EXISTS {names.Linked(KeepLinks.TableOf(Part, column))};";
        var all = Columns.Select(column => $"DROP COLUMN IF EXISTS {names.Name(column)}");
        yield return $"ALTER TABLE {names.Added(Table)} {string.Join(", ", all)};";
    }
}
