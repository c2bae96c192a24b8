using Pelto.Data.Jobs;

namespace Pelto.Data.Tests;

/// <summary>Filling stored values again while everybody works, and when the server goes down in the middle.</summary>
public sealed class RefillTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private const int Records = 30_000;
    private const long First = 900_001;
    private const string Wrong =
        "SELECT count(*) FROM erp.sales_order o LEFT JOIN added.sales_order a ON a.id = o.id "
        + "WHERE a.left_over IS DISTINCT FROM round({0} - o.vat_percent, 2)";

    private JobRunner Jobs => site.Services.GetRequiredService<JobRunner>();

    private async Task FillAsync(string formula)
    {
        var publishing = await site.PublishAsync(Site.Field("left_over", "decimal") with { Digits = 14, Decimals = 2, Formula = formula });
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private Task<object?> WrongAsync(string from) =>
        site.ScalarAsync(string.Format(System.Globalization.CultureInfo.InvariantCulture, Wrong, from));

    private async Task ManyAsync()
    {
        if (await site.ScalarAsync($"SELECT count(*) FROM erp.sales_order WHERE id >= {First}") is not 0L)
            return;
        await site.ScalarAsync(
            $"""
            INSERT INTO erp.sales_order (id, number, customer, order_date, status, payment_terms, currency, company, vat_percent)
            SELECT {First
                - 1} + n, 'X-' || n, 1 + n % 50, DATE '2026-01-01', 'open', s.payment_terms, 'EUR', s.company, n % 25 FROM generate_series(1, {Records}) n, (SELECT payment_terms, company FROM erp.sales_order LIMIT 1) s
            """
        );
    }

    [Fact(
        DisplayName = "While a refill runs people save the same records: "
            + "none fails, and in the end each record holds what the formula gives for it"
    )]
    public async Task Saves_and_a_refill_cross()
    {
        await ManyAsync();
        await FillAsync("1000 - vat_percent");
        await Jobs.RunOpenAsync();
        Assert.Equal(0L, await WrongAsync("1000"));
        await FillAsync("2000 - vat_percent");
        var type = site.Type("sales_order");
        using var ended = new CancellationTokenSource();
        var saved = 0;

        // Newest first and oldest first, so that the saves meet the work wherever it is; every second one gives back what stood there,
        // which changes nothing of what is stored beside it.
        var writers = Enumerable
            .Range(0, 4)
            .Select(writer =>
                Task.Run(async () =>
                {
                    for (var i = 0; !ended.IsCancellationRequested; i++)
                    {
                        var id = First + (writer % 2 == 0 ? i * 37 % Records : Records - 1 - (i * 53 % Records));
                        Assert.Equal(
                            SaveResult.Saved,
                            (
                                await site.Saver.SaveAsync(
                                    type,
                                    id,
                                    site.Changes("sales_order", ("vat_percent", Value.From((decimal)((i + writer) % 25)))),
                                    Site.Desk
                                )
                            ).Result
                        );
                        Interlocked.Increment(ref saved);
                    }
                })
            )
            .ToList();
        while (Volatile.Read(ref saved) < 20 && writers.TrueForAll(writer => !writer.IsCompleted))
            await Task.Delay(5);
        var before = saved;
        await Jobs.RunOpenAsync();
        var during = saved - before;
        await ended.CancelAsync();
        await Task.WhenAll(writers);
        Assert.True(during > 0, "Nobody saved anything meanwhile.");
        Assert.Equal(0L, await WrongAsync("2000"));
        Assert.Equal(JobState.Done, (await Jobs.AllAsync())[0].State);
    }

    [Fact(
        DisplayName = "What is saved as it stood there already is not written over by a refill "
            + "that read the record before: neither what is calculated nor what somebody typed"
    )]
    public async Task Same_value_is_a_value()
    {
        FieldDefinition Kept(string code, string kind, string formula) => Site.Field(code, kind) with { Formula = formula };
        var old = new[]
        {
            Kept("low", "yes_no", "vat_percent < 10"),
            Kept("high", "yes_no", "vat_percent > 20"),
            Kept("typed_count", "integer", "ROUND(vat_percent; 0)") with
            {
                Fills = FillMode.Untouched,
            },
            Kept("typed_none", "integer", "IF(vat_percent = 77; 1)") with
            {
                Fills = FillMode.Untouched,
            },
        };
        Assert.Equal(PublishingState.Done, (await site.PublishAsync(old)).State);
        await Jobs.RunOpenAsync();
        await site.Saver.SaveAsync(site.Type("sales_order"), 40, site.Changes("sales_order", ("vat_percent", Value.From(20m))), Site.Desk);
        foreach (
            var (code, formula) in new[]
            {
                ("low", "vat_percent >= 10"),
                ("typed_count", "ROUND(vat_percent; 0) + 1"),
                ("typed_none", "IF(vat_percent < 77; 1)"),
            }
        )
        {
            var table = await site.TableWithAsync(code);
            if (code == "typed_none")
                await site.ScalarAsync($"DELETE FROM {table} WHERE id = 40");
            Assert.Equal(
                PublishingState.Done,
                (await site.PublishAsync(old.Single(field => field.Code == code) with { Formula = formula })).State
            );
            var field = site.Type("sales_order").Header.Find(code)!;
            var record = (await site.Store.FindAsync(field.Part.RecordType, 40, Site.Desk))!;
            var before = record.Header[field.Slot];

            // The refill has calculated all that it is going to store, and waits for a row that somebody holds: the first in whatever order
            // it goes.
            var key = await site.ScalarAsync(
                $"SELECT indexrelid::regclass::text FROM pg_index WHERE indrelid = '{table}'::regclass AND indisprimary"
            );
            await site.ScalarAsync($"CLUSTER {table} USING {key!.ToString()!.Split('.')[^1]}");
            await using var holder = await site.Source.OpenConnectionAsync();
            await using var transaction = await holder.BeginTransactionAsync();
            await using (
                var hold = new Npgsql.NpgsqlCommand(
                    $"INSERT INTO {table} AS t (id) SELECT min(id) FROM erp.sales_order ON CONFLICT (id) DO UPDATE SET id = t.id",
                    holder,
                    transaction
                )
            )
                await hold.ExecuteNonQueryAsync();
            var running = Jobs.RunOpenAsync();
            await site.UntilWaitingAsync(running, "WITH differ");
            var opened = record.Copy();
            if (!field.IsComputed)
                opened.Header[field.Slot] = Value.From(99m);
            var changes = new RecordChanges { Opened = opened };
            changes.Header[field.IsComputed ? field.Part.Find("vat_percent")! : field] = field.IsComputed ? Value.From(5m) : before;
            var saving = await site.Saver.SaveAsync(field.Part.RecordType, 40, changes, Site.Desk);
            Assert.True(saving.Result == SaveResult.Saved, string.Join(" ", saving.Outcome.Messages.Select(message => message.Sentence)));
            await transaction.CommitAsync();
            await running;
            var after = (await site.Store.FindAsync(field.Part.RecordType, 40, Site.Desk))!;
            Assert.True(before == after.Header[field.Slot], $"{code}: {before} became {after.Header[field.Slot]}.");
            Assert.True(field.IsComputed || after.Origins[field].IsTyped, $"{code} is not known as typed.");
        }
    }

    [Fact(DisplayName = "What a refill stored is taken back in fields of every kind that a formula gives, to the last character")]
    public async Task All_kinds_are_taken_back()
    {
        (string Kind, string First, string Then)[] kinds =
        [
            ("yes_no", "vat_percent < 10", "vat_percent >= 10"),
            ("integer", "ROUND(vat_percent; 0)", "ROUND(vat_percent; 0) + 1"),
            ("decimal", "vat_percent * 1.25", "vat_percent * 2.75"),
            ("percent", "vat_percent / 100", "vat_percent / 200"),
            ("date", "order_date + 1", "order_date + 2"),
            ("text", "number & \"|#\"", "number & \"|\""),
            ("choice", "currency", "IF(currency = \"EUR\"; \"NOK\"; \"EUR\")"),
        ];
        foreach (var (kind, first, then) in kinds)
        {
            var field = Site.Field("of_" + kind, kind) with { Formula = first, Decimals = kind is "decimal" or "percent" ? 4 : null };
            if (kind == "choice")
                field = field with { Choices = [new("EUR", "EUR"), new("NOK", "NOK"), new("SEK", "SEK")] };
            var publishing = await site.PublishAsync(field);
            Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
            await Jobs.RunOpenAsync();
            var stands =
                $"SELECT md5(string_agg(id || ':' || coalesce({field.Code}::text, 'none'), ',' ORDER BY id)) FROM added.sales_order";
            var before = await site.ScalarAsync(stands);
            Assert.Equal(PublishingState.Done, (await site.PublishAsync(field with { Formula = then })).State);
            await Jobs.RunOpenAsync();
            Assert.NotEqual(before, await site.ScalarAsync(stands));
            Assert.True(await Jobs.UndoAsync((await Jobs.AllAsync())[0].Id, Site.Administrator));
            await Jobs.RunOpenAsync();
            Assert.True(Equals(before, await site.ScalarAsync(stands)), $"{kind} is not what it was.");
        }
    }

    [Fact(
        DisplayName = "What is published together is stored in order: "
            + "each field after those that it is calculated from, over record types too"
    )]
    public async Task Stored_in_order()
    {
        FieldDefinition Kept(string code, string formula, string type) =>
            Site.Field(code, "decimal", type: type) with
            {
                Digits = 14,
                Decimals = 2,
                Formula = formula,
            };
        var fields = Enumerable
            .Range(0, 12)
            .Select(i => Kept($"link_{i}", i == 0 ? "customer.limit_9 + 1" : $"link_{i - 1} + 1", "sales_order"))
            .Reverse()
            .Concat(
                Enumerable
                    .Range(0, 10)
                    .Select(i => Kept($"limit_{i}", i == 0 ? "credit_limit * 2" : $"limit_{i - 1} + 1", "partner"))
                    .Reverse()
            )
            .ToList();
        var publishing = await site.PublishAsync(fields);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        await Jobs.RunOpenAsync();
        var proofs = site.Services.GetRequiredService<FormulaProofs>();
        foreach (var field in fields)
            Assert.Equal(0, await proofs.CountStaleAsync(site.Catalogues.Live.FindField(field.Id)!, Site.Administrator, default));
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer "
                    + "JOIN added.sales_order a ON a.id = o.id WHERE a.link_11 IS DISTINCT FROM p.credit_limit * 2 + 9 + 12"
            )
        );
    }

    [Fact(
        DisplayName = "A refill that ends with its server is gone on with by the next start, "
            + "from the batch that it had come to; stopped and undone, all is as it was"
    )]
    public async Task Goes_on_after_a_crash()
    {
        await ManyAsync();
        await FillAsync("3000 - vat_percent");
        await Jobs.RunOpenAsync();
        var before = await site.ScalarAsync("SELECT md5(string_agg(id || ':' || left_over, ',' ORDER BY id)) FROM added.sales_order");
        await FillAsync("4000 - vat_percent");

        // As when the process dies: the connection is cut in the middle of a batch, once some were done.
        for (var turn = 0; turn < 3; turn++)
        {
            using var dying = new CancellationTokenSource();
            var run = Jobs.RunOpenAsync(dying.Token);
            var reached = (await Jobs.AllAsync())[0].Position;
            while (
                (turn > 0 && (await Jobs.AllAsync())[0].Position == reached)
                || await site.ScalarAsync(
                    """
                    SELECT pg_terminate_backend(pid) FROM pg_stat_activity
                    WHERE datname = current_database() AND state = 'active' AND query LIKE 'WITH differ%' AND pid <> pg_backend_pid()
                    """
                )
                    is null
            )
                Assert.False(run.IsCompleted, "It was done before it was cut off.");
            await dying.CancelAsync();

            // However it ends: by the cut, by being called off, or by having been done in time.
            var end = run.WaitAsync(TimeSpan.FromSeconds(20));
            await Task.WhenAny(end);
            Assert.IsNotType<TimeoutException>(end.Exception?.InnerException);
        }

        var next = await site.AnotherNodeAsync();
        await next.GetRequiredService<JobRunner>().RunOpenAsync();
        await next.DisposeAsync();
        Assert.Equal(0L, await WrongAsync("4000"));
        var job = (await Jobs.AllAsync())[0];
        Assert.Equal((JobState.Done, (long)(await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"))!), (job.State, job.Changed));

        Assert.True(await Jobs.UndoAsync(job.Id, Site.Administrator));
        await Jobs.RunOpenAsync();
        Assert.Equal(
            before,
            await site.ScalarAsync("SELECT md5(string_agg(id || ':' || left_over, ',' ORDER BY id)) FROM added.sales_order")
        );
    }

    [Fact(DisplayName = "A node that lost its lock and works on unknowingly does no harm to the one that took its job over")]
    public async Task Two_nodes_at_one_job()
    {
        await ManyAsync();
        await FillAsync("5000 - vat_percent");
        await Jobs.RunOpenAsync();
        await FillAsync("6000 - vat_percent");
        await using var node = await site.AnotherNodeAsync();
        var unknowing = node.GetRequiredService<JobRunner>().RunOpenAsync();
        while (
            await site.ScalarAsync(
                "SELECT pg_terminate_backend(pid) FROM pg_locks WHERE locktype = 'advisory' AND objid = 7301004 "
                    + "AND database = (SELECT oid FROM pg_database WHERE datname = current_database())"
            )
                is null
            && !unknowing.IsCompleted
        )
            await Task.Delay(5);
        await Jobs.RunOpenAsync();
        await Task.WhenAny(unknowing);
        Assert.Equal(0L, await WrongAsync("6000"));
        var job = (await Jobs.AllAsync())[0];
        Assert.Equal((JobState.Done, (long)(await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"))!), (job.State, job.Changed));
        Assert.True(await Jobs.UndoAsync(job.Id, Site.Administrator));
        await Jobs.RunOpenAsync();
        Assert.Equal(0L, await WrongAsync("5000"));
    }
}
