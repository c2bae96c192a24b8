using Microsoft.Extensions.Logging;

namespace Pelto.Data.Releases;

/// <summary>Carries publishings through, one at a time on one database, whichever node they were begun on.</summary>
/// <remarks>
/// What a publishing is doing is in the database, and every step of it can be repeated. A server killed while expanding leaves the old
/// release whole; one killed after the switch leaves the new release whole; in both cases <see cref="ResumeAsync"/> finishes the work.
/// </remarks>
public sealed class PublishingQueue(
    NpgsqlDataSource source,
    IDbContextFactory<PeltoContext> contexts,
    Rollout rollout,
    TakingBack taking,
    PublishingWatch watch,
    TimeProvider clock,
    ILogger<PublishingQueue> log
)
{
    private static readonly TimeSpan PollEvery = TimeSpan.FromMilliseconds(60);
    private static readonly TimeSpan Outage = TimeSpan.FromSeconds(30);

    /// <summary>Carries a publishing through, from wherever it stands. Only one runs at a time on one database; a second waits.</summary>
    public async Task<PublishingRow> RunAsync(Guid id, CancellationToken cancel = default)
    {
        var began = clock.GetTimestamp();
        while (true)
        {
            try
            {
                if (await TryRunAsync(id, cancel) is { } row)
                    return row;

                // By asking again rather than in a queue of the database: a statement that waits there holds what it sees, and an index
                // that is built beside it waits for that.
                if (await FindAsync(id, cancel) is { IsOpen: false } waiting)
                    return waiting;
                await SayWaitingAsync(id, cancel);
                began = clock.GetTimestamp();
            }
            catch (Exception error) when (DatabaseErrors.IsDown(error) && clock.GetElapsedTime(began) < Outage)
            {
                // It can be gone on with, by whoever comes first: whoever asked for it is told how it ended.
                log.LogWarning(error, "Publishing was cut off; it continues");
            }

            await Task.Delay(PollEvery, cancel);
        }
    }

    /// <summary>
    /// Carries through what is put down, and what a node that died left unfinished, also in taking back: whoever comes first. What another
    /// node is at is left to it.
    /// </summary>
    public async Task ResumeAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var open = await context
            .Publishings.AsNoTracking()
            .Where(row => row.State == PublishingState.Preparing || row.State == PublishingState.Finishing || row.StorageBefore != null)
            .OrderBy(row => row.StartedAt)
            .ToListAsync(cancel);
        var failed = new List<Exception>();
        foreach (var row in open)
        {
            try
            {
                if (await TryRunAsync(row.Id, cancel) is null)
                    break;
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                // One that cannot go on keeps none of the others back.
                failed.Add(error);
            }
        }

        if (failed.Count > 0)
            throw new AggregateException("A publishing was cut off.", failed);
    }

    private async Task<PublishingRow?> FindAsync(Guid id, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Publishings.AsNoTracking().FirstOrDefaultAsync(row => row.Id == id, cancel);
    }

    private async Task SayWaitingAsync(Guid id, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context
            .Publishings.Where(row => row.Id == id && row.State == PublishingState.Preparing && row.Saying == Publisher.Begins)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.Saying, "Waits its turn: what was published before goes first."), cancel);
    }

    private async Task<PublishingRow?> TryRunAsync(Guid id, CancellationToken cancel)
    {
        await using var guard = await source.OpenConnectionAsync(cancel);
        if (!await guard.Command($"SELECT pg_try_advisory_lock({DatabaseLocks.Publishing})").ValueAsync<bool>(cancel))
            return null;
        try
        {
            return await RunLockedAsync(id, cancel);
        }
        finally
        {
            await using var command = new NpgsqlCommand($"SELECT pg_advisory_unlock({DatabaseLocks.Publishing})", guard);

            // Where the connection broke, the lock went with it.
            await ((Task)command.ExecuteNonQueryAsync(CancellationToken.None)).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private async Task<PublishingRow> RunLockedAsync(Guid id, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var row = await context.Publishings.AsNoTracking().FirstAsync(candidate => candidate.Id == id, cancel);
        var mayHaveDied = await context.Publishings.AnyAsync(
            begun => begun.StorageBefore != null || (begun.State == PublishingState.Finishing && begun.Id == id),
            cancel
        );
        if (mayHaveDied)
            await taking.WaitForTheDeadAsync(cancel);
        await rollout.EndingAsync(row, async () =>
        {
            if (row.State == PublishingState.Preparing)
                await watch.DuringAsync(row, stop => rollout.PrepareAndSwitchAsync(row, stop), cancel);
            if (row.State == PublishingState.Finishing)
                await watch.DuringAsync(row, stop => rollout.FinishAsync(row, stop), cancel);
        });

        // Whoever stops it does not wait for that: what cannot be had at once is taken back later, by whichever node comes to it.
        if (!row.IsOpen)
            await taking.BackAsync(row.Id, TakingBack.Shortly, cancel);
        return row;
    }
}
