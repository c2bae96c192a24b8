using System.Text.RegularExpressions;
using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>
/// Numbers out of texts. OpenFormula 6.13.34 and 6.20.24 (section numbers from memory). A formula gives everybody the same: what two
/// conventions read differently is no number until somebody says which marks it is written with.
/// </summary>
internal static partial class NumberTexts
{
    private const string Unmarked = "[+-]?([0-9]{1,28}(\\.[0-9]{0,28})?|\\.[0-9]{1,28})([eE][+-]?[0-9]{1,2})?%?";
    private const string Spaced = "[+-]?[0-9]{1,3}([ \\u00a0\\u202f][0-9]{3})+([.,][0-9]{1,28})?%?";
    private const string Commas = "[+-]?[0-9]{1,3}((,[0-9]{3})+\\.[0-9]{1,28}|(,[0-9]{3}){2,})%?";
    private const string Points = "[+-]?[0-9]{1,3}((\\.[0-9]{3})+,[0-9]{1,28}|(\\.[0-9]{3}){2,})%?";
    private const string Comma = "[+-]?[0-9]{1,28},[0-9]{1,28}%?";
    private const string TwoWays = "[+-]?[1-9][0-9]{0,2},[0-9]{3}%?";

    public static IReadOnlyList<Function> All { get; } =
    [
        Of(
            "VALUE",
            "The number that a text says, as any convention writes it: 1234.5, 1 234,5, 1,234.5; % for hundredths. "
                + "One that two conventions read differently, such as 12,500, is none: NUMBERVALUE is told the marks.",
            "VALUE(\"12.5%\") = 0.125",
            [Text("text")],
            static given => Read(given[0].Text),
            "formulas.value({0})",
            $"""
            DECLARE t text := btrim(a, ' ');
            BEGIN
              IF t ~ '^{Spaced}$' THEN t := replace(translate(t, E' \u00a0\u202f', ''), ',', '.');
              ELSIF t ~ '^{Commas}$' THEN t := replace(t, ',', '');
              ELSIF t ~ '^{Points}$' THEN t := replace(replace(t, '.', ''), ',', '.');
              ELSIF t ~ '^{Comma}$' AND t !~ '^{TwoWays}$' THEN t := replace(t, ',', '.');
              END IF;
              {Number}
            END
            """
        ),
        Of(
            "NUMBERVALUE",
            "The number that a text says with these marks: the one before decimals, and those between groups of digits.",
            "NUMBERVALUE(\"12.500,75\"; \",\"; \".\") = 12500.75",
            [Text("text"), Text("decimal_mark"), Text("group_mark") with { IsOptional = true, ReadsEmpty = true, Default = Value.Empty }],
            static given => Read(given[0].Text, given[1].Text, TextFunctions.Read(given[2])),
            "formulas.numbervalue({0}, {1}, coalesce({2}, ''))",
            $"""
            DECLARE t text := translate(a, E' \u00a0\u202f', ''); m int;
            BEGIN
              IF a IS NULL OR b IS NULL OR char_length(b) <> 1 OR char_length(c) > 1 OR b ~ '[0-9eE+%-]' OR c ~ '[0-9eE+%-]' OR b = c THEN RETURN NULL; END IF;
              m := strpos(t, b);
              IF c <> '' THEN
                IF m > 0 AND strpos(substr(t, m + 1), c) > 0 THEN RETURN NULL; END IF;
                t := replace(t, c, '');
              END IF;
              IF b <> '.' THEN
                IF strpos(t, '.') > 0 THEN RETURN NULL; END IF;
                t := replace(t, b, '.');
              END IF;
              {Number}
            END
            """
        ),
    ];

    // What is left is written plainly, or is not a number.
    private const string Number = $"""
        IF t !~ '^{Unmarked}$' OR abs(rtrim(t, '%')::numeric) >= 7.9e28 THEN RETURN NULL; END IF;
              RETURN round(rtrim(t, '%')::numeric * CASE WHEN right(t, 1) = '%' THEN 0.01 ELSE 1 END, 28);
        """;

    private static Value Read(string text)
    {
        var written = text.Trim(' ');
        if (SpacedPattern().IsMatch(written))
            written = WithoutSpaces(written).Replace(',', '.');
        else if (CommasPattern().IsMatch(written))
            written = written.Replace(",", "", StringComparison.Ordinal);
        else if (PointsPattern().IsMatch(written))
            written = written.Replace(".", "", StringComparison.Ordinal).Replace(',', '.');
        else if (TwoWaysPattern().IsMatch(written))
            return Value.Failed(
                $"“{written}” can mean {written.Replace(",", "", StringComparison.Ordinal)} or "
                    + $"{written.Replace(',', '.')}: NUMBERVALUE is told the marks."
            );
        else if (CommaPattern().IsMatch(written))
            written = written.Replace(',', '.');
        return Reckoned(written, text);
    }

    private static Value Read(string text, string point, string group)
    {
        if (!IsMark(point) || (group.Length > 0 && !IsMark(group)) || point == group)
            return Value.Failed("The marks are one character each, not a digit or a sign, and not the same.");
        var written = WithoutSpaces(text);
        var at = written.IndexOf(point, StringComparison.Ordinal);
        if (group.Length > 0)
        {
            if (at >= 0 && written.IndexOf(group, at, StringComparison.Ordinal) >= 0)
                return NoNumber(text);
            written = written.Replace(group, "", StringComparison.Ordinal);
        }

        if (point == ".")
            return Reckoned(written, text);
        return written.Contains('.', StringComparison.Ordinal)
            ? NoNumber(text)
            : Reckoned(written.Replace(point, ".", StringComparison.Ordinal), text);
    }

    private static bool IsMark(string text) => Letters.Count(text) == 1 && !"0123456789eE+%-".Contains(text, StringComparison.Ordinal);

    private static string WithoutSpaces(string text) =>
        text.Replace(" ", "", StringComparison.Ordinal)
            .Replace("\u00a0", "", StringComparison.Ordinal)
            .Replace("\u202f", "", StringComparison.Ordinal);

    private static Value Reckoned(string written, string text)
    {
        if (!UnmarkedPattern().IsMatch(written))
            return NoNumber(text);
        var isHundredths = written.EndsWith('%');
        return decimal.TryParse(
            written.TrimEnd('%'),
            NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowExponent,
            CultureInfo.InvariantCulture,
            out var number
        )
            ? Value.From(isHundredths ? number / 100 : number)
            : Value.Failed(Reasons.TooLarge);
    }

    private static Value NoNumber(string text) => Value.Failed($"“{Letters.Slice(text.Trim(), 0, 40)}” is not a number.");

    private static SimpleFunction Of(
        string name,
        string summary,
        string example,
        IReadOnlyList<Parameter> takes,
        Body body,
        string sql,
        string helper
    ) => new(name, FunctionGroup.Texts, DataType.Number, summary, example, takes, body, sql) { HelperBody = helper, FailsOnNull = true };

    [GeneratedRegex($"^{Unmarked}\\z")]
    private static partial Regex UnmarkedPattern();

    [GeneratedRegex($"^{Spaced}\\z")]
    private static partial Regex SpacedPattern();

    [GeneratedRegex($"^{Commas}\\z")]
    private static partial Regex CommasPattern();

    [GeneratedRegex($"^{Points}\\z")]
    private static partial Regex PointsPattern();

    [GeneratedRegex($"^{Comma}\\z")]
    private static partial Regex CommaPattern();

    [GeneratedRegex($"^{TwoWays}\\z")]
    private static partial Regex TwoWaysPattern();
}
