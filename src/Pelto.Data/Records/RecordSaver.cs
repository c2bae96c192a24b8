using Pelto.Core.Auditing;
using Pelto.Core.Records;
using Pelto.Data.Queries;
using static Pelto.Data.Allowing;
using static Pelto.Data.Records.SaveRefusals;

namespace Pelto.Data.Records;

/// <summary>Saves records, always for somebody: each in one transaction, all of it or nothing of it.</summary>
public sealed class RecordSaver(
    NpgsqlDataSource source,
    IDbContextFactory<PeltoContext> contexts,
    RecordReader reader,
    RecordWriter writer,
    QueryRunner queries,
    AwaitedAnswers awaited,
    TimeProvider clock
)
{
    private const int Attempts = 3;

    /// <summary>Saves a new record (no id) or changes one.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id; null for a new one.</param>
    /// <param name="changes">What is wanted.</param>
    /// <param name="viewer">Who wants it.</param>
    /// <param name="ifVersion">Save only when the record is still this version; null merges instead.</param>
    /// <param name="isDemanded">Which required fields this save must fill; all when null.</param>
    /// <param name="cancel">Stops it before it is committed.</param>
    public async Task<Saving> SaveAsync(
        RecordType type,
        long? id,
        RecordChanges changes,
        Viewer viewer,
        string? ifVersion = null,
        Func<Field, bool>? isDemanded = null,
        CancellationToken cancel = default
    )
    {
        if (id is null)
            MustCreate(type, viewer);
        else
            MustWrite(type, viewer);
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                return await SaveOnceAsync(type, id, changes, viewer, ifVersion, isDemanded, cancel);
            }
            catch (Exception clash) when (attempt < Attempts && IsPassing(clash))
            {
                // Somebody who does not go through Pelto changed a row between reading and writing, or locks crossed: read again.
                await Task.Delay(TimeSpan.FromMilliseconds(20 * attempt), cancel);
            }
        }
    }

    private async Task<Saving> SaveOnceAsync(
        RecordType type,
        long? id,
        RecordChanges changes,
        Viewer viewer,
        string? ifVersion,
        Func<Field, bool>? isDemanded,
        CancellationToken cancel
    )
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var targets = new Targets(connection, transaction, viewer, clock.Now);
        if (await OpenAsync(transaction, targets, type, id, viewer, cancel) is not var (rows, current))
            return Gone(type);
        var before = current.Id is null ? null : current;
        if (before is not null && ifVersion is not null && before.Version != ifVersion)
            return new(SaveResult.Stale, new(Pipeline.AccessTo(current, viewer).Withheld(current), [], []));

        await targets.SiftAsync(changes, cancel);
        await using var own = changes.Entry is null ? null : contexts.Within(transaction);
        if (before is null && changes.Entry is { } sent)
            changes.Sent = await Entries.SentAsync(own!, sent, type, cancel);
        var access = Pipeline.AccessTo(current, viewer);
        var related = new RelatedRows(connection, transaction, clock.Now, Outcomes.Copied(current), queries)
        {
            IsSaving = true,
            Patience = QueryRunner.OfASave,
        };
        related.ContextFor(current);
        var outcome = await related.RunAsync(type, () => Pipeline.Run(current, changes, viewer, clock.Today, isDemanded), cancel);
        var checks = new OutsideChecks(transaction, contexts, current, outcome.State, viewer, isSaving: true);
        outcome = outcome.With(await checks.RunAsync(cancel));
        if (!outcome.IsGood)
        {
            var foreseen = await writer.ForeseeAsync(transaction, before, outcome.State, viewer, cancel);
            outcome = outcome.With(foreseen.Select(OnlyBySaving));
            return new(SaveResult.Refused, await outcome.WithheldAsync(transaction, targets, current, changes, access, cancel));
        }

        // What keeps it from being saved when all else is right.
        Saving Refuse(IEnumerable<Message> messages) =>
            new(SaveResult.Refused, outcome.Withheld(current, changes, access) with { Messages = [.. messages] });

        writer.Seal(outcome.State);
        try
        {
            var notes = new List<AuditNote>();
            var stored = await writer.WriteAsync(transaction, rows, outcome.State, notes, cancel);
            if (await writer.ApplyAsync(transaction, before, stored, notes, viewer, cancel) is { Count: > 0 } refused)
            {
                await transaction.RollbackAsync(cancel);
                return Refuse(refused.Select(message => OnlyBySaving(AsEntered(message, stored, outcome.State))));
            }

            if (changes.Entry is { } entry && !await Entries.AcceptAsync(own!, entry, stored, viewer, clock.GetUtcNow(), cancel))
            {
                await transaction.RollbackAsync(cancel);
                return Refuse([new(new(type.Header, null, null), "Somebody else accepted or refused this entry meanwhile.")]);
            }

            await checks.RememberAsync(clock.GetUtcNow(), cancel);
            var done = await reader.CompleteAsync(transaction, stored, viewer, cancel);
            await writer.CommitAsync(transaction, viewer, notes, cancel);
            awaited.After(stored);
            return new(SaveResult.Saved, new(done.Withheld(stored), [], [])) { NewKeys = NewKeys(outcome.State, stored) };
        }
        catch (DbUpdateException error) when (error.InnerException is PostgresException inner && Explain(type, inner) is { } message)
        {
            return Refuse([OnlyBySaving(message)]);
        }
    }

    // The record as it is, locked until the save is over; null when there is none that they may read.
    private async Task<(RecordRows Rows, RecordState Current)?> OpenAsync(
        NpgsqlTransaction transaction,
        Targets targets,
        RecordType type,
        long? id,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        if (id is not { } known)
            return (RecordRows.ForNew(type), Pipeline.Fresh(type, clock.Today));
        if (await RecordRows.LoadAsync(transaction, type, known, Hold.ToSave, cancel) is not { } rows)
            return null;
        var current = rows.ToState(known);
        if (!viewer.AccessAt(type).IsConditional(type))
        {
            await targets.CloseAsync(current, cancel);
            return (rows, current);
        }

        var access = await reader.CompleteAsync(transaction, current, viewer, cancel);
        if (!access.MayRead)
            return null;
        MustWrite(current, access, viewer);
        return (rows, current);
    }

    private static Saving Gone(RecordType type) => new(SaveResult.Gone, new(new(type), [], []));

    private static Message OnlyBySaving(Message message) => message with { IsOnlyBySaving = true };

    // A line has got its id by now; whoever typed it knows it by the key that it had.
    private static Message AsEntered(Message message, RecordState stored, RecordState entered)
    {
        if (message.At.Line is not { } key)
            return message;
        var at = stored.LinesOf(message.At.Part).FindIndex(line => line.Key == key);
        return at < 0 ? message : message with { At = message.At with { Line = entered.LinesOf(message.At.Part)[at].Key } };
    }

    private static Dictionary<string, string> NewKeys(RecordState entered, RecordState stored) =>
        entered
            .Type.LineParts.SelectMany(part => entered.LinesOf(part).Zip(stored.LinesOf(part)))
            .Where(pair => pair.First.Id is null)
            .ToDictionary(pair => pair.First.Key, pair => pair.Second.Key, StringComparer.Ordinal);
}
