using System.Diagnostics;
using Npgsql;
using Pelto.Core.Releases;
using Pelto.Core.Updates;
using Pelto.Data.Hosts;
using Pelto.Data.Releases;

namespace Pelto.Data.Tests;

/// <summary>
/// A publishing that fails or is stopped leaves nothing behind: the database is dumped before and after by PostgreSQL's own pg_dump.
/// </summary>
public sealed class TakingBackTests(NarrowSite site) : IClassFixture<NarrowSite>, IAsyncLifetime
{
    // What a plan only does once the release is live, which nothing takes back.
    private static readonly Type[] OnlyAfter =
    [
        typeof(ValidateCheck),
        typeof(ValidateReference),
        typeof(ValidateLinks),
        typeof(AddLinkIndex),
        typeof(AddFindIndex),
        typeof(AddListIndex),
        typeof(DropFindIndex),
        typeof(FinishConversion),
        typeof(SaveData),
        typeof(DropColumns),
    ];

    private static readonly HashSet<Type> Met = [];

    private static FieldDefinition Remark => Site.Field("remark", "text", type: "item") with { Length = 5 };

    private static FieldDefinition Tag => Site.Field("tag", "text", type: "item") with { Length = 9, Unique = true };

    private static FieldDefinition Checked => Site.Field("checked_by", "link") with { Target = "partner" };

    private static FieldDefinition Riggers => Site.Field("riggers", "links") with { Target = "employee" };

    private static FieldDefinition Measure => Site.Field("measure", "text", type: "item");

    public async ValueTask InitializeAsync()
    {
        if (site.Type("item").Header.Find("remark") is not null)
            return;
        var row = await site.PublishAsync([Remark, Tag, Checked, Riggers, Measure]);
        Assert.True(row.State == PublishingState.Done, row.Saying);
        await site.ScalarAsync(
            "INSERT INTO added.item (id, tag) SELECT id, id::text FROM erp.item ON CONFLICT (id) DO UPDATE SET tag = excluded.tag"
        );
        await site.ScalarAsync(
            "INSERT INTO added.item (id, measure) SELECT id, "
                + "CASE WHEN id % 3 = 0 THEN 'about 3' ELSE id::text END FROM erp.item "
                + "ON CONFLICT (id) DO UPDATE SET measure = excluded.measure"
        );

        // Breaks off at one command that changes structure, the last moment at which it can.
        await site.ScalarAsync(
            """
            CREATE SCHEMA trial;
            CREATE SEQUENCE trial.command;
            CREATE TABLE trial.breaks (at bigint);
            INSERT INTO trial.breaks VALUES (0);
            CREATE FUNCTION trial.break_off() RETURNS event_trigger LANGUAGE plpgsql AS $$ BEGIN IF nextval('trial.command') = (SELECT at FROM trial.breaks) THEN RAISE EXCEPTION 'Broken off here'; END IF; END $$;
            CREATE EVENT TRIGGER break_off ON ddl_command_end EXECUTE FUNCTION trial.break_off();
            """
        );
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private static SiteDefinition EveryStep(SiteDefinition draft)
    {
        var plan = new RecordTypeDefinition
        {
            Id = "t-lift_plan",
            Code = "lift_plan",
            Label = "Lift plan",
            Plural = "Lift plans",
            Numbering = new("LP-", 4, 1) { Gapless = true, PerCompany = true },
            Lines = [new("lifts", "Lift", "Lifts")],
            Read = ["*"],
            Write = ["order_desk"],
        };
        return draft
            .With(plan)
            .With(Remark with { Length = 20 })
            .With(Tag with { Unique = false })
            .With(Checked with { ClearsWithTarget = true })
            .With(Riggers with { ClearsWithTarget = true })
            .With(Measure with { Kind = "decimal" })
            .With(Site.Field("class_code", type: "partner") with { Unique = true })
            .With(Site.Field("mass", "decimal", "lifts", "lift_plan"))
            .With(Site.Field("lift_plan", "link") with { Target = "lift_plan" })
            .With(Site.Field("banksmen", "links", "lifts", "lift_plan") with { Target = "employee" });
    }

    private SiteDefinition NextVersion(SiteDefinition draft) =>
        HostUpdate.Make(site.Catalogues.Build(draft), site.Services.GetRequiredService<HostVersions>().Find("4.3")!).Site;

    [Fact(
        DisplayName = "Broken off at any command of any step, publishing leaves tables, columns, rules, indexes, "
            + "triggers and views exactly as they were, and goes live when tried again"
    )]
    public async Task Every_step_is_taken_back()
    {
        foreach (var change in new Func<SiteDefinition, SiteDefinition>[] { EveryStep, NextVersion })
        {
            await site.Drafts.ChangeAsync(change, "Test", Site.Administrator);
            var (_, _, plan) = await site.Plans.PlanAsync(Site.Administrator);
            Met.UnionWith(plan.Before.Select(step => step.GetType()));
            var (before, broken) = (await DumpAsync(), 0);
            while (true)
            {
                var id = await site.Publisher.StartAsync("For a test", Site.Administrator);
                await site.ScalarAsync($"UPDATE trial.breaks SET at = {broken + 1}");
                await site.ScalarAsync("SELECT setval('trial.command', 1, false)");
                var row = await site.Publishings.RunAsync(id);
                await site.ScalarAsync("UPDATE trial.breaks SET at = 0");
                if (row.State == PublishingState.Done)
                    break;
                Assert.Equal("The database refused a step: Broken off here", row.Saying);
                Assert.Equal(before, await DumpAsync());
                Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM pelto.conversion"));
                Assert.Null((await site.Publisher.FindAsync(id))!.StorageBefore);
                broken++;
            }

            Assert.True(broken >= plan.Before.Count(step => step is not ConvertValues), $"Only {broken} commands were broken off.");
            Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM pg_index WHERE NOT indisvalid"));
        }

        // A step that is thought of later has to be met here, or to be named as one that comes after the switch.
        Assert.Equal(
            typeof(PlanStep)
                .Assembly.GetTypes()
                .Where(type => type.IsSubclassOf(typeof(PlanStep)))
                .Except(OnlyAfter)
                .Select(type => type.Name)
                .Order(),
            Met.Select(type => type.Name).Order()
        );
    }

    [Fact(DisplayName = "A change of kind that breaks off while values are carried over leaves no column and no trigger")]
    public async Task Carrying_is_taken_back()
    {
        var held = Site.Field("carried", "text", type: "employee");
        await site.PublishAsync(held);
        await site.ScalarAsync(
            "INSERT INTO added.employee (id, carried) SELECT id, id::text FROM erp.employee "
                + "ON CONFLICT (id) DO UPDATE SET carried = excluded.carried"
        );
        var table = await site.TableWithAsync("carried");
        await site.ScalarAsync(
            "CREATE FUNCTION trial.refuse() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE EXCEPTION 'Not carried'; END $$; "
                + $"CREATE TRIGGER refuse BEFORE UPDATE ON {table} FOR EACH ROW EXECUTE FUNCTION trial.refuse()"
        );
        var before = await DumpAsync();
        Assert.Equal((PublishingState.Failed, "The database refused a step: Not carried"), await EndAsync(held with { Kind = "integer" }));
        Assert.Equal(before, await DumpAsync());
        await site.Drafts.UndoAsync(Site.Administrator);
        await site.ScalarAsync($"DROP TRIGGER refuse ON {table}");
    }

    [Fact(
        DisplayName = "Publishing that waits says for whom; stopping it works at once, "
            + "and what cannot be taken back yet is, once that is possible"
    )]
    public async Task Stopping_at_once()
    {
        var before = await DumpAsync();
        await using var other = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(site.Connection) { ApplicationName = "Nightly import", Pooling = false }.ConnectionString
        );
        await other.OpenAsync();
        await using var transaction = await other.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
        await using (var look = new NpgsqlCommand("SELECT count(*) FROM erp.warehouse", other, transaction))
            await look.ExecuteScalarAsync();

        // Its columns are there by then; the index that is built beside everybody's work waits for whoever may still see the time before.
        await site.Drafts.ChangeAsync(
            draft => draft.With(Site.Field("waited", type: "item") with { Unique = true }),
            "Test",
            Site.Administrator
        );
        var id = await site.Publisher.StartAsync("Waits", Site.Administrator);
        var running = site.Publishings.RunAsync(id);
        var saying = await SayingAsync(id, "Waits for");
        Assert.Contains("Waits for Nightly import, which works in the database as ", saying, StringComparison.Ordinal);
        Assert.EndsWith("and does nothing at present. Nobody waits behind this, and it can be stopped.", saying, StringComparison.Ordinal);

        await using (
            var hold = new NpgsqlCommand($"LOCK TABLE {await site.TableWithAsync("waited")} IN ACCESS SHARE MODE", other, transaction)
        )
            await hold.ExecuteNonQueryAsync();
        var began = Stopwatch.GetTimestamp();
        Assert.True(await site.Publisher.StopAsync(id, Site.Administrator));
        Assert.Equal(PublishingState.Stopped, (await running).State);
        Assert.True(Stopwatch.GetElapsedTime(began) < TimeSpan.FromSeconds(10), "Stopping waited for whoever held publishing up.");
        Assert.NotNull((await site.Publisher.FindAsync(id))!.StorageBefore);
        await transaction.CommitAsync();

        await using var node = await site.AnotherNodeAsync();
        await node.GetRequiredService<PublishingQueue>().ResumeAsync();
        Assert.Null((await site.Publisher.FindAsync(id))!.StorageBefore);
        Assert.Equal(before, await DumpAsync());
        await site.Drafts.UndoAsync(Site.Administrator);
    }

    [Fact(
        DisplayName = "What a node that died had begun is taken back before another publishing goes live, and takes nothing of that with it"
    )]
    public async Task Another_goes_first()
    {
        await site.Drafts.ChangeAsync(
            draft => draft.With(Site.Field("twice", type: "employee") with { Unique = true }),
            "Test",
            Site.Administrator
        );
        var (first, second) = (
            await site.Publisher.StartAsync("First", Site.Administrator),
            await site.Publisher.StartAsync("Second", Site.Administrator)
        );
        await using (var node = await site.AnotherNodeAsync())
        {
            // It dies while its index waits for somebody.
            using var dies = new CancellationTokenSource();
            await using var other = await site.Source.OpenConnectionAsync();
            await using var transaction = await other.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
            await using (var look = new NpgsqlCommand("SELECT count(*) FROM erp.warehouse", other, transaction))
                await look.ExecuteScalarAsync();
            var dying = node.GetRequiredService<PublishingQueue>().RunAsync(first, dies.Token);
            await SayingAsync(first, "Waits for");
            await dies.CancelAsync();
            await Assert.ThrowsAnyAsync<OperationCanceledException>(() => dying);
        }

        Assert.NotNull((await site.Publisher.FindAsync(first))!.StorageBefore);
        Assert.Equal(PublishingState.Done, (await site.Publishings.RunAsync(second)).State);
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(
                    site.Type("employee"),
                    3,
                    site.Changes("employee", ("twice", Value.From(4m))),
                    Site.Administrator
                )
            ).Result
        );
        var after = await DumpAsync();
        await site.Publishings.ResumeAsync();
        Assert.Equal(PublishingState.Failed, (await site.Publisher.FindAsync(first))!.State);
        Assert.Equal(after, await DumpAsync());
        Assert.Equal(4L, await site.ScalarAsync("SELECT twice FROM added.employee WHERE id = 3"));
    }

    private async Task<(PublishingState State, string Saying)> EndAsync(FieldDefinition field)
    {
        var row = await site.PublishAsync(field);
        return (row.State, row.Saying);
    }

    private async Task<string> SayingAsync(Guid id, string begins)
    {
        for (var look = 0; look < 400; look++)
        {
            if ((await site.Publisher.FindAsync(id))!.Saying is var saying && saying.StartsWith(begins, StringComparison.Ordinal))
                return saying;
            await Task.Delay(25);
        }

        throw new TimeoutException((await site.Publisher.FindAsync(id))!.Saying);
    }

    private async Task<string> DumpAsync()
    {
        var to = new NpgsqlConnectionStringBuilder(site.Connection);
        var start = new ProcessStartInfo(
            "pg_dump",
            ["--schema-only", "--host", to.Host!, "--port", $"{to.Port}", "--username", to.Username!, to.Database!]
        )
        {
            RedirectStandardOutput = true,
            Environment = { ["PGPASSWORD"] = to.Password },
        };
        using var dumping = Process.Start(start)!;
        var lines = (await dumping.StandardOutput.ReadToEndAsync()).Split('\n');
        await dumping.WaitForExitAsync();
        Assert.Equal(0, dumping.ExitCode);

        // It marks each dump with a word of its own.
        return string.Join('\n', lines.Where(line => !line.Contains("restrict ", StringComparison.Ordinal)));
    }
}
