using CsCheck;
using Pelto.Core.Formulas;

namespace Pelto.Data.Tests;

/// <summary>What links offer: in the database as in memory, asked again on saving, and told by name.</summary>
public sealed class NarrowingTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private const string OnLoanHere = "AND(customer = record.customer; ISBLANK(returned_on))";

    private static FieldDefinition Link(string code, string target, string offers, string type = "visit") =>
        Site.Field(code, "link", type: type) with
        {
            Target = target,
            Label = code.Replace('_', ' '),
            Offers = offers,
        };

    private async Task GoLiveAsync(FieldDefinition field)
    {
        var publishing = await site.PublishAsync(field);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private async Task<Saving> SaveAsync(long visit, params (string Code, Value Value)[] values) =>
        await site.Saver.SaveAsync(site.Type("visit"), visit, site.Changes("visit", values), Site.Desk);

    private async Task<long> IdAsync(string sql) => (long)(await site.ScalarAsync(sql))!;

    private static Gen<string> One(params string[] texts) => Gen.Int[0, texts.Length - 1].Select(at => texts[at]);

    // Conditions over what can be lent and the visit at hand: fields of every comparable kind, through links too, reckoned, nested, with
    // errors in them.
    private static readonly Gen<string> Number = Gen.Recursive<string>(
        (depth, self) =>
            depth > 1
                ? One(
                    "item.price",
                    "item.weight",
                    "item.breaking_load",
                    "order.net_total",
                    "record.customer.credit_limit",
                    "item.vendor.credit_limit",
                    "0",
                    "1",
                    "250",
                    "7.5"
                )
                : Gen.OneOf(
                    One("item.price", "order.net_total", "100"),
                    Gen.Select(One("+", "-", "*", "/"), self, self, (op, a, b) => $"({a} {op} {b})")
                )
    );

    private static readonly Gen<string> Test = Gen.OneOf(
        Gen.Select(
            One("=", "<>", "<", "<=", ">", ">="),
            One("customer", "record.customer", "order.customer", "order.project.customer"),
            One("record.customer", "customer"),
            (op, a, b) => $"{a} {op} {b}"
        ),
        Gen.Select(
            One("=", "<>", "<", "<=", ">", ">="),
            One("loaned_on", "due_back", "returned_on", "record.planned_on", "order.wanted_by"),
            One("record.planned_on", "next_examination", "order.order_date"),
            (op, a, b) => $"{a} {op} {b}"
        ),
        Gen.Select(
            One("=", "<>", "<", ">="),
            One("place", "serial", "(condition & \"\")", "name", "order.reference", "record.place"),
            One("\"slipway\"", "\"Hall 2\"", "\"good\"", "record.place", "place", "\"køye\""),
            (op, a, b) => $"{a} {op} {b}"
        ),
        Gen.Select(One("=", "<>", "<", "<=", ">", ">="), Number, Number, (op, a, b) => $"{a} {op} {b}"),
        Gen.Select(Number, Gen.Int[-2, 4], (a, digits) => $"ROUND({a}; {digits}) > 100"),
        One("returned_on", "order", "place", "record.place", "record.note", "item.price / (item.weight - item.weight)")
            .Select(field => $"ISBLANK({field})"),
        One("item.certificate = item.active", "record.starts_at > record.starts_at", "NOT(item.certificate)")
    );

    private static readonly Gen<string> Condition = Gen.Recursive<string>(
        (depth, self) =>
            depth > 2
                ? Test
                : Gen.OneOf(
                    Test,
                    Gen.Select(self, self, (a, b) => $"AND({a}; {b})"),
                    Gen.Select(self, self, (a, b) => $"OR({a}; {b})"),
                    self.Select(a => $"NOT({a})"),
                    Gen.Select(self, self, self, (a, b, c) => $"IF({a}; {b}; {c})")
                )
    );

    [Fact(DisplayName = "A condition offers the same records in the database as in memory, whatever it says (property-based, CsCheck)")]
    public async Task Memory_and_database_agree()
    {
        var (assets, visits) = (site.Type("asset"), site.Type("visit"));
        var candidates = await AllAsync(assets);
        var atHand = (await AllAsync(visits)).Take(40).ToList();
        var reached = new Dictionary<(string, long), Value[]>();
        foreach (var type in new[] { "item", "sales_order", "partner", "project" })
        foreach (var state in await AllAsync(site.Type(type)))
            reached[(type, state.Id!.Value)] = state.Header;
        var told = 0;
        bool Fits(Formula condition, RecordState candidate, RecordState record) =>
            condition.Evaluate(
                candidate.FrameAt(null) with
                {
                    AtHand = record.FrameAt(null),
                    FindRelated = (part, id) => reached.GetValueOrDefault((part.RecordType.Code, id)),
                }
            )
                is { DataType: DataType.YesNo, Yes: true };
        Gen.Select(Condition, Gen.Int[0, atHand.Count - 1])
            .Sample(
                (text, at) =>
                {
                    var catalogue = site.Catalogues.Build(new SiteDefinition().With(Link("lent", "asset", text)));
                    Assert.True(
                        catalogue.Problems.Count == 0,
                        $"{text}: {string.Join(" ", catalogue.Problems.Select(problem => problem.Sentence))}"
                    );
                    var lent = catalogue.Find("visit")!.Header.Find("lent")!;
                    var record = new RecordState(lent.Part.RecordType);
                    atHand[at].Header.CopyTo(record.Header, 0);
                    var offer = Offer.To(Site.Administrator, lent, record, null);
                    var memory = offer.Missing is not null
                        ? []
                        : candidates
                            .Where(candidate => Fits(lent.Narrowing!.Condition, candidate, record))
                            .Select(candidate => candidate.Id!.Value)
                            .ToHashSet();
                    RecordLists.TryOrder(lent.Target!, null, Site.Administrator, out var keys);
                    var database = site
                        .Lists.ReadAsync(new(lent.Target!, keys, 500) { Offer = offer }, Site.Administrator)
                        .Result.Rows.Select(row => row.Id)
                        .ToHashSet();
                    Assert.True(
                        memory.SetEquals(database),
                        $"{text} for {atHand[at].Title}: {memory.Count} in memory, {database.Count} in the database."
                    );
                    told += memory.Count is > 0 and < 150 ? 1 : 0;
                },
                iter: 300,
                threads: 1
            );

        // Conditions that offer all or nothing would prove little.
        Assert.True(told > 60, $"Only {told} conditions told records apart.");
    }

    private async Task<List<RecordState>> AllAsync(RecordType type)
    {
        RecordLists.TryOrder(type, null, Site.Administrator, out var keys);
        var (states, after) = (new List<RecordState>(), (string?)null);
        do
        {
            var page = await site.Lists.ReadAsync(new(type, keys, 500, after), Site.Administrator);
            foreach (var row in page.Rows)
            {
                var state = new RecordState(type) { Id = row.Id };
                row.Cells.Select(cell => cell.Value).ToArray().CopyTo(state.Header, 0);
                states.Add(state);
            }

            after = page.Next;
        } while (after is not null);
        return states;
    }

    [Fact(
        DisplayName = "A link offers what goes with the record, to people and to programs; "
            + "what does not is refused by name, and so is a change under which it does not any more"
    )]
    public async Task Offered_and_held_to()
    {
        await GoLiveAsync(Link("hoist", "asset", OnLoanHere));
        var (here, other) = (
            await IdAsync("SELECT customer FROM erp.asset WHERE returned_on IS NULL ORDER BY id LIMIT 1"),
            await IdAsync("SELECT customer FROM erp.asset WHERE returned_on IS NULL ORDER BY id DESC LIMIT 1")
        );
        Assert.NotEqual(here, other);
        var visit = new RecordState(site.Type("visit"));
        var link = visit.Type.Header.Find("hoist")!;
        Assert.Equal("Customer", Offer.To(Site.Desk, link, visit, null).Missing!.Label);
        Assert.Empty(await site.Lists.PickAsync(link.Target!, "", Site.Desk, offer: Offer.To(Site.Desk, link, visit, null)));
        visit.Header[visit.Type.Header.Find("customer")!.Slot] = Value.LinkTo(here);
        var offered = await site.Lists.PickAsync(link.Target!, "", Site.Desk, 100, Offer.To(Site.Desk, link, visit, null));
        Assert.Equal(
            await site.ScalarAsync($"SELECT count(*) FROM erp.asset WHERE customer = {here} AND returned_on IS NULL"),
            (long)offered.Count
        );
        Assert.Equal(offered.Count, await site.Lists.CountAsync(Offer.To(Site.Desk, link, visit, null), Site.Desk));
        Assert.Equal(
            offered[0].Id,
            (await site.Lists.PickAsync(link.Target!, offered[0].Identifier, Site.Desk, offer: Offer.To(Site.Desk, link, visit, null)))
                .Single()
                .Id
        );

        Assert.Equal(
            SaveResult.Saved,
            (await SaveAsync(5, ("customer", Value.LinkTo(here)), ("hoist", Value.LinkTo(offered[0].Id)))).Result
        );
        var changed = await SaveAsync(5, ("customer", Value.LinkTo(other)));
        Assert.Equal(
            $"{offered[0].Identifier} does not go with Customer as filled in here. Choose another, or change that.",
            changed.Outcome.Messages.Single().Sentence
        );
        Assert.Equal("header.hoist", changed.Outcome.Messages.Single().At.ToString());
        var tried = await site.Store.TryAsync(site.Type("visit"), 5, site.Changes("visit", ("customer", Value.LinkTo(other))), Site.Desk);
        Assert.Equal("header.hoist", tried!.Messages.Single().At.ToString());
        var strange = await IdAsync($"SELECT id FROM erp.asset WHERE customer <> {here} LIMIT 1");
        Assert.Single((await SaveAsync(5, ("hoist", Value.LinkTo(strange)))).Outcome.Messages);

        // What was chosen when it did fit stays as long as nobody touches it.
        await site.ScalarAsync($"UPDATE erp.asset SET returned_on = '2026-11-20' WHERE id = {offered[0].Id}");
        Assert.Equal(SaveResult.Saved, (await SaveAsync(5, ("subject", Value.From("Still the same hoist")))).Result);
        Assert.Single((await SaveAsync(6, ("customer", Value.LinkTo(here)), ("hoist", Value.LinkTo(offered[0].Id)))).Outcome.Messages);
    }

    [Fact(DisplayName = "What one chose lately comes first, with and without typing, and only where it is offered")]
    public async Task Recent_first()
    {
        var type = site.Type("partner");
        var last = (await site.Lists.PickAsync(type, "", Site.Desk, 500))[^1];
        Assert.False(last.IsRecent);
        await site.Saver.SaveAsync(
            site.Type("sales_order"),
            30,
            site.Changes("sales_order", ("customer", Value.LinkTo(last.Id))),
            Site.Desk
        );
        Assert.Equal(
            (last.Id, true),
            (await site.Lists.PickAsync(type, "", Site.Desk)) is [var first, ..] ? (first.Id, first.IsRecent) : default
        );
        Assert.Equal(last.Id, (await site.Lists.PickAsync(type, last.Name[..2], Site.Desk))[0].Id);
        Assert.NotEqual(last.Id, (await site.Lists.PickAsync(type, "", Site.Administrator))[0].Id);
        Assert.NotEqual(last.Id, (await site.Lists.PickAsync(type, "P-0001", Site.Desk))[0].Id);
    }

    [Theory(DisplayName = "What makes no sense in a condition is said at its place, with the nearest name")]
    [InlineData("custmer = record.customer", "At character 1: There is no field “custmer” here. Did you mean customer?")]
    [InlineData("customer = record.custmer", "At character 19: There is no field “custmer” here. Did you mean customer?")]
    [InlineData("customer = record.customer.name", "At character 1: A link cannot be compared with a text.")]
    [InlineData("serial.name = \"x\"", "At character 8: Serial number is not a link, so nothing can be read through it.")]
    [InlineData("customer", "A condition gives yes or no, such as number = record.number.")]
    [InlineData("number = record.asset.number", "It cannot depend on what is chosen in this very field.")]
    public void Problems_are_placed(string offers, string sentence)
    {
        var catalogue = site.Catalogues.Build(new SiteDefinition().With(Link("asset", "asset", offers)));
        Assert.Equal(("offers", sentence), catalogue.Problems.Select(problem => (problem.Property, problem.Sentence)).Single());
    }
}
