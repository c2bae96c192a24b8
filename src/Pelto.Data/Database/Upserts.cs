using Microsoft.EntityFrameworkCore.Metadata;

namespace Pelto.Data.Database;

/// <summary>Rows that are made where they are not there, and take the place of what is: EF Core has no statement for it.</summary>
internal static class Upserts
{
    /// <summary>Writes rows by their key, named by the model, in one statement.</summary>
    public static async Task UpsertAsync<T>(this DbContext context, IReadOnlyCollection<T> rows, CancellationToken cancel)
        where T : class
    {
        if (rows.Count == 0)
            return;
        var type = context.Model.FindEntityType(typeof(T)) ?? throw new ArgumentException($"{typeof(T).Name} is not a table of ours.");
        var properties = type.GetProperties().ToList();
        var parameters = new List<object>();
        string Parameter(IProperty property, T row)
        {
            var mapping = property.GetRelationalTypeMapping();
            var value = property.GetGetter().GetClrValue(row);
            var name = $"p{parameters.Count}";
            parameters.Add(
                new NpgsqlParameter(name, mapping.Converter is { } converter ? converter.ConvertToProvider(value) : value ?? DBNull.Value)
            );
            return "@" + name;
        }

        string Names(IEnumerable<IProperty> of) => string.Join(", ", of.Select(property => Sql.Name(property.GetColumnName())));
        var key = type.FindPrimaryKey()!.Properties;
        var set = properties.Except(key).Select(property => Sql.Name(property.GetColumnName())).Select(name => $"{name} = excluded.{name}");
        var values = rows.Select(row => $"({string.Join(", ", properties.Select(property => Parameter(property, row)))})");

        // All that stands in the text is named by the model.
        var sql = $"""
            INSERT INTO {Sql.Table(type.GetSchema()!, type.GetTableName()!)} ({Names(properties)}) VALUES {string.Join(", ", values)}
            ON CONFLICT ({Names(key)}) DO UPDATE SET {string.Join(", ", set)}
            """;
        await context.Database.ExecuteSqlRawAsync(sql, parameters, cancel);
    }
}
