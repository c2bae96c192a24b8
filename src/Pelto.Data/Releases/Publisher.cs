namespace Pelto.Data.Releases;

/// <summary>
/// Puts down that something is to go live, and stops it again. <see cref="PublishingQueue"/> carries it through.
/// </summary>
public sealed class Publisher(
    IDbContextFactory<PeltoContext> contexts,
    Catalogues catalogues,
    ReleasePlans plans,
    Proposals proposals,
    TimeProvider clock
)
{
    internal const string Stopped = "Stopped before anything went live.";
    internal const string Begins = "Getting ready.";

    /// <summary>
    /// Asks a second person to publish the draft, which is checked as if it were published. Throws <see cref="PublishRefusedException"/>
    /// when it could not be.
    /// </summary>
    public async Task ProposeAsync(string? comment, Viewer viewer, long? ifVersion = null, CancellationToken cancel = default)
    {
        var (_, version) = await plans.CheckAsync(comment, viewer, ifVersion, cancel);
        await proposals.PutDownAsync(version, comment!.Trim(), viewer, cancel);
    }

    /// <summary>
    /// Checks the draft and puts down that it is to go live. Throws <see cref="PublishRefusedException"/> when it may not.
    /// </summary>
    /// <param name="comment">Why; required, unless somebody else asked for it and said why.</param>
    /// <param name="viewer">Who publishes.</param>
    /// <param name="ifVersion">The version of the draft that was looked at; another one is refused.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>The publishing, for <see cref="PublishingQueue.RunAsync"/>.</returns>
    public async Task<Guid> StartAsync(string? comment, Viewer viewer, long? ifVersion = null, CancellationToken cancel = default)
    {
        if (await proposals.TakesTwoAsync(cancel))
        {
            var asked = await proposals.FindAsync(cancel);
            if (asked is null || asked.PersonId == viewer.Id)
                throw new PublishRefusedException("Publishing takes two people here: one asks for it, another publishes.");
            comment = $"{asked.Comment} (asked for by {asked.By})";
            comment = comment.Length > ReleasePlans.MaxComment ? comment[..ReleasePlans.MaxComment] : comment;
        }

        var (settled, version) = await plans.CheckAsync(comment, viewer, ifVersion, cancel);
        return await PutDownAsync(settled, version, comment!.Trim(), viewer, cancel);
    }

    /// <summary>
    /// Puts down that a small change of what is live goes live by itself, beside the draft: a choice that somebody added while entering a
    /// record.
    /// </summary>
    public async Task<Guid> StartSmallAsync(SiteDefinition site, string comment, Viewer viewer, CancellationToken cancel = default)
    {
        if (!SiteDefinition.Same(site.Roles, catalogues.Live.Site.Roles))
        {
            Allowing.MustBeSure(viewer);
            if (await proposals.TakesTwoAsync(cancel))
                throw new PublishRefusedException("Publishing takes two people here, roles included: they go live with the draft.");
        }

        var next = catalogues.Build(site);
        if (next.Problems.Count > 0)
            throw new PublishRefusedException(next.Problems[0].Sentence, next.Problems);
        return await PutDownAsync(site, 0, comment, viewer, cancel);
    }

    private async Task<Guid> PutDownAsync(SiteDefinition site, long draftVersion, string comment, Viewer viewer, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var row = new PublishingRow
        {
            Id = Guid.CreateVersion7(),
            Definition = site.ToJson(),
            Base = catalogues.Live.Release,
            DraftVersion = draftVersion,
            Comment = comment,
            StartedBy = viewer.Name,
            PersonId = viewer.Id,
            StartedFrom = viewer.From,
            StartedAt = clock.GetUtcNow(),
            State = PublishingState.Preparing,
            Saying = Begins,
        };
        context.Publishings.Add(row);
        await context.SaveChangesAsync(cancel);
        return row.Id;
    }

    /// <summary>Stops a publishing that has not gone live yet; false when it is too late.</summary>
    public async Task<bool> StopAsync(Guid id, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.May(AdminWork.Publish))
            throw new AccessRefusedException("You may not stop this: that is for those who publish.");
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context
                .Publishings.Where(row => row.Id == id && row.State == PublishingState.Preparing)
                .ExecuteUpdateAsync(
                    set => set.SetProperty(row => row.State, PublishingState.Stopped).SetProperty(row => row.Saying, Stopped),
                    cancel
                ) == 1;
    }

    /// <summary>How a publishing stands.</summary>
    public async Task<PublishingRow?> FindAsync(Guid id, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Publishings.AsNoTracking().FirstOrDefaultAsync(row => row.Id == id, cancel);
    }
}
