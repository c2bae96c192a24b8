using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Catalog;
using Pelto.Core.Elements;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;
using Pelto.Data.Database;
using Pelto.Data.Definitions;
using Pelto.Data.Queries;
using Pelto.Data.Storage;

namespace Pelto.Data.Releases;

/// <summary>A draft that cannot be published, with the reason as a sentence.</summary>
public sealed class PublishRefusedException(string message, IReadOnlyList<Problem>? problems = null) : Exception(message)
{
    /// <summary>What is wrong with the definitions.</summary>
    public IReadOnlyList<Problem> Problems { get; } = problems ?? [];
}

/// <summary>Takes a draft live while people work: expand, switch, settle.</summary>
/// <remarks>
/// What it is doing is in the database, and every step can be repeated. A server killed while expanding leaves the old release whole;
/// one killed after the switch leaves the new release whole; in both cases <see cref="ResumeAsync"/> finishes the work.
/// </remarks>
public sealed class Publisher(
    OwnerDatabase database, IDbContextFactory<PeltoContext> contexts, NpgsqlDataSource source, Catalogues catalogues,
    Drafts drafts, Proposals proposals, FactsReader facts, Carrying carrying, DataSaver saver, QueryRole queries, QueryRunner runner,
    PublishingWatch watch, TakingBack taking, AuditTrail audit, TimeProvider clock, ILogger<Publisher> log)
{
    /// <summary>How long requests that began under the earlier release get to end before columns are dropped.</summary>
    public static TimeSpan Draining { get; set; } = TimeSpan.FromSeconds(4);

    /// <summary>Raised on this node when a release has begun jobs.</summary>
    public event Action? JobsBegan;

    /// <summary>The channel on which nodes hear of releases.</summary>
    public const string Channel = "pelto";

    internal const string Stopped = "Stopped before anything went live.";
    private const string Begins = "Getting ready.";
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(300);
    private static readonly TimeSpan AskedAgain = TimeSpan.FromMilliseconds(60);
    private static readonly TimeSpan Outage = TimeSpan.FromSeconds(30);
    private long said;

    /// <summary>
    /// What publishing the draft would do: the changes that somebody is shown, and what they may be told of what is on file.
    /// </summary>
    public async Task<(Draft Draft, Catalogue Catalogue, Plan Plan)> PlanAsync(Viewer viewer, CancellationToken cancel = default)
    {
        var draft = await drafts.ReadAsync(cancel);
        var live = catalogues.Live;
        var shown = new SiteViews(viewer, live).Drafted(draft.Site);
        var catalogue = catalogues.Build(shown);
        var plan = Planning.Make(live, catalogue, (await facts.ReadAsync(live, catalogue, cancel)).For(viewer, catalogue, live));
        if (shown.Says(draft.Site)) return (draft, catalogue, plan);

        // What only seems to be wrong, since the part that it needs is not shown, is not.
        var wrong = catalogues.Build(draft.Site).Problems.Select(problem => problem.Sentence).Concat(live.Problems.Select(problem => problem.Sentence)).ToHashSet(StringComparer.Ordinal);
        return (draft, catalogue, plan with { HoldsMore = true, Problems = [.. plan.Problems.Where(problem => catalogue.Problems.All(seeming => seeming.Sentence != problem.Sentence) || wrong.Contains(problem.Sentence))] });
    }

    /// <summary>The SQL of a step, for those who want to read it.</summary>
    public async Task<IReadOnlyList<string>> SqlOfAsync(IEnumerable<PlanStep> steps, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var sql = new StepSql(context);
        return [.. steps.SelectMany(sql.For)];
    }

    /// <summary>
    /// Asks a second person to publish the draft, which is checked as if it were published. Throws <see cref="PublishRefusedException"/>
    /// when it could not be.
    /// </summary>
    public async Task ProposeAsync(string? comment, Viewer viewer, long? ifVersion = null, CancellationToken cancel = default)
    {
        var (_, version) = await CheckAsync(comment, viewer, ifVersion, cancel);
        await proposals.PutDownAsync(version, comment!.Trim(), viewer, cancel);
    }

    /// <summary>
    /// Checks the draft and puts down that it is to go live. Throws <see cref="PublishRefusedException"/> when it may not.
    /// </summary>
    /// <param name="comment">Why; required, unless somebody else asked for it and said why.</param>
    /// <param name="viewer">Who publishes.</param>
    /// <param name="ifVersion">The version of the draft that was looked at; another one is refused.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<Guid> StartAsync(string? comment, Viewer viewer, long? ifVersion = null, CancellationToken cancel = default)
    {
        if (await proposals.TakesTwoAsync(cancel))
        {
            var asked = await proposals.FindAsync(cancel);
            if (asked is null || asked.PersonId == viewer.Id)
                throw new PublishRefusedException("Publishing takes two people here: one asks for it, another publishes.");
            comment = $"{asked.Comment} (asked for by {asked.By})";
            comment = comment.Length > MostComment ? comment[..MostComment] : comment;
        }

        var (settled, version) = await CheckAsync(comment, viewer, ifVersion, cancel);
        return await PutDownAsync(settled, version, comment!.Trim(), viewer, cancel);
    }

    private const int MostComment = 500;

    private async Task<(SiteDefinition Settled, long Version)> CheckAsync(string? comment, Viewer viewer, long? ifVersion, CancellationToken cancel)
    {
        if (!viewer.May(Works.Publish)) throw new AccessRefusedException("You may not publish.");
        Allowing.MustBeSure(viewer);
        if (string.IsNullOrWhiteSpace(comment)) throw new PublishRefusedException("Say in a comment why this goes live.");
        if (comment.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t')))
            throw new PublishRefusedException("The comment holds a control character.");
        if (comment.Length > MostComment) throw new PublishRefusedException($"A comment has at most {MostComment} characters.");
        var draft = await drafts.ReadAsync(cancel);
        if (new WorkRules(catalogues.Live.Site, draft.Site, catalogues.Live).RefusePublishing(viewer) is { } refusal)
            throw new AccessRefusedException(refusal);
        var next = catalogues.Build(draft.Site);
        var known = await facts.ReadStorageAsync(next, cancel);
        var plan = Planning.Make(catalogues.Live, next, known);
        if (ifVersion is { } seen && seen != draft.Version)
            throw new PublishRefusedException("The draft changed after you looked at the plan. Look at it again.");
        var told = Planning.Make(catalogues.Live, next, known.For(viewer, next, catalogues.Live)).Problems;
        if (told.Count > 0) throw new PublishRefusedException(told[0].Sentence, told);
        if (plan.Problems.Count > 0) throw new PublishRefusedException("The draft changes what values must keep to that you may not read: somebody who may read them has to publish it.");
        var (settled, unsound) = await runner.SettleAsync(draft.Site, catalogues.Live.Host.Version == next.Host.Version ? catalogues.Live : next, cancel);
        if (unsound.Count > 0) throw new PublishRefusedException(unsound[0].Sentence, unsound);
        if (plan.IsEmpty) throw new PublishRefusedException("The draft holds nothing that is not live already.");
        return (settled, draft.Version);
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
        if (next.Problems.Count > 0) throw new PublishRefusedException(next.Problems[0].Sentence, next.Problems);
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

    /// <summary>Carries a publishing through, from wherever it stands. Only one runs at a time on one database; a second waits.</summary>
    public async Task<PublishingRow> RunAsync(Guid id, CancellationToken cancel = default)
    {
        var began = clock.GetTimestamp();
        while (true)
        {
            try
            {
                if (await TryRunAsync(id, cancel) is { } row) return row;

                // By asking again rather than in a queue of the database: a statement that waits there holds what it sees, and an index
                // that is built beside it waits for that.
                if (await FindAsync(id, cancel) is { } waiting && !IsOpen(waiting)) return waiting;
                await SayWaitingAsync(id, cancel);
                began = clock.GetTimestamp();
            }
            catch (Exception error) when (DatabaseErrors.IsDown(error) && clock.GetElapsedTime(began) < Outage)
            {
                // It can be gone on with, by whoever comes first: whoever asked for it is told how it ended.
                log.LogWarning(error, "Publishing was cut off; it is gone on with");
            }

            await Task.Delay(AskedAgain, cancel);
        }
    }

    private static bool IsOpen(PublishingRow row) => row.State is PublishingState.Preparing or PublishingState.Settling;

    private async Task SayWaitingAsync(Guid id, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Publishings.Where(row => row.Id == id && row.State == PublishingState.Preparing && row.Saying == Begins)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.Saying, "Waits its turn: what was published before goes first."), cancel);
    }

    private async Task<PublishingRow?> TryRunAsync(Guid id, CancellationToken cancel)
    {
        await using var guard = await source.OpenConnectionAsync(cancel);
        if (!await guard.Command($"SELECT pg_try_advisory_lock({DatabaseLocks.Publishing})").ValueAsync<bool>(cancel)) return null;
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

    /// <summary>
    /// Carries through what is put down, and what a node that died left unfinished, also in taking back: whoever comes first. What another
    /// node is at is left to it.
    /// </summary>
    public async Task ResumeAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var open = await context.Publishings.AsNoTracking()
            .Where(row => row.State == PublishingState.Preparing || row.State == PublishingState.Settling || row.StorageBefore != null).OrderBy(row => row.StartedAt).ToListAsync(cancel);
        var failed = new List<Exception>();
        foreach (var row in open)
        {
            try
            {
                if (await TryRunAsync(row.Id, cancel) is null) break;
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                // One that cannot go on keeps none of the others back.
                failed.Add(error);
            }
        }

        if (failed.Count > 0) throw new AggregateException("A publishing was cut off.", failed);
    }

    /// <summary>Stops a publishing that has not gone live yet; false when it is too late.</summary>
    public async Task<bool> StopAsync(Guid id, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.May(Works.Publish)) throw new AccessRefusedException("You may not stop this: that is for those who publish.");
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Publishings.Where(row => row.Id == id && row.State == PublishingState.Preparing)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.State, PublishingState.Stopped).SetProperty(row => row.Saying, Stopped), cancel) == 1;
    }

    /// <summary>How a publishing stands.</summary>
    public async Task<PublishingRow?> FindAsync(Guid id, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Publishings.AsNoTracking().FirstOrDefaultAsync(row => row.Id == id, cancel);
    }

    private async Task<PublishingRow> RunLockedAsync(Guid id, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var row = await context.Publishings.AsNoTracking().FirstAsync(candidate => candidate.Id == id, cancel);
        var steps = new StepRunner(database.Source, new StepSql(context), carrying, saver);
        if (await context.Publishings.AnyAsync(begun => begun.StorageBefore != null || (begun.State == PublishingState.Settling && begun.Id == id), cancel)) await taking.WaitForTheDeadAsync(cancel);
        try
        {
            if (row.State == PublishingState.Preparing)
                await watch.DuringAsync(row, stop => PrepareAndSwitchAsync(context, row, steps, stop), cancel);
            if (row.State == PublishingState.Settling)
                await watch.DuringAsync(row, stop => SettleOrEndAsync(context, row, steps, stop), cancel);
        }
        catch (Exception error) when (IsRefusal(error))
        {
            await EndAsync(context, row, error);
        }

        // Whoever stops it does not wait for that: what cannot be had at once is taken back later, by whichever node comes to it.
        if (!IsOpen(row)) await taking.BackAsync(row.Id, TakingBack.Shortly, cancel);
        return row;
    }

    private static bool IsRefusal(Exception error) => error is PublishRefusedException or PostgresException && !DatabaseErrors.IsDown(error);

    private async Task SettleOrEndAsync(PeltoContext context, PublishingRow row, StepRunner steps, CancellationToken cancel)
    {
        try
        {
            await SettleAsync(context, row, steps, cancel);
        }
        catch (Exception error) when (IsRefusal(error))
        {
            await EndAsync(context, row, error);
        }
    }

    private async Task PrepareAndSwitchAsync(PeltoContext context, PublishingRow row, StepRunner steps, CancellationToken cancel)
    {
        foreach (var other in await context.Publishings.AsNoTracking().Where(other => other.Id != row.Id && other.State == PublishingState.Settling).OrderBy(other => other.StartedAt).ToListAsync(cancel))
        {
            // What another node left half settled comes first: what it carries over would be carried over later values otherwise.
            await SayAsync(context, row, "Waits for the release before it to be settled.", cancel);
            await catalogues.CatchUpAsync(cancel);
            await SettleOrEndAsync(context, other, steps, cancel);
        }

        // While people keep the machine busy each question to the database takes its time: what need not wait for one another is asked at
        // once.
        await Task.WhenAll(taking.BackOthersAsync(row.Id, saying => SayAsync(context, row, saying, cancel), cancel), catalogues.CatchUpAsync(cancel));
        var live = catalogues.Live;
        if (live.Release != row.Base)
            throw new PublishRefusedException($"Release {live.Release} went live in between. Look at the plan again.");
        var next = catalogues.Build(SiteDefinition.FromJson(row.Definition), row.Base + 1);
        var reading = facts.ReadStorageAsync(next, cancel);
        await Task.WhenAll(reading, taking.NoteAsync(row.Id, live, next, cancel));
        var known = await reading;
        var plan = Planning.Make(live, next, known);
        if (plan.Problems.Count > 0) throw new PublishRefusedException(plan.Problems[0].Sentence, plan.Problems);

        await steps.RunAsync(plan.Before, known, saying => SayAsync(context, row, saying, cancel), cancel);
        if (queries.Source is not null) await ReadableViews.MakeAsync(database.Source, next, queries.Name, null, cancel);
        await SwitchAsync(row, next, plan, cancel);
        await catalogues.GoToAsync(next, cancel);

        // Once this node knows what they are about.
        if (plan.Jobs.Count > 0) JobsBegan?.Invoke();
    }

    // What of a draft went live is on record change by change since it was drafted; what went live by itself is only known here.
    private List<AuditNote> Notes(PublishingRow row, Catalogue next, Plan plan) =>
    [
        .. row.DraftVersion == 0 ? DefinitionChanges.Of(catalogues.Live.Site, next.Site, row.Comment) : [],
        new(AuditKinds.Release, "release", $"Release {next.Release} went live: {row.Comment}") { Before = $"Release {row.Base}", After = string.Join('\n', plan.Changes.Select(change => change.Sentence)) },
    ];

    // The one moment in which the new release becomes the live one, together with the audit of it: all of it or none of it.
    private async Task SwitchAsync(PublishingRow row, Catalogue next, Plan plan, CancellationToken cancel)
    {
        await using var connection = await database.Source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var context = contexts.Within(transaction);
        var now = clock.GetUtcNow();
        var preparing = context.Publishings.Where(one => one.Id == row.Id && one.State == PublishingState.Preparing);
        var moved = await preparing.ExecuteUpdateAsync(
            set => set.SetProperty(one => one.State, PublishingState.Settling).SetProperty(one => one.Release, next.Release)
                .SetProperty(one => one.StorageBefore, (string?)null), cancel);
        if (moved == 0) throw new PublishRefusedException(Stopped);
        context.Releases.Add(new()
        {
            Number = next.Release,
            Definition = row.Definition,
            Comment = row.Comment,
            Summary = string.Join('\n', plan.Changes.Select(change => change.Sentence)),
            PublishedBy = row.StartedBy,
            PublishedAt = now,
        });

        // Jobs are done in the order in which they began, which is that of the plan.
        context.Jobs.AddRange(plan.Jobs.Select((job, at) => new JobRow
        {
            Id = Guid.NewGuid(),
            Work = job.Work,
            Field = job.Field,
            From = job.From,
            To = job.To,
            Says = job.Says,
            Release = next.Release,
            StartedBy = row.StartedBy,
            StartedAt = now.AddMicroseconds(at + 1),
            State = JobState.Running,
        }));
        await context.SaveChangesAsync(cancel);
        await context.Drafts.Where(draft => draft.Version <= row.DraftVersion).ExecuteDeleteAsync(cancel);
        await transaction.Command("SELECT pg_notify($1, $2)", Channel, JsonSerializer.Serialize(new { release = next.Release })).RunAsync(cancel);
        await audit.WriteAsync(transaction, new(row.PersonId ?? Guid.Empty, row.StartedBy, []) { From = row.StartedFrom }, Notes(row, next, plan), cancel);
        await transaction.CommitAsync(cancel);
        (row.State, row.Release) = (PublishingState.Settling, next.Release);
        log.LogInformation("Release {Release} is live", next.Release);
    }

    private async Task SettleAsync(PeltoContext context, PublishingRow row, StepRunner doing, CancellationToken cancel)
    {
        var (live, earlier) = (catalogues.Live, await catalogues.AtAsync(row.Base, cancel));
        var plan = Planning.Make(earlier, live, await facts.ReadTablesAsync(cancel));
        var steps = plan.Before.Where(step => step is not (TrackColumn or CarryValues)).Concat(plan.After).ToList();
        if (steps.Exists(step => step is DropColumns))
        {
            await SayAsync(context, row, "Waits until nobody works with what is dropped any more.", cancel);
            await Task.Delay(Draining, cancel);
        }

        await doing.RunAsync(steps, await facts.ReadTablesAsync(cancel), saying => SayAsync(context, row, saying, cancel), cancel);
        await SetAsync(context, row, PublishingState.Done, $"Release {row.Release} is live.", cancel);
    }

    private async Task EndAsync(PeltoContext context, PublishingRow row, Exception error)
    {
        log.LogWarning(error, "Publishing ended early");
        var saying = error is PublishRefusedException ? error.Message : DatabaseErrors.IsFull(error) ? "The disk of the database is full." : $"The database refused a step: {(error.GetBaseException() as PostgresException)?.MessageText ?? error.Message}";
        if (row.State == PublishingState.Settling)
        {
            await SetAsync(context, row, PublishingState.Done, $"Release {row.Release} is live. {saying}", CancellationToken.None);
            return;
        }

        // Whoever stopped it has said so already.
        await context.Publishings.Where(candidate => candidate.Id == row.Id && candidate.State == PublishingState.Preparing)
            .ExecuteUpdateAsync(set => set.SetProperty(candidate => candidate.State, PublishingState.Failed).SetProperty(candidate => candidate.Saying, saying));
        var ended = await context.Publishings.AsNoTracking().FirstAsync(candidate => candidate.Id == row.Id);
        (row.State, row.Saying) = (ended.State, ended.Saying);
    }

    // People read it: often enough is now and then.
    private async Task SayAsync(PeltoContext context, PublishingRow row, string saying, CancellationToken cancel)
    {
        row.Saying = saying;
        if (clock.GetElapsedTime(said) < Between) return;
        said = clock.GetTimestamp();
        await context.Publishings.Where(candidate => candidate.Id == row.Id && candidate.State == row.State)
            .ExecuteUpdateAsync(set => set.SetProperty(candidate => candidate.Saying, saying), cancel);
    }

    private static async Task SetAsync(PeltoContext context, PublishingRow row, PublishingState state, string saying, CancellationToken cancel)
    {
        (row.State, row.Saying) = (state, saying);
        await context.Publishings.Where(candidate => candidate.Id == row.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(candidate => candidate.State, state).SetProperty(candidate => candidate.Saying, saying), cancel);
    }
}
