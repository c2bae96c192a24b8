namespace Pelto.Data.Releases;

/// <summary>How far publishings are: where they stand, and what people read of them.</summary>
public sealed class PublishingProgress(IDbContextFactory<PeltoContext> contexts, TimeProvider clock)
{
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(300);
    private long notes;

    /// <summary>Other publishings that went live and are not settled, oldest first.</summary>
    public async Task<IReadOnlyList<PublishingRow>> UnfinishedAsync(Guid but, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context
            .Publishings.AsNoTracking()
            .Where(other => other.Id != but && other.State == PublishingState.Finishing)
            .OrderBy(other => other.StartedAt)
            .ToListAsync(cancel);
    }

    /// <summary>Says what is being done. People read it: often enough is now and then.</summary>
    public async Task SayAsync(PublishingRow row, string saying, CancellationToken cancel)
    {
        row.Saying = saying;
        if (clock.GetElapsedTime(notes) < Between)
            return;
        notes = clock.GetTimestamp();
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context
            .Publishings.Where(candidate => candidate.Id == row.Id && candidate.State == row.State)
            .ExecuteUpdateAsync(set => set.SetProperty(candidate => candidate.Saying, saying), cancel);
    }

    /// <summary>Moves a publishing on.</summary>
    public async Task SetAsync(PublishingRow row, PublishingState state, string saying, CancellationToken cancel)
    {
        (row.State, row.Saying) = (state, saying);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context
            .Publishings.Where(candidate => candidate.Id == row.Id)
            .ExecuteUpdateAsync(
                set => set.SetProperty(candidate => candidate.State, state).SetProperty(candidate => candidate.Saying, saying),
                cancel
            );
    }

    /// <summary>Ends a publishing that cannot go on: failed, or done where it is live already.</summary>
    public async Task EndAsync(PublishingRow row, string reason)
    {
        if (row.State == PublishingState.Finishing)
        {
            await SetAsync(row, PublishingState.Done, $"Release {row.Release} is live. {reason}", CancellationToken.None);
            return;
        }

        // Whoever stopped it has said so already.
        await using var context = await contexts.CreateDbContextAsync();
        await context
            .Publishings.Where(candidate => candidate.Id == row.Id && candidate.State == PublishingState.Preparing)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(candidate => candidate.State, PublishingState.Failed).SetProperty(candidate => candidate.Saying, reason)
            );
        var ended = await context.Publishings.AsNoTracking().FirstAsync(candidate => candidate.Id == row.Id);
        (row.State, row.Saying) = (ended.State, ended.Saying);
    }
}
