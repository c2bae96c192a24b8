using System.Net.Http.Json;
using Json.Schema;
using Microsoft.OpenApi;

namespace Pelto.Web.Tests;

public sealed class SetUpInterfaceTests(App app) : IClassFixture<App>
{
    [Fact(DisplayName = "From draft to live: the plan says what will happen, and then every way out has the field")]
    public async Task A_field_goes_live()
    {
        var api = await app.InterfaceAsync("administrator");
        await (
            await api.PutAsJsonAsync(
                "setup/draft",
                JsonNode.Parse(
                    """{"fields": [{"recordType": "sales_order", "code": "copies", "label": "Certificate copies", "kind": "integer", "defaultValue": 2}]}"""
                )
            )
        ).JsonAsync();
        var plan = await api.GetJsonAsync("setup/plan");
        Assert.True(plan["publishable"]!.GetValue<bool>());
        Assert.Contains(
            "Adds Certificate copies (integer) to sales orders",
            plan["changes"]![0]!["sentence"]!.GetValue<string>(),
            StringComparison.Ordinal
        );
        Assert.Contains("ADD \"copies\" bigint", string.Join(' ', plan["sql"]!.AsArray()), StringComparison.Ordinal);
        var released = await (await api.PostAsJsonAsync("setup/publish", new { comment = "Inspection bodies ask" })).JsonAsync();

        var desk = await app.InterfaceAsync("order_desk");
        var type = await desk.GetJsonAsync("record-types/sales_order");
        var field = type["fields"]!.AsArray().Single(candidate => candidate!["code"]!.GetValue<string>() == "copies")!;
        Assert.Equal(
            ("integer", "header", true, false),
            (
                field["kind"]!.GetValue<string>(),
                field["part"]!.GetValue<string>(),
                field["added"]!.GetValue<bool>(),
                field["required"]!.GetValue<bool>()
            )
        );
        var order = await (await desk.PostAsJsonAsync("records/sales_order", new { values = new { customer = 177 } })).JsonAsync(
            HttpStatusCode.Created
        );
        Assert.Equal(2, order["values"]!["copies"]!.GetValue<int>());
        Assert.Equal(
            order["id"]!.GetValue<long>(),
            (await desk.GetJsonAsync("records/sales_order?order=-copies&take=1"))["records"]![0]!["id"]!.GetValue<long>()
        );
        Assert.Contains(
            "copies",
            (await desk.GetJsonAsync("openapi.json"))["components"]!["schemas"]!["sales_order"]!.ToJsonString(),
            StringComparison.Ordinal
        );
        Assert.Equal("copies", (await api.GetJsonAsync("setup/definition"))["fields"]![0]!["code"]!.GetValue<string>());
        Assert.True(released["release"]!.GetValue<int>() > 1);
    }

    [Theory(DisplayName = "A draft with a problem is kept and cannot be published; the problem names element and property")]
    [InlineData("""{"id": "f-x", "recordType": "sales_order", "code": "reference", "label": "X", "kind": "text"}""", "code")]
    [InlineData(
        """{"id": "f-x", "recordType": "sales_order", "code": "x", "label": "X", "kind": "integer", "defaultValue": "many"}""",
        "defaultValue"
    )]
    public async Task Problems_block(string field, string property)
    {
        var api = await app.InterfaceAsync("administrator");
        var before = await api.GetJsonAsync("setup/definition");
        var draft = before.DeepClone().AsObject();
        draft["fields"]!.AsArray().Add(JsonNode.Parse(field));
        await (await api.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        var refused = await (await api.PostAsJsonAsync("setup/publish", new { comment = "Try" })).JsonAsync(
            HttpStatusCode.UnprocessableEntity
        );
        Assert.Contains(refused["problems"]!.AsArray(), problem =>
            problem!["element"]!.GetValue<string>() == "f-x" && problem["property"]!.GetValue<string>() == property
        );
        await (await api.PutAsJsonAsync("setup/draft", before)).JsonAsync();
    }

    [Fact(DisplayName = "A record type of the site's own is sent, read back as it was sent, and refused where it cannot work")]
    public async Task Record_types_are_sent()
    {
        var api = await app.InterfaceAsync("administrator");
        var before = await api.GetJsonAsync("setup/definition");
        var draft = before.DeepClone().AsObject();
        draft["recordTypes"]!
            .AsArray()
            .Add(
                JsonNode.Parse(
                    """{"id": "t-survey", "code": "survey", "label": "Survey", "plural": "Surveys", "numbering": {"withYear": true}, "lines": [{"code": "notes", "label": "Note", "plural": "Notes"}], "read": ["*"]}"""
                )
            );
        await (await api.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        var stored = await api.GetJsonAsync("setup/draft");
        Assert.Equal(4, stored["recordTypes"]![0]!["numbering"]!["digits"]!.GetValue<int>());
        Assert.Empty((await api.GetJsonAsync("setup/plan"))["problems"]!.AsArray());
        await (await api.PutAsJsonAsync("setup/draft", stored)).JsonAsync();

        stored["recordTypes"]![0]!["code"] = "item";
        stored["recordTypes"]![0]!["write"] = new JsonArray("captain");
        await (await api.PutAsJsonAsync("setup/draft", stored)).JsonAsync();
        Assert.Equal(
            ["access", "code"],
            (await api.GetJsonAsync("setup/plan"))["problems"]!
                .AsArray()
                .Select(problem => problem!["property"]!.GetValue<string>())
                .Order()
        );
        await (await api.PutAsJsonAsync("setup/draft", before)).JsonAsync();
    }

    [Fact(DisplayName = "Required, hidden and without a default cannot go live")]
    public async Task Hidden_required_is_refused()
    {
        var api = await app.InterfaceAsync("administrator");
        var before = await api.GetJsonAsync("setup/definition");
        var draft = before.DeepClone().AsObject();
        draft["fields"]!
            .AsArray()
            .Add(
                JsonNode.Parse(
                    """{"id": "f-hid", "recordType": "partner", "code": "hid", "label": "Hid", "kind": "text", "required": true}"""
                )
            );
        draft["layers"] = JsonNode.Parse("""[{"id": "site", "operations": [{"op": "hide", "part": "f-hid"}]}]""");
        await (await api.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        Assert.Contains(
            "nobody could save",
            (await api.GetJsonAsync("setup/plan"))["problems"]![0]!["sentence"]!.GetValue<string>(),
            StringComparison.Ordinal
        );
        await (await api.PutAsJsonAsync("setup/draft", before)).JsonAsync();
    }

    [Theory(DisplayName = "What does not keep to the schema is refused at its place")]
    [
        InlineData("""{"feilds": []}""", 422),
        InlineData("""{"fields": [{"code": "x"}]}""", 422),
        InlineData("""{"fields": [{"recordType": "partner", "code": "x", "label": "X", "kind": "colour"}]}""", 422),
        InlineData("[]", 422),
        InlineData("{", 400)
    ]
    public async Task Schema_is_kept(string body, int status)
    {
        var api = await app.InterfaceAsync("administrator");
        await (await api.SendJsonAsync(HttpMethod.Put, "setup/draft", body)).JsonAsync((HttpStatusCode)status);
    }

    [Fact(DisplayName = "The draft's ETag guards against overwriting somebody else's change; a comment is required to publish")]
    public async Task Drafts_are_guarded()
    {
        var api = await app.InterfaceAsync("administrator");
        foreach (var stale in new[] { "\"987654\"", "\"0.0\"", "W/\"1.0\"", "something" })
            Assert.Equal(
                HttpStatusCode.PreconditionFailed,
                (
                    await api.SendJsonAsync(
                        HttpMethod.Put,
                        "setup/draft",
                        """{"fields": [{"recordType": "item", "code": "q", "label": "Q", "kind": "date"}]}""",
                        stale
                    )
                ).StatusCode
            );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await api.PostAsJsonAsync("setup/publish", new { })).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await api.SendJsonAsync(HttpMethod.Post, "setup/publish", "{")).StatusCode);
    }

    [Fact(DisplayName = "The OpenAPI document is read without an error by the reader that Microsoft ships, as 3.1")]
    public async Task OpenApi_is_valid()
    {
        var api = await app.InterfaceAsync("administrator");
        var text = await (await api.GetAsync("openapi.json")).Content.ReadAsStringAsync();
        var read = OpenApiDocument.Parse(text, "json");
        Assert.Empty(read.Diagnostic!.Errors);
        Assert.Equal(OpenApiSpecVersion.OpenApi3_1, read.Diagnostic.SpecificationVersion);
        Assert.True(read.Document!.Paths.ContainsKey("/records/sales_order/{id}"));

        // Generated clients call operations by their names, and know what each may refuse.
        var operations = read
            .Document.Paths.SelectMany(path => path.Value.Operations!.Select(operation => (Path: path.Key, operation.Value)))
            .ToList();
        Assert.True(operations.Count > 70, $"There are {operations.Count} operations.");
        Assert.Equal(operations.Count, operations.Select(operation => operation.Value.OperationId).Distinct().Count());
        Assert.All(operations, operation => Assert.Matches("^[a-z]+[A-Za-z0-9]+$", operation.Value.OperationId));
        Assert.All(operations, operation =>
            Assert.Superset(
                operation.Path.Contains('{', StringComparison.Ordinal)
                    ? new HashSet<string> { "401", "403", "404", "429" }
                    : ["401", "403", "429"],
                operation.Value.Responses!.Keys.ToHashSet()
            )
        );
        Assert.Contains(operations, operation => operation.Value.OperationId == "patchRecordsSalesOrderById");
    }

    [Fact(DisplayName = "Our schemas keep to JSON Schema 2020-12, by its own meta-schema")]
    public async Task Schemas_are_schemas()
    {
        var api = await app.InterfaceAsync("administrator");
        var texts = Directory
            .GetFiles(Path.Combine(Pelto.Tests.TemplateDatabase.HostFolder, "..", ".."), "*.schema.json")
            .Select(File.ReadAllText)
            .Append(await (await api.GetAsync("setup/schema")).Content.ReadAsStringAsync());
        Assert.All(texts, text =>
        {
            using var json = System.Text.Json.JsonDocument.Parse(text);
            Assert.True(MetaSchemas.Draft202012.Evaluate(json.RootElement).IsValid);
        });
    }

    [Fact(
        DisplayName = "A whole definition, with every property in use, is read back as it was sent: it keeps to the schema that is published"
    )]
    public async Task Whole_definitions_come_back()
    {
        var api = await app.InterfaceAsync("administrator");
        var draft = await api.GetJsonAsync("setup/draft");
        draft["choiceLists"] = JsonNode.Parse(
            """[{"id": "l-1", "label": "Steel", "alphabetical": true, "mayAdd": true, "choices": [{"code": "a", "label": "A", "colour": "moss"}, {"code": "b", "label": "B", "retired": true}, {"code": "c", "label": "C", "mergedInto": "a"}]}]"""
        );
        foreach (
            var field in new[]
            {
                """{"id": "f-w1", "recordType": "item", "code": "w1", "label": "W1", "kind": "choices", "choiceList": "l-1", "texts": {"fi": {"label": "Yksi"}}, "alsoOn": [{"recordType": "partner", "printed": true}], "printed": true}""",
                """{"id": "f-w2", "recordType": "item", "code": "w2", "label": "W2", "kind": "money", "currencies": ["EUR", "NOK"], "digits": 9, "minimum": 0, "maximum": "10", "defaultValue": "5", "fillExisting": true}""",
                """{"id": "f-w3", "recordType": "item", "code": "w3", "label": "W3", "kind": "identifier", "scheme": "own", "checkDigit": "mod11_2", "pattern": "[0-9X]+", "unique": true, "requiredWhen": "price > 10", "check": "w3 <> number", "checkMessage": "No."}""",
                """{"id": "f-w4", "recordType": "item", "code": "w4", "label": "W4", "kind": "quantity", "units": ["KGM"], "decimals": 1, "retired": true}""",
            }
        )
            draft["fields"]!.AsArray().Add(JsonNode.Parse(field));
        var stored = await (await api.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        Assert.Equal(stored.ToJsonString(), (await (await api.PutAsJsonAsync("setup/draft", stored)).JsonAsync()).ToJsonString());
        var plan = await api.GetJsonAsync("setup/plan");
        Assert.Empty(plan["problems"]!.AsArray());
        await (await api.PutAsJsonAsync("setup/draft", await api.GetJsonAsync("setup/definition"))).JsonAsync();
    }
}
