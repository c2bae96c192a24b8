using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Core.Releases;
using Pelto.Core.Values;
using Pelto.Data.Auditing;
using Pelto.Data.Database;
using Pelto.Data.Definitions;
using Pelto.Data.Records;

namespace Pelto.Data.Jobs;

/// <summary>
/// Work on many records in the background: in batches of a thousand rows, each one transaction together with what it needs to be undone, so
/// that a job can be stopped, undone, or cut off at any moment.
/// </summary>
public sealed class JobRunner(NpgsqlDataSource source, IDbContextFactory<PeltoContext> contexts, Catalogues catalogues, QueryFills queries, AuditTrail audit, TimeProvider clock, ILogger<JobRunner> log)
{
    private const long RunnerLock = 7_301_004;
    private const int Patience = 50;
    private const string ByNight = "Pelto, each night";
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
        if (!viewer.MayAt(Works.Publish, field.Part.RecordType.Code)) throw new AccessRefusedException($"You may not fill fields of {field.Part.RecordType.Plural.ToLowerInvariant()} again: that is for those who publish.");
        await BeginAsync(field, viewer.Name, cancel);
    }

    private async Task BeginAsync(Field field, string by, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (await context.Jobs.AnyAsync(job => job.Field == field.Id && job.Work == PlannedJob.Refill && job.State == JobState.Running, cancel)) return;
        context.Jobs.Add(new()
        {
            Id = Guid.CreateVersion7(),
            Work = PlannedJob.Refill,
            Field = field.Id,
            Says = $"Stores in {field.Label} what its {(field.Asking is null ? "formula" : "query")} gives, where that is something else.",
            Release = catalogues.Live.Release,
            StartedBy = by,
            StartedAt = clock.GetUtcNow(),
            State = JobState.Running,
        });
        await context.SaveChangesAsync(cancel);
    }

    /// <summary>
    /// Once a day, on whichever node comes first: begins to fill again what the clock has made old. Earlier nights are not kept for
    /// undoing.
    /// </summary>
    public async Task RefillNightlyAsync(CancellationToken cancel = default)
    {
        var today = DateOnly.FromDateTime(clock.GetLocalNow().DateTime);
        if (today == lastNight) return;
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var mark = new NpgsqlCommand("INSERT INTO pelto.setting (name, value) VALUES ('filled_again', $1) ON CONFLICT (name) DO UPDATE SET value = excluded.value WHERE pelto.setting.value < excluded.value", connection);
        mark.Parameters.Add(new() { Value = today.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture) });
        var isFirst = await mark.ExecuteNonQueryAsync(cancel) == 1;
        lastNight = today;
        if (!isFirst) return;
        foreach (var field in Core.Fills.FillOrders.Across(catalogues.Live.RecordTypes.SelectMany(type => type.FillOrder).Where(field => field.GrowsOld)))
        {
            await SetAsync(connection, "DELETE FROM pelto.job_batch WHERE job_id IN (SELECT id FROM pelto.job WHERE field = $1 AND work = $2 AND started_by = $3 AND state = 'Done')", cancel, field.Id, PlannedJob.Refill, ByNight);
            await BeginAsync(field, ByNight, cancel);
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
            if (await StopAsync(job.Id, viewer, cancel)) stopped++;
        return stopped;
    }

    private bool MayMove(Viewer viewer, string about) =>
        viewer.MayAt(Works.Publish, catalogues.Live.FindField(about)?.Part.RecordType.Code ?? "");

    /// <summary>Begins to take back what a job did, as far as nobody has changed it since.</summary>
    public async Task<bool> UndoAsync(Guid id, Viewer viewer, CancellationToken cancel = default) =>
        await MoveAsync(id, JobState.Done, JobState.Undoing, viewer, cancel) || await MoveAsync(id, JobState.Stopped, JobState.Undoing, viewer, cancel) || await MoveAsync(id, JobState.Failed, JobState.Undoing, viewer, cancel);

    /// <summary>Carries all open jobs through. One node at a time does; another finds nothing to do.</summary>
    public async Task RunOpenAsync(CancellationToken cancel = default)
    {
        await using var guard = await source.OpenConnectionAsync(cancel);

        // Called off while it is taken, it would be held by a connection that has gone back to the others, until somebody takes that up
        // again.
        await using (var command = new NpgsqlCommand($"SELECT pg_try_advisory_lock({RunnerLock})", guard))
            if (await command.ExecuteScalarAsync(CancellationToken.None) is not true) return;
        try
        {
            while (await NextAsync(cancel) is { } job) await RunAsync(job, cancel);
        }
        finally
        {
            await using var command = new NpgsqlCommand($"SELECT pg_advisory_unlock({RunnerLock})", guard);
            await command.ExecuteNonQueryAsync(CancellationToken.None);
        }
    }

    private Core.Formulas.Clock Clock => Core.Formulas.Clock.Of(clock);

    private async Task<bool> MoveAsync(Guid id, JobState from, JobState to, Viewer viewer, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var about = await context.Jobs.Where(job => job.Id == id).Select(job => job.Field).FirstOrDefaultAsync(cancel);
        if (!MayMove(viewer, about ?? ""))
            throw new AccessRefusedException("You may not stop and undo this job: that is for those who publish.");
        return await context.Jobs.Where(job => job.Id == id && job.State == from).ExecuteUpdateAsync(set => set.SetProperty(job => job.State, to).SetProperty(job => job.Saying, ""), cancel) == 1;
    }

    private async Task<JobRow?> NextAsync(CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Jobs.AsNoTracking().Where(job => job.State == JobState.Running || job.State == JobState.Undoing).OrderBy(job => job.StartedAt).ThenBy(job => job.Id).FirstOrDefaultAsync(cancel);
    }

    private async Task RunAsync(JobRow job, CancellationToken cancel)
    {
        // Another node may have published it a moment ago.
        if (job.Release > catalogues.Live.Release) await catalogues.CatchUpAsync(cancel);
        try
        {
            if (catalogues.Live.FindField(job.Field) is not { IsAdded: true, IsStored: true } field || (job.Work == PlannedJob.Refill && field is { Formula: null, Asking: null })) await EndAsync(job, JobState.Failed, "The field is not live any more.", cancel);
            else if (job.State == JobState.Undoing) await UndoAsync(job, field, cancel);
            else await WorkAsync(job, field, cancel);
        }
        catch (JobEndedException ended)
        {
            await EndAsync(job, JobState.Failed, ended.Message, cancel);
        }
        catch (PostgresException error) when (DatabaseErrors.IsFull(error))
        {
            // What was done is kept; the rest is tried again until there is room.
            await SayAsync(job, "Waits: the disk of the database is full. It goes on by itself once there is room.", cancel);
            throw;
        }
        catch (Exception error) when (error is PostgresException && !DatabaseErrors.IsDown(error))
        {
            log.LogWarning(error, "A job ended early");
            await EndAsync(job, JobState.Failed, $"The database refused a step: {((PostgresException)error).MessageText}", cancel);
        }
    }

    private async Task WorkAsync(JobRow job, Field field, CancellationToken cancel)
    {
        // A batch and what is known of it are one transaction: what a crash loses of them is done again, so none waits for the disk.
        await using var connection = await source.OpenConnectionAsync(cancel);
        await SetAsync(connection, "SET synchronous_commit = off", cancel);
        JobWork work = job.Work switch
        {
            PlannedJob.FillStart => new FillWork(field, job.Id, field.Kind.Parse(job.To).Value is { IsEmpty: false } value ? value : field.StartsWith(DateOnly.FromDateTime(DateTime.Today))),
            PlannedJob.MergeChoice => new MergeWork(field, job.From!, job.To!),
            PlannedJob.Refill when field.Asking is not null => new QueryRefillWork(field, queries, clock.GetUtcNow().UtcDateTime),
            PlannedJob.Refill => new RefillWork(field, job.Id, Clock),
            _ => await ReadBackWork.OfAsync(connection, field, cancel),
        };
        if (job.Total == 0) await SetAsync(connection, "UPDATE pelto.job SET total = $2 WHERE id = $1", cancel, job.Id, job.Total = await work.EstimateAsync(connection, cancel));
        var notes = new JobNotes(audit, job, field);
        for (var patience = Patience; ;)
        {
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            Batch batch;
            try
            {
                batch = await work.RunAsync(transaction, job.Reached, cancel);
                if (!await KeepAsync(transaction, job, batch, cancel)) return;
                if (batch.Changed > 0) await notes.DoneAsync(transaction, cancel);
                await transaction.CommitAsync(cancel);
            }
            catch (PostgresException crossed) when (DatabaseErrors.IsLock(crossed) && patience-- > 0)
            {
                await transaction.RollbackAsync(cancel);
                await Task.Delay(Random.Shared.Next(20, 100), cancel);
                continue;
            }

            (job.Reached, job.Changed) = (batch.Reached, job.Changed + batch.Changed);
            if (batch.Looked > 0) continue;

            await EndedAsync(connection, cancel);

            // Rows that somebody was saving were passed over: they are looked at again, a little later.
            if (await work.CountAsync(connection, cancel) == 0 || patience-- <= 0) break;
            job.Reached = 0;
            await Task.Delay(100, cancel);
        }

        await EndAsync(job, JobState.Done, "", cancel);
    }

    // Saves that were under way during the last batches count once they have ended, as all do within moments; what goes on for longer is no
    // save.
    private static async Task EndedAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var begun = new NpgsqlCommand("SELECT pg_snapshot_xmax(pg_current_snapshot())::text", connection);
        var last = (string)(await begun.ExecuteScalarAsync(cancel))!;
        await using var ended = new NpgsqlCommand("SELECT pg_snapshot_xmin(pg_current_snapshot()) >= $1::text::xid8", connection);
        ended.Parameters.Add(new() { Value = last, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Text });
        for (var waited = 0; waited < 40 && await ended.ExecuteScalarAsync(cancel) is false; waited++) await Task.Delay(50, cancel);
    }

    // False when somebody stopped the job: then the batch is not kept either.
    private static async Task<bool> KeepAsync(NpgsqlTransaction transaction, JobRow job, Batch batch, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand("UPDATE pelto.job SET reached = $2, looked = looked + $3, changed = changed + $4, saying = '' WHERE id = $1 AND state = 'Running'", transaction.Connection, transaction);
        foreach (var value in new object[] { job.Id, batch.Reached, (long)batch.Looked, batch.Changed })
            command.Parameters.Add(new() { Value = value });
        if (await command.ExecuteNonQueryAsync(cancel) == 0) return false;
        if (batch.Ids.Length == 0) return true;
        await using var kept = new NpgsqlCommand("INSERT INTO pelto.job_batch (job_id, number, ids, befores) SELECT $1, coalesce(max(number), 0) + 1, $2, $3 FROM pelto.job_batch WHERE job_id = $1", transaction.Connection, transaction);
        kept.Parameters.Add(new() { Value = job.Id });
        kept.Parameters.Add(new() { Value = batch.Ids });
        kept.Parameters.Add(Columns.Parameter(ColumnType.TextArray, batch.Befores));
        await kept.ExecuteNonQueryAsync(cancel);
        return true;
    }

    private async Task UndoAsync(JobRow job, Field field, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        JobWork work = job.Work switch
        {
            PlannedJob.MergeChoice => new MergeWork(field, job.From!, job.To!),
            PlannedJob.FillStart => new FillWork(field, job.Id, field.Kind.Parse(job.To).Value is { IsEmpty: false } value ? value : Value.Empty),
            PlannedJob.Refill when field.Asking is not null => new QueryRefillWork(field, queries, clock.GetUtcNow().UtcDateTime),
            PlannedJob.Refill => new RefillWork(field, job.Id, Clock),
            _ => await ReadBackWork.OfAsync(connection, field, cancel),
        };
        while (true)
        {
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            await using var take = new NpgsqlCommand("DELETE FROM pelto.job_batch WHERE job_id = $1 AND number = (SELECT max(number) FROM pelto.job_batch WHERE job_id = $1) RETURNING ids, befores", connection, transaction);
            take.Parameters.Add(new() { Value = job.Id });
            (long[] Ids, string[]? Befores)? batch = null;
            await using (var reader = await take.ExecuteReaderAsync(cancel))
                if (await reader.ReadAsync(cancel))
                    batch = (reader.GetFieldValue<long[]>(0), reader.IsDBNull(1) ? null : reader.GetFieldValue<string[]>(1));
            if (batch is not { } found) break;
            await new JobNotes(audit, job, field).UndoneAsync(transaction, found.Ids, () => work.UndoAsync(transaction, found.Ids, found.Befores, cancel), cancel);
            await using var less = new NpgsqlCommand("UPDATE pelto.job SET changed = greatest(0, changed - $2) WHERE id = $1", connection, transaction);
            foreach (var value in new object[] { job.Id, (long)found.Ids.Length }) less.Parameters.Add(new() { Value = value });
            await less.ExecuteNonQueryAsync(cancel);
            await transaction.CommitAsync(cancel);
        }

        await EndAsync(job, JobState.Undone, "", cancel);
    }

    private async Task EndAsync(JobRow job, JobState state, string saying, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var from = job.State;
        await context.Jobs.Where(row => row.Id == job.Id && row.State == from).ExecuteUpdateAsync(set => set.SetProperty(row => row.State, state).SetProperty(row => row.Saying, saying), cancel);
    }

    private async Task SayAsync(JobRow job, string saying, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Jobs.Where(row => row.Id == job.Id).ExecuteUpdateAsync(set => set.SetProperty(row => row.Saying, saying), cancel);
    }

    private static async Task SetAsync(NpgsqlConnection connection, string sql, CancellationToken cancel, params object[] values)
    {
        await using var command = new NpgsqlCommand(sql, connection);
        foreach (var value in values) command.Parameters.Add(new() { Value = value });
        await command.ExecuteNonQueryAsync(cancel);
    }
}
