using CsCheck;
using Pelto.Core.Access;
using Pelto.Core.Layouts;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Access;

/// <summary>Guards and grants: the rule case by case, and held against a second implementation on generated definitions.</summary>
public sealed class GrantTests
{
    private static readonly FieldDefinition[] Fields =
    [
        new()
        {
            Id = "f-cost",
            RecordType = "order",
            Part = "lines",
            Code = "cost",
            Label = "Cost",
            Kind = "decimal",
        },
        new()
        {
            Id = "f-margin",
            RecordType = "order",
            Part = "lines",
            Code = "margin",
            Label = "Margin",
            Kind = "decimal",
            Formula = "amount - cost",
        },
        new()
        {
            Id = "f-profit",
            RecordType = "order",
            Code = "profit",
            Label = "Profit",
            Kind = "decimal",
            Formula = "SUM(lines.margin)",
        },
        new()
        {
            Id = "f-share",
            RecordType = "order",
            Part = "lines",
            Code = "share",
            Label = "Share",
            Kind = "decimal",
            Formula = "margin / amount",
            Live = true,
        },
    ];

    private static readonly Viewer Dee = Sample.Desk with { SignIn = "dee", Company = "north" };

    private static Catalogue Build(IEnumerable<Guard> guards, params Grant[] grants) =>
        Catalogue.Build(
            1,
            Sample.Host,
            new SiteDefinition
            {
                Fields = Fields,
                Guards = [.. guards],
                Grants = grants,
            }
        );

    private static Guard On(string on) => new() { On = on };

    private static Grant Give(string to, string on, string level, string? when = null) =>
        new()
        {
            Id = Grant.NewId(),
            To = [to],
            On = [on],
            Level = level,
            When = when,
        };

    private static Grant Withhold(string from, string on, string level, string? when = null) =>
        Give(from, on, level, when) with
        {
            Does = Grant.Withhold,
        };

    private static Grant Open(string to, string on, string? when = null) =>
        Give(to, on, "read", when) with
        {
            Does = Grant.Open,
            Comment = "They answer for it",
        };

    private static Grant Rights(string does, string who, string[] may, string? when = null) =>
        new()
        {
            Id = Grant.NewId(),
            Does = does,
            To = [who],
            On = ["type:order"],
            May = may,
            When = when,
        };

    private static Field Find(Catalogue catalogue, string code) =>
        catalogue.Find("order") is { } type
            ? type.Header.Find(code) ?? type.LineParts[0].Find(code)!
            : throw new InvalidOperationException();

    private static RecordState Record(Catalogue catalogue)
    {
        var state = Sample.Order(catalogue.Find("order")!);
        foreach (var (line, cost) in state.Lines[0].Zip([12m, 9m]))
            line.Values[Find(catalogue, "cost").Slot] = Value.From(cost);
        Pipeline.Fill(state);
        return state;
    }

    [Fact(DisplayName = "Whoever may write a field and finds it locked on the screen is told both, and by which layer")]
    public void Locks_are_told()
    {
        var layers = new[]
        {
            new Layer
            {
                Id = "a-1",
                Label = "Desk layer",
                Comment = "x",
                Audience = "role:desk",
                Operations = [new() { Op = LayerOperation.Lock, Part = "order.note" }],
            },
        };
        var catalogue = Catalogue.Build(1, Sample.Host, new() { Layers = layers });
        var type = catalogue.Find("order")!;
        AccessExplanation Why(string code) =>
            Sample.Desk.Explain(
                type.Header.Find(code)!,
                Sample.Order(type),
                null,
                catalogue,
                Sample.Desk.LocksOf(type.Header.Find(code)!, Sample.Order(type))
            );
        Assert.EndsWith("; on the screen it is locked.", Why("note").Sentence, StringComparison.Ordinal);
        Assert.Equal("The layer Desk layer locks it on the screen; programs may still write it", Why("note").Reasons[^1].Sentence);
        Assert.DoesNotContain("locked", Why("customer").Sentence, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "Guarded is nobody's but administrators'; grants give it, the highest counts, and what is withheld is withheld")]
    public void Guarded_given_withheld()
    {
        var catalogue = Build(
            [On("order.note")],
            Give("role:desk", "order.note", "masked"),
            Give("role:guest", "order.note", "read"),
            Withhold("user:gus", "order.note", "none")
        );
        var note = Find(catalogue, "note");
        Assert.Empty(catalogue.Problems);
        Assert.Equal(AccessLevel.Write, Sample.Administrator.LevelAt(note));
        Assert.Equal(AccessLevel.Masked, Sample.Desk.LevelAt(note));
        Assert.Equal(AccessLevel.Read, Sample.Guest.LevelAt(note));
        Assert.Equal(AccessLevel.Read, new Viewer(Guid.NewGuid(), "Both", ["desk", "guest"]).LevelAt(note));
        Assert.Equal(AccessLevel.None, new Viewer(Guid.NewGuid(), "Gus", ["desk", "guest"]) { SignIn = "gus" }.LevelAt(note));
        Assert.Equal(AccessLevel.None, new Viewer(Guid.NewGuid(), "Nobody", []).LevelAt(note));
    }

    [Fact(DisplayName = "A grant lets somebody write one field of a record that they may only read, and nothing else of it")]
    public void One_field()
    {
        var catalogue = Build([], Give("role:guest", "order.note", "write"));
        var type = catalogue.Find("order")!;
        Assert.True(Sample.Guest.MayChange(type));
        Assert.False(Sample.Guest.MayCreate(type));
        Assert.Equal(AccessLevel.Write, Sample.Guest.LevelAt(Find(catalogue, "note")));
        Assert.Equal(AccessLevel.Read, Sample.Guest.LevelAt(Find(catalogue, "quantity")));
        var changes = new RecordChanges { Header = { [Find(catalogue, "note")] = Value.From("seen") } };
        changes.Lines[type.LineParts[0]] =
        [
            new("1", 1, new Dictionary<Field, Parsed>()),
            new("new", null, new Dictionary<Field, Parsed> { [Find(catalogue, "quantity")] = Value.From(1m) }),
        ];
        var outcome = Pipeline.Run(Record(catalogue), changes, Sample.Guest, Sample.Today);
        Assert.Equal(
            ["You may not add or remove order lines of this record.", "You may not add or remove order lines of this record."],
            outcome.Messages.Select(message => message.Sentence)
        );
        Assert.Equal("seen", outcome.State.Get("note").Text);
        Assert.Equal(2, outcome.State.Lines[0].Count);
    }

    [Fact(
        DisplayName = "What is calculated from a guarded field is guarded with it, "
            + "through other fields, lines and the ERP's own sums, until it is opened"
    )]
    public void Inherited_and_opened()
    {
        var closed = Build([On("f-cost")]);
        foreach (var code in new[] { "cost", "margin", "share", "profit" })
            Assert.Equal(AccessLevel.None, Sample.Desk.LevelAt(Find(closed, code)));
        Assert.Equal(AccessLevel.Read, Sample.Administrator.LevelAt(Find(closed, "profit")));

        // Built in: the sum is made of guarded prices.
        var prices = Build([On("order.lines.price")]);
        Assert.Equal(AccessLevel.None, Sample.Desk.LevelAt(Find(prices, "amount")));
        Assert.Equal(AccessLevel.None, Sample.Desk.LevelAt(Find(prices, "total")));

        var opened = Build([On("f-cost")], Open("role:desk", "f-margin"));
        Assert.Empty(opened.Problems);
        Assert.Equal(AccessLevel.None, Sample.Desk.LevelAt(Find(opened, "cost")));
        foreach (var code in new[] { "margin", "share", "profit" })
            Assert.Equal(AccessLevel.Read, Sample.Desk.LevelAt(Find(opened, code)));
        Assert.Equal(AccessLevel.None, Sample.Guest.LevelAt(Find(opened, "profit")));

        // A grant that does not open leaves it as it is.
        Assert.Equal(AccessLevel.None, Sample.Desk.LevelAt(Find(Build([On("f-cost")], Give("role:desk", "f-margin", "read")), "margin")));
    }

    [Fact(
        DisplayName = "The record decides: written while a condition holds, "
            + "read only by whom it names, and a condition without an answer withholds"
    )]
    public void By_record()
    {
        var catalogue = Build(
            [],
            Rights(Grant.Withhold, "everyone", ["change"], "total > 30"),
            Withhold("role:desk", "order.lines.price", "none", "quantity > 2"),
            Give("role:guest", "order.note", "write", ":person = \"gus\"")
        );
        var whole = Record(catalogue);
        var access = RecordAccess.To(whole, Sample.Desk);
        Assert.False(access.MayChange);
        Assert.Equal(AccessLevel.Read, access.LevelAt(Find(catalogue, "note"), null));
        Assert.Equal(AccessLevel.Read, access.LevelAt(Find(catalogue, "price"), "1"));
        Assert.Equal(AccessLevel.None, access.LevelAt(Find(catalogue, "price"), "2"));
        Assert.Equal(AccessLevel.None, access.LevelAt(Find(catalogue, "amount"), "2"));

        // Over lines of which some are withheld, the sum is withheld: which ones is not known there.
        Assert.Equal(AccessLevel.None, Sample.Desk.LevelAt(Find(catalogue, "total")));
        var seen = access.Withheld(whole.Copy());
        Assert.True(seen.Get(1, "price").IsEmpty && seen.Get(1, "amount").IsEmpty && seen.Get("total").IsEmpty);
        Assert.Equal(10m, seen.Get(0, "price").Number);
        var outcome = Pipeline.Run(whole, new() { Header = { [Find(catalogue, "note")] = Value.From("late") } }, Sample.Desk, Sample.Today);
        Assert.Equal("You may not change Note as this record stands.", Assert.Single(outcome.Messages).Sentence);

        // Somebody who is named by the condition may, as far as the record can be changed at all.
        Assert.Equal(AccessLevel.Read, RecordAccess.To(whole, Sample.Guest with { SignIn = "gus" }).LevelAt(Find(catalogue, "note"), null));
        var small = new RecordState(catalogue.Find("order")!) { Id = 8 };
        Pipeline.Fill(small);
        Assert.Equal(
            AccessLevel.Write,
            RecordAccess.To(small, Sample.Guest with { SignIn = "gus" }).LevelAt(Find(catalogue, "note"), null)
        );
        Assert.Equal(AccessLevel.Read, RecordAccess.To(small, Sample.Guest with { SignIn = "eva" }).LevelAt(Find(catalogue, "note"), null));
    }

    [Fact(
        DisplayName = "A line whose values somebody may not all read is removed without a "
            + "clash, and a masked value is kept when it was not sent"
    )]
    public void Withheld_values_stay()
    {
        var catalogue = Build([On("f-cost")], Give("role:desk", "f-cost", "masked"));
        var whole = Record(catalogue);
        var opened = RecordAccess.To(whole, Sample.Desk).Withheld(whole.Copy());
        Assert.True(opened.Get(0, "cost").IsEmpty);
        Assert.Equal(
            "[\"/lines/lines/0/cost\",\"/lines/lines/0/margin\",\"/lines/lines/0/share\",\"/lines/lines/1/cost\",\"/lines/lines/1/margin\",\"/lines/lines/1/share\",\"/values/profit\"]",
            new System.Text.Json.Nodes.JsonArray([
                .. RecordJson
                    .WriteMasked(opened, Sample.Desk)!
                    .Select(one => one!.DeepClone())
                    .OrderBy(one => one!.ToString(), StringComparer.Ordinal),
            ]).ToJsonString()
        );
        var changes = new RecordChanges { Opened = opened };
        changes.Lines[catalogue.Find("order")!.LineParts[0]] =
        [
            new("2", 2, new Dictionary<Field, Parsed> { [Find(catalogue, "quantity")] = Value.From(4m) }),
        ];
        var outcome = Pipeline.Run(whole, changes, Sample.Desk, Sample.Today);
        Assert.True(
            outcome.IsGood,
            string.Join(' ', outcome.Messages.Select(message => message.Sentence).Concat(outcome.Clashes.Select(clash => clash.Sentence)))
        );
        Assert.Equal(9m, Assert.Single(outcome.State.Lines[0]).Values[Find(catalogue, "cost").Slot].Number);
    }

    [Theory(DisplayName = "What makes no sense is refused with the reason, at its place")]
    [InlineData("to", "There is nobody called role sales here.")]
    [InlineData("on", "There is no field order.colour here.")]
    [InlineData("level", "Say which level: none, masked, read or write.")]
    [InlineData("when", "At character 1: There is no field “colour” here.")]
    [InlineData("comment", "Say why it is opened: whoever sees it may learn what it is calculated from.")]
    [InlineData("on", "Number is what orders are called by: whoever may read the record reads it. Withhold the record type instead.")]
    [InlineData("may", "There is no right “own”: there are read, create, change and delete.")]
    public void Refused(string property, string sentence)
    {
        var catalogue = Build(
            [],
            Give("role:sales", "order.note", "read"),
            Give("role:desk", "order.colour", "read"),
            Give("role:desk", "order.note", "own"),
            Give("role:desk", "order.note", "read", "colour = 1"),
            Open("role:desk", "f-margin") with
            {
                Comment = "",
            },
            Withhold("role:desk", "order.number", "none"),
            Rights(Grant.Give, "role:desk", ["own"])
        );
        Assert.Contains(catalogue.Problems, problem =>
            problem.Property == property && problem.Sentence.StartsWith(sentence, StringComparison.Ordinal)
        );
    }

    [Fact(
        DisplayName = "On generated guards and grants every level is as the naive rule has it; "
            + "what is withheld is gone, and the explanation tells the same level"
    )]
    public void As_the_naive_rule_has_it()
    {
        string[] what =
        [
            "order.note",
            "order.lines.quantity",
            "order.lines.price",
            "order.lines.amount",
            "order.total",
            "f-cost",
            "f-margin",
            "f-share",
            "f-profit",
        ];
        string[] to = ["everyone", "role:desk", "role:guest", "user:dee", "role:administrator"];
        string?[] whens = [null, null, "total > 30", "note = \"as agreed\"", ":person = \"dee\""];
        string[] linewhens = ["quantity > 2", "price < 7"];
        var grant =
            from does in Gen.Int[0, 5]
            from field in Gen.Int[0, what.Length - 1]
            from whom in Gen.Int[0, to.Length - 1]
            from level in Gen.Int[0, 3]
            from condition in Gen.Int[0, whens.Length + linewhens.Length - 1]
            from isType in Gen.Int[0, 3]
            from rights in Gen.Int[1, 7]
            select Made(does, what[field], to[whom], level, condition, isType == 0, rights);
        var guards = Gen.Int[0, (1 << (what.Length + 1)) - 1];
        (from some in grant.List[0, 7] from guarded in guards from thin in guards select (some, guarded: guarded & thin)).Sample(
            made =>
            {
                var site = new SiteDefinition
                {
                    Fields = Fields,
                    Guards = [.. what.Append("type:order").Where((_, at) => (made.guarded >> at & 1) == 1).Select(On)],
                    Grants = made.some,
                };
                var catalogue = Catalogue.Build(1, Sample.Host, site);
                Assert.Empty(catalogue.Problems);
                var whole = Record(catalogue);
                foreach (
                    var viewer in new[]
                    {
                        Dee,
                        Sample.Guest,
                        Sample.Administrator,
                        Dee with
                        {
                            Roles = ["desk", "guest"],
                        },
                        Dee with
                        {
                            Roles = [],
                        },
                    }
                )
                {
                    var naive = new NaiveAccess(site, Sample.Host, viewer, whole);
                    var access = RecordAccess.To(whole, viewer);
                    var seen = access.Withheld(whole.Copy());
                    foreach (var field in whole.Type.Parts.SelectMany(part => part.Fields))
                    {
                        foreach (var line in field.Part.IsLines ? whole.Lines[0] : Enumerable.Repeat<LineState?>(null, 1))
                        {
                            var level = access.LevelAt(field, line?.Key);
                            Assert.True(
                                naive.LevelAt(field, line) == level,
                                $"{viewer.Name} ({string.Join(',', viewer.Roles)}) at {field}, "
                                    + $"line {line?.Key}: naively {naive.LevelAt(field, line)}, resolved {level}"
                            );
                            Assert.InRange(level, viewer.SureAt(field), viewer.LevelAt(field));
                            var values = line is null
                                ? (seen.Header, whole.Header)
                                : (seen.Lines[0].Find(row => row.Key == line.Key)!.Values, line.Values);
                            Assert.Equal(level >= AccessLevel.Read ? values.Item2[field.Slot] : Value.Empty, values.Item1[field.Slot]);
                            var why = viewer.Explain(field, whole, line, catalogue, []);
                            Assert.Equal(level, why.Level);
                            Assert.StartsWith(
                                $"{viewer.Name} {Verb(level)} {GrantWords.Named(field)}",
                                why.Sentence,
                                StringComparison.Ordinal
                            );
                        }
                    }
                }

                SeeingTests.Hold(
                    catalogue,
                    whole,
                    [Dee, Sample.Guest, Sample.Administrator, Dee with { Roles = ["desk", "guest"] }, Dee with { Roles = [] }]
                );
            },
            iter: 400,
            threads: 1,
            print: made => string.Join(" | ", made.some.Select(SiteDefinition.Text)) + $" guards {made.guarded:b}"
        );

        static string Verb(AccessLevel level) =>
            level switch
            {
                AccessLevel.Write => "reads and writes",
                AccessLevel.Read => "reads",
                AccessLevel.Masked => "sees",
                _ => "does not see",
            };

        Grant Made(int does, string field, string whom, int level, int condition, bool isType, int rights)
        {
            var when =
                condition < whens.Length ? whens[condition]
                : !isType && (field.StartsWith("order.lines", StringComparison.Ordinal) || field is "f-cost" or "f-margin" or "f-share")
                    ? linewhens[condition - whens.Length]
                : null;
            if (isType)
                return Rights(
                    does % 2 == 0 ? Grant.Give : Grant.Withhold,
                    whom,
                    [.. new[] { "read", "create", "change" }.Where((_, at) => (rights >> at & 1) == 1)],
                    when
                );
            return does switch
            {
                < 3 => Give(whom, field, AccessLevels.Words[Math.Max(1, level)], when),
                _ when does < 5 || field is "order.note" or "order.lines.quantity" or "order.lines.price" or "f-cost" => Withhold(
                    whom,
                    field,
                    AccessLevels.Words[Math.Min(2, level)],
                    when
                ),
                _ => Open(whom, field, when),
            };
        }
    }
}
