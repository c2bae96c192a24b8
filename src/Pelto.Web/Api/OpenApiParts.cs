using System.Text.Json.Nodes;

namespace Pelto.Web.Api;

/// <summary>What the parts of the OpenAPI document are made of.</summary>
internal static class OpenApiParts
{
    public static JsonObject Operation(string summary, JsonObject responses, bool refusals = false)
    {
        foreach (var code in refusals ? new[] { "4XX" } : [])
            responses[code] = Refused("Refused, with the reasons.");
        return new() { ["summary"] = summary, ["responses"] = responses };
    }

    public static JsonObject Answered(string description, JsonNode schema, string status = "200") =>
        new()
        {
            [status] = new JsonObject
            {
                ["description"] = description,
                ["content"] = new JsonObject { ["application/json"] = new JsonObject { ["schema"] = schema } },
            },
        };

    public static JsonObject WithBody(JsonObject operation, RecordType type)
    {
        operation["requestBody"] = Body(Ref(type.Code));
        return operation;
    }

    public static JsonObject Body(JsonNode schema) =>
        new()
        {
            ["required"] = true,
            ["content"] = new JsonObject { ["application/json"] = new JsonObject { ["schema"] = schema } },
        };

    public static JsonObject Ref(string schema) => new() { ["$ref"] = "#/components/schemas/" + schema };

    public static JsonObject Parameter(string name, string place, JsonObject schema, string description) =>
        new()
        {
            ["name"] = name,
            ["in"] = place,
            ["required"] = place == "path",
            ["schema"] = schema,
            ["description"] = description,
        };

    public static JsonObject Refused(string description) =>
        new()
        {
            ["description"] = description,
            ["content"] = new JsonObject { ["application/problem+json"] = new JsonObject { ["schema"] = Ref("problem") } },
        };
}
