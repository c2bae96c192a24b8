using System.Net.Http.Json;
using Microsoft.AspNetCore.Mvc.ApplicationParts;
using Microsoft.AspNetCore.Mvc.Razor.Compilation;
using Microsoft.AspNetCore.Routing;
using Pelto.Data.Database;
using Pelto.Web.Components;

namespace Pelto.Web.Tests;

public sealed class PagesTests(App app) : IClassFixture<App>
{
    [Fact(DisplayName = "Every page of set-up is closed to everyone but administrators, found from the list of routes")]
    public async Task SetUp_is_closed()
    {
        var paths = app
            .Services.GetServices<EndpointDataSource>()
            .SelectMany(source => source.Endpoints)
            .OfType<RouteEndpoint>()
            .Select(endpoint => "/" + endpoint.RoutePattern.RawText!.TrimStart('/'))
            .Where(path => path.StartsWith("/setup", StringComparison.OrdinalIgnoreCase))
            .Distinct()
            .ToList();
        Assert.True(paths.Count >= 4);
        var desk = await app.BrowserAsync("Eero Lahdenmaa");
        foreach (var path in paths)
        {
            var answer = await desk.GetAsync(
                path.Replace("{id:guid}", Guid.Empty.ToString(), StringComparison.Ordinal).Replace("{id}", "new", StringComparison.Ordinal)
            );
            Assert.Contains("/account/refused", answer.Headers.Location?.ToString() ?? "", StringComparison.Ordinal);
        }
    }

    [Theory(DisplayName = "Nobody in particular is sent to sign in, and comes back to where they were going")]
    [InlineData("/records/partner"), InlineData("/setup/fields"), InlineData("/live"), InlineData("/pick/partner")]
    public async Task Strangers_sign_in(string path)
    {
        var answer = await app.CreateClient(new() { AllowAutoRedirect = false }).GetAsync(path);
        Assert.Contains(
            $"/account/sign-in?returnUrl={Uri.EscapeDataString(path)}",
            answer.Headers.Location!.ToString(),
            StringComparison.OrdinalIgnoreCase
        );
    }

    [Fact(DisplayName = "Each kind that is not entered as a line of text has a page that draws it, and each of those pages has a kind")]
    public void Kinds_have_their_pages()
    {
        var pages = app.Services.GetRequiredService<ApplicationPartManager>();
        var views = new ViewsFeature();
        pages.PopulateFeature(views);
        var drawn = views
            .ViewDescriptors.Select(view => view.RelativePath)
            .Where(path => path.StartsWith("/Pages/Records/Kinds/", StringComparison.Ordinal));
        var wanted = FieldKinds
            .Definable.Where(kind => kind.Control != FieldKind.PlainControl)
            .Select(kind => $"/Pages/{KindView.Page(kind)}.cshtml")
            .Distinct();
        Assert.Equal(wanted.Order(), drawn.Order());
    }

    [Fact(DisplayName = "Pages forbid inline script and style, framing and sniffing, and hold none themselves")]
    public async Task Pages_are_strict()
    {
        var browser = await app.BrowserAsync("Henna Aro");
        foreach (
            var path in new[]
            {
                "/records/sales_order",
                "/records/sales_order/300",
                "/setup/fields",
                "/setup/fields/new",
                "/setup/draft",
                "/setup/releases",
            }
        )
        {
            var answer = await browser.GetAsync(path);
            var policy = answer.Headers.GetValues("Content-Security-Policy").Single();
            Assert.DoesNotContain("unsafe", policy, StringComparison.Ordinal);
            Assert.Contains("frame-ancestors 'none'", policy, StringComparison.Ordinal);
            var page = await browser.PageAsync(path);
            Assert.Empty(page.QuerySelectorAll("script:not([src]), [style], [onclick]"));
        }
    }

    [Fact(DisplayName = "Where formulas and queries are written no page limits what is pasted: it would be cut without a word")]
    public async Task Formulas_are_not_cut()
    {
        var browser = await app.BrowserAsync("Henna Aro");
        var seen = new List<string>();
        foreach (
            var path in new[]
            {
                "/setup/fields/new?type=sales_order",
                "/setup/queries/new",
                "/setup/access",
                "/setup/arrange?type=sales_order",
            }
        )
        {
            var written = (await browser.PageAsync(path)).QuerySelectorAll("[data-formula], textarea.code");
            seen.AddRange(written.Select(input => input.GetAttribute("name")!));
            Assert.All(written, input => Assert.False(input.HasAttribute("maxlength"), $"{path}: {input.GetAttribute("name")}"));
        }

        Assert.Subset(seen.ToHashSet(), new HashSet<string> { "Formula", "Check", "RequiredWhen", "ShownWhen", "Sql", "Condition" });
    }

    [Fact(DisplayName = "A form without its antiforgery token is refused")]
    public async Task Forms_carry_tokens()
    {
        var browser = await app.BrowserAsync("Eero Lahdenmaa");
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await browser.PostAsync("/records/sales_order/1?handler=Delete", new FormUrlEncodedContent([]))).StatusCode
        );
    }

    [Fact(DisplayName = "A guest sees that an order has a salesperson, and on no page who it is")]
    public async Task Guests_see_no_names()
    {
        var (guest, desk) = (await app.BrowserAsync("Vieno Kallioaho"), await app.BrowserAsync("Eero Lahdenmaa"));
        var names = (await desk.PageAsync("/records/employee"))
            .QuerySelectorAll("#rows td:nth-child(2)")
            .Select(cell => cell.TextContent.Trim())
            .ToList();
        foreach (
            var path in new[] { "/records/sales_order", "/records/sales_order/300", "/records/sales_order?search=300&order=salesperson" }
        )
        {
            Assert.Contains(names, (await desk.PageAsync(path)).Body!.TextContent.Contains);
            var page = (await guest.PageAsync(path)).QuerySelector("main")!.TextContent;
            Assert.DoesNotContain(names, page.Contains);
        }

        Assert.NotNull((await guest.PageAsync("/records/sales_order/300")).QuerySelector("[data-label='Salesperson'] .masked"));
        var answer = await (await (await app.InterfaceAsync("guest")).GetAsync("records/sales_order?order=salesperson")).JsonAsync(
            HttpStatusCode.BadRequest
        );
        Assert.Contains("may not see employees", answer["detail"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    [Fact(DisplayName = "A label that is markup is shown as the text that it is")]
    public async Task Output_is_encoded()
    {
        await (await app.InterfaceAsync("administrator")).PublishAsync(
            """{"recordType": "partner", "code": "odd", "label": "<img src=x onerror=alert(1)>", "kind": "text", "help": "\"><script>alert(2)</script>"}"""
        );
        var page = await (await app.BrowserAsync("Eero Lahdenmaa")).PageAsync("/records/partner/1");
        Assert.Empty(page.QuerySelectorAll("main img, main script:not([src])"));
        Assert.Contains(page.QuerySelectorAll("label"), label =>
            label.TextContent.Contains("<img src=x onerror=alert(1)>", StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "A form drawn under an older release saves, though a field that it could not show is required now")]
    public async Task Older_forms_save()
    {
        var browser = await app.BrowserAsync("Eero Lahdenmaa");
        var form = await browser.PageAsync("/records/sales_order/40");
        await (await app.InterfaceAsync("administrator")).PublishAsync(
            """{"recordType": "sales_order", "code": "must", "label": "Must", "kind": "text", "required": true}"""
        );
        var saved = await browser.PostAsync("/records/sales_order/40", form.Filled(("header.reference", "from the older form")));
        Assert.Contains("saved", JsonNode.Parse(await saved.Content.ReadAsStringAsync())!.AsObject());

        var newer = await browser.PageAsync("/records/sales_order/40");
        Assert.Equal("from the older form", newer.QuerySelector("[name='header.reference']")!.GetAttribute("value"));
        var refused = await browser.PostAsync("/records/sales_order/40", newer.Filled(("header.reference", "again")));
        Assert.Contains("Must is required.", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact(DisplayName = "The notice of a release says what changed on the screen, to each what they may know of")]
    public async Task Releases_say_what_changed()
    {
        var (maker, eero) = (await app.InterfaceAsync("administrator"), await app.BrowserAsync("Eero Lahdenmaa"));
        var since = app.Services.GetRequiredService<Pelto.Data.Catalogues>().Live.Release;
        async Task<string> SaidAsync(HttpClient browser) =>
            (await browser.GetJsonAsync($"/live/changes?type=asset&since={since}"))["said"]!.GetValue<string>();
        await maker.PublishAsync("""{"id": "f-tag", "recordType": "asset", "code": "tag", "label": "Tag", "kind": "integer"}""");
        Assert.Equal("One field changed on this screen.", await SaidAsync(eero));

        var draft = await maker.GetJsonAsync("setup/draft");
        draft["fields"]!
            .AsArray()
            .Add(JsonNode.Parse("""{"id": "f-tag2", "recordType": "asset", "code": "tag_two", "label": "Tag two", "kind": "integer"}"""));
        draft["layers"]!
            .AsArray()
            .Add(
                JsonNode.Parse(
                    """{"id": "l-tags", "label": "Tags", "comment": "For a test", "audience": "role:order_desk", "operations": [{"op": "resize", "part": "asset.name", "width": 7}]}"""
                )
            );
        await (await maker.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await maker.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
        Assert.Equal("2 fields and the arrangement changed on this screen.", await SaidAsync(eero));
        Assert.Equal("2 fields changed on this screen.", await SaidAsync(await app.BrowserAsync("Henna Aro")));
    }

    [Fact(DisplayName = "Times are told on the clock of one’s company until one chooses another; the field says which")]
    public async Task Clocks_are_of_the_company()
    {
        await (await app.InterfaceAsync("administrator")).PublishAsync(
            """{"recordType": "warehouse", "code": "counted", "label": "Counted", "kind": "date_time"}"""
        );
        await (
            await (await app.InterfaceAsync("administrator")).SendJsonAsync(
                HttpMethod.Patch,
                "records/warehouse/1",
                """{"values": {"counted": "2026-07-01T12:00:00Z"}}""",
                "*"
            )
        ).JsonAsync();
        var browser = await app.BrowserAsync("Henna Aro");
        async Task<(string, string)> ReadsAsync()
        {
            var page = await browser.PageAsync("/records/warehouse/1");
            return (
                page.QuerySelector("[name='header.counted']")!.GetAttribute("value")!,
                page.QuerySelector("[data-label='Counted'] .seen")!.TextContent
            );
        }

        Assert.Equal(("2026-07-01 15:00", "Helsinki time"), await ReadsAsync());
        var settings = await browser.PageAsync("/account/settings");
        await browser.PostAsync(
            "/account/settings",
            new FormUrlEncodedContent([new("language", ""), new("zone", "UTC"), new("__RequestVerificationToken", settings.Token())])
        );
        Assert.Equal(("2026-07-01 12:00", "UTC"), await ReadsAsync());
    }

    [Fact(DisplayName = "Drawn anew under a newer release, the form keeps all that was typed, even what makes no sense")]
    public async Task Drawing_keeps_entries()
    {
        var browser = await app.BrowserAsync("Eero Lahdenmaa");
        var form = await browser.PageAsync("/records/sales_order/41");
        await (await app.InterfaceAsync("administrator")).PublishAsync(
            """{"recordType": "sales_order", "code": "fresh", "label": "Fresh", "kind": "integer"}"""
        );
        var drawn = await browser.PostAsync(
            "/records/sales_order/41?handler=Draw",
            form.Filled(
                ("header.reference", "half ty"),
                ("header.wanted_by", "next week"),
                ("header.customer", ""),
                ("header.customer.text", "nobody knows")
            )
        );
        var text = await drawn.Content.ReadAsStringAsync();
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(text);
        Assert.Equal(
            ["half ty", "next week", "nobody knows"],
            new[] { "header.reference", "header.wanted_by", "header.customer.text" }.Select(name =>
                page.QuerySelector($"[name='{name}']")!.GetAttribute("value")!
            )
        );
        Assert.NotNull(page.QuerySelector("[name='header.fresh']"));
    }

    [Fact(DisplayName = "An empty line that was just added is kept when the form is drawn anew, and is no line when it is saved")]
    public async Task Blank_lines_are_kept_until_saved()
    {
        var browser = await app.BrowserAsync("Eero Lahdenmaa");
        var form = await browser.PageAsync("/records/sales_order/43");
        var lines = form.QuerySelectorAll("tr[data-line]").Length;
        async Task<string> SendAsync(string handler)
        {
            var sent = await form.Filled().ReadAsStringAsync();
            var added = new StringContent(
                sent + "&lines.order=n1&lines.n1.item=&lines.n1.item.text=&lines.n1.quantity=1",
                new System.Net.Http.Headers.MediaTypeHeaderValue("application/x-www-form-urlencoded")
            );
            return await (await browser.PostAsync("/records/sales_order/43" + handler, added)).Content.ReadAsStringAsync();
        }

        var drawn = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await SendAsync("?handler=Draw"));
        Assert.Equal(lines + 1, drawn.QuerySelectorAll("tbody tr[data-line]").Length);
        Assert.Contains("saved", await SendAsync(""), StringComparison.Ordinal);
    }

    [Fact(DisplayName = "Two people, one field: the second is shown both values, and saving again keeps theirs or ours as chosen")]
    public async Task Clashes_are_shown()
    {
        var (one, two) = (await app.BrowserAsync("Eero Lahdenmaa"), await app.BrowserAsync("Kaisa Purjeranta"));
        var (first, second) = (await one.PageAsync("/records/sales_order/42"), await two.PageAsync("/records/sales_order/42"));
        await one.PostAsync("/records/sales_order/42", first.Filled(("header.reference", "Eero's"), ("header.must", "x")));
        var answer = await (
            await two.PostAsync(
                "/records/sales_order/42",
                second.Filled(("header.reference", "Kaisa's"), ("header.unloading_place", "Gate 3"), ("header.must", "x"))
            )
        ).Content.ReadAsStringAsync();
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(answer);
        Assert.Equal("Eero's", page.QuerySelector("[data-take-theirs]")!.GetAttribute("data-take-theirs"));
        Assert.Equal(
            ["Kaisa's", "Gate 3"],
            new[] { "header.reference", "header.unloading_place" }.Select(name =>
                page.QuerySelector($"[name='{name}']")!.GetAttribute("value")!
            )
        );
        await two.PostAsync("/records/sales_order/42", page.Filled());
        Assert.Equal(
            "Kaisa's",
            (await one.PageAsync("/records/sales_order/42")).QuerySelector("[name='header.reference']")!.GetAttribute("value")
        );
    }

    [Fact(DisplayName = "Open pages hear of a release by server-sent events")]
    public async Task Pages_hear_of_releases()
    {
        var browser = await app.BrowserAsync("Eero Lahdenmaa");
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        using var answer = await browser.GetAsync("/live?type=item&title=SHB-22", HttpCompletionOption.ResponseHeadersRead, patience.Token);
        Assert.Equal("text/event-stream", answer.Content.Headers.ContentType!.MediaType);
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync(patience.Token));
        await (await app.InterfaceAsync("administrator")).PublishAsync(
            """{"recordType": "item", "code": "heard", "label": "Heard", "kind": "yes_no"}"""
        );
        string? line;
        do line = await reader.ReadLineAsync(patience.Token);
        while (line is not null && line != "event: release");
        Assert.Equal("event: release", line);
    }

    [Fact(DisplayName = "Ready when the database answers, alive in any case")]
    public async Task Health_is_told()
    {
        var client = app.CreateClient();
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/health/live")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/health/ready")).StatusCode);
    }

    [Fact(DisplayName = "Dependencies point one way: Web on Data, Data on Core")]
    public void Dependencies_point_one_way()
    {
        static IEnumerable<string> Uses(System.Reflection.Assembly assembly) =>
            assembly.GetReferencedAssemblies().Select(name => name.Name!).Where(name => name.StartsWith("Pelto", StringComparison.Ordinal));
        Assert.Empty(Uses(typeof(Pelto.Core.Catalog.Catalogue).Assembly));
        Assert.Equal(["Pelto.Core"], Uses(typeof(Pelto.Data.Catalogues).Assembly));
    }

    [Fact(DisplayName = "A list of a thousand choices, and an order of two hundred lines, go through their forms")]
    public async Task Long_forms_go_through()
    {
        var henna = await app.BrowserAsync("Henna Aro");
        var page = await henna.PageAsync("/setup/lists/new");
        var inputs = new List<KeyValuePair<string, string>>
        {
            new("__RequestVerificationToken", page.QuerySelector("#list input[name=__RequestVerificationToken]")!.GetAttribute("value")!),
            new("Label", "Long"),
        };
        for (var i = 0; i < 1000; i++)
            inputs.AddRange([
                new("Rows.Index", $"n{i}"),
                new($"Rows[n{i}].Known", "false"),
                new($"Rows[n{i}].Label", $"Choice number {i}"),
                new($"Rows[n{i}].Code", ""),
                new($"Rows[n{i}].Colour", ""),
                new($"Rows[n{i}].State", ""),
            ]);
        var stored = await henna.PostAsync("/setup/lists/new", new FormUrlEncodedContent(inputs));
        Assert.Equal(HttpStatusCode.Redirect, stored.StatusCode);
        Assert.Equal(
            1000,
            (await henna.PageAsync(stored.Headers.Location!.ToString())).QuerySelectorAll("[data-choices] input[name$='.Label']").Length
        );

        var order = await henna.PageAsync("/records/sales_order/41");
        var filled = await order.Filled().ReadAsStringAsync();
        var more = string.Concat(
            Enumerable
                .Range(0, 200)
                .Select(i =>
                    $"&lines.order=x{i}&lines.x{i}.quantity={i + 1}&lines.x{i}.item=5&lines.x{i}.item.text=x&lines.x{i}.unit=pcs&lines.x{i}.price=1&lines.x{i}.description=D&lines.x{i}.discount_percent="
                )
        );
        var saved = await henna.PostAsync(
            "/records/sales_order/41",
            new StringContent(filled + more, new System.Net.Http.Headers.MediaTypeHeaderValue("application/x-www-form-urlencoded"))
        );
        Assert.Contains("saved", await saved.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }
}
