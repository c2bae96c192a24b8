using System.Text.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Access;

namespace Pelto.Core.Records;

/// <summary>
/// Records as JSON: <c>{"id", "values": {code: value}, "lines": {part: [{"id", code: value}]}}</c>, the form of the programming interface.
/// </summary>
public static class RecordJson
{
    /// <summary>Names, by JSON pointers, what is to be as it is filled again.</summary>
    public const string FillAgain = "fillAgain";

    // Holds a secret as it is kept, in copies that only Pelto reads back.
    private const string Stored = "kept";

    // No field has this code.
    private const string OriginsOf = "origins";

    /// <summary>Writes what the viewer may read of a record.</summary>
    public static JsonObject Write(RecordState state, Viewer viewer) =>
        Write(state, (field, line) => state.CellAt(field, line, viewer).IsRead, static (field, value) => field.Kind.ToJson(value));

    /// <summary>What the viewer sees only masked of a record, by JSON pointers (RFC 6901); null when there is nothing.</summary>
    public static JsonArray? WriteMasked(RecordState state, Viewer viewer)
    {
        var masked = new JsonArray();
        foreach (var field in state.Type.Header.Fields.Where(field => state.CellAt(field, null, viewer).Mask is not null))
            masked.Add($"/values/{field.Code}");
        foreach (var part in state.Type.LineParts)
        foreach (var (line, at) in state.LinesOf(part).Select((line, at) => (line, at)))
        foreach (var field in part.Fields.Where(field => state.CellAt(field, line, viewer).Mask is not null))
            masked.Add(string.Create(CultureInfo.InvariantCulture, $"/lines/{part.Code}/{at}/{field.Code}"));
        return masked.Count == 0 ? null : masked;
    }

    /// <summary>
    /// Where values come from that were filled and may be changed, by JSON pointers to them (RFC 6901); null when there are none that the
    /// viewer may read.
    /// </summary>
    public static JsonObject? WriteOrigins(RecordState state, Viewer viewer)
    {
        var origins = new JsonObject();
        foreach (var (field, origin) in state.Origins)
            Add($"/values/{field.Code}", field, null, origin);
        foreach (var part in state.Type.LineParts)
        foreach (var (line, at) in state.LinesOf(part).Select((line, at) => (line, at)))
        foreach (var (field, origin) in line.Origins)
            Add(string.Create(CultureInfo.InvariantCulture, $"/lines/{part.Code}/{at}/{field.Code}"), field, line, origin);
        return origins.Count == 0 ? null : origins;

        void Add(string pointer, Field field, LineState? line, Origin origin)
        {
            if (!state.CellAt(field, line, viewer).IsRead)
                return;
            var said = new JsonObject { ["at"] = origin.At };
            if (origin.By is not null)
                said["typedBy"] = origin.By;
            if (origin.From is not null)
                said["from"] = origin.From;
            origins[pointer] = said;
        }
    }

    /// <summary>Writes a whole record so that it can be brought back, secrets as they are kept. Not for showing.</summary>
    public static JsonObject WriteStored(RecordState state)
    {
        var record = Write(
            state,
            static (_, _) => true,
            static (field, value) =>
                value.DataType == DataType.Secret ? new JsonObject { [Stored] = value.Stored } : field.Kind.ToJson(value)
        );
        record[OriginsOf] = Origins.Write(state.Origins);
        foreach (var part in state.Type.LineParts)
        foreach (var (row, line) in record["lines"]![part.Code]!.AsArray().Zip(state.LinesOf(part)))
            row![OriginsOf] = Origins.Write(line.Origins);
        return record;
    }

    private static JsonObject Write(RecordState state, Func<Field, LineState?, bool> isShown, Func<Field, Value, JsonNode?> toJson)
    {
        var record = new JsonObject();
        if (state.Id is { } id)
            record["id"] = id;
        record["values"] = Values(state.Type.Header, state.Header, field => isShown(field, null), toJson);
        var parts = new JsonObject();
        foreach (var part in state.Type.LineParts)
        {
            var rows = new JsonArray();
            foreach (var line in state.LinesOf(part))
            {
                var row = Values(part, line.Values, field => isShown(field, line), toJson);
                if (line.Id is { } lineId)
                    row.Insert(0, "id", lineId);
                rows.Add(row);
            }

            parts[part.Code] = rows;
        }

        if (parts.Count > 0)
            record["lines"] = parts;
        return record;
    }

    /// <summary>
    /// Reads a record that was written here, perhaps under another release: what it does not hold comes from <paramref name="orElse"/>.
    /// </summary>
    /// <param name="json">The record.</param>
    /// <param name="type">Its type.</param>
    /// <param name="orElse">What is not in it.</param>
    /// <param name="isStored">True for a copy that never left Pelto, which alone can hold secrets; what a browser sends back cannot.</param>
    public static RecordState Read(JsonElement json, RecordType type, RecordState orElse, bool isStored = false)
    {
        var state = new RecordState(type) { Id = orElse.Id, Version = orElse.Version };
        Fill(type.Header, json.GetProperty("values"), state.Header, orElse.Header, isStored);
        ReadOrigins(json, type.Header, state.Origins, isStored);
        foreach (var part in type.LineParts)
        {
            if (!json.TryGetProperty("lines", out var parts) || !parts.TryGetProperty(part.Code, out var rows))
                continue;
            var known = orElse.LinesOf(part).Where(line => line.Id is not null).ToDictionary(line => line.Id!.Value);
            foreach (var row in rows.EnumerateArray())
            {
                if (!row.TryGetProperty("id", out var id))
                    continue;
                var values = new Value[part.Fields.Count];
                Fill(part, row, values, known.GetValueOrDefault(id.GetInt64())?.Values, isStored);
                var line = new LineState(id.GetInt64().ToString(CultureInfo.InvariantCulture), id.GetInt64(), values);
                ReadOrigins(row, part, line.Origins, isStored);
                state.LinesOf(part).Add(line);
            }
        }

        return state;
    }

    private static void ReadOrigins(JsonElement json, Part part, Dictionary<Field, Origin> origins, bool isStored)
    {
        if (!isStored || !json.TryGetProperty(OriginsOf, out var stored) || stored.ValueKind != JsonValueKind.String)
            return;
        foreach (var (field, origin) in Origins.Read(stored.GetString(), part))
            origins[field] = origin;
    }

    /// <summary>
    /// Reads what somebody sent. Unknown codes and wrong shapes become <paramref name="refusals"/>, each with a JSON pointer (RFC 6901).
    /// </summary>
    public static RecordChanges ReadChanges(JsonElement json, RecordType type, List<(string Pointer, string Sentence)> refusals)
    {
        var changes = new RecordChanges();
        if (json.ValueKind != JsonValueKind.Object)
        {
            refusals.Add(("", "An object with values and lines is expected here."));
            return changes;
        }

        foreach (var property in json.EnumerateObject())
        {
            switch (property.Name)
            {
                case "values":
                    ReadValues(type.Header, property.Value, "/values", changes.Header, refusals);
                    break;
                case "lines":
                    ReadLines(type, property.Value, changes, refusals);
                    break;
                case FillAgain:
                    break;
                case "id" or "version" or "origins" or "masked":
                    break;
                default:
                    refusals.Add(("/" + property.Name, $"“{property.Name}” is not known here; values and lines are."));
                    break;
            }
        }

        if (json.TryGetProperty(FillAgain, out var again))
            ReadFillAgain(again, type, changes, refusals);
        return changes;
    }

    private static void ReadFillAgain(
        JsonElement again,
        RecordType type,
        RecordChanges changes,
        List<(string Pointer, string Sentence)> refusals
    )
    {
        if (again.ValueKind != JsonValueKind.Array)
        {
            refusals.Add(("/" + FillAgain, "A list of JSON pointers is expected here, such as [\"/values/price\"]."));
            return;
        }

        foreach (
            var (pointer, at) in again
                .EnumerateArray()
                .Select((pointer, at) => (pointer.ValueKind == JsonValueKind.String ? pointer.GetString()! : "", at))
        )
        {
            FieldAddress? address = pointer.Split('/') switch
            {
                ["", "values", var code] when type.Header.Find(code) is { IsChangeable: true } field => new(type.Header, null, field),
                ["", "lines", var lines, var index, var code]
                    when type.LineParts.FirstOrDefault(part => part.Code == lines) is { } part
                        && part.Find(code) is { IsChangeable: true } field
                        && int.TryParse(index, NumberStyles.None, CultureInfo.InvariantCulture, out var row)
                        && changes.Lines.TryGetValue(part, out var rows)
                        && row < rows.Count => new(part, rows[row].Key, field),
                _ => null,
            };
            if (address is { } found)
                changes.FilledAgain.Add(found);
            else
                refusals.Add(
                    (
                        string.Create(CultureInfo.InvariantCulture, $"/{FillAgain}/{at}"),
                        $"“{pointer}” leads to nothing here that is filled and may be changed; lines are those that are sent along."
                    )
                );
        }
    }

    /// <summary>Where a spot stands in what was sent, as a JSON pointer.</summary>
    public static string Pointer(FieldAddress at, RecordChanges changes)
    {
        if (at.Line is null)
            return at.Part.IsLines ? $"/lines/{at.Part.Code}" : $"/values/{at.Field?.Code}";
        var index = changes.Lines.TryGetValue(at.Part, out var rows) ? rows.FindIndex(row => row.Key == at.Line) : -1;
        return $"/lines/{at.Part.Code}/{(index < 0 ? at.Line : index.ToString(CultureInfo.InvariantCulture))}{(at.Field is null ? "" : "/" + at.Field.Code)}";
    }

    private static JsonObject Values(Part part, Value[] values, Func<Field, bool> isShown, Func<Field, Value, JsonNode?> toJson)
    {
        var json = new JsonObject();
        foreach (var field in part.Fields.Where(isShown))
            json[field.Code] = values[field.Slot].IsError ? null : toJson(field, values[field.Slot]);
        return json;
    }

    private static void Fill(Part part, JsonElement json, Value[] values, Value[]? orElse, bool isStored)
    {
        foreach (var field in part.Fields.Where(field => field.IsStored))
        {
            var isThere = json.TryGetProperty(field.Code, out var sent);
            values[field.Slot] =
                field.Kind.IsSecret && isThere && isStored
                    ? sent.ValueKind == JsonValueKind.Object
                        ? Value.Sealed(sent.GetProperty(Stored).GetString()!)
                        : Value.Empty
                    : field.Kind.IsSecret || !isThere
                        ? orElse?[field.Slot] ?? Value.Empty
                        : field.Kind.FromJson(sent).Value;
        }
    }

    private static void ReadLines(
        RecordType type,
        JsonElement json,
        RecordChanges changes,
        List<(string Pointer, string Sentence)> refusals
    )
    {
        if (json.ValueKind != JsonValueKind.Object)
        {
            refusals.Add(("/lines", "An object with a list for each part is expected here, such as {\"lines\": []}."));
            return;
        }

        foreach (var property in json.EnumerateObject())
        {
            var pointer = "/lines/" + property.Name;
            if (type.LineParts.FirstOrDefault(candidate => candidate.Code == property.Name) is not { } part)
                refusals.Add((pointer, $"{type.Label} has no lines called “{property.Name}”."));
            else if (property.Value.ValueKind != JsonValueKind.Array)
                refusals.Add((pointer, "A list is expected here."));
            else if (property.Value.GetArrayLength() is var count && count > Pipeline.MaxLines)
                refusals.Add((pointer, Pipeline.TooManyLines(part, count)));
            else
                changes.Lines[part] =
                [
                    .. property.Value.EnumerateArray().Select((row, index) => ReadLine(part, row, index, $"{pointer}/{index}", refusals)),
                ];
        }
    }

    private static EnteredLine ReadLine(
        Part part,
        JsonElement row,
        int index,
        string pointer,
        List<(string Pointer, string Sentence)> refusals
    )
    {
        var values = new Dictionary<Field, Parsed>();
        if (row.ValueKind != JsonValueKind.Object)
        {
            refusals.Add((pointer, "An object is expected here."));
            return new($"new-{index}", null, values);
        }

        long? id = null;
        if (row.TryGetProperty("id", out var sent) && sent.ValueKind != JsonValueKind.Null)
        {
            if (sent.ValueKind == JsonValueKind.Number && sent.TryGetInt64(out var known))
                id = known;
            else
                refusals.Add((pointer + "/id", "The id of a line is a whole number."));
        }

        ReadValues(part, row, pointer, values, refusals);
        return new(id?.ToString(CultureInfo.InvariantCulture) ?? $"new-{index}", id, values);
    }

    private static void ReadValues(
        Part part,
        JsonElement json,
        string pointer,
        Dictionary<Field, Parsed> values,
        List<(string Pointer, string Sentence)> refusals
    )
    {
        if (json.ValueKind != JsonValueKind.Object)
        {
            refusals.Add((pointer, "An object from codes to values is expected here."));
            return;
        }

        foreach (var property in json.EnumerateObject())
        {
            if (part.Find(property.Name) is { } field)
            {
                // A mask that comes back says: as it was.
                if (
                    !field.Kind.IsSecret
                    || property.Value.ValueKind != JsonValueKind.String
                    || property.Value.GetString() != FieldKind.SecretMask
                )
                    values[field] = field.Kind.FromJson(property.Value);
            }
            else if (property.Name != "id" || !part.IsLines)
                refusals.Add(($"{pointer}/{property.Name}", $"There is no field “{property.Name}” here."));
        }
    }
}
