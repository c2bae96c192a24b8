using Pelto.Core.Records;
using Pelto.Data.Jobs;

namespace Pelto.Data.Tests;

/// <summary>
/// Values that were carried over: kept with where they came from, through saves, refills, deletions, and from document to document.
/// </summary>
public sealed class CarriedFieldTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private RecordType Orders => site.Type("sales_order");

    private async Task GoLiveAsync(FieldDefinition field)
    {
        var publishing = await site.PublishAsync(field);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private async Task<RecordState> SaveAsync(long? id, params (string Code, Value Value)[] entered)
    {
        var saving = await site.Saver.SaveAsync(Orders, id, site.Changes("sales_order", entered), Site.Desk);
        Assert.True(saving.Result == SaveResult.Saved, string.Join(" ", saving.Outcome.Messages.Select(message => message.Sentence)));
        return (await site.Store.FindAsync(Orders, saving.Outcome.State.Id!.Value, Site.Desk))!;
    }

    private static FieldDefinition Text(string code, string formula, FillMode mode) =>
        Site.Field(code, "text", "header", "sales_order") with
        {
            Length = 60,
            Formula = formula,
            Fills = mode,
        };

    [Fact(
        DisplayName = "A new order takes the customer's terms and the item's name, "
            + "unit and price from the host's own rules; what is sent goes before"
    )]
    public async Task Host_rules()
    {
        var changes = site.Changes("sales_order", ("customer", Value.LinkTo(3)));
        changes.Lines[Orders.LineParts[0]] =
        [
            site.Line("a", null, ("item", Value.LinkTo(5)), ("quantity", Value.From(2m))),
            site.Line("b", null, ("item", Value.LinkTo(5)), ("quantity", Value.From(1m)), ("price", Value.From(7m))),
        ];
        var saved = (await site.Saver.SaveAsync(Orders, null, changes, Site.Desk)).Outcome.State;
        Assert.Equal(
            $"{await site.ScalarAsync("SELECT payment_terms || currency FROM erp.partner WHERE id = 3")}",
            saved.Header[Orders.Header.Find("payment_terms")!.Slot].Text + saved.Header[Orders.Header.Find("currency")!.Slot].Text
        );
        Assert.Equal(
            $"{await site.ScalarAsync("SELECT name || unit || price || ' 7' FROM erp.item WHERE id = 5")}",
            $"{await site.ScalarAsync($"SELECT string_agg(description || unit || price, '' ORDER BY position) FILTER (WHERE position = 0) || ' ' || max(price) FILTER (WHERE position = 1) FROM erp.sales_order_lines WHERE parent = {saved.Id}")}"
        );
    }

    [Fact(
        DisplayName = "What was typed over stays through a refill and comes back with a deleted record; the rest is filled for all records"
    )]
    public async Task Typed_over_stays()
    {
        var jobs = site.Services.GetRequiredService<JobRunner>();
        await GoLiveAsync(Text("to_whom", "customer.name", FillMode.Untouched));
        var field = Orders.Header.Find("to_whom")!;
        await jobs.RunOpenAsync();
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer LEFT "
                    + "JOIN added.sales_order a ON a.id = o.id WHERE a.to_whom IS DISTINCT FROM p.name"
            )
        );

        var typed = await SaveAsync(40, ("to_whom", Value.From("The yard")));
        Assert.Equal(("The yard", Site.Desk.Name), (typed.Header[field.Slot].Text, typed.Origins[field].By));
        await site.ScalarAsync("UPDATE erp.partner SET name = name || ' Oy'");
        Assert.Equal(
            (long)(await site.ScalarAsync("SELECT count(*) FROM erp.sales_order"))! - 1,
            await site.Services.GetRequiredService<FormulaProofs>().CountStaleAsync(field, Site.Administrator, default)
        );
        await jobs.RefillAsync(field, Site.Administrator);
        await jobs.RunOpenAsync();
        Assert.Equal("The yard", await site.ScalarAsync("SELECT to_whom FROM added.sales_order WHERE id = 40"));
        Assert.Equal(
            1L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer LEFT "
                    + "JOIN added.sales_order a ON a.id = o.id WHERE a.to_whom IS DISTINCT FROM p.name"
            )
        );

        var fresh = await SaveAsync(null, ("customer", Value.LinkTo(3)), ("to_whom", Value.From("Gate 3")));
        var gone = await site.Deleter.DeleteAsync(site.Catalogues.Live, Orders, fresh.Id!.Value, Site.Desk);
        Assert.Equal(fresh.Id, await site.Deleter.RestoreAsync(site.Catalogues.Live, Orders, gone.Undo!.Value, Site.Desk));
        Assert.Equal(
            Site.Desk.Name,
            (await site.Store.FindAsync(Orders, fresh.Id.Value, Site.Desk))!.Origins[Orders.Header.Find("to_whom")!].By
        );
    }

    [Fact(DisplayName = "Through the programming interface's form: origins are told by JSON pointers, and fillAgain takes one back")]
    public async Task Told_to_programs()
    {
        await GoLiveAsync(Text("at_city", "customer.city", FillMode.Chosen));
        var typed = await SaveAsync(null, ("customer", Value.LinkTo(3)), ("at_city", Value.From("elsewhere")));
        Assert.Equal(Site.Desk.Name, RecordJson.WriteOrigins(typed, Site.Desk)!["/values/at_city"]!["typedBy"]!.GetValue<string>());
        using var sent = System.Text.Json.JsonDocument.Parse("""{"values": {}, "fillAgain": ["/values/at_city"]}""");
        var refusals = new List<(string Pointer, string Sentence)>();
        var saving = await site.Saver.SaveAsync(Orders, typed.Id, RecordJson.ReadChanges(sent.RootElement, Orders, refusals), Site.Desk);
        Assert.Empty(refusals);
        Assert.Equal(
            (string)(await site.ScalarAsync("SELECT city FROM erp.partner WHERE id = 3"))!,
            saving.Outcome.State.Header[Orders.Header.Find("at_city")!.Slot].Text
        );
        Assert.Equal(
            "partner/3",
            RecordJson.WriteOrigins(saving.Outcome.State, Site.Desk)!["/values/at_city"]!["from"]!.GetValue<string>()
        );
        using var wrong = System.Text.Json.JsonDocument.Parse("""{"fillAgain": ["/values/number", 7]}""");
        RecordJson.ReadChanges(wrong.RootElement, Orders, refusals);
        Assert.Equal(["/fillAgain/0", "/fillAgain/1"], refusals.Select(refusal => refusal.Pointer));
    }
}
