using System.Reflection;
using System.Text.Json;
using CsCheck;

namespace Pelto.Core.Tests.Values;

public sealed class KindTests
{
    public static TheoryData<FieldKind, string, string> Readings { get; } =
        new()
        {
            { new TextKind(10), "  Quay 7 ", "Quay 7" },
            { new IntegerKind(), "1 234", "1\u00a0234" },
            { new DecimalKind(8, 2), "1234,5", "1\u00a0234.50" },
            { new DecimalKind(8, 2), "\u22121 234.5", "-1\u00a0234.50" },
            { new DecimalKind(8, 2), "2.500", "2.50" },
            { new DateKind(), "18.11.2026", "2026-11-18" },
            { new DateKind(), "2026-2-3", "2026-02-03" },
            { new YesNoKind(), "y", "Yes" },
            { new ChoiceKind([new("red", "Red"), new("blue", "Dark blue")]), "dark BLUE", "Dark blue" },
            { new LinkKind("customer"), "17", "17" },
        };

    public static TheoryData<FieldKind, string, string> Refusals { get; } =
        new()
        {
            { new TextKind(5), "123456", "At most 5 characters fit; this has 6." },
            { new TextKind(5), "a\nb", "A line break or another control character cannot stand here." },
            { new IntegerKind(), "1.5", "Only a whole number fits; 1.5 has decimals." },
            { new IntegerKind(), "many", "“many” is not a whole number." },
            { new DecimalKind(5, 2), "1000", "At most 3 digits fit before the point." },
            { new DecimalKind(5, 2), "1.234", "At most 2 digits fit after the point." },
            { new DecimalKind(8, 2), "1,23,4.5", "“1,23,4.5” is not a number." },
            { new DateKind(), "30.2.2026", "“30.2.2026” is not a date. Write year, month and day, such as 2026-11-18." },
            { new YesNoKind(), "perhaps", "“perhaps” is neither yes nor no." },
            { new ChoiceKind([new("red", "Red")]), "green", "“green” is not among the choices." },
            { new LinkKind("customer"), "nobody", "Nothing is found for “nobody”. Choose from the list that opens while you type." },
        };

    [Theory(DisplayName = "What people type is read, and written as people read it"), MemberData(nameof(Readings))]
    public void Reads(FieldKind kind, string typed, string written)
    {
        var parsed = kind.Parse(typed);
        Assert.Null(parsed.Refusal);
        Assert.Equal(written, kind.Format(parsed.Value));
    }

    [Theory(DisplayName = "What a kind cannot hold is refused with a sentence"), MemberData(nameof(Refusals))]
    public void Refuses(FieldKind kind, string typed, string sentence) => Assert.Equal(sentence, kind.Parse(typed).Refusal);

    [Theory(DisplayName = "Blank is empty, whatever the kind"), MemberData(nameof(Readings))]
    public void Blank_is_empty(FieldKind kind, string typed, string written)
    {
        Assert.NotEqual(typed.Length, written.Length + 1000);
        Assert.True(kind.Parse("  ").Value.IsEmpty);
        Assert.Equal("", kind.Format(Value.Empty));
    }

    [Fact(DisplayName = "A number reads back as it was written")]
    public void Numbers_read_back() =>
        Gen.Select(Gen.Long[-999_999_999_999, 999_999_999_999], Gen.Int[0, 6])
            .Sample(
                (digits, decimals) =>
                {
                    var kind = new DecimalKind(18, decimals);
                    var value = Value.From(new decimal(digits) / Power(decimals));
                    return kind.Parse(kind.Format(value)) == new Parsed(value);
                }
            );

    [Fact(DisplayName = "A text, a date and a whole number read back as they were written, in the programming interface too")]
    public void Values_read_back()
    {
        Gen.Select(Gen.String[Gen.Char['!', '~'], 1, 30], Gen.Int[0, 3_000_000], Gen.Long[-999_999_999_999_999, 999_999_999_999_999])
            .Sample(
                (text, day, number) =>
                    Returns(new TextKind(30), Value.From(text))
                    && Returns(new DateKind(), Value.From(DateOnly.FromDayNumber(day)))
                    && Returns(new IntegerKind(), Value.From((decimal)number))
            );

        static bool Returns(FieldKind kind, Value value)
        {
            using var json = JsonDocument.Parse(kind.ToJson(value)!.ToJsonString());
            return kind.Parse(kind.Format(value)) == new Parsed(value) && kind.FromJson(json.RootElement) == new Parsed(value);
        }
    }

    [Fact(DisplayName = "Length counts characters, not halves of them")]
    public void Length_counts_characters()
    {
        Assert.Null(new TextKind(2).Parse("⚓⚓").Refusal);
        Assert.Null(new TextKind(2).Parse("🪢🪢").Refusal);
        Assert.NotNull(new TextKind(2).Parse("🪢🪢🪢").Refusal);
        Assert.NotNull(new TextKind(9).Parse("\ud83e").Refusal);
    }

    [Theory(DisplayName = "A value of the wrong JSON type is refused")]
    [InlineData("{}"), InlineData("[1]"), InlineData("1e40")]
    public void Wrong_json_is_refused(string json)
    {
        using var document = JsonDocument.Parse(json);
        Assert.All<FieldKind>(
            [new TextKind(5), new IntegerKind(), new DecimalKind(5, 1), new DateKind(), new YesNoKind(), new LinkKind("x")],
            kind => Assert.NotNull(kind.FromJson(document.RootElement).Refusal)
        );
    }

    private static decimal Power(int decimals) => Enumerable.Repeat(10m, decimals).Aggregate(1m, (a, b) => a * b);

    // One of each property that a definition can say of a kind, none of them what a kind takes by itself.
    private static readonly FieldDefinition Everything = new()
    {
        Length = 7,
        Digits = 9,
        Decimals = 3,
        Choices = [new("one", "One")],
        ChoiceList = "l-1",
        ChoicesByLabel = true,
        MayAdd = true,
        Currencies = ["SEK", "NOK"],
        Units = ["MTR"],
        Country = "SE",
        Pattern = "[A-Z]+",
        Scheme = "lei",
        CheckDigit = "mod97_10",
        Target = "partner",
        ClearsWithTarget = true,
    };

    [Fact]
    public void Every_property_of_a_kind_is_one_of_its_options()
    {
        var said = typeof(KindOptions)
            .GetProperties(BindingFlags.Public | BindingFlags.Instance)
            .Select(property => property.Name)
            .ToList();
        string[] notOfOneKind = [nameof(KindOptions.Kind), nameof(KindOptions.Pattern), nameof(KindOptions.ChoicesByLabel)];
        Assert.Equal(
            said.Except(notOfOneKind).Order(),
            KindOption.All.Select(option => char.ToUpperInvariant(option.Name[0]) + option.Name[1..]).Order()
        );
        Assert.All(KindOption.All, option => Assert.NotNull(option.Text(Everything)));
        Assert.All(KindOption.All, option => Assert.Contains(FieldKinds.Definable, kind => kind.Takes(option)));
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void A_kind_is_made_of_its_options_alone(string name)
    {
        var kind = FieldKinds.Find(name)!;
        var said = (FieldDefinition)Everything with { Kind = name };
        var stored = said.For(kind);
        Assert.All(KindOption.All, option => Assert.Equal(kind.Takes(option) ? option.Text(said) : null, option.Text(stored)));

        static FieldKind Made(KindOptions options) =>
            FieldKinds.Make(options, (property, sentence) => Assert.Fail($"{property}: {sentence}"))!;
        Assert.Equal($"{Made(said).Schema()}", $"{Made(stored).Schema()}");
        Assert.Equal(Made(said).Description, Made(stored).Description);
        Assert.Equal(
            stored.For(kind),
            new FieldDefinition().WithKindOf(said).For(kind) with
            {
                Pattern = said.Pattern,
                ChoicesByLabel = true,
            }
        );
    }

    public static TheoryData<string> Names => [.. FieldKinds.Definable.Select(kind => kind.Name)];

    [Theory]
    [InlineData("text", "takes 60 characters instead of 30")]
    [InlineData("long_text", "takes 60 characters instead of 2000")]
    [InlineData("secret", "takes 60 characters instead of 100")]
    [InlineData("decimal", "takes 12 digits, 2 of them after the point")]
    [InlineData("percent", "is percent, 1 after the point from now on")]
    public void A_change_of_size_is_said_by_what_it_was(string name, string said)
    {
        FieldKind Made(int? length, int? digits) =>
            FieldKinds.Make(
                new FieldDefinition
                {
                    Kind = name,
                    Length = length,
                    Digits = digits,
                },
                (_, sentence) => Assert.Fail(sentence)
            )!;
        Assert.Equal(said, Made(60, 12).Resized(Made(null, null)));
    }

    [Fact(DisplayName = "What the page of a field offers by kind: bounds, an index, totals, and which kinds a size is told of")]
    public void Kinds_say_what_is_offered()
    {
        Assert.Equal("integer decimal money percent quantity date time date_time duration", FieldKinds.Names(kind => kind.HasBounds));
        const string indexed = "text integer decimal percent date time date_time duration yes_no choice web_address email phone identifier";
        Assert.Equal(indexed, FieldKinds.Names(kind => kind.HasIndex));
        Assert.Equal("integer decimal money quantity duration", FieldKinds.Names(kind => kind.IsSummable));
        Assert.Equal("link links", FieldKinds.Names(kind => kind.IsLink));
        Assert.Equal("file image secret", FieldKinds.Names(kind => kind.StaysWithRecord));
    }
}
