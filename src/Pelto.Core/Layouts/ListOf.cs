namespace Pelto.Core.Layouts;

/// <summary>
/// A list of records that layers can shape: that of a record type, or the one on a record's screen of what points to it by a link.
/// </summary>
/// <param name="Type">The record type whose records stand in it.</param>
/// <param name="By">For a list on another record's screen: the link; else null.</param>
public sealed record ListOf(RecordType Type, Field? By = null)
{
    /// <summary>What ids of lists and their columns begin with.</summary>
    public const string Prefix = PartNames.List;

    /// <summary>
    /// The most added fields that become columns by themselves; all others are put there in the layer of a list, as somebody wants them.
    /// </summary>
    public const int MaxDefaultColumns = 8;

    private const char Within = '>';
    private const int MaxWithin = 6;

    /// <summary>The id of the list itself, in operations of layers.</summary>
    public string Id => By is null ? Prefix + Type.Code : $"{Prefix}{By.Id}{Within}";

    /// <summary>As people read it, such as “list of sales orders”.</summary>
    public string InWords => $"list of {Type.Plural.ToLowerInvariant()}{(By is null ? "" : $" by {By.Label}")}";

    /// <summary>The id of a column, in operations of layers.</summary>
    public string IdOf(Field column) => By is null ? Prefix + column.Id : Id + column.Id;

    /// <summary>The lasting id of the field of a column; null when the id is none of this list.</summary>
    public string? FieldIdOf(string id) =>
        By is not null
            ? id.Length > Id.Length && id.StartsWith(Id, StringComparison.Ordinal)
                ? id[Id.Length..]
                : null
            : id.StartsWith(Prefix, StringComparison.Ordinal) && !id.Contains(Within, StringComparison.Ordinal) && id != Id
                ? id[Prefix.Length..]
                : null;

    /// <summary>The field whose column has this id; null when the list can have none such.</summary>
    public Field? Find(string id) =>
        FieldIdOf(id) is { } field ? Type.Header.Fields.FirstOrDefault(candidate => candidate.Id == field) : null;

    /// <summary>True for the id of this list or of a column that it has, or had in another version of the host.</summary>
    public bool Knows(string id) =>
        id == Id || Find(id) is not null || (FieldIdOf(id) is { } field && Type.Description.Removed.ContainsKey(field));

    /// <summary>
    /// The columns that it has without any layer. Within another record the link is left out, which would say the same in every row.
    /// </summary>
    public IReadOnlyList<Field> Standard =>
        By is null ? Type.ListColumns : [.. Type.ListColumns.Where(column => column != By).Take(MaxWithin)];

    /// <summary>The lists that the screens of a record type shape: its own, and those of what points to its records.</summary>
    public static IEnumerable<ListOf> All(RecordType type) =>
        type.PointedBy.Select(link => new ListOf(link.Part.RecordType, link)).Prepend(new(type));
}
