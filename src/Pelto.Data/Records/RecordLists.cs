using System.Data;
using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>What to sort by.</summary>
public readonly record struct SortKey(Field Field, bool Descending);

/// <summary>A request for a page of a list.</summary>
/// <param name="Type">The record type.</param>
/// <param name="Order">What to sort by; the id decides in the end.</param>
/// <param name="Take">Rows wanted.</param>
/// <param name="After">Where the page before ended, or null for the first page.</param>
/// <param name="Search">Words to find, or null.</param>
public sealed record ListQuery(RecordType Type, IReadOnlyList<SortKey> Order, int Take, string? After = null, string? Search = null)
{
    /// <summary>What is wanted of each row, besides its number, its name and what it is sorted by; null for all that may be read.</summary>
    public IEnumerable<Field>? Shown { get; init; }

    /// <summary>Conditions that all rows keep.</summary>
    public IReadOnlyList<Filter> Filters { get; init; } = [];

    /// <summary>For a list from which one is chosen: the link that is being filled.</summary>
    public Offer? Offer { get; init; }
}

/// <summary>A row of a list, as whoever asked for it gets it.</summary>
/// <param name="Id">The record's id.</param>
/// <param name="Cells">What was asked for of the header, by slot.</param>
public sealed record ListRow(long Id, IReadOnlyList<Cell> Cells)
{
    /// <summary>What they get of a field.</summary>
    public Cell this[Field field] => Cells[field.Slot] is { Field: not null } cell ? cell : Cell.Nothing(field);
}

/// <summary>A page of a list.</summary>
/// <param name="Rows">The rows.</param>
/// <param name="Next">Where the next page begins; null at the end.</param>
public sealed record ListPage(IReadOnlyList<ListRow> Rows, string? Next);

/// <summary>A record that a link can point to.</summary>
public sealed record Target(long Id, string Identifier, string Name)
{
    /// <summary>True when the person chose it not long ago.</summary>
    public bool IsRecent { get; init; }

    /// <summary>What stands beside number and name where one chooses, as people read it.</summary>
    public IReadOnlyList<string> Details { get; init; } = [];

    /// <summary>As one text.</summary>
    public string Text =>
        Name.Length == 0 || Name == Identifier ? Identifier
        : Identifier.Length == 0 ? Name
        : $"{Name} ({Identifier})";
}

/// <summary>
/// Lists, look-ups and labels, as SQL of our own. Pages are found by key, never by counting rows off, so that the thousandth costs what the
/// first does.
/// </summary>
public sealed class RecordLists(NpgsqlDataSource source, TimeProvider clock)
{
    /// <summary>The most rows that a page has.</summary>
    public const int LargestPage = 500;

    /// <summary>
    /// Reads a sort order such as <c>-order_date,number</c>; unknown fields, fields that are not the viewer's to read and an empty text
    /// give a sentence.
    /// </summary>
    public static string? TryOrder(RecordType type, string? text, Viewer viewer, out IReadOnlyList<SortKey> order)
    {
        var keys = new List<SortKey>();
        order = keys;
        foreach (
            var name in (string.IsNullOrWhiteSpace(text) ? type.Description.Order : text).Split(
                ',',
                StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
            )
        )
        {
            var code = name.TrimStart('-');
            if (type.Header.Find(code) is not { } field || viewer.LevelAt(field) < AccessLevel.Read)
                return $"There is no field “{code}” to sort by.";
            if (!viewer.MayFind(field))
                return $"You may not sort by {field.Label}, since you may not see "
                    + $"{(viewer.MaySeeThrough(field) ? "all " : "")}{field.Target!.Plural.ToLowerInvariant()}.";
            if (!field.Kind.IsOrdered)
                return $"{field.Label} has no order to sort by.";
            if (keys.TrueForAll(key => key.Field != field))
                keys.Add(new(field, name.StartsWith('-')));
        }

        return null;
    }

    /// <summary>Reads a page. Throws <see cref="FormatException"/> for a cursor that is not from such a list.</summary>
    public async Task<ListPage> ReadAsync(ListQuery query, Viewer viewer, CancellationToken cancel = default)
    {
        MustSee(query, viewer);
        if (query.Order.Any(key => !viewer.MayFind(key.Field)))
            throw new AccessRefusedException("You may not sort by this field.");
        var take = Math.Clamp(query.Take, 1, LargestPage);
        var pieces = Columns.Pieces(Wanted(query));
        var read = new ListRows(query.Type, viewer);
        await using var connection = await source.OpenConnectionAsync(cancel);

        // What takes several statements is read as of one moment.
        await using var moment = pieces.Count > 1 ? await connection.BeginTransactionAsync(IsolationLevel.RepeatableRead, cancel) : null;
        foreach (var wanted in pieces)
        {
            var text = new ListSql(query, wanted, take + 1, Clock, viewer);
            await using var command = new NpgsqlCommand(text.ToString(), connection, moment);
            command.Parameters.AddRange(text.Parameters.ToArray());
            await using var reader = await command.ExecuteReaderAsync(cancel);
            await read.TakeAsync(reader, text, cancel);
        }

        var rows = read.Rows();
        if (rows.Count <= take)
            return new(rows, null);
        rows.RemoveAt(take);
        return new(rows, Cursor.Write(query.Order, rows[^1]));
    }

    /// <summary>Puts the records of a list in groups, with how many each has and the totals of their numbers.</summary>
    /// <param name="query">Which records; its order and its size count for nothing.</param>
    /// <param name="keys">What they are grouped by, at most <see cref="ListGroups.MaxKeys"/>.</param>
    /// <param name="totalled">The fields whose totals are wanted.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<ListGroups> GroupAsync(
        ListQuery query,
        IReadOnlyList<GroupKey> keys,
        IReadOnlyList<Field> totalled,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        MustSee(query, viewer);
        if (keys.Any(key => !viewer.MayFind(key.Field)))
            throw new AccessRefusedException("You may not group by this field.");
        if (ListGroups.Totals(totalled, viewer).Count < totalled.Count)
            throw new AccessRefusedException("You may not see this field.");
        var text = new ListSql(query, keys, totalled, Clock, viewer);
        await using var command = source.CreateCommand(text.ToString());
        command.Parameters.AddRange(text.Parameters.ToArray());
        await using var reader = await command.ExecuteReaderAsync(cancel);
        ListGroup? all = null;
        var groups = new List<ListGroup>();
        while (await reader.ReadAsync(cancel))
        {
            var (isAll, group) = GroupSql.Read(reader, keys, totalled);
            if (isAll)
                all = group;
            else
                groups.Add(group);
        }

        return new(keys, totalled, [.. groups.Take(ListGroups.Most)], all!, groups.Count > ListGroups.Most);
    }

    /// <summary>The targets with these ids, for showing links; none of them when the viewer may not see such records.</summary>
    public async Task<IReadOnlyDictionary<long, Target>> TargetsAsync(
        RecordType type,
        IReadOnlyCollection<long> ids,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (ids.Count == 0 || !viewer.MayRead(type))
            return new Dictionary<long, Target>();
        await using var command = source.CreateCommand();
        command.Parameters.Add(new() { Value = ids.ToArray() });
        command.CommandText =
            $"SELECT h.id, {Names(type, "h.")} FROM {Sql.Base(type.Header)} h "
            + $"WHERE h.id = ANY($1){RowAccess.And(type, viewer, "h.id", command.Add, Clock)}";
        return (await ReadTargetsAsync(command, cancel)).ToDictionary(target => target.Id);
    }

    /// <summary>The targets of a link with these ids, for somebody outside: those among them that were released.</summary>
    public async Task<IReadOnlyDictionary<long, Target>> ReleasedAsync(
        Field link,
        IReadOnlyCollection<long> ids,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (ids.Count == 0 || !viewer.MayChoose(link))
            return new Dictionary<long, Target>();
        await using var command = source.CreateCommand();
        command.Parameters.Add(new() { Value = ids.ToArray() });
        var sql = new OfferSql(Offer.Released(viewer, link), link.Target!, command.Add);
        command.CommandText =
            $"SELECT h.id, {Names(link.Target!, "h.")} FROM {Sql.Base(link.Target!.Header)} h{sql.Join} WHERE h.id = ANY($1){sql.And}";
        return (await ReadTargetsAsync(command, cancel)).ToDictionary(target => target.Id);
    }

    /// <summary>
    /// Targets whose number or name begins with the text, or that hold all its words or parts of words, with or without accents; best
    /// first.
    /// </summary>
    /// <param name="type">What is looked for.</param>
    /// <param name="text">What somebody typed; with nothing typed, what this person chose before comes first.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="take">How many at most.</param>
    /// <param name="offer">The link that is being filled; null for one that offers everything.</param>
    /// <param name="link">The same for a link that offers everything, and may find by more than number and name.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<Target>> PickAsync(
        RecordType type,
        string text,
        Viewer viewer,
        int take = 12,
        Offer? offer = null,
        Field? link = null,
        CancellationToken cancel = default
    )
    {
        if (offer is null ? !viewer.MayRead(type) : offer.Field.Target != type || !offer.IsFor(viewer))
            throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
        if (offer?.Missing is not null)
            return [];
        var finds = new FindColumns(type, offer?.Field ?? link, viewer);
        await using var command = PickSql.Command(source, type, text, Names(type, "h."), take, viewer, offer, finds, Clock);
        return await ReadTargetsAsync(command, cancel, finds, viewer.Locale);
    }

    /// <summary>How many records of a type somebody may read.</summary>
    public async Task<long> CountAsync(RecordType type, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.MayRead(type))
            return 0;
        await using var command = source.CreateCommand();
        command.CommandText =
            $"SELECT count(*) FROM {Sql.Base(type.Header)} h WHERE true{RowAccess.And(type, viewer, "h.id", command.Add, Clock)}";
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    /// <summary>How many records a link offers.</summary>
    public async Task<long> CountAsync(Offer offer, Viewer viewer, CancellationToken cancel = default)
    {
        if (!offer.IsFor(viewer))
            throw new AccessRefusedException($"You may not see {offer.Field.Target!.Plural.ToLowerInvariant()}.");
        await using var command = source.CreateCommand();
        var sql = new OfferSql(offer, offer.Field.Target!, command.Add);
        command.CommandText =
            $"SELECT count(*) FROM {Sql.Base(offer.Field.Target!.Header)} h{sql.Join} WHERE "
            + $"true{sql.And}{RowAccess.And(offer.Field.Target!, viewer, "h.id", command.Add, Clock)}";
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    /// <summary>The id of the record with this identifier, or null.</summary>
    public async Task<long?> FindAsync(RecordType type, string identifier, Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.MayRead(type))
            throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
        await using var command = source.CreateCommand();
        command.Parameters.Add(new() { Value = Plain(identifier) });
        command.CommandText =
            $"SELECT h.id FROM {Sql.Base(type.Header)} h "
            + $"WHERE h.{Sql.Column(type.Identifier)} = $1{RowAccess.And(type, viewer, "h.id", command.Add, Clock)}";
        return (long?)await command.ExecuteScalarAsync(cancel);
    }

    private Core.Formulas.Clock Clock => Core.Formulas.Clock.From(clock);

    private static void MustSee(ListQuery query, Viewer viewer)
    {
        if (!viewer.MayRead(query.Type))
            throw new AccessRefusedException($"You may not see {query.Type.Plural.ToLowerInvariant()}.");
        if (query.Filters.Any(filter => !viewer.MayFind(filter.Field)))
            throw new AccessRefusedException("You may not search this field.");
    }

    private static IReadOnlyList<Field> Wanted(ListQuery query)
    {
        if (query.Shown is null)
            return query.Type.Header.Fields;
        var wanted = query
            .Shown.Concat(query.Order.Select(key => key.Field))
            .Append(query.Type.Identifier)
            .Append(query.Type.Name)
            .ToHashSet();
        return [.. query.Type.Header.Fields.Where(wanted.Contains)];
    }

    internal static List<string> Words(string text) => [.. Plain(text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Take(6)];

    // PostgreSQL keeps no NUL in a text; other control characters cannot stand in a value either.
    private static string Plain(string text) => string.Concat(text.Where(c => !char.IsControl(c)));

    internal static string Escaped(string word) =>
        word.Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("%", "\\%", StringComparison.Ordinal)
            .Replace("_", "\\_", StringComparison.Ordinal);

    // A type that is named by a link (an order by its customer) is shown by its identifier alone.
    internal static string NameColumn(RecordType type) => Sql.Column(type.Name.Kind.IsOneLink ? type.Identifier : type.Name);

    private static string Names(RecordType type, string of = "") =>
        $"coalesce({of}{Sql.Column(type.Identifier)}, ''), coalesce({of}{NameColumn(type)}, '')";

    private static async Task<IReadOnlyList<Target>> ReadTargetsAsync(
        NpgsqlCommand command,
        CancellationToken cancel,
        FindColumns? finds = null,
        Locale? locale = null
    )
    {
        var targets = new List<Target>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            targets.Add(
                new(reader.GetInt64(0), reader.GetString(1), reader.GetString(2))
                {
                    IsRecent = finds is not null && reader.GetBoolean(3),
                    Details = finds?.Read(reader, 4, locale!) ?? [],
                }
            );
        return targets;
    }
}
