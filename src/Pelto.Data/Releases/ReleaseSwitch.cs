using System.Text.Json;
using Microsoft.Extensions.Logging;
using Pelto.Core.Auditing;
using Pelto.Core.Elements;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;
using Pelto.Data.Queries;

namespace Pelto.Data.Releases;

/// <summary>Makes a release that storage is ready for the live one.</summary>
public sealed class ReleaseSwitch(
    OwnerDatabase database,
    IDbContextFactory<PeltoContext> contexts,
    Catalogues catalogues,
    QueryRole queries,
    AuditTrail audit,
    TimeProvider clock,
    ILogger<ReleaseSwitch> log
)
{
    /// <summary>The channel on which nodes hear of releases.</summary>
    public const string Channel = "pelto";

    /// <summary>
    /// The one moment in which the new release becomes the live one, together with the audit of it: all of it or none of it.
    /// </summary>
    /// <param name="row">The publishing; moved on with it.</param>
    /// <param name="next">The new release, for which storage is ready.</param>
    /// <param name="plan">What it changes, and the jobs that it begins.</param>
    /// <param name="cancel">Stops it before it is committed.</param>
    /// <exception cref="PublishRefusedException">Somebody stopped it.</exception>
    public async Task SwitchAsync(PublishingRow row, Catalogue next, Plan plan, CancellationToken cancel)
    {
        await queries.ShowAsync(database.Source, next, null, cancel);
        await using var connection = await database.Source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var context = contexts.Within(transaction);
        var now = clock.GetUtcNow();
        var preparing = context.Publishings.Where(one => one.Id == row.Id && one.State == PublishingState.Preparing);
        var moved = await preparing.ExecuteUpdateAsync(
            set =>
                set.SetProperty(one => one.State, PublishingState.Finishing)
                    .SetProperty(one => one.Release, next.Release)
                    .SetProperty(one => one.StorageBefore, (string?)null),
            cancel
        );
        if (moved == 0)
            throw new PublishRefusedException(Publisher.Stopped);
        context.Releases.Add(
            new()
            {
                Number = next.Release,
                Definition = row.Definition,
                Comment = row.Comment,
                Summary = Summary(plan),
                PublishedBy = row.StartedBy,
                PublishedAt = now,
            }
        );

        // Jobs are done in the order in which they began, which is that of the plan.
        context.Jobs.AddRange(
            plan.Jobs.Select(
                (job, at) =>
                    new JobRow
                    {
                        Id = Guid.NewGuid(),
                        Work = job.Work,
                        Field = job.Field,
                        From = job.From,
                        To = job.To,
                        Description = job.Says,
                        Release = next.Release,
                        StartedBy = row.StartedBy,
                        StartedAt = now.AddMicroseconds(at + 1),
                        State = JobState.Running,
                    }
            )
        );
        await context.SaveChangesAsync(cancel);
        await context.Drafts.Where(draft => draft.Version <= row.DraftVersion).ExecuteDeleteAsync(cancel);
        await transaction
            .Command("SELECT pg_notify($1, $2)", Channel, JsonSerializer.Serialize(new { release = next.Release }))
            .RunAsync(cancel);
        var by = new Viewer(row.PersonId ?? Guid.Empty, row.StartedBy, []) { From = row.StartedFrom };
        await audit.WriteAsync(transaction, by, Notes(row, next, plan), cancel);
        await transaction.CommitAsync(cancel);
        (row.State, row.Release) = (PublishingState.Finishing, next.Release);
        log.LogInformation("Release {Release} is live", next.Release);
    }

    // What of a draft went live is on record change by change since it was drafted; what went live by itself is only known here.
    private List<AuditNote> Notes(PublishingRow row, Catalogue next, Plan plan) =>
        [
            .. row.DraftVersion == 0 ? DefinitionChanges.Between(catalogues.Live.Site, next.Site, row.Comment) : [],
            new(AuditKinds.Release, "release", $"Release {next.Release} went live: {row.Comment}")
            {
                Before = $"Release {row.Base}",
                After = Summary(plan),
            },
        ];

    private static string Summary(Plan plan) => string.Join('\n', plan.Changes.Select(change => change.Sentence));
}
