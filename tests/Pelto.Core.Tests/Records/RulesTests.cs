using Pelto.Core.Records;

namespace Pelto.Core.Tests.Records;

public sealed class RulesTests
{
    private static readonly FieldDefinition Angle = new()
    {
        Id = "f-angle",
        RecordType = "order",
        Code = "angle",
        Label = "Angle",
        Kind = "integer",
        Minimum = "10",
        Maximum = "60",
        Check = "OR(angle = 30; angle > 45)",
        CheckMessage = "Slings hang at 30 degrees or beyond 45.",
    };
    private static readonly FieldDefinition Seal = new()
    {
        Id = "f-seal",
        RecordType = "order",
        Code = "seal",
        Label = "Seal",
        Kind = "text",
        Pattern = "[A-Z]{2}[0-9]+",
        PatternMessage = "A seal is two letters and figures.",
        RequiredWhen = "angle > 50",
    };

    [Fact(DisplayName = "All that is wrong is told at once, each at its field, several at one field too")]
    public void All_is_told_at_once()
    {
        var outcome = Run(("angle", Value.From(5m)), ("seal", Value.From("7A")));
        Assert.Equal(
            [
                "header.angle: Angle is at least 10.",
                "header.angle: Slings hang at 30 degrees or beyond 45.",
                "header.seal: A seal is two letters and figures.",
            ],
            outcome.Messages.Select(message => $"{message.At}: {message.Sentence}")
        );
    }

    [Theory(DisplayName = "A simple pattern is told in words; one that is not so simple is shown as it is")]
    [
        InlineData("[A-Z]{2}-[0-9]{4}", "two capital letters, “-”, four digits"),
        InlineData("[A-Z]{2}[0-9]+", "two capital letters, one digit or more"),
        InlineData(@"\d{3,5}", "three to five digits"),
        InlineData("SO-[0-9]{5}", "“SO-”, five digits"),
        InlineData("[a-z]?[0-9]*", "perhaps one small letter, any number of digits"),
        InlineData(@"[A-Z0-9]{0,3}\.[A-Z]", "at most three capital letters or digits, “.”, one capital letter"),
        InlineData("[A-Z]{13}", "13 capital letters")
    ]
    [
        InlineData("(a|b)c", null),
        InlineData("[^x]", null),
        InlineData("^a$", null),
        InlineData("a{2}", null),
        InlineData("[A-F0-9]{2}", null)
    ]
    public void Patterns_in_words(string pattern, string? words) => Assert.Equal(words, Patterns.InWords(pattern));

    [Fact(DisplayName = "Where no message was given, rules are told in words rather than by codes and expressions")]
    public void Rules_in_words()
    {
        var type = Sample.OrderType(Angle with { CheckMessage = null }, Seal with { PatternMessage = null, RequiredWhen = null });
        var changes = new RecordChanges
        {
            Header = { [type.Header.Find("angle")!] = Value.From(20m), [type.Header.Find("seal")!] = Value.From("x") },
        };
        Assert.Equal(
            [
                "Angle is not valid. This must hold: (Angle is 30) or (Angle is more than 45).",
                "Seal does not have the required form: two capital letters, one digit or more.",
            ],
            Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today).Messages.Select(message => message.Sentence)
        );
    }

    [Fact(
        DisplayName = "A field is read where it stands and nowhere else: "
            + "one of lines without a line gives nothing, rather than what the header has at its place"
    )]
    public void Fields_are_read_in_place()
    {
        var state = Sample.Order(Sample.OrderType());
        foreach (var field in state.Type.Header.Fields)
            Assert.Equal((state.Header[field.Slot], Value.Empty), (state.ValueAt(field, null), state.ValueAt(field, 1)));
        foreach (var field in state.Type.LineParts[0].Fields)
            Assert.Equal(
                (Value.Empty, state.Lines[0][1].Values[field.Slot], Value.Empty),
                (state.ValueAt(field, null), state.ValueAt(field, 2), state.ValueAt(field, -1))
            );
    }

    [Fact(DisplayName = "A value is needed only where the condition holds")]
    public void Needed_under_a_condition()
    {
        Assert.Equal("Seal is required here.", Run(("angle", Value.From(55m))).Messages.Single().Sentence);
        Assert.True(Run(("angle", Value.From(30m))).IsGood);
        Assert.True(Run(("angle", Value.From(55m)), ("seal", Value.From("AB12"))).IsGood);
        Assert.True(Run(("angle", Value.Empty)).IsGood);
    }

    [Theory(DisplayName = "Rules that make no sense are refused at their property")]
    [
        InlineData("minimum", "many", null),
        InlineData("maximum", "5", "10"),
        InlineData("pattern", "[", null),
        InlineData("requiredWhen", "angel > 5", null),
        InlineData("check", "angle + 1", null)
    ]
    public void Senseless_rules_are_refused(string property, string text, string? minimum)
    {
        var wrong = property switch
        {
            "minimum" => Angle with { Minimum = text, Check = null },
            "maximum" => Angle with { Minimum = minimum, Maximum = text, Check = null },
            "pattern" => Seal with { Pattern = text, RequiredWhen = null },
            "requiredWhen" => Angle with { RequiredWhen = text },
            _ => Angle with { Check = text },
        };
        Assert.Contains(Sample.Catalogue(wrong).Problems, problem => problem.Property == property && problem.Sentence.Length > 10);
    }

    [Fact(
        DisplayName = "What could lock people out is refused: required under a condition "
            + "and on no screen; a default that the rules refuse; one that is unique"
    )]
    public void Deadlocks_are_refused()
    {
        var site = new SiteDefinition { Fields = [Angle, Seal] }.Placing("f-seal", new() { Op = LayerOperation.Hide, Part = "f-seal" });
        Assert.Contains(
            "nobody could save a record",
            Core.Catalog.Catalogue.Build(1, Sample.Host, site).Problems.Single().Sentence,
            StringComparison.Ordinal
        );
        Assert.Equal("defaultValue", Sample.Catalogue(Angle with { DefaultValue = "70" }).Problems.Single().Property);
        Assert.Equal(
            "defaultValue",
            Sample.Catalogue(Seal with { DefaultValue = "AB1", Unique = true, RequiredWhen = null }).Problems.Single().Property
        );
    }

    [Theory(DisplayName = "Bounds hold for amounts of one currency, for quantities in any unit, for days and times")]
    [
        InlineData("money", "10 EUR", "9.99 EUR", true),
        InlineData("money", "10 EUR", "1 NOK", false),
        InlineData("quantity", "1 t", "999 kg", true),
        InlineData("quantity", "1 t", "1000 kg", false),
        InlineData("date", "2026-01-01", "2025-12-31", true),
        InlineData("time", "08:00", "07:59", true),
        InlineData("percent", "5 %", "4.9 %", true)
    ]
    public void Bounds_hold(string kind, string minimum, string value, bool refused)
    {
        var type = Sample.OrderType(
            new FieldDefinition
            {
                Id = "f-b",
                RecordType = "order",
                Code = "bound",
                Label = "Bound",
                Kind = kind,
                Currencies = kind == "money" ? ["EUR", "NOK"] : null,
                Units = kind == "quantity" ? ["KGM", "TNE"] : null,
                Minimum = minimum,
            }
        );
        var field = type.Header.Find("bound")!;
        var outcome = Pipeline.Run(Sample.Order(type), new() { Header = { [field] = field.Kind.Parse(value) } }, Sample.Desk, Sample.Today);
        Assert.Equal(refused, !outcome.IsGood);
    }

    [Theory(DisplayName = "Conditions are joined, turned round and asked for what is empty (OpenFormula 6.15, 6.13.14)")]
    [
        InlineData("AND(angle > 10; angle < 50)", true),
        InlineData("AND(angle > 10; angle > 50)", false),
        InlineData("OR(angle > 50; NOT(angle > 50))", true),
        InlineData("ISBLANK(seal)", true),
        InlineData("ISBLANK(angle)", false),
        InlineData("AND(NOT(ISBLANK(angle)); ISBLANK(seal); OR(angle = 30))", true)
    ]
    public void Conditions_are_joined(string formula, bool expected)
    {
        var type = Sample.OrderType(Angle with { Check = null }, Seal with { RequiredWhen = null });
        var state = Sample.Order(type);
        Sample.Set(state, "angle", Value.From(30m));
        var bound = Core.Formulas.Formula.Bind(formula, type.Header, [])!;
        Assert.Equal(Value.From(expected), bound.Evaluate(state.FrameAt(null)));
    }

    private static Outcome Run(params (string Code, Value Value)[] values)
    {
        var type = Sample.OrderType(Angle, Seal);
        var changes = new RecordChanges();
        foreach (var (code, value) in values)
            changes.Header[type.Header.Find(code)!] = value;
        return Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today);
    }
}
