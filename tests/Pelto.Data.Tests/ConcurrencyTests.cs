using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Pelto.Data.Tests;

public sealed class ConcurrencyTests(Site site) : IClassFixture<Site>
{
    [Fact(DisplayName = "Many people add lines to one order at once: every line is there once, and the total is their sum")]
    public async Task Lines_of_many_people_add_up()
    {
        var type = site.Type("sales_order");
        var part = type.LineParts[0];
        var opened = (await site.Store.FindAsync(type, 80, Site.Desk))!;
        var saved = await Task.WhenAll(
            Enumerable
                .Range(1, 12)
                .Select(person =>
                {
                    var changes = new RecordChanges { Opened = opened };
                    changes.Lines[part] =
                    [
                        .. opened.Lines[0].Select(line => site.Line(line.Key, line.Id)),
                        site.Line(
                            $"n{person}",
                            null,
                            ("item", Value.LinkTo(1)),
                            ("quantity", Value.From(1m)),
                            ("price", Value.From((decimal)person))
                        ),
                    ];
                    return site.Saver.SaveAsync(type, 80, changes, Site.Desk);
                })
        );
        Assert.All(saved, saving => Assert.Equal(SaveResult.Saved, saving.Result));
        var now = (await site.Store.FindAsync(type, 80, Site.Desk))!;
        var before = opened.Header[type.Header.Find("net_total")!.Slot].Number;
        Assert.Equal(opened.Lines[0].Count + 12, now.Lines[0].Count);
        Assert.Equal(before + 78, now.Header[type.Header.Find("net_total")!.Slot].Number);
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) - count(DISTINCT position) FROM erp.sales_order_lines WHERE parent = 80"));
    }

    [Fact(
        DisplayName = "A program of the host's that writes between reading and saving is not overwritten: the save begins again on top of it"
    )]
    public async Task Writes_from_outside_survive()
    {
        var type = site.Type("partner");
        var opened = (await site.Store.FindAsync(type, 30, Site.Desk))!;
        await site.ScalarAsync("UPDATE erp.partner SET city = 'From outside' WHERE id = 30");
        var changes = new RecordChanges { Opened = opened, Header = { [type.Header.Find("street")!] = Value.From("From Pelto") } };
        Assert.Equal(SaveResult.Saved, (await site.Saver.SaveAsync(type, 30, changes, Site.Desk)).Result);
        Assert.Equal("From Pelto, From outside", await site.ScalarAsync("SELECT street || ', ' || city FROM erp.partner WHERE id = 30"));
    }

    [Fact(DisplayName = "Saving and deleting the same order at once: one of them is told, and nothing is left over")]
    public async Task Saving_meets_deleting()
    {
        var type = site.Type("sales_order");
        foreach (
            var id in (long[])
                (
                    await site.ScalarAsync(
                        "SELECT array_agg(id) FROM (SELECT id FROM erp.sales_order o WHERE status = 'cancelled' "
                            + "AND NOT EXISTS (SELECT FROM erp.purchase_order WHERE sales_order = o.id) LIMIT 6) o"
                    )
                )!
        )
        {
            var saving = site.Saver.SaveAsync(type, id, site.Changes("sales_order", ("reference", Value.From("late"))), Site.Desk);
            var deleting = site.Deleter.DeleteAsync(site.Catalogues.Live, type, id, Site.Desk);
            Assert.Contains((await saving).Result, new[] { SaveResult.Saved, SaveResult.Gone });
            Assert.Equal(SaveResult.Saved, (await deleting).Result);
            Assert.Equal(
                0L,
                await site.ScalarAsync(
                    "SELECT (SELECT count(*) FROM erp.sales_order "
                        + $"WHERE id = {id}) + (SELECT count(*) FROM erp.sales_order_lines WHERE parent = {id})"
                )
            );
        }
    }

    [Fact(DisplayName = "Two nodes on one database: what one publishes, the other has once it hears of it, and both save")]
    public async Task Nodes_agree()
    {
        await using var other = await site.AnotherNodeAsync();
        await site.PublishAsync(Site.Field("node", "text", type: "item"));
        var (theirs, store) = (Get<Catalogues>(other), Get<RecordSaver>(other));
        Assert.Equal(
            SaveResult.Saved,
            (
                await store.SaveAsync(
                    theirs.Live.Find("item")!,
                    5,
                    new() { Header = { [theirs.Live.Find("item")!.Header.Find("name")!] = Value.From("Older node") } },
                    Site.Administrator
                )
            ).Result
        );
        await theirs.CatchUpAsync();
        var type = theirs.Live.Find("item")!;
        Assert.Equal(
            SaveResult.Saved,
            (
                await store.SaveAsync(type, 5, new() { Header = { [type.Header.Find("node")!] = Value.From("here") } }, Site.Administrator)
            ).Result
        );
        var read = (await site.Store.FindAsync(site.Type("item"), 5, Site.Desk))!;
        Assert.Equal(
            ("Older node", "here"),
            (read.Header[site.Type("item").Header.Find("name")!.Slot].Text, read.Header[site.Type("item").Header.Find("node")!.Slot].Text)
        );
    }

    private static T Get<T>(IServiceProvider services)
        where T : notnull => (T)services.GetService(typeof(T))!;

    [Fact(DisplayName = "The first to write a record type can be many at once: each finds the model whole")]
    public async Task First_writers_at_once()
    {
        var type = site.Type("partner");
        var source = site.Services.GetRequiredService<NpgsqlDataSource>();
        for (var round = 0; round < 40; round++)
        {
            using var models = new RecordModels();
            using var start = new Barrier(6);
            await Task.WhenAll(
                Enumerable
                    .Range(0, 6)
                    .Select(_ =>
                        Task.Factory.StartNew(
                            () =>
                            {
                                using var connection = source.OpenConnection();
                                start.SignalAndWait();
                                using var context = models.Open(type, connection);

                                // Of a record that is not there, with a line of it, so that the order in which they are written has to be known.
                                context
                                    .Set<Dictionary<string, object>>(RecordModels.Entity(type.Header))
                                    .Attach(new() { ["id"] = 0L, ["xmin"] = 0u })
                                    .Property("name")
                                    .IsModified = true;
                                context
                                    .Set<Dictionary<string, object>>(RecordModels.Entity(type.LineParts[0]))
                                    .Attach(
                                        new()
                                        {
                                            ["id"] = 0L,
                                            ["parent"] = 0L,
                                            ["xmin"] = 0u,
                                        }
                                    )
                                    .Property("position")
                                    .IsModified = true;
                                Assert.Throws<DbUpdateConcurrencyException>(() => context.SaveChanges());
                            },
                            TestContext.Current.CancellationToken,
                            TaskCreationOptions.LongRunning,
                            TaskScheduler.Default
                        )
                    )
            );
        }
    }
}
