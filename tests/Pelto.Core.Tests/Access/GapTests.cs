using Pelto.Core.Access;

namespace Pelto.Core.Tests.Access;

/// <summary>Gaps that find themselves: each kind where it is, and none where it is not.</summary>
public sealed class GapTests
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
            Id = "f-wish",
            RecordType = "order",
            Code = "wish",
            Label = "Wish",
            Kind = "text",
            RequiredWhen = "note = \"x\"",
        },
    ];

    private static readonly Viewer[] People = [.. Gaps.OfRoles(Sample.Host), new(Guid.NewGuid(), "Dee", ["desk"]) { SignIn = "dee" }];

    private static string[] Of(IEnumerable<string> guards, params Grant[] grants)
    {
        var catalogue = Catalogue.Build(
            1,
            Sample.Host,
            new SiteDefinition
            {
                Fields = Fields,
                Guards = [.. guards.Select(on => new Guard { On = on })],
                Grants = grants,
            }
        );
        Assert.Empty(catalogue.Problems);
        return [.. new Gaps(catalogue, People).All().Select(gap => $"{gap.Kind}: {gap.Sentence}")];
    }

    private static Grant Give(string to, string on, string level, string? when = null) =>
        new()
        {
            Id = "g-" + to + on,
            To = [to],
            On = [on],
            Level = level,
            When = when,
            Comment = "Because",
        };

    [Fact(DisplayName = "What is opened is told with what can be learnt from it, by whom; opened for those who read it anyway, it is none")]
    public void Opened()
    {
        var opened = Of(
            ["f-cost"],
            Give("role:desk", "f-margin", "read") with
            {
                Does = Grant.Open,
            },
            Give("role:guest", "f-cost", "write")
        );
        Assert.Equal(
            "detour: Margin of order lines of orders is opened for role Desk: "
                + "from it and what it is calculated from, they can learn Cost of order lines of orders, which they may not read.",
            Assert.Single(opened)
        );
        Assert.DoesNotContain(
            Of(["f-cost"], Give("role:desk", "f-margin", "read") with { Does = Grant.Open }, Give("role:desk", "f-cost", "write")),
            gap => gap.StartsWith("detour", StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "A rule, or the condition of a grant, that asks what people may not read tells something of it")]
    public void Asked()
    {
        Assert.Contains(
            "detour: A rule of Wish of orders asks Note of orders: "
                + "whether it is required tells people something of it who may not read it.",
            Of(["order.note"], Give("role:guest", "order.note", "write"))
        );
        Assert.Contains(
            Of(["order.note"], Give("role:guest", "order.note", "write"), Give("role:desk", "order.total", "read", "note = \"x\"")),
            gap =>
                gap.StartsWith(
                    "detour: “Gives role Desk: Total of orders, to read, where note = \"x\"” asks Note of orders",
                    StringComparison.Ordinal
                )
        );
    }

    [Fact(
        DisplayName = "Who creates records and may not write what is required in them cannot save one; what nobody can write is told too"
    )]
    public void Needed_and_locked()
    {
        Assert.Contains(
            "required: Customer of orders is required, and Desk and Dee may create orders but not write it: they cannot save one.",
            Of([], Give("role:desk", "order.customer", "read") with { Does = Grant.Withhold })
        );
        Assert.Contains(
            "locked: Nobody but administrators can write Note of orders.",
            Of(["order.note"], Give("role:desk", "order.note", "read"))
        );
        Assert.DoesNotContain(Of(["order.note"], Give("role:desk", "order.note", "write")), gap =>
            gap.StartsWith("locked", StringComparison.Ordinal)
        );
    }

    [Theory(DisplayName = "A grant that changes nothing for anybody is told, with the reason")]
    [InlineData("give", "role:desk", "order.note", "read", "changes nothing for anybody: they have it in any case.")]
    [InlineData("withhold", "role:guest", "order.note", "read", "changes nothing for anybody: they do not have it without it either.")]
    [InlineData(
        "give",
        "role:desk",
        "f-margin",
        "read",
        "changes nothing for anybody: it is withheld, or calculated from what they may not read."
    )]
    [InlineData("give", "user:gone", "order.note", "write", "is for nobody who is here.")]
    public void Idle(string does, string to, string on, string level, string said) =>
        Assert.Contains(Of(["f-cost"], Give(to, on, level) with { Does = does }), gap =>
            gap.StartsWith("idle: ", StringComparison.Ordinal) && gap.EndsWith(said, StringComparison.Ordinal)
        );

    [Fact(DisplayName = "Nothing guarded, nothing granted, no gaps")]
    public void None() => Assert.Empty(Of([]));
}
