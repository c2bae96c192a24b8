namespace Pelto.Core.Queries;

/// <summary>
/// Which views there are for queries to read, and what stands in each: one for each record type and one for each of its lines, which holds
/// what is kept in the first
/// three of the tables beside it as well; and one for each further table, named as the table. So what stands in a view stays there,
/// whatever is added.
/// </summary>
public static class QueryViews
{
    // Of a table 400 columns are taken by what is added: three, and the host's own, are within the limit. See Releases/Placing.
    private const int TablesInFirst = 3;

    /// <summary>The names of a part's views, the first first.</summary>
    public static IEnumerable<string> For(Part part) =>
        part.Fields.Where(QueryBinder.IsReadable).Select(For).Prepend(part.Table).Distinct(StringComparer.Ordinal);

    /// <summary>The name of the view in which a field stands.</summary>
    public static string For(Field field) => (field.Definition?.Table ?? 0) < TablesInFirst ? field.Part.Table : field.Table;

    /// <summary>What stands in one of a part's views.</summary>
    public static IEnumerable<Field> FieldsIn(Part part, string view) =>
        part.Fields.Where(field => QueryBinder.IsReadable(field) && For(field) == view);

    /// <summary>How many columns the first view of a part has: ids, where a line stands, and fields by all their codes.</summary>
    public static int ColumnsIn(Part part) =>
        3
        + FieldsIn(part, part.Table)
            .Sum(field => field.Columns.Count * (field.Content is FieldDescription built ? built.OtherCodes.Count + 2 : 1));

    /// <summary>What a query asks the first view of a part for, and is in another; null where it asks for nothing of the kind.</summary>
    /// <param name="words">The words of its text.</param>
    /// <param name="types">What is there.</param>
    /// <param name="isShown">Which fields may be named to whoever asks.</param>
    public static Field? Elsewhere(IReadOnlySet<string> words, IReadOnlyList<RecordType> types, Func<Field, bool> isShown) =>
        types
            .SelectMany(type => type.Parts)
            .Where(part => words.Contains(part.Table))
            .SelectMany(part => part.Fields)
            .FirstOrDefault(field =>
                QueryBinder.IsReadable(field) && For(field) != field.Part.Table && words.Contains(field.Code) && isShown(field)
            );
}
