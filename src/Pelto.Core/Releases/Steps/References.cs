namespace Pelto.Core.Releases;

/// <summary>
/// Makes a link a true reference for all that is written from now on: it cannot point to nothing. Rows on file are looked at afterwards,
/// without a lock.
/// </summary>
public sealed record AddReference(Field Field) : PlanStep
{
    /// <summary>
    /// The constraint's name: another one when the link points elsewhere, or something else follows deleting what it points to.
    /// </summary>
    public string Name => $"{Field.Columns[0].Name}_link_{Digest($"{Field.Target!.Header.Table} {(Clears ? "clears" : "stays")}")}";

    /// <summary>True when deleting what it points to empties the link, rather than being refused.</summary>
    public bool Clears => Field.Kind.ClearsWithTarget;

    /// <inheritdoc/>
    public override string Description =>
        $"Has the database enforce that {Field.Label} points to existing {Field.Target!.Plural.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ReferencesOf(Field).Any(Keeps);

    /// <summary>True for a reference that does what this one is to do, whatever it is called.</summary>
    internal bool Keeps(ReferenceFacts reference) => reference.Keeps(Field, Clears);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"ALTER TABLE {names.TableOf(Field)} ADD CONSTRAINT {names.Name(Name)} FOREIGN KEY ({names.Column(Field)}) "
                + $"REFERENCES {names.TargetOf(Field)}{(Clears ? " ON DELETE SET NULL" : "")} NOT VALID;",
        ];
}

/// <summary>Looks whether the links on file point to something, while people go on writing.</summary>
public sealed record ValidateReference(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Checks what {Field.Label} points to on the records on file.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) =>
        facts.ReferencesOf(Field).Any(reference => reference.Name == Name && reference.IsValidated);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [$"ALTER TABLE {names.TableOf(Field)} VALIDATE CONSTRAINT {names.Name(Name)};"];
}

/// <summary>Takes a reference off a link, because another takes its place.</summary>
public sealed record DropReference(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override string Description => $"Removes the earlier reference of {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ReferencesOf(Field).All(reference => reference.Name != Name);

    // Whoever saves locks what is pointed to first; in the other order both would wait for each other.
    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"DO $$ BEGIN LOCK TABLE {names.TargetOf(Field)} IN ACCESS EXCLUSIVE MODE; "
                + $"ALTER TABLE {names.TableOf(Field)} DROP CONSTRAINT IF EXISTS {names.Name(Name)}; END $$;",
        ];
}
