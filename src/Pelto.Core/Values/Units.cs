namespace Pelto.Core.Values;

/// <summary>A unit of measure.</summary>
/// <param name="Code">Its code in UN/ECE Recommendation 20.</param>
/// <param name="Symbol">As people write it.</param>
/// <param name="Name">Its name.</param>
/// <param name="Dimension">What it measures; units of one dimension convert into one another.</param>
/// <param name="Factor">How many of the dimension's coherent SI unit it is.</param>
public sealed record Unit(string Code, string Symbol, string Name, string Dimension, decimal Factor);

/// <summary>Units of measure and their conversion.</summary>
/// <remarks>
/// Codes: UN/ECE Recommendation 20. Factors: SI brochure, 9th edition, and for inch, pound and gallon their definitions of 1959; from
/// memory, held in a test against a library of units.
/// </remarks>
public static class Units
{
    /// <summary>All units, grouped by dimension.</summary>
    public static IReadOnlyList<Unit> All { get; } =
    [
        new("KGM", "kg", "kilogram", "mass", 1m),
        new("GRM", "g", "gram", "mass", 0.001m),
        new("MGM", "mg", "milligram", "mass", 0.000001m),
        new("TNE", "t", "tonne", "mass", 1000m),
        new("LBR", "lb", "pound", "mass", 0.45359237m),
        new("ONZ", "oz", "ounce", "mass", 0.028349523125m),
        new("STN", "ton (US)", "ton, short", "mass", 907.18474m),
        new("LTN", "ton (UK)", "ton, long", "mass", 1016.0469088m),
        new("MTR", "m", "metre", "length", 1m),
        new("CMT", "cm", "centimetre", "length", 0.01m),
        new("MMT", "mm", "millimetre", "length", 0.001m),
        new("KMT", "km", "kilometre", "length", 1000m),
        new("INH", "in", "inch", "length", 0.0254m),
        new("FOT", "ft", "foot", "length", 0.3048m),
        new("YRD", "yd", "yard", "length", 0.9144m),
        new("SMI", "mi", "mile", "length", 1609.344m),
        new("NMI", "nmi", "nautical mile", "length", 1852m),
        new("MTK", "m²", "square metre", "area", 1m),
        new("CMK", "cm²", "square centimetre", "area", 0.0001m),
        new("MMK", "mm²", "square millimetre", "area", 0.000001m),
        new("FTK", "ft²", "square foot", "area", 0.09290304m),
        new("MTQ", "m³", "cubic metre", "volume", 1m),
        new("LTR", "l", "litre", "volume", 0.001m),
        new("MLT", "ml", "millilitre", "volume", 0.000001m),
        new("GLL", "gal (US)", "gallon", "volume", 0.003785411784m),
        new("SEC", "s", "second", "time", 1m),
        new("MIN", "min", "minute", "time", 60m),
        new("HUR", "h", "hour", "time", 3600m),
        new("DAY", "d", "day", "time", 86400m),
        new("WEE", "wk", "week", "time", 604800m),
        new("NEW", "N", "newton", "force", 1m),
        new("B47", "kN", "kilonewton", "force", 1000m),
        new("B73", "MN", "meganewton", "force", 1000000m),
        new("PAL", "Pa", "pascal", "pressure", 1m),
        new("KPA", "kPa", "kilopascal", "pressure", 1000m),
        new("MPA", "MPa", "megapascal", "pressure", 1000000m),
        new("BAR", "bar", "bar", "pressure", 100000m),
        new("MTS", "m/s", "metre per second", "speed", 1m),
        new("KMH", "km/h", "kilometre per hour", "speed", 0.2777777777777777777777777778m),
        new("WTT", "W", "watt", "power", 1m),
        new("KWT", "kW", "kilowatt", "power", 1000m),
        new("JOU", "J", "joule", "energy", 1m),
        new("KJO", "kJ", "kilojoule", "energy", 1000m),
        new("KWH", "kWh", "kilowatt hour", "energy", 3600000m),
        new("H87", "pcs", "piece", "count", 1m),
        new("PR", "pair", "pair", "count", 2m),
        new("DZN", "dozen", "dozen", "count", 12m),
    ];

    private static readonly Dictionary<string, Unit> ByCode = All.ToDictionary(unit => unit.Code, StringComparer.Ordinal);

    // As people write them besides symbol, name and code. A "ton" alone is none: there are three.
    private static readonly (string Code, string[] Written)[] Everyday =
    [
        ("KGM", ["kgs", "kilo", "kilos", "kilogramme", "kilogrammes"]),
        ("GRM", ["gramme", "grammes"]),
        ("TNE", ["metric ton", "metric tons"]),
        ("LBR", ["lbs", "lbm"]),
        ("STN", ["short ton", "short tons", "short tn", "t short"]),
        ("LTN", ["long ton", "long tons", "long tn"]),
        ("MTR", ["meter", "meters"]),
        ("CMT", ["centimeter", "centimeters"]),
        ("MMT", ["millimeter", "millimeters"]),
        ("KMT", ["kilometer", "kilometers"]),
        ("INH", ["\"", "″", "inches"]),
        ("FOT", ["'", "′", "feet"]),
        ("YRD", ["yds"]),
        ("NMI", ["NM", "nautical miles"]),
        ("MTK", ["m2", "sqm", "sq m", "square meter", "square meters"]),
        ("CMK", ["cm2", "square centimeter", "square centimeters"]),
        ("MMK", ["mm2", "square millimeter", "square millimeters"]),
        ("FTK", ["ft2", "sq ft", "sqft", "square feet"]),
        ("MTQ", ["m3", "cbm", "cubic meter", "cubic meters"]),
        ("LTR", ["ltr", "liter", "liters"]),
        ("MLT", ["mL", "milliliter", "milliliters"]),
        ("GLL", ["gal (U.S.)", "US gallon", "US gallons"]),
        ("SEC", ["sec", "secs"]),
        ("MIN", ["mins"]),
        ("HUR", ["hr", "hrs"]),
        ("DAY", ["days"]),
        ("WEE", ["wks"]),
        ("KMH", ["kph", "km/hr"]),
        ("MTS", ["meter per second", "meters per second"]),
        ("H87", ["pc", "pce", "pces", "ea", "each", "piece", "pieces"]),
        ("PR", ["prs", "pairs"]),
        ("DZN", ["doz", "dozens"]),
    ];

    /// <summary>Each way to write a unit, letter by letter.</summary>
    public static IReadOnlyDictionary<string, Unit> Written { get; } =
        Ways().DistinctBy(way => way.Text, StringComparer.Ordinal).ToDictionary(way => way.Text, way => way.Unit, StringComparer.Ordinal);

    /// <summary>
    /// The same in small letters, for whoever writes in capitals; without what would be read as something else: <c>Mg</c> is a thousand
    /// million <c>mg</c>.
    /// </summary>
    public static IReadOnlyDictionary<string, Unit> WrittenSmall { get; } =
        Ways()
            .Where(way => way.Text[0] is not ('m' or 'M') || (way.Text.Length > 2 && way.Text != way.Unit.Symbol))
            .GroupBy(way => way.Text.ToLowerInvariant(), StringComparer.Ordinal)
            .Where(same => same.Select(way => way.Unit).Distinct().Count() == 1)
            .ToDictionary(same => same.Key, same => same.First().Unit, StringComparer.Ordinal);

    private static IEnumerable<(string Text, Unit Unit)> Ways() =>
        All.SelectMany(unit => new[] { unit.Code, unit.Symbol, unit.Name, Plural(unit.Name) }.Select(text => (text, unit)))
            .Concat(Everyday.SelectMany(day => day.Written.Select(text => (text, ByCode[day.Code]))));

    private static string Plural(string name) =>
        name.Split(' ') is [var first, "per", .. var rest] ? $"{first}s per {string.Join(' ', rest)}" : name + "s";

    /// <summary>Finds a unit by its code.</summary>
    public static Unit? Find(string code) => ByCode.GetValueOrDefault(code);

    /// <summary>
    /// Finds the unit that somebody wrote: by symbol, name or code, or as it is written every day. Null for none, and for what could be
    /// several.
    /// </summary>
    public static Unit? Read(string text) => Written.GetValueOrDefault(text) ?? WrittenSmall.GetValueOrDefault(text.ToLowerInvariant());

    /// <summary>Finds the unit that somebody wrote among some.</summary>
    public static Unit? Named(string text, IEnumerable<Unit> among) => Read(text) is { } unit && among.Contains(unit) ? unit : null;

    /// <summary>An amount in another unit of the same dimension.</summary>
    /// <exception cref="ArgumentException">The units measure different things.</exception>
    public static decimal Convert(decimal amount, Unit from, Unit to) =>
        from.Dimension == to.Dimension
            ? amount * from.Factor / to.Factor
            : throw new ArgumentException($"{from.Name} measures {from.Dimension}, {to.Name} {to.Dimension}.");
}
