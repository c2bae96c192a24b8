using Pelto.Core.Formulas;

namespace Pelto.Core.Tests.Formulas;

/// <summary>What the editor tells while somebody writes: names that fit, the sentence, the parts at work.</summary>
public sealed class EditorTests
{
    private static readonly RecordType Order = Sample.OrderType();

    private static (int From, IReadOnlyList<Completion> Found) At(string text, Part? part = null, Part? atHand = null) =>
        Completions.For(
            text.Replace("|", "", StringComparison.Ordinal),
            text.IndexOf('|', StringComparison.Ordinal),
            part ?? Order.Header,
            atHand
        );

    [Theory(DisplayName = "Names that fit come up where one types: fields by code and label, through links and lines, functions by name")]
    [
        InlineData("no|", "note"),
        InlineData("1 + qu|", "QUOTIENT("),
        InlineData("customer.na|", "name"),
        InlineData("SUM(lines.amo|", "amount"),
        InlineData("SUM(lines.|", "quantity"),
        InlineData("roun|", "ROUND("),
        InlineData("custo|", "customer")
    ]
    public void Names_come_up(string text, string expected) => Assert.Contains(expected, At(text).Found.Select(one => one.Text));

    [Fact(DisplayName = "A sum is shown line by line")]
    public void Sums_line_by_line()
    {
        var order = Sample.Order(Order);
        var steps = Formula
            .Bind("SUM(lines.quantity * lines.price) / 2", Order.Header, [])!
            .Steps(order.FrameAt(null))
            .Select(step => $"{step.Text} = {step.Value}");
        Assert.Equal(
            [
                "lines.quantity * lines.price, order line 1 = 20",
                "lines.quantity * lines.price, order line 2 = 15",
                "SUM(lines.quantity * lines.price) = 35",
                "SUM(lines.quantity * lines.price) / 2 = 17.5",
            ],
            steps
        );
    }

    [Theory(DisplayName = "Names of months and days in TEXT (29 November 2026 is a Sunday)")]
    [
        InlineData("d mmmm yyyy", "29 November 2026"),
        InlineData("dddd, d mmm yy", "Sunday, 29 Nov 26"),
        InlineData("ddd", "Sun"),
        InlineData("mmm", "Nov"),
        InlineData("m", "11"),
        InlineData("dd.mm.yyyy", "29.11.2026")
    ]
    public void Names_of_days(string format, string text) =>
        Assert.Equal(text, Formula.Bind($"TEXT(DATE(2026; 11; 29); \"{format}\")", null, [])!.Evaluate(new([], null, [])).Text);

    [Theory(DisplayName = "Numbers out of texts, as any convention writes them; what two read differently is none, and says which two")]
    [
        InlineData("VALUE(\"1 234,5\")", "1234.5"),
        InlineData("VALUE(\"1\u202f234\u202f567\")", "1234567"),
        InlineData("VALUE(\"1,234.50\")", "1234.5"),
        InlineData("VALUE(\"1.234,5\")", "1234.5"),
        InlineData("VALUE(\"12,5%\")", "0.125")
    ]
    [
        InlineData("VALUE(\"0,500\")", "0.5"),
        InlineData("VALUE(\"12,500\")", "(error: “12,500” can mean 12500 or 12.500: NUMBERVALUE is told the marks.)"),
        InlineData("VALUE(\"1.234\")", "1.234"),
        InlineData("VALUE(\"1 23\")", "(error: “1 23” is not a number.)")
    ]
    [
        InlineData("NUMBERVALUE(\"12.500\"; \",\"; \".\")", "12500"),
        InlineData("NUMBERVALUE(\"12.5\"; \".\")", "12.5"),
        InlineData("NUMBERVALUE(\"1,2.3\"; \",\"; \".\")", "(error: “1,2.3” is not a number.)"),
        InlineData(
            "NUMBERVALUE(\"1\"; \".\"; \".\")",
            "(error: The marks are one character each, not a digit or a sign, and not the same.)"
        )
    ]
    public void Numbers_out_of_texts(string text, string gives) =>
        Assert.Equal(
            gives,
            Formula
                .Bind(text, null, [])!
                .Evaluate(new([], null, []))
                .ToString()
                .Replace("1234.50", "1234.5", StringComparison.Ordinal)
                .Replace("0.500", "0.5", StringComparison.Ordinal)
        );

    [Theory(DisplayName = "A moment has its day and its time of day where people work (Helsinki is two hours ahead of UTC in November)")]
    [
        InlineData("HOUR(NOW())", "0"),
        InlineData("MINUTE(NOW())", "30"),
        InlineData("DAY(NOW())", "26"),
        InlineData("TEXT(NOW(); \"hh:mm\")", "00:30"),
        InlineData("TEXT(NOW(); \"d.m.yyyy\")", "26.11.2026"),
        InlineData("TEXT(EDATE(NOW(); 1); \"d.m.yyyy\")", "26.12.2026")
    ]
    public void Moments(string text, string gives)
    {
        var clock = Clock.At(new(2026, 11, 25, 22, 30, 0, DateTimeKind.Utc)) with
        {
            Zone = TimeZoneInfo.FindSystemTimeZoneById("Europe/Helsinki"),
        };
        Assert.Equal(gives, Formula.Bind(text, null, [])!.Evaluate(new([], null, []) { Clock = clock }).ToString());
    }

    [Fact(
        DisplayName = "What begins with what was typed comes first; "
            + "within a text, and after what leads nowhere, nothing comes up; the place says what is taken over"
    )]
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

    [Fact(
        DisplayName = "Whatever comes up, however far one goes on from it, is understood: "
            + "through links, over lines, over what links to a record, its lines, and what several links point to"
    )]
    public void What_comes_up_is_understood()
    {
        var helpers = new FieldDefinition
        {
            Id = "f-helpers",
            RecordType = "order",
            Code = "helpers",
            Label = "Helpers",
            Kind = "links",
            Target = "customer",
        };
        var catalogue = Sample.Catalogue(helpers);
        var ways = new List<string>();
        foreach (
            var part in new[] { catalogue.Find("order")!.Header, catalogue.Find("order")!.LineParts[0], catalogue.Find("customer")!.Header }
        )
        {
            var open = new Queue<string>([""]);
            while (open.TryDequeue(out var way))
            {
                foreach (var one in Completions.For(way, way.Length, part).Found.Where(one => !one.Text.EndsWith('(')))
                {
                    var path = way + one.Text;
                    if (one.GoesOn && path.Count(static c => c == '.') < 5)
                        open.Enqueue(path + ".");
                    if (one.GoesOn)
                        continue;
                    var problems = new List<FormulaProblem>();
                    Assert.True(
                        Formula.Bind($"COUNTA({path})", part, problems) is not null,
                        $"{part.RecordType.Code}: {path}: {string.Join(" ", problems.Select(problem => problem.Message))}"
                    );
                    var formula = Formula.Bind($"COUNTA({path})", part, [])!;
                    Assert.All(formula.Names, named =>
                        Assert.True(
                            formula.Reads.Contains(named) || formula.RelatedFields.Contains(named),
                            $"{path} does not own up to {named}"
                        )
                    );
                    ways.Add(path);
                }
            }
        }

        foreach (
            var way in new[]
            {
                "order.customer.note",
                "order.customer.lines.quantity",
                "customer.order.customer.total",
                "customer.order.customer.lines.price",
                "helpers.name",
            }
        )
            Assert.Contains(way, ways);
    }

    [Theory(DisplayName = "A formula is told in a sentence")]
    [InlineData("ROUND(price * quantity; 2)", "(Price times Quantity), rounded to 2 decimals.")]
    [InlineData("IF(ISBLANK(discount); price; price - 1)", "Price where Discount is empty, otherwise (Price minus 1).")]
    [InlineData("SUM(lines.amount) / 2", "The total of Amount of each order line divided by 2.")]
    [InlineData("customer.name & \"!\"", "Name of Customer followed by “!”.")]
    [InlineData(
        "SUM(customer.order.customer.lines.quantity)",
        "The total of Quantity of each order line of each order whose Customer is Customer of this order."
    )]
    public void Sentences(string text, string sentence)
    {
        var formula = Formula.Bind(text, Order.LineParts[0], [])!;
        Assert.Equal(sentence, formula.Sentence, ignoreCase: true);
    }

    [Fact(DisplayName = "The parts are shown from the innermost to the whole, each once, with what it gives")]
    public void Steps()
    {
        var order = Sample.Order(Order);
        var steps = Formula
            .Bind("ROUND(price * quantity; 0) + 1 / (price - price)", Order.LineParts[0], [])!
            .Steps(order.FrameAt(order.Lines[0][0]))
            .Select(step => $"{step.Text} = {step.Value}");
        Assert.Equal(
            [
                "price = 10",
                "quantity = 2",
                "price * quantity = 20",
                "ROUND(price * quantity; 0) = 20",
                "(price - price) = 0",
                "1 / (price - price) = (error: Division by zero.)",
                "ROUND(price * quantity; 0) + 1 / (price - price) = (error: Division by zero.)",
            ],
            steps
        );
    }

    [Theory(DisplayName = "Types that do not go together, and codes that a choice never has, are said at their place")]
    [InlineData("1 + \"a\"", "VALUE makes a number of a text.")]
    [InlineData("YEAR(price)", "DATE makes a day of year, month and day.")]
    [InlineData("customer & \"a\"", "Go on to a field of what it points to, after a point.")]
    [InlineData("TEXT(1; \"abc\")", "Numbers are written as 0, 000")]
    [InlineData("MONEY(1; \"EURO\")", "“EURO” is not a currency.")]
    [InlineData("MONEY(1; \"EUR\") + 1", "An amount of money and a number cannot be combined with “+”.")]
    [InlineData("SUMIF(lines.price; \">\" & note)", "A number cannot be compared with a text.")]
    [InlineData("IFS(1 = 1; 2; 3 = 3)", "IFS is written IFS(condition; outcome; …).")]
    public void Types_are_told(string text, string said)
    {
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(text, Order.LineParts[0], problems));
        Assert.Contains(said, problems[0].Message, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "A formula that is too long is refused with what is too much of it, and nothing is cut")]
    public void Too_long_is_told()
    {
        static string Of(int length) => $"1{new string('0', 3)}{string.Concat(Enumerable.Repeat(" + 1", 2000))}"[..length];
        var problems = new List<FormulaProblem>();
        Assert.NotNull(Formula.Bind(Of(Formula.LongestText), null, problems));
        Assert.Null(Formula.Bind(Of(Formula.LongestText + 4), null, problems));
        Assert.Equal(
            (new Span(4000, 4), "A formula has at most 4\u00a0000 characters; this one has 4\u00a0004. Divide it over several fields."),
            (problems.Single().At, problems[0].Message)
        );
    }

    [Fact(
        DisplayName = "What would grow without end is refused where it is defined: "
            + "a formula that repeats itself, and live fields that read one another twice "
            + "and twice again through links. On one record they are each written once, so a long chain of them is fine"
    )]
    public void Growth_is_refused()
    {
        var text = "1 / price";
        for (var i = 0; i < 40; i++)
            text = $"SWITCH({text}; 1; 2; 3; 4)";
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(text, Order.LineParts[0], problems));
        Assert.Contains("Divide it over several fields.", problems[0].Message, StringComparison.Ordinal);

        static FieldDefinition Live(int i) =>
            new()
            {
                Id = $"f-{i}",
                RecordType = "order",
                Code = $"x{i}",
                Label = $"X {i}",
                Kind = "decimal",
                Live = true,
                Formula = i == 0 ? "total + 1" : $"IF(x{i - 1} > {i}; x{i - 1} - 1; x{i - 1} + 1)",
            };
        Assert.Empty(Sample.Catalogue([.. Enumerable.Range(0, 60).Select(Live)]).Problems);

        var before = new FieldDefinition
        {
            Id = "f-before",
            RecordType = "order",
            Code = "before",
            Label = "Before",
            Kind = "link",
            Target = "order",
        };
        FieldDefinition Far(int i) => Live(i) with { Formula = i == 0 ? "total + 1" : $"before.x{i - 1} * 2 + before.x{i - 1}" };
        Assert.Empty(Sample.Catalogue([before, .. Enumerable.Range(0, 5).Select(Far)]).Problems);
        Assert.Contains(Sample.Catalogue([before, .. Enumerable.Range(0, 30).Select(Far)]).Problems, problem =>
            problem.Sentence.Contains("be kept instead of live", StringComparison.Ordinal)
        );
    }
}
