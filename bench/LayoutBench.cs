using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Access;
using Pelto.Core.Binding;
using Pelto.Core.Layouts;

namespace Pelto.Bench;

/// <summary>
/// A screen of 200 parts with 5 layers of 40 operations: resolved, and served with them against without; and one change on the arranging
/// page.
/// </summary>
internal static class LayoutBench
{
    private const int Parts = 200;
    private const int Operations = 40;
    private static readonly int Turns = Scale.Of(300, 5);

    private static readonly string[] Audiences = ["everyone", "company:fi", "country:FI", "role:administrator", "user:henna.aro"];

    public static async Task RunAsync()
    {
        Resolve();
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        using var browser = await server.BrowserAsync();
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        var layers = JsonSerializer.SerializeToNode(
            Layers(
                "sales_order",
                [
                    "number",
                    "customer",
                    "order_date",
                    "wanted_by",
                    "status",
                    "payment_terms",
                    "currency",
                    "company",
                    "salesperson",
                    "reference",
                ]
            ),
            SiteDefinition.Json
        );
        var (without, with) = (new Latencies(), new Latencies());

        // By turns, so that a machine that grows warmer or slower is even to both.
        for (var turn = 0; turn < 4; turn++)
        {
            await OpenAsync(browser, turn == 0 ? null : without);
            draft["layers"] = layers!.DeepClone();
            await Server.PublishAsync(administrator, draft);
            await OpenAsync(browser, turn == 0 ? null : with);
            draft["layers"] = new JsonArray();
            await Server.PublishAsync(administrator, draft);
        }

        draft["layers"] = layers!.DeepClone();
        await Server.PublishAsync(administrator, draft);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| open an order, median of {without.Count}, ms | {without.At(0.5):0.0} without | {with.At(0.5):0.0} with 5 layers | ratio {with.At(0.5) / without.At(0.5):0.00} |"
            )
        );
        await ArrangeAsync(browser);
    }

    private static void Resolve()
    {
        var type = new RecordTypeDescription
        {
            Code = "wide",
            Label = "Wide",
            Plural = "Wides",
            Identifier = "f0",
            Name = "f1",
            Fields =
            [
                .. Enumerable
                    .Range(0, Parts)
                    .Select(i => new FieldDescription
                    {
                        Code = $"f{i}",
                        Label = $"Field {i}",
                        Kind = "text",
                        Length = 20,
                    }),
            ],
            Screen = new([
                new(
                    "wide.main",
                    "Main",
                    [
                        .. Enumerable
                            .Range(0, 10)
                            .Select(s => new SectionDescription(
                                $"wide.s{s}",
                                $"Section {s}",
                                [.. Enumerable.Range(s * Parts / 10, Parts / 10).Select(i => new PlaceDescription($"f{i}", 3))]
                            )),
                    ]
                ),
            ]),
            List = ["f0"],
            Search = ["f0"],
            Order = "f0",
            Access = new(["*"], ["*"]),
        };
        var host = new HostDescription("wide", "Wide", "1", [new("administrator", "Administrator")], [type])
        {
            Companies = [new("fi", "Finland", "FI", "EUR")],
        };
        var site = new SiteDefinition { Layers = Layers("wide", [.. type.Fields.Select(field => field.Code)]) };
        var catalogue = Catalogue.Build(1, host, site);
        var screens = catalogue.Find("wide")!.Screens;
        var state = new RecordState(catalogue.Find("wide")!);
        var viewer = new Viewer(Guid.NewGuid(), "Henna", ["administrator"]) { Company = "fi", SignIn = "henna.aro" };
        var laid = screens.LayersOf(viewer);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| resolve {Parts} parts with {laid.Count} layers of {Operations} operations | {Micro(2000, () => LayoutResolver.Resolve(catalogue.Find("wide")!, laid)):0} µs | known already | {Micro(20000, () => screens.For(viewer, state)):0.0} µs |"
            )
        );
    }

    private static double Micro(int turns, Func<object> work)
    {
        for (var i = 0; i < turns / 4; i++)
            work();
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < turns; i++)
            work();
        return watch.Elapsed.TotalMicroseconds / turns;
    }

    // Moves, widths, labels and turns of Tab, spread over the fields.
    private static List<Layer> Layers(string type, string[] fields) =>
        [
            .. Audiences.Select(
                (audience, a) =>
                    new Layer
                    {
                        Id = $"l{a}",
                        Label = audience,
                        Comment = "For the benchmark",
                        Audience = audience,
                        Operations =
                        [
                            .. Enumerable
                                .Range(0, Operations)
                                .Select(i =>
                                    Operation(
                                        i,
                                        $"{type}.{fields[(i * 7 + a * 11) % fields.Length]}",
                                        $"{type}.{fields[(i * 13 + a * 5 + 1) % fields.Length]}"
                                    )
                                ),
                        ],
                    }
            ),
        ];

    private static LayerOperation Operation(int i, string part, string after) =>
        (i % 4) switch
        {
            0 when part != after => new()
            {
                Op = LayerOperation.Put,
                Part = part,
                After = after,
            },
            1 => new()
            {
                Op = LayerOperation.Resize,
                Part = part,
                Width = 2 + (i % 3),
            },
            2 => new()
            {
                Op = LayerOperation.Relabel,
                Part = part,
                Label = $"Called {i}",
            },
            _ => new() { Op = LayerOperation.Tab, Part = part },
        };

    private static async Task OpenAsync(HttpClient browser, Latencies? page)
    {
        for (var i = 0; i < Scale.Of(page is null ? 800 : 100, 3); i++)
            await browser.GetStringAsync("/records/sales_order/300");
        if (page is null)
            return;
        for (var i = 0; i < Turns; i++)
            await page.TimeAsync(() => browser.GetStringAsync("/records/sales_order/300"));
    }

    private static async Task ArrangeAsync(HttpClient browser)
    {
        const string Page = "/setup/arrange?type=sales_order&layer=l0&record=300";
        var token = Server.TokenIn(await browser.GetStringAsync(Page));
        var drop = new Latencies();
        for (var i = 0; i < 60; i++)
        {
            var operation = new LayerOperation
            {
                Op = LayerOperation.Put,
                Part = "sales_order.reference",
                After = i % 2 == 0 ? "sales_order.number" : "sales_order.customer",
            };
            async Task DropAsync()
            {
                using var form = new FormUrlEncodedContent(
                    new Dictionary<string, string>
                    {
                        ["operation"] = SiteDefinition.Text(operation),
                        ["__RequestVerificationToken"] = token,
                    }
                );
                (await browser.PostAsync(new Uri($"{Page}&handler=Do", UriKind.Relative), form)).EnsureSuccessStatusCode();
            }

            if (i < 20)
                await DropAsync();
            else
                await drop.TimeAsync(DropAsync);
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| a drop on the arranging page, server, ms | median {drop.At(0.5):0} | 95 % {drop.At(0.95):0} | |"
            )
        );
    }
}
