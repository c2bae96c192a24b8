using Pelto.Core.Formulas;

namespace Pelto.Data.Expressions;

/// <summary>Rows of a part's table, joined with what is added beside it once a formula asks for that.</summary>
/// <param name="part">The part.</param>
/// <param name="alias">What its table is called; what is added has a letter more.</param>
/// <param name="which">Which of its rows, by a way to name their columns.</param>
/// <param name="order">What puts them in order, by what their table is called; that of lines, or the id itself, when not given.</param>
/// <param name="ids">For the records of an array of ids, in its order: the array, which is calculated once.</param>
internal sealed class TableRows(
    Part part,
    string alias,
    Func<TableRows, string> which,
    Func<string, string>? order = null,
    string? ids = null
) : SqlRows
{
    private readonly LiveJoins live = new(alias);
    private bool needsAdded;

    /// <summary>What the part's table is called.</summary>
    public string Alias => alias;

    public override string Id => $"{alias}.id";

    public override string From
    {
        get
        {
            var condition = which(this);
            var listed = ids is null
                ? $"{Sql.Base(part)} {alias}"
                : $"unnest(({ids})::bigint[]) WITH ORDINALITY AS {alias}u(id, o) JOIN {Sql.Base(part)} {alias} ON {alias}.id = {alias}u.id";
            return $"{listed}{(needsAdded ? $" LEFT JOIN {Sql.AddedTable(part)} {alias}a ON {alias}a.id = {alias}.id" : "")}{live.Sql} WHERE {condition}";
        }
    }

    public override IReadOnlyList<string> Order =>
        [
            ids is not null ? $"{alias}u.o"
            : order is not null ? order(alias)
            : part.IsLines ? $"{alias}.position"
            : $"{alias}.id",
            $"{alias}.id",
        ];

    public override string Column(Field field, string suffix)
    {
        needsAdded |= field.IsAdded;
        return field.ColumnNames(field.IsAdded ? $"{alias}a." : $"{alias}.")(suffix);
    }

    public override SqlPart Live(Field field, Func<SqlPart> written) => live.Part(field, written);
}
