using CsCheck;
using Pelto.Core.Layouts;

namespace Pelto.Core.Tests.Layouts;

public sealed class LayoutTests
{
    [Fact(DisplayName = "A field that no layer places stands at the end of its part")]
    public void Unplaced_fields_stand_at_the_end()
    {
        Assert.Equal("copies", Codes(Site())["order.main.head"][^1]);
        Assert.Equal("copies", Codes(new SiteDefinition { Fields = [Sample.Copies with { Part = "lines" }] })["order.main.lines"][^1]);
    }

    [Fact(DisplayName = "A field stands after its anchor, or first in a section")]
    public void Fields_follow_anchors()
    {
        Assert.Equal(["number", "customer", "copies", "placed"], Codes(Site("order.customer"))["order.main.head"]);
        Assert.Equal(["copies", "note"], Codes(Site("order.more.notes"))["order.more.notes"]);
    }

    [Fact(DisplayName = "An anchor that is gone leaves the field in sight and is reported")]
    public void Lost_anchors_are_reported()
    {
        var catalogue = Catalogue.Build(1, Sample.Host, Site("order.nowhere"));
        Assert.Equal(
            "Certificate copies was to stand after order.nowhere, which is not on this screen.",
            Assert.Single(catalogue.Clashes).Clash.Sentence
        );
        Assert.Empty(catalogue.Problems);
        Assert.Contains("copies", Codes(Site("order.nowhere"))["order.main.head"]);
    }

    [Fact(DisplayName = "Hiding takes a field off the screen and out of lists; a built-in field that is required stays")]
    public void Hiding_hides()
    {
        var site = Site()
            .Placing("f-copies", new() { Op = LayerOperation.Hide, Part = "f-copies" })
            .Placing("order.customer", new() { Op = LayerOperation.Hide, Part = "order.customer" });
        var catalogue = Catalogue.Build(1, Sample.Host, site);
        Assert.DoesNotContain(catalogue.Find("order")!.Screen.Layout.Fields, field => field.Code == "copies");
        Assert.DoesNotContain(catalogue.Find("order")!.ListColumns, field => field.Code == "copies");
        Assert.Contains(catalogue.Problems, problem =>
            problem.Element == "order.customer" && problem.Sentence.StartsWith("Customer cannot be hidden", StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "Whatever a layer says, no field is lost, none stands twice, and saying it twice changes nothing")]
    public void Layers_lose_nothing()
    {
        var ids = Sample
            .OrderType(Sample.Copies)
            .Header.Fields.Select(field => field.Id)
            .Append("order.main.head")
            .Append("order.more.notes")
            .ToArray();
        Gen.Select(Gen.Int[0, ids.Length - 1].Select(i => ids[i]), Gen.Int[0, ids.Length - 1].Select(i => ids[i]))
            .Array[0, 8]
            .Sample(moves =>
            {
                var operations = moves
                    .Select(move => new LayerOperation
                    {
                        Op = "put",
                        Part = move.Item1,
                        After = move.Item2,
                    })
                    .ToList();
                var once = new SiteDefinition { Fields = [Sample.Copies], Layers = [new() { Id = "a", Operations = operations }] };
                var last = operations.TakeLast(1);
                var twice = once with { Layers = [new() { Id = "a", Operations = [.. operations, .. last] }] };
                var fields = Codes(once).SelectMany(pair => pair.Value).ToList();
                return fields.Count == fields.Distinct().Count()
                    && fields.Count == 11
                    && Codes(once).SelectMany(pair => pair.Value).SequenceEqual(Codes(twice).SelectMany(pair => pair.Value));
            });
    }

    private static SiteDefinition Site(string? after = null)
    {
        var site = new SiteDefinition { Fields = [Sample.Copies] };
        return after is null
            ? site
            : site.Placing(
                "f-copies",
                new()
                {
                    Op = LayerOperation.Put,
                    Part = "f-copies",
                    After = after,
                }
            );
    }

    [Fact(
        DisplayName = "Lists of what points here stand after the section named, in the order in which they were put; "
            + "hidden ones nowhere; a lost anchor is reported and the list goes back below the screen"
    )]
    public void Lists_stand_after_sections()
    {
        var link = new FieldDefinition
        {
            Id = "f-for",
            RecordType = "customer",
            Code = "agent",
            Label = "Agent",
            Kind = "link",
            Target = "customer",
        };
        var site = new SiteDefinition { Fields = [link] };
        Catalogue Build(params LayerOperation[] operations) =>
            Catalogue.Build(1, Sample.Host, operations.Aggregate(site, (so, operation) => so.Placing(operation.Part, operation)));
        var customer = Build().Find("customer")!;
        Assert.Equal(["customer", "agent"], customer.PointedBy.Select(field => field.Code).Order().Reverse());
        var section = customer.Screen.Layout.Sections.First().Id;
        var (orders, agents) = ("pointing:order.customer", "pointing:f-for");

        var placed = Build(
            new()
            {
                Op = "put",
                Part = orders,
                After = section,
            },
            new()
            {
                Op = "put",
                Part = agents,
                After = section,
            }
        );
        Assert.Empty(placed.Problems);
        Assert.Equal([section, orders, agents], placed.Find("customer")!.Screen.Layout.Sections.Select(one => one.Id).Take(3));
        Assert.Equal("Orders by Customer", placed.Find("customer")!.Screen.Layout.Sections.ElementAt(1).Label);

        var hidden = Build(new LayerOperation { Op = "hide", Part = agents }).Find("customer")!.Screen.Layout;
        Assert.Equal("f-for", Assert.Single(hidden.HiddenLists).Id);
        var lost = Build(
            new LayerOperation
            {
                Op = "put",
                Part = orders,
                After = "customer.gone",
            }
        );
        Assert.Equal(
            "The list Orders by Customer was to stand after customer.gone, which is not on this screen; it stands below the screen.",
            Assert.Single(lost.Clashes).Clash.Sentence
        );
        Assert.DoesNotContain(lost.Find("customer")!.Screen.Layout.Sections, one => one.Pointing is not null);

        // Fields never end up among lists, and a link that is taken out takes its list along.
        Assert.Contains("agent", placed.Find("customer")!.Screen.Layout.Sections.First().Places.Select(place => place.Field.Code));
        Assert.DoesNotContain(placed.Site.Without("f-for").Layers.SelectMany(layer => layer.Operations), operation =>
            operation.Part == agents
        );
    }

    private static Dictionary<string, List<string>> Codes(SiteDefinition site) =>
        Catalogue
            .Build(1, Sample.Host, site)
            .Find("order")!
            .Screen.Layout.Sections.ToDictionary(
                section => section.Id,
                section => section.Places.Select(place => place.Field.Code).ToList()
            );
}
