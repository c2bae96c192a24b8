using CsCheck;
using Pelto.Core.Access;
using Pelto.Core.Layouts;

namespace Pelto.Core.Tests.Layouts;

/// <summary>Lists shaped by layers, and what people arrange for themselves.</summary>
public sealed class ListTests
{
    private static readonly Viewer Desk = Sample.Desk with { SignIn = "dee" };

    private static Layer Layer(string audience, params LayerOperation[] operations) =>
        new()
        {
            Id = "a-" + audience,
            Label = audience,
            Comment = "test",
            Audience = audience,
            Operations = operations,
        };

    private static LayerOperation Op(
        string op,
        string part,
        string? after = null,
        bool off = false,
        int? width = null,
        string? label = null
    ) =>
        new()
        {
            Op = op,
            Part = part,
            After = after,
            Off = off,
            Width = width,
            Label = label,
        };

    private static Catalogue Build(params Layer[] layers) =>
        Catalogue.Build(
            1,
            Sample.Host,
            new SiteDefinition
            {
                Fields =
                [
                    Sample.Copies,
                    new()
                    {
                        Id = "f-double",
                        RecordType = "order",
                        Code = "double",
                        Label = "Double",
                        Kind = "decimal",
                        Digits = 9,
                        Decimals = 2,
                        Formula = "total * 2",
                        Live = true,
                    },
                    new()
                    {
                        Id = "f-theirs",
                        RecordType = "order",
                        Code = "theirs",
                        Label = "Their number",
                        Kind = "seen",
                        Path = "customer.number",
                    },
                ],
                Layers = layers,
            }
        );

    private static string Columns(Resolved list) => string.Join(" ", list.Layout.Places.Select(place => place.Field.Code));

    private static Viewer With(params LayerOperation[] own) =>
        Desk with
        {
            PersonalLayer = type =>
                type.Code == "order"
                    ? new()
                    {
                        Id = "own:1",
                        Label = "Your own arrangement",
                        Operations = own,
                    }
                    : null,
        };

    [Fact(
        DisplayName = "Columns are put, moved, hidden, named and widened for an audience; "
            + "built in, added, computed and seen through links alike"
    )]
    public void Columns_for_an_audience()
    {
        var catalogue = Build(
            Layer("everyone", Op("hide", "list:f-copies"), Op("put", "list:order.placed", "list:order.number")),
            Layer(
                "role:desk",
                Op("move", "list:f-double", "list:order"),
                Op("relabel", "list:order.total", label: "Sum"),
                Op("resize", "list:f-theirs", width: 3),
                Op("sort", "list:order.placed", off: true),
                Op("sort", "list:order.number")
            )
        );
        Assert.Empty(catalogue.Problems);
        var screens = catalogue.Find("order")!.Screens;
        Assert.Equal("number placed customer total double theirs", Columns(screens.ListFor(Sample.Guest)));
        var desk = screens.ListFor(Desk);
        Assert.Equal("double number placed customer total theirs", Columns(desk));
        var places = desk.Layout.Places.ToList();
        Assert.Equal(("Sum", 3, 0), (places[4].TextIn(Locale.International).Heading, places[5].Width, places[0].Width));
        Assert.Equal([("placed", true), ("number", false)], desk.Sorted.Select(key => (key.Column.Code, key.Descending)));
        Assert.Equal(["role:desk called it “Sum”."], screens.Why(desk, "list:order.total", static _ => true));
        Assert.Empty(screens.ListFor(Sample.Guest).Sorted);

        // The screen of a record is not touched by what is said of lists.
        Assert.Equal(
            Build().Find("order")!.Screen.Layout.Fields.Select(field => field.Id),
            screens.Standard.Layout.Fields.Select(field => field.Id)
        );
    }

    [Fact(DisplayName = "The list of orders on a customer's screen has columns of its own, said with the customer's screen")]
    public void Lists_within_a_record()
    {
        var catalogue = Build(
            Layer(
                "everyone",
                Op("put", "list:order.customer>order.placed", "list:order.customer>order.number"),
                Op("hide", "list:order.customer>order.total"),
                Op("sort", "list:order.customer>order.placed")
            )
        );
        Assert.Empty(catalogue.Problems);
        var (order, customer) = (catalogue.Find("order")!, catalogue.Find("customer")!);
        var link = order.Header.Find("customer")!;
        Assert.Equal("number placed copies double theirs", Columns(customer.Screens.ListFor(Desk, link)));
        Assert.Equal("placed", customer.Screens.ListFor(Desk, link).Sorted.Single().Column.Code);
        Assert.Equal("number customer total copies double theirs", Columns(order.Screens.ListFor(Desk)));
    }

    [Theory(DisplayName = "What makes no sense of a list is refused, with the reason")]
    [InlineData("lock", "list:order.total", null, "A list shows many records")]
    [InlineData("hide", "list:order.total", "total > 1", "A list shows many records")]
    [InlineData("hide", "list:order", null, "Of a list as a whole")]
    [InlineData("sort", "order.total", null, "Only lists are sorted.")]
    public void Refusals(string op, string part, string? when, string said) =>
        Assert.Contains(Build(Layer("everyone", Op(op, part) with { When = when })).Problems, problem =>
            problem.Sentence.StartsWith(said, StringComparison.Ordinal)
        );

    [Fact(DisplayName = "People arrange for themselves, last of all, and never what is not theirs to say")]
    public void Own_arrangement()
    {
        var catalogue = Build(
            Layer("everyone", Op("hide", "order.placed"), Op("resize", "order.note", width: 3)),
            Layer("role:desk", Op("move", "list:order.total", "list:order.number"))
        );
        var order = catalogue.Find("order")!;
        var viewer = With(
            Op("move", "list:order.customer", "list:order.total"),
            Op("hide", "list:f-copies"),
            Op("resize", "order.note", width: 12),
            Op("fold", "order.main.totals"),
            Op("hide", "order.customer"),
            Op("show", "order.placed"),
            Op("lock", "order.note"),
            Op("require", "order.note"),
            Op("put", "order.placed", "order.number"),
            Op("hide", "order.note") with
            {
                When = "total > 1",
            }
        );
        Assert.Equal("number total customer double theirs", Columns(order.Screens.ListFor(viewer)));
        var screen = order.Screens.AtMost(viewer, RecordMode.Changing);
        var note = screen.Layout.Places.Single(place => place.Id == "order.note");
        Assert.Equal((12, false, false), (note.Width, note.IsLocked, note.IsRequired));
        Assert.True(screen.Layout.Sections.Single(section => section.Id == "order.main.totals").IsFolded);
        Assert.DoesNotContain(screen.Layout.Fields, field => field.Code == "placed");

        // What nobody could do without stays, and says why.
        Assert.Contains(screen.Layout.Fields, field => field.Code == "customer");
        Assert.Contains("Customer cannot be hidden", Assert.Single(screen.Clashes).Sentence, StringComparison.Ordinal);
        Assert.Equal("Your own arrangement made it 12 of 12 wide.", order.Screens.Why(screen, "order.note", static _ => true).Last());

        // Others notice nothing.
        Assert.Equal("number total customer copies double theirs", Columns(order.Screens.ListFor(Desk)));
    }

    [Fact(DisplayName = "Where a layer keeps people from it, what they arranged has no effect; the last layer that says so counts")]
    public void Own_arrangement_where_allowed()
    {
        var off = Layer("everyone", Op("own", "list:order", off: true), Op("own", "screen:order", off: true));
        var viewer = With(Op("hide", "list:f-copies"), Op("fold", "order.main.totals"));
        var stored = Build(off).Find("order")!.Screens;
        Assert.Equal("number customer total copies double theirs", Columns(stored.ListFor(viewer)));
        Assert.DoesNotContain(stored.AtMost(viewer, RecordMode.Changing).Layout.Sections, section => section.IsFolded);
        var back = Build(off, Layer("role:desk", Op("own", "list:order"))).Find("order")!.Screens;
        Assert.Equal("number customer total double theirs", Columns(back.ListFor(viewer)));
        Assert.DoesNotContain(back.AtMost(viewer, RecordMode.Changing).Layout.Sections, section => section.IsFolded);
    }

    [Fact(DisplayName = "Whatever layers say of a list: each column stands once, hidden ones do not, and said twice is said once")]
    public void Any_list()
    {
        string[] parts =
        [
            "list:order.number",
            "list:order.customer",
            "list:order.placed",
            "list:order.note",
            "list:order.total",
            "list:f-copies",
            "list:f-double",
            "list:order.gone",
            "list:order",
        ];
        var operation = Gen.Select(
            Gen.Int[0, 4],
            Gen.Int[0, parts.Length - 2],
            Gen.Int[0, parts.Length - 1],
            Gen.Int[1, 12],
            (op, part, after, width) =>
                op switch
                {
                    0 => Op("put", parts[part], parts[after]),
                    1 => Op("move", parts[part], parts[after]),
                    2 => Op("hide", parts[part]),
                    3 => Op("show", parts[part]),
                    _ => Op("resize", parts[part], width: width),
                }
        );
        operation
            .List[0, 12]
            .Sample(
                said =>
                {
                    var order = Build(Layer("everyone", [.. said])).Find("order")!;
                    var list = order.Screens.ListFor(Desk);
                    var twice = order.Screens.ListFor(new(order), [.. order.Screens.Layers, .. order.Screens.Layers]);
                    var ids = list.Layout.Places.Select(place => place.Id).ToList();
                    return ids.Distinct().Count() == ids.Count && !list.Hidden.Keys.Any(ids.Contains) && Columns(list) == Columns(twice);
                },
                iter: 400
            );
    }
}
