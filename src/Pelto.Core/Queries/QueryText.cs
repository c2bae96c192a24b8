using System.Text;

namespace Pelto.Core.Queries;

/// <summary>A problem in the text of a query, at its place.</summary>
/// <param name="At">The character, from 0.</param>
/// <param name="Message">What is wrong, as a sentence.</param>
/// <param name="Property">Where: the text itself, or what it was put together from.</param>
public sealed record QueryProblem(int At, string Message, string Property = "sql")
{
    /// <summary>The sentence with its place before it, where it has one.</summary>
    public string Sentence => At > 0 ? $"At character {At + 1}: {Message}" : Message;
}

/// <summary>
/// The text of a query, read as far as needed to find its parameters and to refuse early, at its place, what the database would refuse in
/// the end.
/// </summary>
/// <remarks>What a query may really do is decided by the role that it runs as; this is for clear sentences.</remarks>
public sealed class QueryText
{
    private static readonly HashSet<string> Refused = new(StringComparer.OrdinalIgnoreCase)
    {
        "insert",
        "update",
        "delete",
        "merge",
        "into",
    };

    private readonly List<string> names = [];
    private readonly List<QueryProblem> problems = [];

    private QueryText(string sql) => Sql = sql;

    /// <summary>The text with <c>$1</c>, <c>$2</c> for its parameters, in the order of <see cref="Names"/>.</summary>
    public string Sql { get; private set; }

    /// <summary>The names of its parameters, each once, in the order in which they first stand there.</summary>
    public IReadOnlyList<string> Names => names;

    /// <summary>What is wrong.</summary>
    public IReadOnlyList<QueryProblem> Problems => problems;

    /// <summary>Where a character of <see cref="Sql"/> stands in the text as written.</summary>
    public int Written(int at) => at - shifts.TakeWhile(shift => shift.At <= at).Sum(shift => shift.By);

    private readonly List<(int At, int By)> shifts = [];

    /// <summary>Reads a text.</summary>
    public static QueryText Read(string text)
    {
        var query = new QueryText(text);
        if (text.IndexOf('\0') is >= 0 and var nothing)
            query.problems.Add(new(nothing, "This character cannot be used in a query."));
        query.Scan(text);
        return query;
    }

    private void Scan(string text)
    {
        var sql = new StringBuilder();
        var isFirst = true;
        for (var at = 0; at < text.Length; )
        {
            var end = EndOf(text, at);
            var piece = text[at..end];
            if (IsParameter(text, at, out var length))
            {
                var name = text.Substring(at + 1, length);
                if (!names.Contains(name))
                    names.Add(name);
                var numbered = string.Create(CultureInfo.InvariantCulture, $"${names.IndexOf(name) + 1}");
                sql.Append(numbered);
                shifts.Add((sql.Length, numbered.Length - length - 1));
                at += length + 1;
                isFirst = false;
                continue;
            }

            if (piece is "E" or "e" && end < text.Length && text[end] == '\'')
                problems.Add(new(at, "Write texts without E: backslashes stand for themselves then."));
            if (piece is ";")
                problems.Add(new(at, "One query is one SELECT, without a semicolon."));
            else if (char.IsLetter(piece[0]) || piece[0] == '_')
                Check(piece, at, ref isFirst);
            else if (piece[0] == '$')
                problems.Add(new(at, "Parameters are written with a colon and a name, such as :customer."));
            else if (piece[0] == '"')
                CheckName(piece.Trim('"'), at);
            sql.Append(piece);
            at = end;
        }

        if (isFirst && problems.Count == 0)
            problems.Add(new(0, "Write a SELECT."));
        Sql = sql.ToString();
    }

    private void Check(string word, int at, ref bool isFirst)
    {
        if (
            isFirst
            && !word.Equals("select", StringComparison.OrdinalIgnoreCase)
            && !word.Equals("with", StringComparison.OrdinalIgnoreCase)
        )
            problems.Add(new(at, "A query begins with SELECT or WITH: it only reads."));
        else if (Refused.Contains(word))
            problems.Add(new(at, $"{word.ToUpperInvariant()} cannot be used in a query: it only reads."));
        else
            CheckName(word, at);
        isFirst = false;
    }

    private void CheckName(string name, int at)
    {
        if (
            name.StartsWith("pg_", StringComparison.OrdinalIgnoreCase)
            || name.Equals("information_schema", StringComparison.OrdinalIgnoreCase)
        )
            problems.Add(new(at, $"{name} belongs to the database itself; queries read records."));
    }

    private static bool IsParameter(string text, int at, out int length)
    {
        length = 0;
        if (
            text[at] != ':'
            || (at > 0 && text[at - 1] == ':')
            || at + 1 >= text.Length
            || !(char.IsAsciiLetter(text[at + 1]) || text[at + 1] == '_')
        )
            return false;
        while (at + 1 + length < text.Length && (char.IsAsciiLetterOrDigit(text[at + 1 + length]) || text[at + 1 + length] == '_'))
            length++;
        return true;
    }

    // Texts, quoted names, comments and words are each one piece; all else goes a character at a time.
    private static int EndOf(string text, int at)
    {
        switch (text[at])
        {
            case '\'' or '"':
                return After(text, text[at].ToString(), at + 1);
            case '-' when Has(text, at, "--"):
                return text.IndexOfAny(['\n', '\r'], at) is >= 0 and var line ? line : text.Length;
            case '/' when Has(text, at, "/*"):
                return After(text, "*/", at + 2);
            case ':' when Has(text, at, "::"):
                return at + 2;
            case var first when char.IsLetterOrDigit(first) || first == '_':
                var end = at;
                while (end < text.Length && (char.IsLetterOrDigit(text[end]) || text[end] == '_'))
                    end++;
                return end;
            default:
                return at + 1;
        }
    }

    private static bool Has(string text, int at, string what) => string.CompareOrdinal(text, at, what, 0, what.Length) == 0;

    private static int After(string text, string what, int from) =>
        text.IndexOf(what, from, StringComparison.Ordinal) is >= 0 and var found ? found + what.Length : text.Length;
}
