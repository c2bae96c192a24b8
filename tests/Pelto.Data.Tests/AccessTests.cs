using Pelto.Core.Access;
using Pelto.Core.Binding;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>
/// Guards and grants in the store and in lists: what the database withholds is what memory withholds, and nothing gets by.
/// </summary>
public sealed class AccessTests(Site site) : IClassFixture<Site>
{
    private static readonly Viewer Eero = Site.Desk with { SignIn = "eero.lahdenmaa", Company = "fi" };

    private static readonly Viewer Manager = new(Guid.NewGuid(), "Sini", ["purchasing"]) { SignIn = "sini", Company = "fi" };

    private static Grant Give(string to, string on, string level, string? when = null) =>
        new()
        {
            Id = Grant.NewId(),
            To = [to],
            On = [on],
            Level = level,
            When = when,
        };

    private static Grant Withhold(string from, string on, string level, string? when = null) =>
        Give(from, on, level, when) with
        {
            Does = Grant.Withhold,
        };

    private static Grant Rights(string does, string who, string type, string[] may, string? when = null) =>
        new()
        {
            Id = Grant.NewId(),
            Does = does,
            To = [who],
            On = [Grant.OnType(type)],
            May = may,
            When = when,
        };

    // Over the tables as they are: guards and grants need no storage.
    private Catalogue With(IEnumerable<string> guards, params Grant[] grants)
    {
        var catalogue = Catalogue.Build(
            2,
            site.Catalogues.Live.Host,
            site.Catalogues.Live.Site with
            {
                Guards = [.. guards.Select(on => new Guard { On = on })],
                Grants = grants,
            }
        );
        Assert.Empty(catalogue.Problems);
        return catalogue;
    }

    private Task<ListPage> ListAsync(RecordType type, Viewer viewer, string order = "number", params string[] filters)
    {
        Assert.Null(RecordLists.TryOrder(type, order, viewer, out var keys));
        return site.Lists.ReadAsync(
            new(type, keys, 500) { Filters = [.. filters.Select(text => Filter.Parse(type, text).Filter!)] },
            viewer
        );
    }

    [Fact(
        DisplayName = "On generated grants a list has the records, "
            + "levels and values that reading them one by one has; filters, order and totals go by what is shown"
    )]
    public async Task Lists_as_records()
    {
        var fields = new[]
        {
            "sales_order.net_total",
            "sales_order.reference",
            "sales_order.wanted_by",
            "sales_order.carrier",
            "sales_order.salesperson",
        };
        var whens = new[]
        {
            "status = \"open\"",
            "customer.credit_limit > 5000",
            "net_total > 2000",
            ":company = company",
            "wanted_by > order_date + 10",
            "COUNT(lines.quantity) > 3",
        };
        var random = new Random(20261126);
        for (var round = 0; round < 25; round++)
        {
            var guards = fields.Where(_ => random.Next(4) == 0).ToList();
            var grants = Enumerable
                .Range(0, random.Next(1, 6))
                .Select(_ =>
                {
                    var (whom, on, when) = (
                        random.Next(2) == 0 ? "role:order_desk" : "everyone",
                        fields[random.Next(fields.Length)],
                        random.Next(3) == 0 ? null : whens[random.Next(whens.Length)]
                    );
                    return random.Next(5) switch
                    {
                        0 => Rights(Grant.Withhold, whom, "sales_order", ["read"], whens[random.Next(whens.Length)]),
                        < 3 => Withhold(whom, on, random.Next(2) == 0 ? "none" : "masked", when),
                        _ => Give(whom, on, random.Next(2) == 0 ? "read" : "masked", when),
                    };
                })
                .ToArray();
            var type = With(guards, grants).Find("sales_order")!;
            var said = string.Join(" | ", grants.Select(grant => SiteDefinition.Text(grant))) + " guarded " + string.Join(' ', guards);
            foreach (var viewer in new[] { Eero, Site.Guest })
            {
                var rows = (await ListAsync(type, viewer, "number", "number~between~SO-10183~SO-10222")).Rows.ToDictionary(row => row.Id);
                var ids = await IdsAsync("SELECT array_agg(id) FROM erp.sales_order WHERE number BETWEEN 'SO-10183' AND 'SO-10222'");
                var shown = new List<RecordState>();
                foreach (var id in ids)
                {
                    var state = await site.Store.FindAsync(type, id, viewer);
                    Assert.True(state is null == !rows.ContainsKey(id), $"{viewer.Name}, {id}: {said}");
                    if (state is null)
                        continue;
                    shown.Add(state);
                    foreach (var field in type.Header.Fields.Where(field => viewer.LevelAt(field) >= AccessLevel.Masked))
                    {
                        var row = rows[id];
                        Assert.True(
                            row[field].Value == state.Header[field.Slot],
                            $"{viewer.Name}, {id}, {field.Code}: {row[field].Value} in the list, {state.Header[field.Slot]} in the record: {said}"
                        );
                        var (inList, inRecord) = (AsRead(row[field].Level), AsRead(viewer.LevelAt(field, state, null)));
                        Assert.True(
                            inList == inRecord,
                            $"{viewer.Name}, {id}, {field.Code}: {inList} in the list, {inRecord} in the record: {said}"
                        );
                    }
                }

                // What is withheld is not found by its value, orders nothing and counts in no total.
                if (type.Header.Find("net_total") is { } total && viewer.MayFind(total))
                {
                    var found = (
                        await ListAsync(type, viewer, "-net_total", "number~between~SO-10183~SO-10222", "net_total~from~3000")
                    ).Rows;
                    Assert.Equal(
                        shown
                            .Where(state => !state.Header[total.Slot].IsEmpty && state.Header[total.Slot].Number >= 3000)
                            .OrderByDescending(state => state.Header[total.Slot].Number)
                            .ThenBy(state => state.Id)
                            .Select(state => state.Id!.Value),
                        found.Select(row => row.Id)
                    );
                    var sum = (
                        await site.Lists.GroupAsync(
                            new(type, [], 0)
                            {
                                Filters =
                                [
                                    Filter.Parse(type, "number~between~SO-10183~SO-10222").Filter!,
                                    Filter.Parse(type, "currency~is~EUR").Filter!,
                                ],
                            },
                            [GroupKey.Parse(type, "status").Key!.Value],
                            [total],
                            viewer
                        )
                    )
                        .All
                        .Totals[0];
                    var expected = shown
                        .Where(state => state.Get("currency") == "EUR" && !state.Header[total.Slot].IsEmpty)
                        .Sum(state => state.Header[total.Slot].Number);
                    Assert.Equal(
                        expected,
                        sum.IsEmpty ? 0
                            : sum.DataType == DataType.Money ? sum.Amount
                            : sum.Number
                    );
                }
            }
        }
    }

    // Nobody types in a list.
    private static AccessLevel AsRead(AccessLevel level) => level > AccessLevel.Read ? AccessLevel.Read : level;

    [Fact(DisplayName = "Whoever reads only some records finds, chooses, counts and follows only those")]
    public async Task Own_records_only()
    {
        var catalogue = With(
            [],
            Rights(Grant.Withhold, "role:order_desk", "partner", ["read"], "country <> \"NO\""),
            Rights(Grant.Withhold, "role:order_desk", "sales_order", ["read"], "status = \"closed\"")
        );
        var (partner, order) = (catalogue.Find("partner")!, catalogue.Find("sales_order")!);
        var (norwegian, finnish) = (
            (long)
                (
                    await site.ScalarAsync(
                        "SELECT min(id) FROM erp.partner WHERE country = 'NO' AND id IN (SELECT customer FROM erp.sales_order "
                            + "WHERE status = 'closed') AND id IN (SELECT customer FROM erp.sales_order WHERE status <> 'closed')"
                    )
                )!,
            (long)(await site.ScalarAsync("SELECT min(id) FROM erp.partner WHERE country = 'FI'"))!
        );
        Assert.Null(await site.Store.FindAsync(partner, finnish, Eero));
        Assert.NotNull(await site.Store.FindAsync(partner, norwegian, Eero));
        Assert.Equal([norwegian], (await site.Lists.TargetsAsync(partner, [norwegian, finnish], Eero)).Keys);
        var number = (string)(await site.ScalarAsync($"SELECT number FROM erp.partner WHERE id = {finnish}"))!;
        Assert.Null(await site.Lists.FindAsync(partner, number, Eero));
        Assert.Equal(finnish, await site.Lists.FindAsync(partner, number, Site.Guest));
        Assert.Empty(await site.Lists.PickAsync(partner, number, Eero));
        Assert.Equal(finnish, Assert.Single(await site.Lists.PickAsync(partner, number, Site.Guest)).Id);
        var offered = await site.Lists.PickAsync(partner, "", Eero, 50);
        Assert.Equal(50, offered.Count);
        Assert.Equal(
            50L,
            await site.ScalarAsync(
                $"SELECT count(*) FROM erp.partner WHERE country = 'NO' AND id IN ({string.Join(',', offered.Select(one => one.Id))})"
            )
        );

        // What an order took over from its customer is the order's own; what is calculated over whatever partner is not theirs to know.
        Assert.Equal(AccessLevel.Write, Eero.LevelAt(order.Header.Find("payment_terms")!));

        // What points to it is counted among what they may read; a name that they may not read is not on the list of orders.
        var pointers = new Pointers(site.Source, TimeProvider.System);
        var link = order.Header.Find("customer")!;
        Assert.Equal(
            await site.ScalarAsync($"SELECT count(*) FROM erp.sales_order WHERE customer = {norwegian} AND status <> 'closed'"),
            (await pointers.ReadAsync(catalogue, partner, norwegian, Eero)).FirstOrDefault(one => one.Field == link)?.Count ?? 0L
        );
        var rows = (await ListAsync(order, Eero)).Rows;
        foreach (var row in rows)
        {
            var isTheirs =
                await site.ScalarAsync(
                    $"SELECT p.country FROM erp.partner p JOIN erp.sales_order o ON o.customer = p.id WHERE o.id = {row.Id}"
                ) as string
                == "NO";
            Assert.Equal((isTheirs, isTheirs), (row[link].Label.Length > 0, !row[link].Value.IsEmpty));
            Assert.Equal(isTheirs, row[link].Level > AccessLevel.Masked);
        }

        Assert.Contains(rows, row => row[link].Label.Length == 0);
        Assert.Contains(
            "since you may not see all partners",
            RecordLists.TryOrder(order, "customer", Eero, out _),
            StringComparison.Ordinal
        );
        Assert.Null(RecordLists.TryOrder(order, "customer", Site.Guest, out _));

        // It is not there to be changed or deleted either.
        var open = (long)(await site.ScalarAsync("SELECT min(id) FROM erp.sales_order WHERE status = 'closed'"))!;
        Assert.Equal(
            SaveResult.Gone,
            (
                await site.Saver.SaveAsync(order, open, new() { Header = { [order.Header.Find("reference")!] = Value.From("x") } }, Eero)
            ).Result
        );
        Assert.Equal(SaveResult.Gone, (await site.Deleter.DeleteAsync(catalogue, order, open, Eero)).Result);
    }

    [Fact(DisplayName = "Changed only while open: the store refuses by what is on file, whatever is sent along, and says so")]
    public async Task Only_while_open()
    {
        var catalogue = With(
            ["partner.credit_limit"],
            Rights(Grant.Withhold, "everyone", "sales_order", ["change", "delete"], "status <> \"open\""),
            Give("role:purchasing", "partner.credit_limit", "write"),
            Give("role:order_desk", "partner.credit_limit", "masked")
        );
        var order = catalogue.Find("sales_order")!;
        var (closed, open) = (
            (long)(await site.ScalarAsync("SELECT max(id) FROM erp.sales_order WHERE status = 'closed'"))!,
            (long)(await site.ScalarAsync("SELECT max(id) FROM erp.sales_order WHERE status = 'open'"))!
        );
        var changes = new RecordChanges
        {
            Header = { [order.Header.Find("reference")!] = Value.From("late"), [order.Header.Find("status")!] = Value.From("open") },
        };
        Assert.Contains(
            "but not change it as it stands",
            (await Assert.ThrowsAsync<AccessRefusedException>(() => site.Saver.SaveAsync(order, closed, changes, Eero))).Message,
            StringComparison.Ordinal
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Deleter.DeleteAsync(catalogue, order, closed, Eero));
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(
                    order,
                    open,
                    new() { Header = { [order.Header.Find("reference")!] = Value.From("in time") } },
                    Eero
                )
            ).Result
        );

        // One field of a record that is read otherwise; what was not sent stays, and what is masked is not written.
        var partner = catalogue.Find("partner")!;
        var limit = partner.Header.Find("credit_limit")!;
        var before = await site.ScalarAsync("SELECT credit_limit FROM erp.partner WHERE id = 5");
        var refused = await site.Saver.SaveAsync(partner, 5, new() { Header = { [limit] = Value.From(1m) } }, Eero);
        Assert.Equal("You may not change Credit limit.", Assert.Single(refused.Outcome.Messages).Sentence);
        Assert.True(refused.Outcome.State.Header[limit.Slot].IsEmpty);
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(partner, 5, new() { Header = { [partner.Header.Find("note")!] = Value.From("called") } }, Eero)
            ).Result
        );
        Assert.Equal(before, await site.ScalarAsync("SELECT credit_limit FROM erp.partner WHERE id = 5"));
        var saved = await site.Saver.SaveAsync(partner, 5, new() { Header = { [limit] = Value.From(777m) } }, Manager);
        Assert.Equal(777m, saved.Outcome.State.Header[limit.Slot].Number);
        Assert.DoesNotContain(
            "credit_limit",
            RecordJson.Write((await site.Store.FindAsync(partner, 5, Site.Guest))!, Site.Guest).ToJsonString(),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "There is no field “credit_limit”",
            RecordLists.TryOrder(partner, "credit_limit", Eero, out _),
            StringComparison.Ordinal
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => ListAsync(partner, Eero, "number", "credit_limit~from~1"));
    }

    [Fact(
        DisplayName = "Masked is the same whatever stands there; "
            + "its end shows where the administrator lets it, in the list as in the record, and it is found by no part of it"
    )]
    public async Task Masked_and_ending()
    {
        await site.ScalarAsync("UPDATE erp.partner SET vat_number = 'FI99887766', phone = '+358 1' WHERE id = 7");
        var catalogue = Catalogue.Build(
            2,
            site.Catalogues.Live.Host,
            site.Catalogues.Live.Site with
            {
                Guards =
                [
                    new() { On = "partner.vat_number", Ending = true },
                    new() { On = "partner.phone", Ending = true },
                    new() { On = "partner.email" },
                ],
                Grants =
                [
                    Give("role:order_desk", "partner.vat_number", "masked"),
                    Give("role:order_desk", "partner.phone", "masked"),
                    Give("role:order_desk", "partner.email", "masked"),
                    Give("role:purchasing", "partner.vat_number", "masked", "country = \"FI\""),
                ],
            }
        );
        var type = catalogue.Find("partner")!;
        var (vat, phone, email) = (type.Header.Find("vat_number")!, type.Header.Find("phone")!, type.Header.Find("email")!);
        foreach (var viewer in new[] { Eero, Manager })
        {
            var state = (await site.Store.FindAsync(type, 7, viewer))!;
            var row = Assert.Single(
                (
                    await ListAsync(
                        type,
                        viewer,
                        "number",
                        $"number~is~{await site.ScalarAsync("SELECT number FROM erp.partner WHERE id = 7")}"
                    )
                ).Rows
            );
            var isFinnish = (string)(await site.ScalarAsync("SELECT country FROM erp.partner WHERE id = 7"))! == "FI";
            Assert.Equal(viewer == Eero || isFinnish ? "7766" : null, state.Access!.EndingAt(vat, null));
            Assert.Equal(state.Access.EndingAt(vat, null), row[vat].Ending);
            Assert.Null(state.Access.EndingAt(email, null));

            // Too short to show a part of, and never the value itself.
            Assert.Null(state.Access.EndingAt(phone, null));
            Assert.All(new[] { vat, phone, email }, field => Assert.True(state.Header[field.Slot].IsEmpty && row[field].Value.IsEmpty));
            RecordLists.TryOrder(type, "number", viewer, out var keys);
            Assert.Empty((await site.Lists.ReadAsync(new(type, keys, 10, Search: "99887766"), viewer)).Rows);
            Assert.Empty(await site.Lists.PickAsync(type, "99887766", viewer));
        }
    }

    private async Task<long[]> IdsAsync(string sql) => (long[])(await site.ScalarAsync(sql))!;
}

file static class States
{
    public static string Get(this RecordState state, string code) => state.Header[state.Type.Header.Find(code)!.Slot].Text;
}
