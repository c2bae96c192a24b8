using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>In the SQL of a list, the columns of fields at which the record decides: what is withheld is empty already where it is selected, compared, sorted by, grouped by and totalled.</summary>
/// <param name="standing">Where the person stands.</param>
/// <param name="names">How what conditions read is named.</param>
internal sealed class GuardedColumns(Standing standing, FormulaNames names)
{
    private readonly Dictionary<Field, string> prefixes = [];
    private readonly List<string> joins = [];

    /// <summary>What works them out, for behind all rows that they read.</summary>
    public string Joins => string.Concat(joins);

    /// <summary>True when the record decides whether a field is read.</summary>
    public bool Decides(Field field) => !field.Part.IsLines && standing.Of(field).Read.IsConditional;

    /// <summary>The prefix under which the columns of such a field stand, empty where it may not be read.</summary>
    /// <param name="field">The field, of the header.</param>
    /// <param name="from">The prefix of its own columns.</param>
    public string Prefix(Field field, string from)
    {
        if (prefixes.TryGetValue(field, out var known)) return known;
        var alias = RecordLists.Inv($"guarded{joins.Count}");
        var condition = standing.Of(field).Read.ToSql(names);
        var columns = field.Source.Columns.Select(column => $"CASE WHEN {condition} THEN {from}{Sql.Name(column.Name)} END AS {Sql.Name(column.Name)}");
        joins.Add($" CROSS JOIN LATERAL (SELECT {string.Join(", ", columns)}) AS {alias}");
        return prefixes[field] = alias + ".";
    }

    /// <summary>A condition that holds for the lines of which a field may be read; empty for all.</summary>
    public string AndLine(Field field, FormulaNames line) => standing.Of(field).Read is { IsSure: false } read ? $" AND {read.ToSql(line)}" : "";

    /// <summary>True when a field shows whether it is masked, or its ending, row by row.</summary>
    public bool IsMarked(Field field) => !field.Part.IsLines && standing.Of(field) is var of && !of.Read.IsSure && of.Seen.IsPossible && (of.IsConditional || Ends(field));

    /// <summary>The level of such a field in a row, 0 to 2, and its ending where that may be seen.</summary>
    /// <param name="field">The field.</param>
    /// <param name="from">The prefix of its own columns.</param>
    public string Marks(Field field, string from)
    {
        var (seen, read) = (standing.Of(field).Seen.ToSql(names), standing.Of(field).Read.ToSql(names));
        var column = $"{from}{Sql.Name(field.Source.Columns[0].Name)}";
        var ending = Ends(field) ? RecordLists.Inv($"CASE WHEN {seen} AND NOT {read} AND length({column}) >= {Masks.LeastForEnding} THEN right({column}, {Masks.EndingLength}) END") : "NULL::text";
        return $"CASE WHEN {read} THEN 2 WHEN {seen} THEN 1 ELSE 0 END, {ending}";
    }

    private static bool Ends(Field field) => field.Part.RecordType.Guarding.GuardOf(field) is { Ending: true } && field.Kind.Holds == ValueForm.Text;
}
