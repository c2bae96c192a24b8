using System.Data;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data.Auditing;
using Pelto.Data.Database;
using Pelto.Data.Definitions;
using Pelto.Data.Queries;
using static Pelto.Data.Allowing;
using static Pelto.Data.Records.SaveRefusals;

namespace Pelto.Data.Records;

/// <summary>How a save ended.</summary>
public enum SaveResult
{
    /// <summary>It is on file.</summary>
    Saved,

    /// <summary>Nothing was written: see the outcome's messages and clashes.</summary>
    Refused,

    /// <summary>The record is not as the version that was asked for.</summary>
    Stale,

    /// <summary>There is no such record.</summary>
    Gone,
}

/// <summary>A save's end: the record as it is on file when saved, as it was wanted when refused.</summary>
public sealed record Saving(SaveResult Result, Outcome Outcome)
{
    /// <summary>Of lines that are new: the key that each has got, by the one that it was entered under.</summary>
    public IReadOnlyDictionary<string, string> NewKeys { get; init; } = new Dictionary<string, string>();
}

/// <summary>How deleting ended.</summary>
/// <param name="Result">Saved when the record is gone now.</param>
/// <param name="Refusal">Why it stays, as a sentence.</param>
/// <param name="Undo">What brings it back.</param>
/// <param name="Title">What it was called.</param>
public sealed record Deletion(SaveResult Result, string? Refusal = null, Guid? Undo = null, string? Title = null);

/// <summary>Reads and writes records, always for somebody. Every save is one transaction; all of a record or nothing of it.</summary>
public sealed class RecordStore(
    NpgsqlDataSource source, IDbContextFactory<PeltoContext> contexts, RecordModels models, Secrets secrets, Pointers pointers, QueryRunner queries,
    AwaitedAnswers awaited, AuditTrail audit, TimeProvider clock)
{
    private const int Attempts = 3;
    private static readonly TimeSpan KeptForUndo = TimeSpan.FromDays(30);

    /// <summary>The day, for starting values.</summary>
    public DateOnly Today => DateOnly.FromDateTime(clock.GetLocalNow().DateTime);

    /// <summary>What the clock says, for formulas.</summary>
    public Clock Clock => new(clock.GetUtcNow().UtcDateTime, Today);

    /// <summary>Reads a record; null when there is none.</summary>
    public async Task<RecordState?> FindAsync(RecordType type, long id, Viewer viewer, CancellationToken cancel = default)
    {
        MustRead(type, viewer);
        if (await LoadAsync(type, id, viewer, cancel) is not var (state, access) || !access.MayRead) return null;
        access.Withhold(state);
        return state;
    }

    // Whole, with what the viewer may do with it: not to be handed out as it is.
    private async Task<(RecordState State, RecordAccess Access)?> LoadAsync(RecordType type, long id, Viewer viewer, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(IsolationLevel.RepeatableRead, cancel);
        if (await RecordRows.LoadAsync(transaction, type, id, Hold.Nothing, cancel) is not { } rows) return null;
        var state = rows.ToState(id);
        var access = await CompleteAsync(connection, transaction, state, viewer, cancel);
        await transaction.CommitAsync(cancel);
        return (state, access);
    }

    /// <summary>
    /// A record whole, for explaining how grants decide at it and for nothing else; null when there is none, or when whoever asks may not
    /// read it, or does not set up.
    /// </summary>
    /// <param name="type">Its type, of the catalogue whose grants are explained.</param>
    /// <param name="live">The same type as it is live.</param>
    /// <param name="id">Its id.</param>
    /// <param name="viewer">Who asks.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordState?> AskedAsync(RecordType type, RecordType live, long id, Viewer viewer, CancellationToken cancel = default)
    {
        MustRead(live, viewer);
        if (!viewer.MayAt(Works.Grant, live.Code) || await LoadAsync(live, id, viewer, cancel) is not var (whole, access) || !access.MayRead) return null;
        if (type == live) return whole;
        var asked = new RecordState(type) { Id = id };
        whole.CopyTo(asked);
        await using var connection = await source.OpenConnectionAsync(cancel);
        var reaches = new Reaches(connection, null, Clock);
        reaches.Around(asked);
        try
        {
            await reaches.RunAsync(type, () => { Pipeline.FillLive(asked); return RecordAccess.Of(asked, viewer); }, cancel);
        }
        catch (PostgresException unknown) when (unknown.SqlState is PostgresErrorCodes.UndefinedColumn or PostgresErrorCodes.UndefinedTable)
        {
            // What only the draft has is in no table yet: conditions on it have no answer.
            asked.Around = null;
        }

        return asked;
    }

    /// <summary>A new record with its starting values.</summary>
    public RecordState Fresh(RecordType type, Viewer viewer)
    {
        MustCreate(type, viewer);
        return Pipeline.Fresh(type, Today);
    }

    /// <summary>
    /// The document that follows another, as its maker sees it before saving; and why nothing can be made. Both null when the one before is
    /// not there for them.
    /// </summary>
    public async Task<(RecordState? Begun, string? Refusal)> FollowAsync(Follow follow, long id, Viewer viewer, CancellationToken cancel = default)
    {
        MustRead(follow.Source, viewer);
        if (await LoadAsync(follow.Source, id, viewer, cancel) is not var (source, access) || !access.MayRead) return (null, null);
        if (NextDocument.Refuse(follow, source) is { } none)
            return (null, access.IsShown(follow.Source.Document!.Status, null) ? none : $"Nothing of {source.Title} is open.");

        // Made of the whole document, so that it is known what its maker is not shown; that is copied when it is saved.
        return (await SeenAsync(NextDocument.Make(follow, source, Clock), viewer, cancel, isCopied: true), null);
    }

    /// <summary>
    /// Takes out of what was entered links to records that this person may not read: for whoever puts it into a record without saving.
    /// </summary>
    public async Task SiftAsync(RecordChanges changes, Viewer viewer, CancellationToken cancel = default)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await new Targets(connection, null, viewer, Clock).SiftAsync(changes, cancel);
    }

    /// <summary>Shows in a record that is not on file what its links lead to.</summary>
    public Task<RecordState> SeenAsync(RecordState state, Viewer viewer, CancellationToken cancel = default) => SeenAsync(state, viewer, cancel, isCopied: false);

    private async Task<RecordState> SeenAsync(RecordState state, Viewer viewer, CancellationToken cancel, bool isCopied)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        var targets = new Targets(connection, null, viewer, Clock);
        await targets.CloseAsync(state, cancel);

        // In a new record somebody put the links there: those to what they may not read lead nowhere.
        if (state.Id is null && !isCopied) Targets.Empty(state);
        var reaches = new Reaches(connection, null, Clock, runner: queries);
        reaches.Around(state);
        await reaches.RunAsync(state.Type, () => { Pipeline.Fill(state); return state; }, cancel);
        await SeeThrough.FillAsync(connection, null, state, cancel);
        await targets.CloseAsync(state, cancel);
        RecordAccess.At(state, viewer).Tried(state, state, null).Withhold(state);
        return state;
    }

    // What is not in its rows: what it sees through links, and what is worked out when it is read.
    private async Task<RecordAccess> CompleteAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, RecordState state, Viewer viewer, CancellationToken cancel)
    {
        await SeeThrough.FillAsync(connection, transaction, state, cancel);
        await new Targets(connection, transaction, viewer, Clock).CloseAsync(state, cancel);
        var reaches = new Reaches(connection, transaction, Clock);
        reaches.Around(state);
        return await reaches.RunAsync(state.Type, () => { Pipeline.FillLive(state); return RecordAccess.Of(state, viewer); }, cancel);
    }

    /// <summary>Begins to edit a record, or a new one (no id). Null when there is none that the viewer may read.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id; null for a new one.</param>
    /// <param name="viewer">Who edits.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordEdit?> EditAsync(RecordType type, long? id, Viewer viewer, CancellationToken cancel = default)
    {
        if (id is null)
        {
            var fresh = Fresh(type, viewer);
            return new(this, fresh, RecordAccess.Of(fresh, viewer));
        }

        MustRead(type, viewer);
        return await LoadAsync(type, id.Value, viewer, cancel) is var (whole, access) && access.MayRead ? new(this, whole, access) : null;
    }

    /// <summary>Runs changes through the pipeline without saving anything. Null when the record is gone.</summary>
    public async Task<Outcome?> TryAsync(RecordType type, long? id, RecordChanges changes, Viewer viewer, Func<Field, bool>? isDemanded = null, CancellationToken cancel = default)
    {
        if (id is not null) MustWrite(type, viewer);
        return await EditAsync(type, id, viewer, cancel) is { } edit ? await edit.TryAsync(changes, isDemanded, cancel: cancel) : null;
    }

    // Over a state of its own: it learns where it is and what is around it.
    internal async Task<Outcome> TryAsync(RecordState current, RecordAccess access, RecordChanges changes, Func<Field, bool>? isDemanded, TimeSpan? patience, CancellationToken cancel)
    {
        var (type, viewer) = (current.Type, access.Viewer);
        if (current.Id is not null) MustWrite(type, viewer);
        MustWrite(current, access, viewer);
        if (viewer.Form is null && type.Reaches.Count == 0 && type.Follows.Count == 0 && type.FillOrder.All(field => field.Asking is null) && !OutsideChecks.AreNeeded(type))
            return Withheld(current, Pipeline.Run(current, changes, viewer, Today, isDemanded), changes, access);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await new Targets(connection, transaction, viewer, Clock).SiftAsync(changes, cancel);
        var reaches = new Reaches(connection, transaction, Clock, Copied(current), queries) { Patience = patience };
        reaches.Around(current);
        var outcome = await reaches.RunAsync(type, () => Pipeline.Run(current, changes, viewer, Today, isDemanded), cancel);
        outcome = With(outcome, await new OutsideChecks(transaction, contexts, current, outcome.State, viewer, isSaving: false).RunAsync(cancel));
        return await WithheldAsync(transaction, current, outcome, changes, access, cancel);
    }

    // One sentence for each place: what cannot be read is not looked up as well.
    private static Outcome With(Outcome outcome, IReadOnlyList<Message> outside) =>
        outcome with { Messages = [.. outcome.Messages, .. outside.Where(message => outcome.Messages.All(other => other.At != message.At))] };

    // What a new document takes over from the one before is read there.
    private static IEnumerable<Field> Copied(RecordState state) => state.Id is null ? Copying.Reads(state.Type) : [];

    // What came of changes that are not on file, as this person may be told it.
    private async Task<Outcome> WithheldAsync(NpgsqlTransaction transaction, RecordState current, Outcome outcome, RecordChanges changes, RecordAccess access, CancellationToken cancel)
    {
        await SeeThrough.FillAsync(transaction.Connection!, transaction, outcome.State, cancel);
        await new Targets(transaction.Connection!, transaction, viewer: access.Viewer, Clock).CloseAsync(outcome.State, cancel);
        return Withheld(current, outcome, changes, access);
    }

    private static Outcome Withheld(RecordState current, Outcome outcome, RecordChanges changes, RecordAccess access)
    {
        access.Tried(current, outcome.State, changes).Withhold(outcome.State);
        return outcome;
    }

    /// <summary>
    /// What a field's query offers to choose from, for a record as it stands in a form; and why there is nothing, where something went
    /// wrong.
    /// </summary>
    public async Task<(IReadOnlyList<Value> Offered, string? Failure)> OfferedAsync(Field field, RecordState state, LineState? line, Viewer viewer, CancellationToken cancel = default)
    {
        if (field.Asking is not { When: QueryWhen.Offer } asking || viewer.LevelAt(field) < AccessLevel.Write) return ([], null);
        if (!asking.Arguments.All(viewer.MayKnow) || asking.Reads.Any(read => viewer.SureAt(read) < AccessLevel.Read)) return ([], null);
        var arguments = asking.Arguments.Select(argument => argument.Evaluate(state.FrameAt(line))).ToList();
        if (arguments.Exists(argument => argument.IsEmpty || argument.IsError)) return ([], null);
        var answer = await queries.AskAsync(asking.Query, arguments, cancel, QueryRunner.MostOffered);
        return ([.. answer.Rows.Select(row => asking.TakeRow(field, row)).Where(value => !value.IsEmpty && !value.IsError).Distinct()], answer.Failure);
    }

    /// <summary>Saves a new record (no id) or changes one.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id; null for a new one.</param>
    /// <param name="changes">What is wanted.</param>
    /// <param name="viewer">Who wants it.</param>
    /// <param name="ifVersion">Save only when the record is still this version; null merges instead.</param>
    /// <param name="isDemanded">Which required fields this save must fill; all when null.</param>
    /// <param name="cancel">Stops it before it is committed.</param>
    public async Task<Saving> SaveAsync(
        RecordType type, long? id, RecordChanges changes, Viewer viewer, string? ifVersion = null, Func<Field, bool>? isDemanded = null, CancellationToken cancel = default)
    {
        if (id is null) MustCreate(type, viewer);
        else MustWrite(type, viewer);
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

    /// <summary>
    /// Deletes a record with its lines, and keeps a copy for <see cref="RestoreAsync"/>. A record that others point to stays, and the
    /// refusal says so.
    /// </summary>
    public async Task<Deletion> DeleteAsync(Catalogue catalogue, RecordType type, long id, Viewer viewer, string? ifVersion = null, CancellationToken cancel = default)
    {
        MustDelete(type, viewer);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        if (await RecordRows.LoadAsync(transaction, type, id, Hold.ToDelete, cancel) is not { } rows) return new(SaveResult.Gone);
        var state = rows.ToState(id);
        var access = await CompleteAsync(connection, transaction, state, viewer, cancel);
        if (!access.MayRead) return new(SaveResult.Gone);
        if (!access.MayDelete)
            throw new AccessRefusedException($"You may not delete {type.Plural.ToLowerInvariant()} such as {state.Title}.");
        if (ifVersion is not null && state.Version != ifVersion) return new(SaveResult.Stale);
        if (!type.IsDeletable) return new(SaveResult.Refused, $"{state.Title} stays: numbers of {type.Plural.ToLowerInvariant()} have no gaps, so none is ever deleted.");
        if (DocumentRules.RefuseDeletion(state) is { } locked) return new(SaveResult.Refused, locked);
        try
        {
            var kept = RecordJson.WriteKept(state);
            var cleared = await new ClearedLinks(transaction).TakeAsync(catalogue, type, id, cancel);
            if (cleared is not null) kept[ClearedLinks.Property] = cleared.Kept;
            await transaction.Command($"DELETE FROM {Sql.Base(type.Header)} WHERE id = $1", id).RunAsync(cancel);
            List<AuditNote> notes = [.. GuardedChanges.Of(state, null), .. cleared?.Notes ?? []];
            if (await CarryAsync(transaction, state, null, notes, viewer, cancel) is [var refused, ..])
                return new(SaveResult.Refused, refused.Sentence);
            var undo = Guid.CreateVersion7();
            await using (var context = contexts.Within(transaction))
            {
                var now = clock.GetUtcNow();
                var longAgo = now - KeptForUndo;
                await context.Deleted.Where(row => row.DeletedAt < longAgo).ExecuteDeleteAsync(cancel);
                context.Deleted.Add(new() { Id = undo, RecordType = type.Code, Record = kept.ToJsonString(), DeletedBy = viewer.Id, DeletedAt = now });
                await context.SaveChangesAsync(cancel);
            }

            await audit.WriteAsync(transaction, viewer, notes, cancel);
            await transaction.CommitAsync(cancel);
            return new(SaveResult.Saved, Undo: undo, Title: state.Title);
        }
        catch (PostgresException error) when (error.SqlState == PostgresErrorCodes.ForeignKeyViolation)
        {
            await transaction.RollbackAsync(cancel);
            return new(SaveResult.Refused, $"{state.Title} stays: {WhatPoints(catalogue, await pointers.ReadAsync(catalogue, type, id, viewer, cancel), error, viewer)} to it.");
        }
    }

    /// <summary>
    /// Brings a record back that the viewer deleted, with its id, number and lines, and with the links to it that became empty. Null when
    /// that is not possible any more.
    /// </summary>
    public async Task<long?> RestoreAsync(Catalogue catalogue, RecordType type, Guid undo, Viewer viewer, CancellationToken cancel = default)
    {
        MustDelete(type, viewer);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var context = contexts.Within(transaction);
        var own = context.Deleted.Where(row => row.Id == undo && row.RecordType == type.Code && row.DeletedBy == viewer.Id);

        // Whoever takes it away brings it back: of two who ask at once, one.
        if (await own.Select(row => row.Record).FirstOrDefaultAsync(cancel) is not { } kept || await own.ExecuteDeleteAsync(cancel) == 0) return null;
        using var json = JsonDocument.Parse(kept);
        var id = json.RootElement.GetProperty("id").GetInt64();
        try
        {
            var state = RecordJson.Read(json.RootElement, type, new(type) { Id = id }, isKept: true);

            // As they may now: access may have been taken since they deleted it.
            if (await CompleteAsync(connection, transaction, state.Copy(), viewer, cancel) is not { MayRead: true, MayDelete: true })
                return null;
            await WriteAsync(transaction, RecordRows.ForNew(type), state, id, line => line.Id!.Value, cancel);
            List<AuditNote> notes = [.. GuardedChanges.Of(null, state)];
            if ((await CarryAsync(transaction, null, state, notes, viewer, cancel)).Count > 0) return null;
            notes.AddRange(await new ClearedLinks(transaction).PutBackAsync(catalogue, json.RootElement, id, cancel));
            await audit.WriteAsync(transaction, viewer, notes, cancel);
            await transaction.CommitAsync(cancel);
            return id;
        }
        catch (DbUpdateException error) when (error.InnerException is PostgresException { SqlState: ['2', '3', ..] })
        {
            return null;
        }
    }

    private async Task<Saving> SaveOnceAsync(
        RecordType type, long? id, RecordChanges changes, Viewer viewer, string? ifVersion, Func<Field, bool>? isDemanded, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);

        var targets = new Targets(connection, transaction, viewer, Clock);
        RecordRows? rows;
        RecordState current;
        if (id is { } known)
        {
            rows = await RecordRows.LoadAsync(transaction, type, known, Hold.ToSave, cancel);
            if (rows is null) return new(SaveResult.Gone, new(new(type), [], []));
            current = rows.ToState(known);
            if (viewer.StandingAt(type).IsConditional(type))
            {
                var standing = await CompleteAsync(connection, transaction, current, viewer, cancel);
                if (!standing.MayRead) return new(SaveResult.Gone, new(new(type), [], []));
                MustWrite(current, standing, viewer);
            }
            else
            {
                await targets.CloseAsync(current, cancel);
            }

            if (ifVersion is not null && current.Version != ifVersion)
                return new(SaveResult.Stale, new(Pipeline.AccessTo(current, viewer).Withheld(current), [], []));
        }
        else
        {
            rows = RecordRows.ForNew(type);
            current = Pipeline.Fresh(type, Today);
        }

        await targets.SiftAsync(changes, cancel);
        if (id is null && changes.Entry is { } sent) changes.Sent = await SentAsync(transaction, sent, type, cancel);
        var access = Pipeline.AccessTo(current, viewer);
        var reaches = new Reaches(connection, transaction, Clock, Copied(current), queries) { IsSaving = true, Patience = QueryRunner.OfASave };
        reaches.Around(current);
        var outcome = await reaches.RunAsync(type, () => Pipeline.Run(current, changes, viewer, Today, isDemanded), cancel);
        var checks = new OutsideChecks(transaction, contexts, current, outcome.State, viewer, isSaving: true);
        outcome = With(outcome, await checks.RunAsync(cancel));
        if (!outcome.IsGood) outcome = With(outcome, [.. (await Consequences(transaction, [], viewer, cancel).ForeseeAsync(current.Id is null ? null : current, outcome.State, cancel)).Select(message => message with { IsOnlyBySaving = true })]);
        if (!outcome.IsGood) return new(SaveResult.Refused, await WithheldAsync(transaction, current, outcome, changes, access, cancel));

        Seal(outcome.State);
        try
        {
            var notes = new List<AuditNote>();
            var kept = await WriteAsync(transaction, rows, outcome.State, notes, cancel);
            if (await CarryAsync(transaction, current.Id is null ? null : current, kept, notes, viewer, cancel) is { Count: > 0 } refused)
            {
                await transaction.RollbackAsync(cancel);
                return new(SaveResult.Refused, Withheld(current, outcome with { Messages = [.. refused.Select(message => AsEntered(message, kept, outcome.State) with { IsOnlyBySaving = true })] }, changes, access));
            }

            if (changes.Entry is { } entry && !await AcceptAsync(transaction, entry, kept, viewer, cancel))
            {
                await transaction.RollbackAsync(cancel);
                return new(SaveResult.Refused, Withheld(current, outcome, changes, access) with { Messages = [new(new(type.Header, null, null), "Somebody else accepted or refused this entry meanwhile.")] });
            }

            await checks.RememberAsync(clock.GetUtcNow(), cancel);
            var done = await CompleteAsync(connection, transaction, kept, viewer, cancel);
            await audit.WriteAsync(transaction, viewer, notes, cancel);
            await transaction.CommitAsync(cancel);
            awaited.After(kept);
            return new(SaveResult.Saved, new(done.Withheld(kept), [], [])) { NewKeys = NewKeys(outcome.State, kept) };
        }
        catch (DbUpdateException error) when (error.InnerException is PostgresException inner && Explain(type, inner) is { } message)
        {
            return new(SaveResult.Refused, Withheld(current, outcome with { Messages = [message with { IsOnlyBySaving = true }] }, changes, access));
        }
    }

    private Task<IReadOnlyList<Message>> CarryAsync(NpgsqlTransaction transaction, RecordState? before, RecordState? after, List<AuditNote> notes, Viewer viewer, CancellationToken cancel) =>
        Consequences(transaction, notes, viewer, cancel).CarryAsync((after ?? before)!.Type, before, after, cancel);

    private Consequences Consequences(NpgsqlTransaction transaction, List<AuditNote> notes, Viewer viewer, CancellationToken cancel) =>
        new(transaction, (rows, state) => WriteAsync(transaction, rows, state, notes, cancel), new Targets(transaction.Connection!, transaction, viewer, Clock));

    /// <summary>
    /// What lies below zero now of what a document moved out, for whoever reads what is on hand; none where stock may not go below zero.
    /// </summary>
    public async Task<IReadOnlyList<(long Item, decimal OnHand)>> BelowZeroAsync(RecordState document, Viewer viewer, CancellationToken cancel = default)
    {
        if (document.Type.StockMoves is not { IsOut: true } moves || !viewer.ReadsWhereRead(moves.OnHand)) return [];
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        return await new StockPosting(transaction, moves).BelowZeroAsync(document, cancel);
    }

    // A line has got its id by now; whoever typed it knows it by the key that it had.
    private static Message AsEntered(Message message, RecordState kept, RecordState entered)
    {
        if (message.At.Line is not { } key) return message;
        var at = kept.LinesOf(message.At.Part).FindIndex(line => line.Key == key);
        return at < 0 ? message : message with { At = message.At with { Line = entered.LinesOf(message.At.Part)[at].Key } };
    }

    private static Dictionary<string, string> NewKeys(RecordState entered, RecordState kept) =>
        entered.Type.LineParts.SelectMany(part => entered.LinesOf(part).Zip(kept.LinesOf(part))).Where(pair => pair.First.Id is null).ToDictionary(pair => pair.First.Key, pair => pair.Second.Key, StringComparer.Ordinal);

    // Notes take what changes of guarded fields, to be put on record at the end of the transaction.
    private async Task<RecordState> WriteAsync(NpgsqlTransaction transaction, RecordRows rows, RecordState state, List<AuditNote> notes, CancellationToken cancel)
    {
        var type = state.Type;
        var isNoted = GuardedChanges.FieldsOf(type).Count > 0;
        var before = isNoted && state.Id is { } known ? rows.ToState(known) : null;
        var id = state.Id ?? (await RecordNumbers.NextIdsAsync(transaction, type.Header, 1, cancel))[0];
        if (state.Id is null) await RecordNumbers.GiveAsync(transaction, state, Today, cancel);
        var ids = new Dictionary<LineState, long>();
        foreach (var part in type.LineParts)
        {
            var fresh = state.LinesOf(part).Where(line => line.Id is null).ToList();
            if (fresh.Count == 0) continue;
            foreach (var (line, lineId) in fresh.Zip(await RecordNumbers.NextIdsAsync(transaction, part, fresh.Count, cancel)))
                ids.Add(line, lineId);
        }

        await WriteAsync(transaction, rows, state, id, line => ids[line], cancel);
        var kept = rows.ToState(id);
        if (isNoted) notes.AddRange(GuardedChanges.Of(before, kept));
        return kept;
    }

    private async Task WriteAsync(NpgsqlTransaction transaction, RecordRows rows, RecordState state, long id, Func<LineState, long> idOf, CancellationToken cancel)
    {
        await using var erp = models.Open(state.Type, transaction.Connection!);
        var added = rows.Take(state, id, idOf, erp);
        if (erp.ChangeTracker.HasChanges())
        {
            await erp.Database.UseTransactionAsync(transaction, cancel);
            await erp.SaveChangesAsync(cancel);
        }

        await added.SaveAsync(transaction, cancel);
    }

    // From here on no value holds a secret in the open.
    private void Seal(RecordState state)
    {
        foreach (var field in state.Type.Parts.SelectMany(part => part.Fields).Where(field => field.Kind.IsSecret))
        {
            foreach (var values in field.Part.IsLines ? state.LinesOf(field.Part).Select(line => line.Values) : [state.Header])
                if (values[field.Slot] is { Type: ValueForm.Text } entered)
                    values[field.Slot] = Value.Sealed(secrets.Seal(entered.Text, field.Id));
        }
    }

    /// <summary>Shows a secret, and puts down that it was shown. Null when there is none, or when it cannot be read any more.</summary>
    public async Task<string?> RevealAsync(RecordType type, long id, Field field, long? line, Viewer viewer, CancellationToken cancel = default)
    {
        MustRead(type, viewer);
        if (viewer.LevelAt(field) == AccessLevel.None) return null;
        if (viewer.LevelAt(field) < AccessLevel.Read) throw new AccessRefusedException($"You may not see {field.Label}.");
        if (await FindAsync(type, id, viewer, cancel) is not { } state) return null;
        if (viewer.LevelAt(field, state, state.Lines.SelectMany(lines => lines).FirstOrDefault(row => row.Id == line && line is not null)) < AccessLevel.Read) throw new AccessRefusedException($"You may not see {field.Label} of {state.Title}.");
        if (state.ValueAt(field, line) is not { Type: ValueForm.Secret } kept) return null;
        await audit.WriteAsync(source, viewer, new(AuditKinds.Showing, field.Id, $"Showed {field.Label} of {state.Title}") { RecordType = type.Code, Record = id, Line = line }, cancel);
        return secrets.Open(kept.Kept, field.Id);
    }

    private async Task<RecordChanges?> SentAsync(NpgsqlTransaction transaction, Guid entry, RecordType type, CancellationToken cancel)
    {
        await using var context = contexts.Within(transaction);
        return await Entries.SentAsync(context, entry, type, cancel);
    }

    private async Task<bool> AcceptAsync(NpgsqlTransaction transaction, Guid entry, RecordState kept, Viewer viewer, CancellationToken cancel)
    {
        await using var context = contexts.Within(transaction);
        return await Entries.AcceptAsync(context, entry, kept, viewer, clock.GetUtcNow(), cancel);
    }
}
