namespace Pelto.Data.Records;

/// <summary>
/// What only the database can tell of a record that is to be saved: whether targets and files are there, and values unique. Told together
/// and at the fields; constraints hold in any case.
/// </summary>
/// <param name="transaction">The save's.</param>
/// <param name="contexts">Makes contexts of our own tables.</param>
/// <param name="current">The record as it is on file: what did not change was good already.</param>
/// <param name="wanted">The record as it is to be.</param>
/// <param name="viewer">Who saves.</param>
/// <param name="isSaving">False while it is only tried: nothing is written then, and what has no effect in vain is not asked.</param>
internal sealed class OutsideChecks(
    NpgsqlTransaction transaction,
    IDbContextFactory<PeltoContext> contexts,
    RecordState current,
    RecordState wanted,
    Viewer viewer,
    bool isSaving
)
{
    /// <summary>True when there is something of a record type that only the database can tell.</summary>
    public static bool AreRequired(RecordType type) =>
        type
            .Parts.SelectMany(part => part.Fields)
            .Any(field => field.Target is not null || field.IsThroughLink || field.Content.Unique || field.Kind.IsFile);

    private readonly List<Message> messages = [];

    public async Task<IReadOnlyList<Message>> RunAsync(CancellationToken cancel)
    {
        var changed = Changed().ToList();
        await RefuseUnofferedAsync(changed, cancel);

        // Outside, nobody learns by trying what is on file: whoever accepts the entry is told.
        if (viewer.Form is not null)
            return messages;
        foreach (var group in changed.Where(entry => entry.Value.Targets.Count > 0).GroupBy(entry => entry.At.Field!.Target!))
            await FindTargetsAsync(group.Key, [.. group], cancel);
        if (changed.Where(entry => entry.Value.DataType == DataType.File).ToList() is { Count: > 0 } files)
            await FindFilesAsync(files, cancel);
        foreach (
            var group in changed
                .Where(entry =>
                    entry.At.Field!.Content.Unique
                    && entry.At.Field.IsAdded
                    && entry.Value.DataType is not (DataType.Empty or DataType.Error)
                )
                .GroupBy(entry => entry.At.Field!)
        )
            await FindDoublesAsync(group.Key, [.. group], cancel);
        return messages;
    }

    /// <summary>The sentence for a value that must be unique and is not.</summary>
    public static string Taken(Field field) =>
        $"Another {field.Part.Label.ToLowerInvariant()} has this {field.Label.ToLowerInvariant()} already.";

    private sealed record Entry(FieldAddress At, long? RowId, Value[] Values)
    {
        public Value Value => Values[At.Field!.Slot];
    }

    private IEnumerable<Entry> Changed()
    {
        foreach (
            var field in wanted.Type.Header.Fields.Where(field =>
                field.IsStored && (wanted.Header[field.Slot] != current.Header[field.Slot] || current.Id is null)
            )
        )
            yield return new(new(field.Part, null, field), wanted.Id, wanted.Header);
        foreach (var part in wanted.Type.LineParts)
        {
            var before = current.LinesOf(part).ToDictionary(line => line.Key, line => line.Values);
            foreach (var line in wanted.LinesOf(part))
            foreach (
                var field in part.Fields.Where(field =>
                    field.IsStored && (!before.TryGetValue(line.Key, out var old) || old[field.Slot] != line.Values[field.Slot])
                )
            )
                yield return new(new(part, line.Key, field), line.Id, line.Values);
        }
    }

    private async Task FindTargetsAsync(RecordType target, List<Entry> entries, CancellationToken cancel)
    {
        var ids = entries.SelectMany(entry => entry.Value.Targets).Distinct().ToArray();
        var found = (
            await transaction
                .Command($"SELECT id FROM {Sql.Base(target.Header)} WHERE id = ANY($1)", ids)
                .ListAsync(row => row.GetInt64(0), cancel)
        ).ToHashSet();
        messages.AddRange(
            entries
                .Where(entry => entry.Value.Targets.Any(target => !found.Contains(target)))
                .Select(entry => new Message(entry.At, $"{entry.At.Field!.Label} points to a record that does not exist."))
        );
    }

    // What a link offers is asked again for each that changed, and for each whose condition reads something that changed.
    private async Task RefuseUnofferedAsync(List<Entry> changed, CancellationToken cancel)
    {
        var touched = changed.Select(entry => (entry.At.Field!, entry.At.Line)).ToHashSet();
        foreach (var (offer, target, at) in Offered().Where(one => Touches(one.Offer, one.At, touched)))
            if ((await OfferSql.FittingAsync(transaction.Connection!, transaction, offer, [target], cancel)).Count == 0)
                messages.Add(new(at, await RefusalAsync(offer, target, cancel)));
    }

    private static bool Touches(Offer offer, FieldAddress at, HashSet<(Field, string?)> touched) =>
        touched.Contains((offer.Field, at.Line))
        || offer.Watches.Any(field => touched.Contains((field, field.Part.IsLines ? at.Line : null)));

    private async Task<string> RefusalAsync(Offer offer, long target, CancellationToken cancel)
    {
        if (offer.Missing is { } missing)
            return $"Fill {missing.Label} first: what can be chosen here depends on it.";

        // Outside, nobody learns by trying whether there is something that was not released.
        if (viewer.Form is not null)
            return "This cannot be chosen here. Choose from the list that opens while you type.";
        var type = offer.Field.Target!;
        var ask = transaction.Command($"SELECT {Sql.Column(type.Identifier)} FROM {Sql.Base(type.Header)} WHERE id = $1", target);
        return offer.Field.Narrowing!.Refuse(await ask.ValueAsync<string>(cancel) ?? offer.Field.Label);
    }

    // Whether a target fits is not told to who may not know what that depends on; nor can they choose one.
    private bool IsAsked(Field field) => field.Target is not null && !field.IsThroughLink && viewer.MayBeOffered(field);

    // The links that are filled and offer only some records.
    private IEnumerable<(Offer Offer, long Target, FieldAddress At)> Offered()
    {
        foreach (var field in wanted.Type.Header.Fields.Where(IsAsked))
            if (Offer.To(viewer, field, wanted, null) is { Narrowings.Count: > 0 } offer)
                foreach (var target in wanted.Header[field.Slot].Targets)
                    yield return (offer, target, new(field.Part, null, field));
        foreach (var part in wanted.Type.LineParts)
        foreach (var field in part.Fields.Where(IsAsked))
        foreach (var line in wanted.LinesOf(part))
            if (Offer.To(viewer, field, wanted, line) is { Narrowings.Count: > 0 } offer)
                foreach (var target in line.Values[field.Slot].Targets)
                    yield return (offer, target, new(part, line.Key, field));
    }

    /// <summary>Puts down which targets this person chose, so that they are offered first.</summary>
    public async Task RememberAsync(DateTimeOffset now, CancellationToken cancel)
    {
        var chosen = Changed()
            .SelectMany(entry => entry.Value.Targets.Select(target => (entry.At.Field!.Target!.Code, Target: target)))
            .Distinct();

        // In one order, so that two pages of one person do not wait for each other.
        var rows = chosen
            .OrderBy(one => one)
            .Select(one => new RecentRow
            {
                Person = viewer.Id,
                RecordType = one.Code,
                Record = one.Target,
                UsedAt = now,
            })
            .ToList();
        if (rows.Count == 0)
            return;
        await using var context = contexts.Within(transaction);
        await context.UpsertAsync(rows, cancel);
    }

    // Only what this person brought, or what is kept with this record already, so that nobody reaches another's file by its id.
    private async Task FindFilesAsync(List<Entry> entries, CancellationToken cancel)
    {
        var ids = entries.Select(entry => entry.Value.FileId).Distinct().ToArray();
        await using var context = contexts.Within(transaction);
        var own = context.Files.Where(row => ids.Contains(row.Id) && row.UploadedBy == viewer.Id);
        if (isSaving)
            await own.ExecuteUpdateAsync(set => set.SetProperty(row => row.Stored, true), cancel);
        var found = await own.Select(row => new
            {
                row.Id,
                row.Name,
                row.MediaType,
            })
            .ToDictionaryAsync(row => row.Id, cancel);
        foreach (var entry in entries)
        {
            if (!found.TryGetValue(entry.Value.FileId, out var file))
                messages.Add(new(entry.At, "This file no longer exists. Please choose it again."));
            else if (entry.At.Field!.Kind.Accepts is { } accepted && !accepted.Split(',').Contains(file.MediaType))
                messages.Add(new(entry.At, $"“{file.Name}” is not a picture: PNG, JPEG, GIF and WebP are taken."));
            else
                entry.Values[entry.At.Field.Slot] = Value.FileOf(entry.Value.FileId, file.Name);
        }
    }

    // All of a field in one round trip: lines are many, and it is asked while somebody types.
    private async Task FindDoublesAsync(Field field, List<Entry> entries, CancellationToken cancel)
    {
        await using var batch = new NpgsqlBatch(transaction.Connection, transaction);
        foreach (var entry in entries)
            batch.BatchCommands.Add(IsTaken(field, entry));
        await using var reader = await batch.ExecuteReaderAsync(cancel);
        foreach (var entry in entries)
        {
            await reader.ReadAsync(cancel);
            var within = field.Part.IsLines && wanted.LinesOf(field.Part).Count(line => line.Values[field.Slot] == entry.Value) > 1;
            if (within || reader.GetBoolean(0))
                messages.Add(new(entry.At, Taken(field)));
            await reader.NextResultAsync(cancel);
        }
    }

    private static NpgsqlBatchCommand IsTaken(Field field, Entry entry)
    {
        var same = field.Columns.Select((column, i) => $"{Sql.Name(column.Name)} = ${i + 2}");
        var command = new NpgsqlBatchCommand(
            $"SELECT EXISTS (SELECT FROM {Sql.Of(field)} WHERE id <> $1 AND {string.Join(" AND ", same)})"
        );
        command.Parameters.Add(new() { Value = entry.RowId ?? 0L });
        for (var i = 0; i < field.Columns.Count; i++)
            command.Parameters.Add(Columns.Parameter(field.Columns[i].Type, field.Kind.ToColumn(entry.Value, i)));
        return command;
    }
}
