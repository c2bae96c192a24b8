using System.Text.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Auditing;

namespace Pelto.Data.Records;

/// <summary>Links that become empty with a deletion.</summary>
/// <param name="Kept">Ids of rows by the id of the field, to be kept with the deleted record.</param>
/// <param name="Notes">What goes on record of guarded links.</param>
internal sealed record Cleared(JsonObject Kept, IReadOnlyList<AuditNote> Notes);

/// <summary>
/// Links that become empty when what they point to is deleted: put down with the deleted record, so that bringing it back brings them back.
/// </summary>
internal sealed class ClearedLinks(NpgsqlTransaction transaction)
{
    /// <summary>The property of a kept record under which they stand: ids of rows by the id of the field.</summary>
    public const string Property = "cleared";

    /// <summary>The rows whose link will become empty, locked until then; null when there are none.</summary>
    public async Task<Cleared?> TakeAsync(Catalogue catalogue, RecordType type, long id, CancellationToken cancel)
    {
        var (cleared, notes) = (new JsonObject(), new List<AuditNote>());
        foreach (var field in Pointers.FieldsTo(catalogue, type).Where(field => field.Kind.ClearsWithTarget))
        {
            // Of several links, all are put down, so that this one finds its place among them again.
            var column = field.ColumnNames("a.")("");
            await using var command = new NpgsqlCommand(
                field.Kind.IsSeveralLinks
                    ? $"SELECT a.id, {column} FROM {Table(field)} a JOIN {Sql.LinkTable(field)} l "
                        + "ON l.owner = a.id WHERE l.target = $1 FOR UPDATE OF a"
                    : $"SELECT a.id FROM {Table(field)} a WHERE {column} = $1 FOR UPDATE",
                transaction.Connection,
                transaction
            );
            command.Parameters.Add(new() { Value = id });
            var rows = new JsonArray();
            await using var reader = await command.ExecuteReaderAsync(cancel);
            while (await reader.ReadAsync(cancel))
                rows.Add(
                    field.Kind.IsSeveralLinks
                        ? new JsonArray(
                            reader.GetInt64(0),
                            new JsonArray([.. reader.GetFieldValue<long[]>(1).Select(target => JsonValue.Create(target))])
                        )
                        : reader.GetInt64(0)
                );
            if (rows.Count == 0)
                continue;
            cleared[field.Id] = rows;
            if (GuardedChanges.FieldsOf(field.Part.RecordType).Contains(field))
                notes.Add(
                    new(AuditKinds.Value, field.Id, $"Emptied {field.Label} where it pointed to a record that was deleted")
                    {
                        Before = rows.ToJsonString(),
                        RecordType = field.Part.RecordType.Code,
                    }
                );
        }

        return cleared.Count > 0 ? new(cleared, notes) : null;
    }

    /// <summary>Lets the links point there again, where nobody has filled them since.</summary>
    /// <returns>What goes on record of guarded links.</returns>
    public async Task<IReadOnlyList<AuditNote>> PutBackAsync(Catalogue catalogue, JsonElement stored, long id, CancellationToken cancel)
    {
        var notes = new List<AuditNote>();
        if (!stored.TryGetProperty(Property, out var cleared))
            return notes;
        foreach (var entry in cleared.EnumerateObject())
        {
            if (catalogue.FindField(entry.Name) is not { Kind.IsLink: true } field)
                continue;
            if (GuardedChanges.FieldsOf(field.Part.RecordType).Contains(field))
                notes.Add(
                    new(AuditKinds.Value, field.Id, $"Filled {field.Label} again where it had pointed to a record that was brought back")
                    {
                        After = entry.Value.GetRawText(),
                        RecordType = field.Part.RecordType.Code,
                    }
                );
            if (field.Kind.IsSeveralLinks)
            {
                foreach (var row in entry.Value.EnumerateArray())
                    await PutBackAmongAsync(
                        field,
                        row[0].GetInt64(),
                        [.. row[1].EnumerateArray().Select(target => target.GetInt64())],
                        id,
                        cancel
                    );
                continue;
            }

            await transaction
                .Command(
                    $"UPDATE {Table(field)} SET {field.ColumnNames()("")} = $1 WHERE id = ANY($2) AND {field.ColumnNames()("")} IS NULL",
                    id,
                    entry.Value.EnumerateArray().Select(row => row.GetInt64()).ToArray()
                )
                .RunAsync(cancel);
        }

        return notes;
    }

    // Where the others are still as they were, the old order comes back; otherwise it comes last.
    private async Task PutBackAmongAsync(Field field, long row, long[] were, long id, CancellationToken cancel)
    {
        var column = field.ColumnNames()("");
        await transaction
            .Command(
                $"UPDATE {Table(field)} SET {column} = CASE WHEN coalesce({column}, '{{}}') = array_remove($3, "
                    + $"$1) THEN $3 ELSE coalesce({column}, '{{}}') || $1 END WHERE id = $2 AND NOT ($1 = ANY(coalesce({column}, '{{}}')))",
                id,
                row,
                were
            )
            .RunAsync(cancel);
    }

    private static string Table(Field field) => Sql.Of(field);
}
