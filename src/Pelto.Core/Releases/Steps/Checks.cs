namespace Pelto.Core.Releases;

/// <summary>Puts a rule on a column for all that is written from now on; rows on file are looked at afterwards, without a lock.</summary>
public sealed record AddCheck(Field Field, ColumnCheck Check) : PlanStep
{
    /// <summary>
    /// The constraint's name. It holds a digest of the rule, so that a changed rule is another constraint and a repeated step is seen as
    /// done.
    /// </summary>
    public string Name { get; } = $"{Field.Columns[0].Name}_{Check.Name}_{Digest(Check.Sql)}";

    /// <inheritdoc/>
    public override string Description => $"Has the database enforce the {Check.Name} of {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).Any(check => check.Name == Name);

    /// <summary>The rules that the database is to keep for an added field.</summary>
    public static IEnumerable<AddCheck> For(Field field) =>
        field.Kind.Checks(field.ColumnNames()).Select(check => new AddCheck(field, check));

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [$"ALTER TABLE {names.TableOf(Field)} ADD CONSTRAINT {names.Name(Name)} CHECK ({Check.Sql}) NOT VALID;"];
}

/// <summary>Looks whether the rows on file keep a rule, while people go on writing.</summary>
public sealed record ValidateCheck(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Checks the values of {Field.Label} on file against the rule.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).Any(check => check.Name == Name && check.IsValidated);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [$"ALTER TABLE {names.TableOf(Field)} VALIDATE CONSTRAINT {names.Name(Name)};"];
}

/// <summary>Takes a rule off a column, because another takes its place.</summary>
public sealed record DropCheck(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override string Description => $"Removes the earlier rule of {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).All(check => check.Name != Name);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [$"ALTER TABLE {names.TableOf(Field)} DROP CONSTRAINT {names.Name(Name)};"];
}
