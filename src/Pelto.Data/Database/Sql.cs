using Pelto.Core.Releases;

namespace Pelto.Data.Database;

/// <summary>Names in SQL. Values never go into text: they are parameters.</summary>
internal static class Sql
{
    /// <summary>The schema of the host's tables.</summary>
    public const string Erp = "erp";

    /// <summary>The schema of what the site adds.</summary>
    public const string Added = "added";

    /// <summary>The schema of the tables of user-defined record types: what of them is not an added field.</summary>
    public const string UserDefined = "own";

    /// <summary>The schema of the tables in which the database keeps what several links point to.</summary>
    public const string Linked = "linked";

    /// <summary>
    /// The column, in every table of what is added, that says where values come from that were filled and may be changed.
    /// </summary>
    public const string Origins = "origins";

    /// <summary>The schema in which the rows of a record type stand, beside which what is added stands.</summary>
    public static string SchemaOf(RecordType type) => type.Definition is null ? Erp : UserDefined;

    /// <summary>The table in which the rows of a part stand, beside which what is added stands.</summary>
    public static string Base(Part part) => Table(SchemaOf(part.RecordType), part.Table);

    /// <summary>The table in which a field is kept.</summary>
    public static string Of(Field field) => field.IsAdded ? Table(Added, field.Table) : Base(field.Part);

    /// <summary>What is added to a part, to be joined by its id: a table, or several as one.</summary>
    public static string AddedTable(Part part)
    {
        var first = Table(Added, part.Table);
        return part.AddedTables.Count < 2
            ? first
            : $"({first}{string.Concat(part.AddedTables.Skip(1).Select(further => $" LEFT JOIN {Table(Added, further)} USING (id)"))})";
    }

    /// <summary>The table in which the database keeps what a field with several links points to.</summary>
    public static string LinkTable(Field field) => Table(Linked, KeepLinks.TableOf(field.Part, field.Columns[0].Name));

    /// <summary>A quoted name.</summary>
    public static string Name(string name) => $"\"{name.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";

    /// <summary>The quoted name of a field's first column.</summary>
    public static string Column(Field field) => Name(field.Columns[0].Name);

    /// <summary>A quoted name in a schema.</summary>
    public static string Table(string schema, string name) => $"{schema}.{Name(name)}";
}
