using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Pelto.Bench;

/// <summary>Publishing while people work: 1,000,000 orders, 50 people who save without pause, 20 releases with a new field each.</summary>
internal static class PublishBench
{
    private const int People = 50;
    private static readonly int Orders = Scale.Of(1_000_000, 10_000);
    private static readonly int Releases = Scale.Of(20, 3);

    public static async Task RunAsync()
    {
        await using var server = new Server();
        Say($"Making {Orders:N0} orders");
        await server.InstallAsync();
        await FillAsync(server);
        await server.ServeAsync();

        var desks = await server.PeopleAsync("order_desk", People);
        using var administrator = await server.InterfaceAsync("administrator");
        using var browser = await server.BrowserAsync();

        await SaveForAsync(desks, TimeSpan.FromSeconds(Scale.Of(20, 2)), new());
        Say("Saving, nothing is published");
        var (before, without) = (Stopwatch.StartNew(), new Latencies());
        await SaveForAsync(desks, TimeSpan.FromSeconds(Scale.Of(25, 2)), without);
        before.Stop();

        Say($"Saving while {Releases} releases are published");
        var with = new Latencies();
        using var end = new CancellationTokenSource();
        var pages = new OpenPages(browser);
        await pages.OpenAsync(People, end.Token);
        var during = Stopwatch.StartNew();
        using var stop = new CancellationTokenSource();
        var saving = SaveAsync(desks, with, stop.Token);
        var live = new List<double>();
        for (var i = 0; i < Releases; i++)
        {
            live.Add(await PublishAsync(administrator, pages, i));
            await Task.Delay(400);
        }

        await stop.CancelAsync();
        await saving;
        during.Stop();
        await end.CancelAsync();
        Report(without, before.Elapsed, with, during.Elapsed, live);
    }

    private static async Task FillAsync(Server server)
    {
        await server.ExecuteAsync(
            $"""
            INSERT INTO erp.sales_order (id, number, customer, order_date, status, payment_terms, currency, company, net_total, vat_percent, vat, gross_total)
            SELECT 1000 + n, 'SO-' || 1000000 + n, 1 + n % 412, date '2024-01-01' + n % 1000, 'open', 'n30', 'EUR', 'fi', 10, 25.5, 2.55, 12.55 FROM generate_series(1, {Orders}) n;
            INSERT INTO erp.sales_order_lines (id, parent, position, item, description, quantity, unit, price, amount)
            SELECT 10000 + n, 1000 + n, 0, 1 + n % 1906, 'Bow shackle', 1, 'pcs', 10, 10 FROM generate_series(1, {Orders}) n;
            """
        );
        await server.ExecuteAsync("VACUUM ANALYZE erp.sales_order");
        await server.ExecuteAsync("VACUUM ANALYZE erp.sales_order_lines");
    }

    private static async Task SaveForAsync(IReadOnlyList<HttpClient> desks, TimeSpan time, Latencies latencies)
    {
        using var stop = new CancellationTokenSource(time);
        await SaveAsync(desks, latencies, stop.Token);
    }

    private static Task SaveAsync(IReadOnlyList<HttpClient> desks, Latencies latencies, CancellationToken stop) =>
        Task.WhenAll(
            Enumerable
                .Range(0, People)
                .Select(async person =>
                {
                    var random = new Random(person);
                    for (var turn = 0; !stop.IsCancellationRequested; turn++)
                    {
                        var started = Stopwatch.GetTimestamp();
                        try
                        {
                            var body = JsonContent.Create(new { values = new { reference = $"person {person}, turn {turn}" } });
                            var answer = await desks[person % desks.Count]
                                .PatchAsync($"records/sales_order/{1001 + random.Next(Orders)}", body, CancellationToken.None);
                            if (answer.IsSuccessStatusCode)
                                latencies.Add(Stopwatch.GetElapsedTime(started));
                            else
                                latencies.Fail();
                        }
                        catch (HttpRequestException)
                        {
                            latencies.Fail();
                        }
                    }
                })
        );

    // From "Publish" to the moment when the last of the open pages has heard of it.
    private static async Task<double> PublishAsync(HttpClient administrator, OpenPages pages, int number)
    {
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        draft["fields"]!
            .AsArray()
            .Add(
                new JsonObject
                {
                    ["recordType"] = "sales_order",
                    ["code"] = $"field_{number}",
                    ["label"] = $"Field {number}",
                    ["kind"] = number % 2 == 0 ? "text" : "decimal",
                }
            );
        (await administrator.PutAsJsonAsync("setup/draft", draft)).EnsureSuccessStatusCode();
        var heard = pages.HearNextAsync();
        var started = Stopwatch.GetTimestamp();
        var answer = await administrator.PostAsJsonAsync("setup/publish", new { comment = $"Field {number}" });
        if (!answer.IsSuccessStatusCode)
            throw new InvalidOperationException(await answer.Content.ReadAsStringAsync());
        return (await heard - Stopwatch.GetElapsedTime(0, started)).TotalSeconds;
    }

    private static void Report(Latencies without, TimeSpan quiet, Latencies with, TimeSpan busy, List<double> live)
    {
        Console.WriteLine();
        Console.WriteLine("| | saves | a second | failed | median, ms | 99 %, ms | worst, ms |");
        Console.WriteLine("|---|---:|---:|---:|---:|---:|---:|");
        Console.WriteLine(without.Row("nothing published", quiet.TotalSeconds));
        Console.WriteLine(with.Row($"{Releases} releases published", busy.TotalSeconds));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| ratio | | | | {with.At(0.5) / without.At(0.5):0.00} | {with.At(0.99) / without.At(0.99):0.00} | {with.At(1) / without.At(1):0.00} |"
            )
        );
        Console.WriteLine();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"From “Publish” to live on all {People} open pages: median {live.Order().ElementAt(live.Count / 2):0.00} s, worst {live.Max():0.00} s."
            )
        );
        if (without.Failed + with.Failed > 0)
            throw new InvalidOperationException($"{without.Failed + with.Failed} saves failed.");
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"Saves failed: {without.Failed + with.Failed}. Worst ratio: {with.At(1) / without.At(1):0.00}."
            )
        );
    }

    private static void Say(FormattableString what) => Console.Error.WriteLine(what.ToString(CultureInfo.InvariantCulture));

    private static void Say(string what) => Console.Error.WriteLine(what);
}
