using Pelto.Core.Layouts;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Layouts;

/// <summary>Editing layers, and what a screen asks of what is sent from it.</summary>
public sealed class ArrangingTests
{
    [Fact(
        DisplayName = "Fields fall on the grid side by side and on to the next row "
            + "where they do not fit; what moves is told, and where nothing would"
    )]
    public void Grid()
    {
        // Worked by hand: number 2, customer 4, placed 2; then note, 8 wide, which does not fit beside them.
        var before = Layout();
        var after = Layout(
            new LayerOperation
            {
                Op = "put",
                Part = "order.note",
                After = "order.number",
            }
        );
        var head = after.Sections.First();
        Assert.Equal(
            ["order.number (1, 1)", "order.note (1, 3)", "order.customer (2, 1)", "order.placed (2, 5)"],
            GridFlow.For(head).Select(pair => $"{pair.Key} ({pair.Value.Row}, {pair.Value.Column})")
        );
        Assert.Equal(
            [("order.customer", new GridCell(1, 3), new GridCell(2, 1)), ("order.placed", new GridCell(1, 7), new GridCell(2, 5))],
            GridFlow.Moved(before, after, "order.note").Select(moved => (moved.Item.Id, moved.Was, moved.Is))
        );
        Assert.Equal("order.placed", GridFlow.Gap(before.Sections.First(), 4, "order.note")!.Id);
        Assert.Equal("order.placed", GridFlow.Gap(before.Sections.First(), 8, "order.note")!.Id);
        Assert.Null(GridFlow.Gap(after.Sections.Last(), 8, "order.note"));

        // What begins a row does so though there were room, and what follows goes with it.
        var begun = Layout(new LayerOperation { Op = "row", Part = "order.customer" });
        Assert.Equal(
            ["order.number (1, 1)", "order.customer (2, 1)", "order.placed (2, 5)"],
            GridFlow.For(begun.Sections.First()).Select(pair => $"{pair.Key} ({pair.Value.Row}, {pair.Value.Column})")
        );
        Assert.Equal(
            "order.placed (1, 7)",
            GridFlow
                .For(
                    Layout(
                        new LayerOperation { Op = "row", Part = "order.customer" },
                        new LayerOperation
                        {
                            Op = "row",
                            Part = "order.customer",
                            Off = true,
                        }
                    )
                        .Sections.First()
                )
                .Select(pair => $"{pair.Key} ({pair.Value.Row}, {pair.Value.Column})")
                .Last()
        );
    }

    [Fact(
        DisplayName = "A layer says each thing once: a later word takes the place of the "
            + "earlier; another moment or condition is another thing"
    )]
    public void Layers_say_things_once()
    {
        var layer = new Layer { Id = "a" }
            .With(
                new()
                {
                    Op = "put",
                    Part = "order.note",
                    After = "order.number",
                }
            )
            .With(
                new()
                {
                    Op = "resize",
                    Part = "order.note",
                    Width = 3,
                }
            )
            .With(
                new()
                {
                    Op = "hide",
                    Part = "order.note",
                    On = "adding",
                }
            )
            .With(
                new()
                {
                    Op = "put",
                    Part = "order.note",
                    After = "order.customer",
                }
            )
            .With(
                new()
                {
                    Op = "resize",
                    Part = "order.note",
                    Width = 5,
                }
            );
        Assert.Equal(["hide ", "put order.customer", "resize "], layer.Operations.Select(operation => $"{operation.Op} {operation.After}"));
        Assert.Equal(5, layer.Operations[^1].Width);

        // What was made is moved, widened and called something else where it was made, so that it is still known when something stands in
        // it.
        var made = layer
            .With(
                new()
                {
                    Op = "put",
                    Part = "p-1",
                    Screen = "order",
                    Label = "New",
                    After = "order.main",
                    New = new() { What = "section" },
                }
            )
            .With(
                new()
                {
                    Op = "put",
                    Part = "order.note",
                    After = "p-1",
                }
            )
            .With(
                new()
                {
                    Op = "relabel",
                    Part = "p-1",
                    Label = "Rigging",
                }
            );
        Assert.Equal("Rigging", Assert.Single(made.Operations, operation => operation.Part == "p-1").Label);
        Assert.DoesNotContain(
            made.Without(made.Operations.ToList().FindIndex(operation => operation.Part == "p-1")).Operations,
            operation => operation.Part == "p-1"
        );
    }

    [Theory(DisplayName = "A place is as wide as its widest value needs: more letters never need less, and an arrow takes its room")]
    [InlineData(0, false, 1)]
    [InlineData(10, false, 2)]
    [InlineData(24, true, 3)]
    [InlineData(60, false, 5)]
    [InlineData(400, false, 12)]
    public void Widths_follow_values(int letters, bool hasArrow, int columns)
    {
        Assert.Equal(columns, Widths.Needed(letters, hasArrow));
        Assert.All(Enumerable.Range(0, 200), n =>
            Assert.True(Widths.Needed(n, hasArrow) <= Widths.Needed(n + 1, hasArrow) && Widths.Needed(n, false) <= Widths.Needed(n, true))
        );
    }

    [Fact(
        DisplayName = "What a screen locks is refused when it is sent from there all the same, "
            + "what it asks for is missed; programs are held to definitions alone"
    )]
    public void Screens_ask()
    {
        var type = Catalogue
            .Build(
                1,
                Sample.Host,
                new()
                {
                    Layers = [Site(new() { Op = "lock", Part = "order.note" }, new() { Op = "require", Part = "order.lines.discount" })],
                }
            )
            .Find("order")!;
        var order = Sample.Order(type);
        Assert.Equal(
            ["Discount is required here.", "Note is locked on this screen."],
            Run(order, true).Messages.Select(message => message.Sentence)
        );
        Assert.True(Run(order, false).IsGood);

        // Drawn before a release that asks for it, a form is not held to what it could not show.
        var late = Pipeline.Run(order, new() { IsFromScreen = true }, Sample.Desk, Sample.Today, static _ => false);
        Assert.True(late.IsGood);
    }

    [Fact(DisplayName = "What a condition took off the screen is taken out of what is sent, and told; what stands elsewhere then is kept")]
    public void Taken_off()
    {
        var type = Catalogue
            .Build(
                1,
                Sample.Host,
                new()
                {
                    Layers =
                    [
                        Site(
                            new LayerOperation
                            {
                                Op = "hide",
                                Part = "order.note",
                                When = "total < 20",
                            }
                        ),
                    ],
                }
            )
            .Find("order")!;
        var all = type.Screens.AtMost(Sample.Desk, RecordMode.Changing).Layout;
        var order = Sample.Order(type);
        var changes = Changes(order, true);
        Assert.Empty(ScreenRules.TakeOff(type.Screens.For(Sample.Desk, order).Layout, all, changes, static _ => true));
        Sample.Set(order, "total", Value.From(10m));
        Assert.Empty(ScreenRules.TakeOff(type.Screens.For(Sample.Desk, order).Layout, all, changes, static _ => false));
        Assert.Equal(
            ["note"],
            ScreenRules.TakeOff(type.Screens.For(Sample.Desk, order).Layout, all, changes, static _ => true).Select(field => field.Code)
        );
        Assert.Empty(changes.Header);
    }

    private static Outcome Run(RecordState order, bool fromScreen) =>
        Pipeline.Run(order, Changes(order, fromScreen), Sample.Desk, Sample.Today);

    private static RecordChanges Changes(RecordState order, bool fromScreen)
    {
        var changes = new RecordChanges { IsFromScreen = fromScreen };
        changes.Header[order.Type.Header.Find("note")!] = Value.From("another");
        return changes;
    }

    private static Layer Site(params LayerOperation[] operations) =>
        new()
        {
            Id = "site",
            Label = "Site",
            Operations = operations,
        };

    private static Layout Layout(params LayerOperation[] operations) =>
        Catalogue.Build(1, Sample.Host, new() { Layers = [Site(operations)] }).Find("order")!.Screen.Layout;
}
