using Npgsql;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>Documents that follow one another: copied with what is open, followed up, cancelled, and the stock that goes along.</summary>
public sealed class DocumentTests(Site site) : IClassFixture<Site>
{
    private RecordType Orders => site.Type("sales_order");

    private RecordType Deliveries => site.Type("delivery");

    private static Follow Between(RecordType next, string source) => next.Follows.Single(follow => follow.Source.Code == source);

    private async Task<RecordState> FindAsync(string type, long id) =>
        (await site.Store.FindAsync(site.Type(type), id, Site.Administrator))!;

    private static Value Get(RecordState state, string code) => state.Header[state.Type.Header.Find(code)!.Slot];

    private static Value Get(RecordState state, int line, string code) =>
        state.Lines[0][line].Values[state.Type.LineParts[0].Find(code)!.Slot];

    private async Task<RecordState> OrderAsync(params decimal[] quantities)
    {
        var changes = site.Changes("sales_order", ("customer", Value.LinkTo(1)), ("warehouse", Value.LinkTo(1)));
        changes.Lines[Orders.LineParts[0]] =
        [
            .. quantities.Select(
                (quantity, at) =>
                    site.Line(
                        $"n{at}",
                        null,
                        ("item", Value.LinkTo(at + 1)),
                        ("quantity", Value.From(quantity)),
                        ("price", Value.From(10m))
                    )
            ),
        ];
        return (await site.Saver.SaveAsync(Orders, null, changes, Site.Desk)).Outcome.State;
    }

    private async Task<Saving> FollowAsync(Follow follow, RecordState source, Action<RecordState>? change = null)
    {
        var next = NextDocument.Make(follow, await FindAsync(follow.Source.Code, source.Id!.Value), site.Store.Clock);
        change?.Invoke(next);
        return await site.Saver.SaveAsync(follow.Next, null, RecordChanges.Between(next), Site.Administrator);
    }

    private Task<Saving> CancelAsync(RecordState state) =>
        site.Saver.SaveAsync(state.Type, state.Id, site.Changes(state.Type.Code, ("status", Value.From("cancelled"))), Site.Administrator);

    private async Task<decimal> OnHandAsync(int item) =>
        (decimal)(await site.ScalarAsync($"SELECT coalesce(sum(on_hand), 0) FROM erp.item_stock WHERE parent = {item} AND warehouse = 1"))!;

    private static void Take(RecordState next, int line, decimal quantity) =>
        next.Lines[0][line].Values[next.Type.LineParts[0].Find("quantity")!.Slot] = Value.From(quantity);

    [Fact(
        DisplayName = "An order is delivered in parts: what is open is copied, what is delivered is followed up, "
            + "and with the last part the order closes; cancelling a part opens it again"
    )]
    public async Task Delivered_in_parts()
    {
        var order = await OrderAsync(8, 3);
        var before = await OnHandAsync(1);
        var follow = Between(Deliveries, "sales_order");
        var first = (await FollowAsync(follow, order, next =>
            {
                Take(next, 0, 5);
                next.Lines[0].RemoveAt(1);
            })).Outcome.State;
        order = await FindAsync("sales_order", order.Id!.Value);
        Assert.Equal(
            (Value.From(5m), Value.From(3m), Value.From("open")),
            (Get(order, 0, "delivered"), Get(order, 0, "open_quantity"), Get(order, "status"))
        );
        Assert.Equal(before - 5, await OnHandAsync(1));

        var second = (await FollowAsync(follow, order)).Outcome.State;
        Assert.Equal((2, Value.From(3m), Value.From(3m)), (second.Lines[0].Count, Get(second, 0, "quantity"), Get(second, 1, "quantity")));
        Assert.Equal(Value.From("closed"), Get(await FindAsync("sales_order", order.Id!.Value), "status"));
        Assert.Equal($"Nothing of {order.Title} is open.", NextDocument.Refuse(follow, await FindAsync("sales_order", order.Id.Value)));
        Assert.Equal(before - 8, await OnHandAsync(1));

        Assert.Equal(SaveResult.Saved, (await CancelAsync(first)).Result);
        order = await FindAsync("sales_order", order.Id.Value);
        Assert.Equal((Value.From(3m), Value.From("open")), (Get(order, 0, "delivered"), Get(order, "status")));
        Assert.Equal(before - 3, await OnHandAsync(1));
        Assert.Equal(0L, await site.ScalarAsync($"SELECT sum(quantity)::bigint FROM erp.stock_move WHERE document = '{first.Title}'"));
    }

    [Fact(
        DisplayName = "What whoever makes the next document may not see, of header and lines, "
            + "is copied all the same, and not shown to them; what they do see they may change"
    )]
    public async Task Unseen_is_copied()
    {
        FieldDefinition Along(string id, string part) =>
            Site.Field(id, "text", part) with
            {
                Id = "f-" + id,
                AlsoOn = [new("delivery", part)],
                CarriedAlong = true,
            };
        await site.Drafts.ChangeAsync(
            draft =>
                new[] { Along("inside", "header"), Along("outside", "header"), Along("packed", "lines") }
                    .Aggregate(draft, (now, field) => now.With(field))
                    .With(new Guard { On = "f-inside", Comment = "x" })
                    .With(new Guard { On = "f-packed", Comment = "x" }),
            "Test",
            Site.Administrator
        );
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var order = await OrderAsync(2);
        var said = site.Changes("sales_order", ("inside", Value.From("for us alone")), ("outside", Value.From("for all")));
        said.Lines[Orders.LineParts[0]] = [site.Line("l", order.Lines[0][0].Id, ("packed", Value.From("in the red box")))];
        Assert.Equal(SaveResult.Saved, (await site.Saver.SaveAsync(Orders, order.Id, said, Site.Administrator)).Result);

        var maker = await site.Services.GetRequiredService<People>().ViewerAsync("ville.mastola");
        var (begun, refusal) = await site.Store.FollowAsync(Between(Deliveries, "sales_order"), order.Id!.Value, maker!);
        Assert.Null(refusal);
        var changes = RecordChanges.Between(begun!);
        Assert.False(changes.Mentions(Deliveries.Header.Find("inside")!));
        changes.Header[Deliveries.Header.Find("outside")!] = Value.From("changed");
        var saved = await site.Saver.SaveAsync(Deliveries, null, changes, maker!);
        Assert.True(saved.Result == SaveResult.Saved, string.Join(' ', saved.Outcome.Messages.Select(message => message.Sentence)));
        Assert.True(Get(saved.Outcome.State, "inside").IsEmpty);
        var stored = await FindAsync("delivery", saved.Outcome.State.Id!.Value);
        Assert.Equal(
            (Value.From("for us alone"), Value.From("changed"), Value.From("in the red box")),
            (Get(stored, "inside"), Get(stored, "outside"), Get(stored, 0, "packed"))
        );
    }

    [Fact(DisplayName = "More than is open is refused at its line, and nothing is written")]
    public async Task Too_much_is_refused()
    {
        var order = await OrderAsync(4);
        var before = await OnHandAsync(1);
        var saving = await FollowAsync(Between(Deliveries, "sales_order"), order, next => Take(next, 0, 4.5m));
        Assert.Equal(SaveResult.Refused, saving.Result);
        Assert.Equal($"Only 4 of this are still open in {order.Title}.", saving.Outcome.Messages.Single().Sentence);
        Assert.Equal($"lines.{saving.Outcome.State.Lines[0][0].Key}.quantity", saving.Outcome.Messages.Single().At.ToString());
        Assert.Equal(before, await OnHandAsync(1));
        Assert.Empty(await site.Services.GetRequiredService<Chains>().ReadAsync(order, Site.Desk));
    }

    [Fact(
        DisplayName = "All that is wrong is told at once: what is missing, "
            + "and that more is taken than is open, each at its place; and nothing is written"
    )]
    public async Task All_at_once()
    {
        var order = await OrderAsync(10, 2);
        var before = await OnHandAsync(1);
        var saving = await FollowAsync(Between(Deliveries, "sales_order"), order, next =>
        {
            next.Header[Deliveries.Header.Find("warehouse")!.Slot] = Value.Empty;
            Take(next, 0, 999);
        });
        Assert.Equal(SaveResult.Refused, saving.Result);
        Assert.Equal(
            [
                "header.warehouse: Warehouse is required.",
                $"lines.{saving.Outcome.State.Lines[0][0].Key}.quantity: Only 10 of this are still open in {order.Title}.",
            ],
            saving.Outcome.Messages.Select(message => $"{message.At}: {message.Sentence}")
        );
        Assert.Equal([false, true], saving.Outcome.Messages.Select(message => message.IsOnlyBySaving));
        Assert.Equal(before, await OnHandAsync(1));

        // A change of one that is there: what it took already is not counted twice.
        var first = (await FollowAsync(Between(Deliveries, "sales_order"), order, next => Take(next, 0, 6))).Outcome.State;
        async Task<IEnumerable<string>> ChangeAsync(decimal quantity)
        {
            var changes = site.Changes("delivery", ("warehouse", Value.Empty));
            changes.Lines[Deliveries.LineParts[0]] =
            [
                .. first
                    .Lines[0]
                    .Select(
                        (line, at) =>
                            new EnteredLine(
                                $"{line.Id}",
                                line.Id,
                                new Dictionary<Field, Parsed>
                                {
                                    [Deliveries.LineParts[0].Find("quantity")!] =
                                        at == 0 ? Value.From(quantity) : Get(first, at, "quantity"),
                                }
                            )
                    ),
            ];
            return (await site.Saver.SaveAsync(Deliveries, first.Id, changes, Site.Administrator)).Outcome.Messages.Select(message =>
                message.Sentence
            );
        }

        Assert.Equal(["Warehouse is required."], await ChangeAsync(10));
        Assert.Equal(["Warehouse is required.", $"Only 10 of this are still open in {order.Title}."], await ChangeAsync(11));

        // And of the order, with lines that are new: nothing can follow those.
        var change = site.Changes("sales_order", ("order_date", Value.Empty));
        change.Lines[Orders.LineParts[0]] =
        [
            site.Line($"{order.Lines[0][0].Id}", order.Lines[0][0].Id, ("quantity", Value.From(5m))),
            site.Line("n0", null, ("item", Value.LinkTo(3)), ("quantity", Value.From(1m))),
        ];
        var messages = (await site.Saver.SaveAsync(Orders, order.Id, change, Site.Administrator)).Outcome.Messages;
        Assert.Equal(
            [
                "header.order_date: Order date is required.",
                $"lines.{order.Lines[0][0].Key}.quantity: Delivered is 6 already; Quantity cannot be less.",
            ],
            messages.Select(message => $"{message.At}: {message.Sentence}")
        );
    }

    [Fact(
        DisplayName = "Stock that goes below zero is told to whoever may read it, "
            + "or refused at its line where it may not; what lies there is told to nobody else"
    )]
    public async Task Not_below_zero_without_a_word()
    {
        var taken = Math.Max(await OnHandAsync(1), 0) + 5;
        var below = await OnHandAsync(1) - taken;
        var order = await OrderAsync(taken);
        var delivery = (await FollowAsync(Between(Deliveries, "sales_order"), order)).Outcome.State;
        Assert.Equal([(1L, below)], await site.Stock.BelowZeroAsync(await FindAsync("delivery", delivery.Id!.Value), Site.Administrator));
        Assert.Empty(
            await site.Stock.BelowZeroAsync(
                await FindAsync("delivery", delivery.Id.Value),
                Site.Administrator with
                {
                    Limits = new(["delivery"], Writes: true, SetsUp: false),
                }
            )
        );

        var source = site.Services.GetRequiredService<NpgsqlDataSource>();
        await using var connection = await source.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        var moves = Deliveries.StockMoves! with { MayGoBelow = false };
        var wanted = await FindAsync("delivery", delivery.Id.Value);
        var refused = await new StockPosting(transaction, moves).PostAsync(
            null,
            wanted,
            Site.Administrator,
            TestContext.Current.CancellationToken
        );
        Assert.Equal(
            (
                new FieldAddress(Deliveries.LineParts[0], wanted.Lines[0][0].Key, moves.Quantity),
                "Nothing of this is there, and stock may not go below zero."
            ),
            (refused.Single().At, refused.Single().Sentence)
        );
        await using (
            var plenty = new NpgsqlCommand(
                "UPDATE erp.item_stock SET on_hand = 1000000 WHERE parent = 1 AND warehouse = 1",
                connection,
                transaction
            )
        )
            await plenty.ExecuteNonQueryAsync();
        Assert.Empty(
            await new StockPosting(transaction, moves).PostAsync(null, wanted, Site.Administrator, TestContext.Current.CancellationToken)
        );
        await transaction.RollbackAsync();
        await CancelAsync(delivery);
    }

    [Fact(DisplayName = "An order line cannot ask for less than is delivered already")]
    public async Task Not_less_than_delivered()
    {
        var order = await OrderAsync(8);
        await FollowAsync(Between(Deliveries, "sales_order"), order, next => Take(next, 0, 5));
        async Task<Saving> AskAsync(decimal quantity)
        {
            var changes = new RecordChanges();
            changes.Lines[Orders.LineParts[0]] =
            [
                site.Line($"{order.Lines[0][0].Id}", order.Lines[0][0].Id, ("quantity", Value.From(quantity))),
            ];
            return await site.Saver.SaveAsync(Orders, order.Id, changes, Site.Desk);
        }

        var refused = (await AskAsync(4)).Outcome.Messages.Single();
        Assert.Equal(
            ($"lines.{order.Lines[0][0].Key}.quantity", "Delivered is 5 already; Quantity cannot be less."),
            (refused.At.ToString(), refused.Sentence)
        );
        Assert.Equal(SaveResult.Saved, (await AskAsync(6)).Result);
    }

    [Fact(DisplayName = "Ten people who deliver the same order at once never deliver more than was ordered")]
    public async Task Delivered_at_once()
    {
        var order = await OrderAsync(6);
        var follow = Between(Deliveries, "sales_order");
        var next = Enumerable.Range(0, 10).Select(_ => NextDocument.Make(follow, order, site.Store.Clock)).ToList();
        foreach (var one in next)
            Take(one, 0, 1);
        var savings = await Task.WhenAll(next.Select(one => site.Saver.SaveAsync(Deliveries, null, RecordChanges.Between(one), Site.Desk)));
        Assert.Equal(6, savings.Count(saving => saving.Result == SaveResult.Saved));
        Assert.All(savings.Where(saving => saving.Result == SaveResult.Refused), saving =>
            Assert.Equal($"Nothing of this is open in {order.Title} any longer.", saving.Outcome.Messages.Single().Sentence)
        );
        Assert.Equal(Value.From(6m), Get(await FindAsync("sales_order", order.Id!.Value), 0, "delivered"));
    }

    [Fact(
        DisplayName = "A delivery that is closed can only be cancelled, and not while an invoice follows it; the chain shows all of them"
    )]
    public async Task Closed_documents_are_locked()
    {
        var order = await OrderAsync(2);
        var delivery = (await FollowAsync(Between(Deliveries, "sales_order"), order)).Outcome.State;
        var invoice = (await FollowAsync(Between(site.Type("sales_invoice"), "delivery"), delivery)).Outcome.State;
        Assert.Equal(Value.From(25.1m), Get(invoice, "gross_total"));
        delivery = await FindAsync("delivery", delivery.Id!.Value);
        Assert.Equal(Value.From("closed"), Get(delivery, "status"));
        Assert.Equal(
            [order.Title, delivery.Title, invoice.Title],
            (await site.Services.GetRequiredService<Chains>().ReadAsync(delivery, Site.Desk)).Select(step => step.Number)
        );

        var changed = await site.Saver.SaveAsync(
            Deliveries,
            delivery.Id,
            site.Changes("delivery", ("shipping_note", Value.From("too late"))),
            Site.Administrator
        );
        Assert.Equal($"{delivery.Title} is closed: it can only be cancelled.", changed.Outcome.Messages.Single().Sentence);
        Assert.Equal(
            $"{delivery.Title} stays: once closed, it can only be cancelled.",
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, Deliveries, delivery.Id!.Value, Site.Administrator)).Refusal
        );
        Assert.Equal(
            $"{delivery.Title} cannot be cancelled: {invoice.Title} follows it. Cancel that first.",
            (await CancelAsync(delivery)).Outcome.Messages.Single().Sentence
        );
        Assert.Equal(SaveResult.Saved, (await CancelAsync(invoice)).Result);
        Assert.Equal(SaveResult.Saved, (await CancelAsync(delivery)).Result);
        var again = await site.Saver.SaveAsync(
            Deliveries,
            delivery.Id,
            site.Changes("delivery", ("status", Value.From("open"))),
            Site.Administrator
        );
        Assert.Equal($"{delivery.Title} is cancelled: it stays as it is.", again.Outcome.Messages.Single().Sentence);
    }

    [Fact(DisplayName = "A payment follows up an invoice without lines, and deleting it, and undoing that, follow it up again")]
    public async Task Payments_follow_invoices()
    {
        var order = await OrderAsync(2);
        var invoice = (
            await FollowAsync(
                Between(site.Type("sales_invoice"), "delivery"),
                (await FollowAsync(Between(Deliveries, "sales_order"), order)).Outcome.State
            )
        )
            .Outcome
            .State;
        var payment = (await FollowAsync(Between(site.Type("payment"), "sales_invoice"), invoice)).Outcome.State;
        Assert.Equal((Value.From(25.1m), Value.LinkTo(1)), (Get(payment, "amount"), Get(payment, "partner")));
        Assert.Equal(
            (Value.From("closed"), Value.From(0m)),
            (
                Get(await FindAsync("sales_invoice", invoice.Id!.Value), "status"),
                Get(await FindAsync("sales_invoice", invoice.Id.Value), "unpaid")
            )
        );
        var deletion = await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("payment"), payment.Id!.Value, Site.Desk);
        Assert.Equal(Value.From("open"), Get(await FindAsync("sales_invoice", invoice.Id.Value), "status"));
        Assert.Equal(
            payment.Id,
            await site.Deleter.RestoreAsync(site.Catalogues.Live, site.Type("payment"), deletion.Undo!.Value, Site.Desk)
        );
        Assert.Equal(Value.From("closed"), Get(await FindAsync("sales_invoice", invoice.Id.Value), "status"));
    }

    [Fact(
        DisplayName = "A line cannot follow a line of another order, "
            + "nor go while something follows it, nor be typed where the ERP keeps it up"
    )]
    public async Task Lines_keep_to_their_documents()
    {
        var (one, other) = (await OrderAsync(2), await OrderAsync(2));
        var follow = Between(Deliveries, "sales_order");
        var stray = await FollowAsync(follow, one, next =>
            next.Lines[0][0].Values[follow.Lines!.Reference.Slot] = Value.From((decimal)other.Lines[0][0].Id!.Value)
        );
        Assert.Equal($"This line follows no line of {one.Title}.", stray.Outcome.Messages.Single().Sentence);
        await FollowAsync(follow, one);
        var changes = new RecordChanges();
        changes.Lines[Orders.LineParts[0]] = [];
        Assert.Equal(
            "Deliveries follow a line that was removed (Order line): it stays.",
            (await site.Saver.SaveAsync(Orders, one.Id, changes, Site.Desk)).Outcome.Messages.Single().Sentence
        );
        var typed = new RecordChanges();
        typed.Lines[Orders.LineParts[0]] = [site.Line($"{other.Lines[0][0].Id}", other.Lines[0][0].Id, ("delivered", Value.From(99m)))];
        Assert.Equal(
            "Delivered is maintained by the ERP and cannot be typed.",
            (await site.Saver.SaveAsync(Orders, other.Id, typed, Site.Administrator)).Outcome.Messages.Single().Sentence
        );
    }

    [Fact(
        DisplayName = "What the sample company has delivered, invoiced, paid, received and on hand is what its documents and moves add up to"
    )]
    public async Task Sample_data_adds_up()
    {
        foreach (
            var (table, sum, lines, header, reference) in new[]
            {
                ("sales_order_lines", "delivered", "delivery_lines", "delivery", "order_line"),
                ("delivery_lines", "invoiced", "sales_invoice_lines", "sales_invoice", "delivery_line"),
                ("quotation_lines", "ordered", "sales_order_lines", "sales_order", "quotation_line"),
                ("purchase_order_lines", "received", "goods_receipt_lines", "goods_receipt", "order_line"),
                ("goods_receipt_lines", "returned", "goods_return_lines", "goods_return", "receipt_line"),
                ("goods_receipt_lines", "invoiced", "purchase_invoice_lines", "purchase_invoice", "receipt_line"),
            }
        )
        {
            Assert.Equal(
                0L,
                await site.ScalarAsync(
                    $"SELECT count(*) FROM erp.{table} s WHERE s.{sum} IS DISTINCT FROM (SELECT nullif(sum(l.quantity), 0) "
                        + $"FROM erp.{lines} l JOIN erp.{header} h ON h.id = l.parent WHERE l.{reference} = s.id AND h.status <> 'cancelled')"
                )
            );
            Assert.Equal(0L, await site.ScalarAsync($"SELECT count(*) FROM erp.{table} WHERE {sum} > quantity"));
        }

        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_invoice i WHERE paid IS DISTINCT FROM (SELECT sum(amount) FROM erp.payment "
                    + "WHERE sales_invoice = i.id) OR ((status = 'closed') <> (unpaid = 0) AND status <> 'cancelled')"
            )
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.item_stock s WHERE (on_hand < 0 "
                    + "AND parent > 2) OR on_hand <> (SELECT sum(quantity) FROM erp.stock_move "
                    + "WHERE item = s.parent AND warehouse = s.warehouse)"
            )
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.lot l WHERE on_hand < 0 OR on_hand <> (SELECT sum(quantity) FROM erp.stock_move WHERE lot = l.id)"
            )
        );

        // Other tests move goods today.
        Assert.Equal(
            "2024-12 2026-11",
            await site.ScalarAsync(
                "SELECT concat_ws(' ', to_char(min(moved_on), 'YYYY-MM'), to_char(max(moved_on), "
                    + "'YYYY-MM')) FROM erp.stock_move WHERE moved_on < current_date"
            )
        );
    }

    [Fact(
        DisplayName = "Added fields are carried along the whole chain when their definition says so, "
            + "of the header and of lines, and can be changed on the way; otherwise they stay"
    )]
    public async Task Added_fields_are_carried_along()
    {
        static FieldDefinition Both(string code, string part, bool along) =>
            Site.Field(code, "text", part) with
            {
                CarriedAlong = along,
                AlsoOn = [new("delivery", part, false), new("sales_invoice", part, false)],
            };
        foreach (var field in new[] { Both("wishes", "header", true), Both("gate", "header", false), Both("mark", "lines", true) })
        {
            var publishing = await site.PublishAsync(field);
            Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        }

        var order = await OrderAsync(2);
        var changes = site.Changes("sales_order", ("wishes", Value.From("3.1, two copies")), ("gate", Value.From("north")));
        changes.Lines[Orders.LineParts[0]] = [site.Line(order.Lines[0][0].Key, order.Lines[0][0].Id, ("mark", Value.From("blue")))];
        Assert.Equal(SaveResult.Saved, (await site.Saver.SaveAsync(Orders, order.Id, changes, Site.Desk)).Result);
        var delivery = (await FollowAsync(Between(Deliveries, "sales_order"), order)).Outcome.State;
        Assert.Equal(
            ("3.1, two copies", "(empty)", "blue"),
            (Get(delivery, "wishes").ToString(), Get(delivery, "gate").ToString(), Get(delivery, 0, "mark").ToString())
        );
        await site.Saver.SaveAsync(Deliveries, delivery.Id, site.Changes("delivery", ("wishes", Value.From("3.2"))), Site.Administrator);
        var invoice = (await FollowAsync(Between(site.Type("sales_invoice"), "delivery"), delivery)).Outcome.State;
        Assert.Equal(("3.2", "blue"), (Get(invoice, "wishes").ToString(), Get(invoice, 0, "mark").ToString()));

        var alone = site.Catalogues.Build(new SiteDefinition { Fields = [Site.Field("alone", "text") with { CarriedAlong = true }] });
        Assert.Contains(alone.Problems, problem => problem.Property == "carriedAlong");
    }

    [Fact(
        DisplayName = "A document that follows leaves what is stored by formulas in the one "
            + "before as it is, also what they read through links"
    )]
    public async Task Kept_values_survive_what_follows()
    {
        var publishing = await site.PublishAsync(
            Site.Field("room", "decimal") with
            {
                Digits = 14,
                Decimals = 2,
                Formula = "customer.credit_limit - gross_total + SUM(lines.quantity * lines.item.weight) * 0",
            }
        );
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var order = await OrderAsync(2, 1);
        var stored = $"SELECT room FROM added.sales_order WHERE id = {order.Id}";
        var before = await site.ScalarAsync(stored);
        Assert.IsType<decimal>(before);
        Assert.Equal(SaveResult.Saved, (await FollowAsync(Between(Deliveries, "sales_order"), order)).Result);
        Assert.Equal(before, await site.ScalarAsync(stored));
    }
}
