using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Access;
using Pelto.Core.Binding;

namespace Pelto.Bench;

/// <summary>
/// A list of 50 rows with 100 fields under 200 grants, conditions among them, against the same list for an administrator; and 1,000 people
/// resolved at 2,000 fields.
/// </summary>
internal static class AccessBench
{
    private const int Added = 100;
    private const int Grants = 200;
    private static readonly int Turns = Scale.Of(400, 5);

    public static async Task RunAsync()
    {
        Resolve();
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        using var desk = await server.InterfaceAsync("order_desk");
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        foreach (var field in Enumerable.Range(0, Added))
            draft["fields"]!
                .AsArray()
                .Add(
                    new JsonObject
                    {
                        ["id"] = $"f-{field}",
                        ["recordType"] = "sales_order",
                        ["code"] = $"extra_{field}",
                        ["label"] = $"Extra {field}",
                        ["kind"] = "integer",
                    }
                );
        await Server.PublishAsync(administrator, draft);
        await server.ExecuteAsync(
            $"INSERT INTO added.sales_order (id, {string.Join(", ", Enumerable.Range(0, Added).Select(field => $"extra_{field}"))}) SELECT id, {string.Join(", ", Enumerable.Range(0, Added).Select(field => $"id % {field + 7}"))} FROM erp.sales_order; ANALYZE"
        );

        // Every field is given twice: surely to one role, and where the order is open to the desk.
        draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        draft["guards"] = new JsonArray([.. Enumerable.Range(0, Added).Select(field => new JsonObject { ["on"] = $"f-{field}" })]);
        draft["grants"] = JsonSerializer.SerializeToNode(
            Enumerable
                .Range(0, Grants)
                .Select(at => new Grant
                {
                    Id = $"g-{at}",
                    To = at % 2 == 0 ? ["role:sales_manager"] : ["role:order_desk"],
                    On = [$"f-{at / 2}"],
                    Level = "read",
                    When =
                        at % 2 == 1 && at % 20 == 1 ? "status = \"open\""
                        : at % 2 == 1 && at % 20 == 3 ? ":company = company"
                        : null,
                }),
            SiteDefinition.Json
        );
        await Server.PublishAsync(administrator, draft);
        var (without, with) = (new Latencies(), new Latencies());
        const string List = "records/sales_order?take=50&order=-number";
        for (var i = 0; i < Scale.Of(200, 3); i++)
        {
            await administrator.GetStringAsync(List);
            await desk.GetStringAsync(List);
        }
        for (var i = 0; i < Turns; i++)
        {
            await without.TimeAsync(() => administrator.GetStringAsync(List));
            await with.TimeAsync(() => desk.GetStringAsync(List));
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| 50 rows of {Added} added fields, median of {with.Count}, ms | {without.At(0.5):0.0} an administrator | {with.At(0.5):0.0} under {Grants} grants | ratio {with.At(0.5) / without.At(0.5):0.00} | aim 1.10 |"
            )
        );
    }

    private static void Resolve()
    {
        const int Types = 20,
            Fields = 100,
            People = 1000;
        var roles = Enumerable.Range(0, 40).Select(at => new RoleDescription($"r{at}", $"Role {at}")).ToList();
        var host = new HostDescription(
            "wide",
            "Wide",
            "1",
            [new("administrator", "Administrator"), .. roles],
            [
                .. Enumerable
                    .Range(0, Types)
                    .Select(type => new RecordTypeDescription
                    {
                        Code = $"t{type}",
                        Label = $"Type {type}",
                        Plural = $"Types {type}",
                        Identifier = "f0",
                        Name = "f1",
                        Fields =
                        [
                            .. Enumerable
                                .Range(0, Fields)
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
                                $"t{type}.main",
                                "Main",
                                [
                                    new(
                                        $"t{type}.s",
                                        "Section",
                                        [.. Enumerable.Range(0, Fields).Select(i => new PlaceDescription($"f{i}", 3))]
                                    ),
                                ]
                            ),
                        ]),
                        List = ["f0"],
                        Search = ["f0"],
                        Order = "f0",
                        Access = new(["*"], ["r0", "r1"]),
                    }),
            ]
        );
        var site = new SiteDefinition
        {
            Guards = [.. Enumerable.Range(0, 100).Select(at => new Guard { On = $"t{at % Types}.f{2 + at / Types}" })],
            Grants =
            [
                .. Enumerable
                    .Range(0, Grants)
                    .Select(at => new Grant
                    {
                        Id = $"g{at}",
                        To = at % 10 == 0 ? [$"user:p{at}"] : [$"role:r{at % 40}"],
                        On = [$"t{at % Types}.f{2 + at / 2 % 8}"],
                        Level = "read",
                        When = at % 7 == 0 ? "f3 = \"x\"" : null,
                    }),
            ],
        };
        var catalogue = Catalogue.Build(1, host, site);
        if (catalogue.Problems.Count > 0)
            throw new InvalidOperationException(catalogue.Problems[0].Sentence);
        var fields = catalogue.RecordTypes.SelectMany(type => type.Header.Fields).ToList();

        // No two have the same roles, so nothing that is known of one helps with another.
        var people = Enumerable
            .Range(0, People)
            .Select(at => new Viewer(
                Guid.NewGuid(),
                $"P {at}",
                [roles[at % 40].Code, roles[at / 40 % 40].Code, roles[(at * 7 + at / 40) % 40].Code]
            )
            {
                SignIn = $"p{at}",
                Company = $"c{at}",
            })
            .ToList();
        var watch = Stopwatch.StartNew();
        var read = people.Sum(person => fields.Count(field => person.LevelAt(field) >= AccessLevel.Read));
        var first = watch.Elapsed;
        watch.Restart();
        read += people.Sum(person => fields.Count(field => person.LevelAt(field) >= AccessLevel.Read));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| resolve {People} people by {fields.Count} fields under {Grants} grants, none like another | {first.TotalSeconds:0.00} s, {first.TotalMicroseconds / People / fields.Count:0.00} µs each | asked again | {watch.Elapsed.TotalMicroseconds / People / fields.Count:0.000} µs each | {read} answers |"
            )
        );
    }
}
