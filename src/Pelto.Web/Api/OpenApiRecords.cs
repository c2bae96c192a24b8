using System.Text.Json.Nodes;
using static Pelto.Web.Api.OpenApiParts;

namespace Pelto.Web.Api;

/// <summary>Records and files in the OpenAPI document, type by type.</summary>
internal static class OpenApiRecords
{
    public static void AddPaths(JsonObject paths, RecordType type, Viewer viewer)
    {
        var name = type.Label.ToLowerInvariant();
        var list = new JsonObject
        {
            ["get"] = Operation($"Lists {type.Plural.ToLowerInvariant()}, a page at a time.", Answered("A page.", Page(type))),
        };
        list["get"]!["parameters"] = new JsonArray(
            Parameter(
                "order",
                "query",
                new JsonObject { ["type"] = "string" },
                "Field codes with commas between; a minus before one sorts it descending."
            ),
            Parameter(
                "take",
                "query",
                new JsonObject
                {
                    ["type"] = "integer",
                    ["minimum"] = 1,
                    ["maximum"] = 500,
                },
                "Rows wanted; 50 when left out."
            ),
            Parameter("after", "query", new JsonObject { ["type"] = "string" }, "The next of the page before."),
            Parameter("search", "query", new JsonObject { ["type"] = "string" }, "Words to find."),
            Parameter(
                "filter",
                "query",
                new JsonObject
                {
                    ["type"] = "array",
                    ["items"] = new JsonObject
                    {
                        ["type"] = "string",
                        ["pattern"] = "^[a-z][a-z0-9_]*~(is|not|between|from|to|contains|empty|filled)(~.*)?$",
                    },
                },
                "Conditions, written code~test~value, such as weight~between~10~20 or note~empty. All of them hold."
            )
        );
        var groups = Operation(
            $"Puts {type.Plural.ToLowerInvariant()} in groups: "
                + "how many each has, and totals of its numbers, which are left out where they do not add.",
            Answered("The groups, those with most records first, and all together.", new JsonObject { ["type"] = "object" })
        );
        groups["parameters"] = new JsonArray(
            Parameter(
                "by",
                "query",
                new JsonObject
                {
                    ["type"] = "array",
                    ["minItems"] = 1,
                    ["maxItems"] = ListGroups.MaxKeys,
                    ["items"] = new JsonObject { ["type"] = "string", ["pattern"] = "^[a-z][a-z0-9_]*(:(month|quarter|year))?$" },
                },
                "Field codes; days are put together by a word behind, such as order_date:month."
            ),
            list["get"]!["parameters"]![3]!.DeepClone(),
            list["get"]!["parameters"]![4]!.DeepClone()
        );
        paths[$"/records/{type.Code}/groups"] = new JsonObject { ["get"] = groups };
        var one = new JsonObject
        {
            ["parameters"] = new JsonArray(Parameter("id", "path", new JsonObject { ["type"] = "integer" }, "The record's id.")),
            ["get"] = Operation($"Reads a {name}. The ETag names its version.", Answered($"The {name}.", Ref(type.Code))),
        };
        if (viewer.MayCreate(type))
        {
            list["post"] = WithBody(
                Operation($"Creates a {name}.", Answered($"The {name} as it is on file.", Ref(type.Code), "201"), refusals: true),
                type
            );
        }

        if (viewer.MayChange(type))
            one["patch"] = WithBody(
                Operation(
                    $"Changes what is sent of a {name}. Lines are sent as they are to be: "
                        + "those with an id stay and change, those without are added, "
                        + "those left out are removed. If-Match refuses when it changed meanwhile.",
                    Answered($"The {name} as it is on file.", Ref(type.Code)),
                    refusals: true
                ),
                type
            );
        if (viewer.MayDelete(type))
            one["delete"] = Operation(
                $"Deletes a {name}.",
                new JsonObject { ["204"] = new JsonObject { ["description"] = "Deleted." } },
                refusals: true
            );
        if (viewer.LevelAt(type) == AccessLevel.Write)
            paths[$"/records/{type.Code}/try"] = new JsonObject
            {
                ["post"] = WithBody(
                    Operation(
                        $"Fills and checks a {name} without saving it.",
                        Answered("Values and messages.", new JsonObject { ["type"] = "object" }),
                        refusals: true
                    ),
                    type
                ),
            };

        foreach (var follow in type.Next.Where(follow => viewer.MayCreate(follow.Next)))
        {
            var make = Operation(
                $"Creates the {follow.Next.Label.ToLowerInvariant()} that follows a {name}, "
                    + "with all that is open; what is sent goes before that.",
                Answered($"The {follow.Next.Label.ToLowerInvariant()} as it is on file.", Ref(follow.Next.Code), "201"),
                refusals: true
            );
            make["requestBody"] = new JsonObject
            {
                ["content"] = new JsonObject { ["application/json"] = new JsonObject { ["schema"] = Ref(follow.Next.Code) } },
            };
            paths[$"/records/{type.Code}/{{id}}/next/{follow.Next.Code}"] = new JsonObject
            {
                ["parameters"] = new JsonArray(Parameter("id", "path", new JsonObject { ["type"] = "integer" }, "The record's id.")),
                ["post"] = make,
            };
        }

        if (type.PublicForm is not null && viewer.MayCreate(type))
            AddEntries(paths, type, name);
        paths[$"/records/{type.Code}"] = list;
        paths[$"/records/{type.Code}/{{id}}"] = one;
    }

    private static void AddEntries(JsonObject paths, RecordType type, string name)
    {
        var entries = Operation(
            $"Lists what came in through the public form, each as the {name} that it would make, with where it came from.",
            Answered("Entries.", new JsonObject { ["type"] = "object" })
        );
        entries["parameters"] = new JsonArray(
            Parameter(
                "state",
                "query",
                new JsonObject { ["enum"] = new JsonArray("waiting", "accepted", "refused") },
                "Which; those that wait when left out."
            )
        );
        paths[$"/records/{type.Code}/entries"] = new JsonObject { ["get"] = entries };
        JsonArray Id() => new(Parameter("id", "path", new JsonObject { ["type"] = "string", ["format"] = "uuid" }, "The entry's id."));
        var accept = Operation(
            $"Makes the {name}; what is sent goes before what the entry says.",
            Answered($"The {name} as it is on file.", Ref(type.Code), "201"),
            refusals: true
        );
        accept["requestBody"] = new JsonObject
        {
            ["content"] = new JsonObject { ["application/json"] = new JsonObject { ["schema"] = Ref(type.Code) } },
        };
        paths[$"/records/{type.Code}/entries/{{id}}/accept"] = new JsonObject { ["parameters"] = Id(), ["post"] = accept };
        paths[$"/records/{type.Code}/entries/{{id}}/refuse"] = new JsonObject
        {
            ["parameters"] = Id(),
            ["post"] = Operation(
                "Refuses the entry.",
                new JsonObject { ["204"] = new JsonObject { ["description"] = "Refused." } },
                refusals: true
            ),
        };
        paths[$"/records/{type.Code}/entries/{{id}}/wait"] = new JsonObject
        {
            ["parameters"] = Id(),
            ["post"] = Operation(
                "Lets a refused entry wait again.",
                new JsonObject { ["204"] = new JsonObject { ["description"] = "It waits." } },
                refusals: true
            ),
        };
    }

    public static void AddFiles(JsonObject paths)
    {
        var bring = Operation(
            "Uploads a file, for a field of the kind file or image. Send id and name as the field's value within a day.",
            Answered("The file's id and name.", new JsonObject { ["type"] = "object" }, "201"),
            refusals: true
        );
        bring["parameters"] = new JsonArray(
            Parameter("name", "query", new JsonObject { ["type"] = "string" }, "Its name."),
            Parameter(
                "field",
                "query",
                new JsonObject { ["type"] = "string" },
                "The lasting id of the field that it is for: one that you may change."
            )
        );
        bring["requestBody"] = new JsonObject
        {
            ["required"] = true,
            ["content"] = new JsonObject { ["application/octet-stream"] = new JsonObject() },
        };
        paths["/files"] = new JsonObject { ["post"] = bring };
        JsonArray For(string what) =>
            new(
                Parameter("type", "path", new JsonObject { ["type"] = "string" }, "The code of the record type."),
                Parameter("record", "path", new JsonObject { ["type"] = "integer" }, "The record's id."),
                Parameter("field", "path", new JsonObject { ["type"] = "string" }, $"The lasting id of the {what}."),
                Parameter("line", "query", new JsonObject { ["type"] = "integer" }, "The line's id, for a field of lines.")
            );
        var content = new JsonObject
        {
            ["200"] = new JsonObject
            {
                ["description"] = "What the file holds.",
                ["content"] = new JsonObject { ["application/octet-stream"] = new JsonObject() },
            },
        };
        paths["/records/{type}/{record}/files/{field}"] = new JsonObject
        {
            ["parameters"] = For("file"),
            ["get"] = Operation("Reads a file of a record.", content),
        };
        paths["/records/{type}/{record}/reveal/{field}"] = new JsonObject
        {
            ["parameters"] = For("secret"),
            ["post"] = Operation(
                "Shows a secret, and puts down that it was shown.",
                Answered("The secret.", new JsonObject { ["type"] = "object" }),
                refusals: true
            ),
        };
    }

    public static JsonObject Record(RecordType type, Viewer viewer)
    {
        var lines = new JsonObject();
        foreach (var part in type.LineParts)
        {
            var row = Values(part, viewer);
            row["properties"]!
                .AsObject()
                .Insert(0, "id", new JsonObject { ["type"] = "integer", ["description"] = "The line's id; left out for a new line." });
            lines[part.Code] = new JsonObject
            {
                ["type"] = "array",
                ["maxItems"] = Core.Records.Pipeline.MaxLines,
                ["items"] = row,
            };
        }

        var properties = new JsonObject
        {
            ["id"] = new JsonObject { ["type"] = "integer", ["readOnly"] = true },
            ["values"] = Values(type.Header, viewer),
        };
        if (type.StockMoves is { IsOut: true, MayGoBelow: true })
            properties["notes"] = new JsonObject
            {
                ["type"] = "array",
                ["readOnly"] = true,
                ["items"] = new JsonObject { ["type"] = "string" },
                ["description"] = "After a save: what whoever saves should know, such as stock that lies below zero.",
            };
        if (
            !type.Guarding.IsPlain
            && type.Parts.SelectMany(part => part.Fields)
                .Any(field => viewer.SureAt(field) < AccessLevel.Read && viewer.AccessAt(type).For(field).Visible.IsPossible)
        )
            properties["masked"] = new JsonObject
            {
                ["type"] = "array",
                ["readOnly"] = true,
                ["items"] = new JsonObject { ["type"] = "string" },
                ["description"] = "JSON pointers to what you may know to be there, but not see.",
            };
        if (lines.Count > 0)
            properties["lines"] = new JsonObject { ["type"] = "object", ["properties"] = lines };
        if (type.FillOrder.Any(field => !field.IsComputed))
        {
            var origin = new JsonObject
            {
                ["at"] = new JsonObject { ["type"] = "string", ["format"] = "date-time" },
                ["typedBy"] = new JsonObject { ["type"] = "string" },
                ["from"] = new JsonObject
                {
                    ["type"] = "string",
                    ["description"] = "The record that it was carried from, such as partner/17.",
                },
            };
            properties["origins"] = new JsonObject
            {
                ["type"] = "object",
                ["readOnly"] = true,
                ["description"] = "Where values come from that were filled and may be changed, by JSON pointers to them.",
                ["additionalProperties"] = new JsonObject { ["type"] = "object", ["properties"] = origin },
            };
            properties[Core.Records.RecordJson.FillAgain] = new JsonObject
            {
                ["type"] = "array",
                ["writeOnly"] = true,
                ["items"] = new JsonObject { ["type"] = "string" },
                ["description"] = "JSON pointers to values that are to be as they are filled again, such as /values/price.",
            };
        }

        return new()
        {
            ["type"] = "object",
            ["title"] = type.Label,
            ["properties"] = properties,
        };
    }

    private static JsonObject Values(Part part, Viewer viewer)
    {
        var properties = new JsonObject();
        foreach (var field in part.Fields.Where(field => viewer.LevelAt(field) >= AccessLevel.Read))
        {
            var schema = field.Kind.Schema();
            schema["title"] = field.Label;
            if (field.Content.Help is { Length: > 0 } help)
                schema["description"] = help;
            if (!field.IsTyped)
                schema["readOnly"] = true;
            schema["x-added"] = field.IsAdded;
            schema["x-required"] = field.Required;
            properties[field.Code] = schema;
        }

        return new() { ["type"] = "object", ["properties"] = properties };
    }

    private static JsonObject Page(RecordType type) =>
        new()
        {
            ["type"] = "object",
            ["properties"] = new JsonObject
            {
                ["records"] = new JsonObject { ["type"] = "array", ["items"] = Ref(type.Code) },
                ["next"] = new JsonObject { ["type"] = new JsonArray("string", "null") },
            },
        };
}
