using Pelto.Data.Jobs;
using Pelto.Data.Releases;
using Pelto.Data.Storage;

namespace Pelto.Data.Tests;

/// <summary>
/// Every change of mind about a live field: its kind, its size, its choices, its place in the world; while people go on writing.
/// </summary>
public sealed class ChangesOfMindTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private JobRunner Jobs => site.Services.GetRequiredService<JobRunner>();

    [Fact(
        DisplayName = "A kind changes over a new column while people write: "
            + "what the preview said is what happened, and going back loses nothing"
    )]
    public async Task Kinds_change_and_change_back()
    {
        var text = Site.Field("size", "text", type: "item");
        await site.PublishAsync(text);
        var type = site.Type("item");
        string[] values = ["12", "7.5", "about 3", "1 000", "", "x"];
        for (var i = 0; i < 600; i++)
            await site.ScalarAsync(
                $"INSERT INTO added.item (id, size) VALUES ({i + 1}, nullif('{values[i % 6]}', "
                    + "'')) ON CONFLICT (id) DO UPDATE SET size = excluded.size"
            );

        await site.Drafts.ChangeAsync(draft => draft.With(text with { Kind = "decimal", Length = null }), "Test", Site.Administrator);
        var (_, _, plan) = await site.Plans.PlanAsync(Site.Administrator);
        Assert.Contains(
            "300 values on file are converted while everyone works; 200 cannot be turned and become empty.",
            plan.Changes.Single().Effect,
            StringComparison.Ordinal
        );

        // People write all the while, under the old release and then under the new one.
        using var stop = new CancellationTokenSource();
        var n = 0;
        var writing = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                var now = site.Type("item");
                var field = now.Header.Find("size")!;
                var saving = await site.Saver.SaveAsync(
                    now,
                    1 + (n++ % 40),
                    new()
                    {
                        Header = { [field] = field.Kind.Parse((n % 900).ToString(System.Globalization.CultureInfo.InvariantCulture)) },
                    },
                    Site.Administrator
                );
                Assert.Equal(SaveResult.Saved, saving.Result);
            }

            return n;
        });
        await WrittenAsync(12);
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("Numbers are better", Site.Administrator));
        await WrittenAsync(n + 12);
        await stop.CancelAsync();
        var written = Math.Min(40, await writing);

        // Each row holds what its last writer meant: nobody's work was lost on the way.
        var becomes = site.Type("item").Header.Find("size")!;
        Assert.Equal(("decimal", "size__2"), (becomes.Kind.Name, becomes.Columns[0].Name));
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM added.item WHERE id > 40 AND size__2 IS DISTINCT "
                    + "FROM CASE size WHEN '12' THEN 12 WHEN '7.5' THEN 7.5 WHEN '1 000' THEN 1000 END"
            )
        );
        Assert.Equal(0L, await site.ScalarAsync($"SELECT count(*) FROM added.item WHERE id <= {written} AND size__2 IS NULL"));
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM pg_trigger WHERE tgname LIKE 'track%'"));
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM pelto.conversion"));

        // Back again: what could not be turned is there as it was, what was changed meanwhile is what it became.
        await site.Saver.SaveAsync(site.Type("item"), 100, site.Changes("item", ("size", Value.From(55m))), Site.Administrator);
        await site.Drafts.ChangeAsync(
            draft => draft.With(draft.Find(text.Id)! with { Kind = "text", Column = 0 }),
            "Test",
            Site.Administrator
        );
        Assert.Equal("size becomes text, up to 30 again.", (await site.Plans.PlanAsync(Site.Administrator)).Plan.Changes.Single().Sentence);
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("Text after all", Site.Administrator));
        Assert.Equal(
            "about 3",
            (await site.Store.FindAsync(site.Type("item"), 99, Site.Desk))!.Header[site.Type("item").Header.Find("size")!.Slot].Text
        );
        Assert.Equal(
            "55",
            ((string)(await site.ScalarAsync("SELECT size FROM added.item WHERE id = 100"))!).Replace(".00", "", StringComparison.Ordinal)
        );
        Assert.Equal("1 000", await site.ScalarAsync("SELECT size FROM added.item WHERE id = 46"));
        Assert.Equal(type.Header.Fields.Count, site.Type("item").Header.Fields.Count);

        // However slow the machine is, people have written before, and go on to after.
        async Task WrittenAsync(int wanted)
        {
            while (Volatile.Read(ref n) < wanted && !writing.IsCompleted)
                await Task.Delay(5);
        }
    }

    [Fact(
        DisplayName = "Every way from one kind to another: the preview's counts are the counts "
            + "afterwards, and what is carried fits the new kind"
    )]
    public async Task Previews_tell_the_truth()
    {
        FieldDefinition Kind(string kind) =>
            Site.Field("many", kind, type: "partner") with
            {
                Choices = kind is "choice" or "choices" ? [new("a12", "12"), new("b", "2026-11-25"), new("c", "yes")] : null,
            };
        string[] kinds =
        [
            "text",
            "integer",
            "decimal",
            "money",
            "percent",
            "quantity",
            "date",
            "date_time",
            "time",
            "duration",
            "yes_no",
            "choice",
            "choices",
            "long_text",
            "formatted_text",
            "email",
            "web_address",
            "phone",
            "identifier",
        ];
        string[] samples =
        [
            "12",
            "12.50",
            "2026-11-25",
            "14:30",
            "1 h 20 min",
            "yes",
            "12 EUR",
            "7 kg",
            "hello",
            "a@example.org",
            "https://example.org",
            "+358412345678",
            "9521234567882",
            "2026-11-25 14:30",
            "1",
        ];
        foreach (var from in kinds)
        {
            var old = site.Catalogues.Build(SiteDefinition.Nothing.With(Kind(from))).FindField("f-many")!;
            foreach (var to in kinds.Where(kind => kind != from))
            {
                var now = site.Catalogues.Build(SiteDefinition.Nothing.With(Kind(to))).FindField("f-many")!;
                foreach (
                    var value in samples
                        .Select(sample => old.Kind.Parse(sample))
                        .Where(parsed => parsed.Refusal is null && !parsed.Value.IsEmpty)
                        .Select(parsed => parsed.Value)
                )
                {
                    var turned = now.Kind.Convert(value, old.Kind);
                    if (turned.Refusal is not null)
                        continue;
                    Assert.True(!turned.Value.IsEmpty && now.Kind.Refuse(turned.Value) is null, $"{from} to {to}: {value}");
                    Assert.Equal(turned.Value, now.Kind.FromColumns([.. now.Columns.Select((_, i) => now.Kind.ToColumn(turned.Value, i))]));
                }
            }
        }

        // A walk through some of them on the database, each preview held against what is there afterwards.
        await site.PublishAsync(Kind("text"));
        for (var i = 0; i < samples.Length; i++)
            await site.ScalarAsync(
                $"INSERT INTO added.partner (id, many) VALUES ({i + 1}, '{samples[i]}') ON CONFLICT (id) DO UPDATE SET many = excluded.many"
            );
        foreach (
            var kind in new[] { "choice", "choices", "text", "decimal", "integer", "money", "text", "date", "date_time", "text", "yes_no" }
        )
        {
            var before = site.Type("partner").Header.Find("many")!;
            await site.Drafts.ChangeAsync(
                draft => draft.With(Kind(kind) with { Column = draft.Find("f-many")!.Column }),
                "Test",
                Site.Administrator
            );
            var draft = site.Catalogues.Build((await site.Drafts.ReadAsync()).Site).FindField("f-many")!;
            var preview = await site.Services.GetRequiredService<FactsReader>().PreviewAsync(before, draft, Site.Administrator);
            Assert.Equal(
                PublishingState.Done,
                (await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator))).State
            );
            Assert.Equal(
                preview!.Converts,
                await site
                    .Services.GetRequiredService<FactsReader>()
                    .CountFilledAsync(site.Type("partner").Header.Find("many")!, Site.Administrator)
            );
        }
    }

    [Fact(DisplayName = "A change of kind that is stopped leaves everything as it was, and nothing written down")]
    public async Task Stopping_a_change_of_kind()
    {
        var text = Site.Field("mark", "text", part: "lines");
        await site.PublishAsync(text);
        await site.ScalarAsync(
            "INSERT INTO added.sales_order_lines (id, mark) SELECT id, id::text "
                + "FROM erp.sales_order_lines ON CONFLICT (id) DO UPDATE SET mark = excluded.mark"
        );
        await site.Drafts.ChangeAsync(draft => draft.With(text with { Kind = "integer" }), "Test", Site.Administrator);
        var id = await site.Publisher.StartAsync("On", Site.Administrator);
        await using (var holder = await site.Source.OpenConnectionAsync())
        await using (var transaction = await holder.BeginTransactionAsync())
        {
            await using (
                var command = new Npgsql.NpgsqlCommand(
                    $"SELECT 1 FROM {await site.TableWithAsync("mark")} ORDER BY id DESC LIMIT 1 FOR UPDATE",
                    holder,
                    transaction
                )
            )
                await command.ExecuteScalarAsync();
            var running = site.Publishings.RunAsync(id);
            await site.UntilWaitingAsync(running);
            Assert.True(await site.Publisher.StopAsync(id, Site.Administrator));
            await transaction.RollbackAsync();
            Assert.Equal(PublishingState.Stopped, (await running).State);
        }

        Assert.Equal("text", site.Type("sales_order").LineParts[0].Find("mark")!.Kind.Name);
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM pg_trigger WHERE tgname LIKE 'track%'"));
        await site.Drafts.ChangeAsync(_ => site.Catalogues.Live.Site, "Test", Site.Administrator);
    }

    [Theory(
        DisplayName = "A server that goes down while values are carried, or right after the switch, "
            + "finishes when it starts again: nothing is lost and nothing is left over"
    )]
    [InlineData("a", false), InlineData("b", true)]
    public async Task Carrying_is_resumed(string name, bool afterSwitch)
    {
        var text = Site.Field("cut_" + name, "text", part: "lines");
        await site.PublishAsync(text);
        await site.ScalarAsync(
            $"INSERT INTO added.sales_order_lines (id, cut_{name}) SELECT id, id::text "
                + $"FROM erp.sales_order_lines ON CONFLICT (id) DO UPDATE SET cut_{name} = excluded.cut_{name}"
        );
        await site.Drafts.ChangeAsync(draft => draft.With(text with { Kind = "integer" }), "Test", Site.Administrator);
        var id = await site.Publisher.StartAsync("On", Site.Administrator);
        using var down = new CancellationTokenSource();
        if (afterSwitch)
            site.Catalogues.WentLive += Down;
        await using (var holder = await site.Source.OpenConnectionAsync())
        await using (var transaction = await holder.BeginTransactionAsync())
        {
            if (!afterSwitch)
            {
                await using var command = new Npgsql.NpgsqlCommand(
                    $"SELECT 1 FROM {await site.TableWithAsync($"cut_{name}")} ORDER BY id DESC LIMIT 1 FOR UPDATE",
                    holder,
                    transaction
                );
                await command.ExecuteScalarAsync();
                down.CancelAfter(600);
            }

            await Assert.ThrowsAnyAsync<OperationCanceledException>(() => site.Publishings.RunAsync(id, down.Token));
            await transaction.RollbackAsync();
        }

        site.Catalogues.WentLive -= Down;
        Assert.Equal(afterSwitch ? "integer" : "text", site.Type("sales_order").LineParts[0].Find("cut_" + name)!.Kind.Name);
        await site.ScalarAsync($"UPDATE added.sales_order_lines SET cut_{name} = '77' WHERE id = 5");
        await site.Publishings.ResumeAsync();
        Assert.Equal("integer", site.Type("sales_order").LineParts[0].Find("cut_" + name)!.Kind.Name);
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                $"SELECT count(*) FROM added.sales_order_lines WHERE cut_{name}__2 IS DISTINCT FROM CASE id WHEN 5 THEN 77 ELSE id END"
            )
        );
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM pg_trigger WHERE tgname LIKE 'track%'"));

        void Down(Catalogue _) => down.Cancel();
    }

    [Fact(
        DisplayName = "Records on file get the default in the background, new ones at once; "
            + "the job is undone where nobody has changed it since"
    )]
    public async Task Starting_values_fill()
    {
        await site.PublishAsync(Site.Field("zone", "text", type: "partner"));
        await site.Saver.SaveAsync(site.Type("partner"), 5, site.Changes("partner", ("zone", Value.From("own"))), Site.Desk);
        await site.PublishAsync(Site.Field("zone", "text", type: "partner") with { DefaultValue = "north", FillExisting = true });
        Assert.Equal(
            "north",
            site.Store.Fresh(site.Type("partner"), Site.Desk).Header[site.Type("partner").Header.Find("zone")!.Slot].Text
        );
        await Jobs.RunOpenAsync();
        var job = (await Jobs.AllAsync()).First(row => row.Field == "f-zone");
        Assert.Equal((JobState.Done, 411L), (job.State, job.Changed));
        Assert.Equal(411L, await site.ScalarAsync("SELECT count(*) FROM added.partner WHERE zone = 'north'"));

        await site.Saver.SaveAsync(site.Type("partner"), 6, site.Changes("partner", ("zone", Value.From("south"))), Site.Desk);
        Assert.True(await Jobs.UndoAsync(job.Id, Site.Administrator));
        await Jobs.RunOpenAsync();
        Assert.Equal(JobState.Undone, (await Jobs.AllAsync()).First(row => row.Id == job.Id).State);
        Assert.Equal(
            "own,south",
            await site.ScalarAsync("SELECT string_agg(zone, ',' ORDER BY id) FROM added.partner WHERE zone IS NOT NULL")
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => Jobs.UndoAsync(job.Id, Site.Desk));
    }

    [Fact(DisplayName = "A job passes over records that somebody is saving, and comes back to them; cut off, it goes on where it was")]
    public async Task Jobs_wait_for_nobody()
    {
        await site.PublishAsync(Site.Field("rank", "integer", type: "employee"));
        await site.ScalarAsync("DELETE FROM added.employee WHERE id IN (7, 8)");
        await using (var holder = await site.Source.OpenConnectionAsync())
        await using (var transaction = await holder.BeginTransactionAsync())
        {
            await using (var command = new Npgsql.NpgsqlCommand("SELECT 1 FROM erp.employee WHERE id = 7 FOR UPDATE", holder, transaction))
                await command.ExecuteScalarAsync();
            await site.PublishAsync(Site.Field("rank", "integer", type: "employee") with { DefaultValue = "3", FillExisting = true });
            using var cut = new CancellationTokenSource(TimeSpan.FromMilliseconds(400));
            await Assert.ThrowsAnyAsync<OperationCanceledException>(() => Jobs.RunOpenAsync(cut.Token));
            Assert.Equal(39L, await site.ScalarAsync("SELECT count(*) FROM added.employee WHERE rank = 3"));
            await transaction.RollbackAsync();
        }

        await Jobs.RunOpenAsync();
        Assert.Equal(40L, await site.ScalarAsync("SELECT count(*) FROM added.employee WHERE rank = 3"));
    }

    [Fact(DisplayName = "All jobs that run or wait are stopped together by whoever may stop each, and by nobody else")]
    public async Task Jobs_are_stopped_together()
    {
        foreach (var code in new[] { "one", "two" })
            await site.PublishAsync(Site.Field(code, type: "warehouse") with { DefaultValue = "3", FillExisting = true });
        Assert.Equal(0, await Jobs.StopAllAsync(Site.Desk));
        Assert.Equal(2, await Jobs.StopAllAsync(Site.Administrator));
        await Jobs.RunOpenAsync();
        Assert.All((await Jobs.AllAsync()).Where(job => job.Field is "f-one" or "f-two"), job =>
            Assert.Equal((JobState.Stopped, 0L), (job.State, job.Changed))
        );
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM added.warehouse WHERE one IS NOT NULL OR two IS NOT NULL"));
    }

    [Fact(
        DisplayName = "A choice is merged into another on all records, in one field and in several choices, and can be taken apart again"
    )]
    public async Task Choices_merge()
    {
        var list = new ChoiceList
        {
            Id = "l-steel",
            Label = "Steel",
            Choices = [new("s1", "S1"), new("s2", "S 2"), new("s3", "S3")],
        };
        FieldDefinition[] fields =
        [
            Site.Field("steel", "choice", type: "item") with
            {
                ChoiceList = "l-steel",
            },
            Site.Field("steels", "choices", type: "item") with
            {
                ChoiceList = "l-steel",
            },
        ];
        await site.Drafts.ChangeAsync(
            draft => fields.Aggregate(draft.With(list), (all, field) => all.With(field)),
            "Test",
            Site.Administrator
        );
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator));
        await site.ScalarAsync(
            "INSERT INTO added.item (id, steel, steels) SELECT id, 's' || (1 + id % 3), ARRAY['s2', "
                + "'s' || (1 + id % 3)] FROM erp.item WHERE id BETWEEN 701 AND 1000 ON CONFLICT (id) DO UPDATE "
                + "SET steel = excluded.steel, steels = (SELECT array_agg(DISTINCT s) FROM unnest(excluded.steels) s)"
        );
        var before = await site.ScalarAsync(
            "SELECT md5(string_agg(steel || array_to_string(steels, '+'), ',' ORDER BY id)) FROM added.item WHERE steel IS NOT NULL"
        );
        await site.Drafts.ChangeAsync(
            draft =>
                draft.With(
                    list with
                    {
                        Choices = [list.Choices[0], list.Choices[1] with { MergedInto = "s1" }, list.Choices[2] with { Retired = true }],
                    }
                ),
            "Test",
            Site.Administrator
        );
        var (_, _, plan) = await site.Plans.PlanAsync(Site.Administrator);
        Assert.Contains("400 records with S 2 get S1; it can be undone.", plan.Changes.Single().Effect, StringComparison.Ordinal);
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator));
        await Jobs.RunOpenAsync();
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM added.item WHERE steel = 's2' OR steels @> ARRAY['s2']"));

        // What is merged is read as what took its place; what is retired stays where it is, and is not taken anew.
        var type = site.Type("item");
        Assert.Equal("s1", type.Header.Find("steel")!.Kind.Parse("S 2").Value.Text);
        var retired = await site.Saver.SaveAsync(type, 1, site.Changes("item", ("steel", Value.From("s3"))), Site.Administrator);
        Assert.Equal("“S3” is retired. Choose another.", retired.Outcome.Messages.Single().Sentence);
        var holding = (long)(await site.ScalarAsync("SELECT min(id) FROM added.item WHERE steel = 's3'"))!;
        Assert.Equal(
            SaveResult.Saved,
            (await site.Saver.SaveAsync(type, holding, site.Changes("item", ("steel", Value.From("s3"))), Site.Administrator)).Result
        );

        foreach (var job in await Jobs.AllAsync())
            await Jobs.UndoAsync(job.Id, Site.Administrator);
        await Jobs.RunOpenAsync();
        Assert.Equal(
            before,
            await site.ScalarAsync(
                "SELECT md5(string_agg(steel || array_to_string(steels, '+'), ',' ORDER BY id)) FROM added.item WHERE steel IS NOT NULL"
            )
        );
    }

    [Fact(DisplayName = "Retired, a field is gone and its data stays; removed, its data is in a file that brings it back")]
    public async Task Fields_retire_and_go()
    {
        Rollout.Draining = TimeSpan.FromMilliseconds(50);
        FieldDefinition[] fields =
        [
            Site.Field("berth", "text", type: "partner"),
            Site.Field("fee", "money", type: "partner"),
            Site.Field("tags", "choices", type: "partner") with
            {
                Choices = [new("a", "A"), new("b", "B")],
            },
        ];
        await site.Drafts.ChangeAsync(draft => fields.Aggregate(draft, (all, field) => all.With(field)), "Test", Site.Administrator);
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator));
        var entered = new[]
        {
            ("berth", Value.From("quay \"7\", east; über!")),
            ("fee", Value.Money(12.5m, "EUR")),
            ("tags", Value.From(["a", "b"])),
        };
        await site.Saver.SaveAsync(site.Type("partner"), 9, site.Changes("partner", entered), Site.Desk);

        await site.PublishAsync(fields[0] with { Retired = true });
        Assert.Null(site.Type("partner").Header.Find("berth"));
        await site.PublishAsync(fields[0]);
        Assert.Equal(entered[0].Item2, await ValueAsync("berth"));

        // Their columns are found by what they were made for, whatever is said of them.
        await site.Drafts.ChangeAsync(
            draft =>
                fields.Aggregate(draft, (all, field) => all.Without(field.Id)) with
                {
                    Removed = [.. fields.Select(field => new RemovedField(field.Id, field.Label, "partner", "header", field.Code, []))],
                },
            "Test",
            Site.Administrator
        );
        Assert.Equal(
            PublishingState.Done,
            (await site.Publishings.RunAsync(await site.Publisher.StartAsync("Off", Site.Administrator))).State
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM information_schema.columns WHERE table_schema = 'added' "
                    + "AND table_name LIKE 'partner%' AND column_name IN ('berth', 'fee', 'fee_currency', 'tags')"
            )
        );
        Assert.Equal(
            "id,berth\r\n9,\"quay \"\"7\"\", east; über!\"\r\n",
            await site.ScalarAsync("SELECT csv FROM pelto.saved_data WHERE field = 'f-berth'")
        );

        await site.Drafts.ChangeAsync(
            draft => fields.Aggregate(draft, (all, field) => all.With(field with { ReadBack = true })) with { Removed = [] },
            "Test",
            Site.Administrator
        );
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("On again", Site.Administrator));
        await Jobs.RunOpenAsync();
        foreach (var (code, value) in entered)
            Assert.Equal(value, await ValueAsync(code));

        async Task<Value> ValueAsync(string code) =>
            (await site.Store.FindAsync(site.Type("partner"), 9, Site.Desk))!.Header[site.Type("partner").Header.Find(code)!.Slot];
    }

    [Fact(
        DisplayName = "A field becomes unique while people write; where values stand twice, the release is refused and the values are counted"
    )]
    public async Task Fields_become_unique()
    {
        await site.PublishAsync(Site.Field("plate", "text", type: "employee"));
        await site.ScalarAsync(
            "INSERT INTO added.employee (id, plate) SELECT id, 'P' || (id % 39) "
                + "FROM erp.employee ON CONFLICT (id) DO UPDATE SET plate = excluded.plate"
        );
        await site.Drafts.ChangeAsync(
            draft => draft.With(Site.Field("plate", "text", type: "employee") with { Unique = true }),
            "Test",
            Site.Administrator
        );
        var refused = await Assert.ThrowsAsync<PublishRefusedException>(() => site.Publisher.StartAsync("On", Site.Administrator));
        Assert.StartsWith("1 value on file stands in more than one of the employees.", refused.Message, StringComparison.Ordinal);
        await site.ScalarAsync("UPDATE added.employee SET plate = 'P' || id");
        Assert.Equal(
            PublishingState.Done,
            (await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator))).State
        );
        Assert.Equal(
            "Another employee has this plate already.",
            (
                await site.Saver.SaveAsync(
                    site.Type("employee"),
                    1,
                    site.Changes("employee", ("plate", Value.From("P2"))),
                    Site.Administrator
                )
            )
                .Outcome.Messages.Single()
                .Sentence
        );
        await site.PublishAsync(Site.Field("plate", "text", type: "employee"));
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(
                    site.Type("employee"),
                    1,
                    site.Changes("employee", ("plate", Value.From("P2"))),
                    Site.Administrator
                )
            ).Result
        );
    }

    [Fact(DisplayName = "Every change of a definition is on record, with who, what it was and what it became, undoing included")]
    public async Task Changes_are_on_record()
    {
        var field = Site.Field("noted", type: "employee");
        await site.Drafts.ChangeAsync(draft => draft.With(field), "Added noted", Site.Administrator);
        await site.Drafts.ChangeAsync(draft => draft.With(field with { Label = "Noted" }), "Changed noted", Site.Administrator);
        await site.Drafts.UndoAsync(Site.Administrator);
        var history = await site.Audit.FindAsync(new() { Subjects = ["f-noted"] }, 10);
        Assert.Equal(["Undid: Changed noted", "Changed noted", "Added noted"], history.Select(entry => entry.Note.What));
        Assert.All(history, entry => Assert.Equal("Henna Aro", entry.By));
        Assert.Null(history[2].Note.Before);
        Assert.Contains(
            "\"label\": \"Noted\"",
            history[1].Note.After!.Replace("\":\"", "\": \"", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
        await site.Drafts.UndoAsync(Site.Administrator);
    }
}
