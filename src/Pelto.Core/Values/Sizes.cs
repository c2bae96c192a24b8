namespace Pelto.Core.Values;

/// <summary>Reads the sizes that several kinds take. What cannot be is refused, and the nearest that can be is taken.</summary>
internal static class Sizes
{
    /// <summary>The most digits that a definition may ask for; decimal arithmetic stays exact below it.</summary>
    public const int MaxDigits = 18;

    /// <summary>The longest that fits.</summary>
    public static int Length(KindOptions options, Action<string, string> refuse, int usual, int longest)
    {
        var length = options.Length ?? usual;
        if (length < 1 || length > longest)
            refuse("length", $"A text is 1 to {longest.ToString(CultureInfo.InvariantCulture)} characters long.");
        return Math.Clamp(length, 1, longest);
    }

    /// <summary>All digits of a number.</summary>
    public static int Digits(KindOptions options, Action<string, string> refuse, int usual)
    {
        var digits = options.Digits ?? usual;
        if (digits is < 1 or > MaxDigits)
            refuse("digits", string.Create(CultureInfo.InvariantCulture, $"A number has 1 to {MaxDigits} digits in all."));
        return Math.Clamp(digits, 1, MaxDigits);
    }

    /// <summary>All digits, and those after the point.</summary>
    public static (int Digits, int Decimals) Decimal(KindOptions options, Action<string, string> refuse)
    {
        var (digits, decimals) = (Digits(options, refuse, 10), options.Decimals ?? 2);
        if (decimals < 0 || decimals > digits)
            refuse("decimals", "After the point there can be no fewer than 0 digits and no more than there are in all.");
        return (digits, Math.Clamp(decimals, 0, digits));
    }

    /// <summary>The record type that links point to.</summary>
    public static string Target(KindOptions options, Action<string, string> refuse)
    {
        if (string.IsNullOrEmpty(options.Target))
            refuse("target", "Choose the record type that it points to.");
        return options.Target ?? "";
    }

    /// <summary>What a list names twice, or nothing.</summary>
    public static bool HasTwice(IReadOnlyList<string> codes) => codes.Distinct(StringComparer.Ordinal).Count() < codes.Count;
}
