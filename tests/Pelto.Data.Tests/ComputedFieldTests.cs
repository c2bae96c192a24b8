using Pelto.Core.Records;
using Pelto.Data.Jobs;

namespace Pelto.Data.Tests;

/// <summary>Added fields that formulas fill, live and kept: on the record, in lists, for whom they are, and what is refused.</summary>
public sealed class ComputedFieldTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private static FieldDefinition Computed(
        string code,
        string formula,
        string kind = "decimal",
        string part = "header",
        string type = "sales_order",
        bool live = true
    ) =>
        Site.Field(code, kind, part, type) with
        {
            Formula = formula,
            Live = live,
            Digits = kind == "decimal" ? 14 : null,
            Decimals = kind == "decimal" ? 2 : null,
            Length = kind == "text" ? 60 : null,
        };

    private async Task GoLiveAsync(params FieldDefinition[] fields)
    {
        foreach (var field in fields)
        {
            var publishing = await site.PublishAsync(field);
            Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        }
    }

    private List<string> ProblemsOf(params FieldDefinition[] fields) =>
        [.. site.Catalogues.Build(new SiteDefinition { Fields = fields }).Problems.Select(problem => problem.Sentence)];

    private async Task<List<ListRow>> ListAsync(string order, params string[] filters)
    {
        var type = site.Type("sales_order");
        Assert.Null(RecordLists.TryOrder(type, order, Site.Desk, out var keys));
        return
        [
            .. (
                await site.Lists.ReadAsync(
                    new(type, keys, 500) { Filters = [.. filters.Select(text => Filter.Parse(type, text).Filter!)] },
                    Site.Desk
                )
            ).Rows,
        ];
    }

    [Fact(
        DisplayName = "Live fields read lines, links and one another; "
            + "they are shown, tried, listed, sorted and filtered without a column, and the same everywhere"
    )]
    public async Task Live_fields_work_everywhere()
    {
        await GoLiveAsync(
            Computed("headroom", "customer.credit_limit - gross_total"),
            Computed("heaviest", "MAX(lines.quantity * lines.item.weight)"),
            Computed("share", "headroom / customer.credit_limit"),
            Computed("each_weight", "quantity * item.weight", part: "lines")
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM information_schema.columns WHERE table_schema = 'added' "
                    + "AND column_name IN ('headroom', 'heaviest', 'share', 'each_weight')"
            )
        );
        var type = site.Type("sales_order");
        Value Of(RecordState record, string code) => record.Header[type.Header.Find(code)!.Slot];
        var rows = await ListAsync("-headroom");
        Assert.Equal(500, rows.Count);
        var slot = type.Header.Find("headroom")!.Slot;
        Assert.Equal(
            rows.Where(row => !row.Cells[slot].Value.IsEmpty).Select(row => row.Cells[slot].Value.Number).OrderDescending(),
            rows.Where(row => !row.Cells[slot].Value.IsEmpty).Select(row => row.Cells[slot].Value.Number)
        );
        foreach (var row in rows.Take(20))
        {
            var record = (await site.Store.FindAsync(type, row.Id, Site.Desk))!;
            foreach (var code in new[] { "headroom", "heaviest", "share" })
                Assert.Equal(row.Cells[type.Header.Find(code)!.Slot].Value, Of(record, code));
            var (customer, gross) = (record.Header[type.Header.Find("customer")!.Slot].Target, Of(record, "gross_total").Number);
            Assert.Equal(
                (decimal)(await site.ScalarAsync($"SELECT credit_limit FROM erp.partner WHERE id = {customer}"))! - gross,
                Of(record, "headroom").Number
            );
        }

        var few = await ListAsync(
            "number",
            $"headroom~to~{rows[250].Cells[slot].Value.Number.ToString(System.Globalization.CultureInfo.InvariantCulture)}"
        );
        Assert.NotEmpty(few);
        Assert.All(few, row => Assert.True(row.Cells[slot].Value.Number <= rows[250].Cells[slot].Value.Number));
        var heavy = await ListAsync("number", "lines.each_weight~from~100");
        Assert.Equal(
            await site.ScalarAsync(
                "SELECT count(DISTINCT l.parent) FROM erp.sales_order_lines l JOIN erp.item i "
                    + "ON i.id = l.item WHERE round(l.quantity * i.weight, 2) >= 100"
            ),
            (long)heavy.Count
        );

        // While somebody types: another customer and another quantity, through header, lines and links at once.
        var tried = (await site.Store.TryAsync(type, 12, site.Changes("sales_order", ("customer", Value.LinkTo(3))), Site.Desk))!;
        Assert.Equal(
            (decimal)(await site.ScalarAsync("SELECT credit_limit FROM erp.partner WHERE id = 3"))! - Of(tried.State, "gross_total").Number,
            Of(tried.State, "headroom").Number
        );
        Assert.Empty(tried.Messages);
        var saved = await site.Saver.SaveAsync(type, 12, site.Changes("sales_order", ("customer", Value.LinkTo(3))), Site.Desk);
        Assert.Equal(Of(tried.State, "headroom"), Of(saved.Outcome.State, "headroom"));
        Assert.Equal(Of(tried.State, "headroom"), (await ListAsync("number")).First(row => row.Id == 12).Cells[slot].Value);

        // What the link leads to changes, and the live value with it.
        await site.ScalarAsync("UPDATE erp.partner SET credit_limit = credit_limit + 1000 WHERE id = 3");
        Assert.Equal(Of(tried.State, "headroom").Number + 1000, Of((await site.Store.FindAsync(type, 12, Site.Desk))!, "headroom").Number);
    }

    [Fact(DisplayName = "What cannot be calculated is shown with its reason, empty in lists, and holds nobody up")]
    public async Task Errors_hold_nobody_up()
    {
        await GoLiveAsync(
            Computed("ratio", "net_total / (vat_percent - vat_percent)"),
            Computed("code_of", "\"Order \" & number & \" for \" & customer.name & REPT(\"!\"; 60)", "text"),
            Computed("kept_ratio", "1 / (vat_percent - vat_percent)", live: false),
            Computed("huge", "POWER(10; 27) * gross_total * 1000")
        );
        var type = site.Type("sales_order");
        var record = (await site.Store.FindAsync(type, 20, Site.Desk))!;
        Assert.Equal("Division by zero.", record.Header[type.Header.Find("ratio")!.Slot].Reason);
        Assert.Contains("60", record.Header[type.Header.Find("code_of")!.Slot].Reason, StringComparison.Ordinal);
        Assert.Equal("The result is too large.", record.Header[type.Header.Find("huge")!.Slot].Reason);
        Assert.All(await ListAsync("-huge"), row => Assert.True(row[type.Header.Find("huge")!].Value.IsEmpty));
        Assert.All(await ListAsync("-ratio"), row =>
            Assert.True(row[type.Header.Find("ratio")!].Value.IsEmpty && row[type.Header.Find("code_of")!].Value.IsEmpty)
        );
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(
                    type,
                    20,
                    site.Changes("sales_order", ("reference", Value.From("none of it matters"))),
                    Site.Desk
                )
            ).Result
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"),
            (long)(await ListAsync("number", "ratio~empty")).Count + 30
        );
    }

    [Fact(
        DisplayName = "Sixty live fields that each read the one before twice are one list and one record, quickly; "
            + "what another record cannot calculate is empty here, in memory and in the list"
    )]
    public async Task Long_chains_stay_short()
    {
        await GoLiveAsync(
            Computed("base", "gross_total * 2", type: "sales_order"),
            Computed("by_terms", "1000 / (credit_limit - credit_limit)", type: "partner"),
            Computed("of_customer", "IF(ISBLANK(customer.by_terms); 1; 2)")
        );
        var chain = Enumerable
            .Range(0, 60)
            .Select(i =>
                Computed(
                    $"step_{i}",
                    $"IF({(i == 0 ? "base" : $"step_{i - 1}")} > 100000; "
                        + $"{(i == 0 ? "base" : $"step_{i - 1}")} - 100000; {(i == 0 ? "base" : $"step_{i - 1}")} + {i})"
                )
            )
            .ToArray();
        var publishing = await site.PublishAsync(chain);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var type = site.Type("sales_order");
        var rows = await ListAsync("-step_59", "step_59~from~1");
        foreach (var row in rows.Take(10))
        {
            var record = (await site.Store.FindAsync(type, row.Id, Site.Desk))!;
            foreach (var code in new[] { "step_0", "step_30", "step_59", "of_customer" })
                Assert.Equal(record.Header[type.Header.Find(code)!.Slot], row.Cells[type.Header.Find(code)!.Slot].Value);
            Assert.Equal(1, row[type.Header.Find("of_customer")!].Value.Number);
        }
    }

    [Fact(
        DisplayName = "Money of another currency: at the rate of the day from the ERP's rates, through their base, "
            + "the same on the record and in lists and by hand; without a rate it says so"
    )]
    public async Task Money_is_exchanged()
    {
        await GoLiveAsync(
            Computed("in_euro", "AMOUNT(EXCHANGE(MONEY(gross_total; currency); \"EUR\"; order_date))"),
            Computed("in_crowns", "AMOUNT(EXCHANGE(MONEY(gross_total; currency); \"SEK\"; order_date))"),
            Computed("kept_pounds", "AMOUNT(EXCHANGE(MONEY(gross_total; currency); \"GBP\"; order_date))", live: false),
            Computed("too_early", "AMOUNT(EXCHANGE(MONEY(gross_total; currency); \"USD\"; DATE(1999; 1; 1)))"),
            Computed("or_nothing", "IFNA(too_early; 7)")
        );
        await site.Services.GetRequiredService<JobRunner>().RunOpenAsync();
        await site.ScalarAsync("UPDATE erp.sales_order SET currency = 'NOK' WHERE id % 3 = 0");
        await site.ScalarAsync(
            "UPDATE erp.exchange_rate SET rate = 0 WHERE currency = 'SEK' AND valid_from = (SELECT max(valid_from) "
                + "FROM erp.exchange_rate WHERE valid_from <= (SELECT max(order_date) FROM erp.sales_order))"
        );
        var type = site.Type("sales_order");
        static int SlotOf(RecordType type, string code) => type.Header.Find(code)!.Slot;
        var rows = await ListAsync("-in_euro");
        const string Rate =
            "(SELECT rate FROM erp.exchange_rate r WHERE r.currency = {0} AND valid_from <= o.order_date ORDER BY valid_from DESC LIMIT 1)";
        string To(string currency) => string.Format(System.Globalization.CultureInfo.InvariantCulture, Rate, currency);
        var byHand = (
            (string)
                (
                    await site.ScalarAsync(
                        "SELECT string_agg(id || '|' || coalesce(round(gross_total / CASE currency WHEN 'EUR' THEN 1 ELSE "
                            + $"nullif({To("o.currency")}, 0) END, 2)::text, "
                            + "'') || '|' || coalesce(CASE currency WHEN 'SEK' THEN gross_total ELSE round(gross_total / CASE currency WHEN 'EUR' "
                            + $"THEN 1 ELSE {To("o.currency")} END * nullif({To("'SEK'")}, 0), 2) END::text, ''), ' ') FROM erp.sales_order o"
                    )
                )!
        )
            .Split(' ')
            .Select(row => row.Split('|'))
            .ToDictionary(row => row[0], row => (row[1], row[2]), StringComparer.Ordinal);
        foreach (var row in rows)
        {
            var (euro, crowns) = byHand[row.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)];
            Assert.Equal(
                (euro, crowns),
                (Text(row.Cells[SlotOf(type, "in_euro")].Value), Text(row.Cells[SlotOf(type, "in_crowns")].Value))
            );
        }

        Assert.Contains(rows, row => row.Cells[SlotOf(type, "in_crowns")].Value.IsEmpty);
        foreach (var row in rows.Take(6).Concat(rows.Where(row => row.Cells[SlotOf(type, "in_crowns")].Value.IsEmpty).Take(2)))
        {
            var record = (await site.Store.FindAsync(type, row.Id, Site.Desk))!;
            Assert.Equal(row.Cells[SlotOf(type, "in_euro")].Value, record.Header[SlotOf(type, "in_euro")]);
            Assert.Contains("There is no rate from", record.Header[SlotOf(type, "too_early")].Reason, StringComparison.Ordinal);
            Assert.Equal(
                (Value.From(7m), Value.From(7m)),
                (row.Cells[SlotOf(type, "or_nothing")].Value, record.Header[SlotOf(type, "or_nothing")])
            );
        }

        // Kept ones follow a rate that is corrected, once they are filled again.
        var pounds = type.Header.Find("kept_pounds")!;
        var proofs = site.Services.GetRequiredService<FormulaProofs>();
        var stale = await proofs.CountStaleAsync(pounds, Site.Administrator, default);
        await site.ScalarAsync("UPDATE erp.exchange_rate SET rate = rate * 2 WHERE currency = 'GBP'");
        Assert.True(await proofs.CountStaleAsync(pounds, Site.Administrator, default) > stale);

        static string Text(Value value) =>
            value.IsEmpty ? "" : value.Number.ToString("0.00", System.Globalization.CultureInfo.InvariantCulture);
    }

    [Fact(
        DisplayName = "Over what links here: a customer's orders and an item's order lines, "
            + "live and kept, on the record, in lists, and by hand in SQL the same"
    )]
    public async Task Over_what_links_here()
    {
        await GoLiveAsync(
            Computed("turnover", "SUM(sales_order.customer.gross_total)", type: "partner"),
            Computed("still_open", "COUNTIF(sales_order.customer.status; \"open\")", type: "partner"),
            Computed("newest", "LAST(sales_order.customer.number; sales_order.customer.order_date)", "text", type: "partner"),
            Computed("sold", "SUM(sales_order.lines.item.quantity * sales_order.lines.item.price)", type: "item", live: false),
            Computed("headroom_of", "customer.credit_limit - customer.turnover")
        );
        await site.Services.GetRequiredService<JobRunner>().RunOpenAsync();
        var type = site.Type("partner");
        Assert.Null(RecordLists.TryOrder(type, "-turnover", Site.Desk, out var keys));
        var rows = (await site.Lists.ReadAsync(new(type, keys, 500), Site.Desk)).Rows;
        var first = rows.First(row => !row[type.Header.Find("turnover")!].Value.IsEmpty);
        var record = (await site.Store.FindAsync(type, first.Id, Site.Desk))!;
        foreach (var code in new[] { "turnover", "still_open", "newest" })
            Assert.Equal(first.Cells[type.Header.Find(code)!.Slot].Value, record.Header[type.Header.Find(code)!.Slot]);
        Assert.Equal(
            await site.ScalarAsync(
                "SELECT sum(gross_total) || '|' || count(*) FILTER (WHERE status = "
                    + $"'open') FROM erp.sales_order WHERE customer = {first.Id}"
            ),
            $"{record.Header[type.Header.Find("turnover")!.Slot].Number}|{record.Header[type.Header.Find("still_open")!.Slot].Number}"
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT max(sum) FROM (SELECT sum(gross_total) FROM erp.sales_order GROUP BY customer) s"),
            record.Header[type.Header.Find("turnover")!.Slot].Number
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.item i LEFT JOIN added.item a ON a.id = i.id LEFT "
                    + "JOIN (SELECT item, round(sum(quantity * price), 2) AS s FROM erp.sales_order_lines "
                    + "GROUP BY item) l ON l.item = i.id WHERE coalesce(a.sold, 0) <> coalesce(l.s, 0)"
            )
        );

        // Through a link to a live field over what links there.
        var order = (long)(await site.ScalarAsync($"SELECT id FROM erp.sales_order WHERE customer = {first.Id} LIMIT 1"))!;
        var orders = site.Type("sales_order");
        Assert.Equal(
            (decimal)(await site.ScalarAsync($"SELECT credit_limit FROM erp.partner WHERE id = {first.Id}"))!
                - record.Header[type.Header.Find("turnover")!.Slot].Number,
            (await site.Store.FindAsync(orders, order, Site.Desk))!.Header[orders.Header.Find("headroom_of")!.Slot].Number
        );

        // Nothing links to a record that is not on file yet; what cannot be seen there is not seen here.
        Assert.Equal(Value.From(0m), site.Store.Fresh(type, Site.Desk).Header[type.Header.Find("turnover")!.Slot]);
        Assert.Contains(
            "is a list over all sales orders that link here",
            Assert.Single(ProblemsOf(Computed("wrong", "sales_order.customer.gross_total", type: "partner"))),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Did you mean gross_total?",
            Assert.Single(ProblemsOf(Computed("wrong", "SUM(sales_order.customer.gross_totl)", type: "partner"))),
            StringComparison.Ordinal
        );
    }

    [Fact(
        DisplayName = "Over what links to a record that a link leads to, over the lines of what links here, "
            + "and over what several links point to: on the record, in lists, and by hand in SQL the same"
    )]
    public async Task Over_other_rows()
    {
        var helpers = Site.Field("helpers", "links") with { Target = "employee" };
        await GoLiveAsync(
            helpers,
            Site.Field("last_order", "link", type: "partner") with
            {
                Target = "sales_order",
            },
            Computed("of_customer", "SUM(customer.sales_order.customer.gross_total)"),
            Computed("their_share", "gross_total / SUM(customer.sales_order.customer.gross_total)"),
            Computed(
                "newest_of_customer",
                "LAST(customer.sales_order.customer.number; customer.sales_order.customer.order_date)",
                "text",
                live: false
            ),
            Computed("helped", "COUNTA(helpers.number)", live: false),
            Computed("who_helps", "TEXTJOIN(\", \"; TRUE(); helpers.name)", "text"),
            Computed("helped_last", "TEXTJOIN(\"/\"; TRUE(); customer.last_order.helpers.number)", "text"),
            Computed("all_sold", "SUM(item.sales_order.lines.item.quantity)", part: "lines"),
            Computed("lines_ordered", "COUNT(sales_order.customer.lines.quantity)", type: "partner"),
            Computed("worth", "SUM(sales_order.customer.lines.quantity * sales_order.customer.lines.price)", type: "partner"),
            Computed("first_line", "FIRST(sales_order.customer.lines.description)", "text", type: "partner")
        );
        var (orders, partners) = (site.Type("sales_order"), site.Type("partner"));
        var ids = (await site.Lists.ReadAsync(new(orders, [], 40), Site.Desk)).Rows.Select(row => row.Id).ToList();
        var people = new[] { 7L, 3L, 12L };
        foreach (var id in ids.Take(3))
            await site.Saver.SaveAsync(
                orders,
                id,
                new() { Header = { [orders.Header.Find("helpers")!] = Value.LinksTo(people) } },
                Site.Administrator
            );
        await site.ScalarAsync(
            "INSERT INTO added.partner (id, last_order) SELECT customer, min(id) FROM erp.sales_order "
                + $"WHERE id = ANY(ARRAY[{string.Join(", ", ids.Take(3))}]) GROUP BY customer "
                + "ON CONFLICT (id) DO UPDATE SET last_order = excluded.last_order"
        );
        await site.Services.GetRequiredService<JobRunner>().RunOpenAsync();

        async Task SameAsync(RecordType type, IEnumerable<long> records, string code, Func<long, string> byHand)
        {
            var rows = (await site.Lists.ReadAsync(new(type, [], 60), Site.Desk)).Rows.ToDictionary(row => row.Id);
            var filled = 0;
            foreach (var id in records)
            {
                var field = type.Header.Find(code)!;
                var onRecord = (await site.Store.FindAsync(type, id, Site.Desk))!.Header[field.Slot];
                Assert.Equal(onRecord, rows[id].Cells[field.Slot].Value);
                var wanted = (string?)await site.ScalarAsync($"SELECT ({byHand(id)})::text");
                Assert.Equal(
                    wanted is null ? Value.Empty
                        : onRecord.DataType == DataType.Text ? Value.From(wanted)
                        : Value.From(decimal.Parse(wanted, System.Globalization.CultureInfo.InvariantCulture)),
                    onRecord
                );
                filled += onRecord.IsEmpty ? 0 : 1;
            }

            Assert.True(filled > 0, code);
        }

        await SameAsync(orders, ids.Take(12), "of_customer", id =>
            $"SELECT sum(gross_total) FROM erp.sales_order WHERE customer = (SELECT customer FROM erp.sales_order WHERE id = {id})"
        );
        await SameAsync(orders, ids.Take(12), "their_share", id =>
            $"SELECT round(gross_total / (SELECT sum(gross_total) FROM erp.sales_order WHERE customer = o.customer), 2) FROM erp.sales_order o WHERE id = {id}"
        );
        await SameAsync(orders, ids.Take(12), "newest_of_customer", id =>
            $"SELECT number FROM erp.sales_order WHERE customer = (SELECT customer FROM erp.sales_order WHERE id = {id}) ORDER BY order_date DESC, id DESC LIMIT 1"
        );
        await SameAsync(orders, ids.Take(3), "helped", _ => "3");
        await SameAsync(orders, ids.Take(4), "who_helps", id =>
            ids.IndexOf(id) < 3
                ? "SELECT string_agg(name, ', ' ORDER BY array_position(ARRAY[7, 3, 12], id::int)) FROM erp.employee WHERE id IN (7, 3, 12)"
                : "NULL"
        );
        await SameAsync(orders, ids.Take(3), "helped_last", _ =>
            "SELECT string_agg(number, '/' ORDER BY array_position(ARRAY[7, 3, 12], id::int)) FROM erp.employee WHERE id IN (7, 3, 12)"
        );
        var customers = (await site.Lists.ReadAsync(new(partners, [], 30), Site.Desk)).Rows.Select(row => row.Id).ToList();
        await SameAsync(partners, customers, "lines_ordered", id =>
            $"SELECT count(quantity) FROM erp.sales_order_lines WHERE parent IN (SELECT id FROM erp.sales_order WHERE customer = {id})"
        );
        await SameAsync(partners, customers, "worth", id =>
            $"SELECT coalesce(round(sum(quantity * price), 2), 0.00) FROM erp.sales_order_lines WHERE parent IN (SELECT id FROM erp.sales_order WHERE customer = {id})"
        );
        await SameAsync(partners, customers, "first_line", id =>
            $"SELECT description FROM erp.sales_order_lines WHERE parent IN (SELECT id FROM erp.sales_order WHERE customer = {id}) AND description IS NOT NULL ORDER BY parent, position LIMIT 1"
        );
        var lines = (await site.Store.FindAsync(orders, ids[0], Site.Desk))!.Lines[0];
        foreach (var line in lines)
            Assert.Equal(
                await site.ScalarAsync(
                    "SELECT sum(quantity) FROM erp.sales_order_lines "
                        + $"WHERE item = (SELECT item FROM erp.sales_order_lines WHERE id = {line.Id})"
                ),
                line.Values[orders.LineParts[0].Find("all_sold")!.Slot].Number
            );

        // What cannot be gone over is said where it stands.
        Assert.Contains(
            "One list goes over one kind of rows",
            Assert.Single(ProblemsOf(Computed("wrong", "SUM(customer.sales_order.customer.gross_total * lines.quantity)"))),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "is a list over all employees that it points to",
            Assert.Single(ProblemsOf(helpers, Computed("wrong", "helpers.number", "text"))),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "One list goes over one kind of rows",
            Assert.Single(ProblemsOf(Computed("wrong", "SUM(lines.item.sales_order.lines.item.quantity)"))),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "go on to a field of them, helpers.name",
            Assert.Single(ProblemsOf(helpers, Computed("wrong", "COUNTA(helpers)"))),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Did you mean sales_order?",
            Assert.Single(ProblemsOf(Computed("wrong", "SUM(customer.sales_ordr.customer.gross_total)"))),
            StringComparison.Ordinal
        );
    }

    [Theory(
        DisplayName = "Working days by the company's own holidays: "
            + "Christmas 2026 in Finland and Norway, worked by hand (holidays from memory; Easter Sundays 2024 to 2028 from memory)"
    )]
    [InlineData("NETWORKDAYS(DATE(2026; 12; 23); DATE(2026; 12; 28); HOLIDAYS(\"fi\"))", 2)]
    [InlineData("NETWORKDAYS(DATE(2026; 12; 23); DATE(2026; 12; 28); HOLIDAYS(\"NO\"))", 3)]
    [InlineData("NETWORKDAYS(DATE(2026; 12; 23); DATE(2026; 12; 28))", 4)]
    [InlineData("NETWORKDAYS(DATE(2026; 5; 11); DATE(2026; 5; 22); HOLIDAYS(\"no\"))", 9)]
    [InlineData("DAY(WORKDAY(DATE(2024; 3; 27); 1; HOLIDAYS(\"no\")))", 2)]
    [InlineData("DAY(WORKDAY(DATE(2025; 4; 17); 1; HOLIDAYS(\"fi\")))", 22)]
    [InlineData("DAY(WORKDAY(DATE(2027; 3; 25); 1; HOLIDAYS(\"fi\")))", 30)]
    [InlineData("DAY(WORKDAY(DATE(2028; 4; 12); 1; HOLIDAYS(\"no\")))", 18)]
    public void Holidays(string text, int expected)
    {
        var type = site.Type("sales_order");
        Assert.Equal(
            Value.From((decimal)expected),
            Core.Formulas.Formula.Bind(text, type.Header, [])!.Evaluate(new RecordState(type).FrameAt(null))
        );
    }

    [Fact(DisplayName = "Kept fields are columns: written with each save, typed by nobody")]
    public async Task Kept_fields_are_columns()
    {
        await GoLiveAsync(Computed("doubled", "net_total * 2", live: false));
        var type = site.Type("sales_order");
        Assert.Equal(
            SaveResult.Saved,
            (await site.Saver.SaveAsync(type, 25, site.Changes("sales_order", ("reference", Value.From("again"))), Site.Desk)).Result
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT net_total * 2 FROM erp.sales_order WHERE id = 25"),
            await site.ScalarAsync("SELECT doubled FROM added.sales_order WHERE id = 25")
        );
        var typed = await site.Saver.SaveAsync(type, 25, site.Changes("sales_order", ("doubled", Value.From(1m))), Site.Desk);
        Assert.Equal("doubled is calculated and cannot be typed.", typed.Outcome.Messages.Single().Sentence);
    }

    [Fact(DisplayName = "What the clock makes old is filled again once a night, on one node, and only then")]
    public async Task Filled_again_at_night()
    {
        await GoLiveAsync(
            Computed("days_open", "TODAY() - order_date", live: true),
            Computed("weeks_open", "QUOTIENT(days_open; 7)", "integer", live: false)
        );
        var jobs = site.Services.GetRequiredService<JobRunner>();
        await jobs.RunOpenAsync();
        var field = site.Type("sales_order").Header.Find("weeks_open")!;
        Assert.True(field.GrowsOld);
        await site.ScalarAsync("UPDATE added.sales_order SET weeks_open = -1 WHERE id <= 9");
        await site.ScalarAsync(
            "INSERT INTO pelto.setting (name, value) VALUES ('filled_again', '2000-01-01') "
                + "ON CONFLICT (name) DO UPDATE SET value = excluded.value"
        );
        await using (var other = await site.AnotherNodeAsync())
        {
            await Task.WhenAll(jobs.RefillNightlyAsync(), other.GetRequiredService<JobRunner>().RefillNightlyAsync());
            await jobs.RefillNightlyAsync();
        }

        await jobs.RunOpenAsync();
        Assert.Equal("Pelto, each night", Assert.Single(await jobs.AllAsync(), job => job.Field == field.Id && job.Changed == 9).StartedBy);
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM added.sales_order WHERE weeks_open < 0"));
    }

    [Fact(
        DisplayName = "What is stored follows the formula: filled for all records when it goes live and "
            + "when it changes, set-based, undone as it was; what grew old is counted and filled again"
    )]
    public async Task Kept_fields_are_refilled()
    {
        var jobs = site.Services.GetRequiredService<JobRunner>();
        var proofs = site.Services.GetRequiredService<FormulaProofs>();
        await GoLiveAsync(
            Computed("room", "customer.credit_limit - gross_total", live: false),
            Computed("line_weight", "quantity * item.weight", part: "lines", live: false)
        );
        await jobs.RunOpenAsync();
        var (room, weight) = (site.Type("sales_order").Header.Find("room")!, site.Type("sales_order").LineParts[0].Find("line_weight")!);
        const string Wrong =
            "SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer LEFT JOIN added.sales_order a "
            + "ON a.id = o.id WHERE a.room IS DISTINCT FROM round(p.credit_limit - o.gross_total, 2)";
        Assert.Equal(0L, await site.ScalarAsync(Wrong));
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order_lines l JOIN erp.item i ON i.id = l.item LEFT "
                    + "JOIN added.sales_order_lines a ON a.id = l.id WHERE a.line_weight IS DISTINCT FROM round(l.quantity * i.weight, 2)"
            )
        );
        Assert.Equal(
            (0L, 0L),
            (
                (await proofs.CountStaleAsync(room, Site.Administrator, default))!.Value,
                (await proofs.CountStaleAsync(weight, Site.Administrator, default))!.Value
            )
        );

        // Something that it reads changes behind its back.
        await site.ScalarAsync("UPDATE erp.partner SET credit_limit = credit_limit + 7 WHERE id <= 20");
        var stale = (long)(await site.ScalarAsync(Wrong))!;
        Assert.True(stale > 0);
        Assert.Equal(stale, await proofs.CountStaleAsync(room, Site.Administrator, default));
        await jobs.RefillAsync(room, Site.Administrator);
        await jobs.RunOpenAsync();
        Assert.Equal(0L, await site.ScalarAsync(Wrong));
        var job = (await jobs.AllAsync())[0];
        Assert.Equal((JobState.Done, stale), (job.State, job.Changed));

        // Undone, but for what was saved since.
        var one = (long)(await site.ScalarAsync("SELECT max(id) FROM erp.sales_order WHERE customer <= 20"))!;
        await site.Saver.SaveAsync(site.Type("sales_order"), one, site.Changes("sales_order", ("vat_percent", Value.From(1m))), Site.Desk);
        Assert.True(await jobs.UndoAsync(job.Id, Site.Administrator));
        await jobs.RunOpenAsync();
        Assert.Equal(stale - 1, await proofs.CountStaleAsync(room, Site.Administrator, default));

        // Another formula: what is stored follows, and the proof said so before.
        var draft = site
            .Catalogues.Build(
                site.Catalogues.Live.Site.With(site.Catalogues.Live.Site.Find("f-room")! with { Formula = "gross_total / 2" })
            )
            .FindField("f-room")!;
        var proof = (await proofs.OfAsync(draft, room, Site.Administrator, default))!;
        Assert.Equal((530L, true, 0L), (proof.Looked, proof.IsAll, proof.Failing));
        await GoLiveAsync((FieldDefinition)draft.Content);
        await jobs.RunOpenAsync();
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order o LEFT JOIN added.sales_order a "
                    + "ON a.id = o.id WHERE a.room IS DISTINCT FROM round(o.gross_total / 2, 2)"
            )
        );
        Assert.Equal(proof.Changed, (await jobs.AllAsync())[0].Changed);

        // A release that changes nothing of it begins no job.
        var before = (await jobs.AllAsync()).Count;
        await GoLiveAsync(Site.Field("bystander"));
        Assert.Equal(before, (await jobs.AllAsync()).Count);
    }

    [Fact(DisplayName = "What a formula may not is refused in the draft, at its property, with the path of a circle")]
    public void Refusals()
    {
        Assert.Contains(
            "These fields depend on each other in a circle: a reads b reads c reads a.",
            ProblemsOf(Computed("a", "b + 1"), Computed("b", "c + 1"), Computed("c", "a + 1"))
        );
        Assert.Contains("The formula gives a text, and the field takes a number.", ProblemsOf(Computed("a", "reference")));
        Assert.Empty(ProblemsOf(Computed("a", "TODAY() - order_date", live: false)));
        Assert.Contains(
            "A formula fills it: nobody could type the required value.",
            ProblemsOf(Computed("a", "1") with { Required = true })
        );
        Assert.Contains(ProblemsOf(Computed("a", "net_totl * 2")), sentence =>
            sentence.Contains("Did you mean net_total?", StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "The proof of a field that reads a circle of others tells nothing, rather than bringing the server down")]
    public async Task Circles_elsewhere_are_survived()
    {
        var catalogue = site.Catalogues.Build(
            new SiteDefinition { Fields = [Computed("a", "b + 1"), Computed("b", "a + 1"), Computed("reads", "a * 2")] }
        );
        Assert.Contains(catalogue.Problems, problem =>
            problem.Sentence.Contains("depend on each other in a circle", StringComparison.Ordinal)
        );
        Assert.Null(
            await site
                .Services.GetRequiredService<FormulaProofs>()
                .OfAsync(catalogue.FindField("f-reads")!, null, Site.Administrator, default)
        );
    }

    [Fact(DisplayName = "Who may not see what a formula reads does not see what it gives: not on the record, in lists, nor by sorting")]
    public async Task Guarded_inputs_guard_results()
    {
        await GoLiveAsync(Computed("salesman", "salesperson.name", "text"));
        var type = site.Type("sales_order");
        var field = type.Header.Find("salesman")!;
        Assert.True(Core.Access.AccessRules.LevelAt(Site.Desk, field) == AccessLevel.Read);
        Assert.True(Core.Access.AccessRules.LevelAt(Site.Guest, field) == AccessLevel.None);
        Assert.NotNull(RecordLists.TryOrder(type, "salesman", Site.Guest, out _));
        var row = (await site.Lists.ReadAsync(new(type, [], 5), Site.Guest)).Rows[0];
        Assert.True(row[field].Value.IsEmpty);
        Assert.DoesNotContain(
            "salesman",
            RecordJson.Write((await site.Store.FindAsync(type, row.Id, Site.Guest))!, Site.Guest).ToJsonString(),
            StringComparison.Ordinal
        );
    }
}
