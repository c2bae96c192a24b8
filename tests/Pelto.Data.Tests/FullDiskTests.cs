using System.Diagnostics;
using Npgsql;
using Pelto.Data.Database;
using Pelto.Data.Jobs;

namespace Pelto.Data.Tests;

/// <summary>The disk of the database is full: on a small file system of its own, for what is added to items.</summary>
public sealed class FullDiskTests(Site site) : IClassFixture<Site>, IAsyncLifetime
{
    private readonly string folder = $"/tmp/pelto-full-{Guid.NewGuid():N}";
    private readonly string space = $"full_{Guid.NewGuid():N}";
    private bool isMounted;

    public async ValueTask InitializeAsync()
    {
        Directory.CreateDirectory(folder);
        isMounted = await RunAsync("mount", "-t", "tmpfs", "-o", "size=8m,mode=0777", "tmpfs", folder);
        if (!isMounted)
            return;
        var data = Directory.CreateDirectory(Path.Combine(folder, "data")).FullName;
        if (await RunAsync("id", "postgres"))
            await RunAsync("chown", "postgres", data);
        await RunAsync("chmod", "700", data);
    }

    public async ValueTask DisposeAsync()
    {
        if (isMounted)
        {
            await site.ScalarAsync("DROP TABLE IF EXISTS added.ballast; ALTER TABLE IF EXISTS added.item SET TABLESPACE pg_default");
            await site.ScalarAsync($"DROP TABLESPACE IF EXISTS {space}");
            // The server may hold a file of what was dropped for a moment longer.
            await RunAsync("umount", "-l", folder);
        }

        Directory.Delete(folder, recursive: true);
    }

    [Fact(
        DisplayName = "On a full disk a save is refused whole, "
            + "publishing fails and leaves nothing, a job waits; with room again all goes on by itself"
    )]
    public async Task Goes_on_with_room()
    {
        if (!isMounted)
            Assert.Skip("No file system can be mounted here: that takes root.");
        var note = Site.Field("wide_note", "text", type: "item") with { Length = 4000 };
        await site.PublishAsync(note);
        await site.ScalarAsync($"CREATE TABLESPACE {space} LOCATION '{folder}/data'");
        await site.ScalarAsync($"ALTER TABLE added.item SET TABLESPACE {space}");
        await site.ScalarAsync("ALTER TABLE added.item ALTER COLUMN wide_note SET STORAGE PLAIN");
        var (type, saved) = (site.Type("item"), 0L);
        for (saved = 1; saved <= 20; saved++)
            await site.Saver.SaveAsync(type, saved, Long(saved), Site.Administrator);
        await FillUpAsync();

        // One after the other, until no page has room for one more.
        var full = await Assert.ThrowsAnyAsync<Exception>(async () =>
        {
            for (; saved < 1900; saved++)
                await site.Saver.SaveAsync(type, saved, Long(saved), Site.Administrator);
        });
        Assert.True(DatabaseErrors.IsFull(full), full.ToString());
        Assert.Null(await site.ScalarAsync($"SELECT wide_note FROM added.item WHERE id = {saved}"));
        Assert.Equal(saved - 1, await site.ScalarAsync("SELECT count(*) FROM erp.item WHERE name LIKE 'Wide %'"));
        Assert.NotNull(await site.Store.FindAsync(type, saved, Site.Administrator));

        // A change of kind would write to every row.
        var columns = await ColumnsAsync();
        var failed = await site.PublishAsync(note with { Kind = "formatted_text", Length = null });
        Assert.Equal((PublishingState.Failed, "The disk of the database is full."), (failed.State, failed.Saying));
        Assert.Equal(columns, await ColumnsAsync());
        await site.Drafts.UndoAsync(Site.Administrator);

        // Work on all records waits, and keeps what it has done.
        await site.PublishAsync(Site.Field("counted", type: "item") with { DefaultValue = "7", FillExisting = true });
        var jobs = site.Services.GetRequiredService<JobRunner>();
        Assert.True(DatabaseErrors.IsFull(await Assert.ThrowsAnyAsync<Exception>(() => jobs.RunOpenAsync())));
        var job = (await jobs.AllAsync())[0];
        Assert.Equal(JobState.Running, job.State);
        Assert.StartsWith("Waits: the disk of the database is full.", job.Saying, StringComparison.Ordinal);

        await site.ScalarAsync("DROP TABLE added.ballast");
        await jobs.RunOpenAsync();
        Assert.Equal((JobState.Done, ""), ((await jobs.AllAsync())[0].State, (await jobs.AllAsync())[0].Saying));
        Assert.Equal(
            0L,
            await site.ScalarAsync("SELECT count(*) FROM erp.item i LEFT JOIN added.item a USING (id) WHERE a.counted IS DISTINCT FROM 7")
        );
        Assert.Equal(SaveResult.Saved, (await site.Saver.SaveAsync(site.Type("item"), saved, Long(saved), Site.Administrator)).Result);
    }

    private RecordChanges Long(long id) =>
        site.Changes("item", ("name", Value.From($"Wide {id}")), ("wide_note", Value.From(new string('x', 3000) + id)));

    private Task<object?> ColumnsAsync() =>
        site.ScalarAsync(
            "SELECT string_agg(column_name, ' ' ORDER BY ordinal_position) "
                + "FROM information_schema.columns WHERE table_schema = 'added' AND table_name = 'item'"
        );

    private async Task FillUpAsync()
    {
        await site.ScalarAsync(
            $"CREATE TABLE added.ballast (filler text) TABLESPACE {space}; ALTER TABLE added.ballast ALTER COLUMN filler SET STORAGE PLAIN"
        );
        foreach (var rows in new[] { 400, 40, 4, 1 })
            try
            {
                while (true)
                    await site.ScalarAsync($"INSERT INTO added.ballast SELECT repeat('b', 7000) FROM generate_series(1, {rows})");
            }
            catch (PostgresException error) when (DatabaseErrors.IsFull(error))
            {
                // With fewer at a time it becomes full to the last page.
            }
    }

    private static async Task<bool> RunAsync(string command, params string[] arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(command, arguments) { RedirectStandardError = true, RedirectStandardOutput = true }
        )!;
        await process.WaitForExitAsync();
        return process.ExitCode == 0;
    }
}
