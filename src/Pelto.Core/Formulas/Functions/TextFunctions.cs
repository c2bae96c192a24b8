using System.Text;
using System.Text.RegularExpressions;
using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>Texts. OpenFormula 6.20. A character is one of Unicode's, whatever it takes to keep it; an empty text is no text.</summary>
internal static partial class TextFunctions
{
    public static IReadOnlyList<Function> All { get; } =
    [
        Of(
            "LEN",
            DataType.Number,
            "How many characters a text has.",
            "LEN(\"rope\") = 4",
            [Text("text") with { ReadsEmpty = true }],
            static given => Value.From((decimal)Letters.Count(Read(given[0]))),
            "char_length(coalesce({0}, ''))::numeric"
        ),
        Of(
            "LEFT",
            DataType.Text,
            "The first characters of a text.",
            "LEFT(\"shackle\"; 3) = \"sha\"",
            [Text("text"), Number("count", 1)],
            static given => given[1].Number < 0 ? Negative : Value.From(Letters.Slice(given[0].Text, 0, Size(given[1]))),
            "formulas.left({0}, {1})",
            "SELECT CASE WHEN b >= 0 THEN left(a, least(trunc(b), 1000000)::int) END"
        ),
        Of(
            "RIGHT",
            DataType.Text,
            "The last characters of a text.",
            "RIGHT(\"shackle\"; 3) = \"kle\"",
            [Text("text"), Number("count", 1)],
            static given =>
                given[1].Number < 0
                    ? Negative
                    : Value.From(Letters.Slice(given[0].Text, Math.Max(0, Letters.Count(given[0].Text) - Size(given[1])), Size(given[1]))),
            "formulas.right({0}, {1})",
            "SELECT CASE WHEN b >= 0 THEN right(a, least(trunc(b), 1000000)::int) END"
        ),
        Of(
            "MID",
            DataType.Text,
            "So many characters of a text, from a position on.",
            "MID(\"shackle\"; 3; 2) = \"ac\"",
            [Text("text"), Number("from"), Number("count")],
            static given =>
                given[1].Number < 1 ? BeforeFirst
                : given[2].Number < 0 ? Negative
                : Value.From(Letters.Slice(given[0].Text, Size(given[1]) - 1, Size(given[2]))),
            "formulas.mid({0}, {1}, {2})",
            "SELECT CASE WHEN b >= 1 AND c >= 0 THEN substr(a, least(trunc(b), 1000000)::int, least(trunc(c), 1000000)::int) END"
        ),
        Of(
            "UPPER",
            DataType.Text,
            "In upper case.",
            "UPPER(\"a\") & \"b\" = \"Ab\"",
            [Text("text")],
            static given => Value.From(given[0].Text.ToUpperInvariant()),
            "upper({0} COLLATE \"C.utf8\")"
        ),
        Of(
            "LOWER",
            DataType.Text,
            "In lower case.",
            "EXACT(LOWER(\"A\"); \"a\")",
            [Text("text")],
            static given => Value.From(given[0].Text.ToLowerInvariant()),
            "lower({0} COLLATE \"C.utf8\")"
        ),
        Of(
            "PROPER",
            DataType.Text,
            "Each word with a capital first letter and the rest in lower case.",
            "EXACT(PROPER(\"bow SHACKLE\"); \"Bow Shackle\")",
            [Text("text")],
            static given => Value.From(Proper(given[0].Text)),
            "formulas.proper({0})",
            """
            DECLARE r text := ''; x text; was boolean := false; is_letter boolean;
            BEGIN
              IF a IS NULL THEN RETURN NULL; END IF;
              FOREACH x IN ARRAY regexp_split_to_array(a, '') LOOP
                is_letter := upper(x COLLATE "C.utf8") <> lower(x COLLATE "C.utf8");
                r := r || CASE WHEN was THEN lower(x COLLATE "C.utf8") ELSE upper(x COLLATE "C.utf8") END;
                was := is_letter;
              END LOOP;
              RETURN r;
            END
            """,
            fails: false
        ),
        Of(
            "TRIM",
            DataType.Text,
            "Without spaces at both ends, and with single ones between words.",
            "TRIM(\" a  b \") = \"a b\"",
            [Text("text")],
            static given => Value.From(Spaces().Replace(given[0].Text, " ").Trim(' ')),
            "btrim(regexp_replace({0}, ' +', ' ', 'g'), ' ')"
        ),
        Of(
            "SUBSTITUTE",
            DataType.Text,
            "With one text replaced by another: everywhere, or only at the occurrence with that number.",
            "SUBSTITUTE(\"a-b-c\"; \"-\"; \"+\"; 2) = \"a-b+c\"",
            [
                Text("text"),
                Text("old") with
                {
                    ReadsEmpty = true,
                },
                Text("new") with
                {
                    ReadsEmpty = true,
                },
                Number("which") with
                {
                    IsOptional = true,
                    ReadsEmpty = true,
                },
            ],
            Substitute,
            "formulas.substitute({0}, coalesce({1}, ''), coalesce({2}, ''), {3})",
            """
            DECLARE n int := 0; p int := 0; q int;
            BEGIN
              IF a IS NULL OR d < 1 THEN RETURN NULL; END IF;
              IF b = '' THEN RETURN a; END IF;
              IF d IS NULL THEN RETURN CASE WHEN char_length(a) / char_length(b) * char_length(c) > 1000000 THEN NULL ELSE replace(a, b, c) END; END IF;
              LOOP
                q := strpos(substr(a, p + 1), b);
                IF q = 0 THEN RETURN a; END IF;
                p := p + q; n := n + 1;
                IF n = trunc(d) THEN RETURN left(a, p - 1) || c || substr(a, p + char_length(b)); END IF;
                p := p + char_length(b) - 1;
              END LOOP;
            END
            """
        ),
        Of(
            "REPLACE",
            DataType.Text,
            "With so many characters, from a position on, replaced by a text.",
            "REPLACE(\"shackle\"; 1; 3; \"t\") = \"tckle\"",
            [Text("text"), Number("from"), Number("count"), Text("new") with { ReadsEmpty = true }],
            static given =>
                given[1].Number < 1 ? BeforeFirst
                : given[2].Number < 0 ? Negative
                : Value.From(
                    Letters.Slice(given[0].Text, 0, Size(given[1]) - 1)
                        + Read(given[3])
                        + Letters.Slice(given[0].Text, Size(given[1]) - 1 + Size(given[2]), int.MaxValue)
                ),
            "formulas.replace({0}, {1}, {2}, coalesce({3}, ''))",
            "SELECT CASE WHEN b >= 1 AND c >= 0 THEN left(a, least(trunc(b), "
                + "1000000)::int - 1) || d || substr(a, least(trunc(b), 1000000)::int + least(trunc(c), 1000000)::int) END"
        ),
        Of(
            "FIND",
            DataType.Number,
            "The position of a text in another, letter by letter; an error where it is not found.",
            "FIND(\"k\"; \"shackle\") = 5",
            [Text("find"), Text("text"), Number("from", 1)],
            static given => Position(given, exact: true),
            "formulas.find({0}, {1}, {2})",
            "SELECT CASE WHEN c >= 1 AND c <= char_length(b) + 1 THEN "
                + "nullif(strpos(substr(b, trunc(c)::int), a), 0) + trunc(c)::int - 1 END"
        ),
        Of(
            "SEARCH",
            DataType.Number,
            "The position of a text in another, upper or lower case alike; "
                + "? stands for one character, * for any, ~ before them for themselves.",
            "SEARCH(\"K*e\"; \"shackle\") = 5",
            [Text("find"), Text("text"), Number("from", 1)],
            static given => Position(given, exact: false),
            "formulas.search({0}, {1}, {2})",
            """
            SELECT CASE WHEN c >= 1 AND c <= char_length(b) + 1 THEN nullif(regexp_instr(upper(substr(b, trunc(c)::int) COLLATE "C.utf8"),
              regexp_replace(regexp_replace(regexp_replace(regexp_replace(upper(a COLLATE "C.utf8"), '([.+^$(){}|\[\]\\])', '\\\1', 'g'), '(?<!~)\?', '.', 'g'), '(?<!~)\*', '.*', 'g'), '~([*?])', '\\\1', 'g')), 0) + trunc(c)::int - 1 END
            """
        ),
        new TextFormatting(),
        .. NumberTexts.All,
        new Fold(
            "CONCATENATE",
            FunctionGroup.Texts,
            DataType.Text,
            "The texts one after the other, as & does.",
            "CONCATENATE(\"a\"; 1) = \"a1\"",
            Text("text") with
            {
                ReadsEmpty = true,
            },
            static value => value,
            static (left, right) => Join(Read(left), Read(right)),
            "coalesce({0}, '')",
            "({0} || {1})"
        ),
        Of(
            "REPT",
            DataType.Text,
            "A text repeated.",
            "REPT(\"-\"; 3) = \"---\"",
            [Text("text"), Number("times")],
            static given =>
                given[1].Number < 0 ? Negative
                : given[1].Number * given[0].Text.Length > Reasons.LongestText ? Value.Failed(Reasons.TooLarge)
                : Value.From(string.Concat(Enumerable.Repeat(given[0].Text, Size(given[1])))),
            "formulas.rept({0}, {1})",
            "SELECT CASE WHEN b >= 0 AND b * char_length(a) <= 100000 THEN repeat(a, trunc(b)::int) END"
        ),
        Of(
            "EXACT",
            DataType.YesNo,
            "Whether two texts are the same, with upper and lower case told apart.",
            "EXACT(\"a\"; \"A\") = FALSE()",
            [Text("text") with { ReadsEmpty = true }, Text("other") with { ReadsEmpty = true }],
            static given => Value.From(Read(given[0]) == Read(given[1])),
            "(coalesce({0}, '') = coalesce({1}, ''))",
            fails: false
        ),
        Of(
            "UNICHAR",
            DataType.Text,
            "The character with this number in Unicode.",
            "UNICHAR(65) = \"A\"",
            [Number("number")],
            static given => Character(given[0].Number),
            "formulas.unichar({0})",
            "SELECT CASE WHEN a >= 1 AND a < 1114112 AND NOT trunc(a) BETWEEN 55296 AND 57343 THEN chr(trunc(a)::int) END"
        ),
        Of(
            "UNICODE",
            DataType.Number,
            "The number of a text's first character in Unicode.",
            "UNICODE(\"A\") = 65",
            [Text("text")],
            static given => Value.From((decimal)given[0].Text.EnumerateRunes().First().Value),
            "ascii({0})::numeric",
            fails: false
        ),
        new SimpleFunction(
            "T",
            FunctionGroup.Texts,
            DataType.Text,
            "A text as it is.",
            "T(\"a\") = \"a\"",
            [Text("text")],
            static given => given[0],
            "{0}"
        ),
    ];

    private static Value Negative => Value.Failed("A count cannot be below 0.");

    private static Value BeforeFirst => Value.Failed("Characters are counted from 1 on.");

    /// <summary>A text, where empty reads as one without characters.</summary>
    public static string Read(Value value) => value.IsEmpty ? "" : value.Text;

    /// <summary>Two texts as one.</summary>
    public static Value Join(string left, string right) =>
        left.Length + right.Length > Reasons.LongestText * 10 ? Value.Failed(Reasons.TooLarge) : Value.From(left + right);

    private static int Size(Value number) => (int)Math.Min(decimal.Truncate(number.Number), 1_000_000);

    private static Value Character(decimal number) =>
        number >= 1 && decimal.Truncate(number) is < 0x110000 and not (>= 0xD800 and <= 0xDFFF)
            ? Value.From(char.ConvertFromUtf32((int)number))
            : Value.Failed("There is no such character.");

    // A letter is what has a large and a small form.
    private static string Proper(string text)
    {
        var (result, was) = (new StringBuilder(text.Length), false);
        foreach (var rune in text.EnumerateRunes())
        {
            var (upper, lower) = (Rune.ToUpperInvariant(rune), Rune.ToLowerInvariant(rune));
            result.Append((was ? lower : upper).ToString());
            was = upper != lower;
        }

        return result.ToString();
    }

    private static Value Substitute(ReadOnlySpan<Value> given)
    {
        var (text, old, fresh) = (given[0].Text, Read(given[1]), Read(given[2]));
        if (!given[3].IsEmpty && given[3].Number < 1)
            return BeforeFirst;
        if (old.Length == 0)
            return given[0];
        if (given[3].IsEmpty)
            return (long)text.Length / old.Length * fresh.Length > 10L * Reasons.LongestText
                ? Value.Failed(Reasons.TooLarge)
                : Value.From(text.Replace(old, fresh, StringComparison.Ordinal));
        var at = -old.Length;
        for (var n = decimal.Truncate(given[3].Number); n > 0; n--)
            if ((at = text.IndexOf(old, at + old.Length, StringComparison.Ordinal)) < 0)
                return given[0];
        return Value.From(string.Concat(text.AsSpan(0, at), fresh, text.AsSpan(at + old.Length)));
    }

    private static Value Position(ReadOnlySpan<Value> given, bool exact)
    {
        var (find, text) = (given[0].Text, given[1].Text);
        if (given[2].Number < 1)
            return BeforeFirst;
        if (given[2].Number > Letters.Count(text) + 1)
            return NotIn(find);
        var from = Letters.IndexOf(text, Size(given[2]) - 1);
        var at =
            exact ? text.IndexOf(find, from, StringComparison.Ordinal)
            : Regex.Match(
                text[from..].ToUpperInvariant(),
                Pattern(find.ToUpperInvariant()),
                RegexOptions.Singleline | RegexOptions.CultureInvariant | RegexOptions.NonBacktracking
            )
                is { Success: true } match
                ? from + match.Index
            : -1;
        return at < 0 ? NotIn(find) : Value.From((decimal)Letters.Count(text.AsSpan(0, at)) + 1);
    }

    private static Value NotIn(string find) => Value.Failed($"“{Letters.Slice(find, 0, 40)}” is not in the text.");

    private static string Pattern(string find)
    {
        var pattern = new StringBuilder();
        for (var i = 0; i < find.Length; i++)
        {
            if (find[i] == '~' && i + 1 < find.Length && find[i + 1] is '*' or '?')
                pattern.Append(Regex.Escape(find[++i].ToString()));
            else
                pattern.Append(
                    find[i] switch
                    {
                        '?' => ".",
                        '*' => ".*",
                        var c => Regex.Escape(c.ToString()),
                    }
                );
        }

        return pattern.ToString();
    }

    private static SimpleFunction Of(
        string name,
        DataType result,
        string summary,
        string example,
        IReadOnlyList<Parameter> takes,
        Body body,
        string sql,
        string? helper = null,
        bool? fails = null
    ) =>
        new(name, FunctionGroup.Texts, result, summary, example, takes, body, sql)
        {
            HelperBody = helper,
            FailsOnNull = fails ?? helper is not null,
        };

    [GeneratedRegex(" +")]
    private static partial Regex Spaces();
}

/// <summary>Counts and cuts texts by characters of Unicode rather than by what keeps them.</summary>
internal static class Letters
{
    public static int Count(ReadOnlySpan<char> text)
    {
        if (!text.ContainsAnyInRange('\uD800', '\uDFFF'))
            return text.Length;
        var count = 0;
        foreach (var _ in text.EnumerateRunes())
            count++;
        return count;
    }

    /// <summary>Where in the text the character with this place, from 0 on, begins; the end when there are fewer.</summary>
    public static int IndexOf(ReadOnlySpan<char> text, int place)
    {
        if (!text.ContainsAnyInRange('\uD800', '\uDFFF'))
            return Math.Min(place, text.Length);
        var at = 0;
        for (; place > 0 && at < text.Length; place--)
            at += char.IsHighSurrogate(text[at]) && at + 1 < text.Length ? 2 : 1;
        return at;
    }

    public static string Slice(string text, int from, int count)
    {
        var start = IndexOf(text, from);
        return text[start..(start + IndexOf(text.AsSpan(start), count))];
    }
}
