using System.Text.Json;
using System.Text.Json.Serialization;
using Pelto.Core.Catalog;

namespace Pelto.Core.Releases;

/// <summary>All that a site has defined, as one document. Each element has a lasting id.</summary>
public sealed record SiteDefinition
{
    /// <summary>A site that has defined nothing yet.</summary>
    public static SiteDefinition Nothing { get; } = new();

    /// <summary>How the document is written: camel case, nothing that is empty, refusing properties that it does not know.</summary>
    public static JsonSerializerOptions Json { get; } = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        WriteIndented = true,
    };

    /// <summary>The added fields, in the order in which they were defined.</summary>
    public IReadOnlyList<FieldDefinition> Fields { get; init; } = [];

    /// <summary>Sets of placement changes. So far one, for everyone.</summary>
    public IReadOnlyList<Layer> Layers { get; init; } = [];

    /// <summary>Finds a field by its lasting id.</summary>
    public FieldDefinition? Find(string id) => Fields.FirstOrDefault(field => field.Id == id);

    /// <summary>The site with this field put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(FieldDefinition field) => this with
    {
        Fields = Find(field.Id) is null ? [.. Fields, field] : [.. Fields.Select(old => old.Id == field.Id ? field : old)],
    };

    /// <summary>The site without this field and without what any layer said of it.</summary>
    public SiteDefinition Without(string id) => this with
    {
        Fields = [.. Fields.Where(field => field.Id != id)],
        Layers = [.. Layers.Select(layer => layer with { Operations = [.. layer.Operations.Where(operation => operation.Part != id)] })],
    };

    /// <summary>The site with what the layer for everyone says about one part of a screen replaced by this, or by nothing.</summary>
    public SiteDefinition Placing(string part, LayerOperation? operation)
    {
        var layer = Layers.FirstOrDefault(candidate => candidate.Audience == Layer.Everyone) ?? new Layer { Id = "site", Label = "Site" };
        var others = layer.Operations.Where(candidate => candidate.Part != part);
        var changed = layer with { Operations = operation is null ? [.. others] : [.. others, operation] };
        return this with { Layers = [.. Layers.Where(candidate => candidate.Id != layer.Id), changed] };
    }

    /// <summary>What the layer for everyone says of a part of a screen.</summary>
    public LayerOperation? PlacementOf(string part) =>
        Layers.Where(layer => layer.Audience == Layer.Everyone).SelectMany(layer => layer.Operations).LastOrDefault(operation => operation.Part == part);

    /// <summary>The document as text.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, Json);

    /// <summary>Reads a document. Throws <see cref="JsonException"/> when it is not one.</summary>
    public static SiteDefinition FromJson(string json) =>
        JsonSerializer.Deserialize<SiteDefinition>(json, Json) ?? throw new JsonException("The document is empty.");

    /// <summary>True when both say the same.</summary>
    public bool Says(SiteDefinition other) => string.Equals(ToJson(), other.ToJson(), StringComparison.Ordinal);
}

/// <summary>An added field, as the administrator defined it.</summary>
public sealed record FieldDefinition : FieldContent
{
    /// <summary>Lasting id; it stays when everything else changes.</summary>
    public string Id { get; init; } = "";

    /// <summary>The code of the record type that it belongs to.</summary>
    public string RecordType { get; init; } = "";

    /// <summary><c>header</c>, or the code of the part with lines.</summary>
    public string Part { get; init; } = Catalog.Part.HeaderCode;

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "f-" + Guid.NewGuid().ToString("N")[..12];
}

/// <summary>Placement changes for an audience.</summary>
public sealed record Layer
{
    /// <summary>The audience of all.</summary>
    public const string Everyone = "everyone";

    /// <summary>Lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What people call it.</summary>
    public string Label { get; init; } = "";

    /// <summary>For whom.</summary>
    public string Audience { get; init; } = Everyone;

    /// <summary>In the order in which they are carried out.</summary>
    public IReadOnlyList<LayerOperation> Operations { get; init; } = [];
}

/// <summary>One change of placement, anchored to lasting ids.</summary>
public sealed record LayerOperation
{
    /// <summary>Puts a field after its anchor.</summary>
    public const string Put = "put";

    /// <summary>Takes a field off the screen.</summary>
    public const string Hide = "hide";

    /// <summary><c>put</c> or <c>hide</c>.</summary>
    public string Op { get; init; } = "";

    /// <summary>The id of the field that is placed.</summary>
    public string Part { get; init; } = "";

    /// <summary>For put: the id of the field, or of the section, that it comes after.</summary>
    public string? After { get; init; }

    /// <summary>For put: columns of twelve; what its kind proposes when not given.</summary>
    public int? Width { get; init; }
}
