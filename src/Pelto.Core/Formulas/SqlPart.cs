namespace Pelto.Core.Formulas;

/// <summary>A part of a formula as SQL: what it gives, NULL for empty, and when it gives no value but an error.</summary>
/// <param name="Text">The value; never raises an error of the database.</param>
/// <param name="Fails">A condition, never NULL, under which it is an error; null when it cannot be.</param>
/// <param name="Lacks">
/// A condition, never NULL, under which that error is of the kind that found nothing to give; null when it cannot be.
/// </param>
/// <param name="Unit">The currency of money, the unit of a quantity; null for all else.</param>
/// <param name="IsNullThere">True when the value is known to be NULL wherever it fails, so that nobody has to make it so.</param>
public readonly record struct SqlPart(
    string Text,
    string? Fails = null,
    string? Lacks = null,
    string? Unit = null,
    bool IsNullThere = false
)
{
    /// <summary>Yes or no, where empty counts as no.</summary>
    public string DataType => $"coalesce({Text}, false)";

    /// <summary>What it gives, and its unit, NULL where it fails.</summary>
    public (string Text, string? Unit) Unfailing => (OrNull(Text)!, OrNull(Unit));

    private string? OrNull(string? text) =>
        Fails is { } fails && text is not null && !IsNullThere ? $"CASE WHEN {fails} THEN NULL ELSE {text} END" : text;

    /// <summary>A condition under which any of these fails; null when none can.</summary>
    public static string? Any(params IEnumerable<string?> fails) =>
        fails.OfType<string>().ToList() is { Count: > 0 } some ? $"({string.Join(" OR ", some)})" : null;

    /// <summary>
    /// The same value with the errors of what it is calculated from: the first that fails decides of which kind the error is.
    /// </summary>
    /// <param name="parts">What it is calculated from, in order.</param>
    /// <param name="own">When it fails itself.</param>
    public SqlPart After(IReadOnlyList<SqlPart> parts, string? own = null)
    {
        string? missing = Lacks;
        for (var i = parts.Count - 1; i >= 0; i--)
        {
            if (missing is not null && parts[i].Fails is { } before)
                missing = $"(NOT {before} AND {missing})";
            missing = Any(parts[i].Lacks, missing);
        }

        return this with
        {
            Fails = Any([.. parts.Select(part => part.Fails), own]),
            Lacks = missing,
        };
    }
}

/// <summary>The row that a formula is about, or one of the rows that it goes over, in SQL.</summary>
public abstract class SqlRow
{
    /// <summary>The id of the row.</summary>
    public abstract string Id { get; }

    /// <summary>Names a column of a field of this row, by its suffix.</summary>
    public abstract string Column(Field field, string suffix);

    /// <summary>
    /// What a live field gives on this row, NULL where it fails. It is calculated beside the row and has names there, so that it is written
    /// once, however often it is read.
    /// </summary>
    /// <param name="field">The live field.</param>
    /// <param name="written">Writes what calculates it.</param>
    public abstract SqlPart Live(Field field, Func<SqlPart> written);
}

/// <summary>Rows to select from, with what joins the tables that turned out to be needed.</summary>
public abstract class SqlRows : SqlRow
{
    /// <summary>What stands after FROM, once all columns have been asked for.</summary>
    public abstract string From { get; }

    /// <summary>The two columns that the rows are put in order by.</summary>
    public abstract IReadOnlyList<string> Order { get; }
}

/// <summary>How fields and values are named in SQL.</summary>
public abstract class SqlNames
{
    /// <summary>The row of the record that the formula is about; for a formula of lines, of the header that the line belongs to.</summary>
    public abstract SqlRow Header { get; }

    /// <summary>For a formula of lines: the line's row.</summary>
    public virtual SqlRow? Line => null;

    /// <summary>What the clock says, for TODAY and NOW.</summary>
    public Clock Clock { get; init; } = Clock.Utc;

    /// <summary>True when a live field is written as its formula; false where it only matters that it stands there.</summary>
    public virtual bool ExpandsLive => true;

    /// <summary>How the formula of a live field is named that is read of one of these rows.</summary>
    /// <param name="field">The live field.</param>
    /// <param name="row">The row that it belongs to: the header's, a line's, or one that was reached.</param>
    public abstract SqlNames At(Field field, SqlRow row);

    /// <summary>The record of this type with this id, as a row to select from.</summary>
    public abstract SqlRows RelatedRow(RecordType type, string id);

    /// <summary>The lines of the record that the formula is about, as rows to select from.</summary>
    public abstract SqlRows Lines(Part lines);

    /// <summary>All rows of a part, as rows to select from; more conditions may follow.</summary>
    public abstract SqlRows All(Part part);

    /// <summary>The rows of a part whose link, or whose record's link, points to a record, as rows to select from.</summary>
    /// <param name="part">The part: that of the link, or lines of its record type.</param>
    /// <param name="link">The link.</param>
    /// <param name="id">The id of the record.</param>
    public abstract SqlRows Linking(Part part, Field link, string id);

    /// <summary>The records of a type with these ids, in their order, as rows to select from.</summary>
    /// <param name="type">The type.</param>
    /// <param name="ids">An array of ids.</param>
    public abstract SqlRows Linked(RecordType type, string ids);

    /// <summary>What the clock says, for a column of one type.</summary>
    public virtual string Now(Value now, ColumnType type) => Of(now, type);

    /// <summary>A parameter of the query that is being written.</summary>
    public virtual string Parameter(string name, DataType type) => $":{name}";

    /// <summary>A value, as a parameter or a literal, for values of one column.</summary>
    public abstract string Of(Value value, ColumnType type);
}
