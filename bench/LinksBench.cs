using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Pelto.Bench;

/// <summary>
/// Finding what a link points to among 1,000,000 partners, through HTTP; against 1,000 of them in the same run. A list with what is seen
/// through links against the same without. A link made on 1,000,000 records while 2 writers work.
/// </summary>
internal static class LinksBench
{
    private static readonly int Few = Scale.Of(1_000, 100);
    private static readonly int Many = Scale.Of(1_000_000, 3_000);
    private static readonly int Turns = Scale.Of(400, 5);

    private static readonly string[] Firsts =
    [
        "North",
        "South",
        "Outer",
        "Inner",
        "Old",
        "New",
        "Upper",
        "Lower",
        "Great",
        "Little",
        "Stone",
        "Birch",
        "Alder",
        "Heron",
        "Osprey",
        "Sävel",
        "Tyrsky",
        "Myrsky",
        "Aalto",
        "Hiekka",
    ];
    private static readonly string[] Seconds =
    [
        "Harbour",
        "Boatyard",
        "Crane",
        "Rope",
        "Rigging",
        "Castings",
        "Forge",
        "Timber",
        "Quarry",
        "Ferry",
        "Slipway",
        "Lifting",
        "Marine",
        "Works",
        "Chain",
        "Salvage",
        "Towage",
        "Cables",
        "Loft",
        "Depot",
    ];

    public static async Task RunAsync()
    {
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var browser = await server.BrowserAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        Console.WriteLine($"| partners | typed | answers, median ms | 99 %, ms | worst, ms |\n|---:|---|---:|---:|---:|");
        var count = 0;
        foreach (var wanted in new[] { Few, Many })
        {
            await server.ExecuteAsync(
                $"""
                INSERT INTO erp.partner (id, number, name, role, country, active, city)
                SELECT 10000 + n, 'N-' || n, (ARRAY['{string.Join(
                    "','",
                    Firsts
                )}'])[1 + (n % 7919 * 31) % {Firsts.Length}] || ' ' || (ARRAY['{string.Join(
                    "','",
                    Seconds
                )}'])[1 + (n / 20) % {Seconds.Length}] || ' ' || n, 'customer', 'FI', true, 'Town ' || n % 2000 FROM generate_series({count
                    + 1}, {wanted}) n;
                """
            );
            await server.ExecuteAsync("VACUUM ANALYZE erp.partner");

            // What loading left to be written is written before anybody is timed.
            await server.ExecuteAsync("CHECKPOINT");
            count = wanted;
            await MeasureAsync(browser, count, "one letter", random => ((char)('a' + random.Next(26))).ToString());
            await MeasureAsync(browser, count, "two letters", random => Any(random, Seconds)[..2]);
            await MeasureAsync(browser, count, "the beginning of a name", random => Any(random, Firsts)[..3]);
            await MeasureAsync(browser, count, "a word", random => Any(random, Seconds));
            await MeasureAsync(browser, count, "parts of two words", random => $"{Any(random, Seconds)[..4]} {Any(random, Firsts)[1..]}");
            await MeasureAsync(browser, count, "a number", random => $"N-{random.Next(count)}");
            await MeasureAsync(browser, count, "what nothing fits", random => $"qx{random.Next(1000)}");
        }

        // The same through a link that finds by the town too.
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        draft["fields"]!
            .AsArray()
            .Add(
                new JsonObject
                {
                    ["id"] = "f-agent",
                    ["recordType"] = "sales_order",
                    ["code"] = "agent",
                    ["label"] = "Agent",
                    ["kind"] = "link",
                    ["target"] = "partner",
                    ["finds"] = new JsonArray("city"),
                }
            );
        await Server.PublishAsync(administrator, draft);
        await server.ExecuteAsync("VACUUM ANALYZE erp.partner");
        await server.ExecuteAsync("CHECKPOINT");
        await MeasureAsync(browser, count, "a town, by a chosen column", random => $"town {random.Next(2000)}", "&field=f-agent");
        await MeasureAsync(
            browser,
            count,
            "a word and a town",
            random => $"{Any(random, Seconds)} {1000 + random.Next(1000)}",
            "&field=f-agent"
        );
        await ListAsync(server, administrator);
        await PublishAsync(server, administrator);
    }

    // The list with ten fields seen through three links, against the same list before they were there; page by page in turn would need two
    // releases at once.
    private static async Task ListAsync(Server server, HttpClient administrator)
    {
        await server.ExecuteAsync(
            $"""
            INSERT INTO erp.sales_order (id, number, customer, order_date, status, payment_terms, currency, company, salesperson, warehouse, project, net_total, vat_percent, vat, gross_total)
            SELECT 10000 + n, 'SO-' || 1000000 + n, 10000 + 1 + n % {Math.Min(
                100_000,
                Many
            )}, date '2024-01-01' + n % 1000, 'open', 'n30', 'EUR', 'fi', 1 + n % 40, 1 + n % 4, 1 + n % 40, 10, 25.5, 2.55, 12.55 FROM generate_series(1, {Many}) n;
            """
        );
        await server.ExecuteAsync("VACUUM ANALYZE erp.sales_order");
        await server.ExecuteAsync("CHECKPOINT");
        var without = await ListsAsync(administrator);
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        foreach (
            var path in new[]
            {
                "customer.name",
                "customer.city",
                "customer.country",
                "customer.credit_limit",
                "salesperson.title",
                "salesperson.department",
                "salesperson.email",
                "project.name",
                "project.status",
                "project.ends_on",
            }
        )
            draft["fields"]!
                .AsArray()
                .Add(
                    new JsonObject
                    {
                        ["recordType"] = "sales_order",
                        ["code"] = path.Replace('.', '_'),
                        ["label"] = path,
                        ["kind"] = "seen",
                        ["path"] = path,
                    }
                );
        await Server.PublishAsync(administrator, draft);
        var with = await ListsAsync(administrator);
        Console.WriteLine(
            $"\n| 50 of {Many:N0} orders, median of {Turns}, ms | without | 10 seen over 3 links | ratio |\n|---|---:|---:|---:|"
        );
        foreach (var (name, one, other) in without.Zip(with, (one, other) => (one.Name, one.Latencies, other.Latencies)))
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {name} | {one.At(0.5):0.0} | {other.At(0.5):0.0} | {other.At(0.5) / one.At(0.5):0.00} |"
                )
            );
    }

    private static async Task<List<(string Name, Latencies Latencies)>> ListsAsync(HttpClient administrator)
    {
        var measured = new List<(string, Latencies)>();
        foreach (
            var (name, query) in new[] { ("newest first", "order=-number"), ("one customer's", "order=-number&filter=customer~is~10007") }
        )
        {
            var latencies = new Latencies();
            for (var i = 0; i < Turns / 10; i++)
                await administrator.GetStringAsync($"records/sales_order?take=50&{query}");
            for (var i = 0; i < Turns; i++)
                await latencies.TimeAsync(() => administrator.GetStringAsync($"records/sales_order?take=50&{query}"));
            measured.Add((name, latencies));
        }

        return measured;
    }

    private static async Task PublishAsync(Server server, HttpClient administrator)
    {
        Console.WriteLine(
            $"\n| on {Many:N0} orders, 2 writers | seconds | writers' median, ms | 99 %, ms | worst, ms |\n|---|---:|---:|---:|---:|"
        );
        const string Write = "UPDATE erp.sales_order SET reference = $2 WHERE id = $1";
        foreach (var (name, work) in new (string, Func<Task<long>>)[] { ("nothing else", async () =>
                {
                    await Task.Delay(10_000);
                    return 0;
                }), ("publish a link", async () =>
                {
                    var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
                    draft["fields"]!
                        .AsArray()
                        .Add(
                            new JsonObject
                            {
                                ["recordType"] = "sales_order",
                                ["code"] = "checked_by",
                                ["label"] = "Checked by",
                                ["kind"] = "link",
                                ["target"] = "partner",
                            }
                        );
                    await Server.PublishAsync(administrator, draft);
                    return Many;
                }) })
        {
            var (_, seconds, latencies) = await Writers.WhileAsync(server, Write, 10_001, Many, work);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {name} | {seconds:0.0} | {latencies.At(0.5):0.0} | {latencies.At(0.99):0.0} | {latencies.At(1):0} |"
                )
            );
        }
    }

    private static string Any(Random random, string[] words) => words[random.Next(words.Length)];

    private static async Task MeasureAsync(HttpClient browser, int count, string what, Func<Random, string> text, string link = "")
    {
        var random = new Random(1);
        var latencies = new Latencies();
        for (var i = 0; i < Turns; i++)
        {
            var started = Stopwatch.GetTimestamp();
            await browser.GetStringAsync($"/pick/partner?text={Uri.EscapeDataString(text(random))}{link}");
            if (i >= Turns / 10)
                latencies.Add(Stopwatch.GetElapsedTime(started));
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| {count:N0} | {what} | {latencies.At(0.5):0.0} | {latencies.At(0.99):0.0} | {latencies.At(1):0.0} |"
            )
        );
    }
}
