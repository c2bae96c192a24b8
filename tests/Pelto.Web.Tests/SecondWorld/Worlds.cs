using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net.Http.Json;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Data.Definitions;
using Pelto.Data.Rights;

namespace Pelto.Web.Tests.SecondWorld;

/// <summary>Somebody who is asked as, in both worlds.</summary>
/// <param name="Name">As picked.</param>
/// <param name="Role">The role that they have.</param>
/// <param name="Works">The work on Pelto itself that they may do.</param>
public sealed record Asker(string Name, string Role, params string[] Works)
{
    /// <summary>The one record type that the work is limited to; null for none.</summary>
    public string? At { get; init; }

    /// <summary>True for whoever may not even know of the fields, lists and queries that are called "hush".</summary>
    public bool IsStranger => At is not null || Works.All(work => work is Core.Access.AdminWork.ArrangeOwn or Core.Access.AdminWork.People);
}

/// <summary>
/// Two installations with the same definitions, people and records. They differ only in values that nobody of <see cref="People"/> may
/// know.
/// </summary>
public sealed class Worlds : IAsyncDisposable
{
    /// <summary>Somebody who is not signed in, and knows of a public form.</summary>
    public static Asker Outside { get; } = new("Nobody", "");

    /// <summary>Where the public form is.</summary>
    public const string Form = "/form/claims-of-two-worlds";

    /// <summary>Each role, each right to work alone, and somebody who may do all work but sees no more for that.</summary>
    public static IReadOnlyList<Asker> People { get; } =
    [
        new("Eero Lahdenmaa", "order_desk"),
        new("Otto Hietakari", "purchasing"),
        new("Ville Mastola", "warehouse"),
        new("Vieno Kallioaho", "guest"),
        new("Liisa Vesaranta", "sales_manager"),
        new("Henna Purjeranta", "accounting"),
        .. AdminWork.All.Select(work => new Asker($"{char.ToUpperInvariant(work.Code[0])}{work.Code[1..]} alone", "order_desk", work.Code)),
        new("Every Work", "order_desk", [.. AdminWork.InDraft]),
        new("More Work", "purchasing", [.. AdminWork.InDraft]),
        .. AdminWork.InDraft.Select(work => new Asker($"{char.ToUpperInvariant(work[0])}{work[1..]} orders", "order_desk", work)
        {
            At = "sales_order",
        }),
        Outside,
        new("Every Orders", "order_desk", [.. AdminWork.InDraft]) { At = "sales_order" },
        new("Two Orders", "purchasing", AdminWork.Define, AdminWork.Grant) { At = "sales_order" },
    ];

    // A guard on fields, built in and added; what is calculated from them, live and stored; what is seen through a link; records withheld
    // whole; and conditions that ask of all that.
    private static readonly string[] Fields =
    [
        """{"id":"f-inner","recordType":"partner","code":"inner_note","label":"Inner note","kind":"text","length":40}""",
        """{"id":"f-twice","recordType":"partner","code":"next_limit","label":"Next limit","kind":"decimal","digits":15,"decimals":2,"formula":"credit_limit + 1","live":true}""",
        """{"id":"f-told","recordType":"partner","code":"told","label":"Told","kind":"text","length":80,"formula":"note & inner_note"}""",
        """{"id":"f-through","recordType":"sales_order","code":"their_note","label":"Their note","kind":"seen","path":"customer.note"}""",
        """{"id":"f-limit","recordType":"sales_order","code":"their_limit","label":"Their limit","kind":"decimal","digits":15,"decimals":2,"formula":"customer.credit_limit","live":true}""",
        """{"id":"f-brought","recordType":"sales_order","code":"brought","label":"Brought","kind":"text","length":40,"formula":"customer.inner_note","fills":"chosen"}""",
        """{"id":"f-margin","recordType":"sales_order","part":"lines","code":"margin","label":"Margin","kind":"decimal","digits":15,"decimals":2,"formula":"price - item.cost","live":true}""",
        """{"id":"f-other","recordType":"sales_order","code":"other","label":"Bill to","kind":"link","target":"partner"}""",
        """{"id":"f-fit","recordType":"sales_order","code":"fitting","label":"Guarantor","kind":"link","target":"partner","offers":"credit_limit > 20000"}""",
        """{"id":"f-wanted","recordType":"sales_order","code":"wanted","label":"Wanted","kind":"decimal","digits":12,"decimals":2,"check":"wanted <= customer.credit_limit","checkMessage":"More than the limit."}""",
        """{"id":"f-reason","recordType":"sales_order","code":"why_so","label":"Why so","kind":"text","length":40,"requiredWhen":"customer.credit_limit > 20000"}""",
        """{"id":"f-when","recordType":"sales_order","code":"only_when","label":"Only when","kind":"text","length":40,"shownWhen":"customer.credit_limit > 20000"}""",
        """{"id":"f-said","recordType":"partner","code":"said","label":"Said","kind":"text","length":40,"requiredWhen":"hush_note = \"never\"","check":"OR(ISBLANK(hush_note); said <> hush_note)","checkMessage":"Not so."}""",
        """{"id":"f-c1","recordType":"claim","code":"customer","label":"Customer","kind":"link","target":"partner"}""",
        """{"id":"f-c2","recordType":"claim","code":"good","label":"Good customer","kind":"link","target":"partner","offers":"credit_limit > 20000"}""",
        """{"id":"f-c3","recordType":"claim","code":"item","label":"Item","kind":"link","target":"item"}""",
        """{"id":"f-c4","recordType":"claim","code":"worth","label":"Worth","kind":"decimal","digits":12,"decimals":2,"check":"worth <= customer.credit_limit","checkMessage":"More than the limit."}""",
        """{"id":"f-c5","recordType":"claim","code":"because","label":"Because","kind":"text","length":40,"requiredWhen":"customer.credit_limit > 20000","shownWhen":"customer.inner_note <> \"x\""}""",
        """{"id":"f-c6","recordType":"claim","code":"theirs","label":"Theirs","kind":"text","length":40,"formula":"customer.inner_note","fills":"chosen"}""",
        """{"id":"f-turnover","recordType":"partner","code":"turnover","label":"Turnover","kind":"decimal","digits":15,"decimals":2,"formula":"SUM(sales_order.customer.gross_total)","live":true}""",
        """{"id":"f-orders","recordType":"partner","code":"orders","label":"Orders","kind":"integer","formula":"COUNT(sales_order.customer.net_total)"}""",
        """{"id":"f-line","recordType":"sales_order","part":"lines","code":"remark","label":"Remark","kind":"text","length":40}""",
        """{"id":"f-lines","recordType":"sales_order","code":"remarks","label":"Remarks","kind":"integer","formula":"SUM(LEN(lines.remark))"}""",
        """{"id":"f-hush","recordType":"partner","code":"hush_note","label":"Hush note","kind":"text","length":40}""",
        """{"id":"f-hushed","recordType":"partner","code":"hush_of_hush","label":"Hush of hush","kind":"text","length":60,"formula":"hush_note"}""",
        """{"id":"f-hushing","recordType":"partner","code":"hushing","label":"Hush by choice","kind":"choice","choiceList":"l-hush"}""",
    ];

    // One of each kind, guarded, with what stands in it in one world and in the other.
    private static readonly (string Kind, string More, string One, string Other)[] Kinds =
    [
        ("long_text", "", "one", "another"),
        ("formatted_text", "", "<p>One</p>", "<p>Other <b>one</b></p>"),
        ("integer", "", "7", "7000"),
        ("money", ",\"currencies\":[\"EUR\",\"NOK\"]", "10.50 EUR", "9 NOK"),
        ("percent", "", "12.5 %", "-3 %"),
        ("quantity", ",\"units\":[\"KGM\",\"TNE\"]", "900 kg", "1 t"),
        ("date", "", "2026-11-25", "1999-12-31"),
        ("time", "", "14:30", "23:59"),
        ("date_time", "", "2026-11-25 14:30", "2030-01-01 00:00"),
        ("duration", "", "1 h", "20 min"),
        ("yes_no", "", "yes", "no"),
        ("choice", ",\"choices\":[{\"code\":\"red\",\"label\":\"Red\"},{\"code\":\"blue\",\"label\":\"Blue\"}]", "red", "blue"),
        ("choices", ",\"choices\":[{\"code\":\"red\",\"label\":\"Red\"},{\"code\":\"blue\",\"label\":\"Blue\"}]", "red", "red;blue"),
        ("web_address", "", "https://example.org/a", "https://example.net"),
        ("email", "", "a@example.org", "another@example.com"),
        ("phone", "", "+358 41 2345678", "+47 22 12 34 56"),
        ("identifier", ",\"scheme\":\"iban\"", "FI21 1234 5600 0007 85", "NO93 8601 1117 947"),
        ("secret", "", "sesame", "open"),
        ("link", ",\"target\":\"employee\"", "1", "2"),
        ("links", ",\"target\":\"item\"", "[1]", "[1, 2]"),
        ("file", "", "small", "rather larger"),
    ];

    /// <summary>The codes of the guarded fields of each kind.</summary>
    public static IReadOnlyList<string> CodesOfKinds { get; } = [.. Kinds.Select(kind => "g_" + kind.Kind)];

    // What people outside send in. Of partners, those of Finland are released.
    private const string Claim = """
        [{"id":"t-claim","code":"claim","label":"Claim","plural":"Claims","numbering":{"prefix":"C-"},"read":["*"],"write":["order_desk","sales_manager"],"publicForm":{"address":"claims-of-two-worlds","title":"Claims",
          "fields":[{"field":"name"},{"field":"customer","released":"country = \"FI\""},{"field":"good","released":"country = \"FI\""},{"field":"item","released":"RIGHT(number; 1) <> \"7\""},{"field":"worth"},{"field":"because"}]}}]
        """;

    private const string Layers = """
        [{"id":"site","label":"Site","operations":[{"op":"put","part":"f-inner","after":"partner.name"},{"op":"put","part":"f-twice","after":"f-inner"},{"op":"put","part":"f-told","after":"f-twice"},
        {"op":"put","part":"f-said","after":"f-told"},{"op":"put","part":"f-through","after":"sales_order.reference"},{"op":"put","part":"f-limit","after":"f-through"},{"op":"put","part":"f-brought","after":"f-limit"},
        {"op":"put","part":"f-margin","after":"sales_order.lines.price"},{"op":"put","part":"f-line","after":"f-margin"},{"op":"put","part":"f-lines","after":"sales_order.reference"},{"op":"put","part":"f-turnover","after":"partner.vat_number"},{"op":"put","part":"f-orders","after":"partner.vat_number"},{"op":"put","part":"f-other","after":"f-brought"},{"op":"put","part":"f-fit","after":"f-other"},{"op":"put","part":"f-wanted","after":"f-fit"},
        {"op":"put","part":"f-reason","after":"f-wanted"},{"op":"put","part":"f-when","after":"f-reason"},{"op":"put","part":"list:partner.note","after":"list:partner.name"},{"op":"put","part":"list:f-inner","after":"list:partner.name"},
        {"op":"put","part":"f-hush","after":"f-said"},{"op":"put","part":"f-hushed","after":"f-hush"},{"op":"put","part":"f-hushing","after":"f-hushed"},{"op":"put","part":"list:f-hush","after":"list:partner.name"},
        {"op":"move","part":"partner.street","after":"f-hush"},{"op":"hide","part":"partner.email","when":"hush_note = \"never\""},{"op":"sort","part":"list:f-hush"}]},
         {"id":"l-admin","label":"Administrators","comment":"For a test","audience":"role:administrator","operations":[{"op":"relabel","part":"partner.name","label":"Hush name"}]}]
        """;

    private const string Guards =
        """[{"on":"partner.note"},{"on":"partner.credit_limit"},{"on":"f-inner"},{"on":"item.cost"},{"on":"f-hush","comment":"Hush"},{"on":"f-hushing"},{"on":"f-line"}]""";

    // Withheld: partners of Norway, and items whose number ends with 7. Masked for one role; by the record, where it never holds, for
    // another.
    private const string Grants = """
        [{"id":"g-1","to":["role:accounting"],"on":["partner.credit_limit","f-inner"],"level":"masked"},
         {"id":"g-2","to":["role:purchasing"],"on":["partner.credit_limit","f-inner"],"level":"read","when":"AND(country = \"SE\"; number = \"none\")"},
         {"id":"g-3","does":"withhold","to":["role:order_desk","role:purchasing","role:warehouse","role:guest","role:sales_manager","role:accounting"],"on":["type:partner"],"may":["read"],"when":"country = \"NO\""},
         {"id":"g-4","does":"withhold","to":["role:order_desk","role:purchasing","role:warehouse","role:guest","role:sales_manager","role:accounting"],"on":["type:item"],"may":["read"],"when":"RIGHT(number; 1) = \"7\""},
         {"id":"g-6","does":"withhold","to":["role:order_desk","role:purchasing","role:warehouse","role:guest","role:sales_manager","role:accounting"],"on":["type:sales_order"],"may":["read"],"when":"RIGHT(number; 1) = \"3\""},
         {"id":"g-5","does":"open","to":["role:order_desk"],"on":["f-margin"],"level":"read","when":"salesperson.email = \"nobody\"","comment":"For a test"}]
        """;

    // What the second world has otherwise. The stored values that were calculated of guarded ones differ with them.
    private const string Otherwise = """
        UPDATE erp.partner SET credit_limit = coalesce(credit_limit, 0) * 3 + 17000, note = 'otherwise ' || id;
        UPDATE erp.partner SET name = 'Otherwise ' || id, city = 'Otherwhere', street = 'Else 1', email = 'other' || id || '@example.com', phone = null, vat_number = null, payment_terms = CASE payment_terms WHEN 'n30' THEN 'n14' ELSE 'n30' END,
          currency = CASE currency WHEN 'EUR' THEN 'SEK' ELSE 'EUR' END, active = NOT active WHERE country = 'NO';
        UPDATE erp.partner_addresses SET city = 'Otherwhere', name = 'Otherwise' WHERE parent IN (SELECT id FROM erp.partner WHERE country = 'NO');
        UPDATE erp.partner_contacts SET name = 'Otherwise' WHERE parent IN (SELECT id FROM erp.partner WHERE country = 'NO');
        UPDATE erp.item SET cost = coalesce(cost, 0) * 2 + 5;
        UPDATE erp.item SET name = 'Otherwise ' || id, price = coalesce(price, 0) + 100, weight = 77, breaking_load = 99, certificate = NOT certificate WHERE number LIKE '%7';
        UPDATE added.partner SET inner_note = 'otherwise ' || id, told = 'otherwise otherwise ' || id;
        UPDATE erp.sales_order SET reference = 'otherwise', net_total = net_total + 100, gross_total = gross_total + 125, customer = 3, status = 'open', unloading_place = 'Otherwhere' WHERE number LIKE '%3';
        UPDATE erp.sales_order_lines SET quantity = quantity + 1, price = price + 1, description = 'Otherwise' WHERE parent IN (SELECT id FROM erp.sales_order WHERE number LIKE '%3');
        UPDATE added.sales_order_lines SET remark = 'quite otherwise';
        UPDATE added.sales_order SET remarks = remarks * 2 + 1;
        UPDATE added.partner SET orders = coalesce(orders, 0) + 3;
        UPDATE added.sales_order SET brought = 'otherwise ' || id;
        """;

    // What both begin with, before they part.
    private const string Alike = """
        UPDATE erp.partner SET note = 'note of ' || id;
        INSERT INTO added.partner (id, inner_note, told, said) SELECT id, 'inner ' || id, 'note of ' || id || 'inner ' || id, 'said ' || id FROM erp.partner
          ON CONFLICT (id) DO UPDATE SET inner_note = excluded.inner_note, told = excluded.told, said = excluded.said;
        INSERT INTO added.sales_order_lines (id, remark) SELECT id, 'remark' FROM erp.sales_order_lines;
        INSERT INTO added.sales_order (id, brought, other, wanted) SELECT id, 'inner ' || customer, customer, 10 FROM erp.sales_order
          ON CONFLICT (id) DO UPDATE SET brought = excluded.brought, other = excluded.other, wanted = excluded.wanted;
        """;

    public App One { get; } = new();

    public App Two { get; } = new();

    /// <summary>What is live in both when a sequence begins.</summary>
    public JsonObject Definition { get; private set; } = [];

    /// <summary>Ids of partners and items that are withheld, and of some that are not.</summary>
    public IReadOnlyDictionary<string, long[]> Ids { get; private set; } = new Dictionary<string, long[]>();

    public async Task InitializeAsync()
    {
        foreach (var world in new[] { One, Two })
        {
            await world.InitializeAsync();
            var administrator = await world.InterfaceAsync("administrator");
            var draft = await administrator.GetJsonAsync("setup/draft");
            foreach (var field in Fields)
                draft["fields"]!.AsArray().Add(JsonNode.Parse(field));
            foreach (var (kind, more, _, _) in Kinds)
                draft["fields"]!
                    .AsArray()
                    .Add(
                        JsonNode.Parse(
                            $$"""{"id":"f-g_{{kind}}","recordType":"partner","code":"g_{{kind}}","label":"Kept {{kind}}","kind":"{{kind}}"{{more}}}"""
                        )
                    );
            draft["layers"] = JsonNode.Parse(Layers);
            foreach (var code in CodesOfKinds)
                draft["layers"]![0]!["operations"]!
                    .AsArray()
                    .Add(JsonNode.Parse($$"""{"op":"put","part":"f-{{code}}","after":"partner.vat_number"}"""));
            draft["recordTypes"] = JsonNode.Parse(Claim);
            draft["choiceLists"] = JsonNode.Parse(
                """[{"id":"l-hush","label":"Hush list","choices":[{"code":"hush","label":"Hush choice"}]}]"""
            );
            await PublishAsync(administrator, draft);
            await world.JobsAreDoneAsync();
            await ExecuteAsync(world, Alike);
            draft = await administrator.GetJsonAsync("setup/draft");
            (draft["guards"], draft["grants"]) = (JsonNode.Parse(Guards), JsonNode.Parse(Grants));
            foreach (var code in CodesOfKinds)
                draft["guards"]!.AsArray().Add(JsonNode.Parse($$"""{"on":"f-{{code}}"}"""));
            draft["queries"] = JsonNode.Parse("""[{"id":"q-hush","label":"Hush query","sql":"SELECT hush_note FROM partner"}]""");
            await PublishAsync(administrator, draft);
            Definition = await administrator.GetJsonAsync("setup/draft");
            var (admin, viewer) = (
                world.Services.GetRequiredService<PeopleAdmin>(),
                (await world.Services.GetRequiredService<People>().ViewerAsync("administrator"))!
            );
            foreach (var asker in People.Where(asker => asker.Works.Length > 0))
            {
                var signIn = asker.Name.ToLowerInvariant().Replace(' ', '.');
                Assert.Null(
                    (
                        await admin.SaveAsync(
                            null,
                            new()
                            {
                                Name = asker.Name,
                                SignIn = signIn,
                                Company = "fi",
                                Roles = [asker.Role],
                            },
                            viewer
                        )
                    ).Refusal
                );
                foreach (var work in asker.Works)
                    Assert.Null(
                        await admin.GiveAsync(
                            "user:" + signIn,
                            new(work, asker.At is { } at && AdminWork.HasTypes(work) ? [at] : [], []),
                            viewer
                        )
                    );
            }
        }

        await FillAsync(One, kind => kind.One);
        await FillAsync(Two, kind => kind.Other);
        await ExecuteAsync(Two, Otherwise);
        Ids = new Dictionary<string, long[]>
        {
            ["partner"] = await IdsAsync(
                "SELECT id FROM (SELECT id, row_number() OVER (PARTITION BY country ORDER BY id) n "
                    + "FROM erp.partner) x WHERE n <= 2 UNION SELECT id FROM erp.partner WHERE id <= 6"
            ),
            ["item"] = await IdsAsync("SELECT id FROM erp.item WHERE id <= 20"),
            ["sales_order"] = await IdsAsync(
                "(SELECT max(o.id) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer GROUP BY p.country, o.status LIMIT 12)"
            ),
            ["delivery"] = await IdsAsync("SELECT max(id) FROM erp.delivery GROUP BY status"),
        };
    }

    public async ValueTask DisposeAsync()
    {
        await One.DisposeAsync();
        await Two.DisposeAsync();
    }

    private readonly ConcurrentDictionary<App, string> states = [];

    /// <summary>Puts the definitions of both back to what they were, where they are not.</summary>
    public async Task ResetAsync()
    {
        await Task.WhenAll(
            new[] { One, Two }.Select(world =>
                Task.Run(async () =>
                {
                    await EndedAsync(world);
                    if (states.GetValueOrDefault(world) == await StateAsync(world))
                        return;
                    var administrator = await world.InterfaceAsync("administrator");
                    await (await administrator.PutAsJsonAsync("setup/draft", Definition)).JsonAsync();
                    await administrator.PostAsJsonAsync("setup/publish", new { comment = "As it was" });
                    states[world] = await StateAsync(world);
                })
            )
        );
    }

    // What somebody published by the page goes on in the background: it would end in one world sooner than in the other.
    private static async Task EndedAsync(App world)
    {
        var contexts = world.Services.GetRequiredService<IDbContextFactory<PeltoContext>>();
        await using var context = await contexts.CreateDbContextAsync();
        for (var began = Stopwatch.GetTimestamp(); Stopwatch.GetElapsedTime(began) < Longest; await Task.Delay(20))
            if (
                !await context.Publishings.AnyAsync(row => row.State == PublishingState.Preparing || row.State == PublishingState.Finishing)
            )
                return;
        throw new TimeoutException("A publishing did not end.");
    }

    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(60);

    // Which definitions are live and drafted, and whether anything was begun that has not ended yet.
    private static async Task<string> StateAsync(App world)
    {
        await using var command = world
            .Services.GetRequiredService<OwnerDatabase>()
            .Source.CreateCommand(
                """
                SELECT concat(
                  (SELECT concat(max(version), md5(string_agg(definition::text, ''))) FROM pelto.draft),
                  (SELECT max(number) FROM pelto.release),
                  (SELECT count(*) FROM pelto.publishing))
                """
            );
        return (string)(await command.ExecuteScalarAsync())!;
    }

    /// <summary>Lets people outside send in as many entries as they could from somewhere else.</summary>
    public async Task ForgetSendersAsync()
    {
        foreach (var world in new[] { One, Two })
            await ExecuteAsync(world, "UPDATE pelto.entry SET network = 'elsewhere'");
    }

    public static async Task ExecuteAsync(App world, string sql)
    {
        await using var command = world.Services.GetRequiredService<OwnerDatabase>().Source.CreateCommand(sql);
        await command.ExecuteNonQueryAsync();
    }

    // Of some partners, what is kept in fields of each kind; one of them has nothing there in one world.
    private static async Task FillAsync(App world, Func<(string Kind, string More, string One, string Other), string> which)
    {
        var administrator = await world.InterfaceAsync("administrator");
        foreach (var id in new[] { 1, 2, 3, 4, 9 })
        {
            var values = new JsonObject();
            foreach (var kind in Kinds)
            {
                if (id == 4 && which(kind) == kind.One)
                    continue;
                values["g_" + kind.Kind] =
                    kind.Kind is "link" or "links" ? JsonNode.Parse(which(kind))
                    : kind.Kind != "file" ? which(kind)
                    : await BringAsync(administrator, which(kind));
            }

            await (await administrator.PatchAsJsonAsync($"records/partner/{id}", new JsonObject { ["values"] = values })).JsonAsync();
        }
    }

    private static async Task<JsonObject> BringAsync(HttpClient administrator, string content)
    {
        var file = await (
            await administrator.PostAsync($"files?name={Uri.EscapeDataString(content)}.txt&field=f-g_file", new StringContent(content))
        ).JsonAsync(HttpStatusCode.Created);
        return new() { ["id"] = file["id"]!.DeepClone(), ["name"] = content + ".txt" };
    }

    private static async Task PublishAsync(HttpClient administrator, JsonObject draft)
    {
        await (await administrator.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await administrator.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
    }

    private async Task<long[]> IdsAsync(string sql)
    {
        await using var command = One.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand(sql);
        await using var reader = await command.ExecuteReaderAsync();
        var ids = new List<long>();
        while (await reader.ReadAsync())
            ids.Add(reader.GetInt64(0));
        return [.. ids.Order()];
    }
}
