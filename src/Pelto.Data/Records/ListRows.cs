using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Pelto.Data.Database;

namespace Pelto.Data.Records;

/// <summary>The rows of a page, put together from what one statement or several give of them, in the same order.</summary>
/// <param name="type">What is listed.</param>
/// <param name="viewer">For whom.</param>
internal sealed class ListRows(RecordType type, Viewer viewer)
{
    private readonly List<Read> rows = [];

    /// <summary>Takes what a statement gives.</summary>
    public async Task TakeAsync(NpgsqlDataReader reader, ListSql text, CancellationToken cancel)
    {
        var masked = text.Fields.Where(field => viewer.LevelAt(field) == AccessLevel.Masked).ToList();
        for (var at = 0; await reader.ReadAsync(cancel); at++)
        {
            if (at == rows.Count) rows.Add(new(reader.GetInt64(0), new Value[type.Header.Fields.Count]));
            Take(reader, text, masked, rows[at]);
        }
    }

    /// <summary>The rows.</summary>
    public List<ListRow> Rows() =>
        rows.ConvertAll(static row => new ListRow(row.Id, row.Values, row.Labels) { Levels = row.Levels, Endings = row.Endings });

    private static void Take(NpgsqlDataReader reader, ListSql text, List<Field> masked, Read row)
    {
        var closed = new List<Field>();
        var at = 1;
        foreach (var field in text.Fields)
        {
            row.Values[field.Slot] = Columns.Read(reader, ref at, field.Source);
            if (!text.Labelled.Contains(field)) continue;
            if (!reader.IsDBNull(at)) row.Labels[field.Slot] = reader.GetString(at);
            at++;
        }

        // What a link points to that this person may not read is not there for them.
        foreach (var link in text.Closed.Where(link => row.Values[link.Slot].Targets.Count > 0 && !row.Labels.ContainsKey(link.Slot)).ToList()) closed.Add(link);

        // What this row withholds is taken out here; nobody gets it from the list.
        var answers = new bool[text.Answers.Count];
        for (var i = 0; i < answers.Length; i++) answers[i] = reader.GetBoolean(at++);
        foreach (var decided in text.Levels)
        {
            var level = decided.In(answers);
            row.Levels[decided.Field.Slot] = level;
            if (level < AccessLevel.Read) Withhold(decided.Field, level);
        }

        foreach (var field in masked) Withhold(field, AccessLevel.Masked);
        foreach (var link in closed.Where(link => !row.Levels.TryGetValue(link.Slot, out var level) || level > AccessLevel.Masked))
        {
            row.Levels[link.Slot] = AccessLevel.Masked;
            Withhold(link, AccessLevel.Masked);
        }

        void Withhold(Field field, AccessLevel level)
        {
            if (level == AccessLevel.Masked && GuardedColumns.Ends(field) && row.Values[field.Slot] is { Type: ValueForm.Text } text && text.Text.Length >= Masks.LeastForEnding)
                row.Endings[field.Slot] = text.Text[^Masks.EndingLength..];
            row.Values[field.Slot] = Value.Empty;
            row.Labels.Remove(field.Slot);
        }
    }

    private sealed record Read(long Id, Value[] Values)
    {
        public Dictionary<int, string> Labels { get; } = [];

        public Dictionary<int, AccessLevel> Levels { get; } = [];

        public Dictionary<int, string> Endings { get; } = [];
    }
}
