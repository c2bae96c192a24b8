using System.Globalization;
using System.Text;
using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>The SQL that finds what a link can point to by what somebody typed: parts of words, with or without accents, best first.</summary>
/// <remarks>
/// Each way in which a record can fit is looked for on its own, by an index and for a few rows only, so that a million candidates cost hardly more than a hundred.
/// Words of two letters are looked for where words begin, since an index of three letters finds nothing shorter anywhere else; single letters only at the very beginning.
/// </remarks>
internal static class PickSql
{
    private const int MostLooked = 200;

    /// <summary>The indexes that finding needs, on the table of a record type.</summary>
    public static string Indexes(RecordType type) => string.Concat(
        Index(type, "number", $"({Identifier(type)})"),
        HasName(type) ? Index(type, "name", $"({Name(type)})") : "",
        Index(type, "words", $"USING gin ({Whole(type)} gin_trgm_ops)"));

    /// <summary>The name of the last of them: where it is there, all are.</summary>
    public static string LastIndex(RecordType type) => Sql.Table(Sql.SchemaOf(type), $"{type.Header.Table}_find_words");

    /// <summary>Makes the command.</summary>
    /// <param name="source">Where.</param>
    /// <param name="type">What is looked for.</param>
    /// <param name="text">What somebody typed.</param>
    /// <param name="names">The columns that make a target.</param>
    /// <param name="take">Rows wanted.</param>
    public static NpgsqlCommand Command(NpgsqlDataSource source, RecordType type, string text, string names, int take)
    {
        var table = Sql.Base(type.Header);
        var words = RecordLists.Words(text);
        var command = source.CreateCommand();
        if (words.Count == 0)
        {
            command.CommandText = $"SELECT id, {names} FROM {table} ORDER BY {(HasName(type) ? Sql.Name(type.Name.Code) : Sql.Name(type.Identifier.Code))}, id LIMIT {Parameter((long)take, ColumnType.Integer)}";
            return command;
        }

        var typed = string.Join(' ', words);
        var limit = Parameter((long)take, ColumnType.Integer);
        var begins = $"pelto.plain({Parameter(RecordLists.Escaped(typed) + "%", ColumnType.Text)})";
        var ways = new StringBuilder();
        Way(0, $"{Identifier(type)} = pelto.plain({Parameter(typed, ColumnType.Text)})", Identifier(type), limit);
        Way(1, $"{Identifier(type)} LIKE {begins}", Identifier(type), limit);
        if (HasName(type)) Way(2, $"{Name(type)} LIKE {begins}", Name(type), limit);
        if (words.Exists(word => word.Length > 1))
        {
            var all = string.Join(" AND ", words.Where(word => word.Length > 1).Select(word => $"{Whole(type)} LIKE pelto.plain({Parameter((word.Length > 2 ? "%" : "% ") + RecordLists.Escaped(word) + "%", ColumnType.Text)})"));
            Way(3, all, null, MostLooked.ToString(CultureInfo.InvariantCulture));
        }

        // Of those that hold the words somewhere, such whose word begins so come before such that hold it within.
        var starts = $"position(' ' || pelto.plain({Parameter(words[0], ColumnType.Text)}) IN ' ' || {Whole(type)}) = 0";
        command.CommandText = $"SELECT h.id, {names} FROM (SELECT id, min(way) AS way FROM ({ways}) ways GROUP BY id) found JOIN {table} h ON h.id = found.id ORDER BY way, {starts}, {(HasName(type) ? Name(type) : Identifier(type))}, h.id LIMIT {limit}";
        return command;

        void Way(int way, string condition, string? order, string most) =>
            ways.Append(CultureInfo.InvariantCulture, $"{(ways.Length > 0 ? " UNION ALL " : "")}(SELECT id, {way} AS way FROM {table} WHERE {condition}{(order is null ? "" : $" ORDER BY {order}")} LIMIT {most})");

        string Parameter(object value, ColumnType of)
        {
            command.Parameters.Add(Columns.Parameter(of, value));
            return RecordLists.Inv($"${command.Parameters.Count}");
        }
    }

    private static bool HasName(RecordType type) => type.Name.Kind is not LinkKind && type.Name != type.Identifier;

    // In the order of their bytes, one index serves both for what begins so and for the first few of those in order.
    private static string Identifier(RecordType type) => $"(pelto.plain({Sql.Name(type.Identifier.Code)}) COLLATE \"C\")";

    private static string Name(RecordType type) => $"(pelto.plain({Sql.Name(type.Name.Code)}) COLLATE \"C\")";

    private static string Whole(RecordType type) => HasName(type) ? $"pelto.plain({Sql.Name(type.Identifier.Code)} || ' ' || coalesce({Sql.Name(type.Name.Code)}, ''))" : $"pelto.plain({Sql.Name(type.Identifier.Code)})";

    private static string Index(RecordType type, string what, string on) => $"CREATE INDEX IF NOT EXISTS {Sql.Name($"{type.Header.Table}_find_{what}")} ON {Sql.Base(type.Header)} {on};\n";
}
