using System.Text.Json.Nodes;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.Jobs;

/// <summary>Puts on record what a job changes of a guarded field: one entry for each batch, with the values of its rows.</summary>
internal sealed class JobNotes(AuditTrail trail, IDbContextFactory<PeltoContext> contexts, JobRow job, Field field)
{
    private readonly bool isNoted = GuardedChanges.FieldsOf(field.Part.RecordType).Contains(field);

    /// <summary>After a batch, in its transaction.</summary>
    public async Task DoneAsync(NpgsqlTransaction transaction, CancellationToken cancel)
    {
        if (!isNoted)
            return;
        await using var context = contexts.Within(transaction);
        var batches = context.JobBatches.AsNoTracking().Where(row => row.JobId == job.Id);
        if (await batches.OrderByDescending(row => row.Number).FirstOrDefaultAsync(cancel) is not { } batch)
            return;
        var before =
            field.Kind.IsSecret ? GuardedChanges.SecretText
            : batch.Befores is { } befores ? Listed(batch.Ids.Zip(befores))
            : job.From;
        await WriteAsync(
            transaction,
            $"{job.Description.TrimEnd('.')} ({Numbers.Format(batch.Ids.Length)} rows)",
            before,
            await ReadAsync(transaction, batch.Ids, cancel),
            cancel
        );
    }

    /// <summary>Takes a batch back by <paramref name="undo"/>, in its transaction.</summary>
    public async Task UndoneAsync(NpgsqlTransaction transaction, long[] ids, Func<Task> undo, CancellationToken cancel)
    {
        var before = isNoted ? await ReadAsync(transaction, ids, cancel) : null;
        await undo();
        if (isNoted)
            await WriteAsync(
                transaction,
                $"Took back: {job.Description.TrimEnd('.')} ({Numbers.Format(ids.Length)} rows)",
                before,
                await ReadAsync(transaction, ids, cancel),
                cancel
            );
    }

    private Task WriteAsync(NpgsqlTransaction transaction, string what, string? before, string? after, CancellationToken cancel) =>
        trail.WriteAsync(
            transaction,
            new(Guid.Empty, job.StartedBy, []) { From = "a job" },
            [
                new(AuditKinds.Value, field.Id, what)
                {
                    Before = before,
                    After = after,
                    RecordType = field.Part.RecordType.Code,
                },
            ],
            cancel
        );

    // Values by the ids of their rows, as JSON.
    private async Task<string> ReadAsync(NpgsqlTransaction transaction, long[] ids, CancellationToken cancel)
    {
        var read = transaction.Command(
            $"SELECT id, {string.Join(", ", Columns.Quoted(field))} FROM {Sql.Of(field)} WHERE id = ANY($1) ORDER BY id",
            ids
        );
        var values = await read.ListAsync(
            row =>
            {
                var at = 1;
                return (row.GetInt64(0), GuardedChanges.Text(field, Columns.Read(row, ref at, field)));
            },
            cancel
        );
        return Listed(values);
    }

    private static string Listed<T>(IEnumerable<(long Id, T Text)> values)
    {
        var json = new JsonObject();
        foreach (var (id, text) in values)
            json[id.ToString(CultureInfo.InvariantCulture)] = text as string;
        return json.ToJsonString(SiteDefinition.Json);
    }
}
