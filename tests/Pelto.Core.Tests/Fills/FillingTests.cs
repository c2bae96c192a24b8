using Pelto.Core.Access;
using Pelto.Core.Formulas;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Fills;

/// <summary>
/// Fields that something fills and people may change: when they are filled, what is kept, and what the record tells of it.
/// </summary>
public sealed class FillingTests
{
    private static readonly Clock Now = Clock.At(new(2026, 11, 25, 9, 0, 0, DateTimeKind.Utc));

    private static readonly FieldDefinition Wish = new()
    {
        Id = "f-wish",
        RecordType = "customer",
        Code = "wish",
        Label = "Certificate wish",
        Kind = "text",
        Length = 40,
    };

    private static FieldDefinition Carried(FillMode mode, string formula = "customer.wish", bool locked = false, string part = "header") =>
        new()
        {
            Id = "f-carried",
            RecordType = "order",
            Part = part,
            Code = "carried",
            Label = "Carried",
            Kind = "text",
            Length = 40,
            Formula = formula,
            Fills = mode,
            Locked = locked,
        };

    [Fact(
        DisplayName = "A draft in which a formula does not give what its field takes is told, "
            + "and records are shown in it all the same: every kind, with formulas of every type"
    )]
    public void Formulas_that_do_not_fit()
    {
        string[] formulas =
        [
            "1 + 1",
            "\"a\"",
            "TRUE()",
            "TODAY()",
            "customer",
            "lines.quantity",
            "\"a\" & note",
            "QUANTITY(1; \"KGM\")",
            "MONEY(1; \"EUR\")",
            "TIME(8; 30; 0)",
            "NOW()",
            "seen_note",
        ];
        var told = 0;
        foreach (var kind in FieldKinds.Definable)
        {
            foreach (var formula in formulas)
            {
                foreach (
                    var (live, mode) in new[]
                    {
                        (true, FillMode.Always),
                        (false, FillMode.Always),
                        (false, FillMode.Untouched),
                        (false, FillMode.Chosen),
                    }
                )
                {
                    var field = Carried(mode, formula) with
                    {
                        Kind = kind.Name,
                        Live = live,
                        Length = null,
                        Target = kind.IsLink ? "customer" : null,
                        Choices = kind.IsChoice ? [new("a", "A")] : null,
                    };
                    var catalogue = Sample.Catalogue(field);
                    told += catalogue.Problems.Count > 0 ? 1 : 0;
                    var shown = Sample.Order(catalogue.Find("order")!);
                    Assert.Equal(35m - 1.5m, shown.Get("total").Number);
                }
            }
        }

        Assert.True(told > 200, $"Only {told} were told.");
    }

    private static RecordType Type(FieldDefinition carried)
    {
        var catalogue = Sample.Catalogue(Wish, carried);
        Assert.Empty(catalogue.Problems);
        return catalogue.Find("order")!;
    }

    // Customer 1 wishes paper, customer 2 wishes mail, customer 3 nothing.
    private static RecordState With(RecordState state)
    {
        state.Context = new(
            (part, id) =>
            {
                var values = new Value[part.Fields.Count];
                values[part.Find("wish")!.Slot] = id switch
                {
                    1 => Value.From("paper"),
                    2 => Value.From("mail"),
                    _ => Value.Empty,
                };
                return values;
            },
            Now
        );
        return state;
    }

    private static RecordChanges Enter(RecordType type, params (string Code, Value Value)[] entered)
    {
        var changes = new RecordChanges();
        foreach (var (code, value) in entered)
            changes.Header[type.Header.Find(code)!] = value;
        return changes;
    }

    private static RecordState Run(RecordState current, RecordChanges changes) =>
        Pipeline.Run(current, changes, Sample.Desk, Sample.Today).State;

    private static RecordState Fresh(RecordType type) => With(Pipeline.Fresh(type, Sample.Today));

    private static Origin? OriginOf(RecordState state) => state.Origins.GetValueOrDefault(state.Type.Header.Find("carried")!);

    private static RecordState OnFile(RecordState state)
    {
        var stored = new RecordState(state.Type)
        {
            Id = 9,
            Version = "1",
            Context = state.Context,
            Origins = new(state.Origins),
        };
        state.Header.CopyTo(stored.Header, 0);
        return stored;
    }

    [Fact(
        DisplayName = "Carried over when chosen: from the link's target, with where it came from; "
            + "later changes there do not reach it, another choice does"
    )]
    public void Filled_when_chosen()
    {
        var type = Type(Carried(FillMode.Chosen));
        var state = Run(Fresh(type), Enter(type, ("customer", Value.LinkTo(1))));
        Assert.Equal((Value.From("paper"), new Origin(Now.Now, null, "customer/1")), (state.Get("carried"), OriginOf(state)));

        var stored = OnFile(state);
        Sample.Set(stored, "carried", Value.From("as it was then"));
        Assert.Equal(Value.From("as it was then"), Run(stored, Enter(type, ("note", Value.From("changed")))).Get("carried"));
        var other = Run(stored, Enter(type, ("customer", Value.LinkTo(2))));
        Assert.Equal((Value.From("mail"), "customer/2"), (other.Get("carried"), OriginOf(other)!.From));
        Assert.Equal(Value.Empty, Run(stored, Enter(type, ("customer", Value.LinkTo(3)))).Get("carried"));
    }

    [Fact(DisplayName = "What somebody types over is theirs, until the source is chosen anew or it is filled again")]
    public void Typed_over()
    {
        var type = Type(Carried(FillMode.Chosen));
        var field = type.Header.Find("carried")!;
        var typed = Run(Fresh(type), Enter(type, ("customer", Value.LinkTo(1)), ("carried", Value.From("none"))));
        Assert.Equal((Value.From("none"), "Dee"), (typed.Get("carried"), OriginOf(typed)!.By));

        var stored = OnFile(typed);
        Assert.Equal(
            (Value.From("none"), "Dee"),
            (
                Run(stored, Enter(type, ("note", Value.From("x")))).Get("carried"),
                OriginOf(Run(stored, Enter(type, ("note", Value.From("x")))))!.By
            )
        );
        var again = Enter(type);
        again.FilledAgain.Add(new(type.Header, null, field));
        var back = Run(stored, again);
        Assert.Equal((Value.From("paper"), null, "customer/1"), (back.Get("carried"), OriginOf(back)!.By, OriginOf(back)!.From));
        var other = Run(stored, Enter(type, ("customer", Value.LinkTo(2))));
        Assert.Equal((Value.From("mail"), null), (other.Get("carried"), OriginOf(other)!.By));

        // Emptied by hand counts as typed; what equals the source does not.
        Assert.Equal(
            (Value.Empty, "Dee"),
            (
                Run(Fresh(type), Enter(type, ("customer", Value.LinkTo(1)), ("carried", Value.Empty))).Get("carried"),
                OriginOf(Run(Fresh(type), Enter(type, ("customer", Value.LinkTo(1)), ("carried", Value.Empty))))!.By
            )
        );
        Assert.Null(OriginOf(Run(Fresh(type), Enter(type, ("customer", Value.LinkTo(1)), ("carried", Value.From("paper")))))!.By);
    }

    [Fact(DisplayName = "A program that sends back what it read changes nothing: only another value counts as typed")]
    public void Sent_back_unchanged()
    {
        var type = Type(Carried(FillMode.Untouched, "IF(total > 20; \"large\"; \"small\")"));
        var order = With(Sample.Order(type));
        Pipeline.Fill(order);
        Assert.Equal(Value.From("large"), order.Get("carried"));
        var changes = Enter(type, ("carried", Value.From("large")));
        changes.Lines[type.LineParts[0]] = [];
        var after = Run(order, changes);
        Assert.Equal((Value.From("small"), null), (after.Get("carried"), OriginOf(after)!.By));
    }

    [Fact(
        DisplayName = "Until somebody types over it, it follows what it is calculated from; "
            + "then it stays, and comes back when it is filled again"
    )]
    public void Untouched()
    {
        var type = Type(Carried(FillMode.Untouched, "IF(total > 20; \"large\"; \"small\")"));
        var order = With(Sample.Order(type));
        Pipeline.Fill(order);
        var none = Enter(type);
        none.Lines[type.LineParts[0]] = [];
        Assert.Equal(Value.From("small"), Run(order, none).Get("carried"));

        var typed = Run(order, Enter(type, ("carried", Value.From("odd"))));
        var after = Run(OnFile(typed), none);
        Assert.Equal((Value.From("odd"), "Dee"), (after.Get("carried"), OriginOf(after)!.By));
        none.FilledAgain.Add(new(type.Header, null, type.Header.Find("carried")!));
        Assert.Equal(Value.From("small"), Run(OnFile(typed), none).Get("carried"));
    }

    [Fact(DisplayName = "Locked: filled by the choice, and whoever types is told that it cannot be changed")]
    public void Locked()
    {
        var type = Type(Carried(FillMode.Chosen, locked: true));
        var outcome = Pipeline.Run(
            Fresh(type),
            Enter(type, ("customer", Value.LinkTo(1)), ("carried", Value.From("mine"))),
            Sample.Desk,
            Sample.Today
        );
        Assert.Equal(
            "Carried is carried over and locked: it cannot be changed here.",
            Assert.Single(outcome.Messages, message => message.At.Field?.Code == "carried").Sentence
        );
        Assert.Equal(Value.From("paper"), Run(Fresh(type), Enter(type, ("customer", Value.LinkTo(1)))).Get("carried"));
    }

    [Fact(
        DisplayName = "From the header to each line, when the line is new "
            + "or the header's field changes; a line that was typed over is told apart"
    )]
    public void To_lines()
    {
        var type = Type(Carried(FillMode.Chosen, "note", part: "lines"));
        var part = type.LineParts[0];
        var order = With(Sample.Order(type));
        Assert.Equal(Value.Empty, order.Get(0, "carried"));
        var changes = Enter(type, ("note", Value.From("red ribbon")));
        changes.Lines[part] =
        [
            new("1", 1, new Dictionary<Field, Parsed>()),
            new("2", 2, new Dictionary<Field, Parsed> { [part.Find("carried")!] = Value.From("blue ribbon") }),
            new("n", null, new Dictionary<Field, Parsed>()),
        ];
        var after = Run(order, changes);
        Assert.Equal(["red ribbon", "blue ribbon", "red ribbon"], Enumerable.Range(0, 3).Select(at => after.Get(at, "carried").Text));
        Assert.Equal([null, "Dee", null], after.Lines[0].Select(line => line.Origins[part.Find("carried")!].By));
    }

    [Fact(DisplayName = "Origins are kept with the record's copy and read back; those of fields that nothing fills any more are left out")]
    public void Origins_read_back()
    {
        var type = Type(Carried(FillMode.Chosen));
        var origins = new Dictionary<Field, Origin>
        {
            [type.Header.Find("carried")!] = new(Now.Now, "Dee"),
            [type.Header.Find("note")!] = new(Now.Now, "Dee"),
        };
        Assert.Equal("carried", Assert.Single(Origins.Read(Origins.Write(origins), type.Header)).Key.Code);
        Assert.Null(Origins.Write(new Dictionary<Field, Origin>()));
    }

    [Fact(DisplayName = "What makes no sense is said at its place: live and changeable, a link to others, demanded and locked")]
    public void Refused_definitions()
    {
        string Only(FieldDefinition field) => Assert.Single(Sample.Catalogue(Wish, field).Problems).Sentence;
        Assert.Contains("is kept with its record", Only(Carried(FillMode.Untouched) with { Live = true }));
        Assert.Contains("nobody could type the required value", Only(Carried(FillMode.Chosen, locked: true) with { Required = true }));
        Assert.Contains(
            "gives a link to customers",
            Only(Carried(FillMode.Chosen, "customer") with { Kind = "link", Target = "order", Length = null })
        );
        Assert.Empty(
            Sample.Catalogue(Wish, Carried(FillMode.Chosen, "customer") with { Kind = "link", Target = "customer", Length = null }).Problems
        );
    }

    [Fact(
        DisplayName = "A field that is shown under a condition is demanded only while it holds, "
            + "keeps its value, and is shown to who may not know what the condition reads"
    )]
    public void Shown_under_a_condition()
    {
        FieldDefinition Reason(string when, string part = "header") =>
            new()
            {
                Id = "f-reason",
                RecordType = "order",
                Part = part,
                Code = "reason",
                Label = "Reason",
                Kind = "text",
                Length = 40,
                Required = true,
                ShownWhen = when,
            };
        var type = Sample.OrderType(Reason("total > 100"));
        var order = With(Sample.Order(type));
        var reason = type.Header.Find("reason")!;
        Assert.Equal(
            (false, 0),
            (
                Sample.Desk.IsShown(reason, order.FrameAt(null)),
                Pipeline.Run(order, Enter(type, ("note", Value.From("x"))), Sample.Desk, Sample.Today).Messages.Count
            )
        );
        Sample.Set(order, "reason", Value.From("kept"));
        Assert.Equal(Value.From("kept"), Run(order, Enter(type, ("note", Value.From("x")))).Get("reason"));
        var always = Sample.OrderType(Reason("total > 1"));
        Assert.Contains(
            "Reason is required.",
            Pipeline
                .Run(With(Sample.Order(always)), Enter(always, ("note", Value.From("x"))), Sample.Desk, Sample.Today)
                .Messages.Select(message => message.Sentence)
        );

        // Of lines, line by line: the second has a quantity of 3.
        var byLine = Sample.OrderType(Reason("quantity > 2", "lines"));
        var demanded = Assert.Single(
            Pipeline.Run(With(Sample.Order(byLine)), Enter(byLine, ("note", Value.From("x"))), Sample.Desk, Sample.Today).Messages
        );
        Assert.Equal(("Reason is required.", "2"), (demanded.Sentence, demanded.At.Line));
        Assert.Contains(
            "cannot depend on what it holds itself",
            Assert.Single(Sample.Catalogue(Reason("reason = \"x\"")).Problems).Sentence
        );
    }
}
