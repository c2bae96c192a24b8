using System.Text;
using Pelto.Core.Formulas;

namespace Pelto.Data.Records;

/// <summary>
/// The SQL that finds what a link can point to by what somebody typed: parts of words, with or without accents, best first.
/// </summary>
/// <remarks>
/// Each way in which a record can fit is looked for on its own, by an index and for a few rows only, so that a million candidates cost
/// hardly more than a hundred.
/// Words of two letters are looked for where words begin, since an index of three letters finds nothing shorter anywhere else; single
/// letters only at the very beginning.
/// </remarks>
internal static class PickSql
{
    private const int MaxExamined = 200;
    private const int MaxRecent = 5;

    /// <summary>The indexes that finding needs, on the table of a record type.</summary>
    public static string Indexes(RecordType type) =>
        string.Concat(
            Index(type, "number", $"({Identifier(type, "")})"),
            FindColumns.HasName(type) ? Index(type, "name", $"({Name(type, "")})") : "",
            Index(type, "words", $"USING gin ({FindColumns.HostText(type, [], "")} gin_trgm_ops)")
        );

    /// <summary>The name of the last of them: where it is there, all are.</summary>
    public static string LastIndex(RecordType type) => Sql.Table(Sql.SchemaOf(type), $"{type.Header.Table}_find_words");

    /// <summary>Makes the command.</summary>
    /// <param name="source">Where.</param>
    /// <param name="type">What is looked for.</param>
    /// <param name="text">What somebody typed.</param>
    /// <param name="names">The columns that make a target, of the row <c>h</c>.</param>
    /// <param name="take">How many at most.</param>
    /// <param name="viewer">For whom: what this person chose before comes before the rest.</param>
    /// <param name="offer">The link that is being filled, or null for one that offers everything.</param>
    /// <param name="finds">What else it is shown with and found by.</param>
    /// <param name="clock">What the clock says.</param>
    public static NpgsqlCommand Command(
        NpgsqlDataSource source,
        RecordType type,
        string text,
        string names,
        int take,
        Viewer viewer,
        Offer? offer,
        FindColumns finds,
        Clock clock
    )
    {
        var table = Sql.Base(type.Header);
        var words = RecordLists.Words(text);
        var command = source.CreateCommand();
        var limit = command.Add(ColumnType.Integer, (long)take);
        var offered = new OfferSql(offer, type, command.Add);
        var and = offered.And + RowAccess.And(type, viewer, "h.id", command.Add, clock);
        var from = $"{table} h{offered.Join}";
        var withAdded = $"{table} h{offered.JoinWith(finds.NeedsAdded)}";
        var recent = $"pelto.recent r JOIN {table} h ON h.id = r.record{offered.JoinWith(finds.NeedsAdded)}";
        var chosen =
            $"r.person = {command.Add(ColumnType.Uuid, viewer.Id)} AND r.record_type = {command.Add(ColumnType.Text, type.Code)}{and}";
        var found = $"JOIN {table} h ON h.id = found.id{(finds.NeedsAdded ? finds.Join : "")}";
        var ways = new StringBuilder();
        if (words.Count == 0)
        {
            // Nothing typed yet: what one chose before, and then as in an index.
            var first = Sql.Column(FindColumns.HasName(type) ? type.Name : type.Identifier);
            command.CommandText = $"""
                SELECT h.id, {names}, found.way = 0{finds.Names} FROM (SELECT id, min(way) AS way, max(at) AS at FROM (
                  (SELECT h.id, 0 AS way, r.used_at AS at FROM {recent} WHERE {chosen} ORDER BY r.used_at DESC LIMIT {MaxRecent})
                  UNION ALL (SELECT h.id, 1, NULL FROM {from} WHERE true{and} ORDER BY h.{first}, h.id LIMIT {limit})) ways GROUP BY id) found
                {found} ORDER BY way, at DESC, h.{first}, h.id LIMIT {limit}
                """;
            return command;
        }

        var typed = string.Join(' ', words);
        var begins = $"pelto.plain({command.Add(ColumnType.Text, RecordLists.Escaped(typed) + "%")})";
        var longer = words.Where(word => word.Length > 1).ToList();
        var held = finds.Ways(words, Like, Codes).ToList();
        Way(0, from, $"{Identifier(type)} = pelto.plain({command.Add(ColumnType.Text, typed)})", Identifier(type), limit);
        Way(
            1,
            recent,
            $"{chosen} AND ({Identifier(type)} LIKE {begins}{(FindColumns.HasName(type) ? $" OR {Name(type)} LIKE {begins}" : "")}{string.Concat(held.Select(way => $" OR ({way})"))})",
            "r.used_at DESC",
            MaxRecent.ToString(CultureInfo.InvariantCulture)
        );
        Way(2, from, $"{Identifier(type)} LIKE {begins}", Identifier(type), limit);
        if (FindColumns.HasName(type))
            Way(3, from, $"{Name(type)} LIKE {begins}", Name(type), limit);

        // What begins so comes first: where that is enough, nobody looks through all that holds the words, which may be very many.
        var near = ways.ToString();
        ways.Clear().Append("SELECT id, way FROM near");
        if (longer.Count > 0)
            foreach (var way in longer.Count == words.Count ? held : [.. finds.Ways(longer, Like, Codes)])
                Way(
                    4,
                    withAdded,
                    $"(SELECT count(DISTINCT id) FROM near) < {limit} AND {way}",
                    null,
                    MaxExamined.ToString(CultureInfo.InvariantCulture)
                );

        // Of those that hold the words somewhere, such whose word begins so come before such that hold it within.
        var starts = $"position(' ' || pelto.plain({command.Add(ColumnType.Text, words[0])}) IN ' ' || {finds.Whole()}) = 0";
        var byName = FindColumns.HasName(type) ? Name(type) : Identifier(type);
        command.CommandText =
            $"WITH near AS MATERIALIZED ({near}) SELECT h.id, {names}, found.way = 1{finds.Names} FROM (SELECT id, min(way) AS way "
            + $"FROM ({ways}) ways GROUP BY id) found {found} ORDER BY way, {starts}, {byName}, h.id LIMIT {limit}";
        return command;

        string Like(string word) =>
            $"pelto.plain({command.Add(ColumnType.Text, (word.Length > 2 ? "%" : "% ") + RecordLists.Escaped(word) + "%")})";

        string Codes(string[] codes) => command.Add(ColumnType.TextArray, codes);

        void Way(int way, string rows, string condition, string? order, string most) =>
            ways.Append(
                CultureInfo.InvariantCulture,
                $"{(ways.Length > 0 ? " UNION ALL " : "")}(SELECT h.id, {way} AS way FROM {rows} WHERE {condition}{(way == 1 ? "" : and)}{(order is null ? "" : $" ORDER BY {order}")} LIMIT {most})"
            );
    }

    // In the order of their bytes, one index serves both for what begins so and for the first few of those in order.
    private static string Identifier(RecordType type, string of = "h.") =>
        $"(pelto.plain({of}{Sql.Column(type.Identifier)}) COLLATE \"C\")";

    private static string Name(RecordType type, string of = "h.") => $"(pelto.plain({of}{Sql.Column(type.Name)}) COLLATE \"C\")";

    private static string Index(RecordType type, string what, string on) =>
        $"CREATE INDEX IF NOT EXISTS {Sql.Name($"{type.Header.Table}_find_{what}")} ON {Sql.Base(type.Header)} {on};\n";
}
