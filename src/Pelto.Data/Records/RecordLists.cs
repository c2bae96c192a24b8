using System.Globalization;
using System.Text;
using System.Text.Json;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>What to sort by.</summary>
public readonly record struct SortKey(Field Field, bool Descending);

/// <summary>A request for a page of a list.</summary>
/// <param name="Type">The record type.</param>
/// <param name="Order">What to sort by; the id decides in the end.</param>
/// <param name="Take">Rows wanted.</param>
/// <param name="After">Where the page before ended, or null for the first page.</param>
/// <param name="Search">Words to find, or null.</param>
public sealed record ListQuery(RecordType Type, IReadOnlyList<SortKey> Order, int Take, string? After = null, string? Search = null);

/// <summary>A row of a list.</summary>
/// <param name="Id">The record's id.</param>
/// <param name="Values">Values of the header, by slot.</param>
/// <param name="Labels">What links point to, as text, by slot.</param>
public sealed record ListRow(long Id, Value[] Values, IReadOnlyDictionary<int, string> Labels);

/// <summary>A page of a list.</summary>
/// <param name="Rows">The rows.</param>
/// <param name="Next">Where the next page begins; null at the end.</param>
public sealed record ListPage(IReadOnlyList<ListRow> Rows, string? Next);

/// <summary>A record that a link can point to.</summary>
public sealed record Target(long Id, string Identifier, string Name)
{
    /// <summary>As one text.</summary>
    public string Text => Name.Length == 0 || Name == Identifier ? Identifier : $"{Name} ({Identifier})";
}

/// <summary>Lists, look-ups and labels, as SQL of our own. Pages are found by key, never by counting rows off, so that the thousandth costs what the first does.</summary>
public sealed class RecordLists(NpgsqlDataSource source)
{
    /// <summary>The most rows that a page has.</summary>
    public const int LargestPage = 500;

    /// <summary>Reads a sort order such as <c>-order_date,number</c>; unknown fields, fields that are not the viewer's to read and an empty text give a sentence.</summary>
    public static string? TryOrder(RecordType type, string? text, Viewer viewer, out IReadOnlyList<SortKey> order)
    {
        var keys = new List<SortKey>();
        order = keys;
        foreach (var name in (string.IsNullOrWhiteSpace(text) ? type.Description.Order : text).Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var code = name.TrimStart('-');
            if (type.Header.Find(code) is not { } field || viewer.LevelAt(field) < AccessLevel.Read) return $"There is no field “{code}” to sort by.";
            if (!viewer.MaySeeThrough(field)) return $"You may not sort by {field.Label}, since you may not see {field.Target!.Plural.ToLowerInvariant()}.";
            if (keys.TrueForAll(key => key.Field != field)) keys.Add(new(field, name.StartsWith('-')));
        }

        return null;
    }

    /// <summary>Reads a page. Throws <see cref="FormatException"/> for a cursor that is not from such a list.</summary>
    public async Task<ListPage> ReadAsync(ListQuery query, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.MayRead(query.Type)) throw new AccessRefusedException($"You may not see {query.Type.Plural.ToLowerInvariant()}.");
        if (query.Order.Any(key => viewer.LevelAt(key.Field) < AccessLevel.Read || !viewer.MaySeeThrough(key.Field))) throw new AccessRefusedException("You may not sort by this field.");

        var take = Math.Clamp(query.Take, 1, LargestPage);
        var fields = query.Type.Header.Fields.Where(field => viewer.LevelAt(field) >= AccessLevel.Read).ToList();
        var text = new ListSql(query, fields, fields.Where(field => field.Target is not null && viewer.MaySeeThrough(field)).ToHashSet(), take + 1);
        await using var command = source.CreateCommand(text.ToString());
        foreach (var value in text.Parameters) command.Parameters.Add(new() { Value = value });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var rows = new List<ListRow>();
        while (await reader.ReadAsync(cancel)) rows.Add(Row(reader, query.Type, fields, text.Labelled));
        if (rows.Count <= take) return new(rows, null);
        rows.RemoveAt(take);
        return new(rows, Cursor.Write(query.Order, rows[^1]));
    }

    /// <summary>The targets with these ids, for showing links; none of them when the viewer may not see such records.</summary>
    public async Task<IReadOnlyDictionary<long, Target>> TargetsAsync(RecordType type, IReadOnlyCollection<long> ids, Viewer viewer, CancellationToken cancel = default)
    {
        if (ids.Count == 0 || !viewer.MayRead(type)) return new Dictionary<long, Target>();
        await using var command = source.CreateCommand($"SELECT id, {Names(type)} FROM {Sql.Table(Sql.Erp, type.Header.Table)} WHERE id = ANY($1)");
        command.Parameters.Add(new() { Value = ids.ToArray() });
        return (await ReadTargetsAsync(command, cancel)).ToDictionary(target => target.Id);
    }

    /// <summary>Targets whose identifier begins with the text, or whose name holds all its words; best first.</summary>
    public async Task<IReadOnlyList<Target>> PickAsync(RecordType type, string text, Viewer viewer, int take = 12, CancellationToken cancel = default)
    {
        if (!viewer.MayRead(type)) throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
        var (identifier, name) = (Sql.Name(type.Identifier.Code), NameColumn(type));
        var words = Words(text);
        var sql = new StringBuilder($"SELECT id, {Names(type)} FROM {Sql.Table(Sql.Erp, type.Header.Table)}");
        if (words.Count > 0) sql.Append(" WHERE (").AppendJoin(" AND ", words.Select((_, i) => Inv($"({name} ILIKE ${i + 4} OR {identifier} ILIKE ${i + 4})"))).Append(") OR ").Append(identifier).Append(" ILIKE $2");
        sql.Append(CultureInfo.InvariantCulture, $" ORDER BY lower({identifier}) = lower($3) DESC, {identifier} ILIKE $2 DESC, {name} ILIKE $2 DESC, {name}, id LIMIT $1");
        await using var command = source.CreateCommand(sql.ToString());
        command.Parameters.Add(new() { Value = take });
        command.Parameters.Add(new() { Value = Escaped(Plain(text).Trim()) + "%" });
        command.Parameters.Add(new() { Value = Plain(text).Trim() });
        foreach (var word in words) command.Parameters.Add(new() { Value = "%" + Escaped(word) + "%" });
        return await ReadTargetsAsync(command, cancel);
    }

    /// <summary>The id of the record with this identifier, or null.</summary>
    public async Task<long?> FindAsync(RecordType type, string identifier, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.MayRead(type)) throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
        await using var command = source.CreateCommand($"SELECT id FROM {Sql.Table(Sql.Erp, type.Header.Table)} WHERE {Sql.Name(type.Identifier.Code)} = $1");
        command.Parameters.Add(new() { Value = Plain(identifier) });
        return (long?)await command.ExecuteScalarAsync(cancel);
    }

    internal static string Inv(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);

    internal static List<string> Words(string text) => [.. Plain(text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Take(6)];

    // PostgreSQL keeps no NUL in a text; other control characters cannot stand in a value either.
    private static string Plain(string text) => string.Concat(text.Where(c => !char.IsControl(c)));

    internal static string Escaped(string word) => word.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal);

    // A type that is named by a link (an order by its customer) is shown by its identifier alone.
    internal static string NameColumn(RecordType type) => Sql.Name(type.Name.Kind is LinkKind ? type.Identifier.Code : type.Name.Code);

    private static string Names(RecordType type) => $"coalesce({Sql.Name(type.Identifier.Code)}, ''), coalesce({NameColumn(type)}, '')";

    private static async Task<IReadOnlyList<Target>> ReadTargetsAsync(NpgsqlCommand command, CancellationToken cancel)
    {
        var targets = new List<Target>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel)) targets.Add(new(reader.GetInt64(0), reader.GetString(1), reader.GetString(2)));
        return targets;
    }

    private static ListRow Row(NpgsqlDataReader reader, RecordType type, List<Field> fields, IReadOnlySet<Field> labelled)
    {
        var values = new Value[type.Header.Fields.Count];
        var labels = new Dictionary<int, string>();
        var at = 1;
        foreach (var field in fields)
        {
            values[field.Slot] = field.Kind.FromColumn(Columns.Read(reader, at++, field.Kind));
            if (!labelled.Contains(field)) continue;
            if (!reader.IsDBNull(at)) labels[field.Slot] = reader.GetString(at);
            at++;
        }

        return new(reader.GetInt64(0), values, labels);
    }
}

/// <summary>Where a page ended: the values of its last row in the sort columns, and its id.</summary>
internal sealed record Cursor(IReadOnlyList<Value> Keys, long Id)
{
    public static string Write(IReadOnlyList<SortKey> order, ListRow last)
    {
        var keys = order.Select(key => KeyText(key.Field, last)).ToArray();
        var json = JsonSerializer.SerializeToUtf8Bytes(new object?[] { string.Join(',', order.Select(key => (key.Descending ? "-" : "") + key.Field.Code)), keys, last.Id });
        return Convert.ToBase64String(json).Replace('+', '-').Replace('/', '_').TrimEnd('=');
    }

    /// <summary>Throws <see cref="FormatException"/> when the text is no cursor of a list in this order.</summary>
    public static Cursor Read(string text, IReadOnlyList<SortKey> order)
    {
        try
        {
            var plain = text.Replace('-', '+').Replace('_', '/');
            using var json = JsonDocument.Parse(Convert.FromBase64String(plain.PadRight((plain.Length + 3) / 4 * 4, '=')));
            var root = json.RootElement;
            if (root[0].GetString() != string.Join(',', order.Select(key => (key.Descending ? "-" : "") + key.Field.Code))) throw new FormatException();
            var keys = order.Select((key, i) => KeyValue(key.Field, root[1][i].GetString())).ToList();
            return new(keys, root[2].GetInt64());
        }
        catch (Exception wrong) when (wrong is FormatException or JsonException or InvalidOperationException or IndexOutOfRangeException or ArgumentException or OverflowException)
        {
            throw new FormatException("This place in the list is not known any more. Begin again without it.");
        }
    }

    // A list sorts by what people read, so for links the key is the target's label.
    private static string? KeyText(Field field, ListRow row) =>
        field.Kind is LinkKind ? row.Labels.GetValueOrDefault(field.Slot)
        : row.Values[field.Slot] is { IsEmpty: false } value ? value.Type == ValueForm.Text ? value.Text : field.Kind.ToJson(value)!.ToJsonString().Trim('"') : null;

    private static Value KeyValue(Field field, string? text) => text is null ? Value.Empty
        : field.Kind.Holds switch
        {
            ValueForm.Number => Value.Of(decimal.Parse(text, NumberStyles.Float, CultureInfo.InvariantCulture)),
            ValueForm.Date => Value.Of(DateOnly.ParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture)),
            ValueForm.YesNo => Value.Of(bool.Parse(text)),
            _ => Value.Of(text),
        };
}

/// <summary>The SQL of a page of a list.</summary>
internal sealed class ListSql
{
    private readonly ListQuery query;
    private readonly List<Field> fields;
    private readonly StringBuilder sql = new();

    public ListSql(ListQuery query, List<Field> fields, IReadOnlySet<Field> labelled, int take)
    {
        (this.query, this.fields, Labelled) = (query, fields, labelled);
        Select();
        From();
        Where();
        OrderBy(take);
    }

    public List<object> Parameters { get; } = [];

    /// <summary>The links that are shown with what they point to.</summary>
    public IReadOnlySet<Field> Labelled { get; }

    public override string ToString() => sql.ToString();

    private void Select()
    {
        sql.Append("SELECT h.id");
        foreach (var field in fields)
        {
            sql.Append(", ").Append(Column(field));
            if (Labelled.Contains(field)) sql.Append(", ").Append(LinkLabel(field));
        }
    }

    private void From()
    {
        sql.Append(" FROM ").Append(Sql.Table(Sql.Erp, query.Type.Header.Table)).Append(" h");
        if (fields.Exists(field => field.IsAdded)) sql.Append(" LEFT JOIN ").Append(Sql.Table(Sql.Added, query.Type.Header.Table)).Append(" a ON a.id = h.id");
        foreach (var field in Labelled)
            sql.Append(RecordLists.Inv($" LEFT JOIN {Sql.Table(Sql.Erp, field.Target!.Header.Table)} l{field.Slot} ON l{field.Slot}.id = {Column(field)}"));
    }

    private void Where()
    {
        var conditions = new List<string>();
        foreach (var word in RecordLists.Words(query.Search ?? ""))
        {
            var parameter = Parameter("%" + RecordLists.Escaped(word) + "%");
            conditions.Add("(false" + string.Concat(query.Type.Description.Search.Select(query.Type.Header.Find).OfType<Field>().Where(field => fields.Contains(field) && (field.Target is null || Labelled.Contains(field)))
                .Select(field => $" OR {(field.Kind is LinkKind ? LinkLabel(field) : Column(field))} ILIKE {parameter}")) + ")");
        }

        if (query.After is not null) conditions.Add(Past(Cursor.Read(query.After, query.Order)));
        if (conditions.Count > 0) sql.Append(" WHERE ").AppendJoin(" AND ", conditions);
    }

    // Rows after the cursor: the first key is past its value, or equal and the rest is past. Empty comes last either way.
    private string Past(Cursor cursor)
    {
        var past = $"h.id > {Parameter(cursor.Id)}";
        for (var i = query.Order.Count - 1; i >= 0; i--)
        {
            var key = query.Order[i];
            var (column, value) = (SortColumn(key.Field), cursor.Keys[i]);
            if (value.IsEmpty)
            {
                past = $"({column} IS NULL AND {past})";
                continue;
            }

            var parameter = Parameter(value.Type == ValueForm.Text ? value.Text : key.Field.Kind.ToColumn(value)!);
            var beyond = $"{column} {(key.Descending ? "<" : ">")} {parameter}";
            past = $"({beyond}{(IsNeverEmpty(key.Field) ? "" : $" OR {column} IS NULL")} OR ({column} = {parameter} AND {past}))";
        }

        return past;
    }

    private void OrderBy(int take)
    {
        sql.Append(" ORDER BY ");
        foreach (var key in query.Order)
            sql.Append(SortColumn(key.Field)).Append(key.Descending ? " DESC" : "").Append(IsNeverEmpty(key.Field) ? "" : " NULLS LAST").Append(", ");
        sql.Append("h.id LIMIT ").Append(Parameter(take));
    }

    // Said only where it matters, so that an index on a column that is never empty serves both directions.
    private static bool IsNeverEmpty(Field field) => !field.IsAdded && field.Required;

    private string Parameter(object value)
    {
        Parameters.Add(value);
        return RecordLists.Inv($"${Parameters.Count}");
    }

    private static string Column(Field field) => $"{(field.IsAdded ? "a" : "h")}.{Sql.Name(field.Code)}";

    private static string SortColumn(Field field) => field.Kind is LinkKind ? LinkLabel(field) : Column(field);

    private static string LinkLabel(Field field) => RecordLists.Inv($"l{field.Slot}.{RecordLists.NameColumn(field.Target!)}");
}
