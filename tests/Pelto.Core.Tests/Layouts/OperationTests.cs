using System.Text.Json.Nodes;
using Pelto.Core.Layouts;

namespace Pelto.Core.Tests.Layouts;

/// <summary>Kinds of operations of layers: what each has to say of itself.</summary>
public sealed class OperationTests
{
    public static TheoryData<string> Kinds => [.. OperationKinds.All.Select(kind => kind.Name)];

    [Fact(DisplayName = "The schema of definitions knows the kinds of operations that there are, and no others")]
    public void The_schema_names_them()
    {
        using var stream = typeof(SiteDefinition).Assembly.GetManifestResourceStream("site.schema.json")!;
        var names = JsonNode.Parse(stream)!["$defs"]!["operation"]!["properties"]!["op"]!["enum"]!.AsArray().Select(name => (string)name!);
        Assert.Equal(OperationKinds.All.Select(kind => kind.Name).Order(), names.Order());
    }

    [Theory(DisplayName = "Each tells what it did and what it will do, of its part and when")]
    [MemberData(nameof(Kinds))]
    public void Each_has_words(string kind)
    {
        foreach (var off in new[] { false, true })
        {
            var operation = new LayerOperation
            {
                Op = kind,
                Part = "part",
                Off = off,
                Label = "Remark",
                Width = 4,
                On = "adding",
            };
            var (done, coming) = (LayerWords.Whole(operation, static _ => "Note"), LayerWords.Coming(operation, static _ => "Note"));
            Assert.Contains("Note", done);
            Assert.EndsWith(", when adding", done);
            Assert.DoesNotContain("“" + kind, done);
            Assert.Equal(done[done.IndexOf(' ')..], coming[coming.IndexOf(' ')..]);
            Assert.EndsWith("s", coming[..coming.IndexOf(' ')]);
        }
    }

    [Fact(DisplayName = "A section gets a background; a later layer changes it or takes it back")]
    public void Sections_are_tinted()
    {
        Assert.Equal("moss", LooksOf(Tint("order.main.head", "moss")));
        Assert.Equal("fjord", LooksOf(Tint("order.main.head", "moss"), Tint("order.main.head", "fjord")));
        Assert.Null(LooksOf(Tint("order.main.head", "moss"), Tint("order.main.head", null)));
        Assert.Equal("gave Head a background of moss", LayerWords.Whole(Tint("order.main.head", "moss"), static _ => "Head"));
    }

    [Fact(DisplayName = "A colour that there is not, and a background of what is no section, are refused with the reason")]
    public void Wrong_tints_are_refused()
    {
        Assert.Contains(With(Tint("order.main.head", "gold")).Problems, problem =>
            problem.Property == "order.main.head" && problem.Sentence.StartsWith("There is no background “gold”", StringComparison.Ordinal)
        );
        var clash = Assert.Single(With(Tint("order.note", "moss")).Clashes).Clash;
        Assert.True(clash.Refused);
        Assert.EndsWith("is not a section: only sections have a background.", clash.Sentence);
    }

    [Fact(DisplayName = "What chooses among a few reads and writes the same choice")]
    public void Choices_come_back()
    {
        var choices = OperationKinds.All.Select(kind => kind.Choice).OfType<OperationChoice>().ToList();
        Assert.NotEmpty(choices);
        Assert.All(choices, choice =>
            Assert.All(choice.Options.Where(option => option.Value.Length > 0), option =>
                Assert.Equal(option.Value, choice.Read(choice.Write(option.Value)))
            )
        );
    }

    private static LayerOperation Tint(string part, string? colour) =>
        new()
        {
            Op = "tint",
            Part = part,
            Value = colour,
        };

    private static string? LooksOf(params LayerOperation[] operations)
    {
        var type = With(operations).Find("order")!;
        var section = type.Screens.For(Sample.Desk, Sample.Order(type)).Layout.Sections.Single(section => section.Id == "order.main.head");
        return section.Looks.GetValueOrDefault("tint");
    }

    private static Catalogue With(params LayerOperation[] operations) =>
        Catalogue.Build(
            1,
            Sample.Host,
            new() { Layers = [.. operations.Select((operation, at) => LayerOf(at == 0 ? Layer.Everyone : "role:desk", operation))] }
        );

    private static Layer LayerOf(string audience, LayerOperation operation) =>
        new()
        {
            Id = "a-" + audience,
            Label = audience,
            Comment = "For a test",
            Audience = audience,
            Operations = [operation],
        };
}
