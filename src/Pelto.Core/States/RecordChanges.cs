namespace Pelto.Core.States;

/// <summary>A line as it was entered.</summary>
/// <param name="Key">Tells it apart; the id of a kept line as text, any word for a new one.</param>
/// <param name="Id">The id of a kept line; null for a new one.</param>
/// <param name="Values">What was entered, for the fields that were sent. Others stay as they are.</param>
public sealed record EnteredLine(string Key, long? Id, IReadOnlyDictionary<Field, Parsed> Values);

/// <summary>What somebody wants of a record. What is not mentioned stays as it is.</summary>
public sealed class RecordChanges
{
    /// <summary>Entered values of the header.</summary>
    public Dictionary<Field, Parsed> Header { get; } = [];

    /// <summary>For each part that was sent, its lines in the order wanted; kept lines that are missing are removed.</summary>
    public Dictionary<Part, List<EnteredLine>> Lines { get; } = [];

    /// <summary>What somebody outside sent in: of fields that whoever accepts it is not shown it is kept all the same.</summary>
    public RecordChanges? Sent { get; set; }

    /// <summary>
    /// All that a new record holds, as if somebody had entered it; without what the person for whom it was read is not shown.
    /// </summary>
    public static RecordChanges Between(RecordState state)
    {
        var changes = new RecordChanges();
        foreach (
            var field in state.Type.Header.Fields.Where(field =>
                IsEntered(field, state.Header, state.Origins) && state.Access?.IsShown(field, null) != false
            )
        )
            changes.Header[field] = state.Header[field.Slot];
        foreach (var part in state.Type.LineParts)
            changes.Lines[part] =
            [
                .. state
                    .LinesOf(part)
                    .Select(line => new EnteredLine(
                        line.Key,
                        line.Id,
                        part.Fields.Where(field =>
                                IsEntered(field, line.Values, line.Origins) && state.Access?.IsShown(field, line.Key) != false
                            )
                            .ToDictionary(field => field, field => (Parsed)line.Values[field.Slot])
                    )),
            ];
        return changes;
    }

    // What would be filled by itself is not entered, unless somebody typed it.
    private static bool IsEntered(Field field, Value[] values, Dictionary<Field, Origin> origins) =>
        field.IsTyped
        && (!field.IsChangeable || !values[field.Slot].IsEmpty)
        && (!field.IsChangeable || !origins.TryGetValue(field, out var origin) || origin.IsTyped);

    /// <summary>True when something was entered in this field.</summary>
    public bool Mentions(Field field) =>
        Header.ContainsKey(field) || (Lines.TryGetValue(field.Part, out var lines) && lines.Exists(line => line.Values.ContainsKey(field)));

    /// <summary>What was entered in a field, of the header or of a line; null where nothing was.</summary>
    public Parsed? Entered(Field field, string? line)
    {
        if (line is null)
            return Header.TryGetValue(field, out var entered) ? entered : null;
        return
            Lines.TryGetValue(field.Part, out var rows)
            && rows.Find(row => row.Key == line) is { } mine
            && mine.Values.TryGetValue(field, out var there)
            ? there
            : null;
    }

    /// <summary>Puts what was sent over what is here already.</summary>
    public void Put(RecordChanges sent)
    {
        foreach (var (field, value) in sent.Header)
            Header[field] = value;
        foreach (var (part, lines) in sent.Lines)
            Lines[part] = lines;
    }

    /// <summary>Where what was typed over is to be as it is filled again.</summary>
    public HashSet<FieldAddress> FilledAgain { get; } = [];

    /// <summary>
    /// The record as it was when this person opened it. With it, only real changes count and two people's work is merged; without it, what
    /// was sent counts.
    /// </summary>
    public RecordState? Opened { get; init; }

    /// <summary>True when it was sent from the record's screen, which may ask for more than definitions do.</summary>
    public bool IsFromScreen { get; init; }

    /// <summary>What was typed in scratch fields of the screen, by their codes: it decides what is shown, and is stored nowhere.</summary>
    public Dictionary<string, Value> Scratch { get; } = new(StringComparer.Ordinal);

    /// <summary>For a new record: the entry from outside that it accepts.</summary>
    public Guid? Entry { get; set; }
}
