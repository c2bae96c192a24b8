using System.Text.Json.Nodes;
using static Pelto.Web.Api.OpenApiParts;

namespace Pelto.Web.Api;

/// <summary>
/// The OpenAPI 3.1 document, made from the catalogue: added fields are in it as soon as they are live, and each reader finds what they may
/// use.
/// </summary>
internal static class OpenApi
{
    public static JsonObject For(Catalogue catalogue, Viewer viewer)
    {
        var paths = new JsonObject
        {
            ["/record-types"] = new JsonObject
            {
                ["get"] = Operation("Lists the record types.", Answered("Record types.", new JsonObject { ["type"] = "object" })),
            },
            ["/record-types/{type}"] = new JsonObject
            {
                ["parameters"] = new JsonArray(
                    Parameter("type", "path", new JsonObject { ["type"] = "string" }, "The code of a record type.")
                ),
                ["get"] = Operation(
                    "Describes a record type with its fields, built in and added.",
                    Answered("The record type.", new JsonObject { ["type"] = "object" })
                ),
            },
        };
        var schemas = new JsonObject();
        foreach (var type in catalogue.RecordTypes.Where(viewer.MayRead))
        {
            schemas[type.Code] = OpenApiRecords.Record(type, viewer);
            OpenApiRecords.AddPaths(paths, type, viewer);
        }

        OpenApiRecords.AddFiles(paths);
        OpenApiSetUp.AddFormulas(paths);
        if (AdminWork.InDraft.Any(viewer.May))
            OpenApiSetUp.AddSetUp(paths);
        schemas["problem"] = ProblemSchema();
        Complete(paths);
        return new()
        {
            ["openapi"] = "3.1.0",
            ["info"] = new JsonObject
            {
                ["title"] = "Pelto",
                ["version"] = $"1.{catalogue.Release}",
                ["description"] =
                    $"Records and definitions of {catalogue.Host.Label} {catalogue.Host.Version}, release {catalogue.Release}.",
            },
            ["servers"] = new JsonArray(new JsonObject { ["url"] = Interface.Root }),
            ["security"] = new JsonArray(new JsonObject { ["token"] = new JsonArray() }),
            ["paths"] = paths,
            ["components"] = new JsonObject
            {
                ["securitySchemes"] = new JsonObject
                {
                    ["token"] = new JsonObject { ["type"] = "http", ["scheme"] = "bearer" },
                },
                ["responses"] = new JsonObject(
                    Refusals.Select(refusal => KeyValuePair.Create<string, JsonNode?>(refusal.Name, Refused(refusal.Says)))
                ),
                ["schemas"] = schemas,
            },
        };
    }

    // What any operation may answer beside what it is for, and where.
    private static readonly (string Status, string Name, string Says, Func<string, JsonObject, bool> Fits)[] Refusals =
    [
        ("400", "unreadable", "The body or a parameter cannot be read.", static (_, operation) =>
            operation.ContainsKey("requestBody") || operation.ContainsKey("parameters")
        ),
        ("401", "unknown", "No token, or one that has expired.", static (_, _) => true),
        ("403", "forbidden", "This token's person may not do that.", static (_, _) => true),
        ("404", "missing", "There is nothing there, or nothing that this person may see.", static (path, _) =>
            path.Contains('{', StringComparison.Ordinal)
        ),
        ("429", "often", "This person's programs called too often: Retry-After says when to go on.", static (_, _) => true),
    ];

    // Each operation gets a name by which generated clients call it, and the refusals that all have.
    private static void Complete(JsonObject paths)
    {
        foreach (var (path, item) in paths)
        foreach (
            var (method, operation) in item!
                .AsObject()
                .Where(pair => pair.Value is JsonObject)
                .Select(pair => (pair.Key, pair.Value!.AsObject()))
        )
        {
            operation.Insert(
                0,
                "operationId",
                method + string.Concat(path.Split('/', StringSplitOptions.RemoveEmptyEntries).Select(InName))
            );
            var responses = operation["responses"]!.AsObject();
            foreach (var (status, name, _, fits) in Refusals)
                if (fits(path, operation))
                    responses.TryAdd(status, new JsonObject { ["$ref"] = "#/components/responses/" + name });
        }
    }

    // sales_order is SalesOrder, {id} is ById.
    private static string InName(string segment) =>
        (segment.StartsWith('{') ? "By" : "")
        + string.Concat(
            segment.Trim('{', '}').Split('_', '-').Select(word => word.Length == 0 ? "" : char.ToUpperInvariant(word[0]) + word[1..])
        );

    private static JsonObject ProblemSchema() =>
        new()
        {
            ["type"] = "object",
            ["description"] = "RFC 9457 problem details.",
            ["properties"] = new JsonObject
            {
                ["title"] = new JsonObject { ["type"] = "string" },
                ["status"] = new JsonObject { ["type"] = "integer" },
                ["detail"] = new JsonObject { ["type"] = "string" },
                ["errors"] = new JsonObject
                {
                    ["type"] = "array",
                    ["items"] = new JsonObject
                    {
                        ["type"] = "object",
                        ["properties"] = new JsonObject
                        {
                            ["pointer"] = new JsonObject { ["type"] = "string" },
                            ["detail"] = new JsonObject { ["type"] = "string" },
                        },
                    },
                },
            },
        };
}
