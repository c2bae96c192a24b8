using Pelto.Data.Hosts;
using Pelto.Data.Releases;

namespace Pelto.Data.Tests;

public sealed class PublisherTests(Site site) : IClassFixture<Site>
{
    [Fact(DisplayName = "A published field is a real column with its rule, and is saved and read at once, in header and lines")]
    public async Task Fields_go_live()
    {
        var row = await site.PublishAsync(Site.Field("copies"));
        await site.PublishAsync(Site.Field("colour", "text", "lines") with { Length = 12 });
        Assert.Equal(PublishingState.Done, row.State);
        Assert.Equal(
            "bigint text",
            await site.ScalarAsync(
                "SELECT string_agg(data_type, ' ' ORDER BY table_name) FROM information_schema.columns "
                    + "WHERE table_schema = 'added' AND column_name IN ('copies', 'colour')"
            )
        );
        Assert.True(
            (bool)(await site.ScalarAsync("SELECT bool_and(convalidated) FROM pg_constraint WHERE connamespace = 'added'::regnamespace"))!
        );

        var type = site.Type("sales_order");
        var order = (await site.Store.FindAsync(type, 5, Site.Desk))!;
        var changes = site.Changes("sales_order", ("copies", Value.From(3m)));
        changes.Lines[type.LineParts[0]] = [.. order.Lines[0].Select(line => site.Line(line.Key, line.Id, ("colour", Value.From("red"))))];
        Assert.Equal(SaveResult.Saved, (await site.Saver.SaveAsync(type, 5, changes, Site.Desk)).Result);
        var read = (await site.Store.FindAsync(type, 5, Site.Desk))!;
        Assert.Equal(Value.From(3m), read.Header[type.Header.Find("copies")!.Slot]);
        Assert.All(read.Lines[0], line => Assert.Equal(Value.From("red"), line.Values[type.LineParts[0].Find("colour")!.Slot]));
    }

    [Fact(DisplayName = "A save that began under the older release still works, and leaves the new field as it is")]
    public async Task Older_saves_work()
    {
        var older = site.Type("partner");
        await site.PublishAsync(Site.Field("grade", type: "partner"));
        await site.Saver.SaveAsync(site.Type("partner"), 9, site.Changes("partner", ("grade", Value.From(4m))), Site.Desk);
        var saving = await site.Saver.SaveAsync(
            older,
            9,
            new() { Header = { [older.Header.Find("note")!] = Value.From("from before") } },
            Site.Desk
        );
        Assert.Equal(SaveResult.Saved, saving.Result);
        Assert.Equal(
            "4 from before",
            await site.ScalarAsync("SELECT grade || ' ' || note FROM erp.partner p JOIN added.partner a USING (id) WHERE id = 9")
        );
    }

    [Fact(DisplayName = "Longer at any time; shorter only when all values fit")]
    public async Task Lengths_change()
    {
        var field = Site.Field("remark", "text", type: "item") with { Length = 5 };
        await site.PublishAsync(field);
        await site.PublishAsync(field with { Length = 20 });
        await site.Saver.SaveAsync(site.Type("item"), 1, site.Changes("item", ("remark", Value.From("twelve chars"))), Site.Administrator);
        var refusal = await Assert.ThrowsAsync<PublishRefusedException>(() => site.PublishAsync(field with { Length = 8 }));
        Assert.Equal("1 value on file would not fit. Change them first, or leave room for them.", refusal.Message);
        Assert.Equal(PublishingState.Done, (await site.PublishAsync(field with { Length = 12 })).State);
        Assert.Equal(
            "CHECK ((char_length(remark) <= 12))",
            await site.ScalarAsync(
                "SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conrelid = 'added.item'::regclass AND conname LIKE 'remark%'"
            )
        );
    }

    [Fact(DisplayName = "Cut off after any step, publishing leaves the old release whole and is finished by the next start")]
    public async Task Cut_off_publishing_resumes()
    {
        for (var after = 0; after < 4; after++)
        {
            var field = Site.Field($"cut{after}", type: "employee");
            await site.Drafts.ChangeAsync(definition => definition.With(field), "Test", Site.Administrator);
            var id = await site.Publisher.StartAsync("Cut off", Site.Administrator);
            await DoStepsAsync(after);
            var before = site.Catalogues.Live.Release;
            Assert.Null(site.Type("employee").Header.Find(field.Code));
            Assert.Equal(
                SaveResult.Saved,
                (
                    await site.Saver.SaveAsync(
                        site.Type("employee"),
                        1,
                        site.Changes("employee", ("title", Value.From($"Title {after}"))),
                        Site.Administrator
                    )
                ).Result
            );

            await using var node = await site.AnotherNodeAsync();
            await node.GetRequiredService<PublishingQueue>().ResumeAsync();
            await site.Catalogues.CatchUpAsync();
            Assert.Equal(before + 1, site.Catalogues.Live.Release);
            Assert.NotNull(site.Type("employee").Header.Find(field.Code));
            Assert.Equal(PublishingState.Done, (await site.Publisher.FindAsync(id))!.State);
        }
    }

    [Fact(DisplayName = "Two that publish at once do not lock each other out, also where one builds an index beside everybody's work")]
    public async Task Two_at_once()
    {
        for (var turn = 0; turn < 3; turn++)
        {
            var unique = Site.Field($"apart{turn}") with { Unique = true };
            await site.Drafts.ChangeAsync(definition => definition.With(unique), "Test", Site.Administrator);
            var first = await site.Publisher.StartAsync("First", Site.Administrator);
            var second = await site.Publisher.StartAsync("Second", Site.Administrator);
            await using var node = await site.AnotherNodeAsync();
            var ended = await Task.WhenAll(site.Publishings.RunAsync(first), node.GetRequiredService<PublishingQueue>().RunAsync(second))
                .WaitAsync(TimeSpan.FromSeconds(60));
            Assert.Equal([PublishingState.Done, PublishingState.Failed], ended.Select(row => row.State).Order());
            Assert.DoesNotContain(ended, row => row.Saying.Contains("deadlock", StringComparison.Ordinal));
            await site.Catalogues.CatchUpAsync();
        }

        await using var waiting = await site.Source.OpenConnectionAsync();
        await using var command = new Npgsql.NpgsqlCommand("SELECT count(*) FROM pg_index WHERE NOT indisvalid", waiting);
        Assert.Equal(0L, await command.ExecuteScalarAsync());
    }

    [Fact(DisplayName = "While one publishes, another node that waits for its turn holds no snapshot")]
    public async Task Nobody_waits_with_a_snapshot()
    {
        await site.Drafts.ChangeAsync(definition => definition.With(Site.Field("turn")), "Test", Site.Administrator);
        var id = await site.Publisher.StartAsync("Waits", Site.Administrator);
        await using var holder = await site.Source.OpenConnectionAsync();
        await using (var hold = new Npgsql.NpgsqlCommand("SELECT pg_advisory_lock(7301002)", holder))
            await hold.ExecuteNonQueryAsync();
        await using var node = await site.AnotherNodeAsync();
        var waiting = node.GetRequiredService<PublishingQueue>().RunAsync(id);
        await using var watch = await site.Source.OpenConnectionAsync();
        for (var look = 0; look < 20; look++)
        {
            await using var command = new Npgsql.NpgsqlCommand(
                "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'",
                watch
            );
            Assert.Equal(0L, await command.ExecuteScalarAsync());
            await Task.Delay(20);
        }

        Assert.False(waiting.IsCompleted);
        await using (var free = new Npgsql.NpgsqlCommand("SELECT pg_advisory_unlock(7301002)", holder))
            await free.ExecuteNonQueryAsync();
        Assert.Equal(PublishingState.Done, (await waiting).State);
        await site.Catalogues.CatchUpAsync();
    }

    [Fact(
        DisplayName = "A draft that is discarded or undone after its publishing was put down never goes live, whichever node takes it over"
    )]
    public async Task Discarded_meanwhile()
    {
        foreach (var isUndone in new[] { false, true })
        {
            var field = Site.Field(isUndone ? "undone" : "discarded");
            await site.Drafts.ChangeAsync(definition => definition.With(field), "Test", Site.Administrator);
            var id = await site.Publisher.StartAsync("Not wanted any more", Site.Administrator);
            var live = site.Catalogues.Live;
            if (isUndone)
                await site.Drafts.UndoAsync(Site.Administrator);
            else
                await site.Drafts.ChangeAsync(_ => live.Site, "Discarded", Site.Administrator);
            await using var node = await site.AnotherNodeAsync();
            await node.GetRequiredService<PublishingQueue>().ResumeAsync();
            Assert.Equal(PublishingState.Stopped, (await node.GetRequiredService<PublishingQueue>().RunAsync(id)).State);
            await site.Catalogues.CatchUpAsync();
            Assert.Equal(live.Release, site.Catalogues.Live.Release);
            Assert.Null(site.Type(field.RecordType).Header.Find(field.Code));
        }
    }

    [Fact(DisplayName = "A long transaction on the table makes publishing wait, and nobody else")]
    public async Task Nobody_waits_behind_publishing()
    {
        await site.PublishAsync(Site.Field("first"));
        await using var connection = await site.Source.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        await using (var holder = new Npgsql.NpgsqlCommand("LOCK TABLE added.sales_order IN ROW EXCLUSIVE MODE", connection, transaction))
            await holder.ExecuteNonQueryAsync();

        var publishing = site.PublishAsync(Site.Field("second"));
        for (var i = 0; i < 10; i++)
            Assert.Equal(
                SaveResult.Saved,
                (
                    await site.Saver.SaveAsync(
                        site.Type("sales_order"),
                        50 + i,
                        site.Changes("sales_order", ("first", Value.From(1m))),
                        Site.Desk
                    )
                ).Result
            );
        Assert.False(publishing.IsCompleted);
        await transaction.CommitAsync();
        Assert.Equal(PublishingState.Done, (await publishing).State);
    }

    [Fact(DisplayName = "What cannot go live is refused with the reason: no comment, nothing to publish, a draft that changed since")]
    public async Task Refusals()
    {
        Assert.Equal("Say in a comment why this goes live.", (await RefusedAsync(" ")).Message);
        Assert.Equal("The draft holds nothing that is not live already.", (await RefusedAsync("Why")).Message);
        await site.Drafts.ChangeAsync(definition => definition.With(Site.Field("later")), "Test", Site.Administrator);
        Assert.Contains(
            "changed after you looked",
            (await RefusedAsync("Why", (await site.Drafts.ReadAsync()).Version - 1)).Message,
            StringComparison.Ordinal
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Publisher.StartAsync("Why", Site.Desk));
        await site.Drafts.UndoAsync(Site.Administrator);
    }

    [Fact(DisplayName = "Stopped before it goes live, nothing goes live")]
    public async Task Stopping_stops()
    {
        await site.Drafts.ChangeAsync(definition => definition.With(Site.Field("halted")), "Test", Site.Administrator);
        var id = await site.Publisher.StartAsync("Stop me", Site.Administrator);
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Publisher.StopAsync(id, Site.Desk));
        Assert.True(await site.Publisher.StopAsync(id, Site.Administrator));
        Assert.Equal(PublishingState.Stopped, (await site.Publishings.RunAsync(id)).State);
        Assert.Null(site.Type("sales_order").Header.Find("halted"));
        await site.Drafts.UndoAsync(Site.Administrator);
    }

    [Fact(DisplayName = "Two administrators who change the draft at once both keep their change; undo takes the newest back")]
    public async Task Drafts_merge()
    {
        await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(i => site.Drafts.ChangeAsync(definition => definition.With(Site.Field($"both{i}")), "Test", Site.Administrator))
        );
        var draft = await site.Drafts.ReadAsync();
        Assert.Equal(8, draft.Site.Fields.Count(field => field.Code.StartsWith("both", StringComparison.Ordinal)));
        await Assert.ThrowsAsync<DraftChangedException>(() =>
            site.Drafts.ChangeAsync(definition => definition, "Test", Site.Administrator, $"{draft.Release}.{draft.Version - 1}")
        );
        for (var i = 0; i < 8; i++)
            await site.Drafts.UndoAsync(Site.Administrator);
        Assert.True((await site.Drafts.ReadAsync()).Site.IsSameAs(site.Catalogues.Live.Site));
    }

    [Fact(
        DisplayName = "A node that has not heard of a release yet drafts on top of it, "
            + "and what was read before it is refused: a release takes nothing back that went live meanwhile"
    )]
    public async Task Drafts_know_of_releases()
    {
        await using var node = await site.AnotherNodeAsync();
        var theirs = node.GetRequiredService<Drafts>();
        var before = await theirs.ReadAsync();
        await site.PublishAsync(Site.Field("heard", type: "item"));
        await Assert.ThrowsAsync<DraftChangedException>(() =>
            theirs.ChangeAsync(_ => before.Site, "Read before", Site.Administrator, before.Tag)
        );
        await theirs.ChangeAsync(definition => definition.With(Site.Field("on_top", type: "item")), "Test", Site.Administrator);
        Assert.Superset(
            new HashSet<string> { "heard", "on_top" },
            (await theirs.ReadAsync()).Site.Fields.Select(field => field.Code).ToHashSet()
        );
        await theirs.UndoAsync(Site.Administrator);
        Assert.Contains((await theirs.ReadAsync()).Site.Fields, field => field.Code == "heard");
    }

    [Fact(DisplayName = "A node starts while another one publishes, again and again, and neither fails for the other's sake")]
    public async Task Starting_beside_publishing()
    {
        var over = false;
        var defaults = Task.Run(
            async () =>
            {
                var times = 0;
                for (; !Volatile.Read(ref over) || times == 0; times++)
                {
                    await using var node = await site.AnotherNodeAsync();
                    await node.GetRequiredService<Installer>().EnsureAsync();
                }

                return times;
            },
            TestContext.Current.CancellationToken
        );
        for (var i = 0; i < 6; i++)
        {
            var row = await site.PublishAsync(Site.Field($"beside{i}", type: "item"));
            Assert.True(row.State == PublishingState.Done && !row.Saying.Contains("refused", StringComparison.Ordinal), row.Saying);
        }

        Volatile.Write(ref over, true);
        Assert.True(await defaults > 0);
    }

    [Fact(DisplayName = "The host's own tables are never altered")]
    public async Task Host_tables_stay()
    {
        const string Shape =
            "SELECT string_agg(table_name || column_name || data_type, ',' "
            + "ORDER BY table_name, ordinal_position) FROM information_schema.columns WHERE table_schema = 'erp'";
        var before = await site.ScalarAsync(Shape);
        var row = await site.PublishAsync(Site.Field("extra", "decimal"));
        Assert.True(row.State == PublishingState.Done, row.Saying);
        Assert.Equal(before, await site.ScalarAsync(Shape));
    }

    private Task<PublishRefusedException> RefusedAsync(string comment, long? version = null) =>
        Assert.ThrowsAsync<PublishRefusedException>(() => site.Publisher.StartAsync(comment, Site.Administrator, version));

    private async Task DoStepsAsync(int count)
    {
        var (_, _, plan) = await site.Plans.PlanAsync(Site.Administrator);
        foreach (var step in plan.Before.Take(count))
        foreach (var sql in ReleasePlans.SqlOf([step]))
            await site.ScalarAsync(sql);
    }
}
