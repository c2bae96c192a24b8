using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Data.Queries;

/// <summary>
/// Names what the formulas of a query that was put together read: the views of schema <c>readable</c>, which hold live fields as columns.
/// </summary>
/// <param name="header">The row of the record, or of the header that a line belongs to.</param>
/// <param name="line">For a query over lines: the line's row.</param>
internal sealed class ViewNames(ViewRow header, ViewRow? line = null) : SqlNames
{
    private int aliases;

    /// <inheritdoc/>
    public override SqlRow Header => header;

    /// <inheritdoc/>
    public override SqlRow? Line => line;

    /// <inheritdoc/>
    public override bool ExpandsLive => false;

    /// <inheritdoc/>
    public override SqlNames At(Field field, SqlRow row) => throw new InvalidOperationException("Views hold live fields as columns.");

    /// <inheritdoc/>
    public override SqlRows RelatedRow(RecordType type, string id) => new ViewRow(type.Header, Next(), row => $"{row.Id} = {id}");

    /// <inheritdoc/>
    public override SqlRows Lines(Part lines) => new ViewRow(lines, Next(), row => $"{row.Parent} = {header.Id}");

    /// <inheritdoc/>
    public override SqlRows All(Part part) => new ViewRow(part, Next(), static _ => "true");

    /// <inheritdoc/>
    public override SqlRows Linking(Part part, Field link, string id) =>
        new ViewRow(
            part,
            Next(),
            row =>
            {
                if (part == link.Part)
                    return $"{row.Column(link, "")} = {id}";
                var record = new ViewRow(link.Part, Next(), record => $"{record.Column(link, "")} = {id}");
                return $"{row.Parent} IN (SELECT {record.Id} FROM {record.From})";
            },
            part.IsLines ? static row => $"ROW({row}.parent, {row}.position)" : null
        );

    /// <inheritdoc/>
    public override SqlRows Linked(RecordType type, string ids) => new ViewRow(type.Header, Next(), ids: ids);

    // The clock is asked when the query is, so it comes in as a parameter that fills itself.
    /// <inheritdoc/>
    public override string Now(Value now, ColumnType type) => type == ColumnType.Date ? ":today" : ":now";

    /// <inheritdoc/>
    public override string Parameter(string name, DataType type) => type == DataType.Number ? $"(:{name})::numeric" : $":{name}";

    /// <inheritdoc/>
    public override string Of(Value value, ColumnType type) =>
        value.DataType switch
        {
            DataType.Text => $"'{value.Text.Replace("'", "''", StringComparison.Ordinal)}'::text",
            DataType.Number => Invariant($"{value.Number}::numeric"),
            DataType.YesNo => value.Yes ? "true" : "false",
            DataType.Date => Invariant($"'{value.Date:yyyy-MM-dd}'::date"),
            DataType.Time => Invariant($"'{value.Time:HH:mm:ss}'::time"),
            DataType.Moment => Invariant($"'{value.Moment:yyyy-MM-dd HH:mm:ss}+00'::timestamptz"),
            DataType.Empty => $"NULL::{type.SqlType()}",
            _ => throw new InvalidOperationException($"A value of type {value.DataType} does not stand in a formula's text."),
        };

    private string Next() => Invariant($"t{++aliases}");
}

/// <summary>Rows of a part's view.</summary>
/// <param name="part">The part.</param>
/// <param name="alias">What the view is called.</param>
/// <param name="which">Which of its rows; all when not given.</param>
/// <param name="order">What puts them in order, by what their view is called; that of lines, or the id itself, when not given.</param>
/// <param name="ids">For the records of an array of ids, in its order: the array, which is calculated once.</param>
internal sealed class ViewRow(
    Part part,
    string alias,
    Func<ViewRow, string>? which = null,
    Func<string, string>? order = null,
    string? ids = null
) : SqlRows
{
    /// <summary>For lines: the id of their record.</summary>
    public string Parent => $"{alias}.parent";

    /// <inheritdoc/>
    public override string Id => $"{alias}.id";

    /// <inheritdoc/>
    public override string From =>
        ids is null
            ? $"{View} AS {alias}{(which is null ? "" : $" WHERE {which(this)}")}"
            : $"unnest(({ids})::bigint[]) WITH ORDINALITY AS {alias}u(id, o) JOIN {View} AS {alias} ON {Id} = {alias}u.id";

    private string View => Sql.Name(part.Table);

    /// <inheritdoc/>
    public override IReadOnlyList<string> Order =>
        [
            ids is not null ? $"{alias}u.o"
            : order is not null ? order(alias)
            : part.IsLines ? $"{alias}.position"
            : Id,
            Id,
        ];

    /// <inheritdoc/>
    public override string Column(Field field, string suffix)
    {
        var column = Sql.Name(ReadableViews.NameOf(field) + suffix);
        return QueryViews.For(field) == part.Table
            ? $"{alias}.{column}"
            : $"(SELECT {column} FROM {Sql.Name(QueryViews.For(field))} WHERE id = {Id})";
    }

    /// <inheritdoc/>
    public override SqlPart Live(Field field, Func<SqlPart> written) => written();
}
