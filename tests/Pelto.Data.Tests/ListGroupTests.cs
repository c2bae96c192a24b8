using Pelto.Core.Access;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>Lists in groups: counts and totals as the records have them, by built-in, added, live and seen fields.</summary>
public sealed class ListGroupTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private async Task<ListGroups> GroupAsync(Viewer viewer, string[] by, params string[] filters)
    {
        var type = site.Type("sales_order");
        return await site.Lists.GroupAsync(
            new(type, [], 0) { Filters = [.. filters.Select(text => Filter.Parse(type, text).Filter!)] },
            [.. by.Select(text => GroupKey.Parse(type, text).Key!.Value)],
            ListGroups.Totals(type.Header.Fields, viewer),
            viewer
        );
    }

    [Fact(
        DisplayName = "No total is formed of shares, prices and rates, "
            + "nor of what is divided or averaged, nor where the administrator says that it says nothing"
    )]
    public async Task No_totals_of_shares()
    {
        var publishing = await site.PublishAsync([
            Site.Field("margin", "decimal") with
            {
                Digits = 14,
                Decimals = 2,
                Live = true,
                Formula = "ROUND(vat / net_total; 2)",
            },
            Site.Field("mean", "decimal") with
            {
                Digits = 14,
                Decimals = 2,
                Live = true,
                Formula = "AVERAGE(lines.price)",
            },
            Of("middle", "MEDIAN(lines.price)"),
            Of("apart", "STDEV(lines.price)"),
            Of("chosen", "CHOOSE(2; vat; vat / net_total)"),
            Of("times", "SUMPRODUCT(lines.price; lines.quantity)"),
            Site.Field("tenth", "decimal") with
            {
                Digits = 14,
                Decimals = 2,
                Live = true,
                Formula = "net_total / 10",
            },
            Site.Field("share", "percent"),
            Site.Field("year", "integer") with
            {
                NoTotals = true,
            },
            Site.Field("rate_seen", "seen") with
            {
                Path = "customer.credit_limit",
            },
            Site.Field("pieces"),
        ]);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var totalled = ListGroups.Totals(site.Type("sales_order").Header.Fields, Site.Administrator).Select(field => field.Code).ToList();
        Assert.Superset(new HashSet<string> { "net_total", "vat", "tenth", "times", "pieces" }, totalled.ToHashSet());
        Assert.Empty(totalled.Intersect(["vat_percent", "margin", "mean", "middle", "apart", "chosen", "share", "year"]));
        Assert.Empty(
            ListGroups
                .Totals(site.Type("item").Header.Fields, Site.Administrator)
                .Select(field => field.Code)
                .Intersect(["price", "cost", "breaking_load", "weight"])
        );

        static FieldDefinition Of(string code, string formula) =>
            Site.Field(code, "decimal") with
            {
                Digits = 14,
                Decimals = 2,
                Live = true,
                Formula = formula,
            };
    }

    [Fact(DisplayName = "Each group has the records, and their totals, that the list has when it is held to the group")]
    public async Task Groups_are_their_records()
    {
        var publishing = await site.PublishAsync([
            Site.Field("size", "text") with
            {
                Length = 10,
                Live = true,
                Formula = "IF(gross_total > 5000; \"large\"; \"small\")",
            },
            Site.Field("weight", "decimal") with
            {
                Digits = 14,
                Decimals = 2,
                Live = true,
                Formula = "SUM(lines.quantity * lines.item.weight)",
            },
            Site.Field("town", "seen") with
            {
                Path = "customer.city",
            },
            Site.Field("quoted", "seen") with
            {
                Path = "quotation.net_total",
            },
            Site.Field("copies", "integer"),
        ]);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var type = site.Type("sales_order");
        await site.ScalarAsync(
            "INSERT INTO added.sales_order (id, copies) SELECT id, id % 4 FROM erp.sales_order "
                + "WHERE id % 3 > 0 ON CONFLICT (id) DO UPDATE SET copies = excluded.copies"
        );
        foreach (
            var by in new[]
            {
                new[] { "size" },
                ["copies", "status"],
                ["town"],
                ["customer"],
                ["order_date:month"],
                ["order_date:quarter", "currency"],
                ["weight"],
            }
        )
        {
            var groups = await GroupAsync(Site.Desk, by);
            Assert.Equal((long)(await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"))!, groups.All.Count);
            if (!groups.IsMore)
                Assert.Equal(groups.All.Count, groups.Groups.Sum(group => group.Count));
            foreach (var group in groups.Groups.Take(4).Concat(groups.Groups.TakeLast(2)))
            {
                var filters = groups.Keys.Zip(group.Values, (key, value) => key.FilterFor(value)).ToList();
                RecordLists.TryOrder(type, null, Site.Desk, out var keys);
                var rows = (await site.Lists.ReadAsync(new(type, keys, 500) { Filters = filters }, Site.Desk)).Rows;
                Assert.Equal(group.Count, rows.Count);
                foreach (
                    var (field, total) in groups
                        .Totalled.Zip(group.Totals)
                        .Where(pair => pair.First.Code is "net_total" or "weight" or "copies")
                )
                {
                    var values = rows.Select(row => row[field].Value).Where(value => !value.IsEmpty).Select(value => value.Number).ToList();
                    var currencies = rows.Where(row => !row[field].Value.IsEmpty)
                        .Select(row => row[type.Header.Find("currency")!].Value.Text)
                        .Distinct()
                        .ToList();
                    if (field.Code == "net_total" && currencies.Count > 1)
                        Assert.Equal("Several currencies.", total.Reason);
                    else if (values.Count == 0)
                        Assert.True(total.IsEmpty);
                    else
                        Assert.Equal(values.Sum(), total.DataType == DataType.Money ? total.Amount : total.Number);
                }
            }
        }

        // An amount seen through a link would be totalled over currencies that nobody looked at.
        Assert.DoesNotContain(ListGroups.Totals(type.Header.Fields, Site.Desk), field => field.Code == "quoted");

        // Held to filters, the groups are those of what is left; by days the newest first, else the largest.
        var open = await GroupAsync(Site.Desk, ["size"], "status~is~open");
        Assert.Equal(await site.ScalarAsync("SELECT count(*) FROM erp.sales_order WHERE status = 'open'"), open.All.Count);
        Assert.Equal(open.Groups.Select(group => group.Count).OrderDescending(), open.Groups.Select(group => group.Count));
        var months = (await GroupAsync(Site.Desk, ["order_date:month"])).Groups.Select(group => group.Values[0].Date).ToList();
        Assert.Equal(months.OrderDescending(), months);
    }

    [Fact(DisplayName = "Nobody groups by, or totals, what they may not see; names of what links point to stay hidden with it")]
    public async Task Access_holds()
    {
        var type = site.Type("sales_order");
        var hidden = type.Header.Fields.First(field => Site.Guest.LevelAt(field) < AccessLevel.Read || !Site.Guest.MaySeeThrough(field));
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.GroupAsync(new(type, [], 0), [new(hidden)], [], Site.Guest));
        var publishing = await site.PublishAsync(
            Site.Field("salesman", "text") with
            {
                Length = 60,
                Live = true,
                Formula = "salesperson.name",
            }
        );
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var salesman = site.Type("sales_order").Header.Find("salesman")!;
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Lists.GroupAsync(new(site.Type("sales_order"), [], 0), [new(salesman)], [], Site.Guest)
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Lists.GroupAsync(
                new(site.Type("sales_order"), [], 0) { Filters = [new(salesman, FilterTest.Filled)] },
                [new(site.Type("sales_order").Header.Find("status")!)],
                [],
                Site.Guest
            )
        );
    }
}
