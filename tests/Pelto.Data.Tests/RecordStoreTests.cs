namespace Pelto.Data.Tests;

public sealed class RecordStoreTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    [Fact(DisplayName = "A new order gets its number, its defaults and its totals")]
    public async Task Orders_are_created()
    {
        var saved = await CreateAsync(2);
        var state = saved.Outcome.State;
        Assert.Equal(SaveResult.Saved, saved.Result);
        Assert.Matches("^SO-[0-9]{5}$", Text(state, "number"));
        Assert.Equal(
            ("open", Value.From(Today()), Value.From(40m), Value.From(50.2m)),
            (Text(state, "status"), Get(state, "order_date"), Get(state, "net_total"), Get(state, "gross_total"))
        );
        var read = await site.Store.FindAsync(site.Type("sales_order"), state.Id!.Value, Site.Desk);
        Assert.Equal(state.Header, read!.Header);
        Assert.Equal(state.Version, read.Version);
    }

    [Fact(DisplayName = "Two who save different fields at once both get through; the same field is shown to the second")]
    public async Task Two_people_merge()
    {
        var id = (await CreateAsync(1)).Outcome.State.Id!.Value;
        var type = site.Type("sales_order");
        var opened = (await site.Store.FindAsync(type, id, Site.Desk))!;
        RecordChanges Change(string code, string value) =>
            new() { Opened = opened, Header = { [type.Header.Find(code)!] = Value.From(value) } };

        var both = await Task.WhenAll(
            site.Saver.SaveAsync(type, id, Change("reference", "one"), Site.Desk),
            site.Saver.SaveAsync(type, id, Change("unloading_place", "two"), Site.Desk)
        );
        Assert.All(both, saving => Assert.Equal(SaveResult.Saved, saving.Result));
        var now = (await site.Store.FindAsync(type, id, Site.Desk))!;
        Assert.Equal(("one", "two"), (Text(now, "reference"), Text(now, "unloading_place")));

        var second = await site.Saver.SaveAsync(type, id, Change("reference", "other"), Site.Desk);
        Assert.Equal((SaveResult.Refused, Value.From("one")), (second.Result, second.Outcome.Clashes.Single().Theirs));
    }

    [Fact(DisplayName = "Any change, in header, lines or what is added, makes another version; none makes none")]
    public async Task Versions_tell_changes()
    {
        var saved = (await CreateAsync(1)).Outcome.State;
        var type = site.Type("sales_order");
        var same = await site.Saver.SaveAsync(
            type,
            saved.Id,
            site.Changes("sales_order", ("reference", Value.Empty)),
            Site.Desk,
            saved.Version
        );
        Assert.Equal(saved.Version, same.Outcome.State.Version);

        var lines = new RecordChanges();
        var id = saved.Lines[0][0].Id!.Value;
        lines.Lines[type.LineParts[0]] = [site.Line("1", id, ("description", Value.From("blue")))];
        var changed = await site.Saver.SaveAsync(type, saved.Id, lines, Site.Desk, saved.Version);
        Assert.NotEqual(saved.Version, changed.Outcome.State.Version);
        Assert.Equal(SaveResult.Stale, (await site.Saver.SaveAsync(type, saved.Id, lines, Site.Desk, saved.Version)).Result);
    }

    [Fact(DisplayName = "Lines are added, moved and removed, and keep their order")]
    public async Task Lines_change()
    {
        var saved = (await CreateAsync(3)).Outcome.State;
        var part = site.Type("sales_order").LineParts[0];
        var ids = saved.Lines[0].Select(line => line.Id!.Value).ToList();
        var changes = new RecordChanges();
        changes.Lines[part] = [site.Line("c", ids[2]), Fresh("n1", 7), site.Line("a", ids[0])];
        var after = (await site.Saver.SaveAsync(site.Type("sales_order"), saved.Id, changes, Site.Desk)).Outcome.State;
        Assert.Equal([ids[2], ids[0]], after.Lines[0].Where((_, at) => at != 1).Select(line => line.Id!.Value));
        Assert.Equal(Value.From(7m), after.Lines[0][1].Values[part.Find("quantity")!.Slot]);
        Assert.Equal(3L, await site.ScalarAsync($"SELECT count(*) FROM erp.sales_order_lines WHERE parent = {saved.Id}"));
    }

    [Fact(DisplayName = "A refused save writes nothing at all")]
    public async Task Refused_saves_write_nothing()
    {
        var before = await site.ScalarAsync("SELECT count(*) FROM erp.sales_order");
        var changes = site.Changes("sales_order", ("customer", Value.LinkTo(999_999)), ("salesperson", Value.LinkTo(888_888)));
        var saving = await site.Saver.SaveAsync(site.Type("sales_order"), null, changes, Site.Desk);
        Assert.Equal(["header.customer", "header.salesperson"], saving.Outcome.Messages.Select(message => message.At.ToString()));
        Assert.Equal(before, await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"));
    }

    [Fact(DisplayName = "A number that another has is refused at its field")]
    public async Task Numbers_are_unique()
    {
        var item = site.Changes("item", ("number", Value.From("SHB-22")), ("name", Value.From("Again")));
        var saving = await site.Saver.SaveAsync(site.Type("item"), null, item, Site.Administrator);
        Assert.Equal("Another item has this number already.", saving.Outcome.Messages.Single().Sentence);
    }

    [Fact(DisplayName = "What others point to stays, and it is said what points; what is deleted comes back whole")]
    public async Task Deleting_and_bringing_back()
    {
        var refused = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), 177, Site.Desk);
        Assert.Matches(
            "^P-0177 stays: .*\\d+ sales orders \\(Customer\\), \\d+ deliveries \\(Customer\\).* still point to it\\.$",
            refused.Refusal
        );

        var saved = (await CreateAsync(2)).Outcome.State;
        var deletion = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("sales_order"), saved.Id!.Value, Site.Desk);
        Assert.Null(await site.Store.FindAsync(site.Type("sales_order"), saved.Id.Value, Site.Desk));
        Assert.Null(
            await site.Deleter.RestoreAsync(site.Catalogues.Live, site.Type("sales_order"), deletion.Undo!.Value, Site.Administrator)
        );
        await site.Deleter.RestoreAsync(site.Catalogues.Live, site.Type("sales_order"), deletion.Undo.Value, Site.Desk);
        var back = (await site.Store.FindAsync(site.Type("sales_order"), saved.Id.Value, Site.Desk))!;
        Assert.Equal(saved.Header, back.Header);
        Assert.Equal(saved.Lines[0].Select(line => line.Id), back.Lines[0].Select(line => line.Id));
    }

    [Fact(DisplayName = "The store gives and takes nothing that the viewer may not have")]
    public async Task Access_holds()
    {
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Store.FindAsync(site.Type("employee"), 1, Site.Guest));
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Saver.SaveAsync(site.Type("item"), null, new(), Site.Desk));
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), 1, Site.Guest)
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.PickAsync(site.Type("employee"), "", Site.Guest));
    }

    [Fact(DisplayName = "Fifty who create orders at once get fifty numbers")]
    public async Task Numbers_under_load()
    {
        var saved = await Task.WhenAll(Enumerable.Range(0, 50).Select(_ => CreateAsync(1)));
        Assert.Equal(50, saved.Select(saving => Text(saving.Outcome.State, "number")).Distinct().Count());
    }

    private static DateOnly Today() => DateOnly.FromDateTime(DateTime.Now);

    private static Value Get(RecordState state, string code) => state.Header[state.Type.Header.Find(code)!.Slot];

    private static string Text(RecordState state, string code) => Get(state, code).Text;

    private EnteredLine Fresh(string key, decimal quantity) =>
        site.Line(key, null, ("item", Value.LinkTo(1)), ("quantity", Value.From(quantity)), ("price", Value.From(20m)));

    private Task<Saving> CreateAsync(int lines)
    {
        var changes = site.Changes("sales_order", ("customer", Value.LinkTo(177)));
        changes.Lines[site.Type("sales_order").LineParts[0]] = [.. Enumerable.Range(0, lines).Select(i => Fresh($"n{i}", 1))];
        return site.Saver.SaveAsync(site.Type("sales_order"), null, changes, Site.Desk);
    }
}
