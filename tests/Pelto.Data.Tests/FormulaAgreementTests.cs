using CsCheck;
using Npgsql;
using Pelto.Core.Formulas;
using Pelto.Data.Database;
using Pelto.Data.Expressions;

namespace Pelto.Data.Tests;

/// <summary>
/// Formulas give the same in memory and in the database: generated from the signatures of all functions, over real orders with lines and
/// links.
/// </summary>
public sealed class FormulaAgreementTests(Site site) : IClassFixture<Site>
{
    private const int Orders = 24;
    private const int Formulas = 900;

    // Late in the evening of one day in UTC, early on the next where people work.
    private static readonly Clock Here = Clock.At(new(2026, 11, 25, 22, 30, 7, DateTimeKind.Utc)) with
    {
        Zone = TimeZoneInfo.FindSystemTimeZoneById("Europe/Helsinki"),
    };

    private static Gen<string> One(params string[] texts) => Gen.Int[0, texts.Length - 1].Select(at => texts[at]);

    private static readonly Gen<string> Small = Gen.Int[-3, 17].Select(number => number.ToString(CultureInfo.InvariantCulture));

    // Awkward on purpose: halves, negatives, leap days, month ends, empty, long, and letters from elsewhere.
    private static Gen<string> Leaf(DataType type, bool inList) =>
        type switch
        {
            DataType.Number => One([
                "net_total",
                "vat_percent",
                "customer.credit_limit",
                "0",
                "1",
                "-1",
                "0.5",
                "2.5",
                "-2.5",
                "0.1",
                "3",
                "12",
                "12.345",
                "99999.995",
                "1000000",
                "0.000001",
                .. inList ? new[] { "lines.quantity", "lines.price", "lines.item.weight", "lines.discount" } : [],
            ]),
            DataType.Text => One([
                "reference",
                "(status & \"\")",
                "customer.name",
                "shipping_note",
                "(incoterm & \"\")",
                "\"\"",
                "\"a\"",
                "\"køye ÅÄÖ\"",
                "\"日本語の文\"",
                "\"a😀b😀c\"",
                "\" two  words \"",
                "\"12.5\"",
                "\"2024-02-29\"",
                "\"a*b?c~\"",
                "\"ON hand\"",
                "\"(x)[y]{z}^$|\\+\"",
                .. inList ? new[] { "lines.description", "(lines.unit & \"\")", "lines.item.name" } : [],
            ]),
            DataType.Date => One([
                "order_date",
                "wanted_by",
                "customer.customer_since",
                "DATE(2024; 2; 29)",
                "DATE(2023; 12; 31)",
                "DATE(2000; 1; 30)",
                "DATE(2100; 2; 28)",
                "DATE(2024; 8; 31)",
                "DATE(9999; 12; 31)",
                "DATE(1; 1; 1)",
                "TODAY()",
            ]),
            DataType.Time => One("TIME(14; 30; 5)", "TIME(0; 0; 0)", "TIME(23; 59; 59)"),
            DataType.Moment => One("NOW()"),
            DataType.Quantity => One(
                "QUANTITY(2; \"MTR\")",
                "QUANTITY(30; \"CMT\")",
                "QUANTITY(net_total; \"KGM\")",
                "QUANTITY(1; unloading_place)",
                "QUANTITY(5; \"INH\")",
                "QUANTITY(5; \"m\")"
            ),
            DataType.Money => One("MONEY(net_total; currency)", "MONEY(5; \"EUR\")", "MONEY(0.5; \"NOK\")", "MONEY(3; reference)"),
            _ => One("1 > 2", "net_total > 500", "customer.active", "ISBLANK(wanted_by)", "status = \"open\""),
        };

    // What each plain function gives, found by binding it to simple arguments.
    private static readonly ILookup<DataType, Function> ByResult = Core
        .Formulas.Functions.ByName.Values.Where(function =>
            function.Name
                is not (
                    "HOLIDAYS"
                    or "IF"
                    or "IFS"
                    or "SWITCH"
                    or "CHOOSE"
                    or "IFERROR"
                    or "IFNA"
                    or "MIN"
                    or "MAX"
                    or "FIRST"
                    or "LAST"
                    or "TEXT"
                    or "CHOICELABEL"
                    or "HASCHOICE"
                    or "NOW"
                    or "SUM"
                    or "AMOUNT"
                    or "MONEY"
                    or "QUANTITY"
                )
            && function.Group != FunctionGroup.Lists
        )
        .ToLookup(function =>
            function.Name switch
            {
                "LEN" or "FIND" or "SEARCH" or "VALUE" or "UNICODE" => DataType.Number,
                _ => ResultOf(function),
            }
        );

    private static DataType ResultOf(Function function)
    {
        var given = string.Join(
            "; ",
            function
                .Parameters.Where(parameter => !parameter.IsOptional)
                .Select(parameter =>
                    parameter.Type switch
                    {
                        DataType.Text => "\"EUR\"",
                        DataType.Date => "DATE(2024; 1; 1)",
                        DataType.YesNo => "1 = 1",
                        DataType.Time => "TIME(1; 1; 1)",
                        DataType.Quantity => "QUANTITY(1; \"MTR\")",
                        DataType.Money => "MONEY(1; \"EUR\")",
                        _ => "1",
                    }
                )
        );
        var text = function.Name == "CONVERT" ? "CONVERT(QUANTITY(1; \"MTR\"); \"KMT\")" : $"{function.Name}({given})";
        var problems = new List<FormulaProblem>();
        return Formula.Bind(text, null, problems)?.DataType
            ?? throw new InvalidOperationException($"{text}: {string.Join(" ", problems.Select(problem => problem.Message))}");
    }

    private static Gen<string> Argument(Function function, Parameter parameter, DataType type, int depth, bool inList) =>
        (function.Name, parameter.Name) switch
        {
            ("DATEDIF", "unit") => One("\"y\"", "\"m\"", "\"d\"", "\"ym\"", "\"md\"", "\"yd\"", "\"YM\"", "\"w\""),
            ("CONVERT", "unit") => One("\"MTR\"", "\"KGM\"", "\"FOT\"", "reference"),
            ("EXCHANGE", "currency") => One("\"EUR\"", "\"NOK\"", "\"USD\"", "\"JPY\"", "currency", "reference"),
            ("DATE", "year") => Gen.Int[1895, 2110].Select(year => year.ToString(CultureInfo.InvariantCulture)),
            (
                _,
                "digits"
                    or "count"
                    or "from"
                    or "months"
                    or "month"
                    or "day"
                    or "type"
                    or "basis"
                    or "which"
                    or "times"
                    or "days"
                    or "hour"
                    or "minute"
                    or "second"
                    or "mode"
            ) when type == DataType.Number => Small,
            _ => Of(type, depth + 1, inList),
        };

    private static Gen<string> Call(Function function, int depth, bool inList) =>
        Gen.Int[0, 2]
            .SelectMany(more =>
            {
                if (function.Parameters.Count == 0)
                    return Gen.Const($"{function.Name}()");
                var count =
                    function.Parameters.Count(parameter => !parameter.IsOptional)
                    + (
                        function.Parameters[^1].IsRepeated
                            ? more
                            : Math.Min(more, function.Parameters.Count(parameter => parameter.IsOptional))
                    );
                var takes = Enumerable.Range(0, count).Select(function.ParameterAt).ToList();
                return takes
                    .Select(parameter =>
                        parameter.Type is { } wanted
                            ? Argument(function, parameter, wanted, depth, inList)
                            : Gen.OneOf(
                                Of(DataType.Number, depth + 1, inList),
                                Of(DataType.Text, depth + 1, inList),
                                Of(DataType.Date, depth + 1, inList)
                            )
                    )
                    .Aggregate(Gen.Const(new List<string>()), (all, next) =>
                        all.SelectMany(given => next.Select(one => given.Append(one).ToList()))
                    )
                    .Select(given => $"{function.Name}({string.Join("; ", given)})");
            });

    private static Gen<string> Of(DataType type, int depth, bool inList = false)
    {
        if (depth > 2)
            return Leaf(type, inList);
        var more = new List<Gen<string>> { Leaf(type, inList), Leaf(type, inList) };
        Gen<string> Next(DataType form) => Of(form, depth + 1, inList);
        if (ByResult[type].ToArray() is { Length: > 0 } functions)
        {
            var call = Gen.Int[0, functions.Length - 1].SelectMany(at => Call(functions[at], depth, inList));
            more.AddRange([call, call, call, call]);
        }

        more.Add(Gen.Select(Next(DataType.YesNo), Next(type), Next(type), (a, b, c) => $"IF({a}; {b}; {c})"));
        more.Add(Gen.Select(Next(type), Next(type), One("IFERROR", "IFNA"), (a, b, name) => $"{name}({a}; {b})"));
        more.Add(
            Gen.Select(Next(DataType.YesNo), Next(type), Next(DataType.YesNo), Next(type), (a, b, c, d) => $"IFS({a}; {b}; {c}; {d})")
        );
        more.Add(
            Gen.Select(Next(DataType.Number), Next(type), Next(type), Gen.Bool, (a, b, c, all) =>
                $"SWITCH({a}; 1; {b}; 0.5; {c}{(all ? $"; {b}" : "")})"
            )
        );
        more.Add(
            Gen.Select(Next(DataType.Number), Small, Gen.Bool, Next(type), Next(type), (a, b, any, c, d) =>
                $"CHOOSE({(any ? a : b)}; {c}; {d})"
            )
        );
        switch (type)
        {
            case DataType.Number:
                more.Add(Gen.Select(Next(type), One("+", "-", "*", "/", "^"), Next(type), (a, op, b) => $"({a} {op} {b})"));
                more.Add(Next(type).Select(a => $"-({a})%"));
                more.Add(Gen.Select(Next(DataType.Date), Next(DataType.Date), (a, b) => $"({a} - {b})"));
                more.Add(
                    Gen.Select(
                        One("", "-", "+", " "),
                        One(
                            "0",
                            "1",
                            "12",
                            "123",
                            "1234",
                            "1 234",
                            "12 500",
                            "1.234",
                            "1,234",
                            "1.234.567",
                            "1,234,567",
                            "0,500",
                            "12,50",
                            "1'234",
                            "1\u00a0234\u202f567"
                        ),
                        One("", ",5", ".5", ",50", ",500", ".500", "%", "e2", ",5%"),
                        (a, b, c) => $"VALUE(\"{a}{b}{c}\")"
                    )
                );
                more.Add(
                    Gen.Select(
                        One("1.234,5", "1,234.5", "1 234,5", "1234", "1.2.3", "1'234.5", "12,5%"),
                        One(",", ".", ";", "", "e", ".."),
                        One("", "; \".\"", "; \",\"", "; \"'\"", "; \"\""),
                        (a, b, c) => $"NUMBERVALUE(\"{a}\"; \"{b}\"{c})"
                    )
                );
                more.Add(One("HOUR(NOW())", "MINUTE(NOW())", "SECOND(NOW())", "DAY(NOW())", "ISOWEEKNUM(NOW())"));
                more.Add(Gen.OneOf(Next(DataType.Money), Next(DataType.Quantity)).Select(a => $"AMOUNT({a})"));
                more.Add(Gen.Select(Next(DataType.Quantity), Next(DataType.Quantity), (a, b) => $"({a} / {b})"));
                if (!inList)
                {
                    more.Add(
                        Gen.Select(
                            One("SUM", "COUNT", "COUNTA", "AVERAGE", "MIN", "MAX", "FIRST", "LAST", "MEDIAN", "STDEV", "SUMPRODUCT"),
                            Of(type, 1, inList: true),
                            (name, list) => $"{name}({list})"
                        )
                    );
                    more.Add(
                        Gen.Select(
                            One("SUM", "COUNT", "COUNTA", "AVERAGE", "MIN", "MAX", "MEDIAN", "STDEV"),
                            Of(type, 2, inList: true),
                            Next(type),
                            (name, list, one) => $"{name}({list}; {one})"
                        )
                    );
                    more.Add(
                        Gen.Select(
                            One(
                                "SUMIF(lines.quantity; \">1\"; {0})",
                                "AVERAGEIF(lines.unit; \"pcs\"; {0})",
                                "SUMIFS({0}; lines.quantity; \">=2\"; lines.discount; \"\")",
                                "MAXIFS({0}; lines.price; \">\" & 50)",
                                "MINIFS({0}; lines.quantity; \"<>1\")"
                            ),
                            Of(type, 2, inList: true),
                            (form, list) => form.Replace("{0}", list)
                        )
                    );
                    more.Add(
                        One(
                            "SUM(delivery.order.parcels * net_total)",
                            "AVERAGE(delivery.order.parcels)",
                            "COUNT(delivery.order.delivered_on)",
                            "COUNTIF(delivery.order.status; \"open\")",
                            "LAST(delivery.order.parcels; delivery.order.delivered_on)",
                            "FIRST(delivery.order.parcels)",
                            "MAX(delivery.order.parcels; lines.quantity)",
                            "SUMIF(delivery.order.parcels; \">1\"; 10 / (delivery.order.parcels - 2))",
                            "COUNTA(delivery.order.customer.name)"
                        )
                    );
                    more.Add(
                        One(
                            "SUMPRODUCT(lines.quantity; lines.price)",
                            "SUMPRODUCT(lines.quantity; lines.discount; lines.price / 7)",
                            "SUMPRODUCT(delivery.order.parcels)"
                        )
                    );
                    more.Add(
                        One(
                            "NETWORKDAYS(order_date; wanted_by; HOLIDAYS(company))",
                            "NETWORKDAYS(DATE(2025; 12; 20); order_date; HOLIDAYS(reference); HOLIDAYS(\"NO\"))",
                            "DAY(WORKDAY(order_date; 9; HOLIDAYS(company & \"\")))"
                        )
                    );
                    more.Add(
                        One(
                            "COUNTIF(lines.quantity; \">2\")",
                            "COUNTIF(lines.discount; \"\")",
                            "COUNTIFS(lines.quantity; 1; lines.unit; \"pcs\")",
                            "COUNTA(lines.description)",
                            "FIRST(lines.price; lines.quantity)",
                            "LAST(lines.quantity; lines.price)",
                            "AMOUNT(SUM(MONEY(lines.amount; currency)))",
                            "AMOUNT(SUM(QUANTITY(lines.quantity; \"MTR\"); QUANTITY(1; \"INH\")))"
                        )
                    );
                }

                break;
            case DataType.Text:
                more.Add(
                    Gen.Select(Next(type), Gen.OneOf(Next(DataType.Number), Next(DataType.Date), Next(type)), (a, b) => $"({a} & {b})")
                );
                more.Add(
                    Gen.Select(Next(DataType.Number), One("0", "0.00", "#,##0.00", "000", "0.0%", "#,##0"), (a, format) =>
                        $"TEXT({a}; \"{format}\")"
                    )
                );
                more.Add(
                    Gen.Select(
                        Next(DataType.Date),
                        One("yyyy-mm-dd", "d.m.yyyy", "dd/mm/yy", "yyyy", "d", "d mmmm yyyy", "dddd, d mmm yy", "ddd"),
                        (a, format) => $"TEXT({a}; \"{format}\")"
                    )
                );
                more.Add(One("TEXT(NOW(); \"hh:mm\")", "TEXT(NOW(); \"d.m.yyyy\")"));
                if (!inList)
                    more.Add(
                        One(
                            "TEXTJOIN(\", \"; TRUE(); delivery.order.number)",
                            "TEXTJOIN(\"/\"; FALSE(); delivery.order.customer.name & delivery.order.shipping_note)"
                        )
                    );
                if (!inList)
                    more.Add(
                        Gen.Select(Of(type, 2, inList: true), Gen.Bool, (list, skips) =>
                            $"CONCAT({list}; {(skips ? "reference" : "\"-\"")})"
                        )
                    );
                if (!inList)
                    more.Add(
                        Gen.Select(Of(type, 2, inList: true), Gen.Bool, (list, skips) =>
                            $"TEXTJOIN(\", \"; {(skips ? "TRUE()" : "FALSE()")}; {list}; \"end\")"
                        )
                    );
                break;
            case DataType.Date:
                more.Add(Gen.Select(Next(type), One("+", "-"), Next(DataType.Number), (a, op, b) => $"({a} {op} {b})"));
                break;
            case DataType.Money or DataType.Quantity:
                more.Add(Gen.Select(Next(type), One("+", "-"), Next(type), (a, op, b) => $"({a} {op} {b})"));
                more.Add(Gen.Select(Next(type), One("*", "/"), Next(DataType.Number), (a, op, b) => $"({a} {op} {b})"));
                break;
            case DataType.YesNo:
                foreach (var compared in new[] { DataType.Number, DataType.Text, DataType.Date, DataType.Money, DataType.Quantity })
                    more.Add(
                        Gen.Select(Next(compared), One("=", "<>", "<", "<=", ">", ">="), Next(compared), (a, op, b) => $"({a} {op} {b})")
                    );
                break;
        }

        return Gen.OneOf([.. more]);
    }

    [Fact(
        DisplayName = "Over 20,000 generated cases, memory and database agree: "
            + "values, errors, and which errors found nothing (property-based, CsCheck)"
    )]
    public async Task Memory_and_database_agree()
    {
        var type = site.Type("sales_order");
        var ids = (await site.Lists.ReadAsync(new(type, [], Orders), Site.Administrator)).Rows.Select(row => row.Id).ToArray();
        var orders = new List<RecordState>();
        foreach (var id in ids)
            orders.Add((await site.Store.FindAsync(type, id, Site.Administrator))!);
        var reached = new Dictionary<(string, long), Value[]>();
        foreach (var code in new[] { "partner", "item" })
        {
            var target = site.Type(code);
            RecordLists.TryOrder(target, null, Site.Administrator, out var keys);
            for (string? after = null; ; )
            {
                var page = await site.Lists.ReadAsync(new(target, keys, 500, after), Site.Administrator);
                foreach (var row in page.Rows)
                    reached[(code, row.Id)] = [.. row.Cells.Select(cell => cell.Value)];
                if ((after = page.Next) is null)
                    break;
            }
        }

        var deliveries = new List<(long Order, Value[] Values)>();
        RecordLists.TryOrder(site.Type("delivery"), null, Site.Administrator, out var byNumber);
        for (string? after = null; ; )
        {
            var page = await site.Lists.ReadAsync(new(site.Type("delivery"), byNumber, 500, after), Site.Administrator);
            deliveries.AddRange(
                page.Rows.OrderBy(row => row.Id)
                    .Select(row =>
                        (
                            row[site.Type("delivery").Header.Find("order")!].Value is { DataType: DataType.Link } order ? order.Target : 0,
                            row.Cells.Select(cell => cell.Value).ToArray()
                        )
                    )
            );
            if ((after = page.Next) is null)
                break;
        }

        var rates = new List<(string Currency, DateOnly Since, decimal Rate)>();
        await using (var all = site.Source.CreateCommand("SELECT currency, valid_from, rate FROM erp.exchange_rate"))
        await using (var reader = await all.ExecuteReaderAsync())
            while (await reader.ReadAsync())
                rates.Add((reader.GetString(0), reader.GetFieldValue<DateOnly>(1), reader.GetDecimal(2)));
        Value RateOf(string currency, DateOnly day) =>
            rates
                .Where(one => one.Currency == currency && one.Since <= day)
                .OrderBy(one => one.Since)
                .Select(one => Value.From(one.Rate))
                .LastOrDefault(Value.NotAvailable("No rate."));

        var linking = deliveries.ToLookup(delivery => delivery.Order, delivery => delivery.Values);
        await using var connection = await site.Source.OpenConnectionAsync();
        var (cases, filled, errors, beyond, refused) = (0, 0, 0, 0, 0);
        var wanted = Gen.OneOf(
            Of(DataType.Number, 0),
            Of(DataType.Text, 0),
            Of(DataType.Date, 0),
            Of(DataType.YesNo, 0),
            Of(DataType.Number, 0),
            Of(DataType.Money, 0),
            Of(DataType.Quantity, 0)
        );
        wanted.Sample(
            text =>
            {
                var problems = new List<FormulaProblem>();
                var formula = Formula.Bind(text, type.Header, problems);

                // Some that nest SWITCH repeat themselves beyond what the database reads; people are told so.
                if (problems.Exists(problem => problem.Message.Contains("repeats itself so often", StringComparison.Ordinal)))
                {
                    refused++;
                    return;
                }

                Assert.True(formula is not null, $"{text}: {string.Join(" ", problems.Select(problem => problem.Message))}");
                using var command = new NpgsqlCommand { Connection = connection };
                command.Parameters.Add(new() { Value = ids });
                var row = new QueryRow();
                var sql = formula.ToSql(new FormulaNames(row, command.Add) { Clock = Here });
                command.CommandText =
                    $"SELECT h.id, ({sql.Text})::text, {sql.Fails ?? "false"}, {sql.Lacks ?? "false"}, "
                    + $"{sql.Unit ?? "NULL"} FROM erp.sales_order h WHERE h.id = ANY($1)";
                var database = new Dictionary<long, (string? Text, bool Fails, bool Lacks, string? Unit)>();
                try
                {
                    using var reader = command.ExecuteReader();
                    while (reader.Read())
                        database[reader.GetInt64(0)] = (
                            reader.IsDBNull(1) ? null : reader.GetString(1),
                            reader.GetBoolean(2),
                            reader.GetBoolean(3),
                            reader.IsDBNull(4) ? null : reader.GetString(4)
                        );
                }
                catch (PostgresException error)
                {
                    Assert.Fail($"{text}\nthe database refuses: {error.MessageText}");
                }

                foreach (var order in orders)
                {
                    var memory = formula.Evaluate(
                        order.FrameAt(null) with
                        {
                            Clock = Here,
                            Linking = (_, _, id) => [.. linking[id]],
                            Rate = RateOf,
                            FindRelated = (of, id) => reached.GetValueOrDefault((of.RecordType.Code, id)),
                        }
                    );
                    var there = database[order.Id!.Value];
                    cases++;
                    filled += memory.IsEmpty || memory.IsError ? 0 : 1;
                    errors += memory.IsError ? 1 : 0;

                    // Memory reckons with 28 digits, the database with more: what is too large there can be less than that at the end.
                    if (memory.IsError && memory.Reason.Contains("too large", StringComparison.Ordinal) && !there.Fails)
                        beyond++;
                    else
                        Assert.True(Same(memory, there), $"{text}\nfor {order.Title}: {memory} in memory, {there} in the database.");
                }
            },
            iter: int.Parse(Environment.GetEnvironmentVariable("PELTO_CASES") ?? "0", CultureInfo.InvariantCulture) is > 0 and var more
                ? more
                : Formulas,
            threads: 1
        );
        Assert.True(
            cases >= 20_000 && filled > cases / 3 && errors > cases / 50 && beyond < cases / 100 && refused < 10 + (cases / 20_000),
            $"{refused} refused, {cases} cases, {filled} with a value, {errors} errors, {beyond} beyond what memory reckons with."
        );
    }

    private static bool Same(Value memory, (string? Text, bool Fails, bool Lacks, string? Unit) there)
    {
        if (memory.IsError || there.Fails)
            return memory.IsError == there.Fails && memory.IsNotAvailable == there.Lacks;
        if (memory.IsEmpty || there.Text is null)
            return memory.IsEmpty && there.Text is null;
        return memory.DataType switch
        {
            DataType.Number => Near(memory.Number, there.Text),
            DataType.Money or DataType.Quantity => memory.Unit == there.Unit && Near(memory.Amount, there.Text),
            DataType.YesNo => there.Text == (memory.Yes ? "true" : "false"),
            _ => there.Text == memory.ToString(),
        };
    }

    private static bool Near(decimal memory, string database)
    {
        var (here, there) = ((double)memory, double.Parse(database, CultureInfo.InvariantCulture));
        return Math.Abs(here - there) <= 1e-12 * Math.Max(1, Math.Abs(here));
    }

    [Fact(DisplayName = "A unit is read alike in memory and in the database, however it is written")]
    public async Task Units_are_read_alike()
    {
        string[] texts =
        [
            .. Units
                .Written.Keys.SelectMany(text => new[] { text, text.ToUpperInvariant(), text.ToLowerInvariant(), text + "x", text[..^1] })
                .Append("")
                .Distinct(),
        ];
        await using var connection = await site.Source.OpenConnectionAsync();
        await using var command = new NpgsqlCommand(
            "SELECT array_agg(formulas.unit_code(text) ORDER BY at) FROM unnest($1) WITH ORDINALITY AS texts(text, at)",
            connection
        )
        {
            Parameters = { new() { Value = texts } },
        };
        var codes = (string?[])(await command.ExecuteScalarAsync())!;
        Assert.All(texts.Zip(codes), pair => Assert.Equal((pair.First, Units.Read(pair.First)?.Code), pair));
        Assert.True(codes.Count(code => code is null) > 100);
    }

    [Fact(DisplayName = "Every example in the help gives what it says, in memory and in the database")]
    public async Task Examples_hold()
    {
        await using var connection = await site.Source.OpenConnectionAsync();
        foreach (var function in Core.Formulas.Functions.ByName.Values.Where(function => function.Example.Length > 0))
        {
            var problems = new List<FormulaProblem>();
            var formula = Formula.Bind(function.Example, null, problems);
            Assert.True(formula is not null, $"{function.Example}: {string.Join(" ", problems.Select(problem => problem.Message))}");
            Assert.True(formula.Evaluate(new([], null, [])) == Value.From(true), $"{function.Example} in memory");
            await using var command = new NpgsqlCommand { Connection = connection };
            var sql = formula.ToSql(new FormulaNames(new QueryRow(), command.Add));
            command.CommandText = $"SELECT {sql.Text} AND NOT {sql.Fails ?? "false"}";
            Assert.True(await command.ExecuteScalarAsync() is true, $"{function.Example} in the database");
        }
    }
}
