using Pelto.Core.Formulas;
using Pelto.Core.Records;
using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>A formula that was tried.</summary>
/// <param name="Formula">It, or null when it makes no sense.</param>
/// <param name="Value">What it gives.</param>
/// <param name="Problems">What is wrong with it, at its place.</param>
/// <param name="Sql">The same as an expression in SQL.</param>
/// <param name="Refusal">Why the viewer may not try it; null when they may.</param>
public sealed record FormulaTrial(
    Formula? Formula,
    Value Value,
    IReadOnlyList<FormulaProblem> Problems,
    string? Sql = null,
    string? Refusal = null
);

/// <summary>Tries formulas on records, with changes that are not saved.</summary>
public sealed class FormulaTrials(NpgsqlDataSource source, RecordStore store)
{
    /// <summary>A record with changes, filled but not saved; without an id, a new one. Null when it is gone.</summary>
    public async Task<RecordState?> RecordAsync(RecordType type, long? id, RecordChanges changes, Viewer viewer, CancellationToken cancel)
    {
        if (!viewer.MayRead(type))
            throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
        var current = id is { } known ? await store.FindAsync(type, known, viewer, cancel) : Pipeline.Fresh(type, store.Today);
        if (current is null)
            return null;

        await store.SiftAsync(changes, viewer, cancel);

        // Only tried: what was sent stands as it was sent, whoever may write it, also where a formula would fill it.
        var state = current.Copy();
        foreach (var (part, rows) in changes.Lines)
        {
            var before = state.LinesOf(part).ToDictionary(line => line.Key);
            state.LinesOf(part).Clear();
            state
                .LinesOf(part)
                .AddRange(rows.Select(row => before.GetValueOrDefault(row.Key) ?? Pipeline.FreshLine(part, row.Key, store.Today)));
        }

        Put(state, changes, viewer);
        await store.VisibleAsync(state, viewer, cancel);
        Put(state, changes, viewer);
        return state;
    }

    private static void Put(RecordState state, RecordChanges changes, Viewer viewer)
    {
        foreach (var (field, sent) in changes.Header.Where(one => viewer.LevelAt(one.Key) >= AccessLevel.Read))
            state.Header[field.Slot] = sent.Value;
        foreach (var (part, rows) in changes.Lines)
        foreach (var (line, row) in state.LinesOf(part).Zip(rows))
        foreach (var (field, sent) in row.Values.Where(one => viewer.LevelAt(one.Key) >= AccessLevel.Read))
            line.Values[field.Slot] = sent.Value;
    }

    /// <summary>Tries a formula on a record.</summary>
    public async Task<FormulaTrial> WithRelatedAsync(
        RecordState record,
        string text,
        Part part,
        LineState? line,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        var found = new List<FormulaProblem>();
        if (Formula.Bind(text, part, found) is not { } formula)
            return new(null, Value.Empty, found);
        if (
            formula
                .Reads.Where(field => !viewer.ReadsWhereRead(field))
                .Concat(formula.RelatedFields.Where(field => viewer.SureAt(field) < AccessLevel.Read))
                .FirstOrDefault() is
            { } guarded
        )
            return new(
                formula,
                Value.Empty,
                [],
                Refusal: viewer.LevelAt(guarded) == AccessLevel.None
                    ? "The formula reads what you may not see."
                    : $"You may not see {guarded.Label} of {guarded.Part.RecordType.Plural.ToLowerInvariant()}."
            );
        await using var connection = await source.OpenConnectionAsync(cancel);
        var related = new RelatedRows(connection, null, store.Clock, formula.RelatedFields);
        related.ContextFor(record);
        return await related.RunAsync(record.Type, () => Run(formula, record, line, store.Clock), cancel);
    }

    /// <summary>Tries a formula that reaches nothing.</summary>
    public FormulaTrial Run(string text, Part? part, RecordState? record, LineState? line, Clock clock)
    {
        var found = new List<FormulaProblem>();
        return Formula.Bind(text, part, found) is { } formula ? Run(formula, record, line, clock) : new(null, Value.Empty, found);
    }

    private static FormulaTrial Run(Formula formula, RecordState? record, LineState? line, Clock clock) =>
        new(formula, formula.Evaluate((record?.FrameAt(line) ?? new([], null, [])) with { Clock = clock }), [], SqlOf(formula, clock));

    private static string? SqlOf(Formula formula, Clock clock)
    {
        try
        {
            return formula.ToSql(new FormulaNames(new QueryRow(), Literal, new QueryRow("l", "la")) { Clock = clock }).Text;
        }
        catch (FormulaTooLongException)
        {
            return null;
        }
    }

    // To be read, not run: queries take values as parameters.
    private static string Literal(ColumnType type, object? value) =>
        value switch
        {
            null => "NULL",
            bool yes => yes ? "true" : "false",
            DateOnly day => $"'{day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}'",
            TimeOnly time => $"'{time.ToString("HH:mm:ss", CultureInfo.InvariantCulture)}'",
            DateTime moment => $"'{moment.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture)}Z'",
            string text => $"'{text.Replace("'", "''", StringComparison.Ordinal)}'",
            IFormattable number => number.ToString(null, CultureInfo.InvariantCulture),
            _ => "NULL",
        };
}
