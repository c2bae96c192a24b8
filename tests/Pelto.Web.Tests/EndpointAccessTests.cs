using System.Net.Http.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.Infrastructure;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Data.Definitions;
using Pelto.Data.Rights;

namespace Pelto.Web.Tests;

/// <summary>
/// Takes every endpoint of the running application, from its own list, as every role, and looks for values that the role must not get.
/// </summary>
/// <remarks>
/// The values stand in guarded fields, built in and added, in what is calculated from them, in what is seen through a link to them, and in
/// records that are withheld whole.
/// </remarks>
public sealed class EndpointAccessTests(App app) : IClassFixture<App>
{
    private const string Note = "marknote";
    private const string Secretly = "markadded";
    private const string Norwegian = "markpartner";
    private const string Figure = "9182736";

    private static readonly string[] Markers =
    [
        Note,
        Secretly,
        Norwegian,
        Figure,
        "9 182 736",
        "9,182,736",
        "9 182 736",
        "9182737",
        "9 182 737",
    ];

    // To most it is not even known that there is such a field.
    private static readonly string[] Unknown =
    [
        "Inner note",
        "inner_note",
        "f-inner",
        "Next limit",
        "next_limit",
        "f-twice",
        "Credit limit",
        "credit_limit",
    ];

    private static readonly (string Person, string Role, bool Sees)[] People =
    [
        ("Henna Aro", "administrator", true),
        ("Eero Lahdenmaa", "order_desk", false),
        ("Otto Hietakari", "purchasing", false),
        ("Ville Mastola", "warehouse", false),
        ("Vieno Kallioaho", "guest", false),
        ("Liisa Vesaranta", "sales_manager", false),
        ("Henna Purjeranta", "accounting", false),
    ];

    private async Task PrepareAsync()
    {
        var administrator = await app.InterfaceAsync("administrator");
        var draft = await administrator.GetJsonAsync("setup/draft");
        if (draft["guards"] is JsonArray { Count: > 0 })
            return;
        foreach (
            var field in new[]
            {
                """{"id":"f-inner","recordType":"partner","code":"inner_note","label":"Inner note","kind":"text","length":40}""",
                """{"id":"f-twice","recordType":"partner","code":"next_limit","label":"Next limit","kind":"decimal","digits":15,"decimals":2,"formula":"credit_limit + 1","live":true}""",
                """{"id":"f-kept","recordType":"partner","code":"told","label":"Told","kind":"text","length":80,"formula":"note & inner_note"}""",
                """{"id":"f-through","recordType":"sales_order","code":"their_note","label":"Their note","kind":"seen","path":"customer.note"}""",
                """{"id":"f-limit","recordType":"sales_order","code":"their_limit","label":"Their limit","kind":"decimal","digits":15,"decimals":2,"formula":"customer.credit_limit","live":true}""",
            }
        )
            draft["fields"]!.AsArray().Add(JsonNode.Parse(field));
        draft["layers"] = JsonNode.Parse(
            """[{"id":"site","label":"Site","operations":[{"op":"put","part":"f-inner","after":"partner.name"},{"op":"put","part":"f-twice","after":"f-inner"},{"op":"put","part":"f-kept","after":"f-twice"},{"op":"put","part":"f-through","after":"sales_order.reference"},{"op":"put","part":"f-limit","after":"f-through"},{"op":"put","part":"list:partner.note","after":"list:partner.name"},{"op":"put","part":"list:f-inner","after":"list:partner.name"}]}]"""
        );
        await (await administrator.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await administrator.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
        var source = app.Services.GetRequiredService<NpgsqlDataSource>();
        await ExecuteAsync(
            source,
            $"UPDATE erp.partner SET note = '{Note}', credit_limit = {Figure} WHERE id = 5; "
                + $"UPDATE erp.partner SET name = '{Norwegian}' WHERE id = (SELECT min(id) FROM erp.partner WHERE country = 'NO'); "
                + $"INSERT INTO added.partner (id, inner_note, told) VALUES (5, '{Secretly}', '{Note}{Secretly}') "
                + "ON CONFLICT (id) DO UPDATE SET inner_note = excluded.inner_note, "
                + "told = excluded.told; UPDATE erp.sales_order SET customer = 5 WHERE id = 300"
        );

        // Whoever works on Pelto itself sees no more for that.
        var viewer = (await app.Services.GetRequiredService<People>().ViewerAsync("administrator"))!;
        foreach (var work in AdminWork.InDraft)
            Assert.Null(await app.Services.GetRequiredService<PeopleAdmin>().GiveAsync("role:order_desk", AdminRight.To(work), viewer));

        // Guarded once the values stand there; masked for one role, by record for another, a whole country withheld.
        draft = await administrator.GetJsonAsync("setup/draft");
        draft["guards"] = JsonNode.Parse("""[{"on":"partner.note","ending":true},{"on":"partner.credit_limit"},{"on":"f-inner"}]""");
        draft["grants"] = JsonNode.Parse(
            """
            [{"id":"g-1","to":["role:order_desk"],"on":["partner.credit_limit","f-inner"],"level":"masked"},
             {"id":"g-2","to":["role:purchasing"],"on":["partner.credit_limit","f-inner"],"level":"read","when":"AND(country = \"SE\"; number = \"none\")"},
             {"id":"g-3","does":"withhold","to":["role:order_desk","role:purchasing","role:warehouse","role:guest","role:sales_manager","role:accounting"],"on":["type:partner"],"may":["read"],"when":"country = \"NO\""}]
            """
        );
        await (await administrator.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await administrator.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
    }

    private static async Task ExecuteAsync(NpgsqlDataSource source, string sql)
    {
        await using var command = source.CreateCommand(sql);
        await command.ExecuteNonQueryAsync();
    }

    [Fact(
        DisplayName = "No endpoint gives a role a value that is guarded from it: "
            + "not on a page, by a filter, in an order, a total, a search, a file, an event or an error"
    )]
    public async Task Nothing_gets_out()
    {
        await PrepareAsync();
        var routes = app
            .Services.GetServices<EndpointDataSource>()
            .SelectMany(source => source.Endpoints)
            .OfType<RouteEndpoint>()
            .Select(endpoint =>
                (
                    Path: "/" + endpoint.RoutePattern.RawText!.TrimStart('/'),
                    Methods: endpoint.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["GET"]
                )
            )
            .Where(route => !route.Path.Contains("{*", StringComparison.Ordinal))
            .Distinct()
            .ToList();
        Assert.True(routes.Count > 60, $"{routes.Count} endpoints are listed.");
        var norwegian = (long)(await ScalarAsync("SELECT min(id) FROM erp.partner WHERE country = 'NO'"))!;
        var asked = routes
            .Where(route => route.Methods.Contains("GET"))
            .SelectMany(route => Addresses(route.Path, norwegian))
            .Distinct()
            .ToList();
        Assert.True(asked.Count > 150, $"{asked.Count} addresses are asked.");
        var found = new Dictionary<string, int>();
        foreach (var (person, role, sees) in People)
        {
            var (browser, program) = (await app.BrowserAsync(person), await app.InterfaceAsync(role));
            foreach (var address in asked)
            {
                var client = address.StartsWith("/api/", StringComparison.Ordinal) ? program : browser;
                using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
                using var answer = await client.GetAsync(
                    new Uri(client.BaseAddress!, address),
                    HttpCompletionOption.ResponseHeadersRead,
                    limit.Token
                );
                Assert.True((int)answer.StatusCode < 500, $"{(int)answer.StatusCode} at {address} for {role}");
                if (answer.Content.Headers.ContentType?.MediaType == "text/event-stream")
                    continue;
                var text = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(limit.Token));

                // What somebody asked with stands in the answer to it; that tells nothing.
                var said = Markers
                    .Where(marker => text.Contains(marker, StringComparison.Ordinal) && !address.Contains(marker, StringComparison.Ordinal))
                    .ToList();
                if (sees)
                    foreach (var marker in said)
                        found[marker] = found.GetValueOrDefault(marker) + 1;
                else if (role is "warehouse" or "guest" or "sales_manager" or "accounting")
                    said.AddRange(
                        Unknown.Where(name =>
                            text.Contains(name, StringComparison.Ordinal)
                            && !Uri.UnescapeDataString(address).Contains(name, StringComparison.Ordinal)
                        )
                    );
                if (!sees)
                    Assert.True(
                        said.Count == 0,
                        $"{role} is told {string.Join(", ", said)} at {address}: …{Around(text, said.FirstOrDefault() ?? "")}…"
                    );
            }

            // What a form answers while somebody types, and when it is drawn anew.
            foreach (var record in new[] { "/records/partner/5", "/records/sales_order/300", "/records/partner/new" })
            {
                var opened = await browser.GetAsync(record);
                if (!opened.IsSuccessStatusCode)
                    continue;
                var page = await browser.PageAsync(record);
                foreach (var handler in new[] { "Try", "Draw", "Pick&field=sales_order.customer&text=mark" })
                {
                    using var answer = await browser.PostAsync(
                        $"{record}?handler={handler}",
                        page.Filled(("city", "Elsewhere"), ("reference", "asked"))
                    );
                    var text = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
                    var said = Markers.Where(marker => text.Contains(marker, StringComparison.Ordinal)).ToList();
                    if (!sees)
                        Assert.True(
                            said.Count == 0,
                            $"{role} is told {string.Join(", ", said)} by {handler} at {record}: …{Around(text, said.FirstOrDefault() ?? "")}…"
                        );
                }
            }
        }

        // The same addresses tell an administrator, so the search would have found them.
        Assert.All(new[] { Note, Secretly, Norwegian, Figure }, marker =>
            Assert.True(found.GetValueOrDefault(marker) > 5, $"{marker} was found {found.GetValueOrDefault(marker)} times.")
        );
    }

    [Fact(
        DisplayName = "Whatever is sent to whichever endpoint or handler of a page, as any role, "
            + "the answer holds nothing that is guarded from it, and is no crash"
    )]
    public async Task Nothing_gets_out_by_sending()
    {
        await PrepareAsync();
        var norwegian = (long)(await ScalarAsync("SELECT min(id) FROM erp.partner WHERE country = 'NO'"))!;
        var sent = app
            .Services.GetServices<EndpointDataSource>()
            .SelectMany(source => source.Endpoints)
            .OfType<RouteEndpoint>()
            .Where(endpoint =>
                endpoint.RoutePattern.RawText!.TrimStart('/').StartsWith("api/", StringComparison.Ordinal)
                && endpoint.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods.Any(method => method is "POST" or "PATCH" or "PUT")
                    == true
            )
            .SelectMany(endpoint =>
                endpoint
                    .Metadata.GetMetadata<HttpMethodMetadata>()!
                    .HttpMethods.SelectMany(method =>
                        Addresses("/" + endpoint.RoutePattern.RawText!.TrimStart('/'), norwegian).Select(address => (method, address))
                    )
            )
            .Distinct()
            .ToList();
        Assert.True(sent.Count > 40, $"{sent.Count} addresses are sent to.");

        // Handlers of pages are in no list of endpoints: they are asked of the pages.
        var loader = app.Services.GetRequiredService<PageLoader>();
        var handlers = new List<string>();
        foreach (
            var page in app
                .Services.GetRequiredService<IActionDescriptorCollectionProvider>()
                .ActionDescriptors.Items.OfType<PageActionDescriptor>()
        )
        foreach (
            var handler in (await loader.LoadAsync(page, EndpointMetadataCollection.Empty)).HandlerMethods.Where(handler =>
                handler.HttpMethod == "Post" && handler.Name is not ("Delete" or "DeleteLine")
            )
        )
            handlers.AddRange(
                Addresses("/" + page.AttributeRouteInfo!.Template!, norwegian)
                    .Where(address =>
                        !address.Contains('?', StringComparison.Ordinal) && !address.StartsWith("/account/sign", StringComparison.Ordinal)
                    )
                    .Select(address => $"{address}?type=partner&record=5{(handler.Name is null ? "" : $"&handler={handler.Name}")}")
            );
        Assert.True(handlers.Count > 100, $"{handlers.Count} handlers are sent to.");

        var crashes = new List<string>();
        foreach (var (person, role, _) in People.Where(one => !one.Sees))
        {
            var (browser, program) = (await app.BrowserAsync(person), await app.InterfaceAsync(role));
            async Task CheckAsync(HttpResponseMessage answer, string what)
            {
                var text = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
                if ((int)answer.StatusCode >= 500)
                    crashes.Add($"{(int)answer.StatusCode} at {what} for {role}");
                var said = Markers.Where(marker => text.Contains(marker, StringComparison.Ordinal)).ToList();
                Assert.True(
                    said.Count == 0,
                    $"{role} is told {string.Join(", ", said)} at {what}: …{Around(text, said.FirstOrDefault() ?? "")}…"
                );
            }

            foreach (
                var (method, address) in sent.Where(one =>
                    !one.address.Contains("/setup/", StringComparison.Ordinal) || role != "order_desk"
                )
            )
            foreach (
                var body in new[]
                {
                    "{}",
                    """{"values":{"note":"asked","credit_limit":1}}""",
                    """{"recordType":"partner","record":5,"formula":"note & told & inner_note"}""",
                }
            )
                await CheckAsync(await program.SendJsonAsync(new(method), address, body), $"{method} {address} with {body}");
            var token = (await browser.PageAsync("/account/settings")).Token();
            foreach (
                var address in handlers.Where(address => !address.StartsWith("/setup", StringComparison.Ordinal) || role != "order_desk")
            )
                await CheckAsync(
                    await browser.PostAsync(
                        address,
                        new FormUrlEncodedContent([
                            new("__RequestVerificationToken", token),
                            new("field", "partner.note"),
                            new("on", "partner.note"),
                            new("text", "mark"),
                            new("city", "Elsewhere"),
                            new("operation", """{"op":"put","part":"f-inner","after":"partner.name"}"""),
                        ])
                    ),
                    address
                );
        }

        Assert.True(crashes.Count == 0, string.Join("; ", crashes));
    }

    [Fact(
        DisplayName = "By filter, order, group or try, no program learns from the number of answers what "
            + "is guarded; what is sent for it is refused with a sentence"
    )]
    public async Task Nothing_is_learnt_by_asking()
    {
        await PrepareAsync();
        foreach (var (_, role, sees) in People)
        {
            var program = await app.InterfaceAsync(role);
            foreach (
                var address in new[]
                {
                    $"records/partner?filter=note~is~{Note}",
                    "records/partner?filter=credit_limit~from~9000000",
                    "records/partner?order=-note",
                    "records/partner?order=next_limit",
                    "records/partner/groups?by=note",
                    "records/partner/groups?by=told",
                    $"records/sales_order?filter=their_note~contains~mark",
                    "records/sales_order?order=their_limit",
                    "records/sales_order/groups?by=their_note",
                }
            )
            {
                var answer = await program.GetAsync(address);
                if (sees)
                    Assert.True(
                        answer.IsSuccessStatusCode,
                        $"{(int)answer.StatusCode} at {address} for {role}: {await answer.Content.ReadAsStringAsync()}"
                    );
                else if (
                    role != "purchasing"
                    || !(
                        address.Contains("credit_limit", StringComparison.Ordinal)
                        || address.Contains("next_limit", StringComparison.Ordinal)
                    )
                )
                    Assert.True((int)answer.StatusCode is 400 or 403, $"{(int)answer.StatusCode} at {address} for {role}");
                // Where the record decides, it is empty in all of them: nothing is found by it, and it orders nothing.
                else
                    Assert.DoesNotContain((await answer.JsonAsync())["records"]!.AsArray(), row =>
                        address.Contains("filter", StringComparison.Ordinal) || row!["values"]!["next_limit"] is not null
                    );
            }

            var searched = await program.GetJsonAsync($"records/partner?search={Norwegian}");
            Assert.Equal(sees ? 1 : 0, searched["records"]!.AsArray().Count);
            if (sees)
                continue;
            var tried = await program.SendJsonAsync(
                HttpMethod.Post,
                "formulas/try",
                """{"formula":"credit_limit * 1","recordType":"partner","record":5}"""
            );
            Assert.True(
                (int)tried.StatusCode is 400 or 403 or 422,
                $"{(int)tried.StatusCode} for {role}: {await tried.Content.ReadAsStringAsync()}"
            );
            if (role is not ("order_desk" or "purchasing"))
                continue;
            var refused = await program.SendJsonAsync(HttpMethod.Patch, "records/partner/5", """{"values":{"credit_limit":1}}""");
            Assert.Contains(
                "You may not change Credit limit",
                (await refused.JsonAsync(HttpStatusCode.UnprocessableEntity)).ToJsonString(),
                StringComparison.Ordinal
            );
            var stored = await (
                await program.SendJsonAsync(HttpMethod.Patch, "records/partner/5", """{"values":{"city":"Kuusilahti"}}""")
            ).JsonAsync();
            Assert.DoesNotContain(Markers, marker => stored.ToJsonString().Contains(marker, StringComparison.Ordinal));
            Assert.Equal(
                role == "order_desk",
                stored["masked"]?.AsArray().Any(pointer => pointer!.GetValue<string>() == "/values/credit_limit") == true
            );
        }

        Assert.Equal(
            decimal.Parse(Figure, System.Globalization.CultureInfo.InvariantCulture),
            await ScalarAsync("SELECT credit_limit FROM erp.partner WHERE id = 5")
        );
        Assert.Equal(Note, await ScalarAsync("SELECT note FROM erp.partner WHERE id = 5"));
    }

    private async Task<object?> ScalarAsync(string sql)
    {
        await using var command = app.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand(sql);
        return await command.ExecuteScalarAsync();
    }

    // Each place in an address with what could stand there; and lists with what could be asked of them.
    private static IEnumerable<string> Addresses(string route, long norwegian)
    {
        var paths = new List<string> { route };
        foreach (Match place in Regex.Matches(route, @"\{(\w+)[^}]*\}"))
        {
            string[] values = place.Groups[1].Value switch
            {
                "type" or "next" => ["partner", "sales_order"],
                "id" or "record" => place.Value.Contains("guid", StringComparison.Ordinal)
                    ? [Guid.Empty.ToString()]
                    : ["5", "300", "new", $"{norwegian}"],
                "field" => ["partner.note", "f-inner", "f-through"],
                "element" => ["partner.note", "f-kept", "f-limit"],
                _ => ["1"],
            };
            paths = [.. paths.SelectMany(path => values.Select(value => path.Replace(place.Value, value, StringComparison.Ordinal)))];
        }

        foreach (var path in paths)
        {
            yield return path;
            var type = path.Contains("sales_order", StringComparison.Ordinal) ? "sales_order" : "partner";
            if (Regex.IsMatch(path, @"records/(partner|sales_order)(/export\.csv|/groups)?$"))
            {
                string[] asks =
                    type == "partner"
                        ?
                        [
                            "search=mark",
                            "search=Kuusilahti&order=-credit_limit",
                            "filter=note~contains~mark",
                            "filter=credit_limit~from~9000000",
                            "filter=number~is~P-0005",
                            "order=next_limit",
                            "group=note",
                            "group=country",
                            "by=note",
                            "by=country",
                            "order=-told",
                            "filter=told~filled~",
                        ]
                        :
                        [
                            "search=mark",
                            "filter=customer~is~5",
                            "order=-their_limit",
                            "group=their_note",
                            "by=customer",
                            "by=their_limit",
                            "filter=their_note~contains~mark",
                            "order=customer",
                        ];
                foreach (var ask in asks)
                    yield return $"{path}?{ask}";
            }

            if (Regex.IsMatch(path, @"^/records/\w+/\d+$"))
                foreach (var ask in new[] { "handler=Card", "handler=Pointing&field=sales_order.customer", "saved=true" })
                    yield return $"{path}?{ask}";
            if (path.StartsWith("/pick", StringComparison.Ordinal) || path.StartsWith("/find", StringComparison.Ordinal))
                foreach (var text in new[] { "mark", "P-0", "" })
                    yield return $"{path}?text={text}";
            if (path.StartsWith("/origins", StringComparison.Ordinal))
                yield return $"{path}?record=5";
            if (path.StartsWith("/account/arrange", StringComparison.Ordinal))
                foreach (var ask in new[] { "type=partner&record=5", "type=partner&of=list", "type=sales_order&record=300" })
                    yield return $"{path}?{ask}";
            if (path.StartsWith("/setup", StringComparison.Ordinal))
                yield return $"{path}?type=partner&record=5&person=henna.aro&field=partner.note";
        }
    }

    private static string Around(string text, string marker) =>
        text.IndexOf(marker, StringComparison.Ordinal) is var at and >= 0
            ? text[Math.Max(0, at - 160)..Math.Min(text.Length, at + 60)]
            : "";
}
