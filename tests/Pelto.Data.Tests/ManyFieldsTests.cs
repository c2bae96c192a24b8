using Pelto.Core.Queries;
using Pelto.Core.Records;
using Pelto.Core.Releases;
using Pelto.Data.Database;
using Pelto.Data.Jobs;
using Pelto.Data.Queries;

namespace Pelto.Data.Tests;

/// <summary>More fields than one table holds: they go on in further tables, and nobody who works notices.</summary>
public sealed class ManyFieldsTests(Site site) : IClassFixture<Site>
{
    private const int Many = 1200;

    private static FieldDefinition Text(int n) => Site.Field($"m_{n}", "text", type: "warehouse") with { Length = 60 };

    private async Task PublishAsync(Func<SiteDefinition, SiteDefinition> change)
    {
        await site.Drafts.ChangeAsync(change, "Test", Site.Administrator);
        var row = await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator));
        Assert.True(row.State == PublishingState.Done, row.Saying);
        await site.Services.GetRequiredService<JobRunner>().RunOpenAsync();
    }

    private async Task<RecordState> SavedAsync(long id, Action<RecordType, RecordChanges> change, string? version = null)
    {
        var type = site.Type("warehouse");
        var changes = new RecordChanges();
        change(type, changes);
        var saving = await site.Saver.SaveAsync(type, id, changes, Site.Administrator, version);
        Assert.True(
            saving.Result == SaveResult.Saved,
            $"{saving.Result}: {string.Join(" ", saving.Outcome?.Messages.Select(message => message.Sentence) ?? [])}"
        );
        return (await site.Store.FindAsync(type, id, Site.Administrator))!;
    }

    // Broken off once the second table is there and has a column, publishing leaves neither.
    private async Task BreakOffAsync()
    {
        await site.ScalarAsync(
            """
            CREATE FUNCTION public.break_off() RETURNS event_trigger LANGUAGE plpgsql AS $$
            BEGIN IF EXISTS (SELECT FROM pg_event_trigger_ddl_commands() WHERE command_tag = 'ALTER TABLE' AND object_identity LIKE '%+2%') THEN RAISE EXCEPTION 'Broken off here'; END IF; END $$;
            CREATE EVENT TRIGGER break_off ON ddl_command_end EXECUTE FUNCTION public.break_off();
            """
        );
        await site.Drafts.ChangeAsync(
            draft => Enumerable.Range(0, Placing.MaxHeld + 5).Aggregate(draft, (all, n) => all.With(Text(n))),
            "Test",
            Site.Administrator
        );
        Assert.Equal(
            "The database refused a step: Broken off here",
            (await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator))).Saying
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM information_schema.columns WHERE table_schema = 'added' "
                    + "AND (table_name LIKE 'warehouse+%' OR column_name LIKE 'm\\_%')"
            )
        );
        await site.ScalarAsync("DROP EVENT TRIGGER break_off; DROP FUNCTION public.break_off()");
    }

    [Fact(
        DisplayName = "1,200 fields and 2,000 are filled in one save, read, listed, sorted, looked in, asked for by queries, "
            + "calculated and filled by jobs, whichever table holds them; each is kept up, removed and brought back"
    )]
    public async Task Further_tables()
    {
        await BreakOffAsync();
        await PublishAsync(site => Enumerable.Range(0, Many).Aggregate(site, (all, n) => all.With(Text(n))));
        var type = site.Type("warehouse");
        Assert.Equal(["warehouse", "warehouse+2", "warehouse+3"], type.Header.AddedTables);
        Assert.Equal(Many, type.Header.StoredFields.Count());

        // All of them in one save: each of sixty letters, which is far beyond what one row of the database holds.
        string Long(int n) => $"{n} ".PadRight(60, (char)('a' + (n % 26)));
        Field At(string code) => site.Type("warehouse").Header.Find(code)!;
        var record = await SavedAsync(1, (type, changes) =>
        {
            for (var n = 0; n < Many; n++)
                changes.Header[type.Header.Find($"m_{n}")!] = Value.From(Long(n));
        });
        for (var n = 0; n < Many; n++)
            Assert.Equal(Long(n), record.Header[At($"m_{n}").Slot].Text);

        // One that is changed later in a further table alone is seen by whoever saves on top of what was before.
        var other = await SavedAsync(1, (type, changes) => changes.Header[type.Header.Find("m_1100")!] = Value.From("anew"));
        Assert.NotEqual(record.Version, other.Version);
        Assert.Equal("anew", other.Header[At("m_1100").Slot].Text);
        var stale = await site.Saver.SaveAsync(
            site.Type("warehouse"),
            1,
            site.Changes("warehouse", ("m_1100", Value.From("too late"))),
            Site.Administrator,
            record.Version
        );
        Assert.NotEqual(SaveResult.Saved, stale.Result);

        // Lists: sorted, looked in, by fields of all tables together.
        await SavedAsync(2, (type, changes) => changes.Header[type.Header.Find("m_1199")!] = Value.From("only here"));
        Assert.Null(RecordLists.TryOrder(type, "-m_1100,m_5", Site.Administrator, out var order));
        var rows = (
            await site.Lists.ReadAsync(new(type, order, 10) { Filters = [Filter.Parse(type, "m_1199~filled").Filter!] }, Site.Administrator)
        ).Rows;
        Assert.Equal([1L, 2L], rows.Select(row => row.Id).Order());
        Assert.Equal(Long(700), rows.Single(row => row.Id == 1)[At("m_700")].Value.Text);

        // What comes later stands behind these: a formula over fields of two tables, live and kept; a default for what is on file;
        // one that is filled until typed over.
        FieldDefinition[] later =
        [
            Site.Field("joined", "text", type: "warehouse") with
            {
                Length = 200,
                Formula = "m_3 & m_1100",
                Live = true,
            },
            Site.Field("kept", "text", type: "warehouse") with
            {
                Length = 200,
                Formula = "m_1100 & \"!\"",
            },
            Site.Field("begins", type: "warehouse") with
            {
                DefaultValue = "7",
                FillExisting = true,
            },
            Site.Field("untouched", "text", type: "warehouse") with
            {
                Length = 200,
                Formula = "m_1100",
                Fills = FillMode.Untouched,
            },
            Site.Field("leads", "link", type: "warehouse") with
            {
                Target = "partner",
            },
            Site.Field("unique", "text", type: "warehouse") with
            {
                Length = 60,
                Unique = true,
            },
        ];
        await PublishAsync(site => later.Aggregate(site, static (all, field) => all.With(field)));
        Assert.All(later.Where(field => !field.Live), field => Assert.Equal("warehouse+4", At(field.Code).Table));
        record = (await site.Store.FindAsync(site.Type("warehouse"), 1, Site.Administrator))!;
        Assert.Equal(
            (Long(3) + "anew", "anew!", 7m, "anew"),
            (
                record.Header[At("joined").Slot].Text,
                record.Header[At("kept").Slot].Text,
                record.Header[At("begins").Slot].Number,
                record.Header[At("untouched").Slot].Text
            )
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT count(*) FROM erp.warehouse"),
            await site.ScalarAsync("SELECT count(begins) FROM added.\"warehouse+4\"")
        );
        record = await SavedAsync(1, (type, changes) =>
        {
            changes.Header[type.Header.Find("m_1100")!] = Value.From("once more");
            changes.Header[type.Header.Find("untouched")!] = Value.From("by hand");
            changes.Header[type.Header.Find("leads")!] = Value.LinkTo(5);
            changes.Header[type.Header.Find("unique")!] = Value.From("one");
        });
        Assert.Equal(
            ("once more!", "by hand", 5L),
            (record.Header[At("kept").Slot].Text, record.Header[At("untouched").Slot].Text, record.Header[At("leads").Slot].Target)
        );
        Assert.True(record.Origins[At("untouched")].IsTyped);
        Assert.Equal(
            SaveResult.Refused,
            (
                await site.Saver.SaveAsync(
                    site.Type("warehouse"),
                    2,
                    site.Changes("warehouse", ("unique", Value.From("one"))),
                    Site.Administrator
                )
            ).Result
        );

        // A kind changes; a field is removed and brought back with what it held.
        await PublishAsync(site => site.With(site.Find("f-m_1199")! with { Kind = "long_text", Length = null }));
        Assert.Equal(
            "only here",
            (await site.Store.FindAsync(site.Type("warehouse"), 2, Site.Administrator))!.Header[At("m_1199").Slot].Text
        );
        var gone = site.Catalogues.Live.Site.Find("f-m_900")!;

        // What is dropped is what was made for it, whatever columns its entry names, and in whichever table.
        await PublishAsync(draft =>
            draft.Without(gone.Id) with
            {
                Removed = [new(gone.Id, gone.Label, gone.RecordType, gone.Part, gone.Code, ["m_901"])],
            }
        );
        Assert.Equal(
            "m_901",
            await site.ScalarAsync(
                "SELECT string_agg(column_name, ' ') FROM information_schema.columns "
                    + "WHERE table_schema = 'added' AND column_name IN ('m_900', 'm_901')"
            )
        );
        await PublishAsync(draft => draft.With(gone with { ReadBack = true }) with { Removed = [] });
        Assert.Equal(Long(900), (await site.Store.FindAsync(site.Type("warehouse"), 1, Site.Administrator))!.Header[At("m_900").Slot].Text);

        // A record that goes takes all its rows with it.
        var fresh = site.Store.Fresh(site.Type("warehouse"), Site.Administrator);
        Assert.NotNull(fresh);
        await site.ScalarAsync("DELETE FROM added.warehouse WHERE id = 2");
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM added.\"warehouse+3\" WHERE id = 2"));

        await BeyondOneAnswerAsync();
    }

    // More than the database gives in one answer, in one view and in one table.
    private async Task BeyondOneAnswerAsync()
    {
        const int Most = 2000;
        await PublishAsync(draft => Enumerable.Range(Many, Most - Many).Aggregate(draft, (all, n) => all.With(Text(n))));
        Field At(string code) => site.Type("warehouse").Header.Find(code)!;
        string Short(int n) => $"{n} of them";
        var record = await SavedAsync(3, (type, changes) =>
        {
            for (var n = 0; n < Most; n++)
                changes.Header[type.Header.Find($"m_{n}")!] = Value.From(Short(n));
        });
        for (var n = 0; n < Most; n++)
            Assert.Equal(Short(n), record.Header[At($"m_{n}").Slot].Text);

        // A page of a list that shows all of them, and the next; and one that shows one.
        Assert.Null(RecordLists.TryOrder(site.Type("warehouse"), "m_1999", Site.Administrator, out var order));
        var page = await site.Lists.ReadAsync(new(site.Type("warehouse"), order, 1), Site.Administrator);
        var row = Assert.Single(page.Rows);
        Assert.Equal(3L, row.Id);
        for (var n = 0; n < Most; n++)
            Assert.Equal(Short(n), row[At($"m_{n}")].Value.Text);
        Assert.NotEqual(
            3L,
            Assert.Single((await site.Lists.ReadAsync(new(site.Type("warehouse"), order, 1, page.Next), Site.Administrator)).Rows).Id
        );
        row = Assert.Single(
            (await site.Lists.ReadAsync(new(site.Type("warehouse"), order, 1) { Shown = [At("m_1500")] }, Site.Administrator)).Rows
        );
        Assert.Equal(
            (Short(1500), Short(1999), true),
            (row[At("m_1500")].Value.Text, row[At("m_1999")].Value.Text, row[At("m_1501")].Value.IsEmpty)
        );

        // Queries: the first view holds what three tables do.
        var first = await AskedAsync("SELECT m_3 || m_700 || m_1100 AS given FROM warehouse WHERE id = 3");
        Assert.Equal("", first.Said);
        Assert.Equal([Short(3) + Short(700) + Short(1100)], Assert.Single((await Queries.TryAsync(first.Query, [], default)).Rows));

        // Each further one holds what one table does, the way to it is told, and what is read is known by its field; rows read whole are
        // the part's.
        var last = At("m_1999").Table;
        Assert.Matches(@"^warehouse\+[56]$", last);
        Assert.EndsWith(
            $" m_1999 stands in \"{last}\", which is joined by its id.",
            (await AskedAsync("SELECT m_1999 FROM warehouse")).Said,
            StringComparison.Ordinal
        );
        Assert.Equal(
            "The database says: column \"m_1999\" does not exist.",
            (await AskedAsync("SELECT m_1999 FROM warehouse", isShown: false)).Said
        );
        var beside = await AskedAsync(
            $"SELECT w.number, f.m_1999 AS given FROM warehouse w JOIN \"{last}\" f ON f.id = w.id WHERE w.id = 3"
        );
        Assert.Equal(("", "f-m_1999"), (beside.Said, Assert.Single(beside.Query.Reads, read => read != "warehouse.number")));
        Assert.Equal(Short(1999), Assert.Single((await Queries.TryAsync(beside.Query, [], default)).Rows)[1]);
        var whole = await AskedAsync($"SELECT length(f::text) AS letters FROM \"{last}\" f WHERE f.id = 3");
        Assert.Equal(["warehouse" + QueryDefinition.WholeRows], whole.Query.Reads);
        var built = await AskedAsync(
            "",
            new()
            {
                RecordType = "warehouse",
                Where = "AND(m_3 = \"3 of them\"; m_1999 <> \"\")",
                Take = QueryTake.Rows,
                Values = [new("both", "m_700 & m_1999")],
                Order = "m_1500",
            }
        );
        Assert.Equal("", built.Said);
        Assert.Equal([Short(700) + Short(1999)], Assert.Single((await Queries.TryAsync(built.Query, [], default)).Rows));
    }

    private QueryRunner Queries => site.Services.GetRequiredService<QueryRunner>();

    private async Task<(QueryDefinition Query, string Said)> AskedAsync(string sql, QueryBuild? built = null, bool isShown = true)
    {
        var problems = new List<QueryProblem>();
        var asked = new QueryDefinition
        {
            Id = "q-many",
            Label = "Many",
            Sql = sql,
            Built = built,
        };
        var query = await Queries.InspectAsync(asked, site.Catalogues.Live, problems, default, _ => isShown);
        return (query, string.Join(" ", problems.Select(problem => problem.Message)));
    }
}
