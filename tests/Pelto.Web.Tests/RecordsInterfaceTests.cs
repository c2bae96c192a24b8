using System.Net.Http.Json;

namespace Pelto.Web.Tests;

public sealed class RecordsInterfaceTests(App app) : IClassFixture<App>
{
    private const string Order =
        """{"values": {"customer": "P-0177", "reference": "By program"}, "lines": {"lines": [{"item": "SHB-22", "quantity": 4, "price": 31.9}, {"item": 1, "quantity": "2", "price": 10, "discount": 10}]}}""";

    [Fact(DisplayName = "An order's life: created, read, changed, refused when stale, deleted")]
    public async Task Life_of_an_order()
    {
        var api = await app.InterfaceAsync("order_desk");
        var created = await api.SendJsonAsync(HttpMethod.Post, "records/sales_order", Order);
        var order = await created.JsonAsync(HttpStatusCode.Created);
        Assert.Equal((145.6m, 177), (order["values"]!["net_total"]!.GetValue<decimal>(), order["values"]!["customer"]!.GetValue<int>()));
        var path = created.Headers.Location!.ToString();
        var tag = created.Headers.ETag!.ToString();

        var read = await api.GetAsync(path);
        Assert.Equal(tag, read.Headers.ETag!.ToString());
        Assert.True(JsonNode.DeepEquals(order, await read.JsonAsync()));
        Assert.Equal(
            HttpStatusCode.NotModified,
            (await api.SendAsync(new(HttpMethod.Get, path) { Headers = { { "If-None-Match", tag } } })).StatusCode
        );

        var second = order["lines"]!["lines"]![1]!["id"]!.GetValue<long>();
        var changed = await api.SendJsonAsync(
            HttpMethod.Patch,
            path,
            $$$"""{"values": {"reference": null}, "lines": {"lines": [{"id": {{{second}}}, "quantity": 3}, {"item": 2, "quantity": 1, "price": 1}]}}""",
            tag
        );
        var after = await changed.JsonAsync();
        Assert.Null(after["values"]!["reference"]);
        Assert.Equal(28m, after["values"]!["net_total"]!.GetValue<decimal>());
        Assert.NotEqual(tag, changed.Headers.ETag!.ToString());

        var stale = await api.SendJsonAsync(HttpMethod.Patch, path, """{"values": {"reference": "late"}}""", tag);
        Assert.Equal(412, (await stale.JsonAsync(HttpStatusCode.PreconditionFailed))["status"]!.GetValue<int>());
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await api.SendJsonAsync(HttpMethod.Delete, path, "", tag)).StatusCode);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await api.SendJsonAsync(HttpMethod.Delete, path, "", changed.Headers.ETag!.ToString())).StatusCode
        );
        Assert.Equal(HttpStatusCode.NotFound, (await api.GetAsync(path)).StatusCode);
    }

    [Fact(DisplayName = "Groups by the interface: values, counts, totals with their currency; what cannot be grouped by is said")]
    public async Task Groups()
    {
        var api = await app.InterfaceAsync("order_desk");
        var answer = await (
            await api.GetAsync("records/sales_order/groups?by=order_date:year&by=currency&filter=status~is~open")
        ).JsonAsync();
        var group = answer["groups"]![0]!;
        Assert.Matches("^[0-9]{4}$", group["values"]!["order_date"]!.GetValue<string>());
        Assert.Equal(group["values"]!["currency"]!.GetValue<string>(), group["totals"]!["gross_total"]!["currency"]!.GetValue<string>());
        Assert.Equal(answer["all"]!["count"]!.GetValue<long>(), answer["groups"]!.AsArray().Sum(one => one!["count"]!.GetValue<long>()));
        Assert.False(answer["all"]!["totals"]!.AsObject().ContainsKey("gross_total"));
        foreach (
            var (query, said) in new[]
            {
                ("", "Say with “by”"),
                ("by=nothing", "There is no field “nothing” to group by."),
                ("by=status&by=status", "Say with “by”"),
                ("by=order_date:week", "order_date:month"),
                ("by=status&filter=x~y", "There is no field “x”"),
            }
        )
            Assert.Contains(
                said,
                (await (await api.GetAsync($"records/sales_order/groups?{query}")).JsonAsync(HttpStatusCode.BadRequest))[
                    "detail"
                ]!.GetValue<string>(),
                StringComparison.Ordinal
            );
    }

    [Fact(
        DisplayName = "The next document is made by a program as by people: with what is open, with what is sent before that, and not twice"
    )]
    public async Task Next_document()
    {
        var api = await app.InterfaceAsync("order_desk");
        var order = await (await api.SendJsonAsync(HttpMethod.Post, "records/sales_order", Order)).JsonAsync(HttpStatusCode.Created);
        var id = order["id"]!.GetValue<long>();
        var refused = await (await api.SendJsonAsync(HttpMethod.Post, $"records/sales_order/{id}/next/delivery", "")).JsonAsync(
            HttpStatusCode.UnprocessableEntity
        );
        Assert.Equal("#/values/warehouse", refused["errors"]![0]!["pointer"]!.GetValue<string>());
        var delivery = await (
            await api.SendJsonAsync(HttpMethod.Post, $"records/sales_order/{id}/next/delivery", """{"values": {"warehouse": "W-01"}}""")
        ).JsonAsync(HttpStatusCode.Created);
        Assert.Equal([4m, 2m], delivery["lines"]!["lines"]!.AsArray().Select(line => line!["quantity"]!.GetValue<decimal>()));
        Assert.Equal("closed", (await api.GetJsonAsync($"records/sales_order/{id}"))["values"]!["status"]!.GetValue<string>());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await api.SendJsonAsync(HttpMethod.Post, $"records/sales_order/{id}/next/delivery", "")).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await api.SendJsonAsync(HttpMethod.Post, $"records/sales_order/{id}/next/payment", "")).StatusCode
        );
        Assert.Contains(
            "/records/sales_order/{id}/next/delivery",
            (await api.GetJsonAsync("openapi.json"))["paths"]!.AsObject().Select(path => path.Key)
        );
    }

    [Fact(DisplayName = "What is wrong comes back all at once as problem details (RFC 9457), each with a JSON pointer into what was sent")]
    public async Task Problems_point()
    {
        var api = await app.InterfaceAsync("order_desk");
        var answer = await api.SendJsonAsync(
            HttpMethod.Post,
            "records/sales_order",
            """{"values": {"order_date": "soon", "net_total": 5}, "lines": {"lines": [{"item": 1, "quantity": 0.123, "price": 1}]}}"""
        );
        Assert.Equal("application/problem+json", answer.Content.Headers.ContentType!.MediaType);
        var problem = await answer.JsonAsync(HttpStatusCode.UnprocessableEntity);
        Assert.All(["type", "title", "status", "detail"], member => Assert.NotNull(problem[member]));
        Assert.Equal(
            ["#/lines/lines/0/quantity", "#/values/customer", "#/values/net_total", "#/values/order_date"],
            problem["errors"]!.AsArray().Select(error => error!["pointer"]!.GetValue<string>()).Order(StringComparer.Ordinal)
        );
    }

    [Theory(DisplayName = "Nonsense is refused with the right status and a sentence")]
    [
        InlineData("GET", "records/boat", "", 404),
        InlineData("GET", "records/partner/999999", "", 404),
        InlineData("GET", "nothing/here", "", 404)
    ]
    [
        InlineData("GET", "records/partner?order=colour", "", 400),
        InlineData("GET", "records/partner?take=0", "", 400),
        InlineData("GET", "records/partner?take=many", "", 400),
        InlineData("GET", "records/partner?after=zzz", "", 400)
    ]
    [
        InlineData("POST", "records/sales_order", "{", 400),
        InlineData("POST", "records/sales_order", "", 400),
        InlineData("POST", "records/sales_order", "[]", 422),
        InlineData("POST", "records/sales_order", "null", 422)
    ]
    [
        InlineData("POST", "records/sales_order", """{"values": {"a": 1, "a": 2}}""", 400),
        InlineData("POST", "records/sales_order", """{"values": {"colour": 1}}""", 422),
        InlineData("PATCH", "records/sales_order/999999", "{}", 404)
    ]
    [
        InlineData("POST", "records/sales_order", """{"values": {"reference": "\ud800"}}""", 400),
        InlineData("POST", "records/sales_order", """{"values": {"reference": "a\u0000b", "customer": "P\u0000"}}""", 422)
    ]
    [
        InlineData("GET", "records/partner?order=credit_limit&after=WyJjcmVkaXRfbGltaXQiLFsiMWU5OTkiXSwxXQ", "", 400),
        InlineData("GET", "records/partner/99999999999999999999", "", 404)
    ]
    [
        InlineData("PATCH", "records/sales_order/1", """{"lines": {"lines": [{"id": 999999}]}}""", 422),
        InlineData("DELETE", "records/partner/177", "", 409)
    ]
    public async Task Nonsense_is_refused(string method, string path, string body, int status)
    {
        var api = await app.InterfaceAsync("order_desk");
        var problem = await (await api.SendJsonAsync(new(method), path, body)).JsonAsync((HttpStatusCode)status);
        Assert.NotEqual("", problem["detail"]!.GetValue<string>());
    }

    [Theory(DisplayName = "Without a token nothing, with one what its person may")]
    [
        InlineData(null, "GET", "records/partner", 401),
        InlineData("guest", "GET", "records/partner", 200),
        InlineData("guest", "GET", "records/employee", 404)
    ]
    [
        InlineData("guest", "POST", "records/partner", 403),
        InlineData("warehouse", "DELETE", "records/item/1", 403),
        InlineData("purchasing", "GET", "setup/draft", 403),
        InlineData("guest", "GET", "openapi.json", 200)
    ]
    public async Task Access_holds(string? person, string method, string path, int status)
    {
        var api = await app.InterfaceAsync(person);
        Assert.Equal(status, (int)(await api.SendJsonAsync(new(method), path, method == "GET" ? "" : "{}")).StatusCode);
    }

    [Fact(DisplayName = "A token that was not made here is refused")]
    public async Task Forged_tokens_are_refused()
    {
        var api = await app.InterfaceAsync(null);
        api.DefaultRequestHeaders.Authorization = new("Bearer", "pelto_" + new string('0', 64));
        var answer = await api.GetAsync("record-types");
        Assert.Equal((HttpStatusCode.Unauthorized, "Bearer"), (answer.StatusCode, answer.Headers.WwwAuthenticate.Single().Scheme));
    }

    [Fact(DisplayName = "What no record can hold is looked for and not found")]
    public async Task Odd_searches_find_nothing() =>
        Assert.Equal(
            412,
            (await (await app.InterfaceAsync("guest")).GetJsonAsync("records/partner?take=500&search=%00"))["records"]!.AsArray().Count
        );

    [Fact(DisplayName = "A list is read page by page to its end")]
    public async Task Lists_are_paged()
    {
        var api = await app.InterfaceAsync("guest");
        var (ids, after) = (new List<long>(), (string?)null);
        do
        {
            var page = await api.GetJsonAsync($"records/item?order=category,-price&take=400{(after is null ? "" : "&after=" + after)}");
            ids.AddRange(page["records"]!.AsArray().Select(record => record!["id"]!.GetValue<long>()));
            after = page["next"]?.GetValue<string>();
        } while (after is not null);
        Assert.Equal(1906, ids.Distinct().Count());
    }

    [Fact(DisplayName = "Trying fills and checks, and saves nothing")]
    public async Task Trying_saves_nothing()
    {
        var api = await app.InterfaceAsync("order_desk");
        var tried = await (
            await api.SendJsonAsync(
                HttpMethod.Post,
                "records/sales_order/try",
                """{"values": {}, "lines": {"lines": [{"quantity": 3, "price": 2.5}]}}"""
            )
        ).JsonAsync();
        Assert.Equal(7.5m, tried["values"]!["net_total"]!.GetValue<decimal>());
        Assert.Equal(
            ["#/lines/lines/0/item", "#/values/customer"],
            tried["messages"]!.AsArray().Select(message => message!["pointer"]!.GetValue<string>()).Order(StringComparer.Ordinal)
        );
        Assert.Equal(
            318,
            (await api.GetJsonAsync("records/sales_order?take=500"))["records"]!
                .AsArray()
                .Count(record => record!["id"]!.GetValue<long>() <= 318)
        );
    }

    [Fact(DisplayName = "Two programs with the same version: one gets through, the other is told")]
    public async Task One_of_two_gets_through()
    {
        var api = await app.InterfaceAsync("order_desk");
        var tag = (await api.GetAsync("records/sales_order/12")).Headers.ETag!.ToString();
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(i =>
                    api.SendJsonAsync(HttpMethod.Patch, "records/sales_order/12", $$$"""{"values": {"reference": "try {{{i}}}"}}""", tag)
                )
        );
        Assert.Equal(1, answers.Count(answer => answer.IsSuccessStatusCode));
        Assert.Equal(5, answers.Count(answer => answer.StatusCode == HttpStatusCode.PreconditionFailed));
    }

    [Fact(DisplayName = "Every kind goes through the interface, is described by OpenAPI, and comes back as it went in")]
    public async Task Every_kind_goes_through()
    {
        var api = await app.InterfaceAsync("administrator");
        var draft = await api.GetJsonAsync("setup/draft");
        var values = new JsonObject
        {
            ["long_text"] = "one\ntwo",
            ["formatted_text"] = "<p>a <b>b</b></p>",
            ["money"] = JsonNode.Parse("""{"amount": 12.5, "currency": "EUR"}"""),
            ["percent"] = 0.125,
            ["quantity"] = JsonNode.Parse("""{"amount": 3, "unit": "TNE"}"""),
            ["time"] = "14:30:00",
            ["date_time"] = "2026-11-25T12:30:00Z",
            ["duration"] = "PT1H20M",
            ["choices"] = new JsonArray("a", "b"),
            ["web_address"] = "https://example.org/x",
            ["email"] = "a@example.org",
            ["phone"] = "+358412345678",
            ["identifier"] = "9521234567882",
        };
        foreach (var kind in values.Select(pair => pair.Key).Append("secret").Append("file"))
            draft["fields"]!
                .AsArray()
                .Add(
                    new JsonObject
                    {
                        ["recordType"] = "partner",
                        ["code"] = $"i_{kind}",
                        ["label"] = $"I {kind}",
                        ["kind"] = kind,
                        ["choices"] =
                            kind == "choices" ? JsonNode.Parse("""[{"code": "a", "label": "A"}, {"code": "b", "label": "B"}]""") : null,
                        ["units"] = kind == "quantity" ? new JsonArray("KGM", "TNE") : null,
                    }
                );
        await (await api.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await api.PostAsJsonAsync("setup/publish", new { comment = "Kinds" })).JsonAsync();

        var sent = new JsonObject
        {
            ["values"] = new JsonObject(values.Select(pair => KeyValuePair.Create($"i_{pair.Key}", pair.Value?.DeepClone()))),
        };
        sent["values"]!["i_secret"] = "sesame";
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await api.PostAsync("files?name=plan.pdf", new StringContent("content"))).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await api.PostAsync("files?name=plan.pdf&field=partner.note", new StringContent("content"))).StatusCode
        );
        var forFile = (await api.GetJsonAsync("record-types/partner"))["fields"]!
            .AsArray()
            .First(field => field!["code"]!.GetValue<string>() == "i_file")!["id"]!.GetValue<string>();
        var file = await (await api.PostAsync($"files?name=plan.pdf&field={forFile}", new StringContent("content"))).JsonAsync(
            HttpStatusCode.Created
        );
        sent["values"]!["i_file"] = new JsonObject { ["id"] = file["id"]!.DeepClone(), ["name"] = "plan.pdf" };
        var back = await (await api.SendJsonAsync(HttpMethod.Patch, "records/partner/50", sent.ToJsonString())).JsonAsync();
        foreach (var (kind, value) in values)
            Assert.Equal(value!.ToJsonString(), back["values"]![$"i_{kind}"]!.ToJsonString());
        Assert.Equal("••••••••", back["values"]!["i_secret"]!.GetValue<string>());

        // What was masked comes back as it was; who asks is told, and put down.
        await (await api.SendJsonAsync(HttpMethod.Patch, "records/partner/50", back.ToJsonString())).JsonAsync();
        Assert.Equal(
            "sesame",
            (await (await api.PostAsync("records/partner/50/reveal/i_secret", null)).JsonAsync())["text"]!.GetValue<string>()
        );
        var id = (await api.GetJsonAsync("record-types/partner"))["fields"]!
            .AsArray()
            .First(field => field!["code"]!.GetValue<string>() == "i_file")!["id"];
        Assert.Equal("content", await (await api.GetAsync($"records/partner/50/files/{id}")).Content.ReadAsStringAsync());
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await (await app.InterfaceAsync("guest")).PostAsync("records/employee/1/reveal/x", null)).StatusCode
        );

        var described = (await api.GetJsonAsync("openapi.json"))["components"]!["schemas"]!["partner"]!["properties"]!["values"]![
            "properties"
        ]!;
        Assert.Equal("date-time", described["i_date_time"]!["format"]!.GetValue<string>());
        Assert.Equal("duration", described["i_duration"]!["format"]!.GetValue<string>());
        Assert.Equal(
            ["KGM", "TNE"],
            described["i_quantity"]!["properties"]!["unit"]!["enum"]!.AsArray().Select(unit => unit!.GetValue<string>())
        );
        var found = await api.GetJsonAsync("records/partner?filter=i_quantity~between~2900 kg~3.1 t&filter=i_email~contains~EXAMPLE");
        Assert.Equal(50, found["records"]!.AsArray().Single()!["id"]!.GetValue<long>());
        var wrong = await (
            await api.SendJsonAsync(
                HttpMethod.Patch,
                "records/partner/50",
                """{"values": {"i_money": {"amount": "x"}, "i_choices": ["z"], "i_time": 7, "i_file": {"id": "00000000-0000-0000-0000-000000000000", "name": "x"}}}"""
            )
        ).JsonAsync(HttpStatusCode.UnprocessableEntity);
        Assert.Equal(
            ["#/values/i_choices", "#/values/i_file", "#/values/i_money", "#/values/i_time"],
            wrong["errors"]!.AsArray().Select(error => error!["pointer"]!.GetValue<string>()).Order(StringComparer.Ordinal)
        );
    }
}
