using Pelto.Core.Values;

namespace Pelto.Data.Storage;

/// <summary>Column types in PostgreSQL and in the driver.</summary>
internal static class Columns
{
    /// <summary>The type's name in SQL.</summary>
    public static string SqlType(this FieldKind kind) => kind.Column switch
    {
        ColumnType.Text => "text",
        ColumnType.Integer => "bigint",
        ColumnType.Numeric => "numeric",
        ColumnType.Date => "date",
        _ => "boolean",
    };

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
