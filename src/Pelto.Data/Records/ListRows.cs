namespace Pelto.Data.Records;

/// <summary>The rows of a page, put together from what one statement or several give of them, in the same order.</summary>
/// <param name="type">What is listed.</param>
/// <param name="viewer">For whom.</param>
internal sealed class ListRows(RecordType type, Viewer viewer)
{
    private readonly List<(long Id, Cell[] Cells)> rows = [];

    /// <summary>Takes what a statement gives.</summary>
    public async Task TakeAsync(NpgsqlDataReader reader, ListSql text, CancellationToken cancel)
    {
        var levels = text.Fields.Select(viewer.LevelAt).ToArray();

        // What they see masked in each row is not asked for, unless it has an ending that they see.
        Cell[] begun =
        [
            .. type.Header.Fields.Select(field =>
                viewer.LevelAt(field) == AccessLevel.Masked ? Cell.From(field, Value.Empty, AccessLevel.Masked) : default
            ),
        ];
        for (var at = 0; await reader.ReadAsync(cancel); at++)
        {
            if (at == rows.Count)
                rows.Add((reader.GetInt64(0), [.. begun]));
            Take(reader, text, levels, rows[at].Cells);
        }
    }

    /// <summary>The rows.</summary>
    public List<ListRow> Rows() => rows.ConvertAll(static row => new ListRow(row.Id, row.Cells));

    // What this row withholds is taken out here; nobody gets it from the list.
    private static void Take(NpgsqlDataReader reader, ListSql text, AccessLevel[] levels, Cell[] cells)
    {
        var read = new (Value Value, string? Label)[text.Fields.Count];
        var at = 1;
        for (var i = 0; i < read.Length; i++)
        {
            read[i].Value = Columns.Read(reader, ref at, text.Fields[i].Source);
            if (!text.Labelled.Contains(text.Fields[i]))
                continue;
            if (!reader.IsDBNull(at))
                read[i].Label = reader.GetString(at);
            at++;
        }

        var answers = new bool[text.Answers.Count];
        for (var i = 0; i < answers.Length; i++)
            answers[i] = reader.GetBoolean(at++);
        var decided = text.Levels.Count == 0 ? null : text.Levels.ToDictionary(level => level.Field, level => level.In(answers));

        // Also of what is never read, and so was not asked for: in some rows it is masked, in others not there.
        foreach (var (field, level) in decided ?? [])
            cells[field.Slot] = Cell.From(field, Value.Empty, level);
        for (var i = 0; i < read.Length; i++)
        {
            var (field, (value, label)) = (text.Fields[i], read[i]);
            var level = decided is not null && decided.TryGetValue(field, out var here) ? here : levels[i];

            // What a link points to that this person may not read is not there for them.
            if (label is null && level > AccessLevel.Masked && value.Targets.Count > 0 && text.Closed.Contains(field))
                level = AccessLevel.Masked;
            cells[field.Slot] = Cell.From(field, value, level, label ?? "");
        }
    }
}
