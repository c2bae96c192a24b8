using System.Diagnostics;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Data.Expressions;
using Pelto.Data.Queries;

namespace Pelto.Data.Records;

/// <summary>
/// Reads what fills reach through links and in documents before: the record is calculated, what was missing is read all at once, and it is
/// calculated again, as often as the longest way has steps.
/// </summary>
/// <remarks>
/// The pipeline itself does no reading. What a formula reaches is read for the formula, whoever asks: who may see its result is decided
/// where that is given.
/// </remarks>
/// <param name="connection">Where.</param>
/// <param name="transaction">The save's, or null.</param>
/// <param name="clock">What the clock says.</param>
/// <param name="also">Fields of other records that are read besides those that the type's own formulas read.</param>
/// <param name="runner">Asks queries; null where none are asked.</param>
internal sealed class RelatedRows(
    NpgsqlConnection connection,
    NpgsqlTransaction? transaction,
    Clock clock,
    IEnumerable<Field>? also = null,
    QueryRunner? runner = null
)
{
    // A way through more links than anybody writes.
    private const int MaxSteps = 12;

    private readonly Dictionary<(Part Part, long Id), Value[]?> known = [];
    private readonly HashSet<(Part Part, long Id)> missing = [];
    private readonly Dictionary<(Part Part, Field Link, long Id), List<Value[]>> linking = [];
    private readonly HashSet<(Part Part, Field Link, long Id)> unlinked = [];
    private readonly Dictionary<(string Currency, DateOnly Day), Value> rates = [];
    private readonly HashSet<(string Currency, DateOnly Day)> unrated = [];
    private readonly Dictionary<string, QueryAnswer> answers = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (QueryDefinition Query, IReadOnlyList<Value> Arguments)> skipped = new(StringComparer.Ordinal);
    private readonly HashSet<string> stopped = new(StringComparer.Ordinal);

    /// <summary>True when a query was stopped because it took too long.</summary>
    public bool WasStopped => stopped.Count > 0;

    /// <summary>True when the record is being saved.</summary>
    public bool IsSaving { get; init; }

    /// <summary>
    /// How long all queries together may take, where somebody waits for a save; as long as each may run when not said. What is not answered
    /// by then is asked beside.
    /// </summary>
    public TimeSpan? Patience { get; init; }

    private TimeSpan waited;

    /// <summary>Lets a record's formulas reach through links.</summary>
    public RecordState ContextFor(RecordState state)
    {
        state.Context = new(Find, clock)
        {
            Linking = FindLinking,
            Rate = FindRate,
            Ask = runner is null ? null : Ask,
            IsSaving = IsSaving,
        };
        return state;
    }

    /// <summary>Calculates something with all that its formulas reach.</summary>
    /// <param name="type">The type of the record that is worked on.</param>
    /// <param name="work">What is done; again and again, until nothing is missing.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<T> RunAsync<T>(RecordType type, Func<T> work, CancellationToken cancel)
    {
        for (var step = 0; ; step++)
        {
            var result = work();
            if ((missing.Count == 0 && unlinked.Count == 0 && unrated.Count == 0 && skipped.Count == 0) || step == MaxSteps)
                return result;
            foreach (var group in missing.GroupBy(one => one.Part).ToList())
                await ReadAsync(type, group.Key, [.. group.Select(one => one.Id)], cancel);
            missing.Clear();
            foreach (var group in unlinked.GroupBy(one => (one.Part, one.Link)).ToList())
                await ReadLinkingAsync(type, group.Key.Part, group.Key.Link, [.. group.Select(one => one.Id)], cancel);
            unlinked.Clear();
            if (unrated.Count > 0)
                await ReadRatesAsync(type.Rates!, cancel);
            if (skipped.Count > 0)
                await AskAllAsync(cancel);
        }
    }

    // Different queries beside one another: one that takes long takes nothing of the others' time. Each goes through its lines one by one.
    private async Task AskAllAsync(CancellationToken cancel)
    {
        var (began, before) = (Stopwatch.GetTimestamp(), waited);
        var asked = await Task.WhenAll(
            skipped
                .GroupBy(one => one.Value.Query.Id)
                .Select(async query =>
                {
                    var (given, isStopped) = (new List<(string Key, QueryAnswer Answer)>(), stopped.Contains(query.Key));
                    foreach (var (key, (definition, arguments)) in query)
                    {
                        var (answer, isTooLong) = await AskAsync(
                            definition,
                            arguments,
                            isStopped,
                            Patience - before - Stopwatch.GetElapsedTime(began),
                            cancel
                        );
                        given.Add((key, answer));
                        isStopped |= isTooLong;
                    }

                    return (Query: query.Key, Given: given, IsStopped: isStopped);
                })
                .ToList()
        );
        waited += Stopwatch.GetElapsedTime(began);
        foreach (var (query, given, isStopped) in asked)
        {
            if (isStopped)
                stopped.Add(query);
            foreach (var (key, answer) in given)
                answers[key] = answer;
        }

        skipped.Clear();
    }

    // One that was stopped once is not asked again for each line: people would wait for as long as there are lines.
    private async Task<(QueryAnswer Answer, bool IsTooLong)> AskAsync(
        QueryDefinition query,
        IReadOnlyList<Value> arguments,
        bool isStopped,
        TimeSpan? left,
        CancellationToken cancel
    )
    {
        if (left < Shortest || (isStopped && left is not null))
            return (Join(query), true);
        if (isStopped)
            return (new([], $"{query.Label} was stopped on another line: it takes too long."), true);
        var began = Stopwatch.GetTimestamp();
        var answer = await runner!.AskAsync(query, arguments, cancel, longest: left);
        if (answer.Failure is null || Stopwatch.GetElapsedTime(began) < (left ?? QueryRunner.Longest) * 0.9)
            return (answer, false);
        return (left is null ? answer : Join(query), true);
    }

    // Too little for the database to answer anything.
    private static readonly TimeSpan Shortest = TimeSpan.FromMilliseconds(20);

    private static QueryAnswer Join(QueryDefinition query) =>
        new([], $"{query.Label} takes longer than a save may wait: it is asked in the background.") { IsBeside = true };

    private QueryAnswer? Ask(QueryDefinition query, IReadOnlyList<Value> arguments)
    {
        var key = $"{query.Id}|{string.Join('|', arguments.Select(argument => $"{argument.DataType}:{argument}"))}";
        if (answers.TryGetValue(key, out var answer))
            return answer;
        skipped[key] = (query, arguments);
        return null;
    }

    private Value[]? Find(Part part, long id)
    {
        if (known.TryGetValue((part, id), out var values))
            return values;
        missing.Add((part, id));
        return null;
    }

    private List<Value[]>? FindLinking(Part part, Field link, long id)
    {
        if (linking.TryGetValue((part, link, id), out var rows))
            return rows;
        unlinked.Add((part, link, id));
        return null;
    }

    private Value FindRate(string currency, DateOnly day)
    {
        if (rates.TryGetValue((currency, day), out var rate))
            return rate;
        unrated.Add((currency, day));
        return Value.Empty;
    }

    private async Task ReadRatesAsync(RateTable table, CancellationToken cancel)
    {
        string Column(Field field) => "r." + Sql.Name(field.Columns[0].Name);
        await using var command = new NpgsqlCommand(
            $"SELECT k.currency, k.day, (SELECT {Column(table.Rate)} FROM {Sql.Base(table.Rate.Part)} r "
                + $"WHERE {Column(table.Currency)} = k.currency AND {Column(table.Since)} <= k.day "
                + $"ORDER BY {Column(table.Since)} DESC, r.id DESC LIMIT 1) FROM unnest($1::text[], $2::date[]) AS k(currency, day)",
            connection,
            transaction
        );
        command.Parameters.Add(new() { Value = unrated.Select(one => one.Currency).ToArray() });
        command.Parameters.Add(new() { Value = unrated.Select(one => one.Day).ToArray() });
        unrated.Clear();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            rates[(reader.GetString(0), reader.GetFieldValue<DateOnly>(1))] = reader.IsDBNull(2)
                ? Value.NotAvailable("There is no rate.")
                : Value.From(reader.GetDecimal(2));
    }

    private async Task ReadAsync(RecordType of, Part part, long[] ids, CancellationToken cancel)
    {
        foreach (var id in ids)
            known[(part, id)] = null;
        foreach (var (id, values) in await RowsAsync(of, part, ids, "h.id", cancel))
            known[(part, id)] = values;
    }

    // Lines of what points to a record are found by the link of their header.
    private async Task ReadLinkingAsync(RecordType of, Part part, Field link, long[] ids, CancellationToken cancel)
    {
        foreach (var id in ids)
            linking[(part, link, id)] = [];
        var column = link.ColumnNames(
            part == link.Part
                ? link.IsAdded
                    ? "a."
                    : "h."
                : link.IsAdded
                    ? "pa."
                    : "p."
        )("");
        foreach (var (id, values) in await RowsAsync(of, part, ids, column, cancel, withHeader: part != link.Part))
            linking[(part, link, id)].Add(values);
    }

    // Rows by the value of one of their columns, with the fields that are reached.
    private async Task<IEnumerable<(long Key, Value[] Values)>> RowsAsync(
        RecordType of,
        Part part,
        long[] keys,
        string by,
        CancellationToken cancel,
        bool withHeader = false
    )
    {
        var rows = new OrderedDictionary<long, (long Key, Value[] Values)>();
        foreach (var fields in Columns.Pieces(of.RelatedFields.Concat(also ?? []).Distinct().Where(field => field.Part == part)))
            await ReadRowsAsync(part, fields, keys, by, withHeader, rows, cancel);
        return rows.Values;
    }

    private async Task ReadRowsAsync(
        Part part,
        IReadOnlyList<Field> fields,
        long[] keys,
        string by,
        bool withHeader,
        OrderedDictionary<long, (long Key, Value[] Values)> rows,
        CancellationToken cancel
    )
    {
        await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
        command.Parameters.Add(new() { Value = keys });
        var (row, parent) = (new QueryRow(), new QueryRow("p", "pa"));
        var names = part.IsLines
            ? new FormulaNames(parent, command.Add, row) { Clock = clock }
            : new FormulaNames(row, command.Add) { Clock = clock };
        var columns = fields
            .SelectMany(field =>
                Columns.Quoted(
                    field,
                    field.IsLive ? row.Prefix(field, names)
                        : field.IsAdded ? "a."
                        : "h."
                )
            )
            .ToList();
        var header =
            part.IsLines && (withHeader || row.Joins.Length > 0)
                ? $" JOIN {Sql.Base(part.RecordType.Header)} p ON p.id = h.parent{Join(part.RecordType.Header, "p", "pa")}{parent.Joins}"
                : "";
        command.CommandText =
            $"SELECT {by}, h.id{string.Concat(columns.Select(column => ", " + column))} FROM "
            + $"{Sql.Base(part)} h{Join(part, "h", "a")}{header}{row.Joins} WHERE {by} = ANY($1) "
            + $"ORDER BY {(part.IsLines ? "h.parent, h.position, " : "")}h.id";
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var (id, at) = (reader.GetInt64(1), 2);
            rows.TryAdd(id, (reader.GetInt64(0), new Value[part.Fields.Count]));
            foreach (var field in fields)
                rows[id].Values[field.Slot] = Columns.Read(reader, ref at, field);
        }
    }

    private static string Join(Part part, string row, string beside) =>
        part.StoredFields.Any() ? $" LEFT JOIN {Sql.AddedTable(part)} {beside} ON {beside}.id = {row}.id" : "";
}
