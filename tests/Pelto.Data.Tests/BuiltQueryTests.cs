using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Data.Database;
using Pelto.Data.Queries;

namespace Pelto.Data.Tests;

/// <summary>
/// Queries that are put together of formulas: they give what the same question in SQL by hand gives, and what makes no sense is said where
/// it stands.
/// </summary>
public sealed class BuiltQueryTests(Site site) : IClassFixture<Site>
{
    private QueryRunner Runner => site.Services.GetRequiredService<QueryRunner>();

    private static QueryBuild Lines(string? where) =>
        new()
        {
            RecordType = "sales_order",
            Part = "lines",
            Where = where,
        };

    private static QueryBuild Orders(string? where) => new() { RecordType = "sales_order", Where = where };

    private static QueryBuild Of(QueryBuild build, QueryTake take, params string[] values) =>
        build with
        {
            Take = take,
            Values = [.. values.Select(value => new QueryValue(null, value))],
        };

    private async Task<(QueryDefinition Query, List<QueryProblem> Problems)> InspectAsync(QueryBuild build)
    {
        var problems = new List<QueryProblem>();
        return (
            await Runner.InspectAsync(
                new()
                {
                    Id = "q-built",
                    Label = "Built",
                    Built = build,
                },
                site.Catalogues.Live,
                problems,
                default
            ),
            problems
        );
    }

    private async Task<string> AskAsync(QueryBuild build, params Value[] arguments)
    {
        var (query, problems) = await InspectAsync(build);
        Assert.Empty(problems);
        var trial = await Runner.TryAsync(query, arguments, default);
        Assert.Null(trial.Failure);
        return string.Join(" / ", trial.Rows.Select(row => string.Join(", ", row)));
    }

    private async Task<string> ByHandAsync(string sql) =>
        (string?)
            await site.ScalarAsync(
                "SELECT string_agg(t, ' / ') FROM (SELECT concat_ws(', ', "
                    + $"{sql.Split(" FROM ", 2)[0].Trim()}) AS t FROM {sql.Split(" FROM ", 2)[1]}) AS q"
            )
        ?? "";

    [Fact(DisplayName = "Rows in order, how many, totals, means, the least and the greatest: as the same question asked by hand")]
    public async Task Gives_what_sql_gives()
    {
        var customer = Value.LinkTo(
            (long)
                (await site.ScalarAsync("SELECT customer FROM erp.sales_order GROUP BY customer ORDER BY count(*) DESC, customer LIMIT 1"))!
        );
        var id = customer.Target;
        Assert.Equal(
            await ByHandAsync(
                "number, to_char(order_date, 'YYYY-MM-DD') FROM (SELECT * FROM erp.sales_order "
                    + $"WHERE customer = {id} ORDER BY order_date DESC, id DESC LIMIT 20) q"
            ),
            await AskAsync(
                Of(Orders("customer = :customer"), QueryTake.Rows, "number", "order_date") with
                {
                    Order = "order_date",
                    Descending = true,
                },
                customer
            )
        );
        Assert.Equal(
            await ByHandAsync($"count(*) FROM erp.sales_order WHERE customer = {id} AND status = 'open'"),
            await AskAsync(Of(Orders("AND(customer = :customer; status = \"open\")"), QueryTake.Count), customer)
        );
        Assert.Equal(
            await ByHandAsync($"sum(gross_total) FROM erp.sales_order WHERE customer = {id}"),
            await AskAsync(Of(Orders("customer = :customer"), QueryTake.Sum, "gross_total"), customer)
        );
        Assert.Equal(
            await ByHandAsync($"to_char(max(order_date), 'YYYY-MM-DD') FROM erp.sales_order WHERE customer = {id}"),
            await AskAsync(Of(Orders("customer = :customer"), QueryTake.Largest, "order_date"), customer)
        );

        // Through links, up from lines to their order, and down into lines.
        Assert.Equal(
            await ByHandAsync(
                "round(avg(l.quantity * i.weight), 16) FROM erp.sales_order_lines l JOIN erp.sales_order o "
                    + $"ON o.id = l.parent JOIN erp.item i ON i.id = l.item WHERE o.customer = {id} AND i.weight > 1"
            ),
            await AskAsync(Of(Lines("AND(customer = :customer; item.weight > 1)"), QueryTake.Average, "quantity * item.weight"), customer)
        );
        Assert.Equal(
            await ByHandAsync(
                "count(*) FROM erp.sales_order o WHERE (SELECT max(quantity) FROM erp.sales_order_lines WHERE parent = o.id) >= 20"
            ),
            await AskAsync(Of(Orders("MAX(lines.quantity) >= :least"), QueryTake.Count), Value.From(20m))
        );
        Assert.Equal(
            await ByHandAsync("count(*) FROM erp.partner p WHERE (SELECT count(*) FROM erp.sales_order WHERE customer = p.id) > 12"),
            await AskAsync(Of(new() { RecordType = "partner", Where = "COUNT(sales_order.customer.gross_total) > 12" }, QueryTake.Count))
        );

        // An empty parameter meets nothing, and texts are compared as everywhere.
        Assert.Equal("0", await AskAsync(Of(Orders("customer = :customer"), QueryTake.Count), Value.Empty));
        Assert.Equal("0", await AskAsync(Of(Orders("OR(reference = :text; FALSE)"), QueryTake.Count), Value.Empty));
        Assert.Equal(
            "1",
            await AskAsync(Of(new() { RecordType = "partner", Where = "number = :number" }, QueryTake.Count), Value.From("p-0001"))
        );
        Assert.Equal(
            await ByHandAsync("count(*) FROM erp.partner WHERE name = 'it''s \\ :x'"),
            await AskAsync(Of(new() { RecordType = "partner", Where = "name = \"it's \\ :x\"" }, QueryTake.Count))
        );
    }

    [Fact(
        DisplayName = "Parameters get their kinds from what they are compared with, "
            + "the clock comes in as one that fills itself, and what the query gives and reads is known"
    )]
    public async Task Parameters_are_told()
    {
        var (query, problems) = await InspectAsync(
            Of(
                Lines(
                    "AND(customer = :customer; order_date >= :since; quantity * 2 > :much; LEFT(number; 2) = :begin; order_date < TODAY())"
                ),
                QueryTake.Rows,
                "price",
                "item",
                "quantity * price"
            ) with
            {
                Order = "order_date",
            }
        );
        Assert.Empty(problems);
        Assert.Equal(
            ["customer link", "since date", "much decimal", "begin text", "today date"],
            query.Parameters.Select(parameter => $"{parameter.Name} {parameter.Kind}")
        );
        Assert.Equal(["price numeric", "item bigint", "value_3 numeric"], query.Columns.Select(column => $"{column.Name} {column.Type}"));
        Assert.Superset(
            new HashSet<string>
            {
                site.Type("sales_order").Header.Find("customer")!.Id,
                site.Type("sales_order").LineParts[0].Find("price")!.Id,
            },
            query.Reads.ToHashSet()
        );
        Assert.Equal("TODAY()", QueryBinder.ArgumentFromRecord(query.Parameters[^1]));
    }

    [Theory(DisplayName = "What makes no sense is said at its place")]
    [InlineData("custmer = :customer", "where", "Did you mean customer?")]
    [InlineData("quantity", "where", "A condition gives yes or no")]
    [InlineData(":customer.name = \"x\"", "where", "Nothing can be read through a parameter")]
    [InlineData("quantity >", "where", "Something is missing at the end.")]
    public async Task Problems_are_placed(string where, string property, string said)
    {
        var (query, problems) = await InspectAsync(Of(Lines(where), QueryTake.Count));
        Assert.Equal("", query.Sql);
        Assert.Contains(problems, problem => problem.Property == property && problem.Message.Contains(said, StringComparison.Ordinal));
    }

    [Fact(
        DisplayName = "Values: one is required, names differ, texts have no total, secrets and days that move on by themselves are not read"
    )]
    public async Task Values_are_checked()
    {
        async Task<string> Said(QueryBuild build) =>
            string.Join(" ", (await InspectAsync(build)).Problems.Select(problem => $"{problem.Property}: {problem.Message}"));
        Assert.Contains("values: Say what it gives of each row", await Said(Of(Orders(null), QueryTake.Rows)), StringComparison.Ordinal);
        Assert.Contains(
            "values: Two values are called number",
            await Said(Of(Orders(null), QueryTake.Rows, "number", "number")),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "values: Only numbers, money and quantities have a total",
            await Said(Of(Orders(null), QueryTake.Sum, "number")),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "cannot be the name of a value",
            await Said(Orders(null) with { Values = [new("Total; DROP TABLE x", "gross_total")] }),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "recordType: Choose whose records it reads.",
            await Said(new() { RecordType = "nothing" }),
            StringComparison.Ordinal
        );
        var publishing = await site.PublishAsync([
            Site.Field("due", "integer") with
            {
                Formula = "order_date - TODAY()",
                Live = true,
            },
            Site.Field("pin", "secret"),
        ]);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        Assert.Contains(
            "Queries cannot read due: it changes by itself",
            await Said(Of(Orders("due > 3"), QueryTake.Count)),
            StringComparison.Ordinal
        );
        Assert.NotEqual("", await Said(Of(Orders("NOT(ISBLANK(pin))"), QueryTake.Count)));

        // In formulas elsewhere a parameter has no meaning.
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind("customer = :customer", site.Type("sales_order").Header, problems));
        Assert.Equal("Parameters such as :customer stand in queries only.", problems[0].Message);
    }

    [Fact(
        DisplayName = "Money of one currency is totalled with it, of two it is unknown; quantities of one dimension are brought to one unit"
    )]
    public async Task Amounts_are_totalled()
    {
        var publishing = await site.PublishAsync([
            Site.Field("deposit", "money") with
            {
                Currencies = ["EUR", "NOK"],
            },
            Site.Field("reach", "quantity") with
            {
                Units = ["MTR", "MMT"],
            },
        ]);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var type = site.Type("sales_order");
        var open = (
            (string)(await site.ScalarAsync("SELECT string_agg(id::text, ',' ORDER BY id) FROM erp.sales_order WHERE status = 'open'"))!
        )
            .Split(',')
            .Select(id => long.Parse(id, System.Globalization.CultureInfo.InvariantCulture))
            .ToList();
        foreach (
            var (order, amount, currency, reach, unit) in new[]
            {
                (open[0], 10m, "EUR", 2m, "MTR"),
                (open[1], 5m, "EUR", 500m, "MMT"),
                (open[2], 7m, "NOK", 1m, "MTR"),
            }
        )
        {
            var saving = await site.Saver.SaveAsync(
                type,
                order,
                site.Changes("sales_order", ("deposit", Value.Money(amount, currency)), ("reach", Value.Quantity(reach, unit))),
                Site.Desk
            );
            Assert.True(saving.Result == SaveResult.Saved, string.Join(" ", saving.Outcome.Messages.Select(message => message.Sentence)));
        }

        var third = Value.From((string)(await site.ScalarAsync($"SELECT number FROM erp.sales_order WHERE id = {open[2]}"))!);
        Assert.Equal("15, EUR", await AskAsync(Of(Orders("number <> :not"), QueryTake.Sum, "deposit"), third));
        Assert.Equal(", ", await AskAsync(Of(Orders(null), QueryTake.Sum, "deposit")));
        var total = (await AskAsync(Of(Orders(null), QueryTake.Sum, "reach"))).Split(", ");
        Assert.Equal(3.5m, decimal.Parse(total[0], System.Globalization.CultureInfo.InvariantCulture) / (total[1] == "MMT" ? 1000 : 1));
    }

    [Fact(
        DisplayName = "It fills fields as a query in SQL does, "
            + "its SQL is written by Pelto whatever a program sends, and it is deleted with nothing left"
    )]
    public async Task Fills_fields()
    {
        var build = Of(Lines("AND(customer = :customer; item = :item)"), QueryTake.Rows, "price", "number") with
        {
            Order = "order_date",
            Descending = true,
        };
        var sent = new QueryDefinition
        {
            Id = "q-last",
            Label = "Last price",
            Built = build,
            Sql = "SELECT credit_limit AS price FROM partner",
        };
        await site.Drafts.ChangeAsync(
            now =>
                now.With(sent)
                    .With(
                        Site.Field("last_price", "decimal", "lines") with
                        {
                            Digits = 12,
                            Decimals = 2,
                            Query = new()
                            {
                                Id = "q-last",
                                With = new Dictionary<string, string> { ["customer"] = "customer", ["item"] = "item" },
                            },
                        }
                    ),
            "Test",
            Site.Administrator
        );
        var (settled, problems) = await Runner.AnalyseAsync((await site.Drafts.ReadAsync()).Site, site.Catalogues.Live, default);
        Assert.Empty(problems);
        Assert.DoesNotContain("credit_limit", settled.FindQuery("q-last")!.Sql, StringComparison.Ordinal);
        await site.Drafts.ChangeAsync(_ => settled, "Test", Site.Administrator);
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var paid = (
            (string)
                (
                    await site.ScalarAsync(
                        "SELECT o.customer || '|' || l.item || '|' || round(l.price, 2) FROM erp.sales_order_lines l "
                            + "JOIN erp.sales_order o ON o.id = l.parent ORDER BY o.order_date DESC, o.id DESC, l.position DESC LIMIT 1"
                    )
                )!
        ).Split('|');
        var orders = site.Type("sales_order");
        var changes = site.Changes(
            "sales_order",
            ("customer", Value.LinkTo(long.Parse(paid[0], System.Globalization.CultureInfo.InvariantCulture)))
        );
        changes.Lines[orders.LineParts[0]] =
        [
            site.Line(
                "a",
                null,
                ("item", Value.LinkTo(long.Parse(paid[1], System.Globalization.CultureInfo.InvariantCulture))),
                ("quantity", Value.From(1m)),
                ("price", Value.From(1m))
            ),
        ];
        var tried = (await site.Store.TryAsync(orders, null, changes, Site.Desk))!.State;
        Assert.Equal(
            Value.From(decimal.Parse(paid[2], System.Globalization.CultureInfo.InvariantCulture)),
            tried.LinesOf(orders.LineParts[0])[0].Values[orders.LineParts[0].Find("last_price")!.Slot]
        );
    }
}
