using System.Text.Json.Nodes;
using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>All that the form of a record shows.</summary>
public sealed record RecordForm
{
    /// <summary>The release under which it is drawn.</summary>
    public required int Release { get; init; }

    /// <summary>The record.</summary>
    public required RecordState State { get; init; }

    /// <summary>The record as it is on file, or a new one.</summary>
    public required RecordState OnFile { get; init; }

    /// <summary>The record as it is on file, which the browser sends back so that only real changes count.</summary>
    public required JsonObject Opened { get; init; }

    /// <summary>How many lines the record has, part by part, where not all of them are shown.</summary>
    public IReadOnlyList<int>? LineCounts { get; init; }

    /// <summary>For whom.</summary>
    public required Viewer Viewer { get; init; }

    /// <summary>What links point to.</summary>
    public required IReadOnlyDictionary<(string Type, long Id), Target> Targets { get; init; }

    /// <summary>What stands in inputs that could not be read, by name.</summary>
    public IReadOnlyDictionary<string, string> Texts { get; init; } = new Dictionary<string, string>();

    /// <summary>True when somebody asked to save it: from then on all that is wrong is shown, until it is mended.</summary>
    public bool IsJudged { get; init; }

    /// <summary>Names of the inputs at which something is wrong that only a save can tell.</summary>
    public IReadOnlySet<string> OnlyBySaving { get; init; } = new HashSet<string>();

    /// <summary>What keeps it from being saved, by the input's name.</summary>
    public ILookup<string, string> Messages { get; init; } = Array.Empty<Message>().ToLookup(message => "", message => "");

    /// <summary>Where somebody else changed the same, by the input's name.</summary>
    public IReadOnlyDictionary<string, Clash> Clashes { get; init; } = new Dictionary<string, Clash>();

    /// <summary>Clashes and messages about whole lines, which have no input.</summary>
    public IReadOnlyList<string> Notes { get; init; } = [];

    /// <summary>How many things are wrong, by all that is known without saving.</summary>
    public int Errors => Messages.Sum(group => group.Count()) + Notes.Count;

    /// <summary>The same in words.</summary>
    public static string WrongInWords(int wrong) => wrong == 1 ? "One thing needs a look." : $"{wrong} things need a look.";

    /// <summary>The field to be marked as not live yet, in a preview.</summary>
    public string? DraftField { get; init; }

    /// <summary>True when inputs are shown but cannot be used.</summary>
    public bool IsPreview { get; init; }

    /// <summary>What people call the fields of which what was typed would be lost on saving.</summary>
    public IEnumerable<string> LostOnSaving =>
        SetAsideFields
            .Where(off =>
                SetAside.GetValueOrDefault(new FieldAddress(off.Part, null, off).ToString()) is { } text
                && text != off.Kind.Input(OnFile.Header[off.Slot], Viewer.Locale)
            )
            .Select(off => off.TextIn(Viewer.Locale).Label);

    /// <summary>The web address that a button opens; empty where its formula gives none that is one.</summary>
    public string AddressOf(LayoutExtra button) =>
        Type.Screens.FormulaOf(button.Made) is { } formula
        && Viewer.MayKnow(formula)
        && formula.Evaluate(State.FrameAt(null)) is { DataType: DataType.Text } value
        && Uri.TryCreate(value.Text, UriKind.Absolute, out var address)
        && address.Scheme is "http" or "https"
            ? address.ToString()
            : "";

    /// <summary>
    /// What stands in a scratch field: as typed, or calculated; an error where it cannot be, and empty where the person may not know what
    /// it reads.
    /// </summary>
    public (string Text, bool IsFailed, string? Refusal) ScratchOf(NewPart made)
    {
        var kind = ScratchFields.KindOf(made);
        if (Type.Screens.FormulaOf(made) is { } formula)
        {
            var value = Viewer.MayKnow(formula) ? formula.Evaluate(State.FrameAt(null)) : Value.Empty;
            return (kind.Format(value, Viewer.Locale), value.IsError, null);
        }

        var text = Scratch.GetValueOrDefault(FormReader.ScratchPrefix + made.Code, "");
        return (text, false, kind.Parse(text, Viewer.Locale).Refusal);
    }

    /// <summary>What was typed in scratch fields, by the names of their inputs.</summary>
    public IReadOnlyDictionary<string, string> Scratch { get; init; } = new Dictionary<string, string>();

    /// <summary>Its type.</summary>
    public RecordType Type => State.Type;

    /// <summary>The screen.</summary>
    public Layout Layout => layout ??= Viewer.Form?.Layout ?? Screen.Layout.VisibleTo(Viewer, State);

    private Layout? layout;

    /// <summary>The screen that this person gets of this record, with who decided what of it.</summary>
    public Resolved Screen => Shown ?? (screen ??= Type.Screens.For(Viewer, State));

    /// <summary>Another screen than that of the person who looks: of a draft, or of somebody else.</summary>
    public Resolved? Shown { get; init; }

    private Resolved? screen;

    /// <summary>
    /// What somebody typed in fields that a condition has taken off the screen meanwhile, by the input's name: it is not saved, and comes
    /// back with them.
    /// </summary>
    public IReadOnlyDictionary<string, string> SetAside { get; init; } = new Dictionary<string, string>();

    /// <summary>The fields of which that is so.</summary>
    public IReadOnlyList<Field> SetAsideFields { get; init; } = [];

    /// <summary>What points to the record, where such lists stand on its screen.</summary>
    public IReadOnlyList<Pointing> Pointing { get; init; } = [];

    /// <summary>For a new record that an entry from outside begins: the entry.</summary>
    public Guid? Entry { get; init; }

    /// <summary>True when this person may change it.</summary>
    public bool IsWritable =>
        (OnFile.Id is null ? Viewer.MayCreate(Type) : Viewer.MayChange(Type))
        && !IsPreview
        && Type.Parts.SelectMany(part => part.Fields)
            .Any(typed => DocumentRules.MayType(OnFile, typed) && (OnFile.Access is null || MayWrite(typed)));

    private bool MayWrite(Field field) =>
        field.Part.IsLines
            ? MayChangeThem || OnFile.LinesOf(field.Part).Exists(line => Viewer.LevelAt(field, OnFile, line) == AccessLevel.Write)
            : Viewer.LevelAt(field, OnFile, null) == AccessLevel.Write;

    private bool MayChangeThem => OnFile.Access?.MayChange ?? (OnFile.Id is null || Viewer.AccessAt(Type).For(Type).Change.IsPossible);

    /// <summary>True when this person may add, move and remove lines.</summary>
    public bool MayChangeLines => IsWritable && MayChangeThem && !OnFile.IsLocked;

    /// <summary>One field at its place, ready to be drawn.</summary>
    public FieldView At(LayoutPlace place, LineState? line) => Fields.At(place, line);

    /// <summary>
    /// True when a column of lines stands there: where a condition decides, for as long as it holds on a line, or would on a new one where
    /// there are none.
    /// </summary>
    /// <param name="column">The column.</param>
    /// <param name="blank">A new line.</param>
    public bool ShowsColumn(Field column, LineState blank) => Fields.ShowsColumn(column, blank);

    private FieldViews Fields => field ??= new(this);

    /// <summary>What is entered and stands on no place of the screen, such as what a document took over from the one before.</summary>
    public IEnumerable<FieldView> Hidden(Part part, LineState? line)
    {
        if (!IsWritable || (line is null ? State.Id : line.Id) is not null)
            yield break;
        var shown = Layout
            .Sections.Where(section => section.Contains(part))
            .SelectMany(section => section.Places)
            .Select(place => place.Field)
            .ToHashSet();
        var values = line?.Values ?? State.Header;
        foreach (var field in part.Fields.Where(field => !shown.Contains(field) && IsCarriedByForm(field, values)))
            yield return At(new(field, 1), line);
    }

    /// <summary>A line that nobody has touched yet, for the browser to copy when one is added.</summary>
    public static LineState Blank(Part part, DateOnly today) => Pipeline.FreshLine(part, "__key__", today);

    // So many inputs of lines are drawn at once that the page opens quickly, and more than anybody sees without scrolling.
    private const int MaxInputs = 450;

    /// <summary>
    /// The lines whose inputs were not drawn in the form that was sent, each as its part and key; null for a form that is drawn for the
    /// first time.
    /// </summary>
    public IReadOnlySet<string>? Asleep { get; init; }

    /// <summary>
    /// True for a line of which only what it says is drawn, until somebody comes near it: one far down in a long document, with which
    /// nothing is wrong.
    /// </summary>
    /// <param name="section">The section in which it stands.</param>
    /// <param name="line">The line.</param>
    /// <param name="at">How many stand above it.</param>
    public bool IsAsleep(LayoutSection section, LineState line, int at)
    {
        var name = new FieldAddress(section.Lines!, line.Key, null).ToString();
        return Viewer.Form is null && (Asleep?.Contains(name) ?? at * section.Items.Count >= MaxInputs) && !Troubled.Contains(name);
    }

    private HashSet<string> Troubled =>
        troubled ??= Messages
            .Select(group => group.Key)
            .Concat(Clashes.Keys)
            .Select(name => name[..Math.Max(0, name.LastIndexOf('.'))])
            .ToHashSet(StringComparer.Ordinal);

    private HashSet<string>? troubled;

    /// <summary>What a line that is not on file yet holds while its inputs are not drawn.</summary>
    public IEnumerable<FieldView> SleepingValues(Part part, LineState line) =>
        !IsWritable || line.Id is not null
            ? []
            : part.Fields.Where(field => IsCarriedByForm(field, line.Values)).Select(field => At(new(field, 1), line));

    private bool IsCarriedByForm(Field field, Value[] values) =>
        field.IsTyped && !values[field.Slot].IsEmpty && !field.Kind.IsSecret && Viewer.LevelAt(field) == AccessLevel.Write;

    /// <summary>True where people fold sections: on records, not outside nor in previews.</summary>
    public bool MayFold => Viewer.Form is null && !IsPreview;

    /// <summary>True when only the heading of a section is shown: never of one with something to look at.</summary>
    public bool IsFolded(LayoutSection section) =>
        section.IsFolded
        && MayFold
        && Troubles([section]) == 0
        && !section.Places.Any(place =>
            place.Field.Part.IsLines && Messages.Any(group => group.Key.StartsWith(place.Field.Part.Code + ".", StringComparison.Ordinal))
        );

    /// <summary>How many messages and clashes stand on a page, for its tab.</summary>
    public int Troubles(LayoutPage page) => Troubles(page.Sections);

    private int Troubles(IEnumerable<LayoutSection> sections)
    {
        var fields = sections.SelectMany(section => section.Places).Select(place => place.Field).ToHashSet();
        return fields
            .Where(field => !field.Part.IsLines)
            .Select(field => new FieldAddress(field.Part, null, field).ToString())
            .Count(name => Messages[name].Any() || Clashes.ContainsKey(name));
    }
}
