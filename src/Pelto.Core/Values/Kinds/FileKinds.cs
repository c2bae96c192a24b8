using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>
/// A file that is kept inside, with its name. The value is a reference: what the file holds is kept once, beside the records.
/// </summary>
public record FileKind : FieldKind
{
    /// <inheritdoc/>
    public override string Control => "file";

    /// <inheritdoc/>
    public override string Plain(Value value, Locale? locale = null) =>
        value.DataType == DataType.File ? value.FileName : base.Plain(value, locale);

    /// <inheritdoc/>
    public override string Name => "file";

    /// <inheritdoc/>
    public override string Label => "File";

    /// <inheritdoc/>
    public override DataType DataType => DataType.File;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = [new("", ColumnType.Uuid), new("_name", ColumnType.Text)];

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    public override bool IsOrdered => false;

    /// <inheritdoc/>
    public override bool IsCompared => false;

    /// <inheritdoc/>
    public override bool IsSearched => true;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        var cut = text.IndexOf('/', StringComparison.Ordinal);
        return cut > 0 && Guid.TryParse(text[..cut], out var id) && FileRules.IsName(text[(cut + 1)..])
            ? Value.FileOf(id, text[(cut + 1)..])
            : Parsed.Refused("Choose a file; its name alone says too little.");
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => $"{value.FileId}/{value.FileName}";

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) =>
        [new("file", $"({column("")} IS NULL) = ({column("_name")} IS NULL)")];

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) =>
        value.DataType != DataType.File ? null
        : at == 0 ? value.FileId
        : value.FileName;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> stored) =>
        stored[0] is Guid id && stored[1] is string name ? Value.FileOf(id, name) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) =>
        json.ValueKind == JsonValueKind.Object
        && json.TryGetProperty("id", out var id)
        && json.TryGetProperty("name", out var name)
        && id.ValueKind == JsonValueKind.String
        && name.ValueKind == JsonValueKind.String
            ? Parse($"{id.GetString()}/{name.GetString()}")
            : FromText(json, "A file such as {\"id\": \"…\", \"name\": \"plan.pdf\"}, as the upload answered it");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.File ? new JsonObject { ["id"] = value.FileId.ToString(), ["name"] = value.FileName } : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("object", description: "What POST /files answered.");
        schema["required"] = new JsonArray("id", "name");
        schema["properties"] = new JsonObject
        {
            ["id"] = new JsonObject { ["type"] = "string", ["format"] = "uuid" },
            ["name"] = new JsonObject { ["type"] = "string" },
        };
        return schema;
    }
}

/// <summary>A picture, shown where it stands.</summary>
public sealed record ImageKind : FileKind
{
    /// <inheritdoc/>
    public override string Control => "image";

    /// <inheritdoc/>
    public override bool IsBlock => true;

    /// <inheritdoc/>
    public override string Accepts => "image/png,image/jpeg,image/gif,image/webp";

    /// <inheritdoc/>
    public override string Name => "image";

    /// <inheritdoc/>
    public override string Label => "Image";
}
