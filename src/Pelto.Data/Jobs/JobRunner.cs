using Microsoft.Extensions.Logging;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;
using Pelto.Data.Records;

namespace Pelto.Data.Jobs;

/// <summary>
/// Work on many records in the background: in batches of a thousand rows, each one transaction together with what it needs to be undone, so
/// that a job can be stopped, undone, or cut off at any moment.
/// </summary>
public sealed class JobRunner(
    NpgsqlDataSource source,
    IDbContextFactory<PeltoContext> contexts,
    Catalogues catalogues,
    QueryFills queries,
    AuditTrail audit,
    TimeProvider clock,
    ILogger<JobRunner> log
)
{
    private const int Patience = 50;
    private const string ByNight = "Pelto, each night";

    // The day on which that was last begun.
    private const string NightSetting = "filled_again";
    private DateOnly? lastNight;

    /// <summary>All jobs, newest first.</summary>
    public async Task<IReadOnlyList<JobRow>> AllAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Jobs.AsNoTracking().OrderByDescending(job => job.StartedAt).Take(200).ToListAsync(cancel);
    }

    /// <summary>Begins to store anew what a kept field's formula or its query gives; nothing when that is under way already.</summary>
    public async Task RefillAsync(Field field, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.MayAt(AdminWork.Publish, field.Part.RecordType.Code))
            throw new AccessRefusedException(
                $"You may not fill fields of {field.Part.RecordType.Plural.ToLowerInvariant()} again: that is for those who publish."
            );
        await BeginAsync(field, viewer.Name, cancel);
    }

    private async Task BeginAsync(Field field, string by, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (
            await context.Jobs.AnyAsync(
                job => job.Field == field.Id && job.Work == PlannedJob.Refill && job.State == JobState.Running,
                cancel
            )
        )
            return;
        context.Jobs.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                Work = PlannedJob.Refill,
                Field = field.Id,
                Description =
                    $"Stores in {field.Label} what its {(field.Asking is null ? "formula" : "query")} gives, where that is something else.",
                Release = catalogues.Live.Release,
                StartedBy = by,
                StartedAt = clock.GetUtcNow(),
                State = JobState.Running,
            }
        );
        await context.SaveChangesAsync(cancel);
    }

    /// <summary>
    /// Once a day, on whichever node comes first: begins to fill again what the clock has made old. Earlier nights are not kept for
    /// undoing.
    /// </summary>
    public async Task RefillNightlyAsync(CancellationToken cancel = default)
    {
        var today = DateOnly.FromDateTime(clock.GetLocalNow().DateTime);
        if (today == lastNight)
            return;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var isFirst = await IsFirstAsync(context, today, cancel);
        lastNight = today;
        if (!isFirst)
            return;
        foreach (
            var field in Core.Fills.FillOrders.Across(
                catalogues.Live.RecordTypes.SelectMany(type => type.FillOrder).Where(field => field.GrowsOld)
            )
        )
        {
            var done = context.Jobs.Where(job =>
                job.Field == field.Id && job.Work == PlannedJob.Refill && job.StartedBy == ByNight && job.State == JobState.Done
            );
            await context.JobBatches.Where(batch => done.Any(job => job.Id == batch.JobId)).ExecuteDeleteAsync(cancel);
            await BeginAsync(field, ByNight, cancel);
        }
    }

    // Of all nodes, whichever comes first.
    private static async Task<bool> IsFirstAsync(PeltoContext context, DateOnly today, CancellationToken cancel)
    {
        var day = today.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);
        var mark = context.Settings.Where(row => row.Name == NightSetting);
        if (
            await mark.Where(row => string.Compare(row.Value, day) < 0)
                .ExecuteUpdateAsync(set => set.SetProperty(row => row.Value, day), cancel) == 1
        )
            return true;
        if (await mark.AnyAsync(cancel))
            return false;
        context.Settings.Add(new() { Name = NightSetting, Value = day });
        try
        {
            await context.SaveChangesAsync(cancel);
            return true;
        }
        catch (DbUpdateException error) when (error.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            return false;
        }
    }

    /// <summary>Stops a job at its next batch; false when it has ended.</summary>
    public Task<bool> StopAsync(Guid id, Viewer viewer, CancellationToken cancel = default) =>
        MoveAsync(id, JobState.Running, JobState.Stopped, viewer, cancel);

    /// <summary>Stops all jobs that run or wait, of those that somebody may stop; gives how many.</summary>
    public async Task<int> StopAllAsync(Viewer viewer, CancellationToken cancel = default)
    {
        var stopped = 0;
        foreach (var job in (await AllAsync(cancel)).Where(job => job.State == JobState.Running && MayMove(viewer, job.Field)))
            if (await StopAsync(job.Id, viewer, cancel))
                stopped++;
        return stopped;
    }

    private bool MayMove(Viewer viewer, string about) =>
        viewer.MayAt(AdminWork.Publish, catalogues.Live.FindField(about)?.Part.RecordType.Code ?? "");

    /// <summary>Begins to take back what a job did, as far as nobody has changed it since.</summary>
    public async Task<bool> UndoAsync(Guid id, Viewer viewer, CancellationToken cancel = default) =>
        await MoveAsync(id, JobState.Done, JobState.Undoing, viewer, cancel)
        || await MoveAsync(id, JobState.Stopped, JobState.Undoing, viewer, cancel)
        || await MoveAsync(id, JobState.Failed, JobState.Undoing, viewer, cancel);

    /// <summary>Carries all open jobs through. One node at a time does; another finds nothing to do.</summary>
    public async Task RunOpenAsync(CancellationToken cancel = default)
    {
        await using var guard = await source.OpenConnectionAsync(cancel);

        // Called off while it is taken, it would be held by a connection that has gone back to the others, until somebody takes that up
        // again.
        if (!await guard.Command($"SELECT pg_try_advisory_lock({DatabaseLocks.Jobs})").ValueAsync<bool>(CancellationToken.None))
            return;
        try
        {
            while (await NextAsync(cancel) is { } job)
                await RunAsync(job, cancel);
        }
        finally
        {
            await guard.Command($"SELECT pg_advisory_unlock({DatabaseLocks.Jobs})").RunAsync(CancellationToken.None);
        }
    }

    private async Task<bool> MoveAsync(Guid id, JobState from, JobState to, Viewer viewer, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var about = await context.Jobs.Where(job => job.Id == id).Select(job => job.Field).FirstOrDefaultAsync(cancel);
        if (!MayMove(viewer, about ?? ""))
            throw new AccessRefusedException("You may not stop and undo this job: that is for those who publish.");
        return await context
                .Jobs.Where(job => job.Id == id && job.State == from)
                .ExecuteUpdateAsync(set => set.SetProperty(job => job.State, to).SetProperty(job => job.Saying, ""), cancel) == 1;
    }

    private async Task<JobRow?> NextAsync(CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context
            .Jobs.AsNoTracking()
            .Where(job => job.State == JobState.Running || job.State == JobState.Undoing)
            .OrderBy(job => job.StartedAt)
            .ThenBy(job => job.Id)
            .FirstOrDefaultAsync(cancel);
    }

    private async Task RunAsync(JobRow job, CancellationToken cancel)
    {
        // Another node may have published it a moment ago.
        if (job.Release > catalogues.Live.Release)
            await catalogues.CatchUpAsync(cancel);
        try
        {
            if (
                catalogues.Live.FindField(job.Field) is not { IsAdded: true, IsStored: true } field
                || (job.Work == PlannedJob.Refill && field is { Formula: null, Asking: null })
            )
                await EndAsync(job, JobState.Failed, "The field is not live any more.", cancel);
            else if (job.State == JobState.Undoing)
                await UndoAsync(job, field, cancel);
            else
                await WorkAsync(job, field, cancel);
        }
        catch (JobEndedException ended)
        {
            await EndAsync(job, JobState.Failed, ended.Message, cancel);
        }
        catch (Exception error) when (DatabaseErrors.IsFull(error))
        {
            // What was done is kept; the rest is tried again until there is room.
            await SayAsync(job, "Waits: the disk of the database is full. It goes on by itself once there is room.", cancel);
            throw;
        }
        catch (Exception error) when (error.GetBaseException() is PostgresException && !DatabaseErrors.IsDown(error))
        {
            log.LogWarning(error, "A job ended early");
            await EndAsync(
                job,
                JobState.Failed,
                $"The database refused a step: {((PostgresException)error.GetBaseException()).MessageText}",
                cancel
            );
        }
    }

    private async Task WorkAsync(JobRow job, Field field, CancellationToken cancel)
    {
        // A batch and what is known of it are one transaction: what a crash loses of them is done again, so none waits for the disk.
        await using var connection = await source.OpenConnectionAsync(cancel);
        await connection.Command("SET synchronous_commit = off").RunAsync(cancel);
        JobWork work = job.Work switch
        {
            PlannedJob.FillStart => new FillWork(
                field,
                job.Id,
                field.Kind.Parse(job.To).Value is { IsEmpty: false } value ? value : field.StartsWith(DateOnly.FromDateTime(DateTime.Today))
            ),
            PlannedJob.MergeChoice => new MergeWork(field, job.From!, job.To!),
            PlannedJob.Refill when field.Asking is not null => new QueryRefillWork(field, queries, clock.GetUtcNow().UtcDateTime),
            PlannedJob.Refill => new RefillWork(field, job.Id, Core.Formulas.Clock.From(clock)),
            _ => await ReadBackWork.OfAsync(contexts, field, cancel),
        };
        if (job.Total == 0)
            await EstimatedAsync(job, await work.EstimateAsync(connection, cancel), cancel);
        var notes = new JobNotes(audit, contexts, job, field);
        for (var patience = Patience; ; )
        {
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            Batch batch;
            try
            {
                batch = await work.RunAsync(transaction, job.Position, cancel);
                if (!await KeepAsync(transaction, job, batch, cancel))
                    return;
                if (batch.Changed > 0)
                    await notes.DoneAsync(transaction, cancel);
                await transaction.CommitAsync(cancel);
            }
            catch (Exception crossed) when (DatabaseErrors.IsLock(crossed) && patience-- > 0)
            {
                await transaction.RollbackAsync(cancel);
                await Task.Delay(Random.Shared.Next(20, 100), cancel);
                continue;
            }

            (job.Position, job.Changed) = (batch.Position, job.Changed + batch.Changed);
            if (batch.Examined > 0)
                continue;

            await EndedAsync(connection, cancel);

            // Rows that somebody was saving were skipped: they are looked at again, a little later.
            if (await work.CountAsync(connection, cancel) == 0 || patience-- <= 0)
                break;
            job.Position = 0;
            await Task.Delay(100, cancel);
        }

        await EndAsync(job, JobState.Done, "", cancel);
    }

    // Saves that were under way during the last batches count once they have ended, as all do within moments; what goes on for longer is no
    // save.
    private static async Task EndedAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        var last = await connection.Command("SELECT pg_snapshot_xmax(pg_current_snapshot())::text").ValueAsync<string>(cancel);
        for (var waited = 0; waited < 40; waited++)
        {
            var hasEnded = connection.Command("SELECT pg_snapshot_xmin(pg_current_snapshot()) >= $1::text::xid8", last);
            if (await hasEnded.ValueAsync<bool>(cancel))
                return;
            await Task.Delay(50, cancel);
        }
    }

    // False when somebody stopped the job: then the batch is not kept either.
    private async Task<bool> KeepAsync(NpgsqlTransaction transaction, JobRow job, Batch batch, CancellationToken cancel)
    {
        await using var context = contexts.Within(transaction);
        var running = context.Jobs.Where(row => row.Id == job.Id && row.State == JobState.Running);
        var changed = await running.ExecuteUpdateAsync(
            set =>
                set.SetProperty(row => row.Position, batch.Position)
                    .SetProperty(row => row.Examined, row => row.Examined + batch.Examined)
                    .SetProperty(row => row.Changed, row => row.Changed + batch.Changed)
                    .SetProperty(row => row.Saying, ""),
            cancel
        );
        if (changed == 0)
            return false;
        if (batch.Ids.Length == 0)
            return true;
        var last = await context.JobBatches.Where(row => row.JobId == job.Id).MaxAsync(row => (int?)row.Number, cancel) ?? 0;
        context.JobBatches.Add(
            new()
            {
                JobId = job.Id,
                Number = last + 1,
                Ids = batch.Ids,
                Befores = batch.Befores,
            }
        );
        await context.SaveChangesAsync(cancel);
        return true;
    }

    private async Task EstimatedAsync(JobRow job, long total, CancellationToken cancel)
    {
        job.Total = total;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Jobs.Where(row => row.Id == job.Id).ExecuteUpdateAsync(set => set.SetProperty(row => row.Total, total), cancel);
    }

    private async Task UndoAsync(JobRow job, Field field, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        JobWork work = job.Work switch
        {
            PlannedJob.MergeChoice => new MergeWork(field, job.From!, job.To!),
            PlannedJob.FillStart => new FillWork(
                field,
                job.Id,
                field.Kind.Parse(job.To).Value is { IsEmpty: false } value ? value : Value.Empty
            ),
            PlannedJob.Refill when field.Asking is not null => new QueryRefillWork(field, queries, clock.GetUtcNow().UtcDateTime),
            PlannedJob.Refill => new RefillWork(field, job.Id, Core.Formulas.Clock.From(clock)),
            _ => await ReadBackWork.OfAsync(contexts, field, cancel),
        };
        while (true)
        {
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            await using var context = contexts.Within(transaction);
            var batches = context.JobBatches.Where(row => row.JobId == job.Id);
            if (await batches.OrderByDescending(row => row.Number).FirstOrDefaultAsync(cancel) is not { } batch)
                break;
            context.JobBatches.Remove(batch);
            await context.SaveChangesAsync(cancel);
            await new JobNotes(audit, contexts, job, field).UndoneAsync(
                transaction,
                batch.Ids,
                () => work.UndoAsync(transaction, batch.Ids, batch.Befores, cancel),
                cancel
            );
            await context
                .Jobs.Where(row => row.Id == job.Id)
                .ExecuteUpdateAsync(set => set.SetProperty(row => row.Changed, row => Math.Max(0, row.Changed - batch.Ids.Length)), cancel);
            await transaction.CommitAsync(cancel);
        }

        await EndAsync(job, JobState.Undone, "", cancel);
    }

    private async Task EndAsync(JobRow job, JobState state, string saying, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var from = job.State;
        await context
            .Jobs.Where(row => row.Id == job.Id && row.State == from)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.State, state).SetProperty(row => row.Saying, saying), cancel);
    }

    private async Task SayAsync(JobRow job, string saying, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Jobs.Where(row => row.Id == job.Id).ExecuteUpdateAsync(set => set.SetProperty(row => row.Saying, saying), cancel);
    }
}
