namespace Pelto.Core.Values;

/// <summary>Check characters: what a slip of the finger changes, they give away.</summary>
public static class CheckDigits
{
    /// <summary>ISO/IEC 7064, MOD 97-10, over digits and letters (A is 10, Z is 35): valid when the whole leaves 1.</summary>
    public static bool Mod97(string text) =>
        text.Aggregate(0, static (rest, c) =>
            char.IsAsciiDigit(c) ? ((rest * 10) + c - '0') % 97 : ((rest * 100) + char.ToUpperInvariant(c) - 'A' + 10) % 97
        ) == 1;

    /// <summary>The modulo 10 check of GS1, weights 3 and 1 from the right (GS1 General Specifications 7.9).</summary>
    public static bool Mod10(string digits) =>
        digits.Length > 1
        && digits.All(char.IsAsciiDigit)
        && digits.Reverse().Select(static (c, i) => (c - '0') * (i % 2 == 0 ? 1 : 3)).Sum() % 10 == 0;

    /// <summary>ISO/IEC 7064, MOD 11-2: digits, then a digit or X.</summary>
    public static bool Mod11(string text)
    {
        if (text.Length < 2 || !text[..^1].All(char.IsAsciiDigit) || !(char.IsAsciiDigit(text[^1]) || text[^1] is 'X'))
            return false;
        var rest = text[..^1].Aggregate(0, static (sum, c) => (sum + c - '0') * 2 % 11);
        return (rest + (text[^1] == 'X' ? 10 : text[^1] - '0')) % 11 == 1;
    }

    /// <summary>ISO/IEC 7064, MOD 37-36 (a hybrid system): digits and letters, the last of them the check character.</summary>
    public static bool Mod37(string text)
    {
        if (text.Length < 2 || !text.All(char.IsAsciiLetterOrDigit))
            return false;
        var carried = text[..^1]
            .Aggregate(36, static (carry, c) =>
            {
                var sum = (carry + Number(c)) % 36;
                return (sum == 0 ? 36 : sum) * 2 % 37;
            });
        return (carried + Number(text[^1])) % 36 == 1;
    }

    /// <summary>
    /// The check digit of a freight container (ISO 6346:2022, annex A): letters from 10 on without multiples of 11, weights of powers of
    /// two, modulo 11, ten counts as nought.
    /// </summary>
    public static bool Container(string text)
    {
        var sum = text[..10].Select(static (c, i) => (char.IsAsciiDigit(c) ? c - '0' : Letter(c)) << i).Sum();
        return sum % 11 % 10 == text[10] - '0';

        static int Letter(char c) => c - 'A' + 10 + ((c - 'A' + 9) / 10);
    }

    private static int Number(char c) => char.IsAsciiDigit(c) ? c - '0' : char.ToUpper(c, CultureInfo.InvariantCulture) - 'A' + 10;
}
