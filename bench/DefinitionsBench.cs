using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Pelto.Bench;

/// <summary>
/// Changes of mind on 1,000,000 records while 2 writers work, against one plain UPDATE; and a record with 100 added fields against the same
/// with none.
/// </summary>
internal static class DefinitionsBench
{
    private static readonly int Orders = Scale.Of(1_000_000, 3_000);
    private const int Fields = 100;
    private static readonly int Turns = Scale.Of(300, 5);

    public static async Task RunAsync()
    {
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        using var browser = await server.BrowserAsync();
        await ManyFieldsAsync(administrator, browser);
        await ManyRecordsAsync(server, administrator);
    }

    private static async Task ManyFieldsAsync(HttpClient administrator, HttpClient browser)
    {
        await MeasureAsync(administrator, browser, 100);
        var none = await MeasureAsync(administrator, browser, Turns);
        string[] kinds =
        [
            "text",
            "long_text",
            "integer",
            "decimal",
            "money",
            "percent",
            "quantity",
            "date",
            "time",
            "date_time",
            "yes_no",
            "choice",
            "choices",
            "web_address",
            "email",
            "phone",
            "identifier",
        ];
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        var values = new JsonObject();
        for (var i = 0; i < Fields; i++)
        {
            var kind = kinds[i % kinds.Length];
            var choices = kind is "choice" or "choices"
                ? new JsonArray(
                    Enumerable
                        .Range(0, 12)
                        .Select(n => (JsonNode)new JsonObject { ["code"] = $"c{n}", ["label"] = $"Choice {n}" })
                        .ToArray()
                )
                : null;
            draft["fields"]!
                .AsArray()
                .Add(
                    new JsonObject
                    {
                        ["recordType"] = "partner",
                        ["code"] = $"many_{i}",
                        ["label"] = $"Many {i}",
                        ["kind"] = kind,
                        ["choices"] = choices,
                    }
                );
            values[$"many_{i}"] = kind switch
            {
                "text" or "long_text" => $"value {i}",
                "integer" or "decimal" or "money" or "quantity" => i,
                "percent" => 0.25,
                "date" => "2026-11-25",
                "time" => "14:30",
                "date_time" => "2026-11-25T12:30:00Z",
                "yes_no" => true,
                "choice" => "c3",
                "choices" => new JsonArray("c1", "c2"),
                "web_address" => "https://example.org",
                "email" => "a@example.org",
                "phone" => "+358412345678",
                _ => "9521234567882",
            };
        }

        await Server.PublishAsync(administrator, draft);
        (await administrator.PatchAsJsonAsync("records/partner/1", new JsonObject { ["values"] = values })).EnsureSuccessStatusCode();
        await MeasureAsync(administrator, browser, 100);
        var many = await MeasureAsync(administrator, browser, Turns);
        Console.WriteLine($"\n| median of {Turns}, ms | none added | {Fields} added | ratio |\n|---|---:|---:|---:|");
        foreach (
            var (name, without, with) in new[]
            {
                ("open the page", none.Page, many.Page),
                ("read by the interface", none.Read, many.Read),
                ("save one field", none.Save, many.Save),
            }
        )
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {name} | {without.At(0.5):0.0} | {with.At(0.5):0.0} | {with.At(0.5) / without.At(0.5):0.00} |"
                )
            );
    }

    private static async Task<(Latencies Page, Latencies Read, Latencies Save)> MeasureAsync(
        HttpClient administrator,
        HttpClient browser,
        int turns
    )
    {
        var (page, read, save) = (new Latencies(), new Latencies(), new Latencies());
        for (var i = 0; i < turns; i++)
        {
            await page.TimeAsync(() => browser.GetStringAsync("/records/partner/1"));
            await read.TimeAsync(() => administrator.GetStringAsync("records/partner/1"));
            await save.TimeAsync(async () =>
                (
                    await administrator.PatchAsJsonAsync("records/partner/1", new { values = new { phone = $"+358 9 {1000000 + i}" } })
                ).EnsureSuccessStatusCode()
            );
        }

        return (page, read, save);
    }

    private static async Task ManyRecordsAsync(Server server, HttpClient administrator)
    {
        Console.Error.WriteLine($"Making {Orders:N0} orders");
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        foreach (var (code, length) in new[] { ("note", 60), ("plain", 60), ("begun", 30), ("worked_on", 60) })
            draft["fields"]!
                .AsArray()
                .Add(
                    new JsonObject
                    {
                        ["id"] = $"f-{code}",
                        ["recordType"] = "sales_order",
                        ["code"] = code,
                        ["label"] = code,
                        ["kind"] = "text",
                        ["length"] = length,
                    }
                );
        await Server.PublishAsync(administrator, draft);
        await server.ExecuteAsync(
            $"""
            INSERT INTO erp.sales_order (id, number, customer, order_date, status, payment_terms, currency, company, net_total, vat_percent, vat, gross_total)
            SELECT 1000 + n, 'SO-' || 1000000 + n, 1 + n % 412, date '2024-01-01' + n % 1000, 'open', 'n30', 'EUR', 'fi', 10, 25.5, 2.55, 12.55 FROM generate_series(1, {Orders}) n;
            INSERT INTO added.sales_order (id, note) SELECT 1000 + n, (n % 5000)::text FROM generate_series(1, {Orders}) n;
            """
        );
        await server.ExecuteAsync("VACUUM ANALYZE erp.sales_order");
        await server.ExecuteAsync("VACUUM ANALYZE added.sales_order");

        Console.WriteLine(
            $"\n| on {Orders:N0} records, 2 writers | seconds | rows a second | of plain | writers' median, ms | 99 %, ms | worst, ms |\n|---|---:|---:|---:|---:|---:|---:|"
        );
        await StepAsync(server, "nothing else", null, async () =>
        {
            await Task.Delay(10_000);
            return 0;
        });
        var plain = await StepAsync(server, "plain UPDATE, all rows at once", null, async () =>
        {
            await server.ExecuteAsync("UPDATE added.sales_order SET plain = 'as it is'");
            return Orders;
        });
        await server.ExecuteAsync("VACUUM added.sales_order");
        await StepAsync(server, "length 60 to 30", plain, async () =>
        {
            await ChangeAsync(administrator, "f-note", field => field["length"] = 30);
            return Orders;
        });
        await StepAsync(server, "text to integer", plain, async () =>
        {
            await ChangeAsync(administrator, "f-note", field => (field["kind"], field["length"]) = ("integer", null));
            return Orders;
        });
        await server.ExecuteAsync("VACUUM added.sales_order");
        await StepAsync(server, "default for all", plain, async () =>
        {
            await ChangeAsync(administrator, "f-begun", field => (field["defaultValue"], field["fillExisting"]) = ("begun", true));
            while ((string)(await server.ScalarAsync("SELECT state FROM pelto.job WHERE field = 'f-begun'"))! == "Running")
                await Task.Delay(100);
            return (long)(await server.ScalarAsync("SELECT changed FROM pelto.job WHERE field = 'f-begun'"))!;
        });
        Console.WriteLine(
            $"\nTurned: {await server.ScalarAsync("SELECT count(note__2) FROM added.sales_order"):N0}. Filled: {await server.ScalarAsync("SELECT count(begun) FROM added.sales_order"):N0}."
        );
    }

    private static async Task<double> StepAsync(Server server, string name, double? plain, Func<Task<long>> work)
    {
        var (rows, seconds, latencies) = await Writers.WhileAsync(
            server,
            "UPDATE added.sales_order SET worked_on = $2 WHERE id = $1",
            1001,
            Orders,
            work
        );
        var speed = rows / seconds;
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| {name} | {seconds:0.0} | {(rows == 0 ? "" : speed.ToString("N0", CultureInfo.InvariantCulture))} | {(plain is null || rows == 0 ? "" : (speed / plain.Value).ToString("0.00", CultureInfo.InvariantCulture))} | {latencies.At(0.5):0.0} | {latencies.At(0.99):0.0} | {latencies.At(1):0} |"
            )
        );
        return speed;
    }

    private static async Task ChangeAsync(HttpClient administrator, string id, Action<JsonObject> change)
    {
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        change(draft["fields"]!.AsArray().Select(field => field!.AsObject()).First(field => field["id"]!.GetValue<string>() == id));
        await Server.PublishAsync(administrator, draft);
    }
}
