using Pelto.Core.Formulas;

namespace Pelto.Data.Expressions;

/// <summary>Names what formulas read in a query over the rows of a record type.</summary>
/// <param name="header">The row of the record, or of the header that a line belongs to.</param>
/// <param name="parameter">Adds a parameter and gives its name.</param>
/// <param name="line">For formulas of lines: the line's row.</param>
internal sealed class FormulaNames(SqlRow header, Func<ColumnType, object?, string> parameter, SqlRow? line = null) : SqlNames
{
    private Counter aliases = new();

    /// <summary>For conditions of grants: what they read of who looks.</summary>
    public Func<string, Value>? ParameterValue { get; init; }

    /// <inheritdoc/>
    public override SqlRow Header => header;

    /// <inheritdoc/>
    public override SqlRow? Line => line;

    /// <inheritdoc/>
    public override SqlRows RelatedRow(RecordType type, string id) =>
        new TableRows(type.Header, aliases.Next(), rows => $"{rows.Alias}.id = {id}");

    /// <inheritdoc/>
    public override SqlRows Lines(Part lines) => new TableRows(lines, aliases.Next(), rows => $"{rows.Alias}.parent = {header.Id}");

    /// <inheritdoc/>
    public override SqlRows All(Part part) => new TableRows(part, aliases.Next(), static _ => "true");

    /// <inheritdoc/>
    public override SqlRows Linking(Part part, Field link, string id) =>
        new TableRows(
            part,
            aliases.Next(),
            rows =>
                part == link.Part
                    ? $"{rows.Column(link, "")} = {id}"
                    : $"{rows.Alias}.parent IN (SELECT k.id FROM {Sql.Of(link)} k WHERE {link.ColumnNames("k.")("")} = {id})",
            part.IsLines ? static row => $"ROW({row}.parent, {row}.position)" : null
        );

    /// <inheritdoc/>
    public override SqlRows Linked(RecordType type, string ids) => new TableRows(type.Header, aliases.Next(), static _ => "true", ids: ids);

    /// <inheritdoc/>
    public override string Parameter(string name, DataType type) =>
        ParameterValue is { } asked ? Of(asked(name), ColumnType.Text) : base.Parameter(name, type);

    /// <inheritdoc/>
    public override string Of(Value value, ColumnType type) => $"{parameter(type, Stored(value))}::{type.SqlType()}";

    /// <inheritdoc/>
    public override SqlNames At(Field field, SqlRow row) =>
        new FormulaNames(field.Part.IsLines ? header : row, parameter, field.Part.IsLines ? row : null)
        {
            Clock = Clock,
            ParameterValue = ParameterValue,
            aliases = aliases,
        };

    // Shared by all that are in one query, so that no row hides another of the same name.
    private sealed class Counter
    {
        private int last;

        public string Next() => Invariant($"t{++last}");
    }

    private static object? Stored(Value value) =>
        value.DataType switch
        {
            DataType.Text => value.Text,
            DataType.Number => value.Number,
            DataType.Date => value.Date,
            DataType.YesNo => value.Yes,
            DataType.Time => value.Time,
            DataType.Moment => value.Moment,
            DataType.Link => value.Target,
            DataType.Several => value.Codes.ToArray(),
            _ => null,
        };
}

/// <summary>A row of a query, <c>h</c> as a rule, and what is added beside it, <c>a</c>.</summary>
/// <param name="table">What the row is called.</param>
/// <param name="beside">What the row of what is added is called.</param>
/// <param name="named">How the names of live fields begin; as the row is called when not given.</param>
internal sealed class QueryRow(string table = "h", string beside = "a", string? named = null) : SqlRow
{
    private readonly LiveJoins live = new(named ?? table);

    /// <inheritdoc/>
    public override string Id => $"{table}.id";

    /// <summary>What calculates the live fields that were asked for, for behind the tables of the row.</summary>
    public string Joins => live.Sql;

    /// <summary>The prefix of the columns of a live field.</summary>
    /// <param name="field">The field, of this row.</param>
    /// <param name="names">How its formula is named.</param>
    public string Prefix(Field field, FormulaNames names) => live.Prefix(field, names);

    /// <summary>True when what is added was asked for.</summary>
    public bool NeedsAdded { get; private set; }

    /// <inheritdoc/>
    public override string Column(Field field, string suffix)
    {
        NeedsAdded |= field.IsAdded;
        return field.ColumnNames($"{(field.IsAdded ? beside : table)}.")(suffix);
    }

    /// <inheritdoc/>
    public override SqlPart Live(Field field, Func<SqlPart> written) => live.Part(field, written);
}
