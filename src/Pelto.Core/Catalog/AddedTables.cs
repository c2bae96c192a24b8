namespace Pelto.Core.Catalog;

/// <summary>
/// The tables beside a part in which what is added to it is kept. PostgreSQL keeps 1,600 columns of a table, dropped ones among them, and 8
/// kB of a row,
/// in which each value takes up to 18 bytes however long it is: so a table is filled with fewer, and then the next is begun. Which one a
/// field is kept in
/// lasts, and stands in its definition.
/// </summary>
public static class AddedTables
{
    /// <summary>
    /// The columns that the database keeps of a table, dropped ones among them, and gives of a view. Source: PostgreSQL, limits.
    /// </summary>
    public const int Most = 1600;

    // A character that no code has.
    private const char Further = '+';

    /// <summary>The name of one of the tables, in schema <c>added</c>.</summary>
    /// <param name="part">The part.</param>
    /// <param name="number">Which: 0 for the first.</param>
    public static string NameOf(Part part, int number) => NameOf(part.Table, number);

    /// <summary>True for the name of one of the tables of a part.</summary>
    public static bool IsOf(string table, Part part) =>
        table == part.Table
        || (
            table.Length > part.Table.Length + 1
            && table.StartsWith(part.Table, StringComparison.Ordinal)
            && table[part.Table.Length] == Further
        );

    /// <summary>The name of one of the tables at a place of a field.</summary>
    internal static string NameOf(AlsoOn place, int number) =>
        NameOf(place.Part == Part.HeaderCode ? place.RecordType : $"{place.RecordType}_{place.Part}", number);

    private static string NameOf(string first, int number) =>
        number == 0 ? first : string.Create(CultureInfo.InvariantCulture, $"{first}{Further}{number + 1}");
}
