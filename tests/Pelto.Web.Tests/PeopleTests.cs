using System.Text.Json;
using Json.Schema;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Data.Definitions;
using Pelto.Data.Releases;
using Pelto.Data.Rights;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Tests;

/// <summary>Roles, people, rights and tokens, through the pages and the programming interface.</summary>
public sealed class PeopleTests(App app) : IClassFixture<App>
{
    private T Get<T>()
        where T : notnull => app.Services.GetRequiredService<T>();

    private async Task<Viewer> PersonAsync(string name) => (await Get<People>().ViewerAsync(name))!;

    [Fact(
        DisplayName = "The last administrator stays one, also when two are taken away at once; "
            + "nobody but an administrator makes or unmakes one"
    )]
    public async Task Last_administrator()
    {
        var (henna, eero, admin) = (await PersonAsync("henna.aro"), await PersonAsync("eero.lahdenmaa"), Get<PeopleAdmin>());
        var (asHenna, asEero) = ((await admin.FindAsync(henna.Id))!, (await admin.FindAsync(eero.Id))!);
        Assert.Contains(
            "only administrator",
            (await admin.SaveAsync(henna.Id, asHenna with { Roles = ["order_desk"] }, henna)).Refusal,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "only administrator",
            (await admin.SaveAsync(henna.Id, asHenna with { Disabled = true }, henna)).Refusal,
            StringComparison.Ordinal
        );
        Assert.Null((await admin.SaveAsync(eero.Id, asEero with { Roles = ["administrator"] }, henna)).Refusal);
        var both = await Task.WhenAll(
            admin.SaveAsync(henna.Id, asHenna with { Roles = ["guest"] }, henna),
            admin.SaveAsync(eero.Id, asEero, henna)
        );
        Assert.Single(both, one => one.Refusal is null);
        await Get<PeopleAdmin>().SaveAsync(henna.Id, asHenna, henna);
        await Get<PeopleAdmin>().SaveAsync(eero.Id, asEero, henna);
        Assert.Null(await admin.GiveAsync("role:warehouse", AdminRight.To(AdminWork.People), henna));
        var ville = await PersonAsync("ville.mastola");
        Assert.Contains(
            "administrator",
            (await admin.SaveAsync(eero.Id, asEero with { Roles = ["administrator"] }, ville)).Refusal,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "administrator",
            (await admin.SaveAsync(henna.Id, asHenna with { Roles = [] }, ville)).Refusal,
            StringComparison.Ordinal
        );
        Assert.NotNull(await admin.RefuseActingAsync(henna.Id, ville));
        Assert.NotNull(await admin.GiveAsync("role:warehouse", AdminRight.To(AdminWork.Publish), ville));
        Assert.Null(
            (await admin.SaveAsync(ville.Id, (await admin.FindAsync(ville.Id))! with { Name = "Ville M. Mastola" }, ville)).Refusal
        );
        await admin.TakeAsync((await admin.RightsAsync()).Single(row => row.Work == AdminWork.People).Id, henna);

        // Somebody who administers the people of one company: neither others, nor roles, nor rights of everybody.
        Assert.Null(await admin.GiveAsync("user:arne.steinsund", new(AdminWork.People, [], ["no"]), henna));
        Assert.Null(await admin.GiveAsync("user:arne.steinsund", AdminRight.To(AdminWork.ArrangeOwn), henna));
        var arne = await PersonAsync("arne.steinsund");
        Assert.Equal("You administer people of other companies.", (await admin.SaveAsync(eero.Id, asEero, arne)).Refusal);
        Assert.Equal(
            "You administer people of other companies.",
            await admin.GiveAsync("everyone", AdminRight.To(AdminWork.ArrangeOwn), arne)
        );
        Assert.Equal(
            "You administer people of other companies.",
            await admin.GiveAsync("user:eero.lahdenmaa", AdminRight.To(AdminWork.ArrangeOwn), arne)
        );
        Assert.Null(await admin.GiveAsync("user:sigrid.skarvik", AdminRight.To(AdminWork.ArrangeOwn), arne));
        var made = await admin.SaveAsync(
            null,
            new()
            {
                Name = "Nils Brygge",
                SignIn = "nils.brygge",
                Company = "no",
                Roles = ["warehouse"],
            },
            arne
        );
        Assert.Null(made.Refusal);
        Assert.Equal(
            "company",
            (
                await admin.SaveAsync(
                    made.Id,
                    new()
                    {
                        Name = "Nils Brygge",
                        SignIn = "nils.brygge",
                        Company = "fi",
                        Roles = ["warehouse"],
                    },
                    arne
                )
            ).At
        );
        Assert.Contains(
            "which you may not do yourself",
            (
                await admin.SaveAsync(
                    made.Id,
                    new()
                    {
                        Name = "Nils Brygge",
                        SignIn = "nils.brygge",
                        Company = "no",
                        Roles = ["order_desk"],
                    },
                    arne
                )
            ).Refusal,
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Nobody touches who is above them: not by name, company, leaving, nor by a narrower right in place of a wider one")]
    public async Task Nobody_above()
    {
        var (henna, admin) = (await PersonAsync("henna.aro"), Get<PeopleAdmin>());
        Assert.Null(await admin.GiveAsync("user:liisa.vesaranta", AdminRight.To(AdminWork.People), henna));
        Assert.Null(await admin.GiveAsync("user:otto.hietakari", AdminRight.To(AdminWork.Define), henna));
        var (liisa, otto) = (await PersonAsync("liisa.vesaranta"), await PersonAsync("otto.hietakari"));
        var (asHenna, asOtto) = ((await admin.FindAsync(henna.Id))!, (await admin.FindAsync(otto.Id))!);
        foreach (
            var change in new Func<PersonInput, PersonInput>[]
            {
                one => one with { Name = "Renamed" },
                one => one with { Company = "no" },
                one => one with { Disabled = true },
                one => one with { Roles = [] },
            }
        )
        {
            Assert.Contains(
                "is an administrator, which you are not",
                (await admin.SaveAsync(henna.Id, change(asHenna), liisa)).Refusal,
                StringComparison.Ordinal
            );
            Assert.Contains(
                "may define fields beyond what you may yourself",
                (await admin.SaveAsync(otto.Id, change(asOtto), liisa)).Refusal,
                StringComparison.Ordinal
            );
        }

        Assert.Equal((asHenna.Name, asOtto.Name), ((await admin.FindAsync(henna.Id))!.Name, (await admin.FindAsync(otto.Id))!.Name));
        Assert.Null(await admin.GiveAsync("role:guest", AdminRight.To(AdminWork.Define), henna));
        Assert.Contains(
            "further than that already",
            await admin.GiveAsync("role:guest", new(AdminWork.Define, ["partner"], []), henna),
            StringComparison.Ordinal
        );
        Assert.Null(await admin.GiveAsync("user:liisa.vesaranta", new(AdminWork.Define, ["partner"], []), henna));
        Assert.NotNull(await admin.GiveAsync("role:guest", new(AdminWork.Define, ["partner"], []), await PersonAsync("liisa.vesaranta")));
        Assert.Empty((await admin.RightsAsync()).Single(row => row.Audience == "role:guest" && row.Work == AdminWork.Define).Types);
        foreach (
            var row in (await admin.RightsAsync()).Where(row =>
                row.Audience is "role:guest" or "user:liisa.vesaranta" or "user:otto.hietakari"
            )
        )
            await admin.TakeAsync(row.Id, henna);
    }

    [Fact(DisplayName = "What takes two people is not turned off by one, and a role does not go around it")]
    public async Task Two_people()
    {
        var (henna, admin, proposals) = (await PersonAsync("henna.aro"), Get<PeopleAdmin>(), Get<Data.Releases.Proposals>());
        Assert.Null(await proposals.SetTakesTwoAsync(true, henna));
        Assert.Contains("another administrator", await proposals.SetTakesTwoAsync(false, henna), StringComparison.Ordinal);
        Assert.Contains("another administrator", await proposals.SetTakesTwoAsync(false, henna), StringComparison.Ordinal);
        Assert.True(await proposals.TakesTwoAsync());
        var browser = await app.BrowserAsync("Henna Aro");
        var page = await browser.PageAsync("/setup/people");
        await browser.PostAsync(
            "/setup/people?handler=Role",
            new FormUrlEncodedContent([new("label", "Goes around"), new("__RequestVerificationToken", page.Token())])
        );
        Assert.DoesNotContain(Get<Data.Catalogues>().Live.Site.Roles, role => role.Label == "Goes around");
        Assert.Contains((await Get<Drafts>().ReadAsync()).Site.Roles, role => role.Label == "Goes around");
        await Get<Drafts>().UndoAsync(henna);
        var ritva = await PersonAsync("ritva.sorasalo");
        Assert.Null(
            (await admin.SaveAsync(ritva.Id, (await admin.FindAsync(ritva.Id))! with { Roles = ["administrator"] }, henna)).Refusal
        );
        Assert.Null(await proposals.SetTakesTwoAsync(false, await PersonAsync("ritva.sorasalo")));
        Assert.False(await proposals.TakesTwoAsync());
        Assert.Null((await admin.SaveAsync(ritva.Id, (await admin.FindAsync(ritva.Id))! with { Roles = ["purchasing"] }, henna)).Refusal);
    }

    [Fact(
        DisplayName = "On the page a person is added with a role of the site's own, invited, "
            + "changed and lets go; bad input is told at its place, and all of it is on record"
    )]
    public async Task On_the_page()
    {
        var browser = await app.BrowserAsync("Henna Aro");
        async Task<HttpResponseMessage> PostAsync(string address, params (string, string)[] values)
        {
            var page = await browser.PageAsync(address.Split('?')[0]);
            return await browser.PostAsync(
                address,
                new FormUrlEncodedContent([
                    .. values.Select(pair => KeyValuePair.Create(pair.Item1, pair.Item2)),
                    new("__RequestVerificationToken", page.Token()),
                ])
            );
        }

        Assert.Equal(HttpStatusCode.Redirect, (await PostAsync("/setup/people?handler=Role", ("label", "Quality"))).StatusCode);
        Assert.Contains(
            "There is a role called Quality already.",
            await (await PostAsync("/setup/people?handler=Role", ("label", "quality"))).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        foreach (
            var (at, value, said) in new[]
            {
                ("name", "", "1 to 120 characters"),
                ("signIn", "ä b", "letters without accents"),
                ("signIn", "Henna.Aro", "already signs in as henna.aro"),
                ("roles", "pilot", "There is no role pilot"),
            }
        )
        {
            var values = new Dictionary<string, string>
            {
                ["name"] = "Paavo Laituri",
                ["signIn"] = "paavo.laituri",
                ["company"] = "fi",
                ["roles"] = "quality",
                [at] = value,
            };
            var text = await (
                await PostAsync("/setup/people/new", [.. values.Select(pair => (pair.Key, pair.Value))])
            ).Content.ReadAsStringAsync();
            Assert.Contains(said, text, StringComparison.Ordinal);
            if (at != "name")
                Assert.Contains("Paavo Laituri", text, StringComparison.Ordinal);
        }

        var added = await PostAsync(
            "/setup/people/new",
            ("name", "Paavo  Laituri"),
            ("signIn", "Paavo.Laituri"),
            ("company", "fi"),
            ("roles", "quality"),
            ("roles", "guest")
        );
        var address = added.Headers.Location!.ToString().Split('?')[0];
        Assert.Equal(["guest", "quality"], (await PersonAsync("paavo.laituri")).Roles);
        Assert.Contains(
            "/account/welcome/",
            await (await PostAsync(address + "?handler=Invite")).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "1 person has the role Quality",
            await (await PostAsync("/setup/people?handler=Drop", ("role", "quality"))).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        var token = await app.TokenAsync("paavo.laituri", new([], false, false), TimeSpan.FromDays(1));
        Assert.NotNull(await Get<Tokens>().FindAsync(token));
        await PostAsync(address, ("name", "Paavo Laituri"), ("company", "fi"), ("disabled", "true"));
        Assert.Null(await Get<Tokens>().FindAsync(token));
        Assert.Null(await Get<People>().ViewerAsync("paavo.laituri"));
        Assert.Equal(HttpStatusCode.Redirect, (await PostAsync("/setup/people?handler=Drop", ("role", "quality"))).StatusCode);

        var said2 = (await Get<Data.Auditing.AuditReader>().FindAsync(new(Kind: AuditKinds.People), 40))
            .Select(entry => entry.Note.What)
            .ToList();
        foreach (
            var what in new[]
            {
                "Added the role Quality.",
                "Added Paavo Laituri",
                "Lets Paavo Laituri choose a password",
                "Paavo Laituri no longer works here",
            }
        )
            Assert.Contains(what, said2);
    }

    [Fact(
        DisplayName = "Publishing by two: who asks does not publish, another does, "
            + "and a draft that changes in between is not what was asked for"
    )]
    public async Task Turned_off_by_two()
    {
        var (henna, admin, proposals) = (await PersonAsync("henna.aro"), Get<PeopleAdmin>(), Get<Data.Releases.Proposals>());
        await proposals.SetTakesTwoAsync(true, henna);
        Assert.Null(await admin.GiveAsync("user:kaisa.purjeranta", new(AdminWork.Publish, ["partner"], []), henna));
        try
        {
            var (first, second) = (await app.InterfaceAsync("henna.aro"), await app.InterfaceAsync("kaisa.purjeranta"));
            var draft = await first.GetJsonAsync("setup/draft");
            draft["fields"] = JsonNode.Parse("""[{"id":"f-two","recordType":"partner","code":"two","label":"Two","kind":"integer"}]""");
            await (await first.SendJsonAsync(HttpMethod.Put, "setup/draft", draft.ToJsonString())).JsonAsync();
            for (var i = 0; i < 2; i++)
                await (await first.SendJsonAsync(HttpMethod.Post, "setup/publish", """{"comment":"Two are needed"}""")).JsonAsync(
                    HttpStatusCode.Accepted
                );
            var page = await (await app.BrowserAsync("Kaisa Purjeranta")).PageAsync("/setup/draft");
            Assert.Contains("Henna Aro asks for this to be published: Two are needed", page.Body!.TextContent, StringComparison.Ordinal);
            draft["fields"]![0]!["label"] = "Deux";
            await (await first.SendJsonAsync(HttpMethod.Put, "setup/draft", draft.ToJsonString())).JsonAsync();
            await (await second.SendJsonAsync(HttpMethod.Post, "setup/publish", """{"comment":"Mine"}""")).JsonAsync(
                HttpStatusCode.Accepted
            );
            await (await first.SendJsonAsync(HttpMethod.Post, "setup/publish", """{"comment":"-"}""")).JsonAsync();
            Assert.Contains(
                (await Get<Data.Auditing.AuditReader>().FindAsync(new(Kind: AuditKinds.Release), 5)).Select(entry => entry.Note.What),
                what => what.EndsWith("went live: Mine (asked for by Kaisa Purjeranta)", StringComparison.Ordinal)
            );

            // What she may not publish she cannot ask for either.
            draft = await first.GetJsonAsync("setup/draft");
            draft["fields"]!
                .AsArray()
                .Add(JsonNode.Parse("""{"id":"f-item","recordType":"item","code":"three","label":"Three","kind":"integer"}"""));
            await (await first.SendJsonAsync(HttpMethod.Put, "setup/draft", draft.ToJsonString())).JsonAsync();
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (await second.SendJsonAsync(HttpMethod.Post, "setup/publish", """{"comment":"Mine"}""")).StatusCode
            );
            await Get<Drafts>().UndoAsync(henna);
        }
        finally
        {
            // It takes two to turn that off.
            await proposals.SetTakesTwoAsync(false, henna);
            Assert.Null(await proposals.SetTakesTwoAsync(false, henna with { Id = Guid.NewGuid(), Name = "Another administrator" }));
        }
    }

    [Fact(
        DisplayName = "A token does what it was made for and no more: "
            + "reading or writing, some record types, until its day, or until it is ended"
    )]
    public async Task Tokens_are_limited()
    {
        HttpClient With(string token)
        {
            var client = app.CreateClient();
            client.BaseAddress = new Uri(client.BaseAddress!, "/api/v1/");
            client.DefaultRequestHeaders.Authorization = new("Bearer", token);
            return client;
        }

        var reads = With(await app.TokenAsync("henna.aro", new(["partner"], false, false), TimeSpan.FromDays(1)));
        Assert.Equal(HttpStatusCode.OK, (await reads.GetAsync("records/partner/5")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await reads.GetAsync("records/item/5")).StatusCode);
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await reads.SendJsonAsync(HttpMethod.Patch, "records/partner/5", """{"values":{"city":"Rauma"}}""")).StatusCode
        );
        Assert.Equal(HttpStatusCode.Forbidden, (await reads.GetAsync("setup/draft")).StatusCode);
        Assert.Single((await reads.GetJsonAsync("record-types"))["recordTypes"]!.AsArray());
        var writes = With(await app.TokenAsync("henna.aro", new([], true, false), TimeSpan.FromDays(1)));
        Assert.Equal(
            HttpStatusCode.OK,
            (await writes.SendJsonAsync(HttpMethod.Patch, "records/partner/5", """{"values":{"city":"Rauma"}}""")).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await writes.SendJsonAsync(HttpMethod.Post, "setup/publish", """{"comment":"x"}""")).StatusCode
        );
        var over = With(await app.TokenAsync("henna.aro", new([], true, true), TimeSpan.FromSeconds(-1)));
        Assert.Equal(HttpStatusCode.Unauthorized, (await over.GetAsync("record-types")).StatusCode);
        var henna = await PersonAsync("henna.aro");
        foreach (var row in await Get<Tokens>().OfAsync(henna.Id))
            await Get<Tokens>().RevokeAsync(henna, row.Digest, henna);
        Assert.Equal(HttpStatusCode.Unauthorized, (await writes.GetAsync("record-types")).StatusCode);
    }

    [Fact(
        DisplayName = "The audit is exported as CSV and as JSON that keeps to its schema, "
            + "and its digests can be calculated from the file alone"
    )]
    public async Task Audit_is_exported()
    {
        await app.TokenAsync("henna.aro", new([], true, true), TimeSpan.FromDays(1));
        var browser = await app.BrowserAsync("Henna Aro");
        var text = await browser.GetStringAsync("/setup/audit/export.json");
        var schema = JsonSchema.FromText(await browser.GetStringAsync("/setup/audit/schema.json"));
        Assert.True(schema.Evaluate(JsonDocument.Parse(text).RootElement).IsValid);
        var (entries, previous) = (JsonNode.Parse(text)!.AsArray(), "");
        foreach (var entry in entries)
        {
            string?[] parts =
            [
                previous,
                .. new[]
                {
                    "number",
                    "at",
                    "person",
                    "by",
                    "from",
                    "kind",
                    "subject",
                    "what",
                    "before",
                    "after",
                    "recordType",
                    "record",
                    "line",
                }.Select(name => entry![name]?.ToString()),
            ];
            var said = string.Concat(parts.Select(part => part is null ? "-," : $"{System.Text.Encoding.UTF8.GetByteCount(part)}:{part},"));
            previous = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(said)));
            Assert.Equal(entry!["hash"]!.GetValue<string>(), previous);
        }

        var csv = await browser.GetStringAsync("/setup/audit/export.csv?kind=people");
        Assert.StartsWith(
            "number,at,person,by,from,kind,subject,what,before,after,recordType,record,line,hash",
            csv,
            StringComparison.Ordinal
        );
        Assert.Contains("Made the token “For a test” of Henna Aro", csv, StringComparison.Ordinal);
        Assert.DoesNotContain("sign-in", csv, StringComparison.Ordinal);
        Assert.Contains("is not a day", (await browser.PageAsync("/setup/audit?since=soon")).Body!.TextContent, StringComparison.Ordinal);
        Assert.Contains(
            "entries, all as they were",
            (
                await (
                    await browser.PostAsync(
                        "/setup/audit?handler=Check",
                        new FormUrlEncodedContent([new("__RequestVerificationToken", (await browser.PageAsync("/setup/audit")).Token())])
                    )
                ).Content.ReadAsStringAsync()
            ),
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Every answer carries what keeps browsers safe, and cookies are out of reach of scripts")]
    public async Task Headers()
    {
        var browser = await app.BrowserAsync("Henna Aro");
        foreach (
            var address in new[]
            {
                "/records/partner",
                "/setup/audit",
                "/account/sign-in",
                "/api/v1/record-types",
                "/nowhere",
                "/css/tokens.css",
            }
        )
        {
            var answer = await browser.GetAsync(address);
            string Header(string name) => string.Join(' ', answer.Headers.TryGetValues(name, out var values) ? values : []);
            Assert.StartsWith("default-src 'self'", Header("Content-Security-Policy"), StringComparison.Ordinal);
            Assert.DoesNotContain("unsafe", Header("Content-Security-Policy"), StringComparison.Ordinal);
            Assert.Equal(
                ("nosniff", "same-origin", "same-origin"),
                (Header("X-Content-Type-Options"), Header("Cross-Origin-Opener-Policy"), Header("Referrer-Policy"))
            );
            if (address.StartsWith("/setup", StringComparison.Ordinal))
                Assert.Contains("no-store", Header("Cache-Control"), StringComparison.Ordinal);
        }

        var signIn = await app.CreateClient(new() { HandleCookies = false }).GetAsync("/account/sign-in");
        Assert.All(signIn.Headers.GetValues("Set-Cookie"), cookie => Assert.Matches("(?i)httponly", cookie));
    }
}
