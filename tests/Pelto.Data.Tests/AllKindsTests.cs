using CsCheck;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>Every kind, through the real database: kept, read, sorted and found.</summary>
public sealed class AllKindsTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private static readonly Choice[] Colours = [new("red", "Red"), new("blue", "Blue"), new("green", "Green")];

    private static readonly (FieldDefinition Field, string[] Values)[] Kinds =
    [
        (Site.Field("k_text", "text"), ["Alpha", "beta", "Øre"]),
        (Site.Field("k_long", "long_text"), ["one\ntwo", "three", "x"]),
        (Site.Field("k_formatted", "formatted_text"), ["<p>One <b>bold</b></p>", "<ul><li>two</li></ul>", "<p>x</p>"]),
        (Site.Field("k_integer", "integer"), ["1", "-20", "300"]),
        (Site.Field("k_decimal", "decimal"), ["1.5", "-2.25", "100"]),
        (Site.Field("k_money", "money") with { Currencies = ["EUR", "NOK", "JPY"] }, ["10.50 EUR", "9 NOK", "1200 JPY"]),
        (Site.Field("k_percent", "percent"), ["12.5 %", "0.1 %", "-3 %"]),
        (Site.Field("k_quantity", "quantity") with { Units = ["KGM", "TNE", "LBR"] }, ["900 kg", "1 t", "2000 lb"]),
        (Site.Field("k_date", "date"), ["2026-11-25", "1999-12-31", "2030-01-01"]),
        (Site.Field("k_time", "time"), ["14:30", "00:00:01", "23:59"]),
        (Site.Field("k_moment", "date_time"), ["2026-11-25 14:30", "2026-03-29 00:59:59", "2030-01-01 00:00"]),
        (Site.Field("k_duration", "duration"), ["1 h 20 min", "-45 s", "PT36H"]),
        (Site.Field("k_yes", "yes_no"), ["yes", "no", "yes"]),
        (Site.Field("k_choice", "choice") with { Choices = Colours }, ["green", "red", "blue"]),
        (Site.Field("k_choices", "choices") with { Choices = Colours }, ["red;green", "blue", "green"]),
        (Site.Field("k_web", "web_address"), ["https://example.org/a", "example.com", "http://example.net"]),
        (Site.Field("k_email", "email"), ["a@example.org", "b.c@example.com", "d@example.net"]),
        (Site.Field("k_phone", "phone"), ["041 2345678", "+47 22 12 34 56", "+358 9 4245 1234"]),
        (
            Site.Field("k_iban", "identifier") with
            {
                Scheme = "iban",
            },
            ["FI21 1234 5600 0007 85", "NO93 8601 1117 947", "DE89370400440532013000"]
        ),
        (Site.Field("k_secret", "secret"), ["sesame", "open", "x"]),
    ];

    [Fact(
        DisplayName = "Each kind keeps what is entered, in real columns, and lists find it, sort by it and tell the empty from the filled"
    )]
    public async Task Kinds_are_kept_and_found()
    {
        await site.Drafts.ChangeAsync(draft => Kinds.Aggregate(draft, (all, kind) => all.With(kind.Field)), "Test", Site.Administrator);
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        var type = site.Type("sales_order");
        var first = await NewOrderAsync(type);
        for (var i = 1; i < 3; i++)
            Assert.Equal(first + i, await NewOrderAsync(type));
        for (var i = 0; i < 3; i++)
        {
            var changes = new RecordChanges();
            foreach (var (definition, values) in Kinds)
                changes.Header[type.Header.Find(definition.Code)!] = type.Header.Find(definition.Code)!.Kind.Parse(values[i]);
            var saving = await site.Saver.SaveAsync(type, first + i, changes, Site.Desk);
            Assert.True(
                saving.Result == SaveResult.Saved,
                string.Join(" ", saving.Outcome.Messages.Select(message => $"{message.At}: {message.Sentence}"))
            );
        }

        var stored = new[] { first, first + 1, first + 2 }.Select(id => site.Store.FindAsync(type, id, Site.Desk).Result!).ToList();
        foreach (var (definition, values) in Kinds)
        {
            var field = type.Header.Find(definition.Code)!;
            var states = stored.ConvertAll(state => state.Header[field.Slot]);
            if (field.Kind is not SecretKind)
                Assert.Equal(values.Select(text => field.Kind.Parse(text).Value), states);
            Assert.Equal([first, first + 1, first + 2], (await FindAsync(type, $"{field.Code}~filled")).Order());
            Assert.DoesNotContain(await FindAsync(type, $"{field.Code}~empty"), id => id >= first && id < first + 3);
            if (field.Kind.IsCompared && field.Kind is not SeveralChoicesKind && field.Kind is not YesNoKind)
            {
                Assert.Equal([first + 1], await FindAsync(type, new Filter(field, FilterTest.Is, states[1]).Write()));
                Assert.DoesNotContain(first + 1, await FindAsync(type, new Filter(field, FilterTest.Not, states[1]).Write()));
            }

            if (!field.Kind.IsOrdered)
                continue;
            var sorted = await FindAsync(type, $"{field.Code}~filled", field.Code);
            var keys = sorted.Select(id => field.Kind.OrderKey(states[(int)(id - first)])).ToList();
            if (field.Kind.DataType != DataType.Text || field.Kind is ChoiceKind)
                Assert.Equal(keys.Order(), keys);
            Assert.Equal(
                sorted.Reverse(),
                await FindAsync(type, $"{field.Code}~filled", "-" + field.Code, take: field.Kind is YesNoKind ? 3 : 1),
                Comparer(field)
            );
        }

        Assert.Equal(
            [first, first + 2],
            (await FindAsync(type, "k_quantity~between~0.8 t~1 000 kg")).Where(id => id != first + 1).Concat([first + 2]).Distinct().Order()
        );
        Assert.Equal([first], await FindAsync(type, "k_money~between~1 EUR~20 EUR"));
        Assert.Equal([first, first + 1], await FindAsync(type, "k_text~contains~A", "k_text"));
        Assert.Equal([first, first + 2], (await FindAsync(type, "k_choices~contains~green")).Order());
        Assert.Equal([first], await FindAsync(type, "k_formatted~contains~bold"));
        Assert.Equal([first + 1], await FindAsync(type, "k_date~to~2000-01-01"));
        Assert.DoesNotContain(
            "sesame",
            (string)(await site.ScalarAsync($"SELECT k_secret FROM added.sales_order WHERE id = {first}"))!,
            StringComparison.Ordinal
        );
        Assert.Equal("sesame", await site.Secrets.RevealAsync(type, first, type.Header.Find("k_secret")!, null, Site.Desk));
        Assert.Equal(
            ["Eero Lahdenmaa"],
            (
                await site.Audit.FindAsync(new(Kind: Core.Auditing.AuditKinds.Showing, Record: first) { Subjects = ["f-k_secret"] }, 10)
            ).Select(entry => entry.By)
        );

        // Deleted and brought back, a record has all of it again, the secret included.
        var deletion = await site.Deleter.DeleteAsync(site.Catalogues.Live, type, first, Site.Desk);
        Assert.Equal(first, await site.Deleter.RestoreAsync(site.Catalogues.Live, type, deletion.Undo!.Value, Site.Desk));
        var again = (await site.Store.FindAsync(type, first, Site.Desk))!;
        Assert.Equal(stored[0].Header, again.Header);
        Assert.Equal("sesame", await site.Secrets.RevealAsync(type, first, type.Header.Find("k_secret")!, null, Site.Desk));
    }

    [Fact(DisplayName = "A file belongs to who brought it until a record has it; a picture is told by its content")]
    public async Task Files_are_kept()
    {
        await site.PublishAsync(Site.Field("plan", "file", type: "item"));
        await site.PublishAsync(Site.Field("photo", "image", type: "item"));
        var files = site.Services.GetRequiredService<Files>();
        var type = site.Type("item");
        var plan = await files.PutAsync("plan.txt", "hello"u8.ToArray(), Site.Administrator);
        var wrong = await site.Saver.SaveAsync(
            type,
            1,
            site.Changes("item", ("photo", Value.FileOf(plan.Id, plan.Name)), ("plan", Value.FileOf(Guid.NewGuid(), "other.txt"))),
            Site.Administrator
        );
        Assert.Equal(["header.photo", "header.plan"], wrong.Outcome.Messages.Select(message => message.At.ToString()).Order());
        Assert.Equal(
            SaveResult.Saved,
            (
                await site.Saver.SaveAsync(
                    type,
                    1,
                    site.Changes("item", ("plan", Value.FileOf(plan.Id, "renamed by the browser"))),
                    Site.Administrator
                )
            ).Result
        );
        var found = await files.FindAsync(type, 1, type.Header.Find("plan")!, null, Site.Desk);
        Assert.Equal(("plan.txt", "hello"), (found!.Name, System.Text.Encoding.UTF8.GetString(found.Content)));
        Assert.Null(await files.FindOwnAsync(plan.Id, Site.Desk));
        Assert.Equal(
            SaveResult.Refused,
            (
                await site.Saver.SaveAsync(
                    type,
                    2,
                    site.Changes("item", ("plan", Value.FileOf(plan.Id, plan.Name))),
                    new(Guid.NewGuid(), "Somebody else", ["administrator"])
                )
            ).Result
        );
        Assert.Equal("image/png", FileRules.PictureType([0x89, .. "PNG\r\n\x1a\n"u8, 0]));
        Assert.Null(FileRules.PictureType("<svg xmlns='http://www.w3.org/2000/svg' onload='alert(1)'/>"u8));
    }

    [Fact(DisplayName = "Unique values are told at their field, in the header, within the lines and under many hands at once")]
    public async Task Uniqueness_holds()
    {
        await site.PublishAsync(Site.Field("seal", "text", type: "partner") with { Unique = true });
        var type = site.Type("partner");
        var results = await Task.WhenAll(
            Enumerable
                .Range(1, 8)
                .Select(id => site.Saver.SaveAsync(type, id, site.Changes("partner", ("seal", Value.From("S-1"))), Site.Desk))
        );
        Assert.Single(results, result => result.Result == SaveResult.Saved);
        Assert.All(results.Where(result => result.Result != SaveResult.Saved), result =>
            Assert.Equal("Another partner has this seal already.", result.Outcome.Messages.Single().Sentence)
        );
        await site.PublishAsync(Site.Field("tag", "text", "lines") with { Unique = true });
        var order = site.Type("sales_order");
        var part = order.LineParts[0];
        var lines = (await site.Store.FindAsync(order, 20, Site.Desk))!.LinesOf(part);
        var changes = new RecordChanges();
        changes.Lines[part] =
        [
            .. lines.Select(line => new EnteredLine(
                line.Key,
                line.Id,
                new Dictionary<Field, Parsed> { [part.Find("tag")!] = Value.From("same") }
            )),
        ];
        if (lines.Count > 1)
            Assert.Equal(lines.Count, (await site.Saver.SaveAsync(order, 20, changes, Site.Desk)).Outcome.Messages.Count);
    }

    private async Task<long> NewOrderAsync(RecordType type) =>
        (await site.Saver.SaveAsync(type, null, site.Changes("sales_order", ("customer", Value.LinkTo(1))), Site.Desk))
            .Outcome
            .State
            .Id!
            .Value;

    private static IEqualityComparer<IEnumerable<long>> Comparer(Field field) =>
        EqualityComparer<IEnumerable<long>>.Create((one, other) => field.Kind is YesNoKind || one!.First() == other!.First());

    private async Task<IReadOnlyList<long>> FindAsync(RecordType type, string filter, string? order = null, int take = 500)
    {
        var (parsed, refusal) = Filter.Parse(type, filter);
        Assert.True(parsed is not null, refusal);
        Assert.Null(RecordLists.TryOrder(type, order, Site.Desk, out var keys));

        // A page at a time, so that cursors of every kind are used too; what is empty makes a long list.
        var rows =
            take != 500 ? take
            : filter.EndsWith("~filled", StringComparison.Ordinal) ? 2
            : 100;
        var (ids, after) = (new List<long>(), (string?)null);
        do
        {
            var page = await site.Lists.ReadAsync(new(type, keys, rows, after) { Filters = [parsed] }, Site.Desk);
            ids.AddRange(page.Rows.Select(row => row.Id));
            after = take == 500 ? page.Next : null;
        } while (after is not null);
        return ids;
    }
}
