using NpgsqlTypes;

namespace Pelto.Data.Database;

/// <summary>Column types in PostgreSQL and in the driver.</summary>
internal static class Columns
{
    private static readonly Dictionary<ColumnType, (string Sql, Type Clr, NpgsqlDbType Db)> Types = new()
    {
        [ColumnType.Text] = ("text", typeof(string), NpgsqlDbType.Text),
        [ColumnType.Integer] = ("bigint", typeof(long?), NpgsqlDbType.Bigint),
        [ColumnType.Numeric] = ("numeric", typeof(decimal?), NpgsqlDbType.Numeric),
        [ColumnType.Date] = ("date", typeof(DateOnly?), NpgsqlDbType.Date),
        [ColumnType.Boolean] = ("boolean", typeof(bool?), NpgsqlDbType.Boolean),
        [ColumnType.Time] = ("time without time zone", typeof(TimeOnly?), NpgsqlDbType.Time),
        [ColumnType.Moment] = ("timestamp with time zone", typeof(DateTime?), NpgsqlDbType.TimestampTz),
        [ColumnType.TextArray] = ("text[]", typeof(string[]), NpgsqlDbType.Array | NpgsqlDbType.Text),
        [ColumnType.IntegerArray] = ("bigint[]", typeof(long[]), NpgsqlDbType.Array | NpgsqlDbType.Bigint),
        [ColumnType.Uuid] = ("uuid", typeof(Guid?), NpgsqlDbType.Uuid),
    };

    /// <summary>The type's name in SQL.</summary>
    public static string SqlType(this ColumnType type) => Types[type].Sql;

    /// <summary>The type that has this name in SQL, or null.</summary>
    public static ColumnType? TypeOf(string name) =>
        Types.Where(pair => pair.Value.Sql == name).Select(pair => (ColumnType?)pair.Key).FirstOrDefault();

    /// <summary>The type in the driver; always one that can be null.</summary>
    public static Type ClrType(this ColumnType type) => Types[type].Clr;

    /// <summary>The type of a parameter.</summary>
    public static NpgsqlDbType DbType(this ColumnType type) => Types[type].Db;

    /// <summary>A value as a row of a record holds it, or null.</summary>
    public static object? Read(NpgsqlDataReader reader, int at, ColumnType type) =>
        reader.IsDBNull(at)
            ? null
            : type switch
            {
                ColumnType.Date => reader.GetFieldValue<DateOnly>(at),
                ColumnType.Time => reader.GetFieldValue<TimeOnly>(at),
                _ => reader.GetValue(at),
            };

    /// <summary>The value of a field whose columns follow one another in a row, and the place after them.</summary>
    public static Value Read(NpgsqlDataReader reader, ref int at, Field field)
    {
        var stored = new object?[field.Columns.Count];
        for (var i = 0; i < stored.Length; i++)
            stored[i] = Read(reader, at++, field.Columns[i].Type);
        return field.Kind.FromColumns(stored);
    }

    /// <summary>The quoted names of a field's columns, each after a prefix such as <c>a.</c></summary>
    public static IEnumerable<string> Quoted(Field field, string prefix = "") =>
        field.Columns.Select(column => prefix + Sql.Name(column.Name));

    /// <summary>Fields in the pieces in which one statement can give them: at least one piece.</summary>
    public static IReadOnlyList<IReadOnlyList<Field>> Pieces(IEnumerable<Field> fields)
    {
        var (pieces, room) = (new List<List<Field>> { new() }, MaxInOne);
        foreach (var field in fields)
        {
            // A link has its label beside it.
            var takes = field.Source.Columns.Count + (field.Target is null ? 0 : 1);
            if (takes > room)
                (pieces, room) = ([.. pieces, []], MaxInOne);
            pieces[^1].Add(field);
            room -= takes;
        }

        return pieces;
    }

    // PostgreSQL, limits: 1,664 columns of a result. The rest is for ids, and for what is asked of each row.
    private const int MaxInOne = 1200;

    /// <summary>Adds a parameter of a column's type to a command, and gives its name.</summary>
    public static string Add(this NpgsqlCommand command, ColumnType type, object? value)
    {
        command.Parameters.Add(Parameter(type, value));
        return $"${command.Parameters.Count.ToString(System.Globalization.CultureInfo.InvariantCulture)}";
    }

    /// <summary>A parameter of a column's type.</summary>
    public static NpgsqlParameter Parameter(ColumnType type, object? value) =>
        new() { NpgsqlDbType = type.DbType(), Value = value ?? DBNull.Value };

    /// <summary>A value as it is written where there are no parameters: in views, indexes and defaults.</summary>
    public static string Literal(ColumnType type, object? value) =>
        value switch
        {
            null => "NULL",
            string text => $"E'{text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("'", "\\'", StringComparison.Ordinal)}'",
            decimal number => number.ToString(CultureInfo.InvariantCulture),
            long number => number.ToString(CultureInfo.InvariantCulture),
            bool yes => yes ? "true" : "false",
            DateOnly day => $"'{day:yyyy-MM-dd}'",
            TimeOnly time => $"'{time:HH:mm:ss}'",
            DateTime moment => $"'{moment:yyyy-MM-dd HH:mm:ss}+00'",
            string[] codes => $"ARRAY[{string.Join(", ", codes.Select(code => Literal(ColumnType.Text, code)))}]::text[]",
            _ => throw new InvalidOperationException($"A {value.GetType().Name} cannot be written in SQL."),
        };
}
