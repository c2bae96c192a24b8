using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Releases;

/// <summary>A column of an added table as it is in the database.</summary>
/// <param name="FieldId">The lasting id of the field that it was made for, kept in the column's comment.</param>
/// <param name="Type">Its type; null for a type that no kind has.</param>
public sealed record ColumnFacts(string FieldId, ColumnType? Type);

/// <summary>A rule of an added table as it is in the database.</summary>
/// <param name="Name">The constraint's name.</param>
/// <param name="Column">The column that it is about.</param>
/// <param name="IsValidated">True once all rows are known to keep it.</param>
public sealed record CheckFacts(string Name, string Column, bool IsValidated);

/// <summary>A table in schema <c>added</c> as it is in the database.</summary>
public sealed record TableFacts(IReadOnlyDictionary<string, ColumnFacts> Columns, IReadOnlyList<CheckFacts> Checks);

/// <summary>What the database holds, as far as a plan has to know.</summary>
/// <param name="Added">The tables in schema <c>added</c>, by name.</param>
/// <param name="Records">How many records there are of each type that the draft touches, by its code; an estimate above some ten thousand.</param>
/// <param name="Misfits">How many values a changed rule would refuse, by the id of the field.</param>
public sealed record StorageFacts(
    IReadOnlyDictionary<string, TableFacts> Added, IReadOnlyDictionary<string, long> Records, IReadOnlyDictionary<string, long> Misfits)
{
    /// <summary>A database to which nothing was added.</summary>
    public static StorageFacts Nothing { get; } =
        new(new Dictionary<string, TableFacts>(), new Dictionary<string, long>(), new Dictionary<string, long>());

    internal TableFacts? Table(Part part) => Added.GetValueOrDefault(part.Table);

    internal ColumnFacts? Column(Field field) => Table(field.Part)?.Columns.GetValueOrDefault(field.Code);

    internal IEnumerable<CheckFacts> ChecksOf(Field field) => Table(field.Part)?.Checks.Where(check => check.Column == field.Code) ?? [];
}
