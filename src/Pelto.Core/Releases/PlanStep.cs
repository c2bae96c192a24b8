using System.Security.Cryptography;
using System.Text;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Values;

namespace Pelto.Core.Releases;

/// <summary>
/// One thing to be done to storage. Each says itself in words, does one thing, knows whether it is done, and may be repeated.
/// </summary>
public abstract record PlanStep
{
    /// <summary>What it does, for people.</summary>
    public abstract string Says { get; }

    /// <summary>True when the database is already as this step leaves it.</summary>
    public abstract bool IsDone(StorageFacts facts);

    /// <summary>True when it takes a moment however large the table is, so that it can be done together with others.</summary>
    public virtual bool IsInstant => true;

    /// <summary>Eight figures that change when the text does, for names.</summary>
    protected static string Digest(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..8];
}

/// <summary>Makes the table of a part of a user-defined record type, with its counters.</summary>
public sealed record CreateOwnTable(Part Part) : PlanStep
{
    /// <inheritdoc/>
    public override string Says =>
        $"Makes a table for {Part.Plural.ToLowerInvariant()}{(Part.IsLines ? $" of {Part.RecordType.Plural.ToLowerInvariant()}" : "")}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Own.Contains(Part.Table);
}

/// <summary>Makes a table that holds what is added to a part, beside the host's own table.</summary>
/// <param name="Part">The part.</param>
/// <param name="Table">The table's name: see <see cref="AddedTables"/>.</param>
public sealed record CreateTable(Part Part, string Table) : PlanStep
{
    /// <inheritdoc/>
    public override string Says =>
        $"Makes a {(Table == Part.Table ? "" : "further ")}table for what is added to {Part.Plural.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Added.ContainsKey(Table);
}

/// <summary>Gives a table one more column. Takes a lock for a moment; on a busy table it steps back and tries again.</summary>
public sealed record AddColumn(Field Field, FieldColumn Column) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Adds a column for {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Column(Field.Table, Column.Name) is not null;
}

/// <summary>Takes a rule off a column, because another takes its place.</summary>
public sealed record DropCheck(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Takes the earlier rule off {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).All(check => check.Name != Name);
}

/// <summary>Puts a rule on a column for all that is written from now on; rows on file are looked at afterwards, without a lock.</summary>
public sealed record AddCheck(Field Field, ColumnCheck Check) : PlanStep
{
    /// <summary>
    /// The constraint's name. It holds a digest of the rule, so that a changed rule is another constraint and a repeated step is seen as
    /// done.
    /// </summary>
    public string Name { get; } = $"{Field.Columns[0].Name}_{Check.Name}_{Digest(Check.Sql)}";

    /// <inheritdoc/>
    public override string Says => $"Lets the database keep the {Check.Name} of {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).Any(check => check.Name == Name);

    /// <summary>The rules that the database is to keep for an added field.</summary>
    public static IEnumerable<AddCheck> For(Field field) =>
        field.Kind.Checks(field.ColumnNames()).Select(check => new AddCheck(field, check));
}

/// <summary>Looks whether the rows on file keep a rule, while people go on writing.</summary>
public sealed record ValidateCheck(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Looks through the records on file for values of {Field.Label} against the rule.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).Any(check => check.Name == Name && check.IsValidated);
}

/// <summary>Lets the database see to it that no two records have the same value; built while people go on writing.</summary>
public sealed record AddUnique(Field Field) : PlanStep
{
    /// <summary>The index's name.</summary>
    public string Name => $"{Field.Columns[0].Name}_unique_{Digest(Field.Table)}";

    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says =>
        $"Lets the database see to it that no two {Field.Part.Plural.ToLowerInvariant()} have the same {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.UniquesOf(Field).Contains(Name);
}

/// <summary>Allows the same value in several records again.</summary>
public sealed record DropUnique(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Lets several {Field.Part.Plural.ToLowerInvariant()} have the same {Field.Label} again.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => !facts.UniquesOf(Field).Contains(Name);
}

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
    public override string Says =>
        $"Lets the database see to it that {Field.Label} points to {Field.Target!.Plural.ToLowerInvariant()} that are there.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ReferencesOf(Field).Any(Keeps);

    /// <summary>True for a reference that does what this one is to do, whatever it is called.</summary>
    internal bool Keeps(ReferenceFacts reference) => reference.Keeps(Field, Clears);
}

/// <summary>Takes a reference off a link, because another takes its place.</summary>
public sealed record DropReference(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Takes the earlier reference off {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ReferencesOf(Field).All(reference => reference.Name != Name);
}

/// <summary>Looks whether the links on file point to something, while people go on writing.</summary>
public sealed record ValidateReference(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Looks through the records on file for what {Field.Label} points to.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) =>
        facts.ReferencesOf(Field).Any(reference => reference.Name == Name && reference.IsValidated);
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
    public override string Says =>
        $"Makes an index, so that {Target.Plural.ToLowerInvariant()} are found by {string.Join(" and ", Columns.Select(column => column.Label))} at once.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.FindIndexes.ContainsKey(Name);

    /// <summary>The indexes that a link needs: one for each table, the host's and those of what is added.</summary>
    public static IEnumerable<AddFindIndex> For(Field link) =>
        link
            .Finds.Where(field => field.IsFoundBy)
            .GroupBy(field => (field.IsAdded, field.Table))
            .Select(group => new AddFindIndex(link.Target!, [.. group]));
}

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
    public override string Says => $"Makes a table for what {Field.Label} points to.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.LinkTables.GetValueOrDefault(Table)?.Keeps(Field, Clears) == true;

    /// <summary>The name of the table for a column with several links.</summary>
    public static string TableOf(Part part, string column) =>
        $"{part.Table}__{column}" is { Length: <= LongestName } name ? name : $"{part.Table}__{Digest(column)}";
}

/// <summary>Looks through what several links point to on file, while people go on working.</summary>
/// <param name="Field">The field.</param>
/// <param name="Name">The name of the foreign key.</param>
public sealed record ValidateLinks(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Makes sure that everything that {Field.Label} points to is there.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) =>
        facts.LinkTables.GetValueOrDefault(new KeepLinks(Field).Table) is { IsValidated: true } kept && kept.Name == Name;
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
    public override string Says => $"Makes an index, so that lists find and sort by {Field.Label} at once.";

    // Only what is stored: an index of a live field reads no other live one (see Indexing.Refuse).
    private static string Over(Field field) =>
        !field.IsLive
            ? ColumnsOf(field)
            : $"{field.Formula!.Text} of ({string.Join("; ", field.Formula!.Reads.OrderBy(read => read.Id, StringComparer.Ordinal).Select(ColumnsOf))})";

    private static string ColumnsOf(Field field) => string.Join(' ', field.Columns.Select(column => $"{column.Name} {column.Type}"));

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.FindIndexes.ContainsKey(Name);
}

/// <summary>Drops an index by which nothing is found any more.</summary>
public sealed record DropFindIndex(string Schema, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => "Drops an index that nothing is found by any more.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => !facts.FindIndexes.ContainsKey(Name);
}

/// <summary>Makes an index for a link, built while people go on writing: for what points to a record, and for deleting one.</summary>
public sealed record AddLinkIndex(Field Field) : PlanStep
{
    /// <summary>The index's name.</summary>
    public string Name => $"{Field.Columns[0].Name}_links_{Digest(Field.Table)}";

    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Makes an index for {Field.Label}, so that what points to a record is found at once.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Table(Field)?.LinkIndexes.Contains(Name) == true;
}

/// <summary>Has every change of a column written down from now on, while its values are carried to another.</summary>
public sealed record TrackColumn(Field From, Field To) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Has changes of {From.Label} written down while its values are carried over.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Table(From)?.Tracked.Contains(From.Columns[0].Name) == true;
}

/// <summary>
/// Turns the values of a field into another kind, from one column to another, a thousand rows at a time while people work.
/// </summary>
public sealed record CarryValues(Field From, Field To) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says =>
        $"Carries the values of {From.Label} over, from {From.Kind.Label.ToLowerInvariant()} to {To.Kind.Label.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => false;
}

/// <summary>Carries over what was still written under the earlier release, and ends the writing down.</summary>
public sealed record FinishCarrying(Field From, Field To) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Carries over what was written to {From.Label} in the meantime.";

    // Also where the writing down has ended: what was written down before may be left, when a server died in between.
    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => false;
}

/// <summary>Writes the data of a field to a file that can be downloaded and read back, before its columns go.</summary>
public sealed record SaveData(Part Part, string Table, string FieldId, string Label, IReadOnlyList<string> Columns, string Definition)
    : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Saves the data of {Label} to a file.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => Columns.All(column => facts.Column(Table, column) is null);
}

/// <summary>Drops columns for good, once nobody works under a release that names them.</summary>
public sealed record DropColumns(Part Part, string Table, string FieldId, string Label, IReadOnlyList<string> Columns) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says =>
        $"Drops the {(Columns.Count == 1 ? "column" : "columns")} {string.Join(", ", Columns)} of {Part.Plural.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => Columns.All(column => facts.Column(Table, column) is null);
}
