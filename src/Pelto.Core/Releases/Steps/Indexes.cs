using Pelto.Core.Formulas;

namespace Pelto.Core.Releases;

/// <summary>Makes an index for a link, built while people go on writing: for what points to a record, and for deleting one.</summary>
public sealed record AddLinkIndex(Field Field) : PlanStep
{
    /// <summary>The index's name.</summary>
    public string Name => $"{Field.Columns[0].Name}_links_{Digest(Field.Table)}";

    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Makes an index for {Field.Label}, so that what points to a record is found at once.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Table(Field)?.LinkIndexes.Contains(Name) == true;

    /// <inheritdoc/>
    public override bool IsDroppedWhenCutOff => true;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"DROP INDEX CONCURRENTLY IF EXISTS {names.Added(Name)};",
            $"CREATE INDEX CONCURRENTLY {names.Name(Name)} ON {names.TableOf(Field)} ({names.Column(Field)});",
        ];
}

/// <summary>Makes an index by which links find records by more than number and name, built while people go on writing.</summary>
/// <param name="Target">What is found.</param>
/// <param name="Columns">By what; all of the host's own table (then number and name stand in it too) or all of one table beside it.</param>
public sealed record AddFindIndex(RecordType Target, IReadOnlyList<Field> Columns) : PlanStep
{
    /// <summary>The index's name.</summary>
    public string Name =>
        $"{Target.Header.Table}_find_{Digest(string.Join(' ', Columns.Select(column => (column.IsAdded ? "+" : "") + column.Columns[0].Name)))}";

    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description =>
        $"Makes an index, so that {Target.Plural.ToLowerInvariant()} are found by "
        + $"{string.Join(" and ", Columns.Select(column => column.Label))} at once.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.FindIndexes.ContainsKey(Name);

    /// <summary>The indexes that a link needs: one for each table, the host's and those of what is added.</summary>
    public static IEnumerable<AddFindIndex> For(Field link) =>
        link
            .Finds.Where(field => field.IsFoundBy)
            .GroupBy(field => (field.IsAdded, field.Table))
            .Select(group => new AddFindIndex(link.Target!, [.. group]));

    /// <inheritdoc/>
    public override bool IsDroppedWhenCutOff => true;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"DROP INDEX CONCURRENTLY IF EXISTS {names.IndexOf(this)};",
            $"CREATE INDEX CONCURRENTLY {names.Name(Name)} ON {names.TableOf(Columns[0])} USING gin ({names.FindsBy(this)} gin_trgm_ops);",
        ];
}

/// <summary>Makes an index for lists that are held to a field or put in its order, built while people go on writing.</summary>
public sealed record AddListIndex(Field Field) : PlanStep
{
    /// <summary>
    /// The index's name. It holds a digest of what is indexed, so that another formula, or the same over other columns, is another index.
    /// </summary>
    public string Name => $"{Field.Columns[0].Name}_list_{Digest($"{Field.Table} {Field.Kind.Name} {Over(Field)}")}";

    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Makes an index, so that lists find and sort by {Field.Label} at once.";

    // Only what is stored: an index of a live field reads no other live one (see Indexing.Refuse).
    private static string Over(Field field) =>
        !field.IsLive
            ? ColumnsOf(field)
            : $"{field.Formula!.Text} of ({string.Join("; ", field.Formula!.Reads.OrderBy(read => read.Id, StringComparer.Ordinal).Select(ColumnsOf))})";

    private static string ColumnsOf(Field field) => string.Join(' ', field.Columns.Select(column => $"{column.Name} {column.Type}"));

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.FindIndexes.ContainsKey(Name);

    /// <inheritdoc/>
    public override bool IsDroppedWhenCutOff => true;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"DROP INDEX CONCURRENTLY IF EXISTS {names.IndexOf(this)};",
            $"CREATE INDEX CONCURRENTLY {names.Name(Name)} ON {names.ListedIn(Field)} (({names.ListedBy(Field)}));",
            $"ANALYZE {names.ListedIn(Field)};",
        ];
}

/// <summary>Drops an index by which nothing is found any more.</summary>
public sealed record DropFindIndex(string Schema, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => "Drops an index that is no longer used.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => !facts.FindIndexes.ContainsKey(Name);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) => [$"DROP INDEX CONCURRENTLY IF EXISTS {Schema}.{names.Name(Name)};"];
}
