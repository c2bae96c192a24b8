using System.Net.Http.Json;
using AngleSharp.Dom;

namespace Pelto.Web.Tests;

/// <summary>Shortcuts: defined on their page, live with a release, and in the menu of those for whom they are.</summary>
public sealed class ShortcutTests(App app) : IClassFixture<App>
{
    [Fact(
        DisplayName = "A shortcut stands in the menu of its audience once it is live, and in nobody else's; what is wrong is told at its row"
    )]
    public async Task Defined_and_followed()
    {
        var henna = await app.BrowserAsync("Henna Aro");
        var refused = await PostAsync(
            henna,
            ("Open orders", "javascript:alert(1)", "role:order_desk"),
            ("<b>Prices</b>", "https://example.org/?a=b&c", "everyone")
        );
        Assert.Equal(HttpStatusCode.OK, refused.StatusCode);
        var page = await refused.Content.ReadAsStringAsync();
        Assert.Contains("An address begins with a slash, or with http:// or https://.", page);
        Assert.Contains("value=\"javascript:alert(1)\"", page);
        Assert.Contains("value=\"&lt;b&gt;Prices&lt;/b&gt;\"", page);

        var stored = await PostAsync(
            henna,
            ("Open orders", "/records/sales_order?filter=status~is~open", "role:order_desk"),
            ("<b>Prices</b>", "https://example.org/?a=b&c", "everyone")
        );
        Assert.Equal(HttpStatusCode.Redirect, stored.StatusCode);
        Assert.Empty((await MenuAsync(henna)));
        var program = await app.InterfaceAsync("henna.aro");
        await (await program.PostAsJsonAsync("setup/publish", new { comment = "Shortcuts" })).JsonAsync();

        Assert.Equal([("<b>Prices</b>", "https://example.org/?a=b&c")], await MenuAsync(await app.BrowserAsync("Ville Mastola")));
        Assert.Equal(
            [("Open orders", "/records/sales_order?filter=status~is~open"), ("<b>Prices</b>", "https://example.org/?a=b&c")],
            await MenuAsync(await app.BrowserAsync("Eero Lahdenmaa"))
        );
    }

    [Fact(DisplayName = "Whoever does not arrange neither sees the page nor puts one in")]
    public async Task Others_are_kept_out()
    {
        var eero = await app.BrowserAsync("Eero Lahdenmaa");
        Assert.NotEqual(HttpStatusCode.OK, (await eero.GetAsync("/setup/shortcuts")).StatusCode);
    }

    private static async Task<HttpResponseMessage> PostAsync(
        HttpClient browser,
        params (string Label, string Address, string Audience)[] rows
    )
    {
        var page = await browser.PageAsync("/setup/shortcuts");
        var values = new List<KeyValuePair<string, string>> { new("__RequestVerificationToken", page.Token()) };
        foreach (var (row, at) in rows.Select((row, at) => (row, at)))
        {
            values.Add(new($"rows[{at}].Label", row.Label));
            values.Add(new($"rows[{at}].Address", row.Address));
            values.Add(new($"rows[{at}].Audience", row.Audience));
        }

        return await browser.PostAsync("/setup/shortcuts", new FormUrlEncodedContent(values));
    }

    private static async Task<IEnumerable<(string Label, string Address)>> MenuAsync(HttpClient browser) =>
        (await browser.PageAsync("/records/sales_order"))
            .QuerySelectorAll("nav[aria-label=Shortcuts] a")
            .Select(link => (link.ChildNodes.OfType<IText>().First().Text.Trim(), link.GetAttribute("href")!));
}
