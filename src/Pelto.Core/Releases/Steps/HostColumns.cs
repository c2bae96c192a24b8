namespace Pelto.Core.Releases;

/// <summary>
/// Gives a table of the sample ERP the columns of a field that its next version brings. With an ERP of one's own, its own set-up does this.
/// </summary>
public sealed record AddHostColumns(Field Field) : PlanStep
{
    /// <inheritdoc/>
    public override string Description =>
        $"Gives the ERP's table of {Field.Part.Plural.ToLowerInvariant()} a column for {Field.Label}, unless it has one from before.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => false;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) => names.AddColumns(Field);
}

/// <summary>Lets a column of the sample ERP be empty that its next version does not fill any more. What it holds stays.</summary>
public sealed record LeaveHostColumn(Field Field) : PlanStep
{
    /// <inheritdoc/>
    public override string Description => $"Leaves what {Field.Part.Plural.ToLowerInvariant()} hold in {Field.Label} in the ERP's table.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => false;

    /// <summary>What takes the storage of one version of the host to that of another.</summary>
    /// <param name="live">What is live.</param>
    /// <param name="draft">What is wanted.</param>
    public static IEnumerable<PlanStep> Between(Catalogue live, Catalogue draft)
    {
        if (live.Host.Version == draft.Host.Version)
            yield break;
        foreach (var field in BuiltIn(draft).Where(field => live.FindField(field.Id) is null))
            yield return new AddHostColumns(field);
        foreach (var field in BuiltIn(live).Where(field => draft.FindField(field.Id) is null))
            yield return new LeaveHostColumn(field);
    }

    private static IEnumerable<Field> BuiltIn(Catalogue catalogue) =>
        catalogue
            .RecordTypes.Where(type => type.Definition is null)
            .SelectMany(type => type.Parts)
            .SelectMany(part => part.Fields)
            .Where(field => !field.IsAdded);

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        names.Columns(Field).Select(column => $"ALTER TABLE {names.TableOf(Field.Part)} ALTER COLUMN {column} DROP NOT NULL;");
}
