using Pelto.Core.Formulas;

namespace Pelto.Core.Access;

/// <summary>What somebody may do with one record: where conditions decide, as they did when the record was read whole.</summary>
public sealed class RecordAccess : IRecordAccess
{
    private readonly Viewer viewer;
    private readonly Dictionary<(Field Field, string? Line), AccessLevel> decided = [];

    private readonly bool isNew;

    private RecordAccess(Viewer viewer, bool isNew) => (this.viewer, this.isNew) = (viewer, isNew);

    /// <summary>For whom.</summary>
    public Viewer Viewer => viewer;

    /// <inheritdoc/>
    public bool MayRead { get; private init; }

    /// <inheritdoc/>
    public bool MayChange { get; private init; }

    /// <inheritdoc/>
    public bool MayDelete { get; private init; }

    /// <summary>As it was decided when the record was read; decided now where nobody did.</summary>
    /// <inheritdoc cref="To"/>
    public static RecordAccess At(RecordState state, Viewer viewer) => state.Access as RecordAccess ?? To(state, viewer);

    /// <summary>Decides. Conditions are asked of the whole record, whoever looks.</summary>
    /// <param name="state">The record as it is on file, whole, with its live values; or a new one.</param>
    /// <param name="viewer">Who looks.</param>
    public static RecordAccess To(RecordState state, Viewer viewer)
    {
        var (type, isNew) = (state.Type, state.Id is null);
        if (viewer.Form is not null)
            return new(viewer, isNew) { MayRead = true, MayChange = true };
        var effective = viewer.AccessAt(type);
        var of = effective.For(type);
        var frame = FrameOf(state, null, viewer);

        // What a new record becomes is decided when it is saved.
        var access = new RecordAccess(viewer, isNew)
        {
            MayRead = isNew ? of.Read.IsPossible : of.Read.Holds(frame),
            MayChange = isNew ? of.Create.IsPossible : of.Change.Holds(frame),
            MayDelete = !isNew && of.Delete.Holds(frame),
        };
        foreach (var field in effective.ConditionalOf(type))
        {
            var at = effective.For(field);
            if (!field.Part.IsLines)
                access.decided[(field, null)] = Level(at, frame, isNew);
            else
                foreach (var line in state.LinesOf(field.Part))
                    access.decided[(field, line.Key)] = Level(at, frame with { Line = line.Values }, isNew);
        }

        access.Close(state);
        return access;
    }

    /// <summary>
    /// What may be done with a record as it was tried, and is not on file: what nobody types, and what was filled in, is shown only where
    /// conditions hold on it; what this person entered is theirs.
    /// </summary>
    /// <param name="current">The record as it is on file, whole; or a new one.</param>
    /// <param name="tried">The same with what was entered, whole.</param>
    /// <param name="changes">What was entered.</param>
    public RecordAccess Tried(RecordState current, RecordState tried, RecordChanges? changes)
    {
        if (viewer.Form is not null)
            return this;
        var access = new RecordAccess(viewer, isNew)
        {
            MayRead = MayRead,
            MayChange = MayChange,
            MayDelete = MayDelete,
        };
        foreach (var (key, level) in decided)
            access.decided[key] = level;

        // Of a record on file, its header decides as it is on file: otherwise one would only have to type what the condition wants.
        var effective = viewer.AccessAt(tried.Type);
        var frame = FrameOf(isNew ? tried : current, null, viewer);
        foreach (var field in effective.ConditionalOf(tried.Type))
        {
            if (!field.Part.IsLines && isNew)
                access.Decide(field, null, effective.For(field), frame, changes);
            else if (field.Part.IsLines)
                foreach (var line in tried.LinesOf(field.Part).Where(line => line.Id is null))
                    access.Decide(field, line, effective.For(field), frame with { Line = line.Values }, changes);
        }

        access.Close(tried);
        return access;
    }

    private void Decide(Field field, LineState? line, FieldAccess at, Frame frame, RecordChanges? changes)
    {
        if (at.Read.Holds(frame))
            return;
        if (!field.IsTyped)
            decided[(field, line?.Key)] = at.Visible.Holds(frame) ? AccessLevel.Masked : AccessLevel.None;
        else if (changes?.Entered(field, line?.Key) is null)
            unshown.Add((field, line?.Key));
    }

    // It may be typed here, but what something else filled in is not shown.
    private readonly HashSet<(Field Field, string? Line)> unshown = [];

    // What a link points to that this person may not read is not there for them; so they cannot put another in its place either.
    private void Close(RecordState state)
    {
        if (state.Closed.Count == 0)
            return;
        foreach (var part in state.Type.Parts)
        foreach (var link in part.Fields.Where(field => field.Target is not null))
        foreach (
            var (line, values) in part.IsLines
                ? state.LinesOf(part).Select(line => ((string?)line.Key, line.Values))
                : [(null, state.Header)]
        )
            if (
                values[link.Slot].Targets.Any(target => state.Closed.Contains((link.Target!, target)))
                && LevelAt(link, line) > AccessLevel.Masked
            )
                decided[(link, line)] = AccessLevel.Masked;
    }

    /// <inheritdoc/>
    public AccessLevel LevelAt(Field field, string? line) =>
        decided.TryGetValue((field, line), out var level) ? level
        : isNew || viewer.Form is not null ? viewer.LevelAt(field)
        : viewer.AccessAt(field.Part.RecordType).For(field).OnFile;

    /// <inheritdoc/>
    public bool IsShown(Field field, string? line) => LevelAt(field, line) >= AccessLevel.Read && !unshown.Contains((field, line));

    /// <summary>True when the record decides over a field.</summary>
    public bool IsDecided(Field field) => decided.Keys.Any(key => key.Field == field);

    /// <summary>A record that was read whole without what this person may not read of it.</summary>
    public RecordState Withheld(RecordState state)
    {
        Withhold(state);
        return state;
    }

    /// <summary>Takes out of a record that was read whole what this person may not read of it.</summary>
    public void Withhold(RecordState state)
    {
        state.Access = this;
        if (viewer.Form is not null)
            return;
        foreach (var part in state.Type.Parts)
        {
            foreach (var field in part.Fields)
            {
                if (!part.IsLines)
                    Take(field, null, state.Header, state.Origins);
                else
                    foreach (var line in state.LinesOf(part))
                        Take(field, line.Key, line.Values, line.Origins);
            }
        }

        void Take(Field field, string? line, Value[] values, Dictionary<Field, Origin> origins)
        {
            if (LevelAt(field, line) is var level && level >= AccessLevel.Read && !unshown.Contains((field, line)))
                return;
            if (level == AccessLevel.Masked && Masks.EndingOf(field, values[field.Slot]) is { } ending)
                endings[(field, line)] = ending;
            values[field.Slot] = Value.Empty;
            origins.Remove(field);
        }
    }

    /// <inheritdoc/>
    public string? EndingAt(Field field, string? line) => endings.GetValueOrDefault((field, line));

    private readonly Dictionary<(Field Field, string? Line), string> endings = [];

    private static AccessLevel Level(FieldAccess at, Frame frame, bool isNew)
    {
        if (isNew)
            return at.AtMost;
        return at.Write.Holds(frame) ? AccessLevel.Write
            : at.Read.Holds(frame) ? AccessLevel.Read
            : at.Visible.Holds(frame) ? AccessLevel.Masked
            : AccessLevel.None;
    }

    /// <summary>What the conditions of grants read of a record, or one of its lines: nothing of scratch fields, and who looks.</summary>
    public static Frame FrameOf(RecordState state, LineState? line, Viewer viewer) => state.FrameAt(line) with { Typed = viewer.Parameter };
}
