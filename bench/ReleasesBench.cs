using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Pelto.Bench;

/// <summary>
/// A thousand releases, one after the other, each with something that people notice and columns that come and go: what a publish takes and
/// what memory the server holds, at the beginning and in the end.
/// </summary>
internal static class ReleasesBench
{
    private const int Window = 50;
    private static readonly int Releases = Scale.Of(1000, 20);

    public static async Task RunAsync()
    {
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        var times = new List<double>();
        var memory = new List<double>();
        for (var n = 0; n < Releases; n++)
        {
            var draft = (await administrator.GetFromJsonAsync<JsonNode>("setup/draft"))!.AsObject();
            Change(draft["fields"]!.AsArray(), n);
            var stored = await administrator.PutAsJsonAsync("setup/draft", draft);
            if (!stored.IsSuccessStatusCode)
                throw new InvalidOperationException(await stored.Content.ReadAsStringAsync());
            var began = Stopwatch.GetTimestamp();
            var answer = await administrator.PostAsJsonAsync("setup/publish", new { comment = $"Release {n}" });
            if (!answer.IsSuccessStatusCode)
                throw new InvalidOperationException(await answer.Content.ReadAsStringAsync());
            times.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);

            // Somebody works under each release.
            (
                await administrator.PatchAsJsonAsync("records/partner/5", new { values = new { note = $"Release {n}" } })
            ).EnsureSuccessStatusCode();
            memory.Add(server.Megabytes);
            if (n % Window == Window - 1)
                Console.Error.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{n + 1} releases: {Median(times.TakeLast(Window)):0} ms, {memory[^1]:0} MB"
                    )
                );
        }

        // The beginning is that after a tenth, when all code is compiled.
        var tenth = Releases / 10;
        var (first, last) = (Median(times.Skip(tenth).Take(tenth)), Median(times.TakeLast(tenth)));
        var (held, holds) = (memory.Skip(tenth).Take(tenth).Max(), memory.TakeLast(tenth).Max());
        Console.WriteLine("| | after a tenth | in the end | ratio |\n|---|---:|---:|---:|");
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| a publish, ms, median | {first:0} | {last:0} | {last / first:0.00} |\n| memory of the server, MB, most | {held:0} | {holds:0} | {holds / held:0.00} |"
            )
        );
    }

    // Always twelve fields: each release changes the label of one and the length of another; every tenth one takes one out of use and adds
    // one.
    private static void Change(JsonArray fields, int n)
    {
        while (fields.Count < 12)
            Add(fields, $"first_{fields.Count}");
        var live = fields.Where(field => field!["retired"]?.GetValue<bool>() != true).ToList();
        live[n % live.Count]!["label"] = $"Label {n}";
        live[(n + 5) % live.Count]!["length"] = 100 + (n % 50);
        if (n % 10 != 9)
            return;
        live[n % live.Count]!["retired"] = true;
        Add(fields, $"field_{n}");
    }

    private static void Add(JsonArray fields, string code) =>
        fields.Add(
            new JsonObject
            {
                ["id"] = $"f-{code}",
                ["recordType"] = "partner",
                ["code"] = code,
                ["label"] = code,
                ["kind"] = "text",
                ["length"] = 100,
            }
        );

    private static double Median(IEnumerable<double> values) => values.Order().ToList() is var sorted ? sorted[sorted.Count / 2] : 0;
}
