using System.Text.Json;
using CsCheck;

namespace Pelto.Core.Tests.Values;

public sealed class LocaleTests
{
    private static readonly Locale[] Locales =
    [
        .. Locale.Languages.Select(
            (language, i) =>
                Locale.For(language, new[] { "Europe/Helsinki", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "" }[i % 5])
        ),
    ];

    // What one is called in a language is what another one is called where it was defined, and the other way round.
    private static readonly Choice[] Colours =
    [
        new("red", "Red; bright")
        {
            Texts = new Dictionary<string, string> { ["fi"] = "Punainen; kirkas", ["de"] = "Rot" },
        },
        new("blue", "Blue")
        {
            Texts = new Dictionary<string, string> { ["fi"] = "Sininen", ["nb"] = "Green" },
        },
        new("green", "Green")
        {
            Texts = new Dictionary<string, string> { ["nb"] = "BLUE", ["de"] = "Red" },
        },
    ];

    // For each kind, values that it can hold.
    private static readonly (FieldKind Kind, Gen<Value> Values)[] Kinds =
    [
        (new TextKind(40), Gen.String[Gen.Char['!', '~'], 1, 30].Select(Value.From)),
        (new LongTextKind(200), Gen.String[Gen.Char['!', '~'], 1, 30].Array[1, 3].Select(lines => Value.From(string.Join('\n', lines)))),
        (new IntegerKind(), Gen.Long[-999_999_999_999_999, 999_999_999_999_999].Select(number => Value.From((decimal)number))),
        (new DecimalKind(18, 4), Gen.Long[-99_999_999_999_999, 99_999_999_999_999].Select(number => Value.From(number / 10000m))),
        (new PercentKind(2), Gen.Long[-9_999_999, 9_999_999].Select(number => Value.From(number / 10000m))),
        (
            new MoneyKind(15, ["EUR", "JPY", "KWD"]),
            Gen.Select(Gen.Long[-9_999_999_999, 9_999_999_999], Gen.Int[0, 2], (number, i) =>
                Value.Money(number / Numbers.PowerOfTen(new[] { 2, 0, 3 }[i]), new[] { "EUR", "JPY", "KWD" }[i])
            )
        ),
        (
            new QuantityKind(15, 3, [.. Units.All.Where(unit => unit.Dimension == "area")]),
            Gen.Select(Gen.Long[-999_999_999_999, 999_999_999_999], Gen.Int[0, 3], (number, i) =>
                Value.Quantity(number / 1000m, Units.All.Where(unit => unit.Dimension == "area").ElementAt(i).Code)
            )
        ),
        (new DateKind(), Gen.Int[0, 3_652_058].Select(day => Value.From(DateOnly.FromDayNumber(day)))),
        (new TimeKind(), Gen.Int[0, 86_399].Select(second => Value.From(new TimeOnly(second * TimeSpan.TicksPerSecond)))),
        (
            new MomentKind(),
            Gen.Long[new DateTime(1980, 1, 1).Ticks / 10_000_000, new DateTime(2060, 1, 1).Ticks / 10_000_000]
                .Select(second => Value.From(new DateTime(second * 10_000_000, DateTimeKind.Utc)))
        ),
        (new DurationKind(), Gen.Long[-9_999_999_999, 9_999_999_999].Select(seconds => Value.From((decimal)seconds))),
        (new YesNoKind(), Gen.Bool.Select(Value.From)),
        (new ChoiceKind(Colours), Gen.Int[0, 2].Select(i => Value.From(Colours[i].Code))),
        (
            new SeveralChoicesKind(Colours),
            Gen.Int[1, 7].Select(set => Value.From(Colours.Where((_, i) => (set & (1 << i)) != 0).Select(choice => choice.Code)))
        ),
        (
            new PhoneKind("FI"),
            Gen.Int[1_000_000, 9_999_999].Select(number => Value.From("+35841" + number.ToString(CultureInfo.InvariantCulture)))
        ),
        (new FileKind(), Gen.String[Gen.Char['a', 'z'], 1, 20].Select(name => Value.FileOf(Guid.NewGuid(), name + ".pdf"))),
        (new LinkKind("x"), Gen.Long[1, long.MaxValue / 2].Select(Value.LinkTo)),
    ];

    [Fact(
        DisplayName = "Whatever is written is read back as it was, for every kind, "
            + "in every language, on every clock, and in the programming interface"
    )]
    public void Everything_reads_back()
    {
        foreach (var (kind, values) in Kinds)
        {
            Gen.Select(values, Gen.Int[0, Locales.Length - 1])
                .Sample(
                    pair =>
                    {
                        var (value, locale) = (pair.Item1, Locales[pair.Item2]);
                        var back = kind.Parse(kind.Format(value, locale), locale);
                        Assert.True(
                            back == new Parsed(value),
                            $"{kind.Name} in {locale.Culture.Name} {locale.Zone.Id}: "
                                + $"{value} was written “{kind.Format(value, locale)}” and read as {back}"
                        );
                        var typed = $"{kind.Input(value, locale)}{(kind.IsAmount ? " " + value.Unit : "")}";
                        Assert.True(
                            kind.Parse(typed, locale) == new Parsed(value),
                            $"{kind.Name} in {locale.Culture.Name}: an input holds “{typed}” for {value}"
                        );
                        using var json = JsonDocument.Parse(kind.ToJson(value)!.ToJsonString());
                        Assert.Equal(new Parsed(value), kind.FromJson(json.RootElement));
                        Assert.Equal(value, kind.FromColumns([.. kind.Columns.Select((_, i) => kind.ToColumn(value, i))]));
                    },
                    iter: 300,
                    threads: 1
                );
        }
    }

    [Fact(
        DisplayName = "A choice is read and written in the language of whoever looks, "
            + "and as it was defined by all others; programs have its code"
    )]
    public void Choices_have_languages()
    {
        var (kind, finnish, german) = (
            new ChoiceKind(new ChoiceSet(Colours, IsByLabel: true)),
            Locale.For("fi-FI", ""),
            Locale.For("de-DE", "")
        );
        Assert.Equal(
            ("Sininen", "Blue", "Green", "Red"),
            (
                kind.Format(Value.From("blue"), finnish),
                kind.Format(Value.From("blue")),
                kind.Format(Value.From("green"), finnish),
                kind.Format(Value.From("green"), german)
            )
        );
        Assert.Equal(
            ["blue", "blue", "red", "blue"],
            new[]
            {
                kind.Parse("sininen", finnish),
                kind.Parse("Blue", finnish),
                kind.Parse("ROT", german),
                kind.Parse("Green", Locale.For("nb-NO", "")),
            }.Select(read => read.Value.Text)
        );
        Assert.Equal("“Sininen” is not among the choices.", kind.Parse("Sininen").Refusal);
        Assert.Equal(["green", "red", "blue"], kind.Choices.Offered(finnish).Select(choice => choice.Code));
        Assert.Equal(["red", "blue"], kind.Choices.Reading("in").Select(choice => choice.Code));

        string[] Wrong(params Choice[] choices)
        {
            var said = new List<string>();
            ChoiceRules.Checked(choices, (_, sentence) => said.Add(sentence));
            return [.. said];
        }

        Assert.Empty(Wrong(Colours));
        Assert.Equal(
            "“Red; bright” is there twice for people who read fi.",
            Assert.Single(
                Wrong(
                    Colours[0] with
                    {
                        Texts = null,
                    },
                    Colours[1] with
                    {
                        Texts = new Dictionary<string, string> { ["fi"] = "Red; bright" },
                    }
                )
            )
        );
        Assert.StartsWith(
            "“finnish” is not a two-letter language code",
            Assert.Single(Wrong(Colours[1] with { Texts = new Dictionary<string, string> { ["finnish"] = "x" } })),
            StringComparison.Ordinal
        );
    }

    [Theory(DisplayName = "Numbers, days and times are read as a country writes them (Unicode CLDR, as the platform carries it)")]
    [
        InlineData("fi-FI", "1 234,5", "1234.5"),
        InlineData("fi-FI", "1.5", "1.5"),
        InlineData("de-DE", "1.234,5", "1234.5"),
        InlineData("de-DE", "1.5", null),
        InlineData("de-DE", "12.34,5", null)
    ]
    [
        InlineData("en-GB", "1,234.5", "1234.5"),
        InlineData("en-GB", "1,5", null),
        InlineData("en-US", "-0.25", "-0.25"),
        InlineData("de-CH", "1’234.5", "1234.5"),
        InlineData("de-CH", "1'234.5", "1234.5"),
        InlineData("fr-FR", "1 234,5", "1234.5"),
        InlineData("nb-NO", "−12,5", "-12.5")
    ]
    public void Numbers_follow_the_country(string language, string typed, string? number)
    {
        var read = Numbers.TryParse(typed, out var value, Locale.For(language, ""));
        Assert.Equal(number, read ? value.ToString(CultureInfo.InvariantCulture) : null);
    }

    [Theory(
        DisplayName = "What two conventions read as two numbers is asked about, by every kind of number, and what all read alike is taken"
    )]
    [
        InlineData("", "1,000", "1 000 or 1. Write 1000 or 1."),
        InlineData("", "12,500", "12 500 or 12.5. Write 12500 or 12.5."),
        InlineData("", "-12,500", "-12 500 or -12.5."),
        InlineData("fi-FI", "1.500", "1 500 or 1,5. Write 1500 or 1,5."),
        InlineData("fr-FR", "1.500", "or 1,5."),
        InlineData("de-CH", "1,500", "or 1.5.")
    ]
    [
        InlineData("", "1,5", null),
        InlineData("", "0,125", null),
        InlineData("", "1234,500", null),
        InlineData("", "1.500", null),
        InlineData("", "1,234.5", null),
        InlineData("", "1.234,5", null),
        InlineData("", "1 000,125", null),
        InlineData("en-GB", "1,000", null),
        InlineData("de-DE", "1.000", null)
    ]
    public void Two_numbers_are_asked_about(string language, string typed, string? asked)
    {
        var locale = Locale.For(language, "");
        foreach (
            var (kind, text) in new (FieldKind, string)[]
            {
                (new DecimalKind(15, 3), typed),
                (new IntegerKind(), typed),
                (new PercentKind(3), typed + " %"),
                (new MoneyKind(15, ["KWD"]), typed + " KWD"),
                (new MoneyKind(15, ["KWD"]), "KWD " + typed),
                (new QuantityKind(15, 3, [Units.Find("KGM")!]), typed + " kg"),
            }
        )
        {
            var refusal = kind.Parse(text, locale).Refusal;
            if (asked is not null)
                Assert.Contains(asked, refusal?.Replace('\u00a0', ' ').Replace('\u202f', ' '), StringComparison.Ordinal);
            else if (kind is not IntegerKind)
                Assert.Null(refusal);
        }
    }

    [Theory(DisplayName = "One reading is the number that it says")]
    [
        InlineData("1,234.5", "1234.5"),
        InlineData("1.234,5", "1234.5"),
        InlineData("1,000,000", "1000000"),
        InlineData("1.000.000", "1000000"),
        InlineData("-1,234,567.25", "-1234567.25"),
        InlineData("1,23,4", null),
        InlineData("1,234,5", null),
        InlineData("1.2.3", null)
    ]
    public void One_reading_is_taken(string typed, string? number) =>
        Assert.Equal(number, Numbers.TryParse(typed, out var value) ? value.ToString(CultureInfo.InvariantCulture) : null);

    [Theory(DisplayName = "An amount is read with the unit or currency that is written beside it, as people write them every day")]
    [
        InlineData("1.5 t", "TNE"),
        InlineData("3 kg", "KGM"),
        InlineData("3kgs", "KGM"),
        InlineData("3 KG", "KGM"),
        InlineData("2 metric tons", "TNE"),
        InlineData("5 tonnes", "TNE"),
        InlineData("7 mg", "MGM"),
        InlineData("7 Mg", null),
        InlineData("7 MG", null),
        InlineData("7 ton", null),
        InlineData("7 KGM", "KGM"),
        InlineData("lbs 7", "LBR")
    ]
    public void Units_are_read_as_written(string typed, string? code)
    {
        var read = new QuantityKind(12, 3, [.. Units.All.Where(unit => unit.Dimension == "mass")]).Parse(typed);
        Assert.Equal(code, read.Refusal is null ? read.Value.Unit : null);
    }

    [Theory(DisplayName = "A sign is read as the one of the field's currencies that it can stand for")]
    [
        InlineData("12 USD", "USD"),
        InlineData("12 usd", "USD"),
        InlineData("$12", "USD"),
        InlineData("12 €", "EUR"),
        InlineData("€ 1 200", "EUR"),
        InlineData("12 kr", null),
        InlineData("12 £", null),
        InlineData("12", "EUR")
    ]
    public void Signs_are_read_as_written(string typed, string? code)
    {
        var read = new MoneyKind(12, ["EUR", "USD", "NOK", "SEK"]).Parse(typed);
        Assert.Equal(code, read.Refusal is null ? read.Value.Unit : null);
    }

    [Theory(DisplayName = "The order of day and month is the country's; ISO 8601 is read everywhere")]
    [
        InlineData("en-US", "11/25/2026"),
        InlineData("en-GB", "25/11/2026"),
        InlineData("fi-FI", "25.11.2026"),
        InlineData("fi-FI", "25.11.26"),
        InlineData("sv-SE", "2026-11-25"),
        InlineData("de-DE", "2026-11-25"),
        InlineData("en-US", "20261125"),
        InlineData("", "25.11.2026")
    ]
    public void Days_follow_the_country(string language, string typed)
    {
        Assert.True(Times.TryDay(typed, out var day, Locale.For(language, "")));
        Assert.Equal(new DateOnly(2026, 11, 25), day);
    }

    [Theory(DisplayName = "What is no day, no time and no moment is refused")]
    [
        InlineData("date", "13/25/2026"),
        InlineData("date", "25.11"),
        InlineData("date", "tomorrow"),
        InlineData("date", "0.1.2026"),
        InlineData("time", "25:00"),
        InlineData("time", "7"),
        InlineData("time", "12:61"),
        InlineData("time", "13 pm"),
        InlineData("date_time", "2026-11-25"),
        InlineData("date_time", "14:30")
    ]
    public void Nonsense_is_refused(string kind, string typed)
    {
        FieldKind asked = kind switch
        {
            "date" => new DateKind(),
            "time" => new TimeKind(),
            _ => new MomentKind(),
        };
        Assert.NotNull(asked.Parse(typed, Locale.For("en-US", "")).Refusal);
    }

    [Fact(DisplayName = "Where clocks skip an hour a time is refused with the reason; where they repeat one, the text says which")]
    public void Clocks_change()
    {
        var helsinki = Locale.For("fi-FI", "Europe/Helsinki");
        Assert.Equal(
            "On that day clocks went forward: there was no 3.30 in Europe/Helsinki.",
            new MomentKind().Parse("29.3.2026 3.30", helsinki).Refusal
        );
        var (first, second) = (
            new DateTime(2026, 10, 25, 0, 30, 0, DateTimeKind.Utc),
            new DateTime(2026, 10, 25, 1, 30, 0, DateTimeKind.Utc)
        );
        Assert.Equal("25.10.2026 3.30 +03:00", Times.Format(first, helsinki));
        Assert.Equal("25.10.2026 3.30 +02:00", Times.Format(second, helsinki));
        Assert.Equal("25.11.2026 14.30", Times.Format(new DateTime(2026, 11, 25, 12, 30, 0, DateTimeKind.Utc), helsinki));
    }

    [Fact(DisplayName = "A setting that is not known keeps nobody out")]
    public void Unknown_settings_fall_back() => Assert.Equal(Locale.International, Locale.For("xx-nothing", "Mars/Olympus"));
}
