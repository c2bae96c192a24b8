namespace Pelto.Core.Values;

/// <summary>Currencies and how many decimals each has.</summary>
/// <remarks>
/// ISO 4217:2015, list one of its maintenance agency; from memory, held in a test against a library that carries the list.
/// </remarks>
public static class Currencies
{
    private static readonly Dictionary<string, int> Digits = Find();

    /// <summary>All codes, in order.</summary>
    public static IReadOnlyList<string> All { get; } = [.. Digits.Keys.Order(StringComparer.Ordinal)];

    /// <summary>True for a code of the list.</summary>
    public static bool IsKnown(string code) => Digits.ContainsKey(code);

    /// <summary>How many decimals amounts in this currency have.</summary>
    public static int DecimalsOf(string code) => Digits.GetValueOrDefault(code, 2);

    // Signs that people write every day; most stand for several currencies. From memory.
    private static readonly Dictionary<string, string[]> Signs = new(StringComparer.OrdinalIgnoreCase)
    {
        ["€"] = ["EUR"],
        ["$"] = ["USD", "CAD", "AUD", "NZD", "SGD", "HKD", "MXN", "TWD"],
        ["£"] = ["GBP", "EGP", "FKP", "GIP", "SHP"],
        ["¥"] = ["JPY", "CNY"],
        ["kr"] = ["DKK", "ISK", "NOK", "SEK"],
        ["kr."] = ["DKK", "ISK", "NOK", "SEK"],
        ["zł"] = ["PLN"],
        ["Kč"] = ["CZK"],
        ["Ft"] = ["HUF"],
        ["₹"] = ["INR"],
        ["₺"] = ["TRY"],
        ["₩"] = ["KRW"],
        ["Fr."] = ["CHF"],
    };

    /// <summary>The currencies that a sign stands for; none for what is no sign.</summary>
    public static IReadOnlyList<string> WithSign(string sign) => Signs.GetValueOrDefault(sign, []);

    private static Dictionary<string, int> Find()
    {
        const string Two =
            "AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CNY COP CRC CUP "
            + "CVE CZK DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD HNL HTG HUF IDR ILS INR IRR JMD KES "
            + "KGS KHR KPW KYD KZT LAK LBP LKR LRD LSL MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO "
            + "NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC "
            + "SYP SZL THB TJS TMT TOP TRY TTD TWD TZS UAH USD UYU UZS VED VES WST XCD YER ZAR ZMW";
        const string None = "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX VND VUV XAF XOF XPF";
        const string Three = "BHD IQD JOD KWD LYD OMR TND";
        return Two.Split(' ')
            .Select(code => (code, 2))
            .Concat(None.Split(' ').Select(code => (code, 0)))
            .Concat(Three.Split(' ').Select(code => (code, 3)))
            .ToDictionary(pair => pair.code, pair => pair.Item2, StringComparer.Ordinal);
    }
}
