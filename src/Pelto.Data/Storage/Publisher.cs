using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;
using Pelto.Data.Definitions;
using Pelto.Data.Queries;
using Pelto.Data.Records;

namespace Pelto.Data.Storage;

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
    OwnerDatabase database, IDbContextFactory<PeltoContext> contexts, NpgsqlDataSource source, Catalogues catalogues, RecordModels models, Drafts drafts, FactsReader facts, Carrying carrying, DataSaver saver, QueryRole queries, QueryRunner runner, AuditTrail audit, TimeProvider clock, ILogger<Publisher> log)
{
    /// <summary>How long requests that began under the earlier release get to end before columns are dropped.</summary>
    public static TimeSpan Draining { get; set; } = TimeSpan.FromSeconds(4);

    /// <summary>Raised on this node when a release has begun jobs.</summary>
    public event Action? JobsBegan;

    /// <summary>The channel on which nodes hear of releases.</summary>
    public const string Channel = "pelto";

    private const long PublisherLock = 7_301_002;
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(300);
    private static readonly TimeSpan AskedAgain = TimeSpan.FromMilliseconds(60);
    private long said;

    /// <summary>What publishing the draft would do: the changes that somebody is shown, and what they may be told of what is on file.</summary>
    public async Task<(Draft Draft, Catalogue Catalogue, Plan Plan)> PlanAsync(Viewer viewer, CancellationToken cancel = default)
    {
        var live = catalogues.Live;
        var draft = await drafts.ReadAsync(cancel);
        var shown = new SiteViews(viewer, live).Drafted(draft.Site);
        var catalogue = catalogues.Build(shown);
        var plan = Plan.Make(live, catalogue, (await facts.ReadAsync(live, catalogue, cancel)).For(viewer, catalogue, live));
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

    /// <summary>The setting that says that publishing takes two people.</summary>
    public const string TwoPeopleSetting = "publish_by_two";

    /// <summary>True when whoever publishes must be another than who asked for it.</summary>
    public async Task<bool> TakesTwoAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Settings.AnyAsync(setting => setting.Name == TwoPeopleSetting && setting.Value == "yes", cancel);
    }

    /// <summary>Lets publishing take two people from now on; or one, once two administrators have said so. Gives what is still missing, as a sentence, or null.</summary>
    public async Task<string?> SetTakesTwoAsync(bool takesTwo, Viewer viewer, CancellationToken cancel = default)
    {
        if (!WorkRights.All(viewer)) throw new AccessRefusedException("Only administrators say how many people publishing takes.");
        Allowing.MustBeSure(viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var row = await context.Settings.FirstOrDefaultAsync(setting => setting.Name == TwoPeopleSetting, cancel);
        var asked = await context.Settings.FirstOrDefaultAsync(setting => setting.Name == OnePersonSetting, cancel);
        if ((row?.Value == "yes") == takesTwo)
        {
            // Whoever keeps it as it is takes back that somebody asked for the other.
            if (asked is not null) await context.Settings.Where(setting => setting.Name == OnePersonSetting).ExecuteDeleteAsync(cancel);
            await transaction.CommitAsync(cancel);
            return null;
        }

        // What takes two is turned off by two.
        if (!takesTwo && (asked is null || asked.Value == viewer.Id.ToString()))
        {
            if (asked is null) context.Settings.Add(new() { Name = OnePersonSetting, Value = viewer.Id.ToString() });
            await context.SaveChangesAsync(cancel);
            if (asked is null) await audit.WriteAsync(context, viewer, [new(AuditKinds.People, "publishing", "Asked for publishing to take one person")], cancel);
            await transaction.CommitAsync(cancel);
            return "It is asked for. Publishing goes on taking two people until another administrator turns that off here as well.";
        }

        if (asked is not null) context.Settings.Remove(asked);
        if (row is null) context.Settings.Add(row = new() { Name = TwoPeopleSetting });
        row.Value = takesTwo ? "yes" : "no";
        await context.SaveChangesAsync(cancel);
        await audit.WriteAsync(context, viewer, [new(AuditKinds.People, "publishing", takesTwo ? "Publishing takes two people from now on" : "Publishing takes one person from now on")], cancel);
        await transaction.CommitAsync(cancel);
        return null;
    }

    // Who asked for publishing to take one person again.
    private const string OnePersonSetting = "publish_by_one_asked_by";

    /// <summary>Who asks for the draft as it stands to be published; null when nobody does.</summary>
    public async Task<ProposalRow?> ProposalAsync(CancellationToken cancel = default)
    {
        var draft = await drafts.ReadAsync(cancel);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Proposals.AsNoTracking().FirstOrDefaultAsync(row => row.DraftVersion == draft.Version, cancel);
    }

    /// <summary>Asks a second person to publish the draft, which is checked as if it were published. Throws <see cref="PublishRefusedException"/> when it could not be.</summary>
    public async Task ProposeAsync(string? comment, Viewer viewer, long? ifVersion = null, CancellationToken cancel = default)
    {
        var (_, version) = await CheckAsync(comment, viewer, ifVersion, cancel);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Proposals.ExecuteDeleteAsync(cancel);
        context.Proposals.Add(new() { DraftVersion = version, Comment = comment!.Trim(), PersonId = viewer.Id, By = viewer.Name, At = clock.GetUtcNow() });
        await context.SaveChangesAsync(cancel);
        await audit.WriteAsync(context, viewer, [new(AuditKinds.Release, "release", $"Asked for the draft to be published: {comment.Trim()}")], cancel);
        await transaction.CommitAsync(cancel);
    }

    /// <summary>Takes back that somebody asks for the draft to be published.</summary>
    public async Task WithdrawAsync(Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.May(Works.Publish)) throw new AccessRefusedException("You may not publish.");
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        if (await context.Proposals.ExecuteDeleteAsync(cancel) > 0) await audit.WriteAsync(context, viewer, [new(AuditKinds.Release, "release", "Sent the draft back that was to be published")], cancel);
        await transaction.CommitAsync(cancel);
    }

    /// <summary>Checks the draft and puts down that it is to go live. Throws <see cref="PublishRefusedException"/> when it may not.</summary>
    /// <param name="comment">Why; required, unless somebody else asked for it and said why.</param>
    /// <param name="viewer">Who publishes.</param>
    /// <param name="ifVersion">The version of the draft that was looked at; another one is refused.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<Guid> StartAsync(string? comment, Viewer viewer, long? ifVersion = null, CancellationToken cancel = default)
    {
        if (await TakesTwoAsync(cancel))
        {
            var asked = await ProposalAsync(cancel);
            if (asked is null || asked.PersonId == viewer.Id) throw new PublishRefusedException("Publishing takes two people here: one asks for it, another publishes.");
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
        if (comment.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t'))) throw new PublishRefusedException("The comment holds a control character.");
        if (comment.Length > MostComment) throw new PublishRefusedException($"A comment has at most {MostComment} characters.");
        var draft = await drafts.ReadAsync(cancel);
        if (new WorkRules(catalogues.Live.Site, draft.Site, catalogues.Live).RefusePublishing(viewer) is { } refusal) throw new AccessRefusedException(refusal);
        var next = catalogues.Build(draft.Site);
        var known = await facts.ReadStorageAsync(next, cancel);
        var plan = Plan.Make(catalogues.Live, next, known);
        if (ifVersion is { } seen && seen != draft.Version) throw new PublishRefusedException("The draft changed after you looked at the plan. Look at it again.");
        var told = Plan.Make(catalogues.Live, next, known.For(viewer, next, catalogues.Live)).Problems;
        if (told.Count > 0) throw new PublishRefusedException(told[0].Sentence, told);
        if (plan.Problems.Count > 0) throw new PublishRefusedException("The draft changes what values must keep to that you may not read: somebody who may read them has to publish it.");
        var (settled, unsound) = await runner.SettleAsync(draft.Site, catalogues.Live.Host.Version == next.Host.Version ? catalogues.Live : next, cancel);
        if (unsound.Count > 0) throw new PublishRefusedException(unsound[0].Sentence, unsound);
        if (plan.IsEmpty) throw new PublishRefusedException("The draft holds nothing that is not live already.");
        return (settled, draft.Version);
    }

    /// <summary>Puts down that a small change of what is live goes live by itself, beside the draft: a choice that somebody added while entering a record.</summary>
    public async Task<Guid> StartSmallAsync(SiteDefinition site, string comment, Viewer viewer, CancellationToken cancel = default)
    {
        if (!SiteDefinition.Same(site.Roles, catalogues.Live.Site.Roles))
        {
            Allowing.MustBeSure(viewer);
            if (await TakesTwoAsync(cancel)) throw new PublishRefusedException("Publishing takes two people here, roles included: they go live with the draft.");
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
            Saying = "Getting ready.",
        };
        context.Publishings.Add(row);
        await context.SaveChangesAsync(cancel);
        return row.Id;
    }

    /// <summary>Carries a publishing through, from wherever it stands. Only one runs at a time on one database; a second waits.</summary>
    public async Task<PublishingRow> RunAsync(Guid id, CancellationToken cancel = default)
    {
        while (true)
        {
            if (await TryRunAsync(id, cancel) is { } row) return row;

            // By asking again rather than in a queue of the database: a statement that waits there holds what it sees, and an index that is built beside it waits for that.
            await Task.Delay(AskedAgain, cancel);
        }
    }

    private async Task<PublishingRow?> TryRunAsync(Guid id, CancellationToken cancel)
    {
        await using var guard = await source.OpenConnectionAsync(cancel);
        await using (var command = new NpgsqlCommand($"SELECT pg_try_advisory_lock({PublisherLock})", guard))
            if (await command.ExecuteScalarAsync(cancel) is not true) return null;
        try
        {
            return await RunLockedAsync(id, cancel);
        }
        finally
        {
            await using var command = new NpgsqlCommand($"SELECT pg_advisory_unlock({PublisherLock})", guard);

            // Where the connection broke, the lock went with it.
            await ((Task)command.ExecuteNonQueryAsync(CancellationToken.None)).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    /// <summary>Carries through what is put down, and what a node that died left unfinished: whoever comes first. What another node is at is left to it.</summary>
    public async Task ResumeAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var open = await context.Publishings.AsNoTracking()
            .Where(row => row.State == PublishingState.Preparing || row.State == PublishingState.Settling).OrderBy(row => row.StartedAt).ToListAsync(cancel);
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
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.State, PublishingState.Stopped).SetProperty(row => row.Saying, "Stopped before anything went live."), cancel) == 1;
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
        var steps = new StepRunner(database.Source, new StepSql(context), facts, carrying, saver);
        try
        {
            if (row.State == PublishingState.Preparing) await PrepareAndSwitchAsync(context, row, steps, cancel);
            if (row.State == PublishingState.Settling) await SettleAsync(context, row, steps, cancel);
        }
        catch (Exception error) when (error is PublishRefusedException or PostgresException && !DatabaseErrors.IsDown(error))
        {
            await EndAsync(context, row, error);
        }

        return row;
    }

    private async Task PrepareAndSwitchAsync(PeltoContext context, PublishingRow row, StepRunner steps, CancellationToken cancel)
    {
        await catalogues.CatchUpAsync(cancel);
        var live = catalogues.Live;
        if (live.Release != row.Base) throw new PublishRefusedException($"Release {live.Release} went live in between. Look at the plan again.");
        var next = catalogues.Build(SiteDefinition.FromJson(row.Definition), row.Base + 1);
        var plan = Plan.Make(live, next, await facts.ReadStorageAsync(next, cancel));
        if (plan.Problems.Count > 0) throw new PublishRefusedException(plan.Problems[0].Sentence, plan.Problems);

        await steps.RunAsync(plan.Before, saying => SayAsync(context, row, saying, cancel), cancel);
        await models.PrepareAsync(next, source, cancel);
        if (queries.Source is not null) await ReadableViews.MakeAsync(database.Source, next, queries.Name, cancel);
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

    // Jobs are done in the order in which they began, which is that of the plan.
    // The one moment in which the new release becomes the live one, together with the audit of it: all of it or none of it.
    private async Task SwitchAsync(PublishingRow row, Catalogue next, Plan plan, CancellationToken cancel)
    {
        await using var connection = await database.Source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var command = new NpgsqlCommand(
            """
            WITH moved AS (UPDATE pelto.publishing SET state = 'Settling', release = $2 WHERE id = $1 AND state = 'Preparing' RETURNING id),
            released AS (
                INSERT INTO pelto.release (number, definition, comment, summary, published_by, published_at)
                SELECT $2, $3, $4, $5, $6, $7 FROM moved),
            cleared AS (DELETE FROM pelto.draft WHERE version <= $8 AND EXISTS (SELECT FROM moved)),
            begun AS (
                INSERT INTO pelto.job (id, work, field, "from", "to", says, release, started_by, started_at, state, reached, looked, total, changed, saying)
                SELECT gen_random_uuid(), j.work, j.field, j.from_choice, j.to_value, j.says, $2, $6, $7 + j.place * interval '1 microsecond', 'Running', 0, 0, 0, 0, ''
                FROM moved, unnest($11::text[], $12::text[], $13::text[], $14::text[], $15::text[]) WITH ORDINALITY AS j(work, field, from_choice, to_value, says, place))
            SELECT pg_notify($9, $10) IS NOT NULL FROM moved
            """, connection, transaction);
        var values = new object[]
        {
            row.Id, next.Release, row.Definition, row.Comment, string.Join('\n', plan.Changes.Select(change => change.Sentence)),
            row.StartedBy, clock.GetUtcNow(), row.DraftVersion,
            Channel, JsonSerializer.Serialize(new { release = next.Release }),
            plan.Jobs.Select(job => job.Work).ToArray(), plan.Jobs.Select(job => job.Field).ToArray(), plan.Jobs.Select(job => job.From).ToArray(), plan.Jobs.Select(job => job.To).ToArray(), plan.Jobs.Select(job => job.Says).ToArray(),
        };
        foreach (var value in values) command.Parameters.Add(new() { Value = value });
        if (await command.ExecuteScalarAsync(cancel) is null) throw new PublishRefusedException("Stopped before anything went live.");
        await audit.WriteAsync(transaction, new(row.PersonId ?? Guid.Empty, row.StartedBy, []) { From = row.StartedFrom }, Notes(row, next, plan), cancel);
        await transaction.CommitAsync(cancel);
        (row.State, row.Release) = (PublishingState.Settling, next.Release);
        log.LogInformation("Release {Release} is live", next.Release);
    }

    private async Task SettleAsync(PeltoContext context, PublishingRow row, StepRunner doing, CancellationToken cancel)
    {
        var (live, earlier) = (catalogues.Live, await catalogues.AtAsync(row.Base, cancel));
        var plan = Plan.Make(earlier, live, await facts.ReadTablesAsync(cancel));
        var steps = plan.Before.Where(step => step is not (TrackColumn or CarryValues)).Concat(plan.After).ToList();
        if (steps.Exists(step => step is DropColumns))
        {
            await SayAsync(context, row, "Waits until nobody works with what is dropped any more.", cancel);
            await Task.Delay(Draining, cancel);
        }

        await doing.RunAsync(steps, saying => SayAsync(context, row, saying, cancel), cancel);
        await SetAsync(context, row, PublishingState.Done, $"Release {row.Release} is live.", cancel);
    }

    private async Task EndAsync(PeltoContext context, PublishingRow row, Exception error)
    {
        log.LogWarning(error, "Publishing ended early");
        var isLive = row.State == PublishingState.Settling;
        var saying = error is PublishRefusedException ? error.Message : $"The database refused a step: {(error as PostgresException)?.MessageText ?? error.Message}";
        if (!isLive) await AbandonAsync(row);
        var stopped = await context.Publishings.AsNoTracking().Where(candidate => candidate.Id == row.Id).Select(candidate => candidate.State).FirstAsync() == PublishingState.Stopped;
        if (stopped) (row.State, row.Saying) = (PublishingState.Stopped, "Stopped before anything went live.");
        else await SetAsync(context, row, isLive ? PublishingState.Done : PublishingState.Failed, isLive ? $"Release {row.Release} is live. {saying}" : saying, CancellationToken.None);
    }

    // What a change of kind had begun to write down is of no use any more.
    private async Task AbandonAsync(PublishingRow row)
    {
        var next = catalogues.Build(SiteDefinition.FromJson(row.Definition));
        foreach (var track in Plan.Make(catalogues.Live, next, await facts.ReadTablesAsync()).Before.OfType<CarryValues>()) await carrying.AbandonAsync(track.From);
    }

    // People read it, and it is where a publishing that somebody stopped ends: often enough is now and then.
    private async Task SayAsync(PeltoContext context, PublishingRow row, string saying, CancellationToken cancel)
    {
        if (clock.GetElapsedTime(said) < Between) return;
        said = clock.GetTimestamp();
        var going = await context.Publishings.Where(candidate => candidate.Id == row.Id && candidate.State == row.State)
            .ExecuteUpdateAsync(set => set.SetProperty(candidate => candidate.Saying, saying), cancel);
        if (going == 0) throw new PublishRefusedException("Stopped before anything went live.");
    }

    private static async Task SetAsync(PeltoContext context, PublishingRow row, PublishingState state, string saying, CancellationToken cancel)
    {
        (row.State, row.Saying) = (state, saying);
        await context.Publishings.Where(candidate => candidate.Id == row.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(candidate => candidate.State, state).SetProperty(candidate => candidate.Saying, saying), cancel);
    }
}
