using System.Data;
using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>Reads records whole, with what somebody may do with them: for those who withhold what is withheld.</summary>
public sealed class RecordReader(NpgsqlDataSource source, TimeProvider clock)
{
    /// <summary>Loads a record whole, with what the viewer may do with it: not to be handed out as it is. Null when there is none.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id.</param>
    /// <param name="viewer">Who asks.</param>
    /// <param name="cancel">Stops it.</param>
    internal async Task<(RecordState State, RecordAccess Access)?> LoadAsync(
        RecordType type,
        long id,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(IsolationLevel.RepeatableRead, cancel);
        if (await RecordRows.LoadAsync(transaction, type, id, Hold.Nothing, cancel) is not { } rows)
            return null;
        var state = rows.ToState(id);
        var access = await CompleteAsync(transaction, state, viewer, cancel);
        await transaction.CommitAsync(cancel);
        return (state, access);
    }

    /// <summary>Adds what is not in its rows: what it sees through links, and what is calculated when it is read.</summary>
    /// <param name="transaction">In which it is read.</param>
    /// <param name="state">The record, as its rows have it.</param>
    /// <param name="viewer">Who asks.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>What the viewer may do with it.</returns>
    internal async Task<RecordAccess> CompleteAsync(
        NpgsqlTransaction transaction,
        RecordState state,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        var connection = transaction.Connection!;
        await SeeThrough.FillAsync(connection, transaction, state, cancel);
        await new Targets(connection, transaction, viewer, clock.Now).CloseAsync(state, cancel);
        var related = new RelatedRows(connection, transaction, clock.Now);
        related.ContextFor(state);
        return await related.RunAsync(
            state.Type,
            () =>
            {
                Pipeline.FillLive(state);
                return RecordAccess.To(state, viewer);
            },
            cancel
        );
    }
}
