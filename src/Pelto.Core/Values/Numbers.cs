using System.Globalization;
using System.Text;

namespace Pelto.Core.Values;

/// <summary>Numbers as people read and type them.</summary>
/// <remarks>
/// Groups of three are set apart by a space and either point or comma may mark the decimals, as the SI brochure (9th edition, 5.4.4)
/// and ISO 80000-1 (7.3) have it; so "1 234.5", "1234,5" and "1234.5" are one number, and "1,234.5" is refused because its comma could mean either.
/// </remarks>
public static class Numbers
{
    private const char Gap = '\u00a0';

    /// <summary>Reads a number; false when the text is not one.</summary>
    public static bool TryParse(string text, out decimal number)
    {
        var plain = new StringBuilder(text.Length);
        foreach (var c in text)
        {
            if (char.IsWhiteSpace(c)) continue;
            plain.Append(c switch { ',' => '.', '\u2212' => '-', _ => c });
        }

        return decimal.TryParse(plain.ToString(), NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out number);
    }

    /// <summary>Writes a number with at least this many decimals, its thousands set apart.</summary>
    public static string Format(decimal number, int decimals = 0)
    {
        var scale = Math.Max(decimals, number.Scale);
        var digits = Math.Abs(number).ToString("F" + scale.ToString(CultureInfo.InvariantCulture), CultureInfo.InvariantCulture);
        var point = digits.IndexOf('.', StringComparison.Ordinal);
        var whole = point < 0 ? digits.Length : point;
        var written = new StringBuilder(number < 0 ? "-" : "");
        for (var i = 0; i < digits.Length; i++)
        {
            if (i > 0 && i < whole && (whole - i) % 3 == 0) written.Append(Gap);
            written.Append(digits[i]);
        }

        return written.ToString();
    }

    /// <summary>Rounds to that many decimals, halves away from zero; negative counts round to tens, hundreds and so on.</summary>
    /// <remarks>OpenFormula 6.17.5. Numbers without that many decimals come back as they are.</remarks>
    public static decimal Round(decimal number, int decimals)
    {
        if (decimals >= 28) return number;
        if (decimals >= 0) return Math.Round(number, decimals, MidpointRounding.AwayFromZero);
        if (decimals < -28) return 0;
        var unit = 1m;
        for (var i = decimals; i < 0; i++) unit *= 10;
        return Math.Round(number / unit, 0, MidpointRounding.AwayFromZero) * unit;
    }
}
