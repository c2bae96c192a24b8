using Pelto.Core.Access;
using Pelto.Core.Elements;
using Pelto.Core.Releases;

namespace Pelto.Core.Tests.Elements;

/// <summary>Named links in the menu.</summary>
public sealed class ShortcutTests
{
    [Theory(DisplayName = "It leads within Pelto or to a whole web address, and nowhere else")]
    [InlineData("/records/sales_order?filter=status~is~open", true)]
    [InlineData("https://example.org/prices?a=b", true)]
    [InlineData("//evil.example", false)]
    [InlineData("/\\evil.example", false)]
    [InlineData("javascript:alert(1)", false)]
    [InlineData("JaVaScript:alert(1)", false)]
    [InlineData("data:text/html,x", false)]
    [InlineData("/records\n/item", false)]
    [InlineData("records/item", false)]
    [InlineData("https://", false)]
    [InlineData("", false)]
    public void Addresses(string address, bool isFine) => Assert.Equal(isFine, Shortcut.RefuseAddress(address) is null);

    [Fact(DisplayName = "What is wrong is told at its property, and keeps the draft from being published")]
    public void Wrong_ones_are_told()
    {
        var catalogue = With(
            new Shortcut
            {
                Id = "s-1",
                Label = " ",
                Address = "javascript:x",
                Audience = "role:nobody",
            }
        );
        Assert.Equal(
            ["address", "audience", "label"],
            catalogue.Problems.Where(problem => problem.Element == "s-1").Select(one => one.Property).Order()
        );
    }

    [Fact(DisplayName = "The plan says what comes into the menu, what is called otherwise and what goes, and for whom")]
    public void The_plan_tells()
    {
        var open = new Shortcut
        {
            Id = "s-1",
            Label = "Open orders",
            Address = "/records/order",
            Audience = "role:desk",
        };
        Assert.Equal(
            ("Puts the shortcut Open orders in the menu.", "For role Desk: it leads to /records/order."),
            Told(With(), With(open))
        );
        Assert.Equal("The shortcut Open orders is called Orders.", Told(With(open), With(open with { Label = "Orders" })).Sentence);
        Assert.Equal(("Removes the shortcut Open orders from the menu.", "For role Desk."), Told(With(open), With()));
    }

    [Fact(DisplayName = "Whoever arranges for one company changes its shortcuts and no others")]
    public void It_takes_arranging()
    {
        var site = new SiteDefinition();
        Assert.Null(Refused(site, "company:no", new(AdminWork.Arrange, [], ["no"])));
        Assert.NotNull(Refused(site, "company:fi", new(AdminWork.Arrange, [], ["no"])));
        Assert.NotNull(Refused(site, Layer.Everyone, new(AdminWork.Arrange, [], ["no"])));
        Assert.NotNull(Refused(site, "company:no", AdminRight.To(AdminWork.Define)));
    }

    private static string? Refused(SiteDefinition site, string audience, AdminRight right)
    {
        var after = site with
        {
            Shortcuts =
            [
                new()
                {
                    Id = "s-1",
                    Label = "Open",
                    Address = "/records/order",
                    Audience = audience,
                },
            ],
        };
        return new AdminRules(site, after, With()).RefuseChange(Sample.Desk with { Rights = [right] }, []);
    }

    private static (string Sentence, string Effect) Told(Catalogue live, Catalogue draft)
    {
        var change = Assert.Single(Planning.Make(live, draft, StorageFacts.Nothing).Changes);
        Assert.Equal("/setup/shortcuts", change.Page);
        return (change.Sentence, change.Effect);
    }

    private static Catalogue With(params Shortcut[] shortcuts) => Catalogue.Build(1, Sample.Host, new() { Shortcuts = shortcuts });
}
