using System.Text.Json;
using Pelto.Core.Auditing;
using Pelto.Core.Records;
using static Pelto.Data.Allowing;
using static Pelto.Data.Records.SaveRefusals;

namespace Pelto.Data.Records;

/// <summary>Deletes records, and brings back what somebody deleted.</summary>
public sealed class RecordDeleter(
    NpgsqlDataSource source,
    IDbContextFactory<PeltoContext> contexts,
    RecordReader reader,
    RecordWriter writer,
    Pointers pointers,
    TimeProvider clock
)
{
    private static readonly TimeSpan UndoPeriod = TimeSpan.FromDays(30);

    /// <summary>
    /// Deletes a record with its lines, and keeps a copy for <see cref="RestoreAsync"/>. A record that others point to stays, and the
    /// refusal says so.
    /// </summary>
    public async Task<Deletion> DeleteAsync(
        Catalogue catalogue,
        RecordType type,
        long id,
        Viewer viewer,
        string? ifVersion = null,
        CancellationToken cancel = default
    )
    {
        MustDelete(type, viewer);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        if (await RecordRows.LoadAsync(transaction, type, id, Hold.ToDelete, cancel) is not { } rows)
            return new(SaveResult.Gone);
        var state = rows.ToState(id);
        var access = await reader.CompleteAsync(transaction, state, viewer, cancel);
        if (!access.MayRead)
            return new(SaveResult.Gone);
        if (!access.MayDelete)
            throw new AccessRefusedException($"You may not delete {type.Plural.ToLowerInvariant()} such as {state.Title}.");
        if (ifVersion is not null && state.Version != ifVersion)
            return new(SaveResult.Stale);
        if (!type.IsDeletable)
        {
            var all = type.Plural.ToLowerInvariant();
            return new(SaveResult.Refused, $"{state.Title} stays: numbers of {all} have no gaps, so none is ever deleted.");
        }

        if (DocumentRules.RefuseDeletion(state) is { } locked)
            return new(SaveResult.Refused, locked);
        try
        {
            var stored = RecordJson.WriteStored(state);
            var cleared = await new ClearedLinks(transaction).TakeAsync(catalogue, type, id, cancel);
            if (cleared is not null)
                stored[ClearedLinks.Property] = cleared.Kept;
            await transaction.Command($"DELETE FROM {Sql.Base(type.Header)} WHERE id = $1", id).RunAsync(cancel);
            List<AuditNote> notes = [.. GuardedChanges.Between(state, null), .. cleared?.Notes ?? []];
            if (await writer.ApplyAsync(transaction, state, null, notes, viewer, cancel) is [var refused, ..])
                return new(SaveResult.Refused, refused.Sentence);
            var undo = Guid.CreateVersion7();
            await using (var context = contexts.Within(transaction))
            {
                var now = clock.GetUtcNow();
                var longAgo = now - UndoPeriod;
                await context.Deleted.Where(row => row.DeletedAt < longAgo).ExecuteDeleteAsync(cancel);
                context.Deleted.Add(
                    new()
                    {
                        Id = undo,
                        RecordType = type.Code,
                        Record = stored.ToJsonString(),
                        DeletedBy = viewer.Id,
                        DeletedAt = now,
                    }
                );
                await context.SaveChangesAsync(cancel);
            }

            await writer.CommitAsync(transaction, viewer, notes, cancel);
            return new(SaveResult.Saved, Undo: undo, Title: state.Title);
        }
        catch (PostgresException error) when (error.SqlState == PostgresErrorCodes.ForeignKeyViolation)
        {
            await transaction.RollbackAsync(cancel);
            var pointing = await pointers.ReadAsync(catalogue, type, id, viewer, cancel);
            return new(SaveResult.Refused, $"{state.Title} stays: {WhatPoints(catalogue, pointing, error, viewer)} to it.");
        }
    }

    /// <summary>
    /// Brings a record back that the viewer deleted, with its id, number and lines, and with the links to it that became empty. Null when
    /// that is not possible any more.
    /// </summary>
    public async Task<long?> RestoreAsync(
        Catalogue catalogue,
        RecordType type,
        Guid undo,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        MustDelete(type, viewer);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var context = contexts.Within(transaction);
        var own = context.Deleted.Where(row => row.Id == undo && row.RecordType == type.Code && row.DeletedBy == viewer.Id);

        // Whoever takes it away brings it back: of two who ask at once, one.
        if (await own.Select(row => row.Record).FirstOrDefaultAsync(cancel) is not { } stored)
            return null;
        if (await own.ExecuteDeleteAsync(cancel) == 0)
            return null;
        using var json = JsonDocument.Parse(stored);
        var id = json.RootElement.GetProperty("id").GetInt64();
        try
        {
            var state = RecordJson.Read(json.RootElement, type, new(type) { Id = id }, isStored: true);

            // As they may now: access may have been taken since they deleted it.
            if (await reader.CompleteAsync(transaction, state.Copy(), viewer, cancel) is not { MayRead: true, MayDelete: true })
                return null;
            await writer.WriteAsync(transaction, RecordRows.ForNew(type), state, id, line => line.Id!.Value, cancel);
            List<AuditNote> notes = [.. GuardedChanges.Between(null, state)];
            if ((await writer.ApplyAsync(transaction, null, state, notes, viewer, cancel)).Count > 0)
                return null;
            notes.AddRange(await new ClearedLinks(transaction).PutBackAsync(catalogue, json.RootElement, id, cancel));
            await writer.CommitAsync(transaction, viewer, notes, cancel);
            return id;
        }
        catch (DbUpdateException error) when (error.InnerException is PostgresException { SqlState: ['2', '3', ..] })
        {
            return null;
        }
    }
}
