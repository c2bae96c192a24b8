using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Reads from the database what a plan has to know.</summary>
public sealed class FactsReader(NpgsqlDataSource source, ValueConversion conversion, Catalogues catalogues)
{
    private const string CommentPrefix = "field ";

    /// <summary>The comment that ties a column to the field that it was made for.</summary>
    public static string CommentFor(Field field) => CommentPrefix + field.Id;

    /// <summary>
    /// All facts for going from one catalogue to another: tables and rules, counts of records, and values that changed rules would refuse.
    /// </summary>
    public async Task<StorageFacts> ReadAsync(Catalogue live, Catalogue draft, CancellationToken cancel = default)
    {
        var facts = await ReadStorageAsync(draft, cancel);
        facts = await WithEffectsAsync(facts, live, draft, cancel);
        var touched = Touched(live, draft);
        var records = new Dictionary<string, long>(StringComparer.Ordinal);
        foreach (var type in draft.RecordTypes.Where(type => touched.Contains(type.Code)))
            records[type.Code] = await CountAsync(type, cancel);
        return facts with { Records = records };
    }

    /// <summary>
    /// The facts that decide what has to be done and whether it can be: without counts of records, which only people read.
    /// </summary>
    public async Task<StorageFacts> ReadStorageAsync(Catalogue draft, CancellationToken cancel = default)
    {
        var facts = await ReadTablesAsync(cancel);
        var misfits = new Dictionary<string, long>(StringComparer.Ordinal);
        var doubles = new Dictionary<string, long>(StringComparer.Ordinal);
        foreach (var field in draft.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.StoredFields))
        {
            if (
                !facts.Added.TryGetValue(field.Table, out var table)
                || !field.Columns.All(column =>
                    table.Columns.TryGetValue(column.Name, out var stored) && stored.FieldId == field.Id && stored.Type == column.Type
                )
            )
                continue;
            var changed = AddCheck.For(field).Where(check => !check.IsDone(facts)).Select(check => check.Check.Sql).ToList();
            var name = Sql.Of(field);
            if (changed.Count > 0)
                misfits[field.Id] = await CountedAsync($"SELECT count(*) FROM {name} WHERE NOT ({string.Join(" AND ", changed)})", cancel);
            if (field.Content.Unique && !new AddUnique(field).IsDone(facts))
                doubles[field.Id] = await CountedAsync(
                    $"SELECT count(*) FROM (SELECT FROM {name} WHERE {field.ColumnNames()("")} IS NOT NULL "
                        + $"GROUP BY {string.Join(", ", Columns.Quoted(field))} HAVING count(*) > 1) d",
                    cancel
                );
        }

        return facts with
        {
            Misfits = misfits,
            Doubles = doubles,
        };
    }

    // What people read in the plan: what becomes of values on file.
    private async Task<StorageFacts> WithEffectsAsync(StorageFacts facts, Catalogue live, Catalogue draft, CancellationToken cancel)
    {
        var conversions = new Dictionary<string, Conversions>(StringComparer.Ordinal);
        var merged = new Dictionary<(string, string), long>();
        var filled = new Dictionary<string, long>(StringComparer.Ordinal);
        foreach (var field in draft.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.StoredFields))
        {
            if (
                live.FindField(field.Id) is not { } earlier
                || !facts.Added.TryGetValue(field.Table, out var table)
                || !earlier.Columns.All(column => table.Columns.ContainsKey(column.Name))
            )
                continue;
            if (earlier.Columns[0].Name != field.Columns[0].Name)
                conversions[field.Id] = await conversion.PreviewAsync(earlier, field, cancel: cancel);
            if (field.Kind.Choices is not { } now || earlier.Kind.Choices is not { } were)
                continue;
            foreach (
                var choice in now.All.Where(choice =>
                    choice.MergedInto is not null && were.Find(choice.Code)?.MergedInto != choice.MergedInto
                )
            )
                merged[(field.Id, choice.Code)] = await CountChoiceAsync(earlier, choice.Code, cancel);
        }

        foreach (var removed in draft.Site.Removed)
        {
            if (draft.Find(removed.RecordType)?.FindPart(removed.Part) is not { } part)
                continue;
            foreach (var (table, columns) in facts.MadeFor(removed.Id, part))
                filled[removed.Id] = await CountedAsync(
                    $"SELECT greatest({string.Join(", ", columns.Select(column => $"count({Sql.Name(column)})"))}) FROM {Sql.Table(Sql.Added, table)}",
                    cancel
                );
        }

        return facts with
        {
            Conversions = conversions,
            Merged = merged,
            Filled = filled,
        };
    }

    // Of values, only whoever reads all of them is told anything: how many there are, how long they are, and whether one fits would each
    // tell what they are.
    private bool IsTold(Viewer viewer, Field field) => viewer.ReadsAll(field, catalogues.Live);

    /// <summary>What a change of kind would make of the values on file; null for whoever may not read them.</summary>
    public async Task<Conversions?> PreviewAsync(
        Field from,
        Field to,
        Viewer viewer,
        int? most = null,
        CancellationToken cancel = default
    ) => IsTold(viewer, from) ? await conversion.PreviewAsync(from, to, most, cancel) : null;

    /// <summary>
    /// Values on file that a field's rules would refuse: how many, and some with their records. None for whoever may not read them.
    /// </summary>
    public async Task<(long Count, IReadOnlyList<(long Record, string Text, string Why)> Examples)> MisfitsAsync(
        Field field,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        const int Most = 20;
        if (!IsTold(viewer, field))
            return (0, []);
        var tables = await ReadTablesAsync(cancel);
        if (!tables.Added.TryGetValue(field.Table, out var table) || !field.Columns.All(column => table.Columns.ContainsKey(column.Name)))
            return (0, []);
        var changed = AddCheck.For(field).Where(check => !check.IsDone(tables)).ToList();
        if (changed.Count == 0)
            return (0, []);
        var wrong = $"NOT ({string.Join(" AND ", field.Kind.Checks(field.ColumnNames("a.")).Select(check => $"({check.Sql})"))})";
        var from = $"{Sql.Of(field)} a{(field.Part.IsLines ? $" JOIN {Sql.Base(field.Part)} h ON h.id = a.id" : "")}";
        await using var command = source.CreateCommand(
            $"SELECT {(field.Part.IsLines ? "h.parent" : "a.id")}, count(*) OVER (), "
                + $"{string.Join(", ", Columns.Quoted(field, "a."))} FROM {from} WHERE {wrong} ORDER BY 1, a.id LIMIT {Most}"
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var (count, examples) = (0L, new List<(long, string, string)>());
        while (await reader.ReadAsync(cancel))
        {
            var at = 2;
            var value = Columns.Read(reader, ref at, field);
            count = reader.GetInt64(1);
            examples.Add((reader.GetInt64(0), field.Kind.Format(value), field.Kind.Refuse(value) ?? ""));
        }

        return (count, examples);
    }

    /// <summary>The values on file as people read them; of very many, the longest. None for whoever may not read them.</summary>
    public async Task<IReadOnlyList<string>> TextsAsync(Field field, Viewer viewer, CancellationToken cancel = default)
    {
        const int Most = 20_000;
        if (!IsTold(viewer, field))
            return [];
        await using var command = source.CreateCommand(
            $"SELECT {string.Join(", ", Columns.Quoted(field))} FROM {Sql.Of(field)} WHERE {field.ColumnNames()("")} IS NOT NULL "
                + $"ORDER BY length({field.ColumnNames()("")}::text) DESC, {field.ColumnNames()("")}::text LIMIT {Most}"
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var texts = new List<string>();
        while (await reader.ReadAsync(cancel))
        {
            var at = 0;
            texts.Add(field.Kind.Format(Columns.Read(reader, ref at, field)));
        }

        return texts;
    }

    /// <summary>The different texts on file, those that stand most often first; none for whoever may not read them.</summary>
    public async Task<IReadOnlyList<string>> DifferentTextsAsync(Field field, int most, Viewer viewer, CancellationToken cancel = default)
    {
        if (!IsTold(viewer, field))
            return [];
        var column = field.ColumnNames()("");
        await using var command = source.CreateCommand(
            $"SELECT {column} FROM {Sql.Of(field)} WHERE {column} IS NOT NULL GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT {most}"
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var texts = new List<string>();
        while (await reader.ReadAsync(cancel))
            texts.Add(reader.GetString(0));
        return texts;
    }

    /// <summary>How many rows hold a choice.</summary>
    private async Task<long> CountChoiceAsync(Field field, string code, CancellationToken cancel = default)
    {
        var column = field.ColumnNames()("");
        return await source
            .Command(
                $"SELECT count(*) FROM {Sql.Of(field)} WHERE {(field.Kind.IsSeveralChoices ? $"{column} @> ARRAY[$1]" : $"{column} = $1")}",
                code
            )
            .ValueAsync<long>(cancel);
    }

    /// <summary>How many rows hold each choice, over those of these fields that the viewer reads.</summary>
    public async Task<IReadOnlyDictionary<string, long>> CountChoicesAsync(
        IEnumerable<Field> fields,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        var counts = new Dictionary<string, long>(StringComparer.Ordinal);
        foreach (var field in fields.Where(field => IsTold(viewer, field)))
        {
            var column = field.ColumnNames()("");
            await using var command = source.CreateCommand(
                $"SELECT code, count(*) FROM {Sql.Of(field)}, "
                    + $"unnest({(field.Kind.IsSeveralChoices ? column : $"ARRAY[{column}]")}) code WHERE code IS NOT NULL GROUP BY code"
            );
            await using var reader = await command.ExecuteReaderAsync(cancel);
            while (await reader.ReadAsync(cancel))
                counts[reader.GetString(0)] = counts.GetValueOrDefault(reader.GetString(0)) + reader.GetInt64(1);
        }

        return counts;
    }

    /// <summary>How many rows hold a value of a field; null for whoever may not read them.</summary>
    public async Task<long?> CountFilledAsync(Field field, Viewer viewer, CancellationToken cancel = default) =>
        (await CountFilledAsync([field], viewer, cancel)).TryGetValue(field, out var filled) ? filled : null;

    /// <summary>
    /// How many rows hold a value of each of these fields, over those that the viewer may read; each table is gone through once.
    /// </summary>
    public async Task<IReadOnlyDictionary<Field, long>> CountFilledAsync(
        IEnumerable<Field> fields,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        var counts = new Dictionary<Field, long>();
        foreach (
            var piece in fields
                .Where(field => field.IsStored && IsTold(viewer, field))
                .GroupBy(Sql.Of)
                .SelectMany(table => Columns.Pieces(table))
        )
        {
            await using var command = source.CreateCommand(
                $"SELECT {string.Join(", ", piece.Select(field => $"count({field.ColumnNames()("")})"))} FROM {Sql.Of(piece[0])}"
            );
            await using var reader = await command.ExecuteReaderAsync(cancel);
            await reader.ReadAsync(cancel);
            for (var at = 0; at < piece.Count; at++)
                counts[piece[at]] = reader.GetInt64(at);
        }

        return counts;
    }

    /// <summary>
    /// The letters of the longest value on file, among the first hundred thousand rows; null where that says nothing of how wide it is. Of
    /// a link, those of what it shows.
    /// </summary>
    public async Task<int?> LongestAsync(Field field, Viewer viewer, CancellationToken cancel = default)
    {
        var held = field.Source;
        if (!IsTold(viewer, field) || !IsTold(viewer, held))
            return null;
        if (held is { Kind.IsOneLink: true, Target: { } target })
            return await LongestAsync(target.Name, viewer, cancel) is { } name
                ? name + (await LongestAsync(target.Identifier, viewer, cancel) ?? 0) + 3
                : null;
        if (!held.IsStored || held.Kind.DataType != DataType.Text || held.Kind.IsLongText || held.Kind.IsChoice)
            return null;
        var column = held.ColumnNames()("");
        return (int)
            await CountedAsync(
                $"SELECT coalesce(max(length({column})), 0)::bigint FROM (SELECT {column} FROM {Sql.Of(held)} LIMIT 100000) AS looked",
                cancel
            );
    }

    /// <summary>Tables, columns and rules in schema <c>added</c>, without looking at any data.</summary>
    public async Task<StorageFacts> ReadTablesAsync(CancellationToken cancel = default)
    {
        var columns = new Dictionary<string, Dictionary<string, ColumnFacts>>(StringComparer.Ordinal);
        var checks = new Dictionary<string, List<CheckFacts>>(StringComparer.Ordinal);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var command = new NpgsqlCommand(
            """
            SELECT t.relname, a.attname, coalesce(col_description(t.oid, a.attnum), ''), format_type(a.atttypid, a.atttypmod)
            FROM pg_class t JOIN pg_namespace n ON n.oid = t.relnamespace JOIN pg_attribute a ON a.attrelid = t.oid
            WHERE n.nspname = 'added' AND t.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped;
            SELECT t.relname, c.conname, a.attname, c.convalidated
            FROM pg_constraint c JOIN pg_class t ON t.oid = c.conrelid JOIN pg_namespace n ON n.oid = t.relnamespace
            JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = (SELECT min(k) FROM unnest(c.conkey) k)
            WHERE n.nspname = 'added' AND c.contype = 'c';
            SELECT t.relname, x.relname, a.attname
            FROM pg_index i JOIN pg_class t ON t.oid = i.indrelid JOIN pg_class x ON x.oid = i.indexrelid JOIN pg_namespace n ON n.oid = t.relnamespace
            JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = i.indkey[0]
            WHERE n.nspname = 'added' AND i.indisunique AND NOT i.indisprimary AND i.indisvalid;
            SELECT t.relname, c.conname, a.attname, c.convalidated, o.relname, c.confdeltype <> 'a'
            FROM pg_constraint c JOIN pg_class t ON t.oid = c.conrelid JOIN pg_namespace n ON n.oid = t.relnamespace JOIN pg_class o ON o.oid = c.confrelid
            JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = c.conkey[1]
            WHERE n.nspname = 'added' AND c.contype = 'f' AND a.attname <> 'id';
            SELECT t.relname, x.relname
            FROM pg_index i JOIN pg_class t ON t.oid = i.indrelid JOIN pg_class x ON x.oid = i.indexrelid JOIN pg_namespace n ON n.oid = t.relnamespace
            WHERE n.nspname = 'added' AND NOT i.indisunique AND i.indisvalid;
            SELECT t.relname FROM pg_class t JOIN pg_namespace n ON n.oid = t.relnamespace WHERE n.nspname = 'own' AND t.relkind = 'r';
            SELECT t.relname, substr(g.tgname, 7)
            FROM pg_trigger g JOIN pg_class t ON t.oid = g.tgrelid JOIN pg_namespace n ON n.oid = t.relnamespace
            WHERE n.nspname = 'added' AND g.tgname LIKE 'track\_%';
            SELECT x.relname, n.nspname FROM pg_index i JOIN pg_class x ON x.oid = i.indexrelid JOIN pg_namespace n ON n.oid = x.relnamespace WHERE x.relname ~ '_(find|list)_[0-9a-f]{8}$' AND i.indisvalid;
            SELECT t.relname, c.conname, a.attname, c.convalidated, o.relname, c.confdeltype <> 'a'
            FROM pg_constraint c JOIN pg_class t ON t.oid = c.conrelid JOIN pg_namespace n ON n.oid = t.relnamespace JOIN pg_class o ON o.oid = c.confrelid
            JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = c.conkey[1]
            WHERE n.nspname = 'linked' AND c.contype = 'f' AND a.attname = 'target';
            SELECT t.relname, max(a.attnum)::int FROM pg_class t JOIN pg_namespace n ON n.oid = t.relnamespace JOIN pg_attribute a ON a.attrelid = t.oid WHERE n.nspname = 'added' AND t.relkind = 'r' GROUP BY 1;
            """,
            connection
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var comment = reader.GetString(2);
            var table = columns.TryGetValue(reader.GetString(0), out var known)
                ? known
                : columns[reader.GetString(0)] = new(StringComparer.Ordinal);
            table[reader.GetString(1)] = new(
                comment.StartsWith(CommentPrefix, StringComparison.Ordinal) ? comment[CommentPrefix.Length..] : "",
                Columns.TypeOf(reader.GetString(3))
            );
        }

        await ReadByTableAsync(reader, checks, static row => new(row.GetString(1), row.GetString(2), row.GetBoolean(3)), cancel);

        var uniques = new List<(string Table, string Index, string Column)>();
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
            uniques.Add((reader.GetString(0), reader.GetString(1), reader.GetString(2)));
        var references = new Dictionary<string, List<ReferenceFacts>>(StringComparer.Ordinal);
        await ReadByTableAsync(reader, references, Reference, cancel);
        var indexes = new List<(string Table, string Index)>();
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
            indexes.Add((reader.GetString(0), reader.GetString(1)));
        var own = new HashSet<string>(StringComparer.Ordinal);
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
            own.Add(reader.GetString(0));
        var tracked = new List<(string Table, string Column)>();
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
            tracked.Add((reader.GetString(0), reader.GetString(1)));

        var finding = new Dictionary<string, string>(StringComparer.Ordinal);
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
            finding[reader.GetString(0)] = reader.GetString(1);

        var linked = new Dictionary<string, List<ReferenceFacts>>(StringComparer.Ordinal);
        await ReadByTableAsync(reader, linked, Reference, cancel);

        var used = new Dictionary<string, int>(StringComparer.Ordinal);
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
            used[reader.GetString(0)] = reader.GetInt32(1);

        return StorageFacts.Nothing with
        {
            LinkTables = linked.ToDictionary(pair => pair.Key, pair => pair.Value[0], StringComparer.Ordinal),
            UserDefined = own,
            FindIndexes = finding,
            Added = columns.ToDictionary(
                pair => pair.Key,
                pair => new TableFacts(
                    pair.Value,
                    checks.GetValueOrDefault(pair.Key) ?? [],
                    uniques
                        .Where(index => index.Table == pair.Key)
                        .ToDictionary(index => index.Index, index => index.Column, StringComparer.Ordinal),
                    tracked.Where(entry => entry.Table == pair.Key).Select(entry => entry.Column).ToHashSet(StringComparer.Ordinal)
                )
                {
                    Used = used.GetValueOrDefault(pair.Key),
                    References = references.GetValueOrDefault(pair.Key) ?? [],
                    LinkIndexes = indexes
                        .Where(entry => entry.Table == pair.Key)
                        .Select(entry => entry.Index)
                        .ToHashSet(StringComparer.Ordinal),
                },
                StringComparer.Ordinal
            ),
        };
    }

    private static ReferenceFacts Reference(NpgsqlDataReader row) =>
        new(row.GetString(1), row.GetString(2), row.GetBoolean(3), row.GetString(4), row.GetBoolean(5));

    // The table stands first.
    private static async Task ReadByTableAsync<T>(
        NpgsqlDataReader reader,
        Dictionary<string, List<T>> found,
        Func<NpgsqlDataReader, T> read,
        CancellationToken cancel
    )
    {
        await reader.NextResultAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var list = found.TryGetValue(reader.GetString(0), out var known) ? known : found[reader.GetString(0)] = [];
            list.Add(read(reader));
        }
    }

    /// <summary>
    /// How many records a type has: exact for small tables, PostgreSQL's estimate for large ones, so that nobody waits for a count.
    /// </summary>
    public Task<long> CountAsync(RecordType type, CancellationToken cancel = default) => CountRowsAsync(type.Header, cancel);

    /// <summary>The same for many types that are live, in one round trip.</summary>
    public async Task<IReadOnlyList<long>> CountAsync(IReadOnlyList<RecordType> types, CancellationToken cancel = default)
    {
        await using var command = source.CreateCommand(
            string.Join(" UNION ALL ", types.Select((type, at) => Invariant($"SELECT {at}, {CountSql(Sql.Base(type.Header))}")))
                + " ORDER BY 1"
        );
        var counts = new List<long>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            counts.Add(reader.GetInt64(1));
        return counts;
    }

    private static string CountSql(string table) =>
        $"""
            CASE WHEN (SELECT reltuples FROM pg_class WHERE oid = '{table}'::regclass) > 50000
                   THEN (SELECT reltuples::bigint FROM pg_class WHERE oid = '{table}'::regclass)
                   ELSE (SELECT count(*) FROM {table}) END
            """;

    /// <summary>The same for any part; null for whoever may not read all of them.</summary>
    public async Task<long?> CountRowsAsync(Part part, Viewer viewer, CancellationToken cancel = default) =>
        viewer.ReadsAll(part.RecordType, catalogues.Live) ? await CountRowsAsync(part, cancel) : null;

    private async Task<long> CountRowsAsync(Part part, CancellationToken cancel)
    {
        var table = Sql.Base(part);
        if (part.RecordType.Definition is not null && await CountedAsync($"SELECT count(to_regclass('{table}'))", cancel) == 0)
            return 0;
        return await CountedAsync("SELECT " + CountSql(table), cancel);
    }

    private static HashSet<string> Touched(Catalogue live, Catalogue draft) =>
        draft
            .Site.Fields.Where(field => live.Site.Find(field.Id) is not { } old || !SiteDefinition.Same(old, field))
            .SelectMany(field => field.Places())
            .Select(place => place.RecordType)
            .ToHashSet(StringComparer.Ordinal);

    private Task<long> CountedAsync(string sql, CancellationToken cancel) => source.Command(sql).ValueAsync<long>(cancel);
}
