using Pelto.Core.Elements;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;

namespace Pelto.Data.Releases;

/// <summary>The draft as it stands.</summary>
/// <param name="Version">Grows with each change; 0 when nobody has changed anything since the last release.</param>
/// <param name="Site">The whole definition.</param>
/// <param name="Release">The release that was live when it was read.</param>
public sealed record Draft(long Version, SiteDefinition Site, int Release)
{
    /// <summary>
    /// Tells it from every other state of the draft, also from one without changes under another release: what goes live by itself changes
    /// both.
    /// </summary>
    public string Tag => $"{Release}.{Version}";
}

/// <summary>The draft was changed by somebody else in the meantime.</summary>
public sealed class DraftChangedException()
    : Exception("Somebody else changed the draft meanwhile. Look at it again, then repeat your change.");

/// <summary>
/// The one draft in which definitions gather until they are published. Every change is kept as a version, so that it can be undone.
/// </summary>
public sealed class Drafts(
    IDbContextFactory<PeltoContext> contexts,
    Catalogues catalogues,
    People people,
    AuditTrail audit,
    Storage.FactsReader facts,
    TimeProvider clock
)
{
    /// <summary>How many columns a table of what is added takes before the next is begun; tests have further tables sooner.</summary>
    internal int ColumnsInATable { get; set; } = Placing.MaxHeld;

    private static void MustWork(Viewer viewer)
    {
        if (!AdminWork.InDraft.Any(viewer.May))
            throw new AccessRefusedException("You may not change definitions.");
    }

    /// <summary>Why somebody may not change the draft so, as a sentence; null when they may.</summary>
    public async Task<string?> RefuseAsync(
        Viewer viewer,
        SiteDefinition before,
        SiteDefinition after,
        CancellationToken cancel = default
    ) =>
        AdminRights.All(viewer)
            ? null
            : new AdminRules(before, after, catalogues.Live).RefuseChange(
                viewer,
                [.. (await people.ViewersAsync(cancel)).Where(person => person.IsAdministrator)]
            );

    private async Task MustChangeAsync(Viewer viewer, SiteDefinition before, SiteDefinition after, CancellationToken cancel)
    {
        if (
            viewer.MustConfirm
            && new AdminRules(before, after, catalogues.Live)
                .Touches()
                .Any(touch => touch.Work is AdminWork.Grant or AdminWork.People or AdminAction.Administration)
        )
            Allowing.MustBeSure(viewer);
        if (await RefuseAsync(viewer, before, after, cancel) is { } refusal)
            throw new AccessRefusedException(refusal);
    }

    /// <summary>The draft: its newest version, or what is live.</summary>
    public async Task<Draft> ReadAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await NowAsync(context, cancel);
    }

    /// <summary>The draft, put together.</summary>
    public async Task<Catalogue> CatalogueAsync(CancellationToken cancel = default) => catalogues.Build((await ReadAsync(cancel)).Site);

    /// <summary>Who changed what since the last release, newest first.</summary>
    public async Task<IReadOnlyList<DraftRow>> HistoryAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Drafts.OrderByDescending(row => row.Version).ToListAsync(cancel);
    }

    /// <summary>How many changes there were since the last release; none when they took one another back.</summary>
    public async Task<int> CountAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var newest = await context.Drafts.OrderByDescending(row => row.Version).Select(row => row.Definition).FirstOrDefaultAsync(cancel);
        var live = await context.Releases.OrderByDescending(row => row.Number).Select(row => row.Definition).FirstAsync(cancel);
        return newest is null || newest == live ? 0 : await context.Drafts.CountAsync(cancel);
    }

    /// <summary>Changes the draft.</summary>
    /// <param name="change">
    /// Gives the new definition from the one that stands; called under a lock, so that two administrators never overwrite each other.
    /// </param>
    /// <param name="what">What the change is, for the history.</param>
    /// <param name="viewer">Who changes it.</param>
    /// <param name="ifTag">Only when the draft is still as <see cref="Draft.Tag"/> says.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<Draft> ChangeAsync(
        Func<SiteDefinition, SiteDefinition> change,
        string what,
        Viewer viewer,
        string? ifTag = null,
        CancellationToken cancel = default
    )
    {
        MustWork(viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({DatabaseLocks.Drafts})", cancel);
        var draft = await NowAsync(context, cancel);
        if (ifTag is not null && ifTag != draft.Tag)
            throw new DraftChangedException();
        var site = GuardInheritance.Keep(draft.Site, await WithColumnsAsync(change(draft.Site), cancel), catalogues.Live);
        if (site.IsSameAs(draft.Site))
            return draft;
        await MustChangeAsync(viewer, draft.Site, site, cancel);
        var row = new DraftRow
        {
            Version = await NextVersionAsync(context, cancel),
            Definition = site.ToJson(),
            What = what,
            ChangedBy = viewer.Name,
            ChangedAt = clock.GetUtcNow(),
        };
        context.Drafts.Add(row);
        await context.SaveChangesAsync(cancel);
        if (site.IsSameAs(catalogues.Live.Site))
            await NotGoingLiveAsync(context, 1, cancel);
        await audit.WriteAsync(context, viewer, [.. DefinitionChanges.Between(draft.Site, site, what)], cancel);
        await transaction.CommitAsync(cancel);
        return new(row.Version, site, draft.Release);
    }

    /// <summary>A definition with it decided where each field is kept, as the draft would have it.</summary>
    public async Task<SiteDefinition> WithColumnsAsync(SiteDefinition site, CancellationToken cancel = default)
    {
        // Only what is not live yet has to be given a table.
        var live = catalogues.Live.Site;
        var tables = site.Fields.All(field => live.Find(field.Id) is not null)
            ? AddedRoom.Empty.Tables
            : (await facts.ReadTablesAsync(cancel)).Added;
        return site.WithColumns(live, new(tables, ColumnsInATable));
    }

    /// <summary>Takes the newest change back and gives it; null when there is none.</summary>
    public async Task<DraftRow?> UndoAsync(Viewer viewer, CancellationToken cancel = default)
    {
        MustWork(viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({DatabaseLocks.Drafts})", cancel);
        if (await NewestAsync(context, cancel) is not { } newest)
            return null;
        if (!AdminRights.All(viewer) && newest.ChangedBy != viewer.Name)
            throw new AccessRefusedException("The newest change is somebody else's; only administrators undo it.");
        context.Drafts.Remove(newest);
        await context.SaveChangesAsync(cancel);
        var (undone, before) = (SiteDefinition.FromJson(newest.Definition), (await NowAsync(context, cancel)).Site);
        await MustChangeAsync(viewer, undone, before, cancel);
        await NotGoingLiveAsync(context, newest.Version, cancel);
        await audit.WriteAsync(context, viewer, [.. DefinitionChanges.Between(undone, before, $"Undid: {newest.What}")], cancel);
        await transaction.CommitAsync(cancel);
        return newest;
    }

    // What is discarded or undone does not go live any more, whoever was about to publish it, and on whichever node.
    private static Task NotGoingLiveAsync(PeltoContext context, long from, CancellationToken cancel) =>
        context
            .Publishings.Where(row => row.State == PublishingState.Preparing && row.DraftVersion >= from)
            .ExecuteUpdateAsync(
                set =>
                    set.SetProperty(row => row.State, PublishingState.Stopped)
                        .SetProperty(row => row.Saying, "Stopped before anything went live: the draft was withdrawn."),
                cancel
            );

    /// <summary>
    /// Puts a change that is live already into the draft and all its earlier states, so that neither publishing nor undoing loses it.
    /// </summary>
    public async Task RebaseAsync(Func<SiteDefinition, SiteDefinition> change, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({DatabaseLocks.Drafts})", cancel);
        foreach (var row in await context.Drafts.ToListAsync(cancel))
            row.Definition = change(SiteDefinition.FromJson(row.Definition)).ToJson();
        await context.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    private static Task<DraftRow?> NewestAsync(PeltoContext context, CancellationToken cancel) =>
        context.Drafts.AsNoTracking().OrderByDescending(row => row.Version).FirstOrDefaultAsync(cancel);

    private static async Task<long> NextVersionAsync(PeltoContext context, CancellationToken cancel) =>
        (await context.Database.SqlQuery<long>($"SELECT nextval('pelto.draft_version') AS \"Value\"").ToListAsync(cancel))[0];

    // A node hears of a release a little later than the database does: what is drafted on top of an earlier one would take the newer one
    // back.
    private async Task<Draft> NowAsync(PeltoContext context, CancellationToken cancel)
    {
        var newest = await NewestAsync(context, cancel);
        await catalogues.CatchUpAsync(cancel);
        var live = catalogues.Live;
        return newest is null
            ? new(0, live.Site, live.Release)
            : new(newest.Version, SiteDefinition.FromJson(newest.Definition), live.Release);
    }
}
