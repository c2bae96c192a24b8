using Pelto.Core.Access;
using Pelto.Core.Fills;
using Pelto.Core.Layouts;

namespace Pelto.Core.Records;

/// <summary>What became of a record after changes, fills and checks.</summary>
/// <param name="State">The record.</param>
/// <param name="Messages">What keeps it from being saved; all of it at once.</param>
/// <param name="Clashes">Where somebody else changed the same thing meanwhile.</param>
public sealed record Outcome(RecordState State, IReadOnlyList<Message> Messages, IReadOnlyList<Clash> Clashes)
{
    /// <summary>True when it can be saved.</summary>
    public bool IsGood => Messages.Count == 0 && Clashes.Count == 0;
}

/// <summary>The one way that values take, from any entry to any save: apply, fill in order, check.</summary>
public static class Pipeline
{
    /// <summary>A new record with its defaults.</summary>
    public static RecordState Fresh(RecordType type, DateOnly today)
    {
        var state = new RecordState(type);
        foreach (var field in type.Header.Fields)
            state.Header[field.Slot] = field.StartsWith(today);
        Fill(state);
        return state;
    }

    /// <summary>A new line with its defaults.</summary>
    public static LineState FreshLine(Part part, string key, DateOnly today)
    {
        var values = new Value[part.Fields.Count];
        foreach (var field in part.Fields)
            values[field.Slot] = field.StartsWith(today);
        return new(key, null, values);
    }

    /// <summary>
    /// How many lines one record has at most, of each kind of lines: more than people look through, and as many as are saved in a moment.
    /// </summary>
    public const int MaxLines = 2000;

    /// <summary>What is said of more.</summary>
    public static string TooManyLines(Part part, int count, Locale? locale = null) =>
        $"{Numbers.Format(count, locale: locale)} {part.Plural.ToLowerInvariant()} are more than one of the "
        + $"{part.RecordType.Plural.ToLowerInvariant()} holds: {Numbers.Format(MaxLines, locale: locale)} at most.";

    /// <summary>Runs changes through: what is not good comes back as messages and clashes, never as an exception.</summary>
    /// <param name="current">The record as it is now; left as it is.</param>
    /// <param name="changes">What the viewer wants.</param>
    /// <param name="viewer">Who wants it.</param>
    /// <param name="today">The day, for defaults.</param>
    /// <param name="isDemanded">
    /// Says for a required field whether this save must fill it: a form drawn before a release is not held to what it could not show.
    /// </param>
    public static Outcome Run(
        RecordState current,
        RecordChanges changes,
        Viewer viewer,
        DateOnly today,
        Func<Field, bool>? isDemanded = null
    )
    {
        var state = current.Copy();
        state.Scratch = changes.Scratch;
        var access = AccessTo(current, viewer);
        var merging = new Merging(state, changes, access, today);
        merging.Apply();
        if (viewer.Form is null)
            Copying.Run(state, changes, access);

        // Somebody outside is shown nothing that comes from other records: what is carried over is filled in by whoever accepts.
        new Filling(state, current, changes, viewer.Name).Run(viewer.Form is null ? static _ => true : static field => field.IsComputed);
        var refused = merging.Messages.Select(message => message.At.ToString()).ToHashSet(StringComparer.Ordinal);
        // Nobody is asked for what they may not write in a record on file.
        isDemanded ??= static _ => true;
        if (state.Id is not null && viewer.Form is null && isDemanded is var asked)
            isDemanded = field => asked(field) && (!field.IsTyped || viewer.AccessAt(state.Type).For(field).OnFile == AccessLevel.Write);
        var onScreen = changes.IsFromScreen
            ? ScreenRules.Check(state.Type.Screens.For(viewer, state).Layout, changes, current, state, isDemanded)
            : [];
        if (
            state.Id is null
            && viewer.Form is null
            && viewer.AccessAt(state.Type).For(state.Type).Create is { IsConditional: true } create
            && !create.Holds(RecordAccess.FrameOf(state, null, viewer))
        )
            merging.Messages.Add(
                new(new(state.Type.Header, null, null), $"You may not create {state.Type.Plural.ToLowerInvariant()} such as this one.")
            );
        merging.Messages.AddRange(
            state
                .Type.LineParts.Where(part => state.LinesOf(part).Count > MaxLines)
                .Select(part => new Message(new(part, null, null), TooManyLines(part, state.LinesOf(part).Count, viewer.Locale)))
        );
        var told = new Refusals(viewer, access.Tried(current, state, changes), changes);
        var messages = merging
            .Messages.Concat(DocumentRules.Check(current, state))
            .Concat(Check(state, isDemanded, told).Concat(onScreen).Where(message => !refused.Contains(message.At.ToString())));
        return new(state, [.. messages], merging.Clashes);
    }

    /// <summary>
    /// What somebody may do with a record that was read whole; what conditions ask of its live values is calculated for that.
    /// </summary>
    public static RecordAccess AccessTo(RecordState current, Viewer viewer)
    {
        if (viewer.Form is not null || !viewer.AccessAt(current.Type).IsConditional(current.Type))
            return RecordAccess.To(current, viewer);
        var whole = current.Copy();
        FillLive(whole);
        return RecordAccess.To(whole, viewer);
    }

    /// <summary>Fills what is filled by itself, each after what it reads.</summary>
    public static void Fill(RecordState state) => new Filling(state).Run(static _ => true);

    /// <summary>
    /// Computes what is calculated whenever it is read; what is stored stays as it is, but what would fill it is asked for.
    /// </summary>
    public static void FillLive(RecordState state)
    {
        var filling = new Filling(state);
        filling.Run(static field => field.IsLive);
        filling.Look();
    }

    // All that is wrong, all at once, each at its field.
    private static IEnumerable<Message> Check(RecordState state, Func<Field, bool> isDemanded, Refusals told)
    {
        // What is still asked beside is not missing yet: no save could ever come to the answer otherwise.
        Func<Field, bool> Demanded(Dictionary<Field, Origin> origins) =>
            field => isDemanded(field) && origins.GetValueOrDefault(field)?.IsAwaited != true;
        var frame = state.FrameAt(null);
        foreach (var field in state.Type.Header.Fields)
        foreach (var sentence in Wrongs(field, null, state.Header[field.Slot], frame, Demanded(state.Origins), told))
            yield return new(new(field.Part, null, field), sentence);
        foreach (var part in state.Type.LineParts)
        {
            foreach (var line in state.LinesOf(part))
            {
                var at = frame with { Line = line.Values };
                foreach (var field in part.Fields)
                foreach (var sentence in Wrongs(field, line.Key, line.Values[field.Slot], at, Demanded(line.Origins), told))
                    yield return new(new(part, line.Key, field), sentence);
            }
        }
    }

    private static IEnumerable<string> Wrongs(
        Field field,
        string? line,
        Value value,
        Formulas.Frame frame,
        Func<Field, bool> isDemanded,
        Refusals told
    )
    {
        // What cannot be calculated is shown as such; only the ERP's own sums are held to, since nobody at work could mend an added
        // formula.
        if (value.IsError)
            return field.IsAdded ? [] : [told.Sees(field, line) ? value.Reason : "Something that follows from this cannot be calculated."];

        // What they neither see nor entered came from elsewhere, where it was good: to find fault with it would tell of it.
        if (!value.IsEmpty)
            return !told.Sees(field, line) ? []
                : field.Kind.Refuse(value) is { } refusal ? [refusal]
                : field.Rules.Refusals(field, value, frame, condition => told.For(field, line, condition));
        if (
            !field.IsTyped
            || !isDemanded(field)
            || !(field.Rules.ShownWhen is not { } shown || !told.For(field, line, shown) || field.Rules.IsShown(frame))
        )
            return [];
        if (field.Required)
            return [$"{field.Label} is required."];
        return
            field.Rules.RequiredWhen is { } condition
            && told.For(field, line, condition)
            && condition.Evaluate(frame) is { DataType: DataType.YesNo, Yes: true }
            ? [$"{field.Label} is required here."]
            : [];
    }

    // Which rules are asked of this person: those of which they may know what they read.
    private sealed record Refusals(Viewer Viewer, RecordAccess Access, RecordChanges Changes)
    {
        public bool Sees(Field field, string? line) =>
            Viewer.Form is not null || Changes.Entered(field, line) is not null || Access.IsShown(field, line);

        public bool For(Field field, string? line, Formulas.Formula condition) =>
            Viewer.MayBeTold(field, condition, read => Sees(read, read.Part == field.Part ? line : null));
    }
}
