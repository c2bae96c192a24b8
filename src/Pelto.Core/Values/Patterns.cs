using System.Text.RegularExpressions;

namespace Pelto.Core.Values;

/// <summary>
/// Patterns that administrators write: regular expressions that a text must fit as a whole, run without backtracking so that none can run
/// for long.
/// </summary>
public static partial class Patterns
{
    /// <summary>Why a pattern cannot be used, or null.</summary>
    public static string? Refuse(string pattern)
    {
        try
        {
            _ = For(pattern);
            return pattern.Length > 200 ? "A pattern has at most 200 characters." : null;
        }
        catch (Exception wrong) when (wrong is ArgumentException or NotSupportedException)
        {
            return $"This pattern is not a regular expression that can be used: {wrong.Message}";
        }
    }

    /// <summary>True when the whole text fits.</summary>
    public static bool Fits(string text, string pattern)
    {
        try
        {
            return For(pattern).IsMatch(text);
        }
        catch (Exception wrong) when (wrong is ArgumentException or NotSupportedException)
        {
            return true;
        }
    }

    /// <summary>
    /// A simple pattern in words, such as “two capital letters, “-”, four digits”; null for one that is not told so easily.
    /// </summary>
    public static string? InWords(string pattern)
    {
        var said = new List<string>();
        for (var at = 0; at < pattern.Length; )
        {
            if (
                Atom().Match(pattern, at) is not { Success: true } atom
                || atom.Index != at
                || Named(atom.Groups["what"].Value) is not { } what
            )
                return null;
            at += atom.Length;
            var times = atom.Groups["times"].Value;
            if (Times(times, what) is not { } words)
                return null;

            // Letters that stand as they are belong together.
            if (times.Length == 0 && what.Literal is { } literal && said.Count > 0 && said[^1] is ['“', .., '”'] before)
                said[^1] = $"{before[..^1]}{literal}”";
            else
                said.Add(words);
        }

        return said.Count is 0 or > 8 ? null : string.Join(", ", said);
    }

    // What one place of a text takes: a letter as it is, or one of many.
    private readonly record struct Place(string? Literal, string One, string Many);

    private static Place? Named(string what) =>
        what switch
        {
            "[0-9]" or @"\d" => new(null, "digit", "digits"),
            "[A-Z]" => new(null, "capital letter", "capital letters"),
            "[a-z]" => new(null, "small letter", "small letters"),
            "[A-Za-z]" or "[a-zA-Z]" or @"\p{L}" => new(null, "letter", "letters"),
            "[A-Z0-9]" or "[0-9A-Z]" => new(null, "capital letter or digit", "capital letters or digits"),
            "[A-Za-z0-9]" or "[a-zA-Z0-9]" or "[0-9A-Za-z]" => new(null, "letter or digit", "letters or digits"),
            "." => new(null, "character", "characters"),
            [var letter] => new(letter.ToString(), "", ""),
            ['\\', var mark] when !char.IsLetterOrDigit(mark) => new(mark.ToString(), "", ""),
            _ => null,
        };

    private static string? Times(string times, Place? place)
    {
        var (what, counts) = (place!.Value, Counts().Match(times));
        var (minimum, most) = times switch
        {
            "" => (1, 1),
            "?" => (0, 1),
            "+" => (1, -1),
            "*" => (0, -1),
            _ => (
                Number(counts.Groups["least"].Value),
                counts.Groups["comma"].Success
                    ? counts.Groups["most"].Value is { Length: > 0 } to
                        ? Number(to)
                        : -1
                    : Number(counts.Groups["least"].Value)
            ),
        };
        if (what.Literal is { } literal)
            return (minimum, most) switch
            {
                (1, 1) => $"“{literal}”",
                (0, 1) => $"perhaps “{literal}”",
                _ => null,
            };
        return (minimum, most) switch
        {
            (0, 1) => $"perhaps one {what.One}",
            (0, -1) => $"any number of {what.Many}",
            (var from, -1) => $"{Word(from)} {(from == 1 ? what.One : what.Many)} or more",
            (0, var to) => $"at most {Word(to)} {(to == 1 ? what.One : what.Many)}",
            var (from, to) => from == to ? $"{Word(from)} {(from == 1 ? what.One : what.Many)}" : $"{Word(from)} to {Word(to)} {what.Many}",
        };
    }

    private static int Number(string text) => int.Parse(text, System.Globalization.CultureInfo.InvariantCulture);

    private static string Word(int number) =>
        number is > 0 and <= 12
            ? new[] { "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve" }[number - 1]
            : number.ToString(System.Globalization.CultureInfo.InvariantCulture);

    [GeneratedRegex(@"\G(?<what>\[[^\]\\^]+\]|\\p\{L\}|\\.|[^\[\](){}|^$*+?\\])(?<times>\{[0-9]{1,3}(?:,[0-9]{0,3})?\}|[?+*])?")]
    private static partial Regex Atom();

    [GeneratedRegex(@"^\{(?<least>[0-9]+)(?<comma>,)?(?<most>[0-9]*)\}$")]
    private static partial Regex Counts();

    private static Regex For(string pattern) => new($"^(?:{pattern})$", RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);
}
