using Pelto.Core.Records;

namespace Pelto.Core.Tests.Records;

public sealed class PipelineTests
{
    private readonly RecordType type = Sample.OrderType(Sample.Copies with { DefaultValue = "2" });

    [Fact(DisplayName = "Amounts and totals fill in order, header after lines")]
    public void Formulas_fill_in_order()
    {
        var order = Sample.Order(type);
        Assert.Equal([Value.From(20m), Value.From(13.5m)], [order.Get(0, "amount"), order.Get(1, "amount")]);
        Assert.Equal((Value.From(33.5m), Value.From(8.54m)), (order.Get("total"), order.Get("vat")));
    }

    [Fact(DisplayName = "A new record begins with its defaults, today among them")]
    public void Starting_values_apply()
    {
        var fresh = Pipeline.Fresh(type, Sample.Today);
        Assert.Equal((Value.From(Sample.Today), Value.From(2m)), (fresh.Get("placed"), fresh.Get("copies")));
        Assert.Equal(
            Value.From(1m),
            Pipeline.FreshLine(type.LineParts[0], "n1", Sample.Today).Values[type.LineParts[0].Find("quantity")!.Slot]
        );
    }

    [Fact(DisplayName = "All that is wrong is said at once, each at its place")]
    public void All_messages_at_once()
    {
        var changes = new RecordChanges
        {
            Header = { [Field("customer")] = Value.Empty, [Field("copies")] = Parsed.Refused("“x” is not a whole number.") },
        };
        changes.Lines[type.LineParts[0]] = [Line("n1", null, ("quantity", Value.Empty))];
        var outcome = Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today);
        Assert.Equal(
            ["header.copies", "header.customer", "lines.n1.quantity"],
            outcome.Messages.Select(message => message.At.ToString()).Order(StringComparer.Ordinal)
        );
    }

    [Fact(DisplayName = "A record holds two thousand lines and says so of one more")]
    public void Lines_have_a_limit()
    {
        var changes = new RecordChanges();
        changes.Lines[type.LineParts[0]] =
        [
            .. Enumerable.Range(0, Pipeline.MaxLines).Select(i => Line($"n{i}", null, ("quantity", Value.From(1m)))),
        ];
        Assert.DoesNotContain(Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today).Messages, message =>
            message.At.Field is null
        );
        changes.Lines[type.LineParts[0]].Add(Line("more", null, ("quantity", Value.From(1m))));
        var message = Assert.Single(Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today).Messages, message =>
            message.At.Field is null
        );
        Assert.Contains(
            "2 000 at most",
            message.Sentence.Replace('\u202f', ' ').Replace('\u00a0', ' ').Replace(',', ' '),
            StringComparison.Ordinal
        );
        Assert.Equal("/lines/lines", RecordJson.Pointer(message.At, changes));
    }

    [Fact(DisplayName = "A form that was drawn before a release is not held to what it could not show")]
    public void Older_forms_are_not_held_to_new_fields()
    {
        var strict = Sample.OrderType(Sample.Copies with { Required = true });
        var changes = new RecordChanges { Header = { [strict.Header.Find("note")!] = Value.From("new") } };
        Assert.False(Pipeline.Run(Sample.Order(strict), changes, Sample.Desk, Sample.Today).IsGood);
        Assert.True(Pipeline.Run(Sample.Order(strict), changes, Sample.Desk, Sample.Today, field => !field.IsAdded).IsGood);
    }

    [Fact(DisplayName = "What is computed or numbered cannot be typed, but may be sent back unchanged")]
    public void Computed_values_are_guarded()
    {
        var typed = new RecordChanges { Header = { [Field("total")] = Value.From(1m) } };
        Assert.Equal(
            "Total is calculated and cannot be typed.",
            Pipeline.Run(Sample.Order(type), typed, Sample.Desk, Sample.Today).Messages.Single().Sentence
        );
        var same = new RecordChanges { Header = { [Field("total")] = Value.From(33.50m), [Field("number")] = Value.From("O-7") } };
        Assert.True(Pipeline.Run(Sample.Order(type), same, Sample.Desk, Sample.Today).IsGood);
    }

    [Fact(DisplayName = "A result that does not fit its field keeps the record from being saved")]
    public void Results_must_fit()
    {
        var changes = new RecordChanges();
        changes.Lines[type.LineParts[0]] =
        [
            Line("n1", null, ("quantity", Value.From(9_999_999_999m)), ("price", Value.From(9_999_999_999m))),
        ];
        var outcome = Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today);
        Assert.Contains(outcome.Messages, message =>
            message.At.ToString() == "lines.n1.amount" && message.Sentence.Contains("before the point", StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "Whoever may only read changes nothing")]
    public void Readers_change_nothing()
    {
        var changes = new RecordChanges { Header = { [Field("note")] = Value.From("mine") } };
        Assert.Equal(
            "You may not change Note.",
            Pipeline.Run(Sample.Order(type), changes, Sample.Guest, Sample.Today).Messages.Single().Sentence
        );
    }

    [Fact(DisplayName = "Running changes leaves the record that they were run on as it was")]
    public void Running_is_pure()
    {
        var order = Sample.Order(type);
        Pipeline.Run(order, new RecordChanges { Header = { [Field("note")] = Value.From("other") } }, Sample.Desk, Sample.Today);
        Assert.Equal(Value.From("as agreed"), order.Get("note"));
    }

    private Field Field(string code) => type.Header.Find(code)!;

    private EnteredLine Line(string key, long? id, params (string Code, Value Value)[] values) =>
        new(key, id, values.ToDictionary(pair => type.LineParts[0].Find(pair.Code)!, pair => (Parsed)pair.Value));
}
