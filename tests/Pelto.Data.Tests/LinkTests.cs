using Npgsql;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>Links as true references: tried to be broken in SQL, beside Pelto, and by deleting what they point to.</summary>
public sealed class LinkTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private Pointers Pointers => site.Services.GetRequiredService<Pointers>();

    private static FieldDefinition Link(string code, string target, string part = "header", string type = "sales_order") =>
        Site.Field(code, "link", part, type) with
        {
            Target = target,
        };

    private async Task GoLiveAsync(FieldDefinition field)
    {
        var publishing = await site.PublishAsync(field);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private async Task<RecordState> NewPartnerAsync(string name) =>
        (
            await site.Saver.SaveAsync(
                site.Type("partner"),
                null,
                site.Changes("partner", ("name", Value.From(name)), ("role", Value.From("vendor")), ("country", Value.From("FI"))),
                Site.Administrator
            )
        )
            .Outcome
            .State;

    private async Task PointAsync(string code, long order, long target) =>
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(
                    site.Type("sales_order"),
                    order,
                    site.Changes("sales_order", (code, Value.LinkTo(target))),
                    Site.Desk
                )
            ).Result
        );

    [Fact(DisplayName = "No SQL makes a link point to nothing, and none takes its target away")]
    public async Task Cannot_be_broken()
    {
        await GoLiveAsync(Link("checked_by", "partner"));
        var partner = await NewPartnerAsync("Tried and Trusted");
        await PointAsync("checked_by", 20, partner.Id!.Value);
        foreach (
            var sql in new[]
            {
                "UPDATE added.sales_order SET checked_by = 987654 WHERE id = 20",
                "INSERT INTO added.sales_order (id, checked_by) VALUES (21, 987654) "
                    + "ON CONFLICT (id) DO UPDATE SET checked_by = excluded.checked_by",
                $"DELETE FROM erp.partner WHERE id = {partner.Id}",
                $"UPDATE erp.partner SET id = 987655 WHERE id = {partner.Id}",
                "TRUNCATE erp.partner",
            }
        )
        {
            var refused = await Assert.ThrowsAsync<PostgresException>(() => site.ScalarAsync(sql));
            Assert.Contains(refused.SqlState, new[] { PostgresErrorCodes.ForeignKeyViolation, PostgresErrorCodes.FeatureNotSupported });
        }

        Assert.Equal(
            true,
            await site.ScalarAsync("SELECT bool_and(convalidated) FROM pg_constraint WHERE conname LIKE 'checked_by_link%'")
        );
        var saving = await site.Saver.SaveAsync(
            site.Type("sales_order"),
            22,
            site.Changes("sales_order", ("checked_by", Value.LinkTo(987654))),
            Site.Desk
        );
        Assert.Equal("checked_by points to a record that does not exist.", saving.Outcome.Messages.Single().Sentence);
    }

    [Fact(
        DisplayName = "A target stays while something points to it, also a field that is retired; "
            + "the refusal counts what does, by field, as far as the viewer may see it"
    )]
    public async Task Targets_stay()
    {
        var partner = (await NewPartnerAsync("Held Fast")).Id!.Value;
        await GoLiveAsync(Link("body", "partner"));
        await GoLiveAsync(Link("maker", "partner", "lines"));
        foreach (var order in new[] { 30L, 31 })
            await PointAsync("body", order, partner);
        await site.ScalarAsync(
            "INSERT INTO added.sales_order_lines (id, maker) "
                + $"SELECT id, {partner} FROM erp.sales_order_lines WHERE parent = 32 "
                + "ON CONFLICT (id) DO UPDATE SET maker = excluded.maker"
        );

        var refused = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), partner, Site.Desk);
        Assert.Equal(
            "P-0413 stays: 2 sales orders (body) and 1 sales order (maker) still point to it.".Replace(
                "P-0413",
                await NumberAsync(partner),
                StringComparison.Ordinal
            ),
            refused.Refusal
        );
        var pointing = await Pointers.ReadAsync(site.Catalogues.Live, site.Type("partner"), partner, Site.Desk);
        Assert.Equal([("body", 2L), ("maker", 1L)], pointing.Select(one => (one.Field.Code, one.Count)));

        await site.Drafts.ChangeAsync(
            draft => draft.With(draft.Find("f-body")! with { Retired = true }).With(draft.Find("f-maker")! with { Retired = true }),
            "Test",
            Site.Administrator
        );
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("Not used", Site.Administrator));

        // Which field is out of use is told to those who define fields.
        refused = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), partner, Site.Desk);
        Assert.Contains("records that you may not see still point", refused.Refusal, StringComparison.Ordinal);
        refused = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), partner, Site.Administrator);
        Assert.Contains("the retired field", refused.Refusal, StringComparison.Ordinal);
    }

    [Fact(
        DisplayName = "Where the administrator said so, links become empty with their target, "
            + "and come back with it unless somebody filled them since"
    )]
    public async Task Links_clear_and_come_back()
    {
        await GoLiveAsync(Link("carrier_agent", "partner") with { ClearsWithTarget = true });
        var partner = (await NewPartnerAsync("Here Today")).Id!.Value;
        foreach (var order in new[] { 40L, 41 })
            await PointAsync("carrier_agent", order, partner);

        var deletion = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), partner, Site.Desk);
        Assert.Equal(SaveResult.Saved, deletion.Result);
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(carrier_agent) FROM added.sales_order"));

        await PointAsync("carrier_agent", 41, 5);
        Assert.Equal(partner, await site.Deleter.RestoreAsync(site.Catalogues.Live, site.Type("partner"), deletion.Undo!.Value, Site.Desk));
        Assert.Equal(
            $"40:{partner} 41:5",
            await site.ScalarAsync(
                "SELECT string_agg(id || ':' || carrier_agent, ' ' ORDER BY id) FROM added.sales_order WHERE carrier_agent IS NOT NULL"
            )
        );

        // What keeps a link is known by what it does, whatever it is called.
        await site.ScalarAsync(
            "DO $$ BEGIN EXECUTE (SELECT format('ALTER TABLE %s RENAME CONSTRAINT %I TO as_it_was', conrelid::regclass, "
                + "conname) FROM pg_constraint WHERE conname LIKE 'carrier\\_agent\\_link\\_%'); END $$"
        );
        await GoLiveAsync(site.Catalogues.Live.Site.Find("f-carrier_agent")! with { Help = "Theirs." });
        const string Constraints =
            "SELECT string_agg(conname, ' ') FROM pg_constraint WHERE contype = 'f' "
            + "AND (conname = 'as_it_was' OR conname LIKE 'carrier\\_agent\\_link\\_%')";
        Assert.Equal("as_it_was", await site.ScalarAsync(Constraints));

        // And any time later the other way about.
        await GoLiveAsync(site.Catalogues.Live.Site.Find("f-carrier_agent")! with { ClearsWithTarget = false });
        Assert.DoesNotContain("as_it_was", (string)(await site.ScalarAsync(Constraints))!, StringComparison.Ordinal);
        Assert.Equal(
            SaveResult.Refused,
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), partner, Site.Desk)).Result
        );
        Assert.Equal(1L, await site.ScalarAsync("SELECT count(*) FROM pg_constraint WHERE conname LIKE 'carrier_agent_link%'"));
    }

    [Fact(
        DisplayName = "Lists find what points to a record, by a field of the header "
            + "or of any line; who may not see the target may not look for it"
    )]
    public async Task Lists_follow_links()
    {
        await GoLiveAsync(Link("made_of", "item", "lines"));
        await site.ScalarAsync(
            "INSERT INTO added.sales_order_lines (id, made_of) SELECT id, 7 FROM erp.sales_order_lines "
                + "WHERE parent IN (50, 51) ON CONFLICT (id) DO UPDATE SET made_of = 7"
        );
        var type = site.Type("sales_order");
        Assert.Equal([50L, 51L], (await FindAsync("lines.made_of~is~7")).Order());
        Assert.Equal(
            await site.ScalarAsync("SELECT count(DISTINCT parent) FROM erp.sales_order_lines WHERE item = 19"),
            (long)(await FindAsync("lines.item~is~19")).Count
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT count(DISTINCT parent) FROM erp.sales_order_lines WHERE quantity >= 20"),
            (long)(await FindAsync("lines.quantity~from~20")).Count
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT count(DISTINCT parent) FROM erp.sales_order_lines WHERE item IS NULL"),
            (long)(await FindAsync("lines.item~empty")).Count
        );
        Assert.NotNull(Filter.Parse(type, "lines.item~contains~shackle").Refusal);

        async Task<IReadOnlyList<long>> FindAsync(string filter)
        {
            var page = await site.Lists.ReadAsync(
                new(type, [], RecordLists.LargestPage) { Filters = [Filter.Parse(type, filter).Filter!] },
                Site.Desk
            );
            return [.. page.Rows.Select(row => row.Id)];
        }
    }

    private async Task<string> NumberAsync(long partner) =>
        (string)(await site.ScalarAsync($"SELECT number FROM erp.partner WHERE id = {partner}"))!;
}
