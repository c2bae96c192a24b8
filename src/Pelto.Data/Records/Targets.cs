using Pelto.Core.Formulas;

namespace Pelto.Data.Records;

/// <summary>
/// A record that somebody may not read is not there for them, also as the target of a link: what is entered is looked up with the person
/// who enters it, before anything is filled from it, and what stands there is masked.
/// </summary>
/// <param name="connection">Where.</param>
/// <param name="transaction">The save's, or null.</param>
/// <param name="viewer">For whom.</param>
/// <param name="clock">What the clock says.</param>
internal sealed class Targets(NpgsqlConnection connection, NpgsqlTransaction? transaction, Viewer viewer, Clock clock)
{
    /// <summary>
    /// Refuses, among what was entered, links to what this person may not read, in the words for what is not there at all.
    /// </summary>
    public async Task SiftAsync(RecordChanges changes, CancellationToken cancel)
    {
        if (viewer.Form is not null)
            return;
        var entered = changes
            .Header.Select(pair => (pair.Key, pair.Value))
            .Concat(changes.Lines.Values.SelectMany(rows => rows).SelectMany(row => row.Values.Select(pair => (pair.Key, pair.Value))));
        var there = await ReadableAsync(
            entered.Where(one => one.Key.Target is not null).SelectMany(one => one.Value.Value.Targets.Select(id => (one.Key.Target!, id))),
            cancel
        );
        if (there is null)
            return;
        foreach (var field in changes.Header.Keys.ToList())
            changes.Header[field] = Sifted(field, changes.Header[field]);
        foreach (var rows in changes.Lines.Values)
            for (var at = 0; at < rows.Count; at++)
                if (rows[at].Values.Any(pair => IsAway(pair.Key, pair.Value)))
                    rows[at] = rows[at] with
                    {
                        Values = rows[at].Values.ToDictionary(pair => pair.Key, pair => Sifted(pair.Key, pair.Value)),
                    };

        bool IsAway(Field field, Parsed value) =>
            field.Target is { } target && IsAsked(target) && value.Value.Targets.Any(id => !there.Contains((target, id)));

        Parsed Sifted(Field field, Parsed value) =>
            IsAway(field, value) ? Parsed.Refused($"{field.Label} points to a record that does not exist.") : value;
    }

    /// <summary>Puts down which records that a record points to this person may not read.</summary>
    public async Task CloseAsync(RecordState state, CancellationToken cancel)
    {
        if (viewer.Form is not null)
            return;
        var wanted = state
            .Type.Parts.SelectMany(part =>
                part.Fields.Where(field => field.Target is { } target && IsAsked(target))
                    .SelectMany(link =>
                        (part.IsLines ? state.LinesOf(part).Select(line => line.Values) : [state.Header]).SelectMany(values =>
                            values[link.Slot].Targets.Select(id => (link.Target!, id))
                        )
                    )
            )
            .Distinct()
            .ToList();
        if (await ReadableAsync(wanted, cancel) is { } there)
            state.Closed = wanted.Where(one => !there.Contains(one)).ToHashSet();
    }

    /// <summary>For whom.</summary>
    public Viewer Viewer => viewer;

    /// <summary>Which of some records of a type they may read.</summary>
    public async Task<IReadOnlySet<long>> ReadableAsync(RecordType type, IReadOnlyCollection<long> ids, CancellationToken cancel) =>
        await ReadableAsync(ids.Select(id => (type, id)), cancel) is { } there ? there.Select(one => one.Id).ToHashSet() : ids.ToHashSet();

    /// <summary>Empties the links of a new record that lead to what is closed.</summary>
    public static void Empty(RecordState state)
    {
        foreach (var part in state.Type.Parts)
        foreach (var link in part.Fields.Where(field => field.Target is not null))
        foreach (var values in part.IsLines ? state.LinesOf(part).Select(line => line.Values) : [state.Header])
            if (values[link.Slot].Targets.Any(target => state.Closed.Contains((link.Target!, target))))
                values[link.Slot] = Value.Empty;
    }

    // Null where nothing had to be asked: all that there is may be read.
    private async Task<HashSet<(RecordType Type, long Id)>?> ReadableAsync(
        IEnumerable<(RecordType Type, long Id)> wanted,
        CancellationToken cancel
    )
    {
        HashSet<(RecordType, long)>? there = null;
        foreach (var group in wanted.Where(one => IsAsked(one.Type)).GroupBy(one => one.Type, one => one.Id))
        {
            there ??= [];
            if (!viewer.MayRead(group.Key))
                continue;
            await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
            command.Parameters.Add(new() { Value = group.Distinct().ToArray() });
            command.CommandText =
                $"SELECT h.id FROM {Sql.Base(group.Key.Header)} h "
                + $"WHERE h.id = ANY($1){RowAccess.And(group.Key, viewer, "h.id", command.Add, clock)}";
            await using var reader = await command.ExecuteReaderAsync(cancel);
            while (await reader.ReadAsync(cancel))
                there.Add((group.Key, reader.GetInt64(0)));
        }

        return there;
    }

    private bool IsAsked(RecordType type) => !viewer.AccessAt(type).For(type).Read.IsSure;
}
