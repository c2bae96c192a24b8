using Pelto.Core.Layouts;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Layouts;

/// <summary>Scratch fields: typed on the screen, read by formulas there, stored nowhere.</summary>
public sealed class ScratchTests
{
    private static LayerOperation Scratch(string code, string kind, string? formula = null) =>
        new()
        {
            Op = "put",
            Part = "p-" + code,
            Screen = "order",
            Label = code,
            After = "order.total",
            New = new()
            {
                What = NewPart.Scratch,
                Code = code,
                Kind = kind,
                Formula = formula,
            },
        };

    private static Catalogue Build(params LayerOperation[] operations) =>
        Catalogue.Build(
            1,
            Sample.Host,
            new SiteDefinition
            {
                Layers =
                [
                    new Layer
                    {
                        Id = "site",
                        Label = "Site",
                        Operations = operations,
                    },
                ],
            }
        );

    [Fact(DisplayName = "What is typed decides what is shown and what is calculated beside it; the record stays as it is")]
    public void Typed_and_read()
    {
        var type = Build(
                Scratch("wish", "percent"),
                Scratch("left", "decimal", "ROUND(total * (1 - :wish); 2)"),
                new()
                {
                    Op = "hide",
                    Part = "order.note",
                    When = ":wish > 10%",
                }
            )
            .Find("order")!;
        var left = type.Screens.FormulaOf(type.Screens.Scratch["left"])!;
        var state = Sample.Order(type);
        var changes = new RecordChanges { Scratch = { ["wish"] = Value.From(0.2m) } };
        var outcome = Pipeline.Run(state, changes, Sample.Desk, Sample.Today);

        // 2 × 10.00 and 3 × 5.00 less a tenth are 33.50; a fifth off leaves 26.80.
        Assert.Equal(26.8m, left.Evaluate(outcome.State.FrameAt(null)).Number);
        Assert.DoesNotContain(type.Screens.For(Sample.Desk, outcome.State).Layout.Fields, field => field.Code == "note");
        Assert.Contains(type.Screens.For(Sample.Desk, state).Layout.Fields, field => field.Code == "note");
        Assert.Equal(state.Header, outcome.State.Header);

        // Nothing typed is empty, as everywhere.
        Assert.True(left.Evaluate(state.FrameAt(null)).IsEmpty);
        Assert.True(
            RecordJson.Write(outcome.State, Sample.Desk).ToJsonString() is var stored && !stored.Contains("wish", StringComparison.Ordinal)
        );
    }

    [Theory(DisplayName = "What cannot be a scratch field is refused, with the reason")]
    [InlineData("Wish", "decimal", null, "A scratch field needs a code")]
    [InlineData("wish", "money", null, "A scratch field is of the kind")]
    [InlineData("wish", "date", "total * 2", "gives a number, and the scratch field is a date")]
    [InlineData("wish", "decimal", ":other * 2", "The parameter :other has no kind.")]
    public void Refusals(string code, string kind, string? formula, string said) =>
        Assert.Contains(Build(Scratch(code, kind, formula)).Problems, problem => problem.Sentence.Contains(said, StringComparison.Ordinal));

    [Fact(DisplayName = "Two of the same code on one screen are refused; one that is calculated is read by no other")]
    public void Codes_are_unique()
    {
        Assert.Contains(Build(Scratch("wish", "decimal"), Scratch("wish", "text") with { Part = "p-2" }).Problems, problem =>
            problem.Sentence.StartsWith("Two scratch fields", StringComparison.Ordinal)
        );
        Assert.NotEmpty(Build(Scratch("a", "decimal", "total * 2"), Scratch("b", "decimal", ":a * 2")).Problems);
        Assert.Empty(Build(Scratch("a", "decimal"), Scratch("b", "decimal", ":a * 2")).Problems);
    }
}
