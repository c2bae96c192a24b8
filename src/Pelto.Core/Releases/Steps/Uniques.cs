namespace Pelto.Core.Releases;

/// <summary>Has the database enforce that no two records have the same value; built while people go on writing.</summary>
public sealed record AddUnique(Field Field) : PlanStep
{
    /// <summary>The index's name.</summary>
    public string Name => $"{Field.Columns[0].Name}_unique_{Digest(Field.Table)}";

    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description =>
        $"Has the database enforce that no two {Field.Part.Plural.ToLowerInvariant()} have the same {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.UniquesOf(Field).Contains(Name);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"DROP INDEX CONCURRENTLY IF EXISTS {names.Added(Name)};",
            $"CREATE UNIQUE INDEX CONCURRENTLY {names.Name(Name)} ON {names.TableOf(Field)} ({string.Join(", ", names.Columns(Field))});",
        ];
}

/// <summary>Allows the same value in several records again.</summary>
public sealed record DropUnique(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Lets several {Field.Part.Plural.ToLowerInvariant()} have the same {Field.Label} again.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => !facts.UniquesOf(Field).Contains(Name);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) => [$"DROP INDEX CONCURRENTLY IF EXISTS {names.Added(Name)};"];
}
