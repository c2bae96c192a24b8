using System.Text.Json;
using Pelto.Core.Auditing;
using Pelto.Core.Queries;
using Pelto.Data.Auditing;
using Pelto.Data.Records;

namespace Pelto.Data.Jobs;

/// <summary>
/// Asks the queries that a save did not wait for, one record after the other, and stores what they give. Until then the field says that it
/// is asked beside; where there is no answer, it says that.
/// </summary>
/// <remarks>
/// What is forgotten with this node stays marked at the field, and is asked with the next save, or by whoever presses the key that fills
/// it.
/// </remarks>
public sealed class LateQueries(
    NpgsqlDataSource source,
    AwaitedAnswers awaited,
    QueryFills fills,
    Catalogues catalogues,
    AuditTrail audit,
    TimeProvider clock
)
{
    private const int Attempts = 3;

    /// <summary>Asks what waits, as it comes, until it is stopped.</summary>
    public async Task RunAsync(CancellationToken cancel)
    {
        await foreach (var (id, record) in awaited.AllAsync(cancel))
            if (catalogues.Live.FindField(id) is { IsStored: true, IsAdded: true, Asking: not null } field)
                await AskAsync(field, record, cancel);
    }

    private async Task AskAsync(Field field, long record, CancellationToken cancel)
    {
        for (var attempt = 1; !await AskOnceAsync(field, record, cancel) && attempt < Attempts; attempt++)
            await Task.Delay(TimeSpan.FromMilliseconds(200 * attempt), cancel);
    }

    // False where somebody saved the record, or was saving it, between asking and storing.
    private async Task<bool> AskOnceAsync(Field field, long record, CancellationToken cancel)
    {
        // Asked before anything is held: nobody waits for a query that is asked beside.
        await using var connection = await source.OpenConnectionAsync(cancel);
        IReadOnlyList<QueryFill> given;
        await using (var reading = await connection.BeginTransactionAsync(cancel))
            given = await fills.OfAsync(reading, field, record, cancel, isBeside: true);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var (work, notes) = (new QueryRefillWork(field, fills, clock.GetUtcNow().UtcDateTime), new List<AuditNote>());
        if (given.Count == 0)
            return true;
        if (!await RecordRows.HoldAsItWasAsync(transaction, field.Part.RecordType, record, given[0].Version, cancel))
            return false;
        foreach (var fill in given.OrderBy(fill => fill.Row))
        {
            if (fill.Given.IsError)
                await MarkAsync(transaction, field, fill.Row, cancel);
            else if (
                await work.StoreAsync(transaction, fill, cancel) is not null
                && fill.Now != fill.Given
                && GuardedChanges.FieldsOf(field.Part.RecordType).Contains(field)
            )
                notes.Add(
                    new(AuditKinds.Value, field.Id, $"{field.Asking!.Query.Label} answered after the save")
                    {
                        Before = GuardedChanges.Text(field, fill.Now),
                        After = GuardedChanges.Text(field, fill.Given),
                        RecordType = field.Part.RecordType.Code,
                        Record = record,
                        Line = field.Part.IsLines ? fill.Row : null,
                    }
                );
        }

        if (notes.Count > 0)
            await audit.WriteAsync(transaction, new(Guid.Empty, "a query", []) { From = "beside a save" }, notes, cancel);
        await transaction.CommitAsync(cancel);
        return true;
    }

    private async Task MarkAsync(NpgsqlTransaction transaction, Field field, long row, CancellationToken cancel)
    {
        var origin = JsonSerializer.Serialize(
            new Dictionary<string, object>
            {
                [field.Id] = new { at = clock.GetUtcNow().UtcDateTime, from = Origin.UnansweredPrefix + field.Asking!.Query.Id },
            }
        );
        await using var command = new NpgsqlCommand(
            $"UPDATE {Sql.Table(Sql.Added, field.Part.Table)} SET {Sql.Origins} = ({Sql.Origins}::jsonb || "
                + $"$2::jsonb)::text WHERE id = $1 AND {Sql.Origins}::jsonb -> $3 ->> 'from' LIKE '{Origin.BesidePrefix}%'",
            transaction.Connection,
            transaction
        )
        {
            Parameters =
            {
                new() { Value = row },
                new() { Value = origin },
                new() { Value = field.Id },
            },
        };
        await command.ExecuteNonQueryAsync(cancel);
    }
}
