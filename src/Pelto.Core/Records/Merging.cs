using Pelto.Core.Access;

namespace Pelto.Core.Records;

/// <summary>Applies one person's changes to a record as it is now, which may not be as that person opened it.</summary>
internal sealed class Merging(RecordState state, RecordChanges changes, RecordAccess access, DateOnly today)
{
    public List<Message> Messages { get; } = [];

    public List<Clash> Clashes { get; } = [];

    public void Apply()
    {
        foreach (var (field, entered) in changes.Header)
            Apply(new(state.Type.Header, null, field), state.Header, entered, changes.Opened?.Header);
        foreach (var (part, rows) in changes.Lines)
            ApplyLines(part, rows);
        foreach (var again in changes.FilledAgain.Where(again => access.LevelAt(again.Field!, again.Line) < AccessLevel.Write))
            Messages.Add(new(again, WhyNot(again.Field!)));
    }

    // Three values decide: as opened, as entered, as it is now. Only what this person changed is touched;
    // if somebody else changed the same thing to something else meanwhile, nobody is overruled.
    private void Apply(FieldAddress at, Value[] values, Parsed entered, Value[]? opened)
    {
        var field = at.Field!;
        if (entered.Refusal is { } refusal)
        {
            values[field.Slot] = entered.Value;
            Messages.Add(new(at, refusal));
            return;
        }

        var now = values[field.Slot];
        var mine = entered.Value;
        var level = access.LevelAt(field, at.Line);

        // To say nothing where it is what stands there already would confirm a guess to whoever may not read it.
        if ((mine == now && level >= AccessLevel.Read) || (opened is not null && field.Slot < opened.Length && mine == opened[field.Slot]))
            return;
        if (level < AccessLevel.Write)
        {
            Messages.Add(new(at, WhyNot(field)));
            return;
        }

        if (!mine.IsEmpty && field.Kind.RefuseAnew(mine) is { } retired)
            Messages.Add(new(at, retired));
        if (opened is not null && field.Slot < opened.Length && now != opened[field.Slot])
            Clashes.Add(new(at, now, mine));
        values[field.Slot] = mine;
    }

    private string WhyNot(Field field) =>
        access.LevelAt(field, null) == AccessLevel.None && !access.IsDecided(field) ? $"There is no field “{field.Code}” here."
        : field.Content.Locked && !field.IsComputed && field.Mode != FillMode.Always
            ? $"{field.Label} is carried over and locked: it cannot be changed here."
        : field.IsComputed ? $"{field.Label} is calculated and cannot be typed."
        : field.IsThroughLink ? $"{field.Label} is seen through {field.Path[0].Label}: it is changed there."
        : field.IsMaintained ? $"{field.Label} is maintained by the ERP and cannot be typed."
        : field.Numbering is not null ? $"{field.Label} is assigned when the record is first saved and cannot be typed."
        : $"You may not change {field.Label}{(access.IsDecided(field) ? " as this record stands" : "")}.";

    private void ApplyLines(Part part, List<EnteredLine> rows)
    {
        foreach (var twice in rows.GroupBy(row => row.Key, StringComparer.Ordinal).Where(group => group.Count() > 1))
            Messages.Add(new(new(part, twice.Key, null), $"The {part.Label.ToLowerInvariant()} {twice.Key} is there twice."));
        if (Messages.Count > 0)
            rows = [.. rows.DistinctBy(row => row.Key)];

        var lines = state.LinesOf(part);
        var opened = changes.Opened?.LinesOf(part) ?? lines.ToList();
        var openedById = opened.Where(line => line.Id is not null).ToDictionary(line => line.Id!.Value);
        var byId = lines.Where(line => line.Id is not null).ToDictionary(line => line.Id!.Value);
        var wanted = rows.Select(row => row.Id).OfType<long>().ToHashSet();

        foreach (var line in opened.Where(line => line.Id is { } id && !wanted.Contains(id) && byId.ContainsKey(id)))
            RemoveLine(part, lines, byId[line.Id!.Value], line);

        var result = InOrder(lines, rows, opened);
        LineState? before = null;
        foreach (var row in rows)
        {
            if (row.Id is null && !MayChangeLines(part, row.Key))
                continue;
            var line = row.Id is { } id ? byId.GetValueOrDefault(id) : NewLine(part, row, result, before);
            if (line is null)
            {
                if (MissingLine(part, row, openedById.GetValueOrDefault(row.Id!.Value)) is not { } again)
                    continue;
                result.Insert(before is null ? 0 : result.IndexOf(before) + 1, again);
                before = again;
                continue;
            }

            var openedLine = row.Id is { } known && changes.Opened is not null ? openedById.GetValueOrDefault(known)?.Values : null;
            foreach (var (field, entered) in row.Values)
                Apply(new(part, line.Key, field), line.Values, entered, openedLine);
            before = line;
        }

        lines.Clear();
        lines.AddRange(result);
    }

    // Who writes a field that was given by itself neither adds nor removes.
    private bool MayChangeLines(Part part, string line)
    {
        if (!access.MayChange)
            Messages.Add(new(new(part, line, null), $"You may not add or remove {part.Plural.ToLowerInvariant()} of this record."));
        return access.MayChange;
    }

    private void RemoveLine(Part part, List<LineState> lines, LineState now, LineState opened)
    {
        if (!MayChangeLines(part, now.Key))
            return;
        if (
            changes.Opened is not null
            && part.Fields.Any(field =>
                field.IsStored && access.LevelAt(field, now.Key) >= AccessLevel.Read && now.Values[field.Slot] != opened.Values[field.Slot]
            )
        )
            Clashes.Add(
                new(
                    new(part, now.Key, null),
                    Value.Empty,
                    Value.Empty,
                    "Somebody else changed a line that you removed. Save again to remove it anyway."
                )
            );
        lines.Remove(now);
    }

    // What was typed in a line that somebody else removed comes back as a new line, so that nothing typed is lost.
    private LineState? MissingLine(Part part, EnteredLine row, LineState? opened)
    {
        if (changes.Opened is null || opened is null)
        {
            Messages.Add(
                new(new(part, row.Key, null), $"There is no {part.Label.ToLowerInvariant()} with the id {row.Key} in this record.")
            );
            return null;
        }

        if (row.Values.All(pair => pair.Value.Refusal is null && pair.Value.Value == opened.Values[pair.Key.Slot]))
            return null;
        var again = new LineState("again" + row.Key, null, [.. opened.Values]);
        foreach (var (field, entered) in row.Values)
            again.Values[field.Slot] = entered.Value;
        Clashes.Add(
            new(
                new(part, again.Key, null),
                Value.Empty,
                Value.Empty,
                "Somebody else removed a line that you changed. It stands here as a new line: save again to keep it, or remove it."
            )
        );
        return again;
    }

    private LineState NewLine(Part part, EnteredLine row, List<LineState> result, LineState? before)
    {
        var line = Pipeline.FreshLine(part, row.Key, today);
        result.Insert(before is null ? 0 : result.IndexOf(before) + 1, line);
        return line;
    }

    // Somebody who moved nothing takes over the order that others made; lines that others added stand at the end.
    private List<LineState> InOrder(List<LineState> now, List<EnteredLine> rows, List<LineState> opened)
    {
        var wanted = rows.Select(row => row.Id).OfType<long>().ToList();
        var asOpened = opened.Select(line => line.Id).OfType<long>().Where(wanted.Contains);
        if (wanted.SequenceEqual(asOpened) || !access.MayChange)
            return [.. now];
        var rank = wanted.Select((id, index) => (id, index)).ToDictionary(pair => pair.id, pair => pair.index);
        return [.. now.OrderBy(line => line.Id is { } id && rank.TryGetValue(id, out var at) ? at : int.MaxValue)];
    }
}
