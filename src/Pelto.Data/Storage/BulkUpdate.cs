using NpgsqlTypes;

namespace Pelto.Data.Storage;

/// <summary>Writes one field of many rows in one statement.</summary>
internal static class BulkUpdate
{
    /// <summary>The statement: ids are the first parameter, then come the field's columns, each as an array.</summary>
    /// <param name="field">The field.</param>
    /// <param name="condition">What else must hold of a row <c>t</c>, beginning with AND; or nothing.</param>
    public static string For(Field field, string condition = "")
    {
        var set = field.Columns.Select(
            (column, i) =>
                $"{Sql.Name(column.Name)} = {(column.Type == ColumnType.TextArray ? $"string_to_array(u.c{i}, ' ')" : $"u.c{i}")}"
        );
        var arrays = field.Columns.Select((column, i) => $"${i + 2}::{ArrayType(column.Type)}");
        return $"UPDATE {Sql.Of(field)} t SET {string.Join(", ", set)} FROM unnest($1::bigint[], "
            + $"{string.Join(", ", arrays)}) AS u(id, {string.Join(", ", field.Columns.Select((_, i) => $"c{i}"))}) WHERE t.id = u.id {condition}";
    }

    /// <summary>Binds ids and values.</summary>
    public static void Bind(NpgsqlCommand command, Field field, IReadOnlyList<(long Id, Value Value)> rows)
    {
        command.Parameters.Add(new() { Value = rows.Select(row => row.Id).ToArray() });
        for (var i = 0; i < field.Columns.Count; i++)
        {
            var type = field.Columns[i].Type;

            // An array of arrays must be even, and these are not: codes are plain identifiers, so they go as one text.
            object?[] values =
            [
                .. rows.Select(row =>
                    field.Kind.ToColumn(row.Value, i) is string[] codes ? string.Join(' ', codes) : field.Kind.ToColumn(row.Value, i)
                ),
            ];
            command.Parameters.Add(
                new()
                {
                    NpgsqlDbType = NpgsqlDbType.Array | (type == ColumnType.TextArray ? NpgsqlDbType.Text : type.DbType()),
                    Value = values,
                }
            );
        }
    }

    private static string ArrayType(ColumnType type) => (type == ColumnType.TextArray ? "text" : type.SqlType()) + "[]";
}
