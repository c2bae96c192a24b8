using Npgsql;
using Pelto.Core.Records;
using Pelto.Data.Jobs;

namespace Pelto.Data.Tests;

/// <summary>A field that points to several records, in order.</summary>
public sealed class SeveralLinksTests(NarrowSite site) : IClassFixture<NarrowSite>, IAsyncLifetime
{
    private const string Table = "linked.sales_order__riggers";

    public async ValueTask InitializeAsync()
    {
        if (site.Type("sales_order").Header.Find("riggers") is not null)
            return;
        await PublishAsync(draft =>
            draft
                .With(Site.Field("riggers", "links") with { Target = "employee" })
                .With(
                    Site.Field("copies_to", "links") with
                    {
                        Target = "partner",
                        ClearsWithTarget = true,
                        Offers = "country = record.customer.country",
                    }
                )
                .With(Site.Field("made_for", "links", "lines") with { Target = "project" })
        );
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private async Task PublishAsync(Func<SiteDefinition, SiteDefinition> change)
    {
        await site.Drafts.ChangeAsync(change, "Test", Site.Administrator);
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private async Task<Saving> SaveAsync(long id, string code, params long[] targets) =>
        await site.Saver.SaveAsync(site.Type("sales_order"), id, site.Changes("sales_order", (code, Value.LinksTo(targets))), Site.Desk);

    private async Task<IReadOnlyList<long>> OnFileAsync(long id, string code) =>
        (await site.Store.FindAsync(site.Type("sales_order"), id, Site.Desk))!
            .Header[site.Type("sales_order").Header.Find(code)!.Slot]
            .Targets;

    private async Task<string> KeptAsync(long id, string table = Table) =>
        (string)
            (
                await site.ScalarAsync(
                    $"SELECT coalesce(string_agg(target::text, ' ' ORDER BY position), '') FROM {table} WHERE owner = {id}"
                )
            )!;

    private async Task<string> RefusedAsync(string sql) =>
        (await Assert.ThrowsAsync<PostgresException>(() => site.ScalarAsync(sql))).SqlState;

    [Fact(
        DisplayName = "Several are saved in their order, changed, moved and emptied; "
            + "each change is another version, and two people's are shown to each other"
    )]
    public async Task Order_is_kept()
    {
        foreach (var wanted in new long[][] { [3, 1, 2], [2, 3, 1], [2, 5], [], [7] })
        {
            Assert.Equal(SaveResult.Saved, (await SaveAsync(20, "riggers", wanted)).Result);
            Assert.Equal(wanted, await OnFileAsync(20, "riggers"));
            Assert.Equal(string.Join(' ', wanted), await KeptAsync(20));
        }

        var type = site.Type("sales_order");
        var opened = (await site.Store.FindAsync(type, 20, Site.Desk))!;
        await SaveAsync(20, "riggers", 8, 9);
        Assert.NotEqual(opened.Version, (await site.Store.FindAsync(type, 20, Site.Desk))!.Version);
        var mine = new RecordChanges { Opened = opened };
        mine.Header[type.Header.Find("riggers")!] = Value.LinksTo([7, 4]);
        var clash = Assert.Single((await site.Saver.SaveAsync(type, 20, mine, Site.Administrator)).Outcome.Clashes);
        Assert.Equal([8, 9], clash.Theirs.Targets);
    }

    [Fact(DisplayName = "The database holds what is pointed to, whoever writes: directly in SQL neither a stray nor a hole can be made")]
    public async Task Held_in_the_database()
    {
        await SaveAsync(21, "riggers", 4, 5);
        Assert.Equal(
            PostgresErrorCodes.ForeignKeyViolation,
            await RefusedAsync("UPDATE added.sales_order SET riggers = ARRAY[4, 99999] WHERE id = 21")
        );
        Assert.Equal(
            PostgresErrorCodes.ForeignKeyViolation,
            await RefusedAsync($"INSERT INTO {Table} (owner, position, target) VALUES (21, 9, 99999)")
        );
        Assert.Equal(PostgresErrorCodes.ForeignKeyViolation, await RefusedAsync("DELETE FROM erp.employee WHERE id = 4"));
        Assert.Equal("4 5", await KeptAsync(21));
        await site.ScalarAsync("UPDATE added.sales_order SET riggers = ARRAY[5, 6, 5] WHERE id = 21");
        Assert.Equal("5 6", await KeptAsync(21));
        Assert.Equal(
            "riggers points to a record that does not exist.",
            (await SaveAsync(21, "riggers", 5, 99_999)).Outcome.Messages.Single().Sentence
        );
        Assert.Contains(
            "1 sales order (riggers)",
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("employee"), 6, Site.Administrator)).Refusal,
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Where a target may go, it leaves the others in their order; brought back, it stands where it stood")]
    public async Task Targets_go_and_come_back()
    {
        var type = site.Type("partner");
        var order = (long)
            (
                await site.ScalarAsync(
                    "SELECT min(o.id) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer WHERE p.country = 'FI'"
                )
            )!;
        var made = new List<long>();
        foreach (var name in new[] { "One", "Two", "Three" })
            made.Add(
                (
                    await site.Saver.SaveAsync(
                        type,
                        null,
                        site.Changes(
                            "partner",
                            ("name", Value.From(name)),
                            ("role", Value.From("customer")),
                            ("country", Value.From("FI"))
                        ),
                        Site.Administrator
                    )
                )
                    .Outcome
                    .State
                    .Id!
                    .Value
            );
        Assert.Equal(SaveResult.Saved, (await SaveAsync(order, "copies_to", [.. made])).Result);
        var deletion = await site.Deleter.DeleteAsync(site.Catalogues.Live, type, made[1], Site.Administrator);
        Assert.True(deletion.Result == SaveResult.Saved, deletion.Refusal);
        Assert.Equal([made[0], made[2]], await OnFileAsync(order, "copies_to"));
        Assert.Equal($"{made[0]} {made[2]}", await KeptAsync(order, "linked.sales_order__copies_to"));
        Assert.Equal(made[1], await site.Deleter.RestoreAsync(site.Catalogues.Live, type, deletion.Undo!.Value, Site.Administrator));
        Assert.Equal(made, await OnFileAsync(order, "copies_to"));

        // Each is held to what the link offers, and refused by its number.
        var abroad = (long)(await site.ScalarAsync("SELECT min(id) FROM erp.partner WHERE country = 'NO'"))!;
        var number = (string)(await site.ScalarAsync($"SELECT number FROM erp.partner WHERE id = {abroad}"))!;
        Assert.StartsWith(
            number,
            (await SaveAsync(order, "copies_to", made[0], abroad)).Outcome.Messages.Single().Sentence,
            StringComparison.Ordinal
        );
        Assert.True(
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("sales_order"), order, Site.Administrator)).Result
                is SaveResult.Saved
                    or SaveResult.Refused
        );
    }

    [Fact(
        DisplayName = "Lists show names in order and filter by one of them, in header and lines; "
            + "what is pointed to lists and counts who points there"
    )]
    public async Task Lists_and_pointers()
    {
        var type = site.Type("sales_order");
        var (riggers, lines) = (type.Header.Find("riggers")!, type.LineParts[0]);
        await SaveAsync(30, "riggers", 12, 11);
        await SaveAsync(31, "riggers", 11);
        var names = await Task.WhenAll(
            new[] { 12, 11 }.Select(async id => (string)(await site.ScalarAsync($"SELECT name FROM erp.employee WHERE id = {id}"))!)
        );
        async Task<ListPage> ListAsync(params string[] filters) =>
            await site.Lists.ReadAsync(
                new(type, [new(type.Identifier, false)], 100)
                {
                    Filters = [.. filters.Select(filter => Filter.Parse(type, filter).Filter!)],
                },
                Site.Desk
            );
        var page = await ListAsync("riggers~is~12");
        Assert.Equal($"{names[0]}, {names[1]}", page.Rows.Single()[riggers].Label);
        Assert.Equal([30, 31], (await ListAsync("riggers~is~11")).Rows.Select(row => row.Id));
        Assert.Equal([31], (await ListAsync("riggers~filled", "riggers~not~12", "riggers~is~11")).Rows.Select(row => row.Id));
        Assert.Equal([30, 31], (await ListAsync($"riggers~contains~{names[1][..4]}", "riggers~is~11")).Rows.Select(row => row.Id));
        Assert.Null(Filter.Parse(type, "riggers~between~1~2").Filter);
        Assert.NotNull(RecordLists.TryOrder(type, "riggers", Site.Desk, out _));

        var order = (await site.Store.FindAsync(type, 32, Site.Desk))!;
        var changes = new RecordChanges();
        changes.Lines[lines] =
        [
            .. order
                .LinesOf(lines)
                .Select((line, at) => site.Line(line.Key, line.Id, at == 0 ? [("made_for", Value.LinksTo([3, 2]))] : [])),
        ];
        Assert.Equal(SaveResult.Saved, (await site.Saver.SaveAsync(type, 32, changes, Site.Desk)).Result);
        Assert.Equal([32], (await ListAsync("lines.made_for~is~3", "lines.made_for~is~2")).Rows.Select(row => row.Id));
        var pointers = new Pointers(site.Source, TimeProvider.System);
        Assert.Equal(
            1,
            (await pointers.ReadAsync(site.Catalogues.Live, site.Type("project"), 3, Site.Desk))
                .Single(one => one.Field.Code == "made_for")
                .Count
        );
        Assert.Equal(
            2,
            (await pointers.ReadAsync(site.Catalogues.Live, site.Type("employee"), 11, Site.Desk)).Single(one => one.Field == riggers).Count
        );

        // A guest, who may not see employees, learns of them neither by name nor by asking.
        Assert.Equal("", (await site.Lists.ReadAsync(new(type, [new(type.Identifier, false)], 10), Site.Guest)).Rows[0][riggers].Label);
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Lists.ReadAsync(
                new(type, [new(type.Identifier, false)], 10) { Filters = [Filter.Parse(type, "riggers~is~11").Filter!] },
                Site.Guest
            )
        );
    }

    [Fact(
        DisplayName = "What deleting a target does changes while people work; "
            + "the field is retired, removed with its data saved, and brought back"
    )]
    public async Task Changes_of_mind()
    {
        var field = Site.Field("viewers", "links") with { Target = "employee" };
        await PublishAsync(draft => draft.With(field));
        await SaveAsync(40, "viewers", 21, 20);
        await PublishAsync(draft => draft.With(draft.Find(field.Id)! with { ClearsWithTarget = true }));
        Assert.Equal(
            1L,
            await site.ScalarAsync(
                "SELECT count(*) FROM pg_constraint WHERE conrelid = "
                    + "'linked.sales_order__viewers'::regclass AND conname LIKE 'target%' AND convalidated AND confdeltype = 'c'"
            )
        );
        await PublishAsync(draft =>
            draft with
            {
                Fields = [.. draft.Fields.Where(other => other.Id != field.Id)],
                Removed = [.. draft.Removed, new(field.Id, field.Label, field.RecordType, field.Part, field.Code, ["viewers"])],
            }
        );
        Assert.Null(await site.ScalarAsync("SELECT to_regclass('linked.sales_order__viewers')::text"));
        Assert.Contains(
            "[21, 20]",
            (string)(await site.ScalarAsync($"SELECT csv FROM pelto.saved_data WHERE field = '{field.Id}'"))!,
            StringComparison.Ordinal
        );
        Assert.Equal(SaveResult.Saved, (await SaveAsync(40, "riggers", 1)).Result);

        // One of them has gone meanwhile; the others come back in their order.
        await SaveAsync(41, "riggers", 2);
        await site.ScalarAsync("UPDATE pelto.saved_data SET csv = replace(csv, '[21, 20]', '[21, 99999, 20]') WHERE field = 'f-viewers'");
        await PublishAsync(draft => draft.With(field with { ReadBack = true }) with { Removed = [] });
        await site.Services.GetRequiredService<JobRunner>().RunOpenAsync();
        Assert.Equal([21, 20], await OnFileAsync(40, "viewers"));
        Assert.Equal("21 20", await KeptAsync(40, "linked.sales_order__viewers"));
    }
}
