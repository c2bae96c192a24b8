using Pelto.Web.Pages;

namespace Pelto.Web.Tests;

public sealed class FieldInputTests
{
    [Fact(DisplayName = "A definition comes back from its inputs as it went in")]
    public void Definitions_come_back()
    {
        FieldDefinition[] definitions =
        [
            Field("text") with
            {
                Length = 12,
                Heading = "Short",
                Help = "What?",
                DefaultValue = "x",
                Required = true,
            },
            Field("decimal") with
            {
                Digits = 6,
                Decimals = 3,
            },
            Field("choice") with
            {
                Choices = [new("a", "Alpha"), new("B2", "Beta = two")],
            },
            Field("date") with
            {
                DefaultValue = "today",
                FillExisting = true,
                AlsoOn = [new("partner", "header", true)],
                Printed = true,
            },
            Field("choices") with
            {
                ChoiceList = "l-1",
            },
            Field("money") with
            {
                Currencies = ["NOK", "EUR"],
                Digits = 9,
                Minimum = "0",
                Maximum = "10",
            },
            Field("integer") with
            {
                NoTotals = true,
            },
            Field("quantity") with
            {
                Units = ["TNE", "KGM"],
                RequiredWhen = "x = 1",
                Check = "x > 1",
                CheckMessage = "No.",
            },
            Field("phone") with
            {
                Country = "NO",
                Unique = true,
            },
            Field("identifier") with
            {
                Scheme = "own",
                CheckDigit = "mod11_2",
                Pattern = "[0-9]+",
                PatternMessage = "Digits.",
            },
            Field("secret") with
            {
                Length = 20,
                Texts = new Dictionary<string, LocalText> { ["fi"] = new("Koodi", null, "Mikä?") },
            },
        ];
        foreach (var definition in definitions)
        {
            var problems = new List<Problem>();
            var back = FieldInput.From(definition, null).ToField(new() { Id = definition.Id }, [], problems);
            Assert.Empty(problems);
            Assert.True(new SiteDefinition { Fields = [definition] }.IsSameAs(new SiteDefinition { Fields = [back] }));
        }
    }

    [Fact(DisplayName = "Typing the label of a retired choice says so rather than making its double")]
    public void Retired_choices_have_no_double()
    {
        var known = New with
        {
            Choices =
            [
                new("red", "Red") { Retired = true },
                new("blue", "Blue") { Texts = new Dictionary<string, string> { ["fi"] = "Sininen" } },
            ],
        };
        var problems = new List<Problem>();
        var back = new FieldInput
        {
            Part = "item/header",
            Label = "Grade",
            Kind = "choice",
            Choices = "blue = Blue\nred",
        }.ToField(known, [], problems);
        Assert.Equal(
            "“Red” exists already and is retired. Offer it again, or give the new one another label.",
            Assert.Single(problems).Sentence
        );
        Assert.Equal("Sininen", back.Choices!.Single(choice => choice.Code == "blue").Texts!["fi"]);
    }

    [Fact(DisplayName = "Choices are read a line each: codes follow, blanks are skipped, a code can be set")]
    public void Choices_are_read()
    {
        var input = new FieldInput
        {
            Part = "item/header",
            Label = "Grade",
            Kind = "choice",
            Choices = "Grade 8\r\n\r\n  Dark blue \n y = Yellow\n2 = two",
        };
        Assert.Equal(
            [new Choice("grade_8", "Grade 8"), new("dark_blue", "Dark blue"), new("y", "Yellow"), new("n2_two", "2 = two")],
            input.ToField(New, [], []).Choices!
        );
    }

    [Theory(DisplayName = "What is no number is said at its input and stays as typed")]
    [InlineData("text", "length"), InlineData("decimal", "digits")]
    public void Numbers_are_read(string kind, string property)
    {
        var input = new FieldInput
        {
            Part = "item/header",
            Label = "X",
            Kind = kind,
            Length = "long",
            Digits = "-1",
            Width = "13",
        };
        var problems = new List<Problem>();
        input.ToField(New, [], problems);
        Assert.Equal([property, "width"], problems.Select(problem => problem.Property).Order(StringComparer.Ordinal));
        Assert.Equal("long", input.Length);
    }

    [Fact(DisplayName = "The code follows the label until somebody types one")]
    public void Codes_follow_until_typed()
    {
        Assert.Equal(
            "leg_angle_2",
            new FieldInput { Part = "item/header", Label = "Leg angle" }
                .ToField(New, ["leg_angle"], [])
                .Code
        );
        Assert.Equal(
            "mine",
            new FieldInput
            {
                Part = "item/header",
                Label = "Leg angle",
                Code = "mine",
                CodeTyped = true,
            }
                .ToField(New, [], [])
                .Code
        );
    }

    [Fact(DisplayName = "A place is put, hidden, or left to the end")]
    public void Places_are_read()
    {
        Assert.Null(new FieldInput().ToPlacement("f-1"));
        Assert.Equal(
            LayerOperation.Hide,
            new FieldInput { After = FieldInput.Nowhere }
                .ToPlacement("f-1")!
                .Op
        );
        Assert.Equal(
            new LayerOperation
            {
                Op = LayerOperation.Put,
                Part = "f-1",
                After = "item.name",
                Width = 4,
            },
            new FieldInput { After = "item.name", Width = "4" }.ToPlacement("f-1")
        );
    }

    private static FieldDefinition New => new() { Id = "f-1" };

    private static FieldDefinition Field(string kind) =>
        new()
        {
            Id = "f-1",
            RecordType = "item",
            Code = "x",
            Label = "X",
            Kind = kind,
        };
}
