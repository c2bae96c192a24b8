namespace Pelto.Core.Values;

/// <summary>What real values say about the size that a field needs.</summary>
/// <param name="Count">How many there are; blanks are skipped.</param>
/// <param name="Longest">Characters of the longest.</param>
/// <param name="Shortest">Characters of the shortest.</param>
/// <param name="LongestText">The longest itself.</param>
/// <param name="Numbers">How many read as numbers.</param>
/// <param name="WholeDigits">The most digits before the point of a number.</param>
/// <param name="Decimals">The most digits after the point of a number.</param>
public sealed record ValueProfile(int Count, int Longest, int Shortest, string LongestText, int Numbers, int WholeDigits, int Decimals)
{
    /// <summary>Looks at values, as people write them in a locale.</summary>
    public static ValueProfile From(IEnumerable<string> values, Locale? locale = null)
    {
        var (count, longest, shortest, text, numbers, whole, decimals) = (0, 0, int.MaxValue, "", 0, 0, 0);
        foreach (var value in values.Select(static value => value.Trim()).Where(static value => value.Length > 0))
        {
            count++;
            var length = Characters.Count(value);
            if (length > longest)
                (longest, text) = (length, value);
            shortest = Math.Min(shortest, length);
            if (!Values.Numbers.TryParse(value, out var number, locale))
                continue;
            numbers++;
            var plain = Values.Numbers.Shortest(Math.Abs(number));
            decimals = Math.Max(decimals, plain.Scale);
            whole = Math.Max(whole, decimal.Truncate(plain).ToString(System.Globalization.CultureInfo.InvariantCulture).Length);
        }

        return new(count, longest, count == 0 ? 0 : shortest, text, numbers, whole, decimals);
    }

    /// <summary>A length with headroom: a fifth more, so 18 for 15. Common practice, no source.</summary>
    public int SuggestedLength => Math.Max(1, ((Longest * 6) + 4) / 5);

    /// <summary>Digits in all, with one whole digit to spare.</summary>
    public int SuggestedDigits => Math.Min(Sizes.MaxDigits, WholeDigits + 1 + Decimals);

    /// <summary>How many of some values are longer than a length.</summary>
    public static int LongerThan(IEnumerable<string> values, int length) => values.Count(value => Characters.Count(value.Trim()) > length);
}
