using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using System.Text.Json.Serialization.Metadata;

namespace Pelto.Core.Tests.Definitions;

/// <summary>
/// The JSON Schemas say more than types do (what a property is for, what it takes), so they are written by hand; .NET's own exporter, which
/// reads the types, holds them to those.
/// </summary>
public sealed class SchemaTests
{
    private static readonly string Hosts = Path.Combine(
        Environment.GetEnvironmentVariable("PELTO_HOST") ?? throw new InvalidOperationException("PELTO_HOST names no folder."),
        "..",
        ".."
    );

    [Fact(DisplayName = "The schema of site definitions and the types that read them have the same properties, at every depth")]
    public void Of_the_site()
    {
        using var reader = new StreamReader(typeof(SiteDefinition).Assembly.GetManifestResourceStream("site.schema.json")!);
        var (said, read) = (Names(JsonNode.Parse(reader.ReadToEnd())!), Names(Json.GetJsonSchemaAsNode(typeof(SiteDefinition))));
        Assert.True(read.Count > 120, $"Only {read.Count} properties were found.");
        Assert.Equal(said, read);
    }

    [Fact(DisplayName = "All that the schema of a host's record types takes is read; it takes less of a field than a site says")]
    public void Of_a_host()
    {
        var said = Names(JsonNode.Parse(File.ReadAllText(Path.Combine(Hosts, "record-type.schema.json")))!);
        Assert.True(said.Count > 50, $"Only {said.Count} properties were found.");
        Assert.Equal(["/$schema"], said.Except(Names(Json.GetJsonSchemaAsNode(typeof(RecordTypeDescription)))));
    }

    private static readonly JsonSerializerOptions Json = new(SiteDefinition.Json) { TypeInfoResolver = new DefaultJsonTypeInfoResolver() };

    private static SortedSet<string> Names(JsonNode schema)
    {
        var names = new SortedSet<string>(StringComparer.Ordinal);
        Walk(schema, schema, "", names, []);
        return names;
    }

    private static void Walk(JsonNode root, JsonNode? schema, string path, SortedSet<string> names, HashSet<JsonNode> within)
    {
        if (schema is not JsonObject || !within.Add(schema))
            return;
        if (schema["$ref"]?.GetValue<string>() is { } reference)
            Walk(root, At(root, reference), path, names, within);
        foreach (var among in new[] { "oneOf", "anyOf" })
            if (schema[among] is JsonArray several)
                foreach (var one in several)
                    Walk(root, one, path, names, within);
        foreach (var (name, property) in schema["properties"] as JsonObject ?? [])
        {
            names.Add($"{path}/{name}");
            Walk(root, property, $"{path}/{name}", names, within);
        }

        Walk(root, schema["items"], path + "/*", names, within);
        Walk(root, schema["additionalProperties"], path + "/*", names, within);
        within.Remove(schema);
    }

    // RFC 6901, as the exporter and JSON Schema point.
    private static JsonNode? At(JsonNode root, string reference) =>
        reference
            .TrimStart('#')
            .Split('/', StringSplitOptions.RemoveEmptyEntries)
            .Aggregate((JsonNode?)root, static (node, step) => node?[step.Replace("~1", "/").Replace("~0", "~")]);
}
