using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>
/// In the SQL of a list, the fields at which the record decides. What a row is found, put in order, grouped or totalled by is empty there
/// already where it is withheld; what is only shown is taken out when the row is read.
/// </summary>
/// <param name="access">Where the person stands.</param>
/// <param name="names">How what conditions read is named.</param>
internal sealed class GuardedColumns(EffectiveAccess access, FormulaNames names)
{
    private readonly Dictionary<Field, string> prefixes = [];
    private readonly List<string> joins = [];
    private readonly Dictionary<string, int> decisions = new(StringComparer.Ordinal);
    private readonly List<string> answers = [];

    /// <summary>What calculates them, for behind all rows that they read.</summary>
    public string Joins =>
        $"{(answers.Count > 0 ? $" CROSS JOIN LATERAL (SELECT {string.Join(", ", answers)} OFFSET 0) AS asked" : "")}{string.Concat(joins)}";

    /// <summary>The columns that hold the answers to what was asked, each once for a row however many fields ask it.</summary>
    public IEnumerable<string> Answers => answers.Select((_, at) => Invariant($"asked.d{at}"));

    /// <summary>True when the record decides whether a field is read.</summary>
    public bool Decides(Field field) => !field.Part.IsLines && access.For(field).Read.IsConditional;

    /// <summary>The prefix under which the columns of such a field stand, empty where it may not be read.</summary>
    /// <param name="field">The field, of the header.</param>
    /// <param name="from">The prefix of its own columns.</param>
    public string Prefix(Field field, string from)
    {
        if (prefixes.TryGetValue(field, out var known))
            return known;
        var alias = Invariant($"guarded{joins.Count}");
        var answer = Invariant($"asked.d{Ask(access.For(field).Read)}");
        var columns = field.Source.Columns.Select(column =>
            $"CASE WHEN {answer} THEN {from}{Database.Sql.Name(column.Name)} END AS {Database.Sql.Name(column.Name)}"
        );
        joins.Add($" CROSS JOIN LATERAL (SELECT {string.Join(", ", columns)}) AS {alias}");
        return prefixes[field] = alias + ".";
    }

    /// <summary>A condition that holds for the lines of which a field may be read; empty for all.</summary>
    public string AndLine(Field field, FormulaNames line) =>
        access.For(field).Read is { IsSure: false } read ? $" AND {read.ToSql(line)}" : "";

    /// <summary>
    /// Asks for the level of a field in each row; gives where the answers stand among <see cref="Answers"/>, and null for what is the same
    /// in every row.
    /// </summary>
    public RowLevel? LevelOf(Field field)
    {
        var of = access.For(field);
        return !of.Read.IsConditional && !of.Visible.IsConditional
            ? null
            : new(
                field,
                of.Read.IsConditional ? Ask(of.Read) : null,
                of.Visible.IsConditional ? Ask(of.Visible) : null,
                of.Read.IsSure,
                of.Visible.IsSure
            );
    }

    private int Ask(Decision decision)
    {
        if (decisions.TryGetValue(decision.Key, out var known))
            return known;
        answers.Add(Invariant($"{decision.ToSql(names)} AS d{answers.Count}"));
        return decisions[decision.Key] = answers.Count - 1;
    }
}

/// <summary>Where the level of a field in a row is told.</summary>
/// <param name="Field">The field.</param>
/// <param name="Read">Which answer says whether it is read; null where that is the same in every row.</param>
/// <param name="Seen">The same for whether it is seen masked.</param>
/// <param name="IsRead">True when it is read in every row.</param>
/// <param name="IsSeen">True when it is seen in every row.</param>
internal sealed record RowLevel(Field Field, int? Read, int? Seen, bool IsRead, bool IsSeen)
{
    /// <summary>The level in a row, by its answers.</summary>
    public AccessLevel In(bool[] answers) =>
        (Read is { } read ? answers[read] : IsRead) ? AccessLevel.Read
        : (Seen is { } seen ? answers[seen] : IsSeen) ? AccessLevel.Masked
        : AccessLevel.None;
}
