using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Core.States;

/// <summary>A line while its record is edited.</summary>
/// <param name="Key">Tells lines apart while they are edited: the id of a kept line, any word for a new one.</param>
/// <param name="Id">The id of a kept line; null for a new one.</param>
/// <param name="Values">Values by slot.</param>
public sealed record LineState(string Key, long? Id, Value[] Values)
{
    /// <summary>Where values come from that were filled and may be changed.</summary>
    public Dictionary<Field, Origin> Origins { get; init; } = [];
}

/// <summary>What formulas read beside the record at hand.</summary>
/// <param name="FindRelated">
/// Finds a row of another record: the header that a link points to, or a line of the document before; null when it is not there, or not
/// read yet.
/// </param>
/// <param name="Clock">What the clock says.</param>
public sealed record EvaluationContext(Func<Part, long, Value[]?> FindRelated, Clock Clock)
{
    /// <summary>
    /// Finds the rows of a part whose link, or whose record's link, points to a record, in order; null when they were not read yet.
    /// </summary>
    public Func<Part, Field, long, IReadOnlyList<Value[]>?>? Linking { get; init; }

    /// <summary>Asks a query with these parameters; null when it was not answered yet.</summary>
    public Func<QueryDefinition, IReadOnlyList<Value>, QueryAnswer?>? Ask { get; init; }

    /// <summary>The rate of a currency on a day: a number, an error where there is none, empty when it was not read yet.</summary>
    public Func<string, DateOnly, Value>? Rate { get; init; }

    /// <summary>True when the record is being saved, rather than looked at or tried.</summary>
    public bool IsSaving { get; init; }
}

/// <summary>A record while it is edited: values by slot for the header, and lines for each part that has them.</summary>
public sealed class RecordState
{
    /// <summary>An empty record of a type.</summary>
    public RecordState(RecordType type)
    {
        Type = type;
        Header = new Value[type.Header.Fields.Count];
        Lines = [.. type.LineParts.Select(_ => new List<LineState>())];
    }

    /// <summary>Its type.</summary>
    public RecordType Type { get; }

    /// <summary>Its id, once it is kept.</summary>
    public long? Id { get; init; }

    /// <summary>Tells whether it changed since it was read; null for a new one.</summary>
    public string? Version { get; init; }

    /// <summary>What people typed in the scratch fields of the screen, by their codes; never stored.</summary>
    public IReadOnlyDictionary<string, Value> Scratch { get; set; } = new Dictionary<string, Value>();

    /// <summary>What the person that it was read for may do with it; null for one that was read whole.</summary>
    public IRecordAccess? Access { get; set; }

    /// <summary>
    /// Records that its links point to and that the person for whom it is may not read: for that person such a link is masked, and stays as
    /// it is.
    /// </summary>
    public IReadOnlySet<(RecordType Type, long Id)> Closed { get; set; } = NothingClosed;

    private static readonly HashSet<(RecordType Type, long Id)> NothingClosed = [];

    /// <summary>Values of the header by slot.</summary>
    public Value[] Header { get; }

    /// <summary>Where values of the header come from that were filled and may be changed.</summary>
    public Dictionary<Field, Origin> Origins { get; init; } = [];

    /// <summary>For each part with lines, in the order of the type, its lines in order.</summary>
    public IReadOnlyList<List<LineState>> Lines { get; }

    /// <summary>The lines of a part.</summary>
    public List<LineState> LinesOf(Part part) => Lines[IndexOf(part)];

    /// <summary>
    /// The value of a field of the header, or of one of a line on file; empty where the record has no such place, such as a field of lines
    /// without a line.
    /// </summary>
    public Value ValueAt(Field field, long? line) =>
        (field.Part.IsLines, line) switch
        {
            (false, null) => Header[field.Slot],
            (true, { } id) => LinesOf(field.Part).FirstOrDefault(row => row.Id == id)?.Values[field.Slot] ?? Value.Empty,
            _ => Value.Empty,
        };

    /// <summary>What formulas read beside the record: the clock, and records that links point to. Whoever reads records gives it.</summary>
    public EvaluationContext? Context { get; set; }

    /// <summary>True for a document that its status closes to changes.</summary>
    public bool IsLocked => Id is not null && Type.Document is { } document && document.IsLocked(Header[document.Status.Slot]);

    /// <summary>What people call this record: its number, or that it is new.</summary>
    public string Title =>
        Type.Identifier.Kind.Format(Header[Type.Identifier.Slot]) is { Length: > 0 } title ? title : $"New {Type.Label.ToLowerInvariant()}";

    /// <summary>What formulas read, for the header or for a line.</summary>
    public Frame FrameAt(LineState? line)
    {
        var frame = new Frame(Header, line?.Values, [.. Lines.Select(lines => lines.ConvertAll(row => row.Values))])
        {
            Id = Id,
            Typed = scratch => Scratch.GetValueOrDefault(scratch),
        };
        return Context is null
            ? frame
            : frame with
            {
                FindRelated = Context.FindRelated,
                Linking = Context.Linking,
                Rate = Context.Rate,
                Clock = Context.Clock,
            };
    }

    /// <summary>A copy that can be changed without touching this one.</summary>
    public RecordState Copy()
    {
        var copy = new RecordState(Type)
        {
            Id = Id,
            Version = Version,
            Context = Context,
            Origins = new(Origins),
            Scratch = Scratch,
            Access = Access,
            Closed = Closed,
        };
        Header.CopyTo(copy.Header, 0);
        foreach (var (from, to) in Lines.Zip(copy.Lines))
            to.AddRange(from.Select(line => line with { Values = [.. line.Values], Origins = new(line.Origins) }));
        return copy;
    }

    /// <summary>
    /// Puts its values into a record of the same type in another catalogue: the same fields may stand at other slots there, and a value may
    /// become one of another kind.
    /// </summary>
    /// <param name="other">That record, with no lines yet.</param>
    public void CopyTo(RecordState other)
    {
        Put(Type.Header, Header, other.Type.Header, other.Header);
        foreach (var part in other.Type.LineParts)
        {
            if (Type.FindPart(part.Code) is not { } from)
                continue;
            foreach (var line in LinesOf(from))
            {
                var values = new Value[part.Fields.Count];
                Put(from, line.Values, part, values);
                other.LinesOf(part).Add(new(line.Key, line.Id, values));
            }
        }
    }

    private static void Put(Part from, Value[] values, Part to, Value[] into)
    {
        foreach (var field in to.Fields.Where(field => field.IsStored))
        {
            if (from.Find(field.Code) is not { } same || same.Id != field.Id)
                continue;
            into[field.Slot] =
                field.Kind.Name == same.Kind.Name ? values[same.Slot]
                : field.Kind.Convert(values[same.Slot], same.Kind) is { Refusal: null } turned ? turned.Value
                : Value.Empty;
        }
    }

    private int IndexOf(Part part)
    {
        for (var i = 0; i < Type.LineParts.Count; i++)
            if (Type.LineParts[i] == part)
                return i;
        throw new InvalidOperationException($"{part.Code} holds no lines of {Type.Code}.");
    }
}
