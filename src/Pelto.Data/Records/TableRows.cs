using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>Rows of a part's table, joined with what is added beside it once a formula asks for that.</summary>
/// <param name="part">The part.</param>
/// <param name="alias">What its table is called; what is added has a letter more.</param>
/// <param name="which">Which of its rows, by a way to name their columns.</param>
internal sealed class TableRows(Part part, string alias, Func<TableRows, string> which) : SqlRows
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
            return $"{Sql.Base(part)} {alias}{(needsAdded ? $" LEFT JOIN {Sql.Table(Sql.Added, part.Table)} {alias}a ON {alias}a.id = {alias}.id" : "")}{live.Sql} WHERE {condition}";
        }
    }

    public override IReadOnlyList<string> Order => [part.IsLines ? $"{alias}.position" : $"{alias}.id", $"{alias}.id"];

    public override string Column(Field field, string suffix)
    {
        needsAdded |= field.IsAdded;
        return field.ColumnNames(field.IsAdded ? $"{alias}a." : $"{alias}.")(suffix);
    }

    public override SqlPart Live(Field field, Func<SqlPart> written) => live.Part(field, written);
}
