using Pelto.Core.Fills;
using Pelto.Core.Formulas;
using Pelto.Data.Queries;

namespace Pelto.Data.Records;

/// <summary>A value on file that a query fills, and what the query gives now.</summary>
/// <param name="Record">The id of the record.</param>
/// <param name="Version">The record's version for which it was asked.</param>
/// <param name="Row">The id of the record, or of the line.</param>
/// <param name="Now">What is stored.</param>
/// <param name="Given">What the query gives; an error with its reason where it gives nothing.</param>
/// <param name="IsStopped">True when it was stopped because it took too long.</param>
internal sealed record QueryFill(long Record, string Version, long Row, Value Now, Value Given, bool IsStopped);

/// <summary>Asks the query of a field for records on file, one after the other.</summary>
public sealed class QueryFills(NpgsqlDataSource source, QueryRunner runner, TimeProvider clock)
{
    private const int Shown = 12;

    /// <summary>What asking again would do to the newest records; nothing is stored.</summary>
    /// <param name="field">The field, as it is live.</param>
    /// <param name="viewer">For whom; whoever may not see the field gets nothing.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<FormulaProof?> ProofAsync(Field field, Viewer viewer, CancellationToken cancel)
    {
        if (viewer.SureAt(field) < AccessLevel.Read)
            return null;
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var type = field.Part.RecordType;
        var records = new List<(long Id, string Title)>();
        await using (
            var newest = new NpgsqlCommand(
                $"SELECT id, coalesce({Sql.Column(type.Identifier)}::text, '') "
                    + $"FROM {Sql.Base(type.Header)} ORDER BY id DESC LIMIT {Shown + 1}",
                connection,
                transaction
            )
        )
        await using (var reader = await newest.ExecuteReaderAsync(cancel))
            while (await reader.ReadAsync(cancel))
                records.Add((reader.GetInt64(0), reader.GetString(1)));
        var examples = new List<FormulaExample>();
        var (failing, isStopped) = (0, false);
        foreach (var (id, title) in records.Take(Shown))
        {
            var given = await OfAsync(transaction, field, id, cancel);
            failing += given.Count(fill => fill.Given.IsError);
            examples.AddRange(
                given.Where(fill => !fill.Given.IsError).Select(fill => new FormulaExample(id, title, fill.Now, fill.Given, false))
            );

            // Who opens a page does not wait for a query that takes too long again and again.
            isStopped = given.Any(fill => fill.IsStopped);
            if (isStopped)
                break;
        }

        return new(
            examples.Count + failing,
            records.Count <= Shown && !isStopped,
            examples.Count(example => !example.Draft.IsEmpty),
            failing,
            examples.Count(example => example.Now != example.Draft),
            examples.Count(example => example.Draft.IsEmpty && !example.Now.IsEmpty),
            examples
        );
    }

    /// <summary>
    /// What the query gives for a record, or for each of its lines; without what somebody typed over and what is confirmed.
    /// </summary>
    /// <param name="transaction">Where the record is read.</param>
    /// <param name="field">The field.</param>
    /// <param name="record">The record.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="isBeside">True to ask only where a save did not wait for the answer.</param>
    internal async Task<IReadOnlyList<QueryFill>> OfAsync(
        NpgsqlTransaction transaction,
        Field field,
        long record,
        CancellationToken cancel,
        bool isBeside = false
    )
    {
        if (await RecordRows.LoadAsync(transaction, field.Part.RecordType, record, Hold.Nothing, cancel) is not { } rows)
            return [];
        var state = rows.ToState(record);
        var related = new RelatedRows(transaction.Connection!, transaction, Clock.From(clock), runner: runner);
        related.ContextFor(state);
        var lines = field.Part.IsLines ? [.. state.LinesOf(field.Part).Where(line => line.Id is not null)] : new List<LineState?> { null };
        if (isBeside)
            lines.RemoveAll(line => (line?.Origins ?? state.Origins).GetValueOrDefault(field)?.IsAwaited != true);
        var given = await related.RunAsync(
            field.Part.RecordType,
            () => lines.ConvertAll(line => (Line: line, Value: Filling.Ask(field, state, line))),
            cancel
        );
        return
        [
            .. given
                .Where(one => one.Value is not null)
                .Select(one => new QueryFill(
                    record,
                    state.Version!,
                    one.Line?.Id ?? record,
                    (one.Line?.Values ?? state.Header)[field.Slot],
                    one.Value!.Value,
                    related.WasStopped
                )),
        ];
    }
}
