using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>The live fields that a query asks for, each worked out once for each row: their values then have names like columns, and conditions and order use those.</summary>
/// <param name="names">How formulas of the header are named.</param>
internal sealed class LiveJoins(FormulaNames names)
{
    private readonly Dictionary<Field, string> aliases = [];
    private readonly List<string> joins = [];

    /// <summary>What works them out, for behind FROM and all rows that they read.</summary>
    public string Sql => string.Concat(joins);

    /// <summary>The prefix of the columns of a live field.</summary>
    public string Prefix(Field field)
    {
        if (aliases.TryGetValue(field, out var known)) return known;
        var prefix = RecordLists.Inv($"c{aliases.Count}.");
        var given = Formula.ToSql(field, names);
        string Unfailing(string text) => given.Fails is { } fails ? $"CASE WHEN {fails} THEN NULL ELSE {text} END" : text;
        var columns = field.Columns.Select((column, at) => $"({Unfailing(at == 0 ? given.Text : given.Unit!)})::{column.Type.SqlType()} AS {Storage.Sql.Name(column.Name)}");
        joins.Add($" LEFT JOIN LATERAL (SELECT {string.Join(", ", columns)}) AS {prefix[..^1]} ON true");
        aliases.Add(field, prefix);
        return prefix;
    }
}
