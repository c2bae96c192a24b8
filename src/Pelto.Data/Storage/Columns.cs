using Npgsql;
using Pelto.Core.Values;

namespace Pelto.Data.Storage;

/// <summary>Column types in PostgreSQL and in the driver.</summary>
internal static class Columns
{
    private static readonly Dictionary<ColumnType, string> Names = new()
    {
        [ColumnType.Text] = "text",
        [ColumnType.Integer] = "bigint",
        [ColumnType.Numeric] = "numeric",
        [ColumnType.Date] = "date",
        [ColumnType.Boolean] = "boolean",
    };

    /// <summary>The type's name in SQL.</summary>
    public static string SqlType(this FieldKind kind) => Names[kind.Column];

    /// <summary>The type that has this name in SQL, or null.</summary>
    public static ColumnType? TypeOf(string name) => Names.Where(pair => pair.Value == name).Select(pair => (ColumnType?)pair.Key).FirstOrDefault();

    /// <summary>A value as a row of a record holds it, or null.</summary>
    public static object? Read(NpgsqlDataReader reader, int at, FieldKind kind) =>
        reader.IsDBNull(at) ? null : kind.Column == ColumnType.Date ? reader.GetFieldValue<DateOnly>(at) : reader.GetValue(at);

    /// <summary>The type in the driver; always one that can be null.</summary>
    public static Type ClrType(this FieldKind kind) => kind.Column switch
    {
        ColumnType.Text => typeof(string),
        ColumnType.Integer => typeof(long?),
        ColumnType.Numeric => typeof(decimal?),
        ColumnType.Date => typeof(DateOnly?),
        _ => typeof(bool?),
    };
}
