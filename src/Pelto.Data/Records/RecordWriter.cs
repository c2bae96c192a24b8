using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.Records;

/// <summary>Writes records within a transaction that is under way, with what follows from them in others.</summary>
public sealed class RecordWriter(RecordModels models, Secrets secrets, AuditTrail audit, TimeProvider clock)
{
    /// <summary>Seals the secrets that were entered: from here on no value holds one in the open.</summary>
    internal void Seal(RecordState state)
    {
        foreach (var field in state.Type.Parts.SelectMany(part => part.Fields).Where(field => field.Kind.IsSecret))
        {
            foreach (var values in field.Part.IsLines ? state.LinesOf(field.Part).Select(line => line.Values) : [state.Header])
                if (values[field.Slot] is { DataType: DataType.Text } entered)
                    values[field.Slot] = Value.Sealed(secrets.Seal(entered.Text, field.Id));
        }
    }

    /// <summary>Writes a record, new or changed, and gives what is new its ids and its number.</summary>
    /// <param name="transaction">In which it is written.</param>
    /// <param name="rows">Its rows as they are on file.</param>
    /// <param name="state">As it is to be.</param>
    /// <param name="notes">Takes what changes of guarded fields, to be put on record at the end of the transaction.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>The record as it is on file from then on.</returns>
    internal async Task<RecordState> WriteAsync(
        NpgsqlTransaction transaction,
        RecordRows rows,
        RecordState state,
        List<AuditNote> notes,
        CancellationToken cancel
    )
    {
        var type = state.Type;
        var isNoted = GuardedChanges.FieldsOf(type).Count > 0;
        var before = isNoted && state.Id is { } known ? rows.ToState(known) : null;
        var id = state.Id ?? (await RecordNumbers.NextIdsAsync(transaction, type.Header, 1, cancel))[0];
        if (state.Id is null)
            await RecordNumbers.GiveAsync(transaction, state, clock.Today, cancel);
        var ids = new Dictionary<LineState, long>();
        foreach (var part in type.LineParts)
        {
            var fresh = state.LinesOf(part).Where(line => line.Id is null).ToList();
            if (fresh.Count == 0)
                continue;
            foreach (var (line, lineId) in fresh.Zip(await RecordNumbers.NextIdsAsync(transaction, part, fresh.Count, cancel)))
                ids.Add(line, lineId);
        }

        await WriteAsync(transaction, rows, state, id, line => ids[line], cancel);
        var stored = rows.ToState(id);
        if (isNoted)
            notes.AddRange(GuardedChanges.Between(before, stored));
        return stored;
    }

    /// <summary>Writes a record under ids that are known.</summary>
    /// <param name="transaction">In which it is written.</param>
    /// <param name="rows">Its rows as they are on file.</param>
    /// <param name="state">As it is to be.</param>
    /// <param name="id">Its id.</param>
    /// <param name="idOf">The ids of its lines.</param>
    /// <param name="cancel">Stops it.</param>
    internal async Task WriteAsync(
        NpgsqlTransaction transaction,
        RecordRows rows,
        RecordState state,
        long id,
        Func<LineState, long> idOf,
        CancellationToken cancel
    )
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

    /// <summary>Does what follows from a change in other records, such as stock and open quantities; gives why it cannot be.</summary>
    /// <param name="transaction">In which it is done.</param>
    /// <param name="before">The record as it was; null for a new one.</param>
    /// <param name="after">The record as it is; null for one that is deleted.</param>
    /// <param name="notes">Takes what changes of guarded fields.</param>
    /// <param name="viewer">Who saves.</param>
    /// <param name="cancel">Stops it.</param>
    internal Task<IReadOnlyList<Message>> ApplyAsync(
        NpgsqlTransaction transaction,
        RecordState? before,
        RecordState? after,
        List<AuditNote> notes,
        Viewer viewer,
        CancellationToken cancel
    ) => Consequences(transaction, notes, viewer, cancel).ApplyAsync((after ?? before)!.Type, before, after, cancel);

    /// <summary>Tells what would keep that from being done, of a record that is not written.</summary>
    /// <param name="transaction">In which it is looked up.</param>
    /// <param name="before">The record as it is; null for a new one.</param>
    /// <param name="wanted">As it is wanted.</param>
    /// <param name="viewer">Who saves.</param>
    /// <param name="cancel">Stops it.</param>
    internal Task<IReadOnlyList<Message>> ForeseeAsync(
        NpgsqlTransaction transaction,
        RecordState? before,
        RecordState wanted,
        Viewer viewer,
        CancellationToken cancel
    ) => Consequences(transaction, [], viewer, cancel).ForeseeAsync(before, wanted, cancel);

    /// <summary>Puts on record what changed of guarded fields, which comes last, and commits.</summary>
    /// <param name="transaction">In which all was written.</param>
    /// <param name="viewer">Who saves.</param>
    /// <param name="notes">What changed.</param>
    /// <param name="cancel">Stops it before it is committed.</param>
    internal async Task CommitAsync(NpgsqlTransaction transaction, Viewer viewer, List<AuditNote> notes, CancellationToken cancel)
    {
        await audit.WriteAsync(transaction, viewer, notes, cancel);
        await transaction.CommitAsync(cancel);
    }

    private Consequences Consequences(NpgsqlTransaction transaction, List<AuditNote> notes, Viewer viewer, CancellationToken cancel) =>
        new(
            transaction,
            (rows, state) => WriteAsync(transaction, rows, state, notes, cancel),
            new Targets(transaction.Connection!, transaction, viewer, clock.Now)
        );
}
