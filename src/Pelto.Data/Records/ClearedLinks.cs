using System.Text.Json;
using System.Text.Json.Nodes;
using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>Links that become empty when what they point to is deleted: put down with the deleted record, so that bringing it back brings them back.</summary>
internal sealed class ClearedLinks(NpgsqlTransaction transaction)
{
    /// <summary>The property of a kept record under which they stand: ids of rows by the id of the field.</summary>
    public const string Property = "cleared";

    /// <summary>The rows whose link will become empty, locked until then; null when there are none.</summary>
    public async Task<JsonObject?> TakeAsync(Catalogue catalogue, RecordType type, long id, CancellationToken cancel)
    {
        var cleared = new JsonObject();
        foreach (var field in Pointers.FieldsTo(catalogue, type).Where(field => field.Kind is LinkKind { Clears: true }))
        {
            await using var command = new NpgsqlCommand($"SELECT id FROM {Table(field)} WHERE {field.ColumnNames()("")} = $1 FOR UPDATE", transaction.Connection, transaction);
            command.Parameters.Add(new() { Value = id });
            var rows = new JsonArray();
            await using var reader = await command.ExecuteReaderAsync(cancel);
            while (await reader.ReadAsync(cancel)) rows.Add(reader.GetInt64(0));
            if (rows.Count > 0) cleared[field.Id] = rows;
        }

        return cleared.Count > 0 ? cleared : null;
    }

    /// <summary>Lets the links point there again, where nobody has filled them since.</summary>
    public async Task PutBackAsync(Catalogue catalogue, JsonElement kept, long id, CancellationToken cancel)
    {
        if (!kept.TryGetProperty(Property, out var cleared)) return;
        foreach (var entry in cleared.EnumerateObject())
        {
            if (catalogue.FindField(entry.Name) is not { Kind: LinkKind } field) continue;
            await using var command = new NpgsqlCommand($"UPDATE {Table(field)} SET {field.ColumnNames()("")} = $1 WHERE id = ANY($2) AND {field.ColumnNames()("")} IS NULL", transaction.Connection, transaction);
            command.Parameters.Add(new() { Value = id });
            command.Parameters.Add(new() { Value = entry.Value.EnumerateArray().Select(row => row.GetInt64()).ToArray() });
            await command.ExecuteNonQueryAsync(cancel);
        }
    }

    private static string Table(Field field) => Sql.Table(Sql.Added, field.Part.Table);
}
