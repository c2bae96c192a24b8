using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Core.Fills;

/// <summary>Fills a record: computed fields always, others by their rule, each after what it reads.</summary>
/// <param name="state">The record.</param>
/// <param name="before">
/// The record as it was before the changes; null where nothing changed but the record itself is new, or looked at.
/// </param>
/// <param name="changes">What somebody entered; null where nobody did.</param>
/// <param name="by">Who.</param>
public sealed class Filling(RecordState state, RecordState? before = null, RecordChanges? changes = null, string? by = null)
{
    private readonly DateTime now = state.Context?.Clock.Now ?? DateTime.UtcNow;

    /// <summary>Fills those of these fields that the record has.</summary>
    public void Run(Func<Field, bool> which)
    {
        if (state.Type.FillOrder.Count == 0)
            return;
        var frame = state.FrameAt(null);
        foreach (var field in state.Type.FillOrder.Where(which))
        {
            if (!field.Part.IsLines)
            {
                Fill(field, new(null, state.Header, state.Origins), frame);
                continue;
            }

            foreach (var line in state.LinesOf(field.Part))
                Fill(field, new(line, line.Values, line.Origins), frame with { Line = line.Values });
        }
    }

    /// <summary>Asks what would fill the fields that stay as they are, so that what it reads is at hand.</summary>
    internal void Look()
    {
        foreach (var field in state.Type.FillOrder.Where(field => field is { IsComputed: false, Asking: null }))
        {
            if (!field.Part.IsLines)
                Given(field, state, null);
            else
                foreach (var line in state.LinesOf(field.Part))
                    Given(field, state, line);
        }
    }

    /// <summary>
    /// What fills a field gives there now, and from which record or query; null where that is not known, such as what a query would answer
    /// that was not asked.
    /// </summary>
    public static (Value? Value, string? From) Given(Field field, RecordState state, LineState? line)
    {
        if (field.Asking is { } asking)
            return (Answer(field, asking, state, state.FrameAt(line)), QueryPrefix + asking.Query.Id);
        var (value, from) = Given(field, state, line, state.FrameAt(line));
        return (value, from);
    }

    /// <summary>Before the id of the query that a value came from.</summary>
    public const string QueryPrefix = "query/";

    private static (Value Value, string? From) Given(Field field, RecordState state, LineState? line, Frame frame)
    {
        foreach (var carried in field.CarriedFrom)
        {
            if (state.Header[carried.Follow.Link.Slot] is not { DataType: DataType.Link } document)
                continue;
            long? row =
                line is null ? document.Target
                : line.Values[carried.Follow.Lines!.Reference.Slot] is { DataType: DataType.Number } reference ? (long)reference.Number
                : null;
            if (row is not null && frame.FindRelated?.Invoke(carried.From.Part, row.Value) is { } values)
                return (values[carried.From.Slot], $"{carried.Follow.Source.Code}/{document.Target}");
        }

        return field.Formula is not { } formula
            ? (Value.Empty, null)
            : (
                Computed(field, frame),
                formula.Through is { } link && For(link, state, line) is { DataType: DataType.Link } to
                    ? $"{link.Target!.Code}/{to.Target}"
                    : null
            );
    }

    private static Value Computed(Field field, Frame frame)
    {
        var value = field.Kind.Fit(field.Formula!.Evaluate(frame));
        if (field.IsLive && field.Kind.IsBoundlessLive && value.DataType == DataType.Number)
            return Math.Abs(value.Number) < FieldKind.MaxLive ? value : Value.Failed(Reasons.TooLarge);
        return value.IsEmpty || value.IsError || field.Kind.Refuse(value) is not { } refusal ? value : Value.Failed(refusal);
    }

    private static Value For(Field field, RecordState state, LineState? line) =>
        field.Part.IsLines
            ? line is null
                ? Value.Empty
                : line.Values[field.Slot]
            : state.Header[field.Slot];

    private void Fill(Field field, Row row, Frame frame)
    {
        if (field.IsComputed)
        {
            row.Values[field.Slot] = Computed(field, frame);
            return;
        }

        // What nobody can look up now stays; a document that is confirmed stays as it is.
        if ((state.Context is null && field.Formula is { RelatedFields.Count: > 0 }) || (before ?? state).IsLocked)
            return;
        if (field.Asking is { } asking)
        {
            FillByQuery(field, asking, row, frame);
            return;
        }

        var (given, from) = Given(field, state, row.Line, frame);
        if (given.IsError)
            given = Value.Empty;
        var earlier = Before(field.Part, row.Line);
        var isAgain = changes?.FilledAgain.Contains(new(field.Part, row.Line?.Key, field)) == true;
        if (!isAgain && Entered(field, row.Line) is { } entered)
        {
            var value = row.Values[field.Slot];
            var isTyped =
                entered.Refusal is not null
                || (value != given && (changes!.Opened is not null || earlier is null || value != earlier[field.Slot]));
            if (isTyped)
            {
                if (earlier is null || value != earlier[field.Slot] || !row.Origins.TryGetValue(field, out var known) || !known.IsTyped)
                    row.Origins[field] = new(now, by ?? "somebody");
                return;
            }

            if (value == given && (earlier is null || value != earlier[field.Slot]))
            {
                row.Origins[field] = new(now, null, from);
                return;
            }
        }

        if (!isAgain)
        {
            if (
                row.Origins.TryGetValue(field, out var origin)
                && origin.IsTyped
                && (field.Mode == FillMode.Untouched || earlier is null || !IsChosen(field, row.Line))
            )
                return;
            if (field.Mode == FillMode.Chosen && !IsChosen(field, row.Line))
                return;
        }

        // Where nothing is chosen yet there is nothing to carry: a default stays.
        if (field.Mode == FillMode.Chosen && given.IsEmpty && earlier is null)
            return;
        if (row.Values[field.Slot] != given || !row.Origins.TryGetValue(field, out var same) || same.IsTyped || same.From != from)
            row.Origins[field] = new(now, null, from);
        row.Values[field.Slot] = given;
    }

    private void FillByQuery(Field field, Asking asking, Row row, Frame frame)
    {
        var earlier = Before(field.Part, row.Line);
        var isAgain = changes?.FilledAgain.Contains(new(field.Part, row.Line?.Key, field)) == true;
        if (!isAgain && Entered(field, row.Line) is not null)
        {
            if (changes!.Opened is not null || earlier is null || row.Values[field.Slot] != earlier[field.Slot])
                row.Origins[field] = new(now, by ?? "somebody");
            return;
        }

        var isTyped = row.Origins.TryGetValue(field, out var origin) && origin.IsTyped;

        // What a save did not wait for and nobody has answered since is asked with the next.
        if (
            !isAgain
            && origin?.IsAwaited != true
            && (!IsAsked(asking.When, isTyped, earlier is null, () => IsChosen(field, row.Line)) || (isTyped && earlier is null))
        )
            return;
        var isBeside = false;
        if (Answer(field, asking, state, frame, answer => isBeside = answer.IsBeside) is not { IsError: false } given)
        {
            if (isBeside && !isTyped)
                row.Origins[field] = new(now, null, Origin.BesidePrefix + asking.Query.Id);
            return;
        }

        if (given.IsEmpty && earlier is null && !isAgain)
            return;
        row.Values[field.Slot] = given;
        row.Origins[field] = new(now, null, QueryPrefix + asking.Query.Id);
    }

    /// <summary>
    /// What the query of a field gives for a record on file, or why it gives nothing; null where it stays as it is: somebody typed over it,
    /// it is confirmed, or the answer is not known yet.
    /// </summary>
    public static Value? Ask(Field field, RecordState state, LineState? line)
    {
        if (state.IsLocked || ((line?.Origins ?? state.Origins).TryGetValue(field, out var origin) && origin.IsTyped))
            return null;
        return field.Asking is { } asking ? Answer(field, asking, state, state.FrameAt(line)) : null;
    }

    private bool IsAsked(QueryWhen when, bool isTyped, bool isNew, Func<bool> isChosen) =>
        when switch
        {
            QueryWhen.New => isNew,
            QueryWhen.Save => state.Context?.IsSaving == true && !isTyped,
            QueryWhen.Demand => false,
            _ => isChosen(),
        };

    // Null where the field stays as it is, or where the answer is not known yet. Without all of its parameters nothing is asked.
    private static Value? Answer(Field field, Asking asking, RecordState state, Frame frame, Action<QueryAnswer>? told = null)
    {
        var arguments = asking.Arguments.Select(argument => argument.Evaluate(frame)).ToList();
        if (arguments.Find(argument => argument.IsError) is { IsError: true } failed)
            return failed;
        if (arguments.Exists(argument => argument.IsEmpty))
            return Value.Empty;
        if (state.Context?.Ask?.Invoke(asking.Query, arguments) is not { } answer)
            return null;
        told?.Invoke(answer);
        return asking.Take(field, answer);
    }

    private Parsed? Entered(Field field, LineState? line) => changes?.Entered(field, line?.Key);

    // True when what it is read from is another than before; in what is new, all is.
    private bool IsChosen(Field field, LineState? line)
    {
        var earlier = Before(field.Part, line);
        if (earlier is null)
            return true;
        var sources = field.CarriedFrom.SelectMany(carried =>
            line is null ? [carried.Follow.Link] : new[] { carried.Follow.Link, carried.Follow.Lines!.Reference }
        );
        sources = sources.Concat(field.Formulas.SelectMany(formula => formula.Reads));
        return sources.Any(source => For(source, state, line) != (source.Part.IsLines ? earlier[source.Slot] : Was[source.Slot]));
    }

    private Value[] Was => (before ?? state).Header;

    // Null for what was not there before.
    private Value[]? Before(Part part, LineState? line)
    {
        if (!part.IsLines)
            return state.Id is null ? null : Was;
        if (line?.Id is not { } id)
            return null;
        return before is null ? line.Values : before.LinesOf(part).Find(other => other.Id == id)?.Values;
    }

    private readonly record struct Row(LineState? Line, Value[] Values, Dictionary<Field, Origin> Origins);
}
