using Pelto.Core.Queries;
using Pelto.Core.Updates;
using Pelto.Data.Database;
using Pelto.Data.Hosts;
using Pelto.Data.Queries;

namespace Pelto.Data.Tests;

/// <summary>The sample ERP goes from 4.2 to 4.3 and back on a database with records, while a site has added to it.</summary>
public sealed class HostUpdateTests(Site site) : IClassFixture<Site>
{
    private const string Orders = "sales_order";

    private HostVersions Hosts => site.Services.GetRequiredService<HostVersions>();

    private Task<PublishingRow> GoAsync(string version) => GoAsync(version, static definition => definition);

    private async Task<PublishingRow> GoAsync(string version, Func<SiteDefinition, SiteDefinition> with)
    {
        await site.Drafts.ChangeAsync(
            definition => HostUpdate.Make(site.Catalogues.Build(with(definition)), Hosts.Find(version)!).Site,
            version,
            Site.Administrator
        );
        return await site.Publishings.RunAsync(await site.Publisher.StartAsync(version, Site.Administrator));
    }

    private async Task<string> ReadAsync(string code, long id)
    {
        var type = site.Type(Orders);
        var field = type.Header.Find(code)!;
        return field.Kind.Format((await site.Store.FindAsync(type, id, Site.Administrator))!.Header[field.Slot]);
    }

    [Fact(
        DisplayName = "Records, added values, formulas and queries go along to the next version and back, and nothing is lost on the way"
    )]
    public async Task There_and_back()
    {
        var built = await InspectedAsync(
            new()
            {
                Id = "q-built",
                Label = "Built",
                Built = new()
                {
                    RecordType = Orders,
                    Where = "reference = :text",
                    Take = QueryTake.Count,
                },
            }
        );
        var written = await InspectedAsync(
            new()
            {
                Id = "q-sql",
                Label = "Written",
                Sql = "SELECT max(reference) AS last FROM sales_order",
            }
        );
        await site.Drafts.ChangeAsync(
            definition =>
                definition
                    .With(built)
                    .With(written)
                    .With(Site.Field("dock", "text") with { Length = 20 })
                    .With(Site.Field("delivery_window", "text") with { Length = 20, Label = "Own window" })
                    .With(Site.Field("loud", "text") with { Length = 60, Formula = "UPPER(reference) & delivery_window", Live = true })
                    .With(
                        Site.Field("count") with
                        {
                            Query = new()
                            {
                                Id = "q-built",
                                With = new Dictionary<string, string> { ["text"] = "reference" },
                                When = QueryWhen.Save,
                            },
                        }
                    )
                    .Placing(
                        "f-dock",
                        new()
                        {
                            Op = LayerOperation.Put,
                            Part = "f-dock",
                            After = "sales_order.shipping_note",
                        }
                    ),
            "Test",
            Site.Administrator
        );
        Assert.Equal(
            PublishingState.Done,
            (await site.Publishings.RunAsync(await site.Publisher.StartAsync("Before", Site.Administrator))).State
        );
        await SaveAsync(13, ("reference", "first"));
        await SaveAsync(12, ("reference", "first"), ("delivery_window", " at 7"), ("dock", "D4"), ("shipping_note", "mind the step"));
        Assert.Equal("FIRST at 7", await ReadAsync("loud", 12));
        var before = site.Catalogues.Live.Site;

        var there = await GoAsync("4.3");
        Assert.Equal((PublishingState.Done, "4.3"), (there.State, site.Catalogues.Live.Host.Version));
        Assert.Equal(
            ["first", "FIRST at 7", "D4", "1"],
            [
                await ReadAsync("customer_reference", 12),
                await ReadAsync("loud", 12),
                await ReadAsync("dock", 12),
                await ReadAsync("count", 12),
            ]
        );
        await SaveAsync(12, ("customer_reference", "second"), ("delivery_window", "weekdays 7 to 15"), ("delivery_window_own", " at 8"));
        Assert.Equal(["SECOND at 8", "0"], [await ReadAsync("loud", 12), await ReadAsync("count", 12)]);

        // A query that was written with the new name goes on after going back.
        var both = await InspectedAsync(
            new()
            {
                Id = "q-both",
                Label = "Both",
                Sql = "SELECT count(*) AS n FROM sales_order WHERE reference IS NOT DISTINCT FROM customer_reference",
            }
        );

        // A version back, and what its field held is there again; so is what the other's held, when that comes back.
        Assert.Equal(PublishingState.Done, (await GoAsync("4.2")).State);
        Assert.Equal(
            ["second", "mind the step", " at 8", "SECOND at 8"],
            [
                await ReadAsync("reference", 12),
                await ReadAsync("shipping_note", 12),
                await ReadAsync("delivery_window", 12),
                await ReadAsync("loud", 12),
            ]
        );
        Assert.True(site.Catalogues.Live.Site.IsSameAs(before with { Host = "4.2" }));
        Assert.Null((await site.Services.GetRequiredService<QueryRunner>().TryAsync(both, [], default)).Failure);
        Assert.Equal(PublishingState.Done, (await GoAsync("4.3")).State);
        Assert.Equal("weekdays 7 to 15", await ReadAsync("delivery_window", 12));

        // Queries read it by either name, and what they read is known by its lasting id.
        Assert.Equal(["sales_order.reference"], site.Catalogues.Live.Site.FindQuery("q-sql")!.Reads);
        Assert.Contains("customer_reference", site.Catalogues.Live.Site.FindQuery("q-built")!.Built!.Where, StringComparison.Ordinal);
        var trial = await site.Services.GetRequiredService<QueryRunner>().TryAsync(both, [], default);
        Assert.Equal((string?)null, trial.Failure);
        Assert.Equal(
            (await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"))!.ToString(),
            trial.Rows[0][0].Replace(" ", "", StringComparison.Ordinal)
        );
        await using var node = await site.AnotherNodeAsync();
        Assert.Equal("4.3", node.GetRequiredService<Catalogues>().Live.Host.Version);

        // A formula over what only this version has keeps from going back, with its reason, and nothing changes.
        await site.PublishAsync(Site.Field("short", "text") with { Length = 20, Formula = "LEFT(delivery_window; 8)", Live = true });
        Assert.Equal("weekdays", await ReadAsync("short", 12));
        Assert.Equal(
            "short reads Delivery window, which no longer exists. Let it read something else first.",
            Assert.Single(HostUpdate.Make(site.Catalogues.Live, Hosts.Installed).Problems).Sentence
        );
        await SaveAsync(13, ("customer_reference", "still at work"));
    }

    private async Task<QueryDefinition> InspectedAsync(QueryDefinition query)
    {
        var problems = new List<QueryProblem>();
        query = await site.Services.GetRequiredService<QueryRunner>().InspectAsync(query, site.Catalogues.Live, problems, default);
        Assert.Empty(problems);
        return query;
    }

    private async Task SaveAsync(long id, params (string Code, string Text)[] values)
    {
        var saved = await site.Saver.SaveAsync(
            site.Type(Orders),
            id,
            site.Changes(Orders, [.. values.Select(value => (value.Code, Value.From(value.Text)))]),
            Site.Administrator
        );
        Assert.Equal(SaveResult.Saved, saved.Result);
    }

    [Fact(
        DisplayName = "An update holds only what it changes; what it says wrongly is said with "
            + "its file, and does not keep the others from working"
    )]
    public void An_update_is_read_over_the_version_that_it_follows()
    {
        var next = Hosts.Find("4.3")!;
        Assert.Equal(Hosts.Installed.RecordTypes.Count, next.RecordTypes.Count);
        Assert.Equal(Hosts.Installed.Companies.Select(company => company.Code), next.Companies.Select(company => company.Code));
        Assert.Equal(["4.2", "4.3"], Hosts.All.Select(host => host.Version));

        var family = Directory.CreateTempSubdirectory("pelto-hosts").FullName;
        try
        {
            var rigging = Path.Combine(family, "rigging");
            foreach (var file in Directory.EnumerateFiles(Path.Combine(Pelto.Tests.TemplateDatabase.HostFolder, "..", ".."), "*.json"))
                File.Copy(file, Path.Combine(family, Path.GetFileName(file)));
            foreach (var file in Directory.EnumerateFiles(Pelto.Tests.TemplateDatabase.HostFolder, "*", SearchOption.AllDirectories))
            {
                var copy = Path.Combine(rigging, "4.2", Path.GetRelativePath(Pelto.Tests.TemplateDatabase.HostFolder, file));
                Directory.CreateDirectory(Path.GetDirectoryName(copy)!);
                File.Copy(file, copy);
            }

            Write("4.4", """{ "version": "4.4", "follows": "4.2", "roles": [] }""");
            Write("5.0", """{ "version": "5.0", "follows": "5.0" }""");
            var versions = new HostVersions(new(Path.Combine(rigging, "4.2")));
            Assert.Equal(["4.2"], versions.All.Select(host => host.Version));
            Assert.Equal(["4.4", "5.0"], versions.Unusable.Select(unusable => unusable.Version).Order());
            Assert.Contains("/roles", versions.Unusable.Single(unusable => unusable.Version == "4.4").Sentence, StringComparison.Ordinal);
        }
        finally
        {
            Directory.Delete(family, recursive: true);
        }

        void Write(string version, string json)
        {
            Directory.CreateDirectory(Path.Combine(family, "rigging", version));
            File.WriteAllText(Path.Combine(family, "rigging", version, "host.json"), json);
        }
    }
}
