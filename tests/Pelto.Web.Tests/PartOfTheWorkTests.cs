using System.Net.Http.Json;
using Pelto.Core.Access;
using Pelto.Data.Definitions;
using Pelto.Data.Rights;

namespace Pelto.Web.Tests;

/// <summary>People who have part of the work on Pelto: what of the site's definitions they are shown.</summary>
public sealed class PartOfTheWorkTests(App app) : IClassFixture<App>
{
    private T Get<T>()
        where T : notnull => app.Services.GetRequiredService<T>();

    [Fact(
        DisplayName = "Whoever has part of the work is shown that part, on every page of set-up, "
            + "in Find or do and in the interface; what they send back changes nothing of the rest"
    )]
    public async Task Part_of_the_work()
    {
        var (henna, admin, all) = (
            (await Get<People>().ViewerAsync("henna.aro"))!,
            Get<PeopleAdmin>(),
            await app.InterfaceAsync("administrator")
        );
        var site = await all.GetJsonAsync("setup/draft");
        JsonArray Of(string name) => site[name] as JsonArray ?? (JsonArray)(site[name] = new JsonArray());
        Of("choiceLists")
            .Add(JsonNode.Parse("""{"id": "l-hush", "label": "Hushed rebates", "choices": [{"code": "hush", "label": "Hush-hush"}]}"""));
        Of("fields")
            .Add(
                JsonNode.Parse(
                    """{"id": "f-hush", "recordType": "item", "code": "hush_rebate", "label": "Hush rebate", "kind": "choice", "choiceList": "l-hush"}"""
                )
            );
        Of("fields")
            .Add(
                JsonNode.Parse(
                    """{"id": "f-hush2", "recordType": "item", "code": "hush_twice", "label": "Hush twice", "kind": "text", "length": 40, "formula": "hush_rebate"}"""
                )
            );
        Of("layers")
            .Add(
                JsonNode.Parse("""{"id": "site", "label": "Site", "operations": [{"op": "put", "part": "f-hush", "after": "item.name"}]}""")
            );
        Of("guards").Add(JsonNode.Parse("""{"on": "f-hush", "comment": "Hush"}"""));
        await (await all.PutAsJsonAsync("setup/draft", site)).JsonAsync();
        await (await all.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
        site = await all.GetJsonAsync("setup/draft");
        Of("queries").Add(JsonNode.Parse("""{"id": "q-hush", "label": "All that is hushed", "sql": "SELECT hush_rebate FROM item"}"""));
        await (await all.PutAsJsonAsync("setup/draft", site)).JsonAsync();
        await (await all.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
        await all.PutAsJsonAsync(
            "setup/draft",
            JsonNode.Parse(
                (await all.GetJsonAsync("setup/draft")).ToJsonString().Replace("Hush twice", "Hush thrice", StringComparison.Ordinal)
            )
        );

        foreach (var work in AdminWork.InDraft)
            Assert.Null(await admin.GiveAsync("user:vieno.kallioaho", new(work, ["partner"], []), henna));
        var (vieno, browser, part) = (
            (await Get<People>().ViewerAsync("vieno.kallioaho"))!,
            await app.BrowserAsync("Vieno Kallioaho"),
            await app.InterfaceAsync("vieno.kallioaho")
        );
        var pages = Components
            .SetUpPages.For(vieno)
            .Select(page => page.Address)
            .Concat([
                "/setup/fields?type=item",
                "/setup/map?view=list",
                "/setup/map?of=draft",
                "/setup/access?type=item",
                "/setup/arrange?type=item",
                "/setup/queries/new",
                "/setup/fields/new?type=partner",
                "/setup/fields/new?type=item",
                "/setup/fields/set",
                "/find?text=hush",
            ])
            .ToList();
        Assert.Contains("/setup/register", pages);
        foreach (var page in pages)
        {
            var answer = await browser.GetAsync(page);
            var found = System.Text.RegularExpressions.Regex.Match(
                (await answer.Content.ReadAsStringAsync()).Replace("text=hush", "", StringComparison.Ordinal),
                "(?is).{0,200}hush.{0,100}"
            );
            Assert.False(found.Success, $"{page} says {found.Value}");
        }

        foreach (var page in new[] { "fields/f-hush", "fields/f-hush2", "lists/l-hush", "queries/q-hush" })
        {
            Assert.Equal(HttpStatusCode.NotFound, (await browser.GetAsync($"/setup/{page}")).StatusCode);
            Assert.Equal(HttpStatusCode.OK, (await (await app.BrowserAsync("Henna Aro")).GetAsync($"/setup/{page}")).StatusCode);
        }

        foreach (var path in new[] { "setup/definition", "setup/draft", "setup/plan" })
            Assert.DoesNotContain("hush", (await part.GetJsonAsync(path)).ToJsonString(), StringComparison.OrdinalIgnoreCase);
        var mine = await part.GetJsonAsync("setup/draft");
        await (await part.PutAsJsonAsync("setup/draft", mine)).JsonAsync();
        (mine["fields"] as JsonArray ?? (JsonArray)(mine["fields"] = new JsonArray())).Add(
            JsonNode.Parse(
                """{"id": "f-berth", "recordType": "partner", "code": "berth", "label": "Berth", "kind": "text", "length": 20}"""
            )
        );
        await (await part.PutAsJsonAsync("setup/draft", mine)).JsonAsync();
        var whole = await all.GetJsonAsync("setup/draft");
        foreach (var stored in new[] { "f-hush", "f-hush2", "f-berth", "l-hush", "q-hush", "Hush thrice" })
            Assert.Contains($"\"{stored}\"", whole.ToJsonString(), StringComparison.Ordinal);
        var plan = await part.GetJsonAsync("setup/plan");
        Assert.True(plan["holdsMore"]!.GetValue<bool>());
        Assert.Equal(["partner"], plan["changes"]!.AsArray().Select(change => change!["recordType"]!.GetValue<string>()).Distinct());
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await part.PostAsJsonAsync("setup/publish", new { comment = "Mine and theirs" })).StatusCode
        );
        foreach (var right in (await admin.RightsAsync()).Where(row => row.Audience == "user:vieno.kallioaho"))
            await admin.TakeAsync(right.Id, henna);
        await (await all.PutAsJsonAsync("setup/draft", await all.GetJsonAsync("setup/definition"))).JsonAsync();
    }
}
