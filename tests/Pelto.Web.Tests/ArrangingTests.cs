using AngleSharp.Html.Parser;

namespace Pelto.Web.Tests;

/// <summary>The pages that arrange, as they answer.</summary>
public sealed class ArrangingTests(App app) : IClassFixture<App>
{
    [Theory(
        DisplayName = "After each change the page tells all that the layer says, "
            + "each to be taken back, and so it does when it is opened again"
    )]
    [InlineData("/setup/arrange?type=sales_order")]
    [InlineData("/setup/arrange?type=item&of=list")]
    [InlineData("/account/arrange?type=partner")]
    public async Task Told_after_each_change(string address)
    {
        var henna = await app.BrowserAsync("Henna Aro");
        var page = await henna.PageAsync(address);
        var parts = page.QuerySelectorAll("#arranged [data-place]")
            .Select(part => part.GetAttribute("data-place")!)
            .Distinct()
            .Skip(1)
            .Take(2)
            .ToList();
        var told = page.QuerySelectorAll(".says li").Length;
        foreach (var part in parts)
        {
            var answer = await henna.PostAsync(
                $"{address}&handler=Do",
                new FormUrlEncodedContent([
                    new("operation", $$"""{"op":"relabel","part":"{{part}}","label":"Called otherwise"}"""),
                    new("__RequestVerificationToken", page.Token()),
                ])
            );
            var said = new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync()).QuerySelectorAll(".says li");
            Assert.Equal(++told, said.Length);
            Assert.Contains("Called otherwise", said[^1].TextContent);
            Assert.NotNull(said[^1].QuerySelector("[data-back]"));
        }

        Assert.Equal(told, (await henna.PageAsync(address)).QuerySelectorAll(".says li").Length);
    }
}
