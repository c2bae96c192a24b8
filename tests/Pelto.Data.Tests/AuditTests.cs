using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;
using Pelto.Data.Jobs;
using Pelto.Data.Releases;

namespace Pelto.Data.Tests;

/// <summary>The audit in the database: what is put on record with what happens, and that nobody takes it back.</summary>
public sealed class AuditTests(Site site) : IClassFixture<Site>
{
    private static readonly Viewer Henna = Site.Administrator with { From = "192.0.2.7" };

    private async Task GuardAsync(params string[] on)
    {
        if (on.All(one => site.Catalogues.Live.Site.GuardOf(one) is not null))
            return;
        await site.Drafts.ChangeAsync(
            draft => on.Aggregate(draft, static (draft, one) => draft.With(new Guard { On = one })),
            "Guarded " + string.Join(", ", on),
            Henna
        );
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("Figures are not for everybody", Henna));
    }

    private async Task<string[]> SaidAsync(AuditSearch search) =>
        [
            .. (await site.Audit.FindAsync(search, 100)).Select(entry =>
                $"{entry.By}, {entry.From}: {entry.Note.What}: {entry.Note.Before ?? "-"} > {entry.Note.After ?? "-"}"
            ),
        ];

    [Fact(DisplayName = "The history of a field tells when it changed, and nothing of guards on it")]
    public async Task History_is_the_fields_own()
    {
        var history = site.Services.GetRequiredService<ReleaseHistory>();
        await site.PublishAsync(Site.Field("told"));
        var since = site.Catalogues.Live.Release;
        await GuardAsync("f-told");
        await site.PublishAsync(Site.Field("other_than_told"));
        Assert.True(site.Catalogues.Live.Release > since + 1);
        Assert.Equal((since, since), await MarksAsync());
        await site.PublishAsync(Site.Field("told") with { Label = "Told anew" });
        Assert.Equal((since, site.Catalogues.Live.Release), await MarksAsync());

        async Task<(int, int)> MarksAsync()
        {
            var known = (await history.AllAsync(TestContext.Current.CancellationToken))["f-told"];
            return (known.Since.Release, known.Changed.Release);
        }
    }

    [Fact(
        DisplayName = "Saving, deleting and bringing back put guarded values on record with who, from where, "
            + "before and after, in the same transaction; a refused save puts nothing"
    )]
    public async Task Values_are_on_record()
    {
        await GuardAsync("partner.credit_limit", "partner.note");
        var type = site.Type("partner");
        var made = await site.Saver.SaveAsync(
            type,
            null,
            site.Changes(
                "partner",
                ("name", Value.From("Vesiposti Oy")),
                ("credit_limit", Value.From(4000m)),
                ("country", Value.From("FI"))
            ),
            Henna
        );
        Assert.True(made.Result == SaveResult.Saved, string.Join(" ", made.Outcome.Messages.Select(message => message.Sentence)));
        var id = made.Outcome.State.Id!.Value;
        await site.Saver.SaveAsync(
            type,
            id,
            site.Changes("partner", ("credit_limit", Value.From(5000m)), ("name", Value.From("Vesiposti Ab"))),
            Henna
        );
        var refused = await site.Saver.SaveAsync(
            type,
            id,
            site.Changes("partner", ("credit_limit", Value.From(6000m)), ("name", Value.Empty)),
            Henna
        );
        Assert.Equal(SaveResult.Refused, refused.Result);
        var deleted = await site.Deleter.DeleteAsync(site.Catalogues.Live, type, id, Henna);
        await site.Deleter.RestoreAsync(site.Catalogues.Live, type, deleted.Undo!.Value, Henna);
        var title = made.Outcome.State.Title;
        Assert.Equal(
            [
                $"Henna Aro, 192.0.2.7: Filled Credit limit of {title}: - > 5000",
                $"Henna Aro, 192.0.2.7: Emptied Credit limit of {title}: 5000 > -",
                $"Henna Aro, 192.0.2.7: Changed Credit limit of {title}: 4000 > 5000",
                $"Henna Aro, 192.0.2.7: Filled Credit limit of {title}: - > 4000",
            ],
            await SaidAsync(new(Kind: AuditKinds.Value, RecordType: "partner", Record: id))
        );
        Assert.Single(
            await SaidAsync(
                new(Words: "5000", Kind: AuditKinds.Value, RecordType: "partner", Record: id) { Subjects = ["partner.credit_limit"] }
            ),
            said => said.Contains("Changed", StringComparison.Ordinal)
        );
        Assert.Null((await site.Audit.CheckAsync()).Broken);
    }

    [Fact(
        DisplayName = "A release, the change of a definition before it, "
            + "and a job on a guarded field are on record; taking the job back is too"
    )]
    public async Task Jobs_are_on_record()
    {
        await site.PublishAsync(Site.Field("grade", type: "employee"));
        await GuardAsync("f-grade");
        await site.PublishAsync(Site.Field("grade", type: "employee") with { DefaultValue = "3", FillExisting = true });
        var jobs = site.Services.GetRequiredService<JobRunner>();
        await jobs.RunOpenAsync();
        var job = (await jobs.AllAsync())[0];
        var filled = Assert.Single(await site.Audit.FindAsync(new(Kind: AuditKinds.Value, RecordType: "employee"), 10));
        Assert.Contains("(40 rows)", filled.Note.What, StringComparison.Ordinal);
        Assert.Contains("\"7\": \"3\"", filled.Note.After!, StringComparison.Ordinal);
        Assert.Equal(("a job", "Henna Aro"), (filled.From, filled.By));
        await jobs.UndoAsync(job.Id, Henna);
        await jobs.RunOpenAsync();
        var undone = (await site.Audit.FindAsync(new(Kind: AuditKinds.Value, RecordType: "employee"), 10))[0];
        Assert.Equal(filled.Note.After, undone.Note.Before);
        Assert.Contains("\"7\": null", undone.Note.After!, StringComparison.Ordinal);
        Assert.Contains(await SaidAsync(new(Kind: AuditKinds.Release)), said =>
            said.StartsWith("Henna Aro, 192.0.2.7: Release", StringComparison.Ordinal)
            && said.Contains("went live: Figures are not for everybody", StringComparison.Ordinal)
        );
        Assert.Contains(await SaidAsync(new(Kind: AuditKinds.Access) { Subjects = ["f-grade"] }), said =>
            said.StartsWith("Henna Aro, 192.0.2.7: Guarded f-grade: - > {", StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "Many at once: entries are in one order without gaps, and the chain holds")]
    public async Task Many_at_once()
    {
        await GuardAsync("partner.credit_limit", "partner.note");
        await Parallel.ForEachAsync(Enumerable.Range(1, 40), async (at, cancel) =>
            await site.Saver.SaveAsync(
                site.Type("partner"),
                1 + (at % 7),
                site.Changes("partner", ("credit_limit", Value.From(1000m + at))),
                Henna,
                cancel: cancel
            )
        );
        var check = await site.Audit.CheckAsync();
        Assert.Null(check.Why);
        Assert.True(check.Entries >= 40);
    }

    [Theory(
        DisplayName = "The application's role of the database neither changes nor deletes the audit, nor makes tables, nor writes releases"
    )]
    [InlineData("UPDATE pelto.audit SET what = ''")]
    [InlineData("DELETE FROM pelto.audit")]
    [InlineData("TRUNCATE pelto.audit")]
    [InlineData("DROP TABLE pelto.audit")]
    [InlineData("ALTER TABLE pelto.audit DISABLE TRIGGER ALL")]
    [InlineData("DROP TRIGGER only_grows ON pelto.audit")]
    [InlineData("UPDATE pelto.release SET definition = '{}'")]
    [InlineData(
        "INSERT INTO pelto.release SELECT number + 1000, definition, comment, "
            + "summary, published_by, published_at FROM pelto.release LIMIT 1"
    )]
    [InlineData("ALTER TABLE erp.partner ADD COLUMN mine text")]
    [InlineData("CREATE TABLE erp.mine (id int)")]
    [InlineData("CREATE TABLE public.mine (id int)")]
    [InlineData("CREATE FUNCTION pelto.mine() RETURNS int LANGUAGE sql AS 'SELECT 1'")]
    [InlineData("CREATE ROLE mine")]
    [InlineData("SET SESSION AUTHORIZATION pelto")]
    [InlineData("COPY pelto.audit TO PROGRAM 'cat'")]
    [InlineData("SELECT pg_read_file('/etc/passwd')")]
    public async Task Application_is_held(string sql)
    {
        await site.Drafts.ChangeAsync(draft => draft.With(Site.Field("x" + Guid.NewGuid().ToString("N")[..6])), "For a test", Henna);
        await site.Drafts.UndoAsync(Henna);
        await using var command = site.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand(sql);
        var refused = await Assert.ThrowsAsync<PostgresException>(() => command.ExecuteNonQueryAsync());
        Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, refused.SqlState);
    }

    [Fact(
        DisplayName = "Even the owner of the database cannot change an entry by mistake, "
            + "and what they change on purpose shows: an entry altered, taken out, or a chain made anew"
    )]
    public async Task Tampering_shows()
    {
        for (var i = 0; i < 3; i++)
        {
            await site.Drafts.ChangeAsync(draft => draft.With(Site.Field("tampered")), "Added tampered", Henna);
            await site.Drafts.UndoAsync(Henna);
        }

        await Assert.ThrowsAsync<PostgresException>(() => site.ScalarAsync("UPDATE pelto.audit SET by = 'Nobody'"));
        var last = (await site.Audit.CheckAsync()).Entries;
        await TamperAsync($"UPDATE pelto.audit SET what = 'Nothing' WHERE number = {last - 1}", last - 1, "is not as it was written");
        await TamperAsync($"DELETE FROM pelto.audit WHERE number = {last - 2}", last - 2, "is missing");

        // Made anew from there on, with digests that fit: the seal tells.
        var entry = (await site.Audit.FindAsync(new(), 1))[0];
        var before = (string)(await site.ScalarAsync($"SELECT hash FROM pelto.audit WHERE number = {last - 1}"))!;
        var forged = (entry with { By = "Somebody else" }).Hash(before);
        await TamperAsync(
            $"UPDATE pelto.audit SET by = 'Somebody else', hash = '{forged}' WHERE number = {last}",
            last,
            "was not written by this installation"
        );
    }

    private async Task TamperAsync(string sql, long broken, string why)
    {
        await site.ScalarAsync("CREATE TABLE public.kept AS TABLE pelto.audit");
        try
        {
            await site.ScalarAsync($"ALTER TABLE pelto.audit DISABLE TRIGGER only_grows; {sql}");
            var check = await site.Audit.CheckAsync();
            Assert.Equal(broken, check.Broken);
            Assert.Contains(why, check.Why, StringComparison.Ordinal);
        }
        finally
        {
            await site.ScalarAsync(
                "DELETE FROM pelto.audit; INSERT INTO pelto.audit SELECT * FROM public.kept; "
                    + "DROP TABLE public.kept; ALTER TABLE pelto.audit ENABLE TRIGGER only_grows"
            );
        }
    }
}
