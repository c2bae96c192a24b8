using System.Text.Json.Nodes;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Data.Records;

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
            schemas[type.Code] = Record(type, viewer);
            AddPaths(paths, type, viewer);
        }

        AddFiles(paths);
        AddFormulas(paths);
        if (AdminWork.InDraft.Any(viewer.May))
            AddSetUp(paths);
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

    private static JsonObject Refused(string description) =>
        new()
        {
            ["description"] = description,
            ["content"] = new JsonObject { ["application/problem+json"] = new JsonObject { ["schema"] = Ref("problem") } },
        };

    private static void AddFormulas(JsonObject paths)
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

    private static void AddPaths(JsonObject paths, RecordType type, Viewer viewer)
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
            $"Puts {type.Plural.ToLowerInvariant()} in groups: how many each has, and totals of its numbers, which are left out where they do not add.",
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
                    $"Changes what is sent of a {name}. Lines are sent as they are to be: those with an id stay and change, those without are added, those left out are removed. If-Match refuses when it changed meanwhile.",
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
                $"Creates the {follow.Next.Label.ToLowerInvariant()} that follows a {name}, with all that is open; what is sent goes before that.",
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

    private static void AddFiles(JsonObject paths)
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

    private static void AddSetUp(JsonObject paths)
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

    private static JsonObject Record(RecordType type, Viewer viewer)
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

    private static JsonObject Operation(string summary, JsonObject responses, bool refusals = false)
    {
        foreach (var code in refusals ? new[] { "4XX" } : [])
            responses[code] = Refused("Refused, with the reasons.");
        return new() { ["summary"] = summary, ["responses"] = responses };
    }

    private static JsonObject Answered(string description, JsonNode schema, string status = "200") =>
        new()
        {
            [status] = new JsonObject
            {
                ["description"] = description,
                ["content"] = new JsonObject { ["application/json"] = new JsonObject { ["schema"] = schema } },
            },
        };

    private static JsonObject WithBody(JsonObject operation, RecordType type)
    {
        operation["requestBody"] = Body(Ref(type.Code));
        return operation;
    }

    private static JsonObject Body(JsonNode schema) =>
        new()
        {
            ["required"] = true,
            ["content"] = new JsonObject { ["application/json"] = new JsonObject { ["schema"] = schema } },
        };

    private static JsonObject Ref(string schema) => new() { ["$ref"] = "#/components/schemas/" + schema };

    private static JsonObject Parameter(string name, string place, JsonObject schema, string description) =>
        new()
        {
            ["name"] = name,
            ["in"] = place,
            ["required"] = place == "path",
            ["schema"] = schema,
            ["description"] = description,
        };
}
