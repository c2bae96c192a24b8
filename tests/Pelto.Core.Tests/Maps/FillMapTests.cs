using CsCheck;
using Pelto.Core.Maps;

namespace Pelto.Core.Tests.Maps;

/// <summary>The map of what fills what, and its drawing.</summary>
public sealed class FillMapTests
{
    private static FieldDefinition Field(string code, string formula, string type = "order", FillMode fills = FillMode.Always) =>
        new()
        {
            Id = "f-" + code,
            RecordType = type,
            Code = code,
            Label = code,
            Kind = "decimal",
            Digits = 12,
            Decimals = 2,
            Formula = formula,
            Fills = fills,
        };

    [Fact(
        DisplayName = "Fields lead to what they fill, over lines and through links, "
            + "and results to the screen; one can be followed up and down"
    )]
    public void Of_a_catalogue()
    {
        var map = FillMap.For(
            Sample.Catalogue(
                new()
                {
                    Id = "f-limit",
                    RecordType = "customer",
                    Code = "limit",
                    Label = "limit",
                    Kind = "decimal",
                },
                Field("room", "customer.limit - total"),
                Field("share", "room / customer.limit")
            )
        );
        string? How(string from, string to) => map.Edges.FirstOrDefault(edge => edge.From == from && edge.To == to)?.How;
        Assert.Equal(
            ("over order lines", "formula", "read through a link", "leads there", "shown on"),
            (
                How("order.lines.amount", "order.total"),
                How("order.total", "f-room"),
                How("f-limit", "f-room"),
                How("order.customer", "f-room"),
                How("f-share", "screen:order")
            )
        );
        Assert.Null(How("f-room", "screen:order"));
        var up = map.Following("f-room").Nodes.Select(node => node.Id).ToHashSet();
        Assert.Contains("order.lines.price", up);
        Assert.Contains("f-share", up);
        Assert.DoesNotContain("order.vat", up);
        Assert.Contains("f-limit", map.About("order").Nodes.Select(node => node.Id));
    }

    [Fact(DisplayName = "What fields are filled from and stands on no screen is told in words")]
    public void Missing_inputs()
    {
        var site = new SiteDefinition
        {
            Fields =
            [
                new()
                {
                    Id = "f-limit",
                    RecordType = "customer",
                    Code = "limit",
                    Label = "limit",
                    Kind = "decimal",
                },
                Field("room", "customer.limit - total"),
            ],
        }.Placing("f-limit", new() { Op = LayerOperation.Hide, Part = "f-limit" });
        var told = FillMap.For(Core.Catalog.Catalogue.Build(1, Sample.Host, site)).Nodes.Where(node => node.Problem is not null);
        Assert.Equal(
            ("f-limit", "It is on no screen of customers: nobody can fill it, and other fields are filled from it."),
            (told.Single().Id, told.Single().Problem)
        );
    }

    [Fact(DisplayName = "A circle is told in words at its fields, and is drawn all the same")]
    public void Circles()
    {
        var map = FillMap.For(Sample.Catalogue(Field("a", "b + 1"), Field("b", "a + 1")));
        Assert.Contains(map.Nodes, node => node.Problem?.Contains("depend on each other in a circle", StringComparison.Ordinal) == true);
        Assert.Single(MapLayout.For(map).Edges, edge => edge.GoesBack);
    }

    [Fact(
        DisplayName = "Whatever the map, up to 300 nodes: no two nodes overlap, "
            + "edges go to the right unless they close a circle, and all of it is inside (property-based, CsCheck)"
    )]
    public void Layout_is_sound() =>
        Gen.Select(Gen.Int[1, 300], Gen.Select(Gen.Int[0, 299], Gen.Int[0, 299]).Array[0, 500])
            .Sample(
                (count, pairs) =>
                {
                    var nodes = Enumerable.Range(0, count).Select(at => new MapNode($"n{at}", MapKind.Input, $"n{at}", "", null)).ToList();
                    var edges = pairs
                        .Where(pair => pair.Item1 < count && pair.Item2 < count)
                        .Distinct()
                        .Select(pair => new MapEdge($"n{pair.Item1}", $"n{pair.Item2}", ""))
                        .ToList();
                    var layout = MapLayout.For(new(nodes, edges));
                    Assert.Equal((count, edges.Count), (layout.Nodes.Count, layout.Edges.Count));
                    foreach (var column in layout.Nodes.GroupBy(node => node.X))
                    {
                        var tops = column.Select(node => node.Y).Order().ToList();
                        Assert.All(tops.Zip(tops.Skip(1)), pair => Assert.True(pair.Second - pair.First >= MapLayout.NodeHeight));
                    }

                    Assert.All(layout.Edges.Where(edge => !edge.GoesBack), edge =>
                        Assert.All(edge.Points.Zip(edge.Points.Skip(1)), step => Assert.True(step.Second.X >= step.First.X))
                    );
                    Assert.All(layout.Nodes, node =>
                        Assert.True(
                            node.X >= 0
                                && node.Y >= 0
                                && node.X + MapLayout.NodeWidth <= layout.Width
                                && node.Y + MapLayout.NodeHeight <= layout.Height
                        )
                    );
                },
                iter: 60
            );
}
