using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>
/// A file that is kept inside, with its name. The value is a reference: what the file holds is kept once, beside the records.
/// </summary>
public record FileKind : FieldKind
{
    /// <summary>The largest file that is taken, in bytes.</summary>
    public const int LargestSize = 20 * 1024 * 1024;

    /// <inheritdoc/>
    public override string Name => "file";

    /// <inheritdoc/>
    public override string Label => "File";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.File;

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
        return cut > 0 && Guid.TryParse(text[..cut], out var id) && IsName(text[(cut + 1)..]) ? Value.FileOf(id, text[(cut + 1)..]) : Parsed.Refused("Choose a file; its name alone says too little.");
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => $"{value.FileId}/{value.FileName}";

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("file", $"({column("")} IS NULL) = ({column("_name")} IS NULL)")];

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) => value.Type != ValueForm.File ? null : at == 0 ? value.FileId : value.FileName;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> kept) => kept[0] is Guid id && kept[1] is string name ? Value.FileOf(id, name) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => json.ValueKind == JsonValueKind.Object && json.TryGetProperty("id", out var id) && json.TryGetProperty("name", out var name) && id.ValueKind == JsonValueKind.String && name.ValueKind == JsonValueKind.String
        ? Parse($"{id.GetString()}/{name.GetString()}") : FromText(json, "A file such as {\"id\": \"…\", \"name\": \"plan.pdf\"}, as the upload answered it");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.File ? new JsonObject { ["id"] = value.FileId.ToString(), ["name"] = value.FileName } : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("object", description: "What POST /files answered.");
        schema["required"] = new JsonArray("id", "name");
        schema["properties"] = new JsonObject { ["id"] = new JsonObject { ["type"] = "string", ["format"] = "uuid" }, ["name"] = new JsonObject { ["type"] = "string" } };
        return schema;
    }

    /// <summary>True for what can be a file's name.</summary>
    public static bool IsName(string name) => name.Length is > 0 and <= 200 && !name.Any(char.IsControl) && name.IndexOfAny(['/', '\\']) < 0;
}

/// <summary>A picture, shown where it stands.</summary>
public sealed record ImageKind : FileKind
{
    /// <inheritdoc/>
    public override string Name => "image";

    /// <inheritdoc/>
    public override string Label => "Image";

    /// <summary>
    /// The media type of a picture that browsers show and that cannot hold script, told by its first bytes; null for anything else.
    /// </summary>
    public static string? TypeOf(ReadOnlySpan<byte> content) =>
        (content.Length > 8 && content[0] == 0x89 && content[1..8].SequenceEqual("PNG\r\n\x1a\n"u8)) ? "image/png"
        : content.Length > 3 && content[0] == 0xff && content[1] == 0xd8 && content[2] == 0xff ? "image/jpeg"
        : content.StartsWith("GIF87a"u8) || content.StartsWith("GIF89a"u8) ? "image/gif"
        : content.Length > 12 && content.StartsWith("RIFF"u8) && content[8..12].SequenceEqual("WEBP"u8) ? "image/webp" : null;
}
