using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Bench;

/// <summary>
/// What people wait for, in a browser: long documents with and without added fields are opened, typed in and saved; a screen is arranged.
/// </summary>
internal static class ScreensBench
{
    private const string Person = "Henna Aro";
    private static readonly int[] Lengths = Scale.IsSmall ? [3, 60] : [3, 200, 500];
    private static readonly int Times = Scale.Of(7, 1);
    private static readonly string[] Kinds =
    [
        "text",
        "integer",
        "decimal",
        "date",
        "yes_no",
        "choice",
        "percent",
        "long_text",
        "link",
        "computed",
    ];

    public static async Task RunAsync()
    {
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        var orders = new Dictionary<int, long>();
        foreach (var length in Lengths)
            orders[length] = await OrderAsync(administrator, length);

        var plain = await MeasureAsync(server, administrator, orders, "lines.{0}.amount");
        var draft = (await administrator.GetFromJsonAsync<JsonNode>("setup/definition"))!.AsObject();
        for (var i = 0; i < 36; i++)
            draft["fields"]!
                .AsArray()
                .Add(
                    Field(
                        $"c{i}",
                        "header",
                        "decimal",
                        i == 0 ? "net_total * 1.1" : string.Create(CultureInfo.InvariantCulture, $"c{i - 1} + net_total / {i + 1}"),
                        isLive: i % 2 == 1
                    )
                );
        await Server.PublishAsync(administrator, draft);
        var computed = await MeasureAsync(server, administrator, orders.Where(pair => pair.Key == 3).ToDictionary(), "header.c35");
        for (var i = 0; i < 21; i++)
            draft["fields"]!.AsArray().Add(LineField(i));
        await Server.PublishAsync(administrator, draft);
        var wide = await MeasureAsync(server, administrator, orders, "lines.{0}.w9");
        foreach (var length in Lengths)
            await CheckAsync(administrator, orders[length], length);

        Console.WriteLine(
            "| ms, medians | none added | 36 computed in the header | and 21 in each line | ratio |\n|---|---:|---:|---:|---:|"
        );
        foreach (var (name, value) in plain)
        {
            var (few, many) = (computed.GetValueOrDefault(name), wide[name]);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {name} | {value:0} | {(few > 0 ? few.ToString("0", CultureInfo.InvariantCulture) : "")} | {many:0} | {many / value:0.00} |"
                )
            );
        }
    }

    private static async Task<Dictionary<string, double>> MeasureAsync(
        Server server,
        HttpClient administrator,
        Dictionary<int, long> orders,
        string output
    )
    {
        var documents = new List<object>();
        foreach (var (length, id) in orders)
        {
            var line = (await administrator.GetFromJsonAsync<JsonNode>($"records/sales_order/{id}"))!["lines"]!["lines"]![1]![
                "id"
            ]!.GetValue<long>();
            documents.Add(
                new
                {
                    name = $"{length} lines",
                    path = $"/records/sales_order/{id}",
                    input = $"lines.{line}.quantity",
                    output = string.Format(CultureInfo.InvariantCulture, output, line),
                }
            );
        }

        var screens = orders
            .Select(pair => new
            {
                name = $"{pair.Key} lines",
                path = $"/setup/arrange?type=sales_order&layer=site&record={pair.Value}",
                part = "sales_order.customer",
            })
            .Take(2);
        var plan = JsonSerializer.Serialize(
            new
            {
                url = server.Address.ToString().TrimEnd('/'),
                person = Person,
                documents,
                screens,
                times = Times,
            }
        );
        var start = new ProcessStartInfo("node", ["bench/screens.mjs", plan])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        using var node = Process.Start(start)!;
        var complained = node.StandardError.ReadToEndAsync();
        var said = await node.StandardOutput.ReadToEndAsync();
        await node.WaitForExitAsync();
        if (node.ExitCode != 0)
            throw new InvalidOperationException($"The browser did not get through: {Cause(await complained)}");
        var figures = JsonNode.Parse(said)!;
        var all = new Dictionary<string, double>();
        foreach (
            var (kind, words) in new[]
            {
                ("opened", "open"),
                ("answered", "from the key to the value"),
                ("saved", "save, until one can go on"),
            }
        )
        foreach (var (name, one) in figures["documents"]!.AsObject())
            all[$"{name}: {words}"] = one![kind]!.GetValue<double>();
        foreach (var (kind, words) in new[] { ("opened", "open"), ("moved", "move a field") })
        foreach (var (name, one) in figures["screens"]!.AsObject())
            all[$"arrange, {name}: {words}"] = one![kind]!.GetValue<double>();
        var list = new Latencies();
        for (var i = 0; i < (Times * 4) + 4; i++)
        {
            var began = Stopwatch.GetTimestamp();
            var page = (await administrator.GetFromJsonAsync<JsonNode>("records/sales_order?take=50"))!;
            if (page["records"]!.AsArray().Count != 50)
                throw new InvalidOperationException("The list is not whole.");
            if (i >= 4)
                list.Add(Stopwatch.GetElapsedTime(began));
        }

        all["list of 50 by the interface"] = list.At(0.5);
        return all;
    }

    // The line that names the error, without the source that Node.js quotes around it.
    private static string Cause(string complained) =>
        complained.Split('\n').FirstOrDefault(line => line.Contains("Error", StringComparison.Ordinal))?.Trim() ?? complained.Trim();

    private static async Task<long> OrderAsync(HttpClient administrator, int length)
    {
        var items = (await administrator.GetFromJsonAsync<JsonNode>("records/item?take=50"))!["records"]!
            .AsArray()
            .Select(item => item!["id"]!.GetValue<long>())
            .ToList();
        var lines = Enumerable
            .Range(0, length)
            .Select(i => new
            {
                item = items[i % items.Count],
                quantity = 1 + (i % 7),
                price = 10 + i,
            });
        var answer = await administrator.PostAsJsonAsync(
            "records/sales_order",
            new { values = new { customer = 177 }, lines = new { lines } }
        );
        return JsonNode.Parse(await answer.EnsureSuccessStatusCode().Content.ReadAsStringAsync())!["id"]!.GetValue<long>();
    }

    // What was measured has to be right as well: all lines are there, and what is computed of the changed one fits.
    private static async Task CheckAsync(HttpClient administrator, long id, int length)
    {
        var order = (await administrator.GetFromJsonAsync<JsonNode>($"records/sales_order/{id}"))!;
        var lines = order["lines"]!["lines"]!.AsArray();
        var line = lines[1]!;
        if (
            lines.Count != length
            || line["w9"]!.GetValue<decimal>() != line["quantity"]!.GetValue<decimal>() * line["price"]!.GetValue<decimal>()
        )
            throw new InvalidOperationException($"The order of {length} lines is not what was typed.");
    }

    private static JsonObject Field(string code, string part, string kind, string? formula = null, bool isLive = false)
    {
        var field = new JsonObject
        {
            ["id"] = $"f-{code}",
            ["recordType"] = "sales_order",
            ["part"] = part,
            ["code"] = code,
            ["label"] = $"Field {code}",
            ["kind"] = kind,
        };
        if (kind == "decimal")
            (field["digits"], field["decimals"]) = (16, 2);
        if (formula is not null)
            (field["formula"], field["live"]) = (formula, isLive);
        return field;
    }

    private static JsonObject LineField(int i)
    {
        var kind = Kinds[i % Kinds.Length];
        if (kind == "computed")
            return Field($"w{i}", "lines", "decimal", i == 9 ? "quantity * price" : "w9 * 2");
        var field = Field($"w{i}", "lines", kind);
        if (kind == "text")
            field["length"] = 40;
        if (kind == "link")
            field["target"] = "employee";
        if (kind == "choice")
            field["choices"] = new JsonArray([
                .. "abcde".Select(letter => new JsonObject
                {
                    ["code"] = letter.ToString(),
                    ["label"] = letter.ToString().ToUpperInvariant(),
                }),
            ]);
        return field;
    }
}
