using System.Net.Http.Json;
using System.Text.RegularExpressions;
using Pelto.Data;

namespace Pelto.Web.Tests;

/// <summary>What a notice says of a release, held against the screens before and after it.</summary>
public sealed partial class NoticeTests(App app) : IClassFixture<App>
{
    private static readonly string[] People = ["Henna Aro", "Eero Lahdenmaa", "Vieno Kallioaho"];

    // What stands on the order before each change.
    private static JsonObject Base(JsonObject draft)
    {
        var site = draft.DeepClone().AsObject();
        site["choiceLists"] = Json(
            """[{"id": "l-steel", "label": "Steels", "choices": [{"code": "s1", "label": "S 1"}, {"code": "s2", "label": "S 2"}]}]"""
        );
        site["queries"] = Json(
            """[{"id": "q-last", "label": "Last order", "about": "sales_order", "sql": "SELECT max(order_date) AS day FROM sales_order WHERE customer = :customer", "parameters": [{"name": "customer", "kind": "link"}]}]"""
        );
        site["roles"] = Json("""[{"code": "checker", "label": "Checker"}]""");
        site["fields"] = new JsonArray(
            Field("mast", "text", ("length", 20), ("help", "Which mast it is for.")),
            Field("steel", "choice", ("choiceList", "l-steel")),
            Field("mass", "decimal", ("digits", 8), ("decimals", 2)),
            Field("twice", "decimal", ("digits", 10), ("decimals", 2), ("formula", "mass * 2")),
            Field("vessel", "link", ("target", "vessel")),
            Field("owner", "seen", ("path", "customer.own_note")),
            Field("parked", "text"),
            Field("last", "date", ("query", Json("""{"id": "q-last", "with": {"customer": "customer"}, "when": "change"}"""))),
            Field("jib", "integer", ("part", "lines")),
            Field("own_note", "text", ("recordType", "partner")),
            Field("elsewhere", "text", ("recordType", "item"))
        );
        site["recordTypes"] = Json(
            """[{"id": "t-vessel", "code": "vessel", "label": "Vessel", "plural": "Vessels", "read": ["*"], "write": ["order_desk"], "numbering": {"prefix": "V-", "digits": 3, "start": 1}}]"""
        );
        site["layers"] = Json(
            """[{"id": "y-desk", "label": "Order desk", "comment": "For a test", "audience": "role:order_desk", "operations": [{"op": "hide", "part": "f-parked"}]}, {"id": "y-all", "label": "All", "comment": "For a test", "audience": "everyone", "operations": [{"op": "relabel", "part": "sales_order.reference", "label": "Their reference"}]}, {"id": "y-stock", "label": "Stock", "comment": "For a test", "audience": "role:warehouse", "operations": [{"op": "relabel", "part": "sales_order.carrier", "label": "Who takes it"}]}]"""
        );
        site["guards"] = Json("""[{"on": "f-mass", "comment": "For a test"}]""");
        site["grants"] = Json(
            """[{"id": "g-mass", "does": "give", "to": ["role:order_desk"], "on": ["f-mass"], "level": "write", "comment": "For a test"}]"""
        );
        return site;
    }

    private static JsonNode Json(string text) => JsonNode.Parse(text)!;

    private static JsonObject Field(string code, string kind, params (string Name, JsonNode? Value)[] more) =>
        With(
            new()
            {
                ["id"] = "f-" + code,
                ["recordType"] = "sales_order",
                ["code"] = code,
                ["label"] = "Label of " + code,
                ["kind"] = kind,
            },
            more
        );

    private static JsonObject With(JsonObject of, params (string Name, JsonNode? Value)[] more)
    {
        foreach (var (name, value) in more)
            of[name] = value;
        return of;
    }

    private static JsonObject One(JsonObject site, string list, string id) =>
        site[list]!.AsArray().Select(one => one!.AsObject()).Single(one => (string?)(one["id"] ?? one["on"] ?? one["code"]) == id);

    private static (string, Action<JsonObject>) Set(string list, string id, string property, string? json) =>
        ($"{id}: {property} {json}", site => One(site, list, id)[property] = json is null ? null : Json(json));

    private static (string, Action<JsonObject>) Add(string list, string json) =>
        ($"{list} + {json}", site => site[list]!.AsArray().Add(Json(json)));

    private static (string, Action<JsonObject>) Drop(string list, string id) =>
        ($"{list} - {id}", site => site[list]!.AsArray().Remove(One(site, list, id)));

    private static (string, Action<JsonObject>) Layer(string layer, string operation) =>
        ($"{layer} + {operation}", site => One(site, "layers", layer)["operations"]!.AsArray().Add(Json(operation)));

    // One change each: every property that people can notice, every list of a site, on this screen, on another, and for others.
    private static readonly (string Name, Action<JsonObject> Make)[] Changes =
    [
        Set("fields", "f-mast", "label", "\"Mast and boom\""),
        Set("fields", "f-mast", "texts", """{"fi": {"label": "Masto"}}"""),
        Set("fields", "f-mast", "help", "\"Which of them.\""),
        Set("fields", "f-mast", "help", null),
        Set("fields", "f-mast", "heading", "\"M.\""),
        Set("fields", "f-mast", "length", "30"),
        Set("fields", "f-mast", "required", "true"),
        Set("fields", "f-mast", "defaultValue", "\"fore\""),
        Set("fields", "f-mast", "unique", "true"),
        Set("fields", "f-mast", "pattern", "\"M.*\""),
        Set("fields", "f-mast", "kind", "\"long_text\""),
        Set("fields", "f-mast", "retired", "true"),
        Set("fields", "f-mast", "indexed", "true"),
        Set("fields", "f-mast", "printed", "true"),
        Set("fields", "f-mast", "shownWhen", "\"vat_percent > 200\""),
        Set("fields", "f-mast", "requiredWhen", "\"vat_percent > 200\""),
        Set("fields", "f-mast", "check", "\"LEN(mast) > 2\""),
        Set("fields", "f-mast", "formula", "\"reference\""),
        Set("fields", "f-mast", "alsoOn", """[{"recordType": "quotation"}]"""),
        Set("fields", "f-mass", "maximum", "\"500\""),
        Set("fields", "f-mass", "decimals", "3"),
        Set("fields", "f-mass", "noTotals", "true"),
        Set("fields", "f-twice", "formula", "\"mass * 3\""),
        Set("fields", "f-twice", "live", "true"),
        ("f-steel: choices of its own", site =>
            With(
                One(site, "fields", "f-steel"),
                ("choiceList", null),
                ("choices", Json("""[{"code": "s1", "label": "S 1"}, {"code": "s2", "label": "S 2"}, {"code": "s3", "label": "S 3"}]"""))
            )
        ),
        Set("choiceLists", "l-steel", "label", "\"Sorts of steel\""),
        Set("choiceLists", "l-steel", "mayAdd", "true"),
        ("l-steel: a choice is called otherwise", site => One(site, "choiceLists", "l-steel")["choices"]![0]!["label"] = "Steel 1"),
        ("l-steel: a colour", site => One(site, "choiceLists", "l-steel")["choices"]![0]!["colour"] = "moss"),
        Set("fields", "f-vessel", "offers", "\"name <> \\\"\\\"\""),
        Set("fields", "f-vessel", "help", "\"Hers.\""),
        Set("fields", "f-owner", "label", "\"What the owner says\""),
        Set("fields", "f-own_note", "label", "\"Note of theirs\""),
        Set("fields", "f-own_note", "kind", "\"long_text\""),
        Set("fields", "f-own_note", "help", "\"Only theirs.\""),
        Set("fields", "f-own_note", "required", "true"),
        Set("fields", "f-parked", "label", "\"Parked away\""),
        Set("fields", "f-jib", "label", "\"Jib no.\""),
        Set("fields", "f-jib", "maximum", "\"9\""),
        Set("fields", "f-elsewhere", "label", "\"Far away\""),
        Set("fields", "f-elsewhere", "retired", "true"),
        Add("fields", """{"id": "f-fresh", "recordType": "sales_order", "code": "fresh", "label": "Fresh", "kind": "yes_no"}"""),
        Add("fields", """{"id": "f-fresh2", "recordType": "quotation", "code": "fresh", "label": "Fresh", "kind": "yes_no"}"""),
        Add(
            "fields",
            """{"id": "f-back", "recordType": "project", "code": "first_order", "label": "First order", "kind": "link", "target": "sales_order"}"""
        ),
        Set("recordTypes", "t-vessel", "label", "\"Ship\""),
        Set("recordTypes", "t-vessel", "plural", "\"Ships\""),
        Set("recordTypes", "t-vessel", "write", """["warehouse"]"""),
        Set("recordTypes", "t-vessel", "read", """["order_desk"]"""),
        Add("recordTypes", """{"id": "t-crane", "code": "crane", "label": "Crane", "plural": "Cranes", "read": ["*"], "write": ["*"]}"""),
        Set("queries", "q-last", "label", "\"The last order\""),
        Add("choiceLists", """{"id": "l-other", "label": "Others", "choices": [{"code": "a", "label": "A"}]}"""),
        Add("roles", """{"code": "reader", "label": "Reader"}"""),
        ("checker: label", site => One(site, "roles", "checker")["label"] = "Checkers"),
        Layer("y-desk", """{"op": "hide", "part": "f-mast"}"""),
        Layer("y-desk", """{"op": "resize", "part": "f-mast", "width": 6}"""),
        Layer("y-desk", """{"op": "relabel", "part": "f-mast", "label": "Their mast"}"""),
        Layer("y-desk", """{"op": "lock", "part": "f-mast"}"""),
        Layer("y-desk", """{"op": "require", "part": "f-mast"}"""),
        Layer("y-desk", """{"op": "hide", "part": "f-elsewhere"}"""),
        Layer("y-desk", """{"op": "hide", "part": "sales_order.campaign", "on": "adding"}"""),
        Layer("y-desk", """{"op": "hide", "part": "f-mast", "when": "vat_percent > 200"}"""),
        Layer("y-desk", """{"op": "fold", "part": "sales_order.main.order"}"""),
        Layer("y-desk", """{"op": "relabel", "part": "sales_order.main.order", "label": "The order"}"""),
        Layer("y-desk", """{"op": "move", "part": "sales_order.reference", "after": "sales_order.number"}"""),
        Layer("y-stock", """{"op": "hide", "part": "f-mast"}"""),
        Layer("y-all", """{"op": "tab", "part": "sales_order.reference", "after": "sales_order.number"}"""),
        Set("layers", "y-desk", "label", "\"The desk\""),
        Set("layers", "y-desk", "comment", "\"As they asked.\""),
        Set("layers", "y-desk", "audience", "\"role:purchasing\""),
        Set("layers", "y-stock", "audience", "\"role:guest\""),
        Drop("layers", "y-desk"),
        Drop("layers", "y-all"),
        Drop("layers", "y-stock"),
        Add(
            "layers",
            """{"id": "y-new", "label": "Guests", "comment": "For a test", "audience": "role:guest", "operations": [{"op": "hide", "part": "sales_order.campaign"}]}"""
        ),
        Drop("guards", "f-mass"),
        Drop("grants", "g-mass"),
        Set("guards", "f-mass", "comment", "\"Otherwise\""),
        Set("grants", "g-mass", "level", "\"read\""),
        Set("grants", "g-mass", "level", "\"masked\""),
        Set("grants", "g-mass", "to", """["role:warehouse"]"""),
        Set("grants", "g-mass", "comment", "\"Otherwise\""),
        Add("guards", """{"on": "f-mast", "comment": "For a test"}"""),
        Add("guards", """{"on": "f-own_note", "comment": "For a test"}"""),
        Add("guards", """{"on": "f-elsewhere", "comment": "For a test"}"""),
        Add("guards", """{"on": "sales_order.campaign", "comment": "For a test"}"""),
        Add(
            "grants",
            """{"id": "g-new", "does": "withhold", "to": ["role:order_desk"], "on": ["f-mast"], "level": "read", "comment": "For a test"}"""
        ),
        Add(
            "grants",
            """{"id": "g-new", "does": "withhold", "to": ["role:warehouse"], "on": ["f-mast"], "level": "read", "comment": "For a test"}"""
        ),
        Add(
            "grants",
            """{"id": "g-new", "does": "withhold", "to": ["role:order_desk"], "on": ["type:sales_order"], "may": ["change"], "comment": "For a test"}"""
        ),
        Add(
            "grants",
            """{"id": "g-new", "does": "withhold", "to": ["role:order_desk"], "on": ["type:sales_order"], "may": ["delete"], "comment": "For a test"}"""
        ),
        Add(
            "grants",
            """{"id": "g-new", "does": "withhold", "to": ["role:order_desk"], "on": ["f-mast"], "level": "read", "when": "vat_percent > 200", "comment": "For a test"}"""
        ),
    ];

    [Fact(
        DisplayName = "A notice of a release comes when what somebody sees of their screen "
            + "or may enter in it has changed, and to nobody else; it counts the fields that changed"
    )]
    public async Task Notices_are_true()
    {
        var program = await app.InterfaceAsync("administrator");
        var screens = new Dictionary<string, HttpClient>();
        foreach (var person in People)
            screens[person] = await app.BrowserAsync(person);
        var site = Base((await program.GetJsonAsync("setup/draft")).AsObject());
        await GoLiveAsync(program, site);
        var vessel = (
            await (await program.PostAsJsonAsync("records/vessel", new { values = new { name = "Aallotar" } })).JsonAsync(
                HttpStatusCode.Created
            )
        )["id"]!;
        await (
            await program.SendJsonAsync(
                HttpMethod.Patch,
                "records/sales_order/300",
                $$$"""{"values": {"mast": "M1", "steel": "s1", "mass": 4.25, "vessel": {{{vessel}}}}}"""
            )
        ).JsonAsync();
        var before = await SeenAsync(screens);
        var wrong = new List<string>();
        foreach (var (name, make) in Changes)
        {
            var changed = site.DeepClone().AsObject();
            make(changed);
            var since = before.First().Value.Release;
            try
            {
                await GoLiveAsync(program, changed);
            }
            catch (Xunit.Sdk.XunitException refused)
            {
                wrong.Add($"{name}: not published: {refused.Message}");
                continue;
            }

            var after = await SeenAsync(screens);
            foreach (var person in People)
            {
                var (was, now) = (before[person], after[person]);
                var notice = await (await screens[person].GetAsync($"/live/changes?type=sales_order&since={since}")).JsonAsync();
                var (isTold, said) = ((bool)notice["isAny"]!, (string)notice["said"]!);
                var differ = was
                    .Fields.Keys.Union(now.Fields.Keys)
                    .Where(id => was.Fields.GetValueOrDefault(id) != now.Fields.GetValueOrDefault(id))
                    .ToList();
                if (was.Html != now.Html && !isTold)
                    wrong.Add(
                        $"{name}, {person}: told nothing, and {(differ.Count > 0 ? string.Join(", ", differ) : "the rest")} changed."
                    );
                var told = FieldCount().Match(said) is { Success: true } match
                    ? match.Groups[1].Value is "One"
                        ? 1
                        : int.Parse(match.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture)
                    : 0;
                if (isTold && was.Html == now.Html && !IsFelt(name))
                    wrong.Add($"{name}, {person}: told “{said}”, and nothing changed.");
                if (isTold && told < differ.Count && !said.Contains("arrangement", StringComparison.Ordinal))
                    wrong.Add($"{name}, {person}: told “{said}” of {string.Join(", ", differ)}.");
                if (isTold && told > Math.Max(differ.Count, 1))
                    wrong.Add($"{name}, {person}: told “{said}” of {string.Join(", ", differ)}.");
            }

            // A record type is not left out, but retired.
            foreach (var type in changed["recordTypes"]!.AsArray().Skip(site["recordTypes"]!.AsArray().Count))
                site["recordTypes"]!.AsArray().Add(With(type!.DeepClone().AsObject(), ("retired", true)));
            await GoLiveAsync(program, site);
            before = await SeenAsync(screens);
        }

        Assert.True(wrong.Count == 0, $"{wrong.Count}: {string.Join('\n', wrong)}");
    }

    [Fact(DisplayName = "Who adds a record is told what changes for new ones, and who looks at one on file what changes for those")]
    public async Task By_what_is_open()
    {
        var (program, eero) = (await app.InterfaceAsync("administrator"), await app.BrowserAsync("Eero Lahdenmaa"));
        var site = (await program.GetJsonAsync("setup/draft")).AsObject();
        site["layers"] = Json(
            """[{"id": "y-one", "label": "One", "comment": "For a test", "audience": "everyone", "operations": [{"op": "hide", "part": "quotation.salesperson", "on": "adding"}]}]"""
        );
        var since = app.Services.GetRequiredService<Catalogues>().Live.Release;
        await GoLiveAsync(program, site);
        async Task<bool> IsToldAsync(string adding) =>
            (bool)(await eero.GetJsonAsync($"/live/changes?type=quotation&since={since}{adding}"))["isAny"]!;
        Assert.Equal((true, false, false), (await IsToldAsync("&adding=true"), await IsToldAsync("&adding=false"), await IsToldAsync("")));
    }

    [Fact(
        DisplayName = "Nobody is told that something was arranged with a field "
            + "that they are not shown: not that Tab passes it by, nor that a condition hides it"
    )]
    public async Task Not_of_what_is_not_shown()
    {
        var (program, henna, vieno) = (
            await app.InterfaceAsync("administrator"),
            await app.BrowserAsync("Henna Aro"),
            await app.BrowserAsync("Vieno Kallioaho")
        );
        var site = (await program.GetJsonAsync("setup/draft")).AsObject();
        site["guards"]!.AsArray().Add(Json("""{"on": "project.manager", "comment": "For a test"}"""));
        await GoLiveAsync(program, site);
        foreach (
            var operation in new[]
            {
                """{"op": "tab", "part": "project.manager", "off": true}""",
                """{"op": "relabel", "part": "project.manager", "label": "Called", "when": "number = \"none\""}""",
            }
        )
        {
            var since = app.Services.GetRequiredService<Catalogues>().Live.Release;
            site["layers"] = new JsonArray(
                With(
                    Json("""{"id": "y-two", "label": "Two", "comment": "For a test", "audience": "everyone"}""").AsObject(),
                    ("operations", new JsonArray(Json(operation)))
                )
            );
            await GoLiveAsync(program, site);
            async Task<bool> IsToldAsync(HttpClient browser) =>
                (bool)(await browser.GetJsonAsync($"/live/changes?type=project&since={since}"))["isAny"]!;
            Assert.Equal((true, false), (await IsToldAsync(henna), await IsToldAsync(vieno)));
        }
    }

    [Fact(
        DisplayName = "A condition that decides over what a field is calculated from decides over that field: "
            + "whoever is shown it is told; what a condition elsewhere decides over is shown to nobody whom it asks"
    )]
    public async Task Of_conditions_behind()
    {
        var (program, eero) = (await app.InterfaceAsync("administrator"), await app.BrowserAsync("Eero Lahdenmaa"));
        var site = (await program.GetJsonAsync("setup/draft")).AsObject();
        JsonObject[] fields =
        [
            Field("hours", "integer", ("recordType", "lot")),
            Field("shifts", "integer", ("recordType", "lot"), ("formula", "hours * 2")),
            Field("gangs", "integer", ("recordType", "lot"), ("formula", "shifts + 1"), ("live", true)),
            Field("grown", "integer", ("recordType", "item")),
            Field("grows", "seen", ("recordType", "lot"), ("path", "item.grown")),
        ];
        foreach (var field in fields)
            site["fields"]!.AsArray().Add(field);
        foreach (var on in new[] { "f-hours", "f-grown" })
            site["guards"]!.AsArray().Add(With([], ("on", on), ("comment", "For a test")));
        static JsonObject Grant(string on, string does) =>
            With(
                [],
                ("id", $"g-{on}"),
                ("does", does),
                ("to", new JsonArray("role:order_desk")),
                ("on", new JsonArray(on)),
                ("when", "number <> \"x\""),
                ("comment", "For a test")
            );
        site["grants"]!.AsArray().Add(With(Grant("f-hours", "give"), ("level", "read")));
        site["grants"]!.AsArray().Add(With(Grant("f-grown", "give"), ("level", "read")));
        site["grants"]!.AsArray().Add(With(Grant("type:item", "withhold"), ("may", new JsonArray("read"))));

        // On their screen stands only what follows from these.
        site["layers"] = Json(
            """[{"id": "y-lot", "label": "Lots", "comment": "For a test", "audience": "everyone", "operations": [{"op": "hide", "part": "f-hours"}, {"op": "hide", "part": "f-shifts"}]}]"""
        );
        await GoLiveAsync(program, site);
        foreach (var (on, said) in new[] { ("f-hours", "One field changed"), ("f-grown", ""), ("type:item", "") })
        {
            var since = app.Services.GetRequiredService<Catalogues>().Live.Release;
            One(site, "grants", $"g-{on}")["when"] = "number <> \"y\"";
            await GoLiveAsync(program, site);
            var notice = await eero.GetJsonAsync($"/live/changes?type=lot&since={since}");
            Assert.True(
                said.Length > 0 ? ((string)notice["said"]!).Contains(said, StringComparison.Ordinal) : !(bool)notice["isAny"]!,
                $"{on}: {notice}"
            );
        }
    }

    // Not drawn, and yet felt by whoever types there: what is judged, calculated or begun with.
    private static bool IsFelt(string name) =>
        new[]
        {
            "maximum",
            "unique",
            "pattern",
            "check",
            "defaultValue",
            "requiredWhen",
            "length",
            "formula",
            "live",
            "offers",
            "when\"",
            "may",
        }.Any(one => name.Contains(one, StringComparison.Ordinal));

    // What a release begins in the background changes screens as well, after the release.
    private async Task GoLiveAsync(HttpClient program, JsonObject site)
    {
        await (await program.PutAsJsonAsync("setup/draft", site)).JsonAsync();
        await (await program.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
        await app.JobsAreDoneAsync();
    }

    private static async Task<Dictionary<string, Seen>> SeenAsync(Dictionary<string, HttpClient> screens)
    {
        var seen = new Dictionary<string, Seen>();
        foreach (var (person, browser) in screens)
        {
            var page = await browser.PageAsync("/records/sales_order/300");
            var form = page.QuerySelector("#record")!;
            var release = int.Parse(
                form.QuerySelector("[name=release]")!.GetAttribute("value")!,
                System.Globalization.CultureInfo.InvariantCulture
            );
            foreach (var gone in form.QuerySelectorAll("[name=release], [name=opened], [name=__RequestVerificationToken]").ToList())
                gone.Remove();
            form.RemoveAttribute("data-screen");
            var fields = form.QuerySelectorAll("[data-field]")
                .ToDictionary(part => part.GetAttribute("data-field")!, part => part.OuterHtml);

            // What stands in the lines, under the heading of its field.
            foreach (var heads in form.QuerySelectorAll("thead"))
            {
                var columns = heads.QuerySelectorAll("th").Select(head => head.GetAttribute("data-field")).ToList();
                foreach (var row in heads.ParentElement!.QuerySelectorAll("tr[data-line]"))
                foreach (var (cell, field) in row.QuerySelectorAll("td").Zip(columns))
                    if (field is not null)
                        fields[field] += cell.OuterHtml;
            }

            seen[person] = new(release, form.OuterHtml, fields);
        }

        return seen;
    }

    private sealed record Seen(int Release, string Html, Dictionary<string, string> Fields);

    [GeneratedRegex("(One|[0-9]+) fields?")]
    private static partial Regex FieldCount();
}
