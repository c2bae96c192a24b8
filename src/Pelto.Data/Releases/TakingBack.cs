using System.Diagnostics;
using Microsoft.Extensions.Logging;
using Pelto.Core.Releases;
using Pelto.Data.Queries;
using Pelto.Data.Storage;

namespace Pelto.Data.Releases;

/// <summary>Takes back what a publishing did to storage that did not go live: no column, index or rule of it stays behind.</summary>
/// <remarks>
/// Before its first step, a publishing notes how storage stands (<see cref="Structure"/>). The note goes with the switch, or once all is
/// taken back: whoever finds one has something to take back, whichever node began it. All this is called by whoever holds the lock of
/// publishing.
/// </remarks>
public sealed class TakingBack(
    OwnerDatabase database,
    IDbContextFactory<PeltoContext> contexts,
    Catalogues catalogues,
    QueryRole queries,
    ILogger<TakingBack> log
)
{
    /// <summary>How long whoever stops a publishing waits for it at most.</summary>
    public static readonly TimeSpan Shortly = TimeSpan.FromSeconds(2);

    /// <summary>Notes how storage stands, unless a node that died had noted it.</summary>
    /// <param name="id">Of the publishing.</param>
    /// <param name="live">What is live.</param>
    /// <param name="next">What goes live.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task NoteAsync(Guid id, Catalogue live, Catalogue next, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var lasting = next
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.StoredFields)
            .SelectMany(AddCheck.For)
            .Select(check => Structure.NameOf(check.Field.Table, check.Name));
        var noted = (await Structure.ReadAsync(database.Source, live.Host.Version != next.Host.Version, lasting, cancel)).ToJson();
        await context
            .Publishings.Where(row => row.Id == id && row.State == PublishingState.Preparing && row.StorageBefore == null)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.StorageBefore, noted), cancel);
    }

    /// <summary>
    /// Takes back what others had begun that nobody is at, before somebody else's work is done on top of it. What is still to go live
    /// begins anew.
    /// </summary>
    public async Task BackOthersAsync(Guid id, Func<string, Task> say, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        foreach (
            var other in await context
                .Publishings.Where(row => row.Id != id && row.StorageBefore != null)
                .Select(row => row.Id)
                .ToListAsync(cancel)
        )
        {
            await say("Undoes what was begun and has not gone live.");
            await BackAsync(other, null, cancel);
        }
    }

    /// <summary>Takes back what a publishing began; does nothing where there is nothing to take back.</summary>
    /// <param name="id">Of the publishing.</param>
    /// <param name="longest">
    /// How long to wait for people at work, for each statement; what cannot be had stays noted, for later. Null for as long as any step
    /// waits.
    /// </param>
    /// <param name="cancel">Stops it.</param>
    public async Task BackAsync(Guid id, TimeSpan? longest, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (
            await context.Publishings.Where(row => row.Id == id).Select(row => row.StorageBefore).FirstOrDefaultAsync(cancel)
            is not { } noted
        )
            return;
        await catalogues.CatchUpAsync(cancel);
        try
        {
            // Views hold the columns that they read.
            await queries.ShowAsync(database.Source, catalogues.Live, longest, cancel);
            var before = Structure.FromJson(noted);
            foreach (var statement in before.From(await Structure.ReadAsync(database.Source, before.OfHost, before.Lasting, cancel)))
                await TakeAsync(statement, longest, cancel);
        }
        catch (PostgresException error) when (DatabaseErrors.IsLock(error) && longest is not null)
        {
            log.LogInformation("What a publishing had begun is taken back later: people are at work on it");
            return;
        }

        await context
            .Publishings.Where(row => row.Id == id)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.StorageBefore, (string?)null), cancel);
    }

    /// <summary>
    /// Waits until nothing is at work any more that a node had begun which died over it: it would be done after all was taken back. The
    /// database ends it by itself.
    /// </summary>
    /// <remarks>
    /// Called before anything of a publishing that somebody else began; whoever holds its lock is the only one that changes storage.
    /// </remarks>
    public async Task WaitForTheDeadAsync(CancellationToken cancel)
    {
        for (var began = Stopwatch.GetTimestamp(); Stopwatch.GetElapsedTime(began) < Dying; await Task.Delay(Again, cancel))
        {
            await using var command = database.Source.CreateCommand(AtWork);
            command.Parameters.Add(new() { Value = OwnerDatabase.Named });
            if (await command.ExecuteScalarAsync(cancel) is not true)
                return;
        }
    }

    // A node that starts works as the owner as well, for a moment: that is waited for as well, and not for long.
    private static readonly TimeSpan Dying = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan Again = TimeSpan.FromMilliseconds(50);

    private const string AtWork = """
        SELECT EXISTS (SELECT FROM pg_stat_activity WHERE datname = current_database() AND application_name = $1 AND pid <> pg_backend_pid() AND state = 'active')
        """;

    private async Task TakeAsync(string statement, TimeSpan? longest, CancellationToken cancel)
    {
        try
        {
            await StructureStatements.RunAsync(database.Source, statement, longest, cancel);
        }
        catch (PostgresException error) when (error.SqlState.StartsWith("23", StringComparison.Ordinal))
        {
            // A rule that was loosened and that values of this moment do not keep: the next plan names them, and puts it back.
            log.LogWarning(error, "A rule could not be put back");
        }
    }
}
