using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Releases;
using Xunit;

namespace Pelto.Core.Tests.Formulas;

/// <summary>What the editor tells while somebody writes: names that fit, the sentence, the parts at work.</summary>
public sealed class EditorTests
{
    private static readonly RecordType Order = Sample.OrderType();

    private static (int From, IReadOnlyList<Completion> Found) At(string text, Part? part = null, Part? atHand = null) => Completions.Of(text.Replace("|", "", StringComparison.Ordinal), text.IndexOf('|', StringComparison.Ordinal), part ?? Order.Header, atHand);

    [Theory(DisplayName = "Names that fit come up where one types: fields by code and label, through links and lines, functions by name")]
    [InlineData("no|", "note"), InlineData("1 + qu|", "QUOTIENT("), InlineData("customer.na|", "name"), InlineData("SUM(lines.amo|", "amount"), InlineData("SUM(lines.|", "quantity"), InlineData("roun|", "ROUND("), InlineData("custo|", "customer")]
    public void Names_come_up(string text, string expected) => Assert.Contains(expected, At(text).Found.Select(one => one.Text));

    [Fact(DisplayName = "What begins with what was typed comes first; within a text, and after what leads nowhere, nothing comes up; the place says what is taken over")]
    public void Order_of_names()
    {
        Assert.Equal("name", At("customer.na|").Found[0].Text);
        Assert.Equal(9, At("customer.na|").From);
        Assert.Empty(At("\"customer|\"").Found);
        Assert.Empty(At("note.x|").Found);
        Assert.Contains("price", At("pri|", Order.LineParts[0]).Found.Select(one => one.Text));
        Assert.Contains("record", At("rec|", Order.Header, Order.Header).Found.Select(one => one.Text));
        Assert.True(At("custo|").Found.First(one => one.Text == "customer").GoesOn);
    }

    [Theory(DisplayName = "A formula is told in a sentence")]
    [InlineData("ROUND(price * quantity; 2)", "(Price times Quantity), rounded to 2 decimals.")]
    [InlineData("IF(ISBLANK(discount); price; price - 1)", "Price where Discount is empty, otherwise (Price minus 1).")]
    [InlineData("SUM(lines.amount) / 2", "The total of Amount of each order line divided by 2.")]
    [InlineData("customer.name & \"!\"", "Name of Customer followed by “!”.")]
    public void Sentences(string text, string sentence)
    {
        var formula = Formula.Bind(text, Order.LineParts[0], [])!;
        Assert.Equal(sentence, formula.Sentence, ignoreCase: true);
    }

    [Fact(DisplayName = "The parts are shown from the innermost to the whole, each once, with what it gives")]
    public void Steps()
    {
        var order = Sample.Order(Order);
        var steps = Formula.Bind("ROUND(price * quantity; 0) + 1 / (price - price)", Order.LineParts[0], [])!.Steps(order.FrameAt(order.Lines[0][0])).Select(step => $"{step.Text} = {step.Value}");
        Assert.Equal(["price = 10", "quantity = 2", "price * quantity = 20", "ROUND(price * quantity; 0) = 20", "(price - price) = 0", "1 / (price - price) = (error: Division by zero.)", "ROUND(price * quantity; 0) + 1 / (price - price) = (error: Division by zero.)"], steps);
    }

    [Theory(DisplayName = "Types that do not go together, and codes that a choice never has, are said at their place")]
    [InlineData("1 + \"a\"", "VALUE makes a number of a text.")]
    [InlineData("YEAR(price)", "DATE makes a day of year, month and day.")]
    [InlineData("customer & \"a\"", "Go on to a field of what it points to, after a point.")]
    [InlineData("TEXT(1; \"abc\")", "Numbers are written as 0, 000")]
    [InlineData("MONEY(1; \"EURO\")", "“EURO” is no currency.")]
    [InlineData("MONEY(1; \"EUR\") + 1", "An amount of money and a number cannot be reckoned with “+”.")]
    [InlineData("SUMIF(lines.price; \">\" & note)", "A number cannot be compared with a text.")]
    [InlineData("IFS(1 = 1; 2; 3 = 3)", "IFS is written IFS(condition; outcome; …).")]
    public void Types_are_told(string text, string said)
    {
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(text, Order.LineParts[0], problems));
        Assert.Contains(said, problems[0].Message, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "What would grow without end is refused where it is defined: a formula that repeats itself, and live fields that read one another twice and twice again through links. On one record they are each written once, so a long chain of them is fine")]
    public void Growth_is_refused()
    {
        var text = "1 / price";
        for (var i = 0; i < 40; i++) text = $"SWITCH({text}; 1; 2; 3; 4)";
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(text, Order.LineParts[0], problems));
        Assert.Contains("Divide it over several fields.", problems[0].Message, StringComparison.Ordinal);

        static FieldDefinition Live(int i) => new() { Id = $"f-{i}", RecordType = "order", Code = $"x{i}", Label = $"X {i}", Kind = "decimal", Live = true, Formula = i == 0 ? "total + 1" : $"IF(x{i - 1} > {i}; x{i - 1} - 1; x{i - 1} + 1)" };
        Assert.Empty(Sample.Catalogue([.. Enumerable.Range(0, 60).Select(Live)]).Problems);

        var before = new FieldDefinition { Id = "f-before", RecordType = "order", Code = "before", Label = "Before", Kind = "link", Target = "order" };
        FieldDefinition Far(int i) => Live(i) with { Formula = i == 0 ? "total + 1" : $"before.x{i - 1} * 2 + before.x{i - 1}" };
        Assert.Empty(Sample.Catalogue([before, .. Enumerable.Range(0, 5).Select(Far)]).Problems);
        Assert.Contains(Sample.Catalogue([before, .. Enumerable.Range(0, 30).Select(Far)]).Problems, problem => problem.Sentence.Contains("be kept instead of live", StringComparison.Ordinal));
    }
}
