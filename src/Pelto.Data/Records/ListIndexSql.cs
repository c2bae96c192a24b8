using Pelto.Core.Formulas;
using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>
/// What an index for lists is made over. It must be what <see cref="ListSql"/> writes, to the letter, or the database does not know it
/// again.
/// </summary>
internal static class ListIndexSql
{
    /// <summary>The table that holds what the field is calculated from, or the field itself.</summary>
    public static string Table(Field field) =>
        !IsOfAdded(field) ? Sql.Base(field.Part) : Sql.Of(field.IsLive ? field.Formula!.Reads.First(static read => read.IsAdded) : field);

    /// <summary>The schema of that table, which is the index's.</summary>
    public static string SchemaOf(Field field) => IsOfAdded(field) ? Sql.Added : Sql.SchemaOf(field.Part.RecordType);

    /// <summary>What it is over: texts and choices as they are looked for, all else as it is put in order.</summary>
    public static string Over(Field field)
    {
        var value = field.IsLive ? Live(field) : Sql.Name(field.Columns[0].Name);
        return field.Kind.IsChoice ? value
            : field.Kind.DataType == DataType.Text ? $"lower({value})"
            : field.Kind.OrderSql(_ => value);
    }

    private static bool IsOfAdded(Field field) => !field.IsLive || field.Formula!.Reads.Any(static read => read.IsAdded);

    private static string Live(Field field)
    {
        var table = Sql.Name(field.Part.Table);
        var given = Formula.ToSql(field, new FormulaNames(new QueryRow(table, table), Columns.Literal));
        return $"(({given.Unfailing.Text})::{field.Columns[0].Type.SqlType()})";
    }
}
