using System.Text;
using System.Text.RegularExpressions;

namespace Pelto.Core.Values;

/// <summary>Numbers as people read and type them.</summary>
/// <remarks>
/// Internationally, groups of three are set apart by a space and either point or comma may mark the decimals, as the SI brochure (9th
/// edition, 5.4.4)
/// and ISO 80000-1 (7.3) have it; so "1 234.5", "1234,5" and "1234.5" are one number, and so is "1,234.5", which nobody reads otherwise.
/// "1,234" is two: a thousand and more to one half of the world, and one and a bit to the other. It is asked about.
/// In a language, its own marks count (Unicode CLDR, as the platform carries it), and a mark of groups only where groups end.
/// </remarks>
public static partial class Numbers
{
    private const char Gap = '\u00a0';

    /// <summary>Reads a number; false when the text is not one, or when it could be two.</summary>
    public static bool TryParse(string text, out decimal number, Locale? locale = null)
    {
        number = 0;
        var written = Plain(text);
        if (Foreign(written, locale) is not null)
            return false;
        if (locale is null or { IsInternational: true })
            written = TwoMarks().IsMatch(written) ? Grouped(written) : written.Replace(',', '.');
        else if (!TryPlain(locale.Culture.NumberFormat, ref written))
            return false;
        return decimal.TryParse(
            written,
            NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign,
            CultureInfo.InvariantCulture,
            out number
        );
    }

    /// <summary>
    /// Says of a text that is read as one number here and as another elsewhere which two those are; null for every other text.
    /// </summary>
    public static string? TwoWays(string text, Locale? locale = null)
    {
        var written = Plain(text);
        if (Foreign(written, locale) is not { } mark)
            return null;
        var (whole, part) = (Number(""), Number("."));
        return $"“{text.Trim()}” can mean {Format(whole, 0, locale)} or {Format(part, 0, locale)}. "
            + $"Write {written.Replace(mark.ToString(), "", StringComparison.Ordinal)} or {Format(part, 0, locale)}.";

        decimal Number(string instead) =>
            Shortest(decimal.Parse(written.Replace(mark.ToString(), instead, StringComparison.Ordinal), CultureInfo.InvariantCulture));
    }

    /// <summary>True when a unit, a currency or its sign stands in a text beside the number.</summary>
    public static bool NamesUnit(string text) => text.Any(IsOfUnit);

    /// <summary>True for what units, currencies and their signs are written with.</summary>
    public static bool IsOfUnit(char c) =>
        char.IsLetter(c) || c is '°' or '"' or '″' or '′' or 'µ' or '%' || char.GetUnicodeCategory(c) == UnicodeCategory.CurrencySymbol;

    private static string Plain(string text)
    {
        var plain = new StringBuilder(text.Length);
        foreach (var c in text)
            if (!char.IsWhiteSpace(c))
                plain.Append(c == '\u2212' ? '-' : c);
        return plain.ToString();
    }

    // A point or comma that marks neither decimals nor groups here, and could be either elsewhere; internationally that is the comma, since
    // Pelto itself writes points.
    private static char? Foreign(string written, Locale? locale)
    {
        if (OneMark().Match(written) is not { Success: true } match)
            return null;
        var mark = match.Groups["mark"].Value[0];
        if (locale is null or { IsInternational: true })
            return mark == ',' ? mark : null;
        var format = locale.Culture.NumberFormat;
        return mark.ToString() == format.NumberDecimalSeparator || mark.ToString() == format.NumberGroupSeparator ? null : mark;
    }

    // The mark that comes last, and once, is that of the decimals; one that comes twice is that of groups.
    private static string Grouped(string written)
    {
        var last = written.LastIndexOfAny(['.', ',']);
        var isDecimal = written.Count(c => c == written[last]) == 1;
        return isDecimal
            ? $"{written[..last].Replace(written[last] == '.' ? "," : ".", "", StringComparison.Ordinal)}.{written[(last + 1)..]}"
            : written.Replace(written[last].ToString(), "", StringComparison.Ordinal);
    }

    [GeneratedRegex(@"^[+-]?[1-9]\d{0,2}(?<mark>[.,])\d{3}$")]
    private static partial Regex OneMark();

    [GeneratedRegex(@"^[+-]?[1-9]\d{0,2}((,\d{3})+\.\d+|(\.\d{3})+,\d+|(,\d{3}){2,}|(\.\d{3}){2,})$")]
    private static partial Regex TwoMarks();

    /// <summary>Writes a number with at least this many decimals, its thousands set apart.</summary>
    public static string Format(decimal number, int decimals = 0, Locale? locale = null)
    {
        var (group, point, sign) = locale is null or { IsInternational: true }
            ? (Gap.ToString(), ".", "-")
            : (
                locale.Culture.NumberFormat.NumberGroupSeparator,
                locale.Culture.NumberFormat.NumberDecimalSeparator,
                locale.Culture.NumberFormat.NegativeSign
            );
        var scale = Math.Max(decimals, number.Scale);
        var digits = Math.Abs(number).ToString("F" + scale.ToString(CultureInfo.InvariantCulture), CultureInfo.InvariantCulture);
        var end = digits.IndexOf('.', StringComparison.Ordinal);
        var whole = end < 0 ? digits.Length : end;
        var written = new StringBuilder(number < 0 ? sign : "");
        for (var i = 0; i < digits.Length; i++)
        {
            if (i > 0 && i < whole && (whole - i) % 3 == 0)
                written.Append(group);
            if (i == end)
                written.Append(point);
            else
                written.Append(digits[i]);
        }

        return written.ToString();
    }

    /// <summary>Rounds to that many decimals, halves away from zero; negative counts round to tens, hundreds and so on.</summary>
    /// <remarks>OpenFormula 6.17.5. Numbers without that many decimals come back as they are.</remarks>
    public static decimal Round(decimal number, int decimals)
    {
        if (decimals >= 28)
            return number;
        if (decimals >= 0)
            return Math.Round(number, decimals, MidpointRounding.AwayFromZero);
        if (decimals < -28)
            return 0;
        var unit = 1m;
        for (var i = decimals; i < 0; i++)
            unit *= 10;
        return Math.Round(number / unit, 0, MidpointRounding.AwayFromZero) * unit;
    }

    /// <summary>The number without zeros at the end of its decimals.</summary>
    public static decimal Shortest(decimal number) => number / 1.0000000000000000000000000000m;

    /// <summary>Ten to a power of 0 to 28.</summary>
    public static decimal PowerOfTen(int power)
    {
        var result = 1m;
        for (var i = 0; i < power; i++)
            result *= 10;
        return result;
    }

    // "1.5" is one and a half in Finland, where a point marks nothing, and no number in Germany, where a point ends a group of three.
    private static bool TryPlain(NumberFormatInfo format, ref string written)
    {
        var (point, group) = (format.NumberDecimalSeparator, format.NumberGroupSeparator == "\u2019" ? "'" : format.NumberGroupSeparator);
        written = written.Replace('\u2019', '\'');
        var cut = written.IndexOf(point, StringComparison.Ordinal);
        if (cut < 0 && group != "." && point == ",")
            cut = written.IndexOf('.', StringComparison.Ordinal);
        var (whole, decimals) = cut < 0 ? (written, "") : (written[..cut], written[(cut + 1)..]);
        if (!string.IsNullOrWhiteSpace(group) && whole.Contains(group, StringComparison.Ordinal))
        {
            var groups = whole.TrimStart('-', '+').Split(group);
            if (groups[0].Length is 0 or > 3 || groups.Skip(1).Any(part => part.Length != 3))
                return false;
            whole = whole.Replace(group, "", StringComparison.Ordinal);
        }

        if (!decimals.All(char.IsAsciiDigit))
            return false;
        written = decimals.Length > 0 ? whole + "." + decimals : whole;
        return true;
    }
}
