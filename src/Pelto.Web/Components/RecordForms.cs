using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>Puts forms together.</summary>
public sealed class RecordForms(RecordLists lists, Pointers pointers, CurrentRequest request)
{
    /// <summary>The form of a record as it is on file, or of a new one that something is filled in already.</summary>
    /// <param name="state">The record.</param>
    /// <param name="fresh">For a new one that is filled in: a new one that is not.</param>
    /// <param name="entry">The entry from outside that fills it in.</param>
    public async Task<RecordForm> OfAsync(RecordState state, RecordState? fresh = null, Guid? entry = null) =>
        new()
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
    public async Task<RecordForm> WhileTypingAsync(RecordState current, RecordState state, PostedForm posted) =>
        new()
        {
            Release = request.Catalogue.Release,
            State = state,
            OnFile = current,
            Opened = [],
            Viewer = request.Viewer,
            Targets = await TargetsAsync([state], []),
            Texts = Flags(posted),
        };

    /// <summary>Records as they would be shown, for nobody to type in.</summary>
    public async Task<IReadOnlyList<RecordForm>> ReadOnlyAsync(IReadOnlyList<RecordState> states)
    {
        var targets = await TargetsAsync(states, []);
        return [.. states.Select(state => AsItIs(state, request.Viewer, targets) with { IsPreview = true })];
    }

    /// <summary>A record as it would be shown, for nobody to type in.</summary>
    /// <param name="state">The record.</param>
    /// <param name="draftField">The field to be marked as not live yet.</param>
    public async Task<RecordForm> PreviewAsync(RecordState state, string draftField) =>
        await AsItIsAsync(state, request.Viewer) with
        {
            DraftField = draftField,
            IsPreview = true,
        };

    /// <summary>The form of a record on a screen that is being arranged.</summary>
    /// <param name="state">The record.</param>
    /// <param name="screen">The screen.</param>
    /// <param name="lineCounts">How many lines it has, part by part, where not all of them are shown.</param>
    public async Task<RecordForm> ArrangedAsync(RecordState state, Resolved screen, IReadOnlyList<int>? lineCounts) =>
        await AsItIsAsync(state, request.Viewer) with
        {
            LineCounts = lineCounts,
            Shown = screen,
        };

    /// <summary>The form of a record as somebody else gets it, for nobody to type in.</summary>
    /// <param name="state">The record, read for that person.</param>
    /// <param name="viewer">That person.</param>
    public Task<RecordForm> VisibleToAsync(RecordState state, Viewer viewer) => AsItIsAsync(state, viewer);

    private async Task<RecordForm> AsItIsAsync(RecordState state, Viewer viewer) =>
        AsItIs(state, viewer, await TargetsAsync([state], [], viewer));

    private RecordForm AsItIs(RecordState state, Viewer viewer, IReadOnlyDictionary<(string Type, long Id), Target> targets) =>
        new()
        {
            Release = request.Catalogue.Release,
            State = state,
            OnFile = state,
            Opened = [],
            Viewer = viewer,
            Targets = targets,
        };

    /// <summary>The form of a record with what somebody entered, and what is wrong with it.</summary>
    /// <param name="current">The record as it is on file, or a new one.</param>
    /// <param name="outcome">What the pipeline made of it.</param>
    /// <param name="posted">The form that was sent.</param>
    /// <param name="isJudged">
    /// True to show all that is wrong; false when the person has not asked to save, who is told of what they typed only.
    /// </param>
    /// <param name="note">What keeps it from being taken, whatever it says.</param>
    /// <param name="off">Fields that a condition has taken off the screen while they were typed in.</param>
    public async Task<RecordForm> OfAsync(
        RecordState current,
        Outcome outcome,
        PostedForm posted,
        bool isJudged,
        string? note = null,
        IReadOnlyList<Field>? off = null
    )
    {
        var told = Told(outcome, posted, isJudged).ToList();
        return new()
        {
            IsJudged = isJudged,
            Asleep = posted.Asleep,
            OnlyBySaving = told.Where(message => message.IsOnlyBySaving).Select(message => message.At.ToString()).ToHashSet(),
            Entry = posted.Changes.Entry,
            SetAsideFields = off ?? [],
            Scratch = posted.Texts.Where(text => text.Key.StartsWith(FormReader.ScratchPrefix, StringComparison.Ordinal)).ToDictionary(),
            SetAside = posted.Texts.Where(text => off?.Any(field => IsOf(field, text.Key)) == true).ToDictionary(),
            Release = request.Catalogue.Release,
            State = outcome.State,
            OnFile = current,
            Opened = RecordJson.Write(current, request.Viewer),
            Viewer = request.Viewer,
            Targets = await TargetsAsync([outcome.State, current], Chosen(posted)),
            Pointing = await PointingAsync(current),
            Texts = Unread(posted).Concat(Flags(posted)).ToDictionary(),
            Messages = told.ToLookup(message => message.At.ToString(), message => message.Sentence),
            Clashes = outcome.Clashes.Where(clash => clash.At.Field is not null).ToDictionary(clash => clash.At.ToString()),
            Notes =
            [
                .. note is null ? [] : new[] { note },
                .. outcome.Clashes.Select(clash => clash.Sentence).OfType<string>(),
                .. outcome.Messages.Where(message => message.At.Field is null).Select(message => message.Sentence),
            ],
        };
    }

    // An input of a field, or one that stands beside it, such as that of its unit.
    private static bool IsOf(Field field, string input)
    {
        var name = new FieldAddress(field.Part, null, field).ToString();
        return input == name || input.StartsWith(name + ".", StringComparison.Ordinal);
    }

    // Of several links that were refused, what was chosen is shown all the same.
    private static IEnumerable<(Field Field, Value Value)> Chosen(PostedForm posted) =>
        from entered in Entered(posted)
        let field = entered.Address.Field!
        where field.Kind.IsSeveralLinks
        select (field, field.Kind.Parse(posted.Texts.GetValueOrDefault(entered.Address.ToString())).Value);

    /// <summary>
    /// What is said at the fields: all of it once somebody asked to save, and before that only of what was typed, since "is needed" under
    /// an empty input would be nagging.
    /// </summary>
    /// <param name="outcome">What the pipeline made of it.</param>
    /// <param name="posted">The form that was sent.</param>
    /// <param name="isJudged">True when somebody asked to save.</param>
    public static IEnumerable<Message> Told(Outcome outcome, PostedForm posted, bool isJudged) =>
        outcome.Messages.Where(message =>
            message.At.Field is { } field
            && (isJudged || posted.Changes.Entered(field, message.At.Line) is { Refusal: not null } or { Value.IsEmpty: false })
        );

    // Counted with the form only where a list stands on it.
    private async Task<IReadOnlyList<Pointing>> PointingAsync(RecordState state)
    {
        if (state.Id is not { } id)
            return [];
        var layout = state.Type.Screens.For(request.Viewer, state).Layout;
        return layout.Sections.All(section => section.Pointing is null)
            ? []
            : await pointers.ReadAsync(request.Catalogue, state.Type, id, request.Viewer);
    }

    // What was typed by hand, and what is to be filled again.
    private static Dictionary<string, string> Flags(PostedForm posted) =>
        posted.Texts.Where(text => text.Key.EndsWith(FormReader.ByText, StringComparison.Ordinal)).ToDictionary();

    // What could be read is written by its kind; what could not is given back as typed.
    private static Dictionary<string, string> Unread(PostedForm posted)
    {
        var texts = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (address, entered) in Entered(posted))
        {
            if (entered.Refusal is null)
                continue;
            var name = address.ToString();
            foreach (var key in new[] { name, name + FormReader.LinkText, name + FormReader.UnitText })
                if (posted.Texts.TryGetValue(key, out var text))
                    texts[key] = text;
        }

        return texts;
    }

    private static IEnumerable<(FieldAddress Address, Parsed Entered)> Entered(PostedForm posted)
    {
        foreach (var (field, value) in posted.Changes.Header)
            yield return (new(field.Part, null, field), value);
        foreach (var (part, lines) in posted.Changes.Lines)
        foreach (var line in lines)
        foreach (var (field, value) in line.Values)
            yield return (new(part, line.Key, field), value);
    }

    private async Task<IReadOnlyDictionary<(string Type, long Id), Target>> TargetsAsync(
        IEnumerable<RecordState> states,
        IEnumerable<(Field Field, Value Value)> entered,
        Viewer? viewer = null
    )
    {
        viewer ??= request.Viewer;
        var wanted = states
            .SelectMany(ValuesOf)
            .Concat(entered)
            .Where(pair => pair.Value.Targets.Count > 0 && pair.Field.Target is not null);
        var found = new Dictionary<(string Type, long Id), Target>();

        // Outside, each link has its own that were released.
        foreach (
            var group in wanted.GroupBy(pair => viewer.Form is null ? (pair.Field.Target!, null) : (pair.Field.Target!, (Field?)pair.Field))
        )
        {
            var (type, link) = group.Key;
            long[] ids = [.. group.SelectMany(pair => pair.Value.Targets).Distinct()];
            var targets = link is null ? await lists.TargetsAsync(type, ids, viewer) : await lists.ReleasedAsync(link, ids, viewer);
            foreach (var target in targets.Values)
                found[(type.Code, target.Id)] = target;
        }

        return found;
    }

    private static IEnumerable<(Field Field, Value Value)> ValuesOf(RecordState state)
    {
        foreach (var field in state.Type.Header.Fields)
            yield return (field, state.Header[field.Slot]);
        foreach (var part in state.Type.LineParts)
        foreach (var line in state.LinesOf(part))
        foreach (var field in part.Fields)
            yield return (field, line.Values[field.Slot]);
    }
}
