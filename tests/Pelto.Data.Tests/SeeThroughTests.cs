using Pelto.Core.Access;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>
/// Fields of other records seen through links: read live, in records, lines and lists, and only by who may see them there.
/// </summary>
public sealed class SeeThroughTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private static FieldDefinition Seen(string code, string path, string part = "header", string type = "sales_order") =>
        Site.Field(code, FieldKinds.ThroughLink, part, type) with
        {
            Path = path,
        };

    private async Task GoLiveAsync(params FieldDefinition[] fields)
    {
        await site.Drafts.ChangeAsync(draft => fields.Aggregate(draft, (all, field) => all.With(field)), "Test", Site.Administrator);
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == Definitions.PublishingState.Done, publishing.Saying);
    }

    private async Task<IReadOnlyList<long>> ListAsync(string order, params string[] filters)
    {
        var type = site.Type("sales_order");
        Assert.Null(RecordLists.TryOrder(type, order, Site.Desk, out var keys));
        var parsed = filters.Select(text => Filter.Parse(type, text)).ToList();
        Assert.All(parsed, one => Assert.Null(one.Refusal));
        return
        [
            .. (
                await site.Lists.ReadAsync(new(type, keys, 500) { Filters = [.. parsed.Select(one => one.Filter!)] }, Site.Desk)
            ).Rows.Select(row => row.Id),
        ];
    }

    [Fact(
        DisplayName = "What is seen is as it is now, on the record and its lines, "
            + "through one link and through two, and follows the link while it is entered"
    )]
    public async Task Seen_live()
    {
        await GoLiveAsync(
            Seen("limit", "customer.credit_limit"),
            Seen("of_quotation", "quotation.salesperson.name"),
            Seen("mass", "item.weight", "lines"),
            Seen("maker", "item.vendor.name", "lines"),
            Seen("seller", "customer.country")
        );
        var type = site.Type("sales_order");
        await site.ScalarAsync(
            "UPDATE erp.partner SET credit_limit = 12345 WHERE id = (SELECT customer FROM erp.sales_order WHERE id = 300)"
        );
        var order = (await site.Store.FindAsync(type, 300, Site.Desk))!;
        Value Of(RecordState state, string code) => state.Header[type.Header.Find(code)!.Slot];
        Assert.Equal(Value.From(12345m), Of(order, "limit"));
        var part = type.LineParts[0];
        var expected = (string)
            (
                await site.ScalarAsync(
                    "SELECT string_agg(concat_ws(':', i.weight, v.name), ' ' ORDER BY l.position) FROM erp.sales_order_lines l "
                        + "JOIN erp.item i ON i.id = l.item LEFT JOIN erp.partner v ON v.id = i.vendor WHERE l.parent = 300"
                )
            )!;
        Assert.Equal(
            expected,
            string.Join(
                    ' ',
                    order
                        .LinesOf(part)
                        .Select(line =>
                            string.Join(
                                ':',
                                new[] { "mass", "maker" }
                                    .Select(code =>
                                        part.Find(code)!
                                            .Kind.Format(line.Values[part.Find(code)!.Slot])
                                            .Replace(" ", code == "mass" ? "" : " ", StringComparison.Ordinal)
                                    )
                                    .Where(text => text.Length > 0)
                            )
                        )
                )
                .Replace("\u00a0", "", StringComparison.Ordinal)
        );

        await site.ScalarAsync("UPDATE erp.partner SET credit_limit = 777 WHERE id = 5");
        var tried = (await site.Store.TryAsync(type, 300, site.Changes("sales_order", ("customer", Value.LinkTo(5))), Site.Desk))!;
        Assert.Equal(Value.From(777m), Of(tried.State, "limit"));
        var saved = await site.Saver.SaveAsync(type, 300, site.Changes("sales_order", ("customer", Value.LinkTo(5))), Site.Desk);
        Assert.Equal((SaveResult.Saved, Value.From(777m)), (saved.Result, Of(saved.Outcome.State, "limit")));
        var typed = await site.Saver.SaveAsync(type, 300, site.Changes("sales_order", ("limit", Value.From(1m))), Site.Administrator);
        Assert.Equal("limit is seen through Customer: it is changed there.", typed.Outcome.Messages.Single().Sentence);
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM information_schema.columns WHERE table_schema = 'added' AND column_name IN ('limit', 'mass', 'maker')"
            )
        );
    }

    [Fact(DisplayName = "Lists sort and filter by what is seen in the database, pages by key included; links are seen by their names")]
    public async Task Lists_use_it()
    {
        await GoLiveAsync(Seen("city", "customer.city"), Seen("lent_limit", "customer.credit_limit"), Seen("manager", "project.manager"));
        await site.PublishAsync(Site.Field("grade", type: "partner"));
        await site.Saver.SaveAsync(site.Type("partner"), 177, site.Changes("partner", ("grade", Value.From(3m))), Site.Desk);
        await GoLiveAsync(Seen("their_grade", "customer.grade"));
        Assert.Equal(
            (long[])
                (
                    await site.ScalarAsync(
                        "SELECT array_agg(o.id ORDER BY p.credit_limit DESC NULLS LAST, o.id) "
                            + "FROM (SELECT o.*, p.credit_limit FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer "
                            + "ORDER BY p.credit_limit DESC NULLS LAST, o.id LIMIT 500) o JOIN erp.partner p ON p.id = o.customer"
                    )
                )!,
            await ListAsync("-lent_limit")
        );
        Assert.Equal(
            (long[])
                (
                    await site.ScalarAsync(
                        "SELECT array_agg(o.id ORDER BY o.id) FROM erp.sales_order o JOIN erp.partner p "
                            + "ON p.id = o.customer WHERE p.credit_limit BETWEEN 2000 AND 5000"
                    )
                )!,
            (await ListAsync("number", "lent_limit~between~2000~5000")).Order()
        );
        Assert.Equal(
            await site.ScalarAsync("SELECT count(*) FROM erp.sales_order WHERE customer = 177"),
            (long)(await ListAsync("city", "their_grade~is~3")).Count
        );
        var manager = (long)
            (await site.ScalarAsync("SELECT p.manager FROM erp.sales_order o JOIN erp.project p ON p.id = o.project LIMIT 1"))!;
        Assert.Equal(
            await site.ScalarAsync(
                $"SELECT count(*) FROM erp.sales_order o JOIN erp.project p ON p.id = o.project WHERE p.manager = {manager}"
            ),
            (long)(await ListAsync("manager", $"manager~is~{manager}")).Count
        );
        var type = site.Type("sales_order");
        RecordLists.TryOrder(type, "city", Site.Desk, out var keys);
        var (ids, after) = (new List<long>(), (string?)null);
        do
        {
            var page = await site.Lists.ReadAsync(new(type, keys, 90, after), Site.Desk);
            ids.AddRange(page.Rows.Select(row => row.Id));
            after = page.Next;
        } while (after is not null);
        Assert.Equal((530, 530), (ids.Count, ids.Distinct().Count()));
    }

    [Fact(
        DisplayName = "Who may not see the record at the end, or one on the way, "
            + "does not see its fields from here: not on the record, not in lists, not by sorting or looking for them"
    )]
    public async Task Access_goes_along()
    {
        await GoLiveAsync(Seen("seller_title", "salesperson.title"));
        var type = site.Type("sales_order");
        var field = type.Header.Find("seller_title")!;
        Assert.Equal((AccessLevel.None, AccessLevel.Read), (Site.Guest.LevelAt(field), Site.Desk.LevelAt(field)));
        Assert.DoesNotContain(
            "seller_title",
            RecordJson.Write((await site.Store.FindAsync(type, 300, Site.Guest))!, Site.Guest).ToJsonString(),
            StringComparison.Ordinal
        );
        Assert.NotNull(RecordLists.TryOrder(type, "seller_title", Site.Guest, out _));
        var filter = Filter.Parse(type, "seller_title~contains~manager").Filter!;
        RecordLists.TryOrder(type, null, Site.Guest, out var keys);
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Lists.ReadAsync(new(type, keys, 10) { Filters = [filter] }, Site.Guest)
        );
    }

    [Theory(DisplayName = "A way that leads nowhere is said, with the nearest name")]
    [InlineData("customer", "path", "Say through which link and what, such as customer.credit_limit.")]
    [InlineData("custmer.name", "path", "Sales order has no field “custmer”. Did you mean customer?")]
    [InlineData("customer.nam", "path", "Partner has no field “nam”. Did you mean name?")]
    [InlineData("reference.name", "path", "Customer's reference is not a link, so nothing is seen through it.")]
    public void Problems_are_placed(string path, string property, string sentence)
    {
        var problem = site.Catalogues.Build(new SiteDefinition().With(Seen("far", path))).Problems.Single();
        Assert.Equal((property, sentence), (problem.Property, problem.Sentence));
    }
}
