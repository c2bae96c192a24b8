using Pelto.Core.Formulas;

namespace Pelto.Data.Expressions;

/// <summary>
/// The live fields that a query reads of one of its rows, each calculated once beside it: their values then have names like columns, and
/// conditions, order and other live fields use those.
/// </summary>
/// <param name="row">What the row is called.</param>
internal sealed class LiveJoins(string row)
{
    // When a live field fails, and when it found nothing; no code begins so.
    private const string Fails = "_fails";
    private const string NotFound = "_lacks";

    private readonly Dictionary<Field, (string Prefix, SqlPart Part)?> named = [];
    private readonly List<string> joins = [];

    /// <summary>What calculates them, for behind FROM and all rows that they read.</summary>
    public string Sql => string.Concat(joins);

    /// <summary>The prefix of the columns of a live field.</summary>
    /// <param name="field">The field.</param>
    /// <param name="names">How its formula is named.</param>
    public string Prefix(Field field, FormulaNames names) => Named(field, () => Formula.ToSql(field, names)).Prefix;

    /// <summary>A live field by its names.</summary>
    /// <param name="field">The field.</param>
    /// <param name="written">Writes what calculates it.</param>
    public SqlPart Part(Field field, Func<SqlPart> written) => Named(field, written).Part;

    // One that reads itself, over others, is refused when it is defined; until somebody mends that it leads nowhere here either.
    private (string Prefix, SqlPart Part) Named(Field field, Func<SqlPart> written)
    {
        if (named.TryGetValue(field, out var known))
            return known ?? throw new FormulaTooLongException();
        named[field] = null;
        var given = written();
        var alias = Invariant($"{row}c{joins.Count}");
        var texts = new[] { given.Unfailing.Text, given.Unfailing.Unit };
        var columns = field
            .Columns.Select((column, at) => $"({texts[at]})::{column.Type.SqlType()} AS {Database.Sql.Name(column.Name)}")
            .ToList();
        if (given.Fails is { } fails)
            columns.Add($"{fails} AS {Fails}");
        if (given.Lacks is { } missing)
            columns.Add($"{missing} AS {NotFound}");

        // The database takes such a join apart again and writes the formula wherever its name stands, which lets it use an index. Where
        // live fields read live fields that would grow without end, so there it is told not to.
        joins.Add(
            $" CROSS JOIN LATERAL (SELECT {string.Join(", ", columns)}{(field.Formula!.Reads.Any(static read => read.IsLive) ? " OFFSET 0" : "")}) AS {alias}"
        );
        string Column(int at) => $"{alias}.{Database.Sql.Name(field.Columns[at].Name)}";
        var text =
            field.Kind.DataType == DataType.Number && field.Columns[0].Type == ColumnType.Integer ? $"({Column(0)})::numeric" : Column(0);
        var part = new SqlPart(
            text,
            given.Fails is null ? null : $"{alias}.{Fails}",
            given.Lacks is null ? null : $"{alias}.{NotFound}",
            field.Columns.Count > 1 && given.Unit is not null ? Column(1) : null
        );
        named[field] = (alias + ".", part);
        return (alias + ".", part);
    }
}
