using System.Diagnostics;
using System.Globalization;

namespace Pelto.Bench;

/// <summary>Finding what a link points to among 1,000,000 partners, through HTTP; against 1,000 of them in the same run.</summary>
internal static class LinksBench
{
    private const int Few = 1_000;
    private const int Many = 1_000_000;
    private const int Turns = 400;

    private static readonly string[] Firsts = ["North", "South", "Outer", "Inner", "Old", "New", "Upper", "Lower", "Great", "Little", "Stone", "Birch", "Alder", "Heron", "Osprey", "Sävel", "Tyrsky", "Myrsky", "Aalto", "Hiekka"];
    private static readonly string[] Seconds = ["Harbour", "Boatyard", "Crane", "Rope", "Rigging", "Castings", "Forge", "Timber", "Quarry", "Ferry", "Slipway", "Lifting", "Marine", "Works", "Chain", "Salvage", "Towage", "Cables", "Loft", "Depot"];

    public static async Task RunAsync()
    {
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var browser = await server.BrowserAsync();
        Console.WriteLine($"| partners | typed | answers, median ms | 99 %, ms | worst, ms |\n|---:|---|---:|---:|---:|");
        var count = 0;
        foreach (var wanted in new[] { Few, Many })
        {
            await server.ExecuteAsync(
                $"""
                INSERT INTO erp.partner (id, number, name, role, country, active)
                SELECT 10000 + n, 'N-' || n, (ARRAY['{string.Join("','", Firsts)}'])[1 + (n % 7919 * 31) % {Firsts.Length}] || ' ' || (ARRAY['{string.Join("','", Seconds)}'])[1 + (n / 20) % {Seconds.Length}] || ' ' || n, 'customer', 'FI', true FROM generate_series({count + 1}, {wanted}) n;
                """);
            await server.ExecuteAsync("VACUUM ANALYZE erp.partner");
            count = wanted;
            await MeasureAsync(browser, count, "one letter", random => ((char)('a' + random.Next(26))).ToString());
            await MeasureAsync(browser, count, "two letters", random => Any(random, Seconds)[..2]);
            await MeasureAsync(browser, count, "the beginning of a name", random => Any(random, Firsts)[..3]);
            await MeasureAsync(browser, count, "a word", random => Any(random, Seconds));
            await MeasureAsync(browser, count, "parts of two words", random => $"{Any(random, Seconds)[..4]} {Any(random, Firsts)[1..]}");
            await MeasureAsync(browser, count, "a number", random => $"N-{random.Next(count)}");
            await MeasureAsync(browser, count, "what nothing fits", random => $"qx{random.Next(1000)}");
        }
    }

    private static string Any(Random random, string[] words) => words[random.Next(words.Length)];

    private static async Task MeasureAsync(HttpClient browser, int count, string what, Func<Random, string> text)
    {
        var random = new Random(1);
        var latencies = new Latencies();
        for (var i = 0; i < Turns; i++)
        {
            var started = Stopwatch.GetTimestamp();
            await browser.GetStringAsync($"/pick/partner?text={Uri.EscapeDataString(text(random))}");
            if (i >= Turns / 10) latencies.Add(Stopwatch.GetElapsedTime(started));
        }

        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {count:N0} | {what} | {latencies.At(0.5):0.0} | {latencies.At(0.99):0.0} | {latencies.At(1):0.0} |"));
    }
}
