using System.Text.Json.Nodes;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data.Records;

namespace Pelto.Web.Components;

/// <summary>All that the form of a record shows.</summary>
public sealed class RecordForm
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
    public int Wrong => Messages.Sum(group => group.Count()) + Notes.Count;

    /// <summary>The same in words.</summary>
    public static string WrongInWords(int wrong) => wrong == 1 ? "One thing needs a look." : $"{wrong} things need a look.";

    /// <summary>The field to be marked as not live yet, in a preview.</summary>
    public string? DraftField { get; init; }

    /// <summary>True when inputs are shown but cannot be used.</summary>
    public bool IsPreview { get; init; }

    /// <summary>What people call the fields of which what was typed would be lost on saving.</summary>
    public IEnumerable<string> LostOnSaving => KeptFields.Where(off => Kept.GetValueOrDefault(new Spot(off.Part, null, off).ToString()) is { } text && text != off.Kind.Input(OnFile.Header[off.Slot], Viewer.Locale)).Select(off => off.TextIn(Viewer.Locale).Label);

    /// <summary>The web address that a button opens; empty where its formula gives none that is one.</summary>
    public string AddressOf(LayoutExtra button) =>
        Type.Screens.FormulaOf(button.Made) is { } formula && Viewer.MayKnow(formula) && formula.Evaluate(State.FrameAt(null)) is { Type: ValueForm.Text } value && Uri.TryCreate(value.Text, UriKind.Absolute, out var address) && address.Scheme is "http" or "https" ? address.ToString() : "";

    /// <summary>
    /// What stands in a scratch field: as typed, or worked out; an error where it cannot be, and empty where the person may not know what
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
    public Layout Layout => layout ??= Viewer.Form?.Layout ?? Visible(Screen.Layout);

    private Layout? layout;

    // What this person may not even know of is not on the screen, nor a section or page with nothing else on it.
    private Layout Visible(Layout whole)
    {
        if (whole.Places.All(IsThere)) return whole;
        return whole with
        {
            Pages = [.. from page in whole.Pages
                        let sections = (IReadOnlyList<LayoutSection>)[.. page.Sections.Select(section => section with { Items = [.. section.Items.Where(item => item is not LayoutPlace place || IsThere(place))] }).Where(section => section.Pointing is not null || section.Items.Count > 0)]
                        where sections.Count > 0 || page.Sections.Count == 0
                        select page with { Sections = sections }],
        };
    }

    private bool IsThere(LayoutPlace place) => !place.Field.Part.IsLines ? Viewer.LevelAt(place.Field, State, null) > AccessLevel.None
        : Viewer.LevelAt(place.Field) > AccessLevel.None && (State.LinesOf(place.Field.Part) is not { Count: > 0 } lines || lines.Exists(line => Viewer.LevelAt(place.Field, State, line) > AccessLevel.None));

    /// <summary>The screen that this person gets of this record, with who decided what of it.</summary>
    public Resolved Screen => Shown ?? (screen ??= Type.Screens.For(Viewer, State));

    /// <summary>Another screen than that of the person who looks: of a draft, or of somebody else.</summary>
    public Resolved? Shown { get; init; }

    private Resolved? screen;

    /// <summary>
    /// What somebody typed in fields that a condition has taken off the screen meanwhile, by the input's name: it is not saved, and comes
    /// back with them.
    /// </summary>
    public IReadOnlyDictionary<string, string> Kept { get; init; } = new Dictionary<string, string>();

    /// <summary>The fields of which that is so.</summary>
    public IReadOnlyList<Field> KeptFields { get; init; } = [];

    /// <summary>What points to the record, where such lists stand on its screen.</summary>
    public IReadOnlyList<Pointing> Pointing { get; init; } = [];

    /// <summary>For a new record that an entry from outside begins: the entry.</summary>
    public Guid? Entry { get; init; }

    /// <summary>True when this person may change it.</summary>
    public bool IsWritable => (OnFile.Id is null ? Viewer.MayCreate(Type) : Viewer.MayChange(Type)) && !IsPreview && Type.Parts.SelectMany(part => part.Fields).Any(typed => DocumentRules.MayType(OnFile, typed) && (OnFile.Access is null || MayWrite(typed)));

    private bool MayWrite(Field field) => field.Part.IsLines ? MayChangeThem || OnFile.LinesOf(field.Part).Exists(line => Viewer.LevelAt(field, OnFile, line) == AccessLevel.Write) : Viewer.LevelAt(field, OnFile, null) == AccessLevel.Write;

    private bool MayChangeThem => OnFile.Access?.MayChange ?? (OnFile.Id is null || Viewer.StandingAt(Type).Of(Type).Change.IsPossible);

    /// <summary>True when this person may add, move and remove lines.</summary>
    public bool MayChangeLines => IsWritable && MayChangeThem && !OnFile.IsLocked;

    /// <summary>What is entered and stands on no place of the screen, such as what a document took over from the one before.</summary>
    public IEnumerable<FieldView> Hidden(Part part, LineState? line)
    {
        if (!IsWritable || (line is null ? State.Id : line.Id) is not null) yield break;
        var shown = Layout.Sections.Where(section => section.Holds(part)).SelectMany(section => section.Places).Select(place => place.Field).ToHashSet();
        var values = line?.Values ?? State.Header;
        foreach (var field in part.Fields.Where(field => field.IsTyped && !shown.Contains(field) && !values[field.Slot].IsEmpty && !field.Kind.IsSecret && Viewer.LevelAt(field) == AccessLevel.Write)) yield return At(new(field, 1), line);
    }

    /// <summary>One field at its place, ready to be drawn.</summary>
    public FieldView At(LayoutPlace place, LineState? line)
    {
        var field = place.Field;
        var spot = new Spot(field.Part, line?.Key, field).ToString();
        var name = place.IsAgain ? $"{place.Id}~{spot}" : spot;
        var value = (line?.Values ?? State.Header)[field.Slot];
        var target = TargetOf(field, value);
        var level = Viewer.LevelAt(field, OnFile.Access is null || (line is not null && line.Id is null) ? State : OnFile, line);
        var clash = Clashes.GetValueOrDefault(name);
        return new()
        {
            Cell = Cell.Given(field, value, level, State.Access?.EndingAt(field, line?.Key)),
            Name = name,
            Of = spot,
            Place = place,
            Width = place.Width,
            Locale = Viewer.Locale,
            Record = State.Id,
            LineId = line?.Id,
            Text = Texts.TryGetValue(spot, out var typed) ? typed : field.Kind.Input(value, Viewer.Locale),
            Unit = Texts.TryGetValue(name + FormReader.UnitText, out var unit) ? unit : value.Type is ValueForm.Money or ValueForm.Quantity ? value.Unit : "",
            LinkText = Texts.TryGetValue(name + FormReader.LinkText, out var written) ? written : field.Kind.IsOneChoice ? field.Kind.Format(value, Viewer.Locale) : TextOf(target, line),
            Target = target,
            Targets = field.Kind.IsSeveralLinks ? [.. (Texts.TryGetValue(name, out var chosen) ? field.Kind.Parse(chosen).Value : value).Targets.Select(id => Targets.GetValueOrDefault((field.Target!.Code, id)) ?? new(id, "", "not yours to see"))] : [],
            IsOutside = Viewer.Form is not null,
            MayMake = Viewer.Form is null && field.Target is { } kind && Viewer.MayCreate(kind),
            IsNeeded = IsWritable && level == AccessLevel.Write && (field.Required || place.IsRequired) && field.IsTyped && DocumentRules.MayType(OnFile, field),
            IsWritable = IsWritable && level == AccessLevel.Write && DocumentRules.MayType(OnFile, field) && !place.IsLocked && !(place.IsAgain && (field.Kind.IsSeveral || field.Kind.IsFormatted || field.Kind.StaysWithRecord)),
            Messages = [.. Messages[name]],
            Clash = clash,
            IsOnlyBySaving = OnlyBySaving.Contains(name),
            TheirText = clash is null ? "" : field.Kind.IsSeveralLinks ? string.Join("; ", clash.Theirs.Targets.Select(id => Targets.GetValueOrDefault((field.Target!.Code, id))?.Text)) : field.Kind.IsOneLink ? TextOf(TargetOf(field, clash.Theirs), line) : field.Kind.Format(clash.Theirs, Viewer.Locale),
            IsDraft = field.Id == DraftField,
            IsInLine = line is not null,
            IsShown = IsShown(field, line),
            Filled = place.IsAgain || level < AccessLevel.Read ? null : FilledNote.Of(this, field, line),
            Tab = TabOf(place),
            By = Texts.GetValueOrDefault(name + FormReader.ByText) ?? (field.IsChangeable && (line is null ? State.Id : line.Id) is null && (line?.Origins ?? State.Origins).GetValueOrDefault(field) is { IsTyped: true } ? FormReader.ByHand : ""),
        };
    }

    /// <summary>
    /// True when a column of lines stands there: where a condition decides, for as long as it holds on a line, or would on a new one where
    /// there are none.
    /// </summary>
    /// <param name="column">The column.</param>
    /// <param name="blank">A new line.</param>
    public bool ShowsColumn(Field column, LineState blank)
    {
        if (column.Rules.ShownWhen is null) return true;
        if (!columns.TryGetValue(column, out var isShown)) columns[column] = isShown = (State.LinesOf(column.Part) is { Count: > 0 } lines ? lines : [blank]).Any(line => IsShown(column, line));
        return isShown;
    }

    // Where Tab comes to a place, where a layer says so: its turn, or that Tab passes by.
    private string? TabOf(LayoutPlace place)
    {
        if (Viewer.Form is not null || ReferenceEquals(Layout.Tabs, TabOrder.AsRead)) return null;
        if (Layout.Tabs.Skipped.Contains(place.Id)) return "skip";
        turns ??= Layout.Tabs.StopsOf(Layout).Select((id, turn) => (id, turn)).ToDictionary(pair => pair.id, pair => pair.turn, StringComparer.Ordinal);
        return turns.TryGetValue(place.Id, out var at) ? at.ToString(System.Globalization.CultureInfo.InvariantCulture) : null;
    }

    private Dictionary<string, int>? turns;

    // Asked once for each column, however many lines there are.
    private readonly Dictionary<Field, bool> columns = [];

    // What is wrong there is shown in any case.
    private bool IsShown(Field field, LineState? line) =>
        field.Rules.ShownWhen is null || new Spot(field.Part, line?.Key, field).ToString() is var name && (Messages[name].Any() || Clashes.ContainsKey(name)) || Viewer.IsShown(field, State.FrameAt(line));

    // A line is narrow, and the target's name mostly stands beside it already: there, links show what identifies the target.
    private static string TextOf(Target? target, LineState? line) => (line is null ? target?.Text : target?.Identifier) ?? "";

    private Target? TargetOf(Field field, Value value) =>
        value.Type == ValueForm.Link && field.Target is not null ? Targets.GetValueOrDefault((field.Target.Code, value.Target)) : null;

    /// <summary>A line that nobody has touched yet, for the browser to copy when one is added.</summary>
    public static LineState Blank(Part part, DateOnly today) => Pipeline.FreshLine(part, "__key__", today);

    // So many inputs of lines are drawn at once that the page opens quickly, and more than anybody sees without scrolling.
    private const int MostInputs = 450;

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
        var name = new Spot(section.Lines!, line.Key, null).ToString();
        return Viewer.Form is null && (Asleep?.Contains(name) ?? at * section.Items.Count >= MostInputs) && !Troubled.Contains(name);
    }

    private HashSet<string> Troubled => troubled ??= Messages.Select(group => group.Key).Concat(Clashes.Keys).Select(name => name[..Math.Max(0, name.LastIndexOf('.'))]).ToHashSet(StringComparer.Ordinal);

    private HashSet<string>? troubled;

    /// <summary>What a line that is not on file yet holds while its inputs are not drawn.</summary>
    public IEnumerable<FieldView> Carried(Part part, LineState line) => !IsWritable || line.Id is not null ? [] :
        part.Fields.Where(field => field.IsTyped && !line.Values[field.Slot].IsEmpty && !field.Kind.IsSecret && Viewer.LevelAt(field) == AccessLevel.Write).Select(field => At(new(field, 1), line));

    /// <summary>True where people fold sections: on records, not outside nor in previews.</summary>
    public bool MayFold => Viewer.Form is null && !IsPreview;

    /// <summary>True when only the heading of a section is shown: never of one with something to look at.</summary>
    public bool IsFolded(LayoutSection section) => section.IsFolded && MayFold && Troubles([section]) == 0 && !section.Places.Any(place => place.Field.Part.IsLines && Messages.Any(group => group.Key.StartsWith(place.Field.Part.Code + ".", StringComparison.Ordinal)));

    /// <summary>How many messages and clashes stand on a page, for its tab.</summary>
    public int Troubles(LayoutPage page) => Troubles(page.Sections);

    private int Troubles(IEnumerable<LayoutSection> sections)
    {
        var fields = sections.SelectMany(section => section.Places).Select(place => place.Field).ToHashSet();
        return fields.Where(field => !field.Part.IsLines).Select(field => new Spot(field.Part, null, field).ToString()).Count(name => Messages[name].Any() || Clashes.ContainsKey(name));
    }
}

/// <summary>Puts forms together.</summary>
public sealed class RecordForms(RecordLists lists, Pointers pointers, CurrentRequest request)
{
    /// <summary>The form of a record as it is on file, or of a new one that something is filled in already.</summary>
    /// <param name="state">The record.</param>
    /// <param name="fresh">For a new one that is filled in: a new one that is not.</param>
    /// <param name="entry">The entry from outside that fills it in.</param>
    public async Task<RecordForm> OfAsync(RecordState state, RecordState? fresh = null, Guid? entry = null) => new()
    {
        Entry = entry,
        Release = request.Catalogue.Release,
        State = state,
        OnFile = fresh ?? state,
        Opened = RecordJson.Write(fresh ?? state, request.Viewer),
        Viewer = request.Viewer,
        Targets = await TargetsAsync([state], []),
        Pointing = await PointingAsync(state),
    };

    /// <summary>A record as the form holds it while somebody types, to look up what stands in it.</summary>
    public async Task<RecordForm> WhileTypingAsync(RecordState current, RecordState state, PostedForm posted) => new() { Release = request.Catalogue.Release, State = state, OnFile = current, Opened = [], Viewer = request.Viewer, Targets = await TargetsAsync([state], []), Texts = Flags(posted) };

    /// <summary>Records as they would be shown, for nobody to type in.</summary>
    public async Task<IReadOnlyList<RecordForm>> ReadOnlyAsync(IReadOnlyList<RecordState> states)
    {
        var targets = await TargetsAsync(states, []);
        return [.. states.Select(state => new RecordForm { Release = request.Catalogue.Release, State = state, OnFile = state, Opened = [], Viewer = request.Viewer, Targets = targets, IsPreview = true })];
    }

    /// <summary>The form of a record as somebody else gets it, for nobody to type in.</summary>
    /// <param name="state">The record, read for that person.</param>
    /// <param name="viewer">That person.</param>
    public async Task<RecordForm> SeenByAsync(RecordState state, Viewer viewer) =>
        new() { Release = request.Catalogue.Release, State = state, OnFile = state, Opened = [], Viewer = viewer, Targets = await TargetsAsync([state], [], viewer) };

    /// <summary>The form of a record with what somebody entered, and what is wrong with it.</summary>
    /// <param name="current">The record as it is on file, or a new one.</param>
    /// <param name="outcome">What the pipeline made of it.</param>
    /// <param name="posted">The form that was sent.</param>
    /// <param name="isJudged">
    /// True to show all that is wrong; false when the person has not asked to save, who is told of what they typed only.
    /// </param>
    /// <param name="note">What keeps it from being taken, whatever it says.</param>
    /// <param name="off">Fields that a condition has taken off the screen while they were typed in.</param>
    public async Task<RecordForm> OfAsync(RecordState current, Outcome outcome, PostedForm posted, bool isJudged, string? note = null, IReadOnlyList<Field>? off = null)
    {
        var told = Told(outcome, posted, isJudged).ToList();
        return new()
        {
            IsJudged = isJudged,
            Asleep = posted.Asleep,
            OnlyBySaving = told.Where(message => message.IsOnlyBySaving).Select(message => message.At.ToString()).ToHashSet(),
            Entry = posted.Changes.Entry,
            KeptFields = off ?? [],
            Scratch = posted.Texts.Where(text => text.Key.StartsWith(FormReader.ScratchPrefix, StringComparison.Ordinal)).ToDictionary(),
            Kept = off is not { Count: > 0 } ? new Dictionary<string, string>() : posted.Texts.Where(text => off.Any(field => new Spot(field.Part, null, field).ToString() is var name && (text.Key == name || text.Key.StartsWith(name + ".", StringComparison.Ordinal)))).ToDictionary(),
            Release = request.Catalogue.Release,
            State = outcome.State,
            OnFile = current,
            Opened = RecordJson.Write(current, request.Viewer),
            Viewer = request.Viewer,
            Targets = await TargetsAsync([outcome.State, current], Entered(posted).Where(entered => entered.Spot.Field!.Kind.IsSeveralLinks).Select(entered => (entered.Spot.Field!, entered.Spot.Field!.Kind.Parse(posted.Texts.GetValueOrDefault(entered.Spot.ToString())).Value))),
            Pointing = await PointingAsync(current),

            Texts = Unread(posted).Concat(Flags(posted)).ToDictionary(),
            Messages = told.ToLookup(message => message.At.ToString(), message => message.Sentence),
            Clashes = outcome.Clashes.Where(clash => clash.At.Field is not null).ToDictionary(clash => clash.At.ToString()),
            Notes = [.. note is null ? [] : new[] { note }, .. outcome.Clashes.Select(clash => clash.Sentence).OfType<string>(), .. outcome.Messages.Where(message => message.At.Field is null).Select(message => message.Sentence)],
        };
    }

    /// <summary>
    /// What is said at the fields: all of it once somebody asked to save, and before that only of what was typed, since "is needed" under
    /// an empty input would be nagging.
    /// </summary>
    /// <param name="outcome">What the pipeline made of it.</param>
    /// <param name="posted">The form that was sent.</param>
    /// <param name="isJudged">True when somebody asked to save.</param>
    public static IEnumerable<Message> Told(Outcome outcome, PostedForm posted, bool isJudged) =>
        outcome.Messages.Where(message => message.At.Field is { } field
            && (isJudged || posted.Changes.Entered(field, message.At.Line) is { Refusal: not null } or { Value.IsEmpty: false }));

    // Counted with the form only where a list stands on it.
    private async Task<IReadOnlyList<Pointing>> PointingAsync(RecordState state) =>
        state.Id is { } id && state.Type.Screens.For(request.Viewer, state).Layout.Sections.Any(section => section.Pointing is not null) ? await pointers.ReadAsync(request.Catalogue, state.Type, id, request.Viewer) : [];

    // What was typed by hand, and what is to be filled again.
    private static Dictionary<string, string> Flags(PostedForm posted) => posted.Texts.Where(text => text.Key.EndsWith(FormReader.ByText, StringComparison.Ordinal)).ToDictionary();

    // What could be read is written by its kind; what could not is given back as typed.
    private static Dictionary<string, string> Unread(PostedForm posted)
    {
        var texts = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (spot, entered) in Entered(posted))
        {
            if (entered.Refusal is null) continue;
            var name = spot.ToString();
            foreach (var key in new[] { name, name + FormReader.LinkText, name + FormReader.UnitText })
                if (posted.Texts.TryGetValue(key, out var text)) texts[key] = text;
        }

        return texts;
    }

    private static IEnumerable<(Spot Spot, Parsed Entered)> Entered(PostedForm posted) =>
        posted.Changes.Header.Select(pair => (new Spot(pair.Key.Part, null, pair.Key), pair.Value))
            .Concat(posted.Changes.Lines.SelectMany(part => part.Value.SelectMany(line => line.Values.Select(pair => (new Spot(part.Key, line.Key, pair.Key), pair.Value)))));

    // Of several links that were refused, what was chosen is shown all the same.
    private async Task<IReadOnlyDictionary<(string Type, long Id), Target>> TargetsAsync(IEnumerable<RecordState> states, IEnumerable<(Field Field, Value Value)> entered, Viewer? viewer = null)
    {
        viewer ??= request.Viewer;
        var wanted = states.SelectMany(state => state.Type.Header.Fields.Select(field => (field, value: state.Header[field.Slot]))
                .Concat(state.Type.LineParts.SelectMany(part => state.LinesOf(part).SelectMany(line => part.Fields.Select(field => (field, value: line.Values[field.Slot]))))))
            .Concat(entered.Select(pair => (field: pair.Field, value: pair.Value))).Where(pair => pair.value.Targets.Count > 0 && pair.field.Target is not null);
        var found = new Dictionary<(string Type, long Id), Target>();

        // Outside, each link has its own that were released.
        foreach (var group in wanted.GroupBy(pair => viewer.Form is null ? (pair.field.Target!, null) : (pair.field.Target!, (Field?)pair.field)))
        {
            var (type, link) = group.Key;
            long[] ids = [.. group.SelectMany(pair => pair.value.Targets).Distinct()];
            foreach (var target in (link is null ? await lists.TargetsAsync(type, ids, viewer) : await lists.ReleasedAsync(link, ids, viewer)).Values)
                found[(type.Code, target.Id)] = target;
        }

        return found;
    }
}
