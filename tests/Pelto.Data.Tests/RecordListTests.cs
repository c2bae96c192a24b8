namespace Pelto.Data.Tests;

public sealed class RecordListTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    [Theory(DisplayName = "Pages by key show every record once, in order, whatever is sorted by")]
    [
        InlineData("number"),
        InlineData("-number"),
        InlineData("customer"),
        InlineData("-reference,order_date"),
        InlineData("incoterm,-net_total"),
        InlineData("-unloading_place")
    ]
    public async Task Pages_are_complete(string order)
    {
        var type = site.Type("sales_order");
        Assert.Null(RecordLists.TryOrder(type, order, Site.Desk, out var keys));
        var (seen, after) = (new List<ListRow>(), (string?)null);
        do
        {
            var page = await site.Lists.ReadAsync(new(type, keys, 37, after), Site.Desk);
            seen.AddRange(page.Rows);
            after = page.Next;
        } while (after is not null);
        var most = await site.Lists.ReadAsync(new(type, keys, 500), Site.Desk);
        Assert.Equal((530, 530), (seen.Count, seen.Select(row => row.Id).Distinct().Count()));
        Assert.Equal(most.Rows.Select(row => row.Id), seen.Take(500).Select(row => row.Id));
    }

    [Fact(DisplayName = "An added field is sorted by in the database, records without a value last both ways")]
    public async Task Added_fields_sort()
    {
        await site.PublishAsync(Site.Field("rank"));
        var type = site.Type("sales_order");
        foreach (var (id, rank) in new[] { (10L, 3m), (20L, 1m), (30L, 2m) })
            await site.Saver.SaveAsync(type, id, site.Changes("sales_order", ("rank", Value.From(rank))), Site.Desk);
        Assert.Equal([20, 30, 10], await IdsAsync("rank", 3));
        Assert.Equal([10, 30, 20], await IdsAsync("-rank", 3));
        RecordLists.TryOrder(type, "-rank", Site.Desk, out var keys);
        var first = await site.Lists.ReadAsync(new(type, keys, 3), Site.Desk);
        var rest = await site.Lists.ReadAsync(new(type, keys, 500, first.Next), Site.Desk);
        Assert.Equal(500, rest.Rows.Count(row => row[type.Header.Find("rank")!].Value.IsEmpty));
    }

    [Fact(DisplayName = "Searching takes words literally, in any column that the type searches")]
    public async Task Search_is_literal()
    {
        Assert.Equal(["P-0177"], await FindAsync("selkäsaari boatyard"));
        Assert.Empty(await FindAsync("%"));
        Assert.Empty(await FindAsync("P_0177"));
        Assert.Empty(await FindAsync("\\"));
        Assert.Empty(await FindAsync("'; DROP TABLE erp.partner; --"));
        var type = site.Type("sales_order");
        RecordLists.TryOrder(type, null, Site.Desk, out var keys);
        Assert.Contains((await site.Lists.ReadAsync(new(type, keys, 50, Search: "Selkäsaari Boatyard"), Site.Desk)).Rows, row =>
            row.Id == 300
        );
    }

    [Fact(
        DisplayName = "Picking finds with or without accents, in capitals or not, "
            + "and what begins so before what holds it; what has a meaning in SQL has none here"
    )]
    public async Task Picking_is_kind()
    {
        var type = site.Type("partner");
        foreach (var typed in new[] { "selkasaari boat", "SELKÄSAARI BOATYARD", "saari yard", "se bo", "boatyard  selka" })
            Assert.Contains(await site.Lists.PickAsync(type, typed, Site.Desk), target => target.Name == "Selkäsaari Boatyard");
        Assert.Equal("P-0177", (await site.Lists.PickAsync(type, "p-0177", Site.Desk))[0].Identifier);
        Assert.All((await site.Lists.PickAsync(type, "p-01", Site.Desk)), target =>
            Assert.StartsWith("P-01", target.Identifier, StringComparison.Ordinal)
        );
        var first = await site.Lists.PickAsync(type, "se", Site.Desk);
        Assert.StartsWith("Se", first[0].Name, StringComparison.Ordinal);
        foreach (var typed in new[] { "%", "_", "\\", "'", "zzz 100%", "\0" })
            Assert.DoesNotContain(await site.Lists.PickAsync(type, typed + "qq", Site.Desk), _ => true);
    }

    [Fact(
        DisplayName = "Letters that are the same but for accent "
            + "and case in ICU's root collation are the same to whoever looks for them (Latin-1 Supplement and Latin Extended-A)"
    )]
    public async Task Accents_agree_with_icu()
    {
        await site.ScalarAsync(
            "CREATE COLLATION IF NOT EXISTS pelto.base_letters (provider = icu, locale = 'und-u-ks-level1', deterministic = false)"
        );
        var apart = (string?)
            await site.ScalarAsync(
                """
                SELECT string_agg(letter || '/' || base, ' ') FROM (SELECT chr(c) AS letter FROM generate_series(192, 383) c) l, (SELECT chr(b) AS base FROM generate_series(97, 122) b) a
                WHERE letter = base COLLATE pelto.base_letters AND pelto.plain(letter) <> base
                """
            );
        Assert.Null(apart);
        Assert.True(
            (long)
                (
                    await site.ScalarAsync(
                        "SELECT count(*) FROM generate_series(192, 383) c, generate_series(97, "
                            + "122) b WHERE chr(c) = chr(b) COLLATE pelto.base_letters"
                    )
                )! > 100
        );
    }

    [Fact(DisplayName = "Picking puts the exact number first and finds by parts of words")]
    public async Task Picking_finds()
    {
        Assert.Equal("SHB-22", (await site.Lists.PickAsync(site.Type("item"), "shb-22", Site.Desk))[0].Identifier);
        Assert.Contains(await site.Lists.PickAsync(site.Type("item"), "shackle 22", Site.Desk), target =>
            target.Name == "Bow shackle 22 mm"
        );
        Assert.Equal(12, (await site.Lists.PickAsync(site.Type("item"), "", Site.Desk)).Count);
    }

    [Fact(
        DisplayName = "Lines are looked in by each test that their fields have, "
            + "and what they hold is compared as SQL of another make has it; none of them is what “is not” says"
    )]
    public async Task Lines_are_looked_in()
    {
        var publishing = await site.PublishAsync([
            Site.Field("grade", "choice", "lines") with
            {
                Choices =
                [
                    new("a", "Grade A") { Texts = new Dictionary<string, string> { ["fi"] = "Luokka 1" } },
                    new("b", "Grade B"),
                    new("c", "Other"),
                ],
            },
            Site.Field("mark", "text", "lines") with
            {
                Length = 10,
            },
            Site.Field("tags", "choices", "lines") with
            {
                Choices = [new("x", "X"), new("y", "Y")],
            },
        ]);
        Assert.True(publishing.State == Definitions.PublishingState.Done, publishing.Saying);
        foreach (
            var (code, value) in new[]
            {
                ("grade", "(ARRAY['a', 'b', 'c', NULL])[1 + id % 4]"),
                ("mark", "CASE WHEN id % 5 = 0 THEN 'm' || id END"),
                ("tags", "CASE WHEN id % 7 = 0 THEN ARRAY['x', 'y'] END"),
            }
        )
            await site.ScalarAsync(
                $"INSERT INTO added.sales_order_lines (id, {code}) SELECT id, {value} FROM erp.sales_order_lines "
                    + $"WHERE id % 3 > 0 ON CONFLICT (id) DO UPDATE SET {code} = excluded.{code}"
            );
        var type = site.Type("sales_order");
        RecordLists.TryOrder(type, null, Site.Desk, out var keys);
        var all = new HashSet<Core.Records.FilterTest>();
        foreach (
            var (filter, lines) in new[]
            {
                ("lines.grade~is~a", "grade = 'a'"),
                ("lines.grade~not~a", "NOT grade = 'a'"),
                ("lines.grade~contains~GRADE", "grade IN ('a', 'b')"),
                ("lines.grade~contains~luokka", "grade = 'a'"),
                ("lines.grade~empty", "grade IS NULL"),
                ("lines.grade~filled", "grade IS NOT NULL"),
                ("lines.mark~contains~m1", "mark LIKE '%m1%'"),
                ("lines.mark~empty", "mark IS NULL"),
                ("lines.mark~not~m10", "NOT mark = 'm10'"),
                ("lines.tags~contains~x", "'x' = ANY (tags)"),
                ("lines.tags~empty", "tags IS NULL"),
                ("lines.quantity~between~2~3", "quantity BETWEEN 2 AND 3"),
                ("lines.quantity~not~1", "NOT quantity = 1"),
                ("lines.quantity~from~40", "quantity >= 40"),
                ("lines.quantity~to~1", "quantity <= 1"),
                ("lines.item~is~SHB-22", "item = (SELECT id FROM erp.item WHERE number = 'SHB-22')"),
                ("lines.item~not~SHB-22", "NOT item = (SELECT id FROM erp.item WHERE number = 'SHB-22')"),
                ("lines.item~filled", "item IS NOT NULL"),
            }
        )
        {
            var field = type.LineParts[0].Find(filter.Split('~')[0].Split('.')[1])!;
            var read =
                field.Kind is LinkKind && filter.Split('~') is [_, var test, var named]
                    ? Core.Records.Filter.Pointing(field, (await site.Lists.PickAsync(site.Type("item"), named, Site.Desk))[0].Id) with
                    {
                        Test = Enum.Parse<Core.Records.FilterTest>(test, ignoreCase: true),
                    }
                    : Core.Records.Filter.Parse(type, filter).Filter!;
            all.Add(read.Test);
            var none = lines.StartsWith("NOT ", StringComparison.Ordinal);
            var wanted = (string?)
                await site.ScalarAsync(
                    $"SELECT string_agg(id::text, ',' ORDER BY id) FROM erp.sales_order WHERE id {(none ? "NOT " : "")}IN (SELECT parent "
                        + $"FROM erp.sales_order_lines LEFT JOIN added.sales_order_lines a USING (id) WHERE {(none ? lines[4..] : lines)})"
                )
                ?? "";
            var (found, after) = (new List<long>(), (string?)null);
            do
            {
                var page = await site.Lists.ReadAsync(new(type, keys, 200, after) { Filters = [read] }, Site.Desk);
                found.AddRange(page.Rows.Select(row => row.Id));
                after = page.Next;
            } while (after is not null);
            Assert.Equal((filter, wanted), (filter, string.Join(',', found.Order())));
        }

        Assert.Equal(Enum.GetValues<Core.Records.FilterTest>().Order(), all.Order());
        Assert.Equal(
            ("is in no line", "is empty in a line"),
            (Core.Records.Filter.Say(Core.Records.FilterTest.Not, true), Core.Records.Filter.Say(Core.Records.FilterTest.Empty, true))
        );
    }

    [Fact(DisplayName = "An unknown field to sort by and a cursor from elsewhere are refused")]
    public async Task Nonsense_is_refused()
    {
        Assert.Equal("There is no field “colour” to sort by.", RecordLists.TryOrder(site.Type("partner"), "colour", Site.Desk, out _));
        RecordLists.TryOrder(site.Type("partner"), "name", Site.Desk, out var keys);
        foreach (var cursor in new[] { "nonsense", "e30", "WyJudW1iZXIiLFtdLDFd" })
            await Assert.ThrowsAsync<FormatException>(() => site.Lists.ReadAsync(new(site.Type("partner"), keys, 5, cursor), Site.Desk));
    }

    [Fact(DisplayName = "Who may not see employees neither reads, sorts by, finds by nor looks up an order's salesperson")]
    public async Task Links_keep_what_they_point_to()
    {
        var (orders, employees) = (site.Type("sales_order"), site.Type("employee"));
        var salesperson = orders.Header.Find("salesperson")!;
        Assert.Equal(
            "You may not sort by Salesperson, since you may not see employees.",
            RecordLists.TryOrder(orders, "salesperson", Site.Guest, out _)
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.ReadAsync(new(orders, [new(salesperson, false)], 5), Site.Guest));
        RecordLists.TryOrder(orders, null, Site.Guest, out var keys);
        var rows = (await site.Lists.ReadAsync(new(orders, keys, 50), Site.Guest)).Rows;
        Assert.Contains(rows, row => row[salesperson].Level == AccessLevel.Masked);
        Assert.All(rows, row => Assert.True(row[salesperson].Value.IsEmpty && row[salesperson].Label.Length == 0));
        Assert.NotEmpty(await site.Lists.TargetsAsync(employees, [1], Site.Desk));
        Assert.Empty(await site.Lists.TargetsAsync(employees, [1], Site.Guest));
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.FindAsync(employees, "E-01", Site.Guest));
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.PickAsync(employees, "e", Site.Guest));
    }

    private async Task<IReadOnlyList<long>> IdsAsync(string order, int take)
    {
        RecordLists.TryOrder(site.Type("sales_order"), order, Site.Desk, out var keys);
        return [.. (await site.Lists.ReadAsync(new(site.Type("sales_order"), keys, take), Site.Desk)).Rows.Select(row => row.Id)];
    }

    private async Task<IReadOnlyList<string>> FindAsync(string words)
    {
        var type = site.Type("partner");
        RecordLists.TryOrder(type, null, Site.Desk, out var keys);
        return
        [
            .. (await site.Lists.ReadAsync(new(type, keys, 50, Search: words), Site.Desk)).Rows.Select(row =>
                row[type.Identifier].Value.Text
            ),
        ];
    }
}
