using Pelto.Core.Elements;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Catalog;

public sealed class ReadingTests
{
    [Fact(
        DisplayName = "Pasted choices: codes follow, and duplicates, "
            + "stray spaces and other spellings are pointed out before anything is taken"
    )]
    public void Choices_are_read()
    {
        var read = ChoiceReading.Read(
            Rows("Grade 8", "  Dark  blue ", "grade 8", "Dark-Blue", "Known", "", "Ærø 2"),
            [new("known", "Known")]
        );
        Assert.Equal(
            ["grade_8", "dark_blue", "dark_blue_2", "aero_2"],
            read.Where(choice => choice.IsTaken).Select(choice => choice.Choice.Code)
        );
        Assert.Equal(["Stray spaces were removed."], read[1].Remarks);
        Assert.Equal(["It is the same as line 1."], read[2].Remarks);
        Assert.Equal(["It is spelled almost like “Dark blue”: is it the same?"], read[3].Remarks);
        Assert.Equal((false, "It is in the list already."), (read[4].IsTaken, read[4].Remarks.Single()));
    }

    [Fact(
        DisplayName = "Pasted columns: codes and labels are told apart, with headings or without; what cannot be a code is mended and said"
    )]
    public void Columns_are_told_apart()
    {
        Assert.Equal(
            [("FI", "Finland"), ("NO", "Norway")],
            Taken([
                ["FI", "Finland"],
                ["NO", "Norway"],
            ])
        );
        Assert.Equal(
            [("FI", "Finland"), ("NO", "Norway")],
            Taken([
                    ["Finland, north", "FI"],
                    ["Norway", "NO"],
                ])
                .Select(pair => (pair.Item1, pair.Item2.Replace(", north", "", StringComparison.Ordinal)))
        );
        Assert.Equal(
            [("a", "Alpha")],
            Taken([
                ["Label", "Code", "Colour"],
                ["Alpha", "a", "moss"],
            ])
        );
        var mended = ChoiceReading
            .Read(
                [
                    ["code", "label"],
                    ["10 mm", "Ten"],
                ],
                []
            )
            .Single();
        Assert.Equal(("n10_mm", "“10 mm” cannot be a code; n10_mm is taken."), (mended.Choice.Code, mended.Remarks.Single()));
    }

    [Fact(
        DisplayName = "Pasted choices: labels in other languages have columns of their own, "
            + "an unknown colour is said, and one that is retired is not made a second time"
    )]
    public void Choices_are_read_with_all_they_have()
    {
        var read = ChoiceReading.Read(
            [
                ["code", "label", "fi", "colour", "de"],
                ["r", "Red", "Punainen", "moss", ""],
                ["b", "Blue", "", "turquoise", "Blau"],
                ["o", "old one", "", "", ""],
            ],
            [new("old", "Old one") { Retired = true }, new("gone", "Gone") { MergedInto = "r" }]
        );
        Assert.Equal(("Punainen", "moss"), (read[0].Choice.Texts!["fi"], read[0].Choice.Colour));
        Assert.Equal(["de"], read[1].Choice.Texts!.Keys);
        Assert.Equal(
            (null, "There is no colour “turquoise”: it has none now. There are moss, rye, clay, fjord, heather, slate."),
            (read[1].Choice.Colour, read[1].Remarks.Single())
        );
        Assert.Equal(
            (false, true, "“Old one” exists already and is retired. Offer it again, or give the new one another label."),
            (read[2].IsTaken, read[2].IsSlip, read[2].Remarks.Single())
        );
        Assert.True(ChoiceReading.Read(Rows("Gone"), [new("gone", "Gone") { MergedInto = "r" }]).Single().IsTaken);
    }

    [Fact(
        DisplayName = "A usual set takes what links point to, schemes, currencies and units, "
            + "and says where a label is there already or a choice twice"
    )]
    public void Sets_are_read_with_all_they_have()
    {
        var site = SiteDefinition.Nothing with
        {
            Fields =
            [
                new()
                {
                    Id = "f-old",
                    RecordType = "order",
                    Part = "header",
                    Code = "old_berth",
                    Label = "Berth",
                    Kind = "text",
                    Retired = true,
                },
            ],
        };
        IReadOnlyList<ReadField> Read(params string[][] rows) =>
            FieldSetReading.Read(
                [
                    ["label", "kind", "points to", "scheme", "currencies", "units", "choices"],
                    .. rows,
                ],
                Sample.OrderType(),
                site,
                Sample.Host
            );
        var read = Read(
            ["Yard", "", "Order", "", "", "", ""],
            ["Account", "", "", "IBAN", "", "", ""],
            ["Fee", "", "", "", "nok, EUR", "", ""],
            ["Load", "", "", "", "", "kg; ton (US)", ""],
            ["Grade", "", "", "", "", "", "A|B|a"],
            ["berth", "", "", "", "", "", ""],
            ["Number", "text", "", "", "SEK", "", ""]
        );
        Assert.All(read, row => Assert.Empty(row.Problems));
        Assert.Equal(["link", "identifier", "money", "quantity", "choice", "text", "text"], read.Select(row => row.Field.Kind));
        Assert.Equal(("order", "iban"), (read[0].Field.Target, read[1].Field.Scheme));
        Assert.Equal(["NOK", "EUR"], read[2].Field.Currencies!);
        Assert.Equal(["KGM", "STN"], read[3].Field.Units!);
        Assert.Equal("The choice “A” is there twice; it is taken once.", read[4].Remarks.Single());
        Assert.StartsWith("“Berth” was there and is retired", read[5].Remarks.Single(), StringComparison.Ordinal);
        Assert.Equal(
            [
                "“Number” exists already: built in, in the header, code number. Is it the same?",
                "A field of the kind Text has no currencies: “SEK” is skipped.",
            ],
            read[6].Remarks
        );
        IReadOnlyList<string> Sized(string kind) =>
            FieldSetReading
                .Read(
                    [
                        ["label", "kind", "length"],
                        ["Slack", kind, "30"],
                    ],
                    Sample.OrderType(),
                    site,
                    Sample.Host
                )[0]
                .Remarks;
        Assert.All(FieldKinds.Definable, kind =>
            Assert.Equal(
                kind.Takes(KindOption.Length) || kind.Takes(KindOption.Digits) || kind.Takes(KindOption.Decimals),
                !Sized(kind.Name).Contains($"A field of the kind {kind.Label} has no length: “30” is skipped.")
            )
        );
        var wrong = Read(
            ["Yard", "link", "cellar", "", "", "", ""],
            ["Yard 2", "link", "", "", "", "", ""],
            ["Account", "identifier", "", "own", "", "", ""],
            ["Load", "", "", "", "", "kg, stone", ""],
            ["Fee", "", "", "", "euros", "", ""]
        );
        Assert.StartsWith("There is no record type “cellar” to point to. There are: ", wrong[0].Problems[0], StringComparison.Ordinal);
        Assert.StartsWith("Say what it points to, in the column target.", wrong[1].Problems[0], StringComparison.Ordinal);
        Assert.StartsWith("There is no scheme “own”.", wrong[2].Problems[0], StringComparison.Ordinal);
        Assert.StartsWith("“stone” is not a known unit.", wrong[3].Problems[0], StringComparison.Ordinal);
        Assert.NotEmpty(wrong[4].Problems);
    }

    [Fact(DisplayName = "A usual set of fields is read from a table, and checked as a whole")]
    public void Sets_are_read()
    {
        var type = Sample.OrderType();
        var read = FieldSetReading.Read(
            [
                ["Label", "Kind", "Length", "Choices", "Part", "Required"],
                ["Vessel", "", "", "", "", "yes"],
                ["Draught", "decimal", "6,2", "", "", ""],
                ["Grade", "Choice", "", "A | B", "order lines", ""],
                ["Berth", "text", "12", "", "", ""],
            ],
            type,
            SiteDefinition.Nothing,
            Sample.Host
        );
        Assert.All(read, row => Assert.Empty(row.Problems));
        Assert.Equal(["text", "decimal", "choice", "text"], read.Select(row => row.Field.Kind));
        Assert.Equal(
            (6, 2, 12, true, "lines"),
            (read[1].Field.Digits, read[1].Field.Decimals, read[3].Field.Length, read[0].Field.Required, read[2].Field.Part)
        );
        var wrong = FieldSetReading.Read(
            [
                ["Note", "wine"],
                ["Twice", "text"],
                ["Twice", "date"],
                ["Size", "text", "long"],
                ["", "text"],
                ["X", "text", "", "", "cellar"],
            ],
            type,
            SiteDefinition.Nothing,
            Sample.Host
        );
        Assert.StartsWith("There is no kind “wine”.", wrong[0].Problems[0], StringComparison.Ordinal);
        Assert.Contains("“Twice” is there twice.", wrong[2].Problems);
        Assert.StartsWith("“long” is not a length.", wrong[3].Problems[0], StringComparison.Ordinal);
        Assert.NotEmpty(wrong[4].Problems);
        Assert.StartsWith("Order has no part “cellar”.", wrong[5].Problems[0], StringComparison.Ordinal);
    }

    [Fact(DisplayName = "The longest of real values, with room: 18 for 15 (common practice, no source)")]
    public void Sizes_follow_from_values()
    {
        var profile = ValueProfile.From(["Ab", "Fifteen letters", "", " 12.50 ", "-1 234,5"]);
        Assert.Equal((4, 15, 2, 18), (profile.Count, profile.Longest, profile.Shortest, profile.SuggestedLength));
        Assert.Equal((2, 4, 1, 6), (profile.Numbers, profile.WholeDigits, profile.Decimals, profile.SuggestedDigits));
    }

    [Theory(DisplayName = "A filter is written the same in every language, and read back")]
    [
        InlineData("total~between~10.5~20"),
        InlineData("number~contains~O-~7"),
        InlineData("placed~from~2026-11-25"),
        InlineData("note~empty"),
        InlineData("customer~filled"),
        InlineData("number~not~O-7")
    ]
    public void Filters_come_back(string text)
    {
        var (filter, refusal) = Filter.Parse(Sample.OrderType(), text);
        Assert.Null(refusal);
        Assert.Equal(Filter.Parse(Sample.OrderType(), filter!.Write()).Filter!.Write(), filter.Write());
    }

    [Theory(DisplayName = "A filter that makes no sense is refused with a sentence")]
    [
        InlineData("colour~is~red", "There is no field “colour” to search."),
        InlineData("total~like~1", "There is no test “like”."),
        InlineData("total~3~1", "There is no test “3”."),
        InlineData("total~is~many", "“many” is not a number."),
        InlineData("total~contains~1", "Total cannot be searched by “contains”."),
        InlineData("total~between~1", "Say both ends"),
        InlineData("number~is", "Say what to look for.")
    ]
    public void Senseless_filters_are_refused(string text, string sentence) =>
        Assert.StartsWith(sentence, Filter.Parse(Sample.OrderType(), text).Refusal, StringComparison.Ordinal);

    private static IReadOnlyList<IReadOnlyList<string>> Rows(params string[] labels) => [.. labels.Select(label => new[] { label })];

    private static IEnumerable<(string, string)> Taken(IReadOnlyList<IReadOnlyList<string>> rows) =>
        ChoiceReading.Read(rows, []).Where(choice => choice.IsTaken).Select(choice => (choice.Choice.Code, choice.Choice.Label));
}
