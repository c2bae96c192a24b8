using Pelto.Core.Access;

namespace Pelto.Core.Releases;

/// <summary>A column of an added table as it is in the database.</summary>
/// <param name="FieldId">The lasting id of the field that it was made for, kept in the column's comment.</param>
/// <param name="Type">Its type; null for a type that no kind has.</param>
public sealed record ColumnFacts(string FieldId, ColumnType? Type);

/// <summary>A rule of an added table as it is in the database.</summary>
/// <param name="Name">The constraint's name.</param>
/// <param name="Column">The column that it is about; the first one when it is about several.</param>
/// <param name="IsValidated">True once all rows are known to keep it.</param>
public sealed record CheckFacts(string Name, string Column, bool IsValidated);

/// <summary>A foreign key of what is added, as it is in the database.</summary>
/// <param name="Name">The constraint's name.</param>
/// <param name="Column">The column that points.</param>
/// <param name="IsValidated">True once all rows are known to keep it.</param>
/// <param name="Target">The table that it points to.</param>
/// <param name="Clears">True when deleting what it points to takes the pointing away, rather than being refused.</param>
public sealed record ReferenceFacts(string Name, string Column, bool IsValidated, string Target, bool Clears)
{
    /// <summary>True when it keeps what a link is to point to, whatever it is called.</summary>
    internal bool Keeps(Field link, bool clears) => Target == link.Target!.Header.Table && Clears == clears;
}

/// <summary>A table in schema <c>added</c> as it is in the database.</summary>
/// <param name="Columns">Its columns by name.</param>
/// <param name="Checks">Its rules.</param>
/// <param name="Uniques">Names of its unique indexes that hold, with the first column of each.</param>
/// <param name="Tracked">Names of columns whose changes are written down while their values are carried to another column.</param>
public sealed record TableFacts(
    IReadOnlyDictionary<string, ColumnFacts> Columns,
    IReadOnlyList<CheckFacts> Checks,
    IReadOnlyDictionary<string, string> Uniques,
    IReadOnlySet<string> Tracked
)
{
    /// <summary>Its references to other tables: those of its links.</summary>
    public IReadOnlyList<ReferenceFacts> References { get; init; } = [];

    /// <summary>Names of the indexes of its links that can be used.</summary>
    public IReadOnlySet<string> LinkIndexes { get; init; } = new HashSet<string>();

    private readonly IReadOnlyList<CheckFacts> checks = Checks;
    private readonly Lazy<ILookup<string, CheckFacts>> byColumn = ByColumn(Checks);

    /// <summary>The rules that the database keeps on its columns.</summary>
    public IReadOnlyList<CheckFacts> Checks
    {
        get => checks;
        init => (checks, byColumn) = (value, ByColumn(value));
    }

    private static Lazy<ILookup<string, CheckFacts>> ByColumn(IReadOnlyList<CheckFacts> checks) =>
        new(() => checks.ToLookup(check => check.Column, StringComparer.Ordinal));

    /// <summary>The rules on a column.</summary>
    internal IEnumerable<CheckFacts> ChecksOn(string column) => byColumn.Value[column];

    /// <summary>
    /// How many columns it has had so far, with those that were dropped: each counts for the most that the database keeps.
    /// </summary>
    public int Used { get; init; }

    /// <summary>A table without anything.</summary>
    public static TableFacts Bare { get; } =
        new(new Dictionary<string, ColumnFacts>(), [], new Dictionary<string, string>(), new HashSet<string>());
}

/// <summary>What became of the values of a field when they were turned into another kind.</summary>
/// <param name="Converts">How many can be turned.</param>
/// <param name="Fails">How many cannot, and become empty.</param>
/// <param name="Examples">Some of those, with the record that holds each and why it cannot be turned.</param>
public sealed record Conversions(long Converts, long Fails, IReadOnlyList<(long Record, string Text, string Why)> Examples);

/// <summary>What the database holds, as far as a plan has to know.</summary>
/// <param name="Added">The tables in schema <c>added</c>, by name.</param>
/// <param name="Records">
/// How many records there are of each type that the draft touches, by its code; an estimate above some ten thousand.
/// </param>
/// <param name="Misfits">How many values a changed rule would refuse, by the id of the field.</param>
public sealed record StorageFacts(
    IReadOnlyDictionary<string, TableFacts> Added,
    IReadOnlyDictionary<string, long> Records,
    IReadOnlyDictionary<string, long> Misfits
)
{
    /// <summary>A database to which nothing was added.</summary>
    public static StorageFacts Nothing { get; } =
        new(new Dictionary<string, TableFacts>(), new Dictionary<string, long>(), new Dictionary<string, long>());

    /// <summary>Names of the tables of user-defined record types.</summary>
    public IReadOnlySet<string> UserDefined { get; init; } = new HashSet<string>();

    /// <summary>The foreign keys by which tables of links hold what they point to: each table's by its name.</summary>
    public IReadOnlyDictionary<string, ReferenceFacts> LinkTables { get; init; } = new Dictionary<string, ReferenceFacts>();

    /// <summary>
    /// The indexes by which links find records by more than number and name, and lists what they are held to, if they can be used: the
    /// schema of each by its name.
    /// </summary>
    public IReadOnlyDictionary<string, string> FindIndexes { get; init; } = new Dictionary<string, string>();

    /// <summary>How many values appear more than once in a field that becomes unique, by its id.</summary>
    public IReadOnlyDictionary<string, long> Doubles { get; init; } = new Dictionary<string, long>();

    /// <summary>What a change of kind makes of the values on file, by the id of the field.</summary>
    public IReadOnlyDictionary<string, Conversions> Conversions { get; init; } = new Dictionary<string, Conversions>();

    /// <summary>How many records hold a choice that is merged, by the id of the field and the choice's code.</summary>
    public IReadOnlyDictionary<(string Field, string Choice), long> Merged { get; init; } = new Dictionary<(string, string), long>();

    /// <summary>How many records hold a value, for fields that leave, by their id.</summary>
    public IReadOnlyDictionary<string, long> Filled { get; init; } = new Dictionary<string, long>();

    /// <summary>
    /// The same without what somebody may not be told of values on file: how many there are, and what would become of them.
    /// </summary>
    /// <param name="viewer">For whom.</param>
    /// <param name="draft">The catalogue that is planned.</param>
    /// <param name="live">What is live.</param>
    public StorageFacts For(Viewer viewer, Catalogue draft, Catalogue live)
    {
        bool IsTold(string id) =>
            (draft.FindField(id) ?? live.FindField(id)) is { } field ? viewer.ReadsAll(field, live) : AdminRights.All(viewer);
        return this with
        {
            Records = Records
                .Where(pair => (draft.Find(pair.Key) ?? live.Find(pair.Key)) is { } type && viewer.ReadsAll(type, live))
                .ToDictionary(),
            Misfits = Misfits.Where(pair => IsTold(pair.Key)).ToDictionary(),
            Doubles = Doubles.Where(pair => IsTold(pair.Key)).ToDictionary(),
            Conversions = Conversions.Where(pair => IsTold(pair.Key)).ToDictionary(),
            Merged = Merged.Where(pair => IsTold(pair.Key.Field)).ToDictionary(),
            Filled = Filled.Where(pair => IsTold(pair.Key)).ToDictionary(),
        };
    }

    internal TableFacts? Table(Field field) => Added.GetValueOrDefault(field.Table);

    internal ColumnFacts? Column(string table, string name) => Added.GetValueOrDefault(table)?.Columns.GetValueOrDefault(name);

    /// <summary>
    /// The columns beside a part that were made for a field, by the comment that ties them to it: those of earlier kinds too, and in
    /// whichever table.
    /// </summary>
    public IEnumerable<(string Table, IReadOnlyList<string> Columns)> MadeFor(string fieldId, Part part) =>
        Added
            .Where(table => AddedTables.IsOf(table.Key, part))
            .Select(table =>
                (
                    table.Key,
                    (IReadOnlyList<string>)
                        [.. table.Value.Columns.Where(column => column.Value.FieldId == fieldId).Select(column => column.Key)]
                )
            )
            .Where(made => made.Item2.Count > 0);

    internal bool Has(Field field) => field.Columns.All(column => Column(field.Table, column.Name) is not null);

    internal IEnumerable<CheckFacts> ChecksOf(Field field) =>
        Table(field) is { } table ? field.Columns.SelectMany(column => table.ChecksOn(column.Name)) : [];

    internal IEnumerable<ReferenceFacts> ReferencesOf(Field field) =>
        Table(field)?.References.Where(reference => field.Columns.Any(column => column.Name == reference.Column)) ?? [];

    internal IEnumerable<string> UniquesOf(Field field) =>
        Table(field)?.Uniques.Where(index => field.Columns.Any(column => column.Name == index.Value)).Select(index => index.Key) ?? [];
}
