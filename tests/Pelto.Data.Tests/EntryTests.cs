using System.Net;
using Pelto.Core.Access;

namespace Pelto.Data.Tests;

/// <summary>What people outside send in: kept apart until somebody decides.</summary>
public sealed class EntryTests(NarrowSite site) : IClassFixture<NarrowSite>, IAsyncLifetime
{
    private const string Released = "country = \"FI\"";

    private Entries Entries => site.Services.GetRequiredService<Entries>();

    private RecordType Type => site.Type("claim");

    private Viewer Outside => Viewer.Outside(Type.PublicForm!, Locale.International);

    public async ValueTask InitializeAsync()
    {
        if (site.Catalogues.Live.Find("claim") is not null)
            return;
        var claim = new RecordTypeDefinition
        {
            Id = "t-claim",
            Code = "claim",
            Label = "Claim",
            Plural = "Claims",
            Numbering = new("C-", 3, 1, Gapless: true),
            Lines = [new("parts", "Part", "Parts")],
            Read = ["*"],
            Write = ["order_desk"],
            PublicForm = new()
            {
                Address = "claims-for-tests-1",
                Title = "Claims",
                Fields = [new("name"), new("of", Released), new("tag"), new("parts.description"), new("parts.item", "TRUE()")],
            },
        };
        FieldDefinition On(string code, string kind, string part = "header") =>
            Site.Field(code, kind, part, "claim") with
            {
                Id = "f-claim-" + code,
            };
        await site.Drafts.ChangeAsync(
            draft =>
                draft
                    .With(claim)
                    .With(On("of", "link") with { Target = "partner" })
                    .With(On("tag", "text") with { Unique = true })
                    .With(On("verdict", "text") with { Required = true })
                    .With(On("item", "link", "parts") with { Target = "item" }),
            "Test",
            Site.Administrator
        );
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private Task<Submission> SendAsync(RecordChanges changes, string from) =>
        Entries.SubmitAsync(
            Type.PublicForm!,
            changes,
            Outside,
            site.Catalogues.Live.Release,
            new(IPAddress.Parse(from), "a browser"),
            CancellationToken.None
        );

    private RecordChanges Claim(params (string Code, Value Value)[] values) => site.Changes("claim", values);

    private async Task<Entry> WaitingAsync(string reference) =>
        (await Entries.ReadAsync(Type, EntryState.Waiting, Site.Desk)).Single(entry => entry.Row.Reference == reference);

    private async Task<Saving> AcceptAsync(Entry entry, params (string Code, Value Value)[] more)
    {
        var changes = RecordChanges.Between(entry.Begun);
        foreach (var (code, value) in more)
            changes.Header[Type.Header.Find(code)!] = value;
        changes.Entry = entry.Row.Id;
        return await site.Saver.SaveAsync(Type, null, changes, Site.Desk);
    }

    private async Task<long> PartnerAsync(string condition) =>
        (long)(await site.ScalarAsync($"SELECT min(id) FROM erp.partner WHERE {condition}"))!;

    [Fact(
        DisplayName = "What somebody outside says in a field that whoever accepts it is not shown "
            + "is not shown to them, and not lost by their accepting it"
    )]
    public async Task Unseen_is_kept()
    {
        var hidden = await PartnerAsync("country = 'FI' AND id > 1");
        var number = await site.ScalarAsync($"SELECT number FROM erp.partner WHERE id = {hidden}");
        await site.Drafts.ChangeAsync(
            draft =>
                draft
                    .With(Site.Field("wish", "text", "header", "claim") with { Id = "f-claim-wish" })
                    .With(new Guard { On = "f-claim-wish", Comment = "x" })
                    .With(Site.Field("hue", "text", "parts", "claim") with { Id = "f-claim-hue" })
                    .With(new Guard { On = "f-claim-hue", Comment = "x" })
                    .With(
                        new Grant
                        {
                            Id = "g-claim",
                            Does = Grant.Withhold,
                            To = ["role:order_desk"],
                            On = ["type:partner"],
                            May = ["read"],
                            When = $"number = \"{number}\"",
                            Comment = "x",
                        }
                    )
                    .With(
                        draft.FindType("t-claim")! with
                        {
                            PublicForm = draft.FindType("t-claim")!.PublicForm! with
                            {
                                Fields = [.. draft.FindType("t-claim")!.PublicForm!.Fields, new("wish"), new("parts.hue")],
                            },
                        }
                    ),
            "Test",
            Site.Administrator
        );
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        var wish = Type.Header.Find("wish")!;
        var claim = Claim(("name", Value.From("Wished")), ("of", Value.LinkTo(hidden)), ("wish", Value.From("a blue one")));
        var part = Type.LineParts[0];
        EnteredLine Line(string key, string description, string hue) =>
            new(
                key,
                null,
                new Dictionary<Field, Parsed>
                {
                    [part.Find("description")!] = Value.From(description),
                    [part.Find("hue")!] = Value.From(hue),
                }
            );
        claim.Lines[part] = [Line("a", "first", "red"), Line("b", "second", "green")];
        var sent = await SendAsync(claim, "203.0.113.77");
        Assert.NotNull(sent.Reference);
        var entry = await WaitingAsync(sent.Reference!);
        Assert.DoesNotContain(wish, entry.Sent);
        var begun = RecordChanges.Between(entry.Begun);
        foreach (var code in new[] { "wish", "of" })
            Assert.Null(begun.Entered(Type.Header.Find(code)!, null));
        Assert.False(begun.Mentions(part.Find("hue")!));
        var saved = await AcceptAsync(entry, ("verdict", Value.From("ours")));
        Assert.Equal(SaveResult.Saved, saved.Result);
        Assert.True(saved.Outcome.State.Header[wish.Slot].IsEmpty);
        Assert.Equal("a blue one", await site.ScalarAsync($"SELECT wish FROM added.claim WHERE id = {saved.Outcome.State.Id}"));
        Assert.Equal(hidden, await site.ScalarAsync($"SELECT \"of\" FROM added.claim WHERE id = {saved.Outcome.State.Id}"));
        Assert.Equal(
            "red, green",
            await site.ScalarAsync(
                "SELECT string_agg(hue, ', ' ORDER BY id) FROM added.claim_parts "
                    + $"WHERE id IN (SELECT id FROM own.claim_parts WHERE parent = {saved.Outcome.State.Id})"
            )
        );
    }

    [Fact(DisplayName = "An entry is no record until somebody accepts it, with what only they can fill; then it says where it came from")]
    public async Task Accepting()
    {
        var finn = await PartnerAsync("country = 'FI'");
        var changes = Claim(("name", Value.From("Torn sling")), ("of", Value.LinkTo(finn)));
        var part = Type.LineParts[0];
        changes.Lines[part] =
        [
            new(
                "n1",
                null,
                new Dictionary<Field, Parsed> { [part.Find("description")!] = Value.From("Sling"), [part.Find("item")!] = Value.LinkTo(7) }
            ),
        ];
        var sent = await SendAsync(changes, "198.51.100.1");
        Assert.Matches("^[A-Z2-9]{4}-[A-Z2-9]{4}$", sent.Reference);
        Assert.Equal(0L, await site.ScalarAsync("SELECT count(*) FROM own.claim WHERE name = 'Torn sling'"));

        var entry = await WaitingAsync(sent.Reference!);
        Assert.Equal(
            ("Torn sling", finn, "Sling"),
            (
                entry.Begun.Header[Type.Name.Slot].Text,
                entry.Begun.Header[Type.Header.Find("of")!.Slot].Target,
                entry.Begun.Lines[0][0].Values[part.Find("description")!.Slot].Text
            )
        );
        Assert.Equal(("198.51.100.1", "a browser", site.Catalogues.Live.Release), (entry.Row.Address, entry.Row.Agent, entry.Row.Release));

        // What the form did not ask for is asked of those who accept; until then it waits.
        Assert.Equal("verdict is required.", (await AcceptAsync(entry)).Outcome.Messages.Single().Sentence);
        Assert.Equal(EntryState.Waiting, (await Entries.FindAsync(Type, entry.Row.Id, Site.Desk))!.Row.State);
        var saved = (await AcceptAsync(entry, ("verdict", Value.From("ours")))).Outcome.State;
        Assert.Equal(
            "Sling",
            (await site.Store.FindAsync(Type, saved.Id!.Value, Site.Guest))!.Lines[0][0].Values[part.Find("description")!.Slot].Text
        );
        var origin = (await Entries.OriginAsync(saved, Site.Guest))!;
        Assert.Equal(
            (sent.Reference, EntryState.Accepted, Site.Desk.Name, ""),
            (origin.Reference, origin.State, origin.DecidedBy, origin.Address)
        );
        Assert.Equal("198.51.100.1", (await Entries.OriginAsync(saved, Site.Desk))!.Address);
    }

    [Fact(DisplayName = "Ten people accept the same entry at once: one record comes of it, and no number is used up by the others")]
    public async Task One_of_many_accepts()
    {
        var entry = await WaitingAsync((await SendAsync(Claim(("name", Value.From("Once"))), "198.51.100.2")).Reference!);
        var endings = await Task.WhenAll(
            Enumerable.Range(0, 10).Select(_ => Task.Run(() => AcceptAsync(entry, ("verdict", Value.From("x")))))
        );
        Assert.Single(endings, saving => saving.Result == SaveResult.Saved);
        Assert.All(endings.Where(saving => saving.Result != SaveResult.Saved), saving =>
            Assert.Equal("Somebody else accepted or refused this entry meanwhile.", saving.Outcome.Messages.Single().Sentence)
        );
        Assert.Equal(1L, await site.ScalarAsync("SELECT count(*) FROM own.claim WHERE name = 'Once'"));
        Assert.Equal(
            await site.ScalarAsync("SELECT count(*) FROM own.claim"),
            await site.ScalarAsync("SELECT max(last) FROM own.claim_number_counter")
        );
        Assert.False(await Entries.RefuseAsync(Type, entry.Row.Id, Site.Desk));
    }

    [Fact(DisplayName = "Refusing is undone; who may not create may not decide, nor see what was sent")]
    public async Task Refusing()
    {
        var entry = await WaitingAsync((await SendAsync(Claim(("name", Value.From("Spam"))), "198.51.100.3")).Reference!);
        Assert.True(await Entries.RefuseAsync(Type, entry.Row.Id, Site.Desk));
        Assert.False(await Entries.RefuseAsync(Type, entry.Row.Id, Site.Desk));
        Assert.Equal(SaveResult.Refused, (await AcceptAsync(entry, ("verdict", Value.From("x")))).Result);
        Assert.True(await Entries.UnrefuseAsync(Type, entry.Row.Id, Site.Desk));
        Assert.Equal("Spam", (await WaitingAsync(entry.Row.Reference)).Begun.Header[Type.Name.Slot].Text);
        foreach (var stranger in new[] { Site.Guest, Outside })
        {
            await Assert.ThrowsAsync<AccessRefusedException>(() => Entries.ReadAsync(Type, EntryState.Waiting, stranger));
            await Assert.ThrowsAsync<AccessRefusedException>(() => Entries.RefuseAsync(Type, entry.Row.Id, stranger));
        }

        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Store.FindAsync(Type, 1, Outside));
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.ReadAsync(new(Type, [], 10), Outside));
    }

    [Fact(DisplayName = "Links find and take only what was released; nobody learns by trying whether anything else is there")]
    public async Task Only_what_was_released()
    {
        var link = Type.Header.Find("of")!;
        var (finn, other) = (await PartnerAsync("country = 'FI'"), await PartnerAsync("country <> 'FI'"));
        var offer = Offer.To(Outside, link, site.Store.Fresh(Type, Outside), null);
        Assert.Equal(
            await site.ScalarAsync($"SELECT count(*) FROM erp.partner WHERE country = 'FI'"),
            await site.Lists.CountAsync(offer, Outside)
        );
        var hidden = (string)(await site.ScalarAsync($"SELECT name FROM erp.partner WHERE id = {other}"))!;
        Assert.Empty(await site.Lists.PickAsync(link.Target!, hidden, Outside, offer: offer));
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.PickAsync(link.Target!, hidden, Outside));
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Lists.PickAsync(link.Target!, hidden, Outside, offer: Offer.To(Site.Desk, link, site.Store.Fresh(Type, Site.Desk), null))
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Lists.FindAsync(link.Target!, "P-0001", Outside));
        Assert.Empty(await site.Lists.TargetsAsync(link.Target!, [finn, other], Outside));

        var refused = (await SendAsync(Claim(("of", Value.LinkTo(other))), "198.51.100.4")).Outcome!.Messages.Single().Sentence;
        Assert.Equal("This cannot be chosen here. Choose from the list that opens while you type.", refused);
        Assert.Equal(
            refused,
            (await SendAsync(Claim(("of", Value.LinkTo(99_999_999))), "198.51.100.4")).Outcome!.Messages.Single().Sentence
        );
        Assert.DoesNotContain(
            "verdict",
            (await WaitingAsync((await SendAsync(Claim(("of", Value.LinkTo(finn))), "198.51.100.4")).Reference!)).Row.Record,
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "What the form does not ask for is refused, not taken; that a value must be unique gives nothing away")]
    public async Task Nothing_else_is_taken()
    {
        Assert.Equal(
            "verdict",
            (await SendAsync(Claim(("verdict", Value.From("mine"))), "198.51.100.5")).Outcome!.Messages.Single().At.Field!.Code
        );
        var first = await WaitingAsync((await SendAsync(Claim(("tag", Value.From("same"))), "198.51.100.5")).Reference!);
        Assert.Equal(SaveResult.Saved, (await AcceptAsync(first, ("verdict", Value.From("x")))).Result);
        var second = await WaitingAsync((await SendAsync(Claim(("tag", Value.From("same"))), "198.51.100.5")).Reference!);
        Assert.Equal(
            "Another claim has this tag already.",
            (await AcceptAsync(second, ("verdict", Value.From("x")))).Outcome.Messages.Single().Sentence
        );
    }

    [Fact(
        DisplayName = "One sender sends twenty within an hour and no more, "
            + "however many come at once; the network counts in IPv6, and others go on"
    )]
    public async Task Senders_are_limited()
    {
        var endings = await Task.WhenAll(
            Enumerable
                .Range(0, 40)
                .Select(turn => Task.Run(() => SendAsync(Claim(("name", Value.From($"Flood {turn}"))), $"2001:db8:5::{turn + 1:x}")))
        );
        Assert.Equal(Entries.MaxInAnHour, endings.Count(ending => ending.Reference is not null));
        Assert.All(endings.Where(ending => ending.Reference is null), ending =>
            Assert.Contains("very often from your network within the last hour", ending.Refusal, StringComparison.Ordinal)
        );
        Assert.NotNull((await SendAsync(Claim(("name", Value.From("Other"))), "2001:db8:6::1")).Reference);
        Assert.Contains("more than the form takes", (await SendAsync(Long(), "198.51.100.6")).Refusal, StringComparison.Ordinal);
    }

    // Each within its own length, all together too much.
    private RecordChanges Long()
    {
        var part = Type.LineParts[0];
        var changes = Claim();
        changes.Lines[part] =
        [
            .. Enumerable
                .Range(0, 400)
                .Select(row => new EnteredLine(
                    $"n{row}",
                    null,
                    new Dictionary<Field, Parsed> { [part.Find("description")!] = Value.From(new string('x', 190)) }
                )),
        ];
        return changes;
    }

    [Theory(DisplayName = "Senders are told apart by all of an IPv4 address and by the network of an IPv6 address (RFC 4291)")]
    [
        InlineData("192.0.2.7", "192.0.2.7"),
        InlineData("::ffff:192.0.2.7", "192.0.2.7"),
        InlineData("2001:db8:1:2:3:4:5:6", "2001:db8:1:2::/64")
    ]
    public void Networks(string address, string network) => Assert.Equal(network, new Sender(IPAddress.Parse(address), "").Network);
}
