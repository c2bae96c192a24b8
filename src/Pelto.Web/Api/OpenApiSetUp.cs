using System.Text.Json.Nodes;
using static Pelto.Web.Api.OpenApiParts;

namespace Pelto.Web.Api;

/// <summary>Definitions and formulas in the OpenAPI document.</summary>
internal static class OpenApiSetUp
{
    public static void AddFormulas(JsonObject paths)
    {
        JsonObject Text(string about) => new() { ["type"] = "string", ["description"] = about };
        var attempt = Operation(
            "Tries a formula on a record, on values that are sent, or on nothing but itself. Nothing is saved.",
            Answered(
                "What it gives, or what is wrong with it, at its place. kind is the type of the value, such as number, text, yes_no, date.",
                new JsonObject
                {
                    ["type"] = "object",
                    ["required"] = new JsonArray("kind", "value", "problems"),
                    ["properties"] = new JsonObject
                    {
                        ["kind"] = new JsonObject { ["type"] = new JsonArray("string", "null") },
                        ["value"] = new JsonObject(),
                        ["problems"] = new JsonObject
                        {
                            ["type"] = "array",
                            ["items"] = new JsonObject
                            {
                                ["type"] = "object",
                                ["properties"] = new JsonObject
                                {
                                    ["from"] = new JsonObject { ["type"] = "integer" },
                                    ["length"] = new JsonObject { ["type"] = "integer" },
                                    ["message"] = new JsonObject { ["type"] = "string" },
                                },
                            },
                        },
                        ["error"] = new JsonObject { ["type"] = new JsonArray("string", "null") },
                        ["sql"] = new JsonObject { ["type"] = new JsonArray("string", "null") },
                    },
                }
            ),
            refusals: true
        );
        attempt["requestBody"] = new JsonObject
        {
            ["required"] = true,
            ["content"] = new JsonObject
            {
                ["application/json"] = new JsonObject
                {
                    ["schema"] = new JsonObject
                    {
                        ["type"] = "object",
                        ["required"] = new JsonArray("text"),
                        ["properties"] = new JsonObject
                        {
                            ["text"] = new JsonObject { ["type"] = "string", ["maxLength"] = Core.Formulas.Formula.LongestText },
                            ["recordType"] = Text("What the formula is about; without it, only values and functions stand."),
                            ["recordId"] = new JsonObject { ["type"] = "integer" },
                            ["part"] = Text("header, or the code of lines: then it is about the first of them."),
                            ["values"] = new JsonObject { ["type"] = "object" },
                            ["lines"] = new JsonObject { ["type"] = "object" },
                        },
                    },
                },
            },
        };
        paths["/formulas/try"] = new JsonObject { ["post"] = attempt };
        paths["/formulas/functions"] = new JsonObject
        {
            ["get"] = Operation(
                "Lists the functions of the formula language.",
                Answered("The functions.", new JsonObject { ["type"] = "object" })
            ),
        };
    }

    public static void AddSetUp(JsonObject paths)
    {
        var any = new JsonObject { ["type"] = "object" };
        paths["/setup/definition"] = new JsonObject
        {
            ["get"] = Operation("The site definition that is live.", Answered("The document.", any.DeepClone())),
        };
        paths["/setup/schema"] = new JsonObject
        {
            ["get"] = Operation("The JSON Schema of the site definition document.", Answered("The schema.", any.DeepClone())),
        };
        var put = Operation("Replaces the draft.", Answered("The draft.", any.DeepClone()), refusals: true);
        put["requestBody"] = Body(any.DeepClone());
        paths["/setup/draft"] = new JsonObject
        {
            ["get"] = Operation("The draft.", Answered("The document.", any.DeepClone())),
            ["put"] = put,
        };
        paths["/setup/plan"] = new JsonObject
        {
            ["get"] = Operation("What publishing the draft would do.", Answered("The plan.", any.DeepClone())),
        };
        var publish = Operation("Publishes the draft.", Answered("The release.", any.DeepClone()), refusals: true);
        publish["requestBody"] = Body(
            new JsonObject
            {
                ["type"] = "object",
                ["required"] = new JsonArray("comment"),
                ["properties"] = new JsonObject { ["comment"] = new JsonObject { ["type"] = "string" } },
            }
        );
        paths["/setup/publish"] = new JsonObject { ["post"] = publish };
    }
}
