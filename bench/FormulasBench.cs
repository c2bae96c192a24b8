using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Binding;
using Pelto.Core.Formulas;

namespace Pelto.Bench;

/// <summary>
/// Formulas in memory against C# by hand and a library; a form with 50 computed fields against the same without; filling 1,000,000 kept
/// values again against one UPDATE; a list by a live field over 1,000,000 rows against the same SQL by hand.
/// </summary>
internal static class FormulasBench
{
    private static readonly int Rows = Scale.Of(1_000_000, 3_000);
    private const int Lines = 200;
    private static readonly int Turns = Scale.Of(200, 5);
    private const string Text = "(a + b) * c - d / (e + 1) + a * b - (c - d) * e / 2";

    public static async Task RunAsync()
    {
        Evaluate();
        await using var server = new Server();
        await server.InstallAsync();
        await server.ServeAsync();
        using var administrator = await server.InterfaceAsync("administrator");
        await FormAsync(server, administrator);
        await server.ExecuteAsync(
            $"""
            INSERT INTO erp.sales_order (id, number, customer, order_date, status, payment_terms, currency, company, net_total, vat_percent, vat, gross_total)
            SELECT 10000 + n, 'SO-' || 1000000 + n, 1 + n % 400, date '2024-01-01' + n % 1000, 'open', 'n30', 'EUR', 'fi', n % 9973 + 0.5, 25.5, 2.55, n % 9973 + 3 FROM generate_series(1, {Rows}) n
            """
        );
        await server.ExecuteAsync("VACUUM ANALYZE erp.sales_order");
        await ListAsync(server, administrator);
        await RefillAsync(server, administrator);
    }

    // Eleven operators over five numbers; the values change from one evaluation to the next.
    private static void Evaluate()
    {
        var field = static (string code) =>
            new FieldDescription
            {
                Code = code,
                Label = code,
                Kind = "decimal",
            };
        var host = new HostDescription(
            "bench",
            "Bench",
            "1",
            [new("administrator", "Administrator")],
            [
                new RecordTypeDescription
                {
                    Code = "thing",
                    Label = "Thing",
                    Plural = "Things",
                    Identifier = "number",
                    Name = "number",
                    Order = "number",
                    List = ["number"],
                    Search = ["number"],
                    Access = new(["*"], ["*"]),
                    Fields =
                    [
                        new FieldDescription
                        {
                            Code = "number",
                            Label = "Number",
                            Kind = "text",
                            Required = true,
                        },
                        .. "abcde".Select(letter => field(letter.ToString())),
                    ],
                    Screen = new([new("thing.main", "Thing", [new("thing.main.all", "All", [new("number", 2)])])]),
                },
            ]
        );
        var part = Catalogue.Build(1, host, new()).Find("thing")!.Header;
        var formula = Formula.Bind(Text, part, [])!;
        var values = new Value[part.Fields.Count];
        var frame = new Frame(values, null, []);
        var library = new NCalc.Expression(Text, NCalc.ExpressionOptions.DecimalAsDefault);
        decimal[] numbers = [12.5m, 3m, 7.25m, 100m, 4m];
        void Set(int turn)
        {
            numbers[0] = turn % 1000 / 8m;
            for (var i = 0; i < 5; i++)
                values[part.Fields.Count - 5 + i] = Value.From(numbers[i]);
        }

        static decimal ByHand(decimal[] n) =>
            (n[0] + n[1]) * n[2]
            - Math.Round(n[3] / (n[4] + 1), 16, MidpointRounding.AwayFromZero)
            + n[0] * n[1]
            - Math.Round((n[2] - n[3]) * n[4] / 2, 16, MidpointRounding.AwayFromZero);
        var ours = Rate(
            turn =>
            {
                Set(turn);
                return formula.Evaluate(frame).Number;
            },
            Scale.Of(2_000_000, 2_000)
        );
        var hand = Rate(
            turn =>
            {
                Set(turn);
                return ByHand(numbers);
            },
            Scale.Of(4_000_000, 4_000)
        );
        var theirs = Rate(
            turn =>
            {
                Set(turn);
                for (var i = 0; i < 5; i++)
                    library.Parameters["abcde"[i].ToString()] = numbers[i];
                return Convert.ToDecimal(library.Evaluate(), CultureInfo.InvariantCulture);
            },
            Scale.Of(200_000, 2_000)
        );
        Console.WriteLine("| 11 operators | million a second | against C# by hand |\n|---|---:|---:|");
        foreach (var (name, rate) in new[] { ("C# by hand", hand), ("Pelto", ours), ("NCalc 7", theirs) })
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {name} | {rate / 1e6:0.00} | {rate / hand:0.00} |"));
    }

    private static double Rate(Func<int, decimal> run, int turns)
    {
        var sum = 0m;
        for (var i = 0; i < turns / 10; i++)
            sum += run(i);
        var started = Stopwatch.GetTimestamp();
        for (var i = 0; i < turns; i++)
            sum += run(i);
        return sum == decimal.MinValue ? 0 : turns / Stopwatch.GetElapsedTime(started).TotalSeconds;
    }

    private static async Task FormAsync(Server server, HttpClient administrator)
    {
        await server.ExecuteAsync(
            "INSERT INTO erp.sales_order_lines (id, parent, position, item, description, quantity, unit, price, amount) "
                + "SELECT 900000 + n, 30, 100 + n, 1 + n % 900, 'Line', n % 7 + 1, 'pcs', "
                + $"n % 90 + 0.5, 1 FROM generate_series(1, {Lines}) n"
        );
        await FormsAsync(administrator);
        var without = await FormsAsync(administrator);
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        for (var i = 0; i < 50; i++)
        {
            draft["fields"]!
                .AsArray()
                .Add(
                    new JsonObject
                    {
                        ["recordType"] = "sales_order",
                        ["code"] = $"computed_{i}",
                        ["label"] = $"Computed {i}",
                        ["kind"] = "decimal",
                        ["digits"] = 18,
                        ["decimals"] = 4,
                        ["live"] = true,
                        ["formula"] =
                            i < 10 ? $"SUM(lines.quantity * lines.price) / (net_total + {i + 1})"
                            : i == 10 ? "net_total * 1.5"
                            : $"IF(vat_percent > {i}; 1; 2) * computed_{i - 1} / 3 + {i}",
                    }
                );
        }

        await Server.PublishAsync(administrator, draft);
        var with = await FormsAsync(administrator);
        Console.WriteLine($"\n| one input changed, {Lines} lines | median, ms | 99 %, ms |\n|---|---:|---:|");
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| no computed fields but the ERP's | {without.At(0.5):0.0} | {without.At(0.99):0.0} |"
            )
        );
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| 50 computed, 10 of them over the lines | {with.At(0.5):0.0} | {with.At(0.99):0.0} |\n| ratio | {with.At(0.5) / without.At(0.5):0.00} | |"
            )
        );
        foreach (
            var field in draft["fields"]!
                .AsArray()
                .ToList()
                .Where(field => field!["code"]!.GetValue<string>().StartsWith("computed_", StringComparison.Ordinal))
        )
            draft["fields"]!.AsArray().Remove(field);
        await Server.PublishAsync(administrator, draft);
    }

    private static async Task<Latencies> FormsAsync(HttpClient administrator)
    {
        var latencies = new Latencies();
        for (var i = 0; i < Turns + 20; i++)
        {
            var started = Stopwatch.GetTimestamp();
            using var answer = await administrator.PostAsJsonAsync(
                "records/sales_order/try?id=30",
                new { values = new { vat_percent = i % 25 } }
            );
            answer.EnsureSuccessStatusCode();
            await answer.Content.ReadAsByteArrayAsync();
            if (i >= 20)
                latencies.Add(Stopwatch.GetElapsedTime(started));
        }

        return latencies;
    }

    private static async Task ListAsync(Server server, HttpClient administrator)
    {
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        draft["fields"]!
            .AsArray()
            .Add(
                new JsonObject
                {
                    ["recordType"] = "sales_order",
                    ["code"] = "margin",
                    ["label"] = "Margin",
                    ["kind"] = "decimal",
                    ["digits"] = 18,
                    ["decimals"] = 2,
                    ["live"] = true,
                    ["formula"] = "gross_total * 1.25 - net_total * (1 + vat_percent / 100)",
                }
            );
        await Server.PublishAsync(administrator, draft);
        const string Margin = "round(h.gross_total * 1.25 - h.net_total * (1 + round(round(h.vat_percent, 20) / 100, 16)), 2)";
        var columns = await server.ScalarAsync(
            "SELECT string_agg('h.' || column_name, ', ') FROM information_schema.columns "
                + "WHERE table_schema = 'erp' AND table_name = 'sales_order'"
        );
        var byHand =
            $"SELECT count(*) FROM (SELECT {columns}, {Margin} FROM erp.sales_order h "
            + $"WHERE {Margin} >= 10 ORDER BY {Margin} DESC NULLS LAST, h.id LIMIT 51) q";
        var (ours, hand) = (new Latencies(), new Latencies());
        for (var i = 0; i < 22; i++)
        {
            var started = Stopwatch.GetTimestamp();
            await administrator.GetStringAsync("records/sales_order?take=50&order=-margin&filter=margin~from~10");
            if (i >= 2)
                ours.Add(Stopwatch.GetElapsedTime(started));
            started = Stopwatch.GetTimestamp();
            await server.ScalarAsync(byHand);
            if (i >= 2)
                hand.Add(Stopwatch.GetElapsedTime(started));
        }

        draft["fields"]!.AsArray()[^1]!["indexed"] = true;
        await Server.PublishAsync(administrator, draft);
        for (
            var waited = 0;
            waited < 600
                && await server.ScalarAsync(
                    "SELECT count(*) FROM pg_index i JOIN pg_class x ON x.oid = i.indexrelid "
                        + "WHERE x.relname LIKE 'margin\\_list\\_%' AND i.indisvalid"
                )
                    is 0L;
            waited++
        )
            await Task.Delay(100);
        var indexed = new Latencies();
        for (var i = 0; i < 22; i++)
        {
            var started = Stopwatch.GetTimestamp();
            await administrator.GetStringAsync("records/sales_order?take=50&order=-margin&filter=margin~from~10");
            if (i >= 2)
                indexed.Add(Stopwatch.GetElapsedTime(started));
        }

        Console.WriteLine($"\n| filtered and sorted by a live field over {Rows:N0} orders | median, ms |\n|---|---:|");
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| the same SQL by hand | {hand.At(0.5):0} |\n| a page of the list, through HTTP | {ours.At(0.5):0} |\n| ratio | {ours.At(0.5) / hand.At(0.5):0.00} |\n| the same page with an index | {indexed.At(0.5):0} |"
            )
        );
    }

    private static async Task RefillAsync(Server server, HttpClient administrator)
    {
        var draft = (await administrator.GetFromJsonAsync<JsonObject>("setup/draft"))!;
        draft["fields"]!
            .AsArray()
            .Add(
                new JsonObject
                {
                    ["id"] = "f-kept",
                    ["recordType"] = "sales_order",
                    ["code"] = "kept",
                    ["label"] = "Kept",
                    ["kind"] = "decimal",
                    ["digits"] = 18,
                    ["decimals"] = 2,
                    ["formula"] = "net_total * 2",
                }
            );
        await Server.PublishAsync(administrator, draft);
        await DoneAsync(server);

        // The first to write all rows anew pays for the room that they need; whoever comes later finds it.
        await PlainAsync(server, 5);
        var before = await PlainAsync(server, 4);
        draft["fields"]!.AsArray()[^1]!["formula"] = "net_total * 3";
        await Server.PublishAsync(administrator, draft);
        var started = Stopwatch.GetTimestamp();
        await DoneAsync(server);
        var ours = Stopwatch.GetElapsedTime(started);
        await TidyAsync(server);
        var plain = (before + await PlainAsync(server, 4)) / 2;
        Console.WriteLine($"\n| {Rows:N0} kept values filled again | seconds |\n|---|---:|");
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"| one plain UPDATE | {plain.TotalSeconds:0.0} |\n| the job, undoable, in batches | {ours.TotalSeconds:0.0} |\n| ratio | {ours / plain:0.00} |"
            )
        );
    }

    private static async Task<TimeSpan> PlainAsync(Server server, int times)
    {
        var started = Stopwatch.GetTimestamp();
        await server.ExecuteAsync(
            $"UPDATE added.sales_order a SET kept = round(h.net_total * {times}, 2) FROM erp.sales_order h WHERE h.id = a.id"
        );
        var taken = Stopwatch.GetElapsedTime(started);
        await TidyAsync(server);
        return taken;
    }

    private static async Task TidyAsync(Server server)
    {
        await server.ExecuteAsync("VACUUM ANALYZE added.sales_order");
        await server.ExecuteAsync("CHECKPOINT");
    }

    private static async Task DoneAsync(Server server)
    {
        while (await server.ScalarAsync("SELECT count(*) FROM pelto.job WHERE state = 'Running'") is > 0L)
            await Task.Delay(100);
    }
}
