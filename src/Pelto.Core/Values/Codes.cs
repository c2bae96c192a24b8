using System.Text;

namespace Pelto.Core.Values;

/// <summary>Codes: plain identifiers that are lasting names in definitions, formulas, columns and the programming interface.</summary>
public static class Codes
{
    /// <summary>The longest code; PostgreSQL cuts names at 63 bytes and constraints add a few words.</summary>
    public const int LongestCode = 40;

    /// <summary>The rule, as a sentence.</summary>
    public const string Rule =
        "a code begins with a small letter a to z and goes on with small letters, digits and underscores, 40 at most.";

    // Columns that tables have for themselves, PostgreSQL's own among them.
    private static readonly HashSet<string> Taken = new(StringComparer.Ordinal)
    {
        "id",
        "parent",
        "position",
        "origins",
        "version",
        "remove",
        "xmin",
        "xmax",
        "cmin",
        "cmax",
        "ctid",
        "tableoid",
        "oid",
    };

    /// <summary>True for a plain identifier that nothing else has taken.</summary>
    public static bool IsCode(string? text) =>
        text is { Length: > 0 and <= LongestCode }
        && text[0] is >= 'a' and <= 'z'
        && text.All(c => c is (>= 'a' and <= 'z') or (>= '0' and <= '9') or '_');

    /// <summary>
    /// True for what can be the code of a choice: an identifier, capitals allowed, since country and currency codes are written so.
    /// </summary>
    public static bool IsChoiceCode(string? text) =>
        text is { Length: > 0 and <= LongestCode }
        && char.IsAsciiLetter(text[0])
        && text.All(c => char.IsAsciiLetterOrDigit(c) || c == '_');

    /// <summary>True for a name that tables need for themselves.</summary>
    public static bool IsReserved(string code) => Taken.Contains(code);

    /// <summary>
    /// The code that follows from a label: "Leg angle, °" gives leg_angle. Made unique among <paramref name="taken"/> by a number.
    /// </summary>
    public static string From(string label, IEnumerable<string> taken)
    {
        var plain = new StringBuilder();
        foreach (var c in label.Normalize(NormalizationForm.FormD))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark)
                continue;
            foreach (var letter in Spelled(char.ToLowerInvariant(c)))
            {
                if (letter is (>= 'a' and <= 'z') or (>= '0' and <= '9'))
                    plain.Append(letter);
                else if (plain.Length > 0 && plain[^1] != '_')
                    plain.Append('_');
            }
        }

        var code = plain.ToString().Trim('_');
        if (code.Length == 0)
            return "";
        if (char.IsAsciiDigit(code[0]))
            code = "n" + code;
        code = code[..Math.Min(code.Length, LongestCode - 3)].TrimEnd('_');
        var used = taken.Concat(Taken).ToHashSet(StringComparer.Ordinal);
        if (!used.Contains(code))
            return code;
        for (var n = 2; ; n++)
        {
            var numbered = string.Create(CultureInfo.InvariantCulture, $"{code}_{n}");
            if (!used.Contains(numbered))
                return numbered;
        }
    }

    private static string Spelled(char c) =>
        c switch
        {
            'ø' => "o",
            'æ' => "ae",
            'ß' => "ss",
            'đ' => "d",
            'ł' => "l",
            'þ' => "th",
            _ => c.ToString(),
        };
}
