namespace Pelto.Web.Tests;

/// <summary>Formulas through the programming interface: tried on nothing, on records, and on values that are sent.</summary>
public sealed class FormulasInterfaceTests(App app) : IClassFixture<App>
{
    private async Task<JsonObject> TryAsync(string body, string person = "order_desk", HttpStatusCode status = HttpStatusCode.OK)
    {
        var api = await app.InterfaceAsync(person);
        return (JsonObject)await (await api.SendJsonAsync(HttpMethod.Post, "formulas/try", body)).JsonAsync(status);
    }

    [Theory(DisplayName = "Without a record, values and functions are calculated, each as its type")]
    [
        InlineData("=1 + 2 * 3", "number", "7"),
        InlineData("\"a\" & 1.50", "text", "\"a1.5\""),
        InlineData("DATE(2024; 2; 29)", "date", "\"2024-02-29\""),
        InlineData("1 > 2", "yes_no", "false"),
        InlineData("TIME(14; 30; 0)", "time", "\"14:30:00\""),
        InlineData("\"\"", "empty", "null"),
        InlineData("MONEY(2.50; \"EUR\")", "money", "{\"amount\":2.5,\"currency\":\"EUR\"}")
    ]
    public async Task Values(string text, string kind, string value)
    {
        var answer = await TryAsync(new JsonObject { ["text"] = text }.ToJsonString());
        Assert.Equal((kind, value), (answer["kind"]!.GetValue<string>(), answer["value"]?.ToJsonString() ?? "null"));
        Assert.Empty(answer["problems"]!.AsArray());
    }

    [Theory(DisplayName = "What is wrong is told at its place, and what cannot be calculated by its reason")]
    [
        InlineData("ROUMD(1)", 0, 5, "Did you mean ROUND?"),
        InlineData("", 0, 0, "The formula is empty."),
        InlineData("net_total * 2", 0, 9, "There is no record here")
    ]
    public async Task Problems(string text, int from, int length, string said)
    {
        var answer = await TryAsync(new JsonObject { ["text"] = text }.ToJsonString());
        var problem = answer["problems"]![0]!;
        Assert.Equal((from, length), (problem["from"]!.GetValue<int>(), problem["length"]!.GetValue<int>()));
        Assert.Contains(said, problem["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Null(answer["value"]);
        Assert.Equal("Division by zero.", (await TryAsync("""{"text": "1 / 0"}"""))["error"]!.GetValue<string>());
    }

    [Fact(DisplayName = "On a record, with values and lines that are sent over what is on file; nothing is saved")]
    public async Task On_records()
    {
        var onFile = await TryAsync("""{"text": "SUM(lines.amount) - net_total", "recordType": "sales_order", "recordId": 30}""");
        Assert.Equal(0m, onFile["value"]!.GetValue<decimal>());
        Assert.Contains("sales_order_lines", onFile["sql"]!.GetValue<string>(), StringComparison.Ordinal);
        var sent = await TryAsync(
            """{"text": "SUM(lines.quantity * lines.price) & \" for \" & customer.number", "recordType": "sales_order", "recordId": 30, "values": {"customer": "P-0177"}, "lines": {"lines": [{"quantity": 2, "price": 10}, {"quantity": 1, "price": 5}]}}"""
        );
        Assert.Equal("25 for P-0177", sent["value"]!.GetValue<string>());
        Assert.Equal(
            3m,
            (
                await TryAsync(
                    """{"text": "quantity + 1", "recordType": "sales_order", "part": "lines", "lines": {"lines": [{"quantity": 2}]}}"""
                )
            )["value"]!.GetValue<decimal>()
        );
        Assert.NotEqual(
            25m,
            (await (await app.InterfaceAsync("order_desk")).GetJsonAsync("records/sales_order/30"))["values"]![
                "net_total"
            ]!.GetValue<decimal>()
        );
    }

    [Fact(DisplayName = "Bad requests are problem details; what one may not see is not calculated either")]
    public async Task Refusals()
    {
        await TryAsync("[]", status: HttpStatusCode.BadRequest);
        await TryAsync("""{"text": 5}""", status: HttpStatusCode.BadRequest);
        await TryAsync("""{"text": "1", "recordId": 3}""", status: HttpStatusCode.BadRequest);
        await TryAsync("""{"text": "1", "recordType": "nothing"}""", status: HttpStatusCode.NotFound);
        await TryAsync("""{"text": "1", "recordType": "sales_order", "recordId": 99999999}""", status: HttpStatusCode.NotFound);
        Assert.Equal(
            "#/values/order_date",
            (
                await TryAsync(
                    """{"text": "1", "recordType": "sales_order", "values": {"order_date": "soon"}}""",
                    status: HttpStatusCode.UnprocessableEntity
                )
            )["errors"]![0]!["pointer"]!.GetValue<string>()
        );
        await TryAsync("""{"text": "salesperson.name", "recordType": "sales_order", "recordId": 30}""", "guest", HttpStatusCode.Forbidden);
        var functions = await (await app.InterfaceAsync("guest")).GetJsonAsync("formulas/functions");
        Assert.Contains(
            "EDATE(day; months)",
            functions["functions"]!.AsArray().Select(function => function!["signature"]!.GetValue<string>())
        );
    }
}
