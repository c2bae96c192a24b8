using Pelto.Core.Formulas;
using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>Which rows of a record type somebody may read, as SQL.</summary>
internal static class RowAccess
{
    /// <summary>A condition on a row, to stand behind others: empty where all may be read.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="viewer">Who reads.</param>
    /// <param name="id">The row's id, such as <c>h.id</c>.</param>
    /// <param name="parameter">Adds a parameter and gives its name.</param>
    /// <param name="clock">What the clock says.</param>
    public static string And(RecordType type, Viewer viewer, string id, Func<ColumnType, object?, string> parameter, Clock clock)
    {
        if (viewer.Form is not null || viewer.AccessAt(type).For(type).Read is not { IsSure: false } read)
            return "";
        if (!read.IsPossible)
            return " AND false";
        var row = new QueryRow("g", "ga");
        var condition = read.ToSql(new FormulaNames(row, parameter) { Clock = clock, ParameterValue = viewer.Parameter });
        var beside = row.NeedsAdded ? $" LEFT JOIN {Sql.AddedTable(type.Header)} ga ON ga.id = g.id" : "";
        return $" AND {id} IN (SELECT g.id FROM {Sql.Base(type.Header)} g{beside}{row.Joins} WHERE {condition})";
    }
}
