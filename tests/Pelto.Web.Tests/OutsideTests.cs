using System.Net.Http.Json;

namespace Pelto.Web.Tests;

/// <summary>The public form as strangers and their programs meet it, and what came in as the desk and its programs do.</summary>
public sealed class OutsideTests(App app) : IClassFixture<App>, IAsyncLifetime
{
    private const string Address = "/form/claims-for-tests-1";

    public async ValueTask InitializeAsync()
    {
        var henna = await app.InterfaceAsync("administrator");
        var draft = await henna.GetJsonAsync("setup/draft");
        if (draft["recordTypes"]!.AsArray().Count > 0)
            return;
        draft["recordTypes"]!
            .AsArray()
            .Add(
                JsonNode.Parse(
                    """
                    {"id": "t-claim", "code": "claim", "label": "Claim", "plural": "Claims", "numbering": {"prefix": "C-"}, "read": ["*"], "write": ["order_desk"],
                     "publicForm": {"address": "claims-for-tests-1", "title": "Tell us what is <b>wrong</b>", "fields": [{"field": "name"}, {"field": "bought"}, {"field": "customer", "released": "country = \"FI\""}, {"field": "parties", "released": "country = \"FI\""}]}}
                    """
                )
            );
        foreach (
            var field in new[]
            {
                """{"recordType": "claim", "code": "bought", "label": "Bought on", "kind": "date", "required": true}""",
                """{"recordType": "claim", "code": "customer", "label": "Customer", "kind": "link", "target": "partner"}""",
                """{"recordType": "claim", "code": "parties", "label": "Parties", "kind": "links", "target": "partner"}""",
                """{"recordType": "claim", "code": "verdict", "label": "Verdict", "kind": "text", "defaultValue": "not looked at"}""",
            }
        )
            draft["fields"]!.AsArray().Add(JsonNode.Parse(field));
        await (await henna.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await henna.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private HttpClient Stranger() => app.CreateClient(new() { AllowAutoRedirect = false });

    private static async Task<HttpResponseMessage> SendAsync(HttpClient stranger, params (string Name, string Value)[] typed)
    {
        var page = await stranger.PageAsync(Address);
        return await stranger.PostAsync(
            Address,
            new FormUrlEncodedContent([
                new("__RequestVerificationToken", page.Token()),
                .. typed.Select(one => new KeyValuePair<string, string>(one.Name, one.Value)),
            ])
        );
    }

    private static async Task<string> ReferenceAsync(HttpClient stranger, params (string Name, string Value)[] typed)
    {
        var answer = await SendAsync(stranger, typed);
        Assert.True(answer.StatusCode == HttpStatusCode.Redirect, await answer.Content.ReadAsStringAsync());
        return answer.Headers.Location!.ToString().Split('=')[1];
    }

    [Fact(
        DisplayName = "A stranger gets the form and nothing behind it: "
            + "no menu, no other field, no default, no names; and a heading is text, not markup"
    )]
    public async Task Nothing_behind_it()
    {
        var page = await Stranger().PageAsync(Address);
        Assert.Equal("Tell us what is <b>wrong</b>", page.QuerySelector("h1")!.TextContent);
        Assert.Equal(
            ["header.name", "header.bought", "header.customer", "header.customer.text", "header.parties", "header.parties.text"],
            page.QuerySelectorAll("main [name^='header.']").Select(input => input.GetAttribute("name"))
        );
        Assert.Empty(page.QuerySelectorAll(".rail, a[href^='/records'], a[href^='/setup'], script:not([src]), [style]"));
        Assert.DoesNotContain("not looked at", page.DocumentElement.OuterHtml, StringComparison.Ordinal);
        Assert.Equal("noindex", page.QuerySelector("meta[name=robots]")!.GetAttribute("content"));
        var answer = await Stranger().GetAsync(Address);
        Assert.DoesNotContain("unsafe", answer.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await Stranger().GetAsync("/form/claims-for-tests-2")).StatusCode);

        // The person who is signed in meets it as everyone does.
        Assert.Empty((await (await app.BrowserAsync("Henna Aro")).PageAsync(Address)).QuerySelectorAll(".rail, [data-origins]"));
    }

    [Fact(
        DisplayName = "What is wrong is said and what was typed stays; "
            + "what is sent waits for the desk, also without scripts; a form without its token is refused"
    )]
    public async Task Sending()
    {
        var stranger = Stranger();
        var refused = await SendAsync(stranger, ("header.name", "Torn \"sling\""), ("header.bought", "lately"));
        var text = await refused.Content.ReadAsStringAsync();
        Assert.Contains("is not a date", text, StringComparison.Ordinal);
        Assert.Contains("value=\"lately\"", text, StringComparison.Ordinal);
        Assert.Contains("value=\"Torn &quot;sling&quot;\"", text, StringComparison.Ordinal);

        var reference = await ReferenceAsync(stranger, ("header.name", "Torn sling"), ("header.bought", "2026-11-02"));
        Assert.Contains(reference, (await stranger.PageAsync($"{Address}?sent={reference}")).Body!.TextContent, StringComparison.Ordinal);
        Assert.Contains(
            reference,
            (await (await app.BrowserAsync("Eero Lahdenmaa")).PageAsync("/records/claim/entries")).Body!.TextContent,
            StringComparison.Ordinal
        );
        Assert.Matches(
            "[0-9]+ waits?",
            (await (await app.BrowserAsync("Eero Lahdenmaa")).PageAsync("/records/claim")).QuerySelector(".strip")!.TextContent
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await (await app.BrowserAsync("Vieno Kallioaho")).GetAsync("/records/claim/entries")).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await stranger.PostAsync(Address, new FormUrlEncodedContent([new("header.name", "x")]))).StatusCode
        );
    }

    [Fact(
        DisplayName = "What was chosen stays by its name when something else is refused; what was not released is refused without a name"
    )]
    public async Task Chosen_stays()
    {
        var desk = await app.InterfaceAsync("order_desk");
        async Task<JsonNode[]> PartnersAsync(string filter) =>
            [.. (await desk.GetJsonAsync($"records/partner?take=2&filter={filter}"))["records"]!.AsArray().Select(partner => partner!)];
        var (finns, other) = (await PartnersAsync("country~is~FI"), (await PartnersAsync("country~not~FI"))[0]);
        string Name(JsonNode partner) => partner["values"]!["name"]!.GetValue<string>();
        async Task<string> AnswerAsync(string bought, params JsonNode[] parties) =>
            await (
                await SendAsync(
                    Stranger(),
                    [("header.bought", bought), .. parties.Select(party => ("header.parties", party["id"]!.ToString()))]
                )
            ).Content.ReadAsStringAsync();
        var refused = await AnswerAsync("lately", finns[0], finns[1]);
        Assert.All(finns, finn => Assert.Contains(Name(finn), refused, StringComparison.Ordinal));
        var guessed = await AnswerAsync("2026-11-02", finns[0], other);
        Assert.Contains("This cannot be chosen here.", guessed, StringComparison.Ordinal);
        Assert.DoesNotContain(Name(other), guessed, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "What the form does not ask for is never taken: who sends it, by an older form or by guessing, gets the form anew")]
    public async Task Only_what_is_asked()
    {
        var desk = await app.InterfaceAsync("order_desk");
        var before = (await desk.GetJsonAsync("records/claim/entries"))["entries"]!.AsArray().Count;
        var text = await (
            await SendAsync(Stranger(), ("header.name", "Mine"), ("header.bought", "2026-11-02"), ("header.verdict", "granted"))
        ).Content.ReadAsStringAsync();
        Assert.Contains("The form has changed meanwhile.", text, StringComparison.Ordinal);
        Assert.DoesNotContain("verdict", text, StringComparison.Ordinal);
        Assert.Contains("value=\"Mine\"", text, StringComparison.Ordinal);
        Assert.Equal(before, (await desk.GetJsonAsync("records/claim/entries"))["entries"]!.AsArray().Count);
    }

    [Fact(DisplayName = "A program that fills what no person sees is thanked, and nothing is kept")]
    public async Task Programs()
    {
        var desk = await app.InterfaceAsync("order_desk");
        var before = (await desk.GetJsonAsync("records/claim/entries"))["entries"]!.AsArray().Count;
        Assert.NotEmpty(
            await ReferenceAsync(
                Stranger(),
                ("header.name", "Buy now"),
                ("header.bought", "2026-11-02"),
                ("website", "https://spam.example")
            )
        );
        Assert.Equal(before, (await desk.GetJsonAsync("records/claim/entries"))["entries"]!.AsArray().Count);
    }

    [Fact(DisplayName = "A link's list gives strangers what was released and nothing by another field, another type or another way")]
    public async Task Picking()
    {
        var stranger = Stranger();
        var page = await stranger.PageAsync(Address);
        var customer = page.QuerySelector("[data-pick-field]")!.GetAttribute("data-pick-field")!;
        async Task<HttpResponseMessage> PickAsync(string field, string text) =>
            await stranger.PostAsync(
                $"{Address}?handler=Pick&field={field}&text={Uri.EscapeDataString(text)}",
                new FormUrlEncodedContent([new("__RequestVerificationToken", page.Token())])
            );
        var finn = (await (await app.InterfaceAsync("order_desk")).GetJsonAsync("records/partner?take=1&filter=country~is~FI"))["records"]![
            0
        ]!["values"]!;
        var other = (await (await app.InterfaceAsync("order_desk")).GetJsonAsync("records/partner?take=1&filter=country~not~FI"))[
            "records"
        ]![0]!["values"]!;
        Assert.Contains(
            finn["number"]!.GetValue<string>(),
            await (await PickAsync(customer, finn["name"]!.GetValue<string>())).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        foreach (var text in new[] { other["name"]!.GetValue<string>(), other["number"]!.GetValue<string>() })
            Assert.DoesNotContain((await (await PickAsync(customer, text)).JsonAsync())["found"]!.AsArray(), found =>
                found!["code"]!.GetValue<string>() == other["number"]!.GetValue<string>()
            );
        Assert.Equal(HttpStatusCode.NotFound, (await PickAsync("sales_order.customer", "a")).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await stranger.GetAsync("/pick/partner?text=a")).StatusCode);

        // Typed and sent before the list was there: what is released is found by its number, what is not says the same as what does not
        // exist.
        Assert.NotEmpty(
            await ReferenceAsync(
                stranger,
                ("header.bought", "2026-11-02"),
                ("header.customer", ""),
                ("header.customer.text", finn["number"]!.GetValue<string>())
            )
        );
        string Told(string html) =>
            new AngleSharp.Html.Parser.HtmlParser().ParseDocument(html).QuerySelector("#header-customer-message")!.TextContent.Trim();
        var hidden = Told(
            await (
                await SendAsync(
                    stranger,
                    ("header.bought", "2026-11-02"),
                    ("header.customer", ""),
                    ("header.customer.text", other["number"]!.GetValue<string>())
                )
            ).Content.ReadAsStringAsync()
        );
        var none = Told(
            await (
                await SendAsync(stranger, ("header.bought", "2026-11-02"), ("header.customer", ""), ("header.customer.text", "P-9999"))
            ).Content.ReadAsStringAsync()
        );
        Assert.Equal(
            none.Replace("P-9999", "", StringComparison.Ordinal),
            hidden.Replace(other["number"]!.GetValue<string>(), "", StringComparison.Ordinal)
        );
    }

    [Fact(
        DisplayName = "Programs read what came in, accept it with more, "
            + "refuse it and take that back; the description of the interface says so"
    )]
    public async Task Interface()
    {
        var desk = await app.InterfaceAsync("order_desk");
        var (one, two) = (
            await ReferenceAsync(Stranger(), ("header.name", "First"), ("header.bought", "2026-11-02")),
            await ReferenceAsync(Stranger(), ("header.name", "Second"), ("header.bought", "2026-11-02"))
        );
        async Task<JsonNode> EntryAsync(string reference, string state) =>
            (await desk.GetJsonAsync($"records/claim/entries?state={state}"))["entries"]!
                .AsArray()
                .Single(entry => entry!["reference"]!.GetValue<string>() == reference)!;
        var first = await EntryAsync(one, "waiting");
        var made = await (
            await desk.PostAsJsonAsync($"records/claim/entries/{first["id"]}/accept", new { values = new { verdict = "ours" } })
        ).JsonAsync(HttpStatusCode.Created);
        Assert.Equal(("First", "ours"), (made["values"]!["name"]!.GetValue<string>(), made["values"]!["verdict"]!.GetValue<string>()));
        Assert.Equal(made["id"]!.GetValue<long>(), (await EntryAsync(one, "accepted"))["decided"]!["record"]!.GetValue<long>());
        await (await desk.PostAsync($"records/claim/entries/{first["id"]}/accept", null)).JsonAsync(HttpStatusCode.UnprocessableEntity);
        var second = (await EntryAsync(two, "waiting"))["id"];
        Assert.Equal(HttpStatusCode.NoContent, (await desk.PostAsync($"records/claim/entries/{second}/refuse", null)).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await desk.PostAsync($"records/claim/entries/{second}/refuse", null)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await desk.PostAsync($"records/claim/entries/{second}/wait", null)).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await desk.GetAsync("records/claim/entries?state=7")).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await (await app.InterfaceAsync("guest")).GetAsync("records/claim/entries")).StatusCode);
        Assert.NotNull((await desk.GetJsonAsync("openapi.json"))["paths"]!["/records/claim/entries/{id}/accept"]);
    }
}
