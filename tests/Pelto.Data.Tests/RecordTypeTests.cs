using Pelto.Core.Access;
using Pelto.Core.Elements;
using Pelto.Core.Records;
using Pelto.Core.Releases;

namespace Pelto.Data.Tests;

/// <summary>Record types of the site's own: in every respect like built-in ones.</summary>
public sealed class RecordTypeTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private static RecordTypeDefinition Plan(string code, NumberingDescription numbering, params LinesDefinition[] lines) =>
        new()
        {
            Id = "t-" + code,
            Code = code,
            Label = "Plan " + code,
            Plural = "Plans " + code,
            Numbering = numbering,
            Lines = lines,
            Read = ["order_desk", "guest"],
            Write = ["order_desk"],
        };

    private static FieldDefinition On(string type, string code, string kind, string part = "header") =>
        Site.Field(code, kind, part, type) with
        {
            Id = $"f-{type}-{code}",
        };

    private async Task GoLiveAsync(Func<SiteDefinition, SiteDefinition> change)
    {
        await site.Drafts.ChangeAsync(change, "Test", Site.Administrator);
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private async Task<RecordState> SaveAsync(string type, long? id, RecordChanges changes)
    {
        var saving = await site.Saver.SaveAsync(site.Type(type), id, changes, Site.Desk);
        Assert.True(saving.Result == SaveResult.Saved, string.Join(' ', saving.Outcome.Messages.Select(message => message.Sentence)));
        return saving.Outcome.State;
    }

    [Fact(
        DisplayName = "Type, its fields, its lines, and links both ways go live in one draft; "
            + "records are saved, changed, listed, found, deleted and brought back"
    )]
    public async Task Everything_at_once()
    {
        await GoLiveAsync(draft =>
            draft
                .With(Plan("rigging_plan", new("RP-", 4, 12), new LinesDefinition("lifts", "Lift", "Lifts")))
                .With(On("rigging_plan", "height", "decimal"))
                .With(On("rigging_plan", "mass", "integer", "lifts"))
                .With(On("rigging_plan", "customer", "link") with { Target = "partner" })
                .With(On("sales_order", "plan", "link") with { Target = "rigging_plan" })
        );
        var type = site.Type("rigging_plan");
        var changes = site.Changes(
            "rigging_plan",
            ("name", Value.From("Slipway crane")),
            ("height", Value.From(12.5m)),
            ("customer", Value.LinkTo(177))
        );
        var (part, mass, text) = (type.LineParts[0], type.LineParts[0].Find("mass")!, type.LineParts[0].Find("description")!);
        changes.Lines[part] =
        [
            new("n1", null, new Dictionary<Field, Parsed> { [text] = Value.From("Jib"), [mass] = Value.From(800m) }),
            new("n2", null, new Dictionary<Field, Parsed> { [text] = Value.From("Mast") }),
        ];
        var plan = await SaveAsync("rigging_plan", null, changes);
        Assert.Equal("RP-0012", plan.Title);

        var read = (await site.Store.FindAsync(type, plan.Id!.Value, Site.Guest))!;
        Assert.Equal(plan.Header, read.Header);
        Assert.Equal(["Jib", "Mast"], read.Lines[0].Select(line => line.Values[text.Slot].Text));
        Assert.Equal(Value.From(800m), read.Lines[0][0].Values[mass.Slot]);
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Saver.SaveAsync(type, plan.Id, site.Changes("rigging_plan", ("name", Value.From("Mine"))), Site.Guest)
        );

        await SaveAsync("rigging_plan", plan.Id, site.Changes("rigging_plan", ("name", Value.From("Slipway crane, north"))));
        await SaveAsync("rigging_plan", null, site.Changes("rigging_plan", ("name", Value.From("Boat hall"))));
        var page = await site.Lists.ReadAsync(
            new(type, [new(type.Header.Find("height")!, Descending: false)], 10, Search: "crane")
            {
                Filters = [Filter.Parse(type, "height~between~10~20").Filter!],
            },
            Site.Desk
        );
        Assert.Equal(plan.Id, page.Rows.Single().Id);
        Assert.Equal("Selkäsaari Boatyard", page.Rows[0][type.Header.Find("customer")!].Label);
        Assert.Equal("Slipway crane, north (RP-0012)", (await site.Lists.PickAsync(type, "north slip", Site.Desk)).Single().Text);

        await SaveAsync("sales_order", 60, site.Changes("sales_order", ("plan", Value.LinkTo(plan.Id.Value))));
        Assert.Equal(
            "RP-0012 stays: 1 sales order (plan) still points to it.",
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, type, plan.Id.Value, Site.Desk)).Refusal
        );
        Assert.Contains(
            "1 plan rigging_plan (customer)",
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type("partner"), 177, Site.Administrator)).Refusal,
            StringComparison.Ordinal
        );
        await SaveAsync("sales_order", 60, site.Changes("sales_order", ("plan", Value.Empty)));
        var deletion = await site.Deleter.DeleteAsync(site.Catalogues.Live, type, plan.Id.Value, Site.Desk);
        Assert.Null(await site.Store.FindAsync(type, plan.Id.Value, Site.Desk));
        Assert.Equal(plan.Id, await site.Deleter.RestoreAsync(site.Catalogues.Live, type, deletion.Undo!.Value, Site.Desk));
        Assert.Equal(2, (await site.Store.FindAsync(type, plan.Id.Value, Site.Desk))!.Lines[0].Count);
    }

    [Theory(
        DisplayName = "Fifty people create at once, and every fifth save fails: "
            + "no number is given twice, and where that is promised none is left out"
    )]
    [InlineData("with_gaps", false), InlineData("gapless", true)]
    public async Task Numbers_are_safe(string code, bool gapless)
    {
        await GoLiveAsync(draft =>
            draft
                .With(Plan(code, new("N-", 3, 1, WithYear: true, gapless)))
                .With(On(code, "size", "integer"))
                .With(On(code, "tag", "text") with { Unique = true })
        );
        await SaveAsync(code, null, site.Changes(code, ("tag", Value.From("same"))));
        var type = site.Type(code);

        // Five in a hundred find that somebody has their tag; one in ten is cut off after it got its number.
        await Task.WhenAll(
            Enumerable
                .Range(0, 50)
                .Select(person =>
                    Task.Run(async () =>
                    {
                        for (var turn = 0; turn < 4; turn++)
                        {
                            using var cut = new CancellationTokenSource();
                            var changes = site.Changes(
                                code,
                                ("size", Value.From(person)),
                                ("tag", turn == 3 && person % 5 == 0 ? Value.From("same") : Value.From($"{person} {turn}"))
                            );
                            if (turn == 2 && person % 10 == 0)
                                cut.CancelAfter(Random.Shared.Next(1, 30));
                            try
                            {
                                await site.Saver.SaveAsync(type, null, changes, Site.Desk, cancel: cut.Token);
                            }
                            catch (Exception stopped)
                                when (stopped is OperationCanceledException || stopped.InnerException is OperationCanceledException)
                            {
                                // As when a browser goes away in mid-save.
                            }
                        }
                    })
                )
        );
        var numbers = ((string)(await site.ScalarAsync($"SELECT string_agg(number, ' ' ORDER BY number) FROM own.{code}"))!).Split(' ');
        Assert.Equal(numbers.Length, numbers.Distinct().Count());
        Assert.InRange(numbers.Length, 180, 201);
        Assert.All(numbers, number => Assert.Matches($"^N-{site.Store.Today.Year}-[0-9]{{3}}$", number));
        if (!gapless)
            return;
        Assert.Equal(
            Enumerable.Range(1, numbers.Length),
            numbers.Select(number => int.Parse(number[^3..], System.Globalization.CultureInfo.InvariantCulture))
        );
        Assert.Equal(
            $"{numbers[0]} stays: numbers of plans gapless have no gaps, so none is ever deleted.",
            (
                await site.Deleter.DeleteAsync(
                    site.Catalogues.Live,
                    type,
                    (long)(await site.ScalarAsync($"SELECT min(id) FROM own.{code} WHERE number = '{numbers[0]}'"))!,
                    Site.Desk
                )
            ).Refusal
        );
    }

    [Fact(DisplayName = "Each company has its own count, without gaps where that is promised, also when both create at once")]
    public async Task Companies_count_for_themselves()
    {
        foreach (var gapless in new[] { false, true })
        {
            var code = gapless ? "report" : "note";
            await GoLiveAsync(draft => draft.With(Plan(code, new("R-", 3, 1, WithYear: true, gapless, PerCompany: true))));
            await Task.WhenAll(
                Enumerable
                    .Range(0, 40)
                    .Select(turn => SaveAsync(code, null, site.Changes(code, ("company", Value.From(turn % 2 == 0 ? "fi" : "no")))))
            );
            foreach (var company in new[] { "FI", "NO" })
                Assert.Equal(
                    Enumerable.Range(1, 20).Select(number => $"R-{company}-{site.Store.Today.Year}-{number:000}"),
                    (
                        (string)
                            (
                                await site.ScalarAsync(
                                    $"SELECT string_agg(number, ' ' ORDER BY number) FROM own.{code} WHERE number LIKE 'R-{company}-%'"
                                )
                            )!
                    ).Split(' ')
                );
        }
    }

    [Fact(
        DisplayName = "A document is changed and deleted while it is prepared; "
            + "once confirmed it can only be cancelled, by anybody; and who may create, change and delete are three"
    )]
    public async Task Documents_are_confirmed()
    {
        await GoLiveAsync(draft =>
            draft
                .With(
                    Plan("permit", new("W-", 3, 1)) with
                    {
                        Confirmed = true,
                        Read = ["*"],
                        Create = ["guest"],
                        Write = ["order_desk"],
                        Delete = [],
                    }
                )
                .With(On("permit", "mass", "integer"))
        );
        var type = site.Type("permit");
        Assert.Equal((true, false, false), (Site.Guest.MayCreate(type), Site.Guest.MayChange(type), Site.Guest.MayDelete(type)));
        var permit = (await site.Saver.SaveAsync(type, null, site.Changes("permit", ("mass", Value.From(5))), Site.Guest)).Outcome.State;
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Saver.SaveAsync(type, permit.Id, site.Changes("permit", ("mass", Value.From(6))), Site.Guest)
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Saver.SaveAsync(type, null, site.Changes("permit", ("mass", Value.From(6))), Site.Desk)
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            site.Deleter.DeleteAsync(site.Catalogues.Live, type, permit.Id!.Value, Site.Desk)
        );
        async Task<Saving> ChangeAsync(string code, Value value) =>
            await site.Saver.SaveAsync(type, permit.Id, site.Changes("permit", (code, value)), Site.Administrator);
        Assert.Equal(SaveResult.Saved, (await ChangeAsync("mass", Value.From(7))).Result);
        Assert.Equal(SaveResult.Saved, (await ChangeAsync("status", Value.From("confirmed"))).Result);
        Assert.Equal(
            $"{permit.Title} is confirmed: it can only be cancelled.",
            (await ChangeAsync("mass", Value.From(8))).Outcome.Messages.Single().Sentence
        );
        Assert.Equal(
            $"{permit.Title} is confirmed: it can only be cancelled.",
            (await ChangeAsync("status", Value.From("open"))).Outcome.Messages.Single().Sentence
        );
        Assert.Equal(
            $"{permit.Title} stays: once confirmed, it can only be cancelled.",
            (await site.Deleter.DeleteAsync(site.Catalogues.Live, type, permit.Id!.Value, Site.Administrator)).Refusal
        );
        Assert.Equal(SaveResult.Saved, (await ChangeAsync("status", Value.From("cancelled"))).Result);
        Assert.Equal(
            $"{permit.Title} is cancelled: it stays as it is.",
            (await ChangeAsync("mass", Value.From(9))).Outcome.Messages.Single().Sentence
        );
    }

    /// <summary>Some days ahead.</summary>
    private sealed class Ahead(TimeSpan by) : TimeProvider
    {
        public override DateTimeOffset GetUtcNow() => base.GetUtcNow() + by;
    }

    [Fact(
        DisplayName = "What the page of a record type says of numbers, gaps, companies, "
            + "confirming and lines is what then happens, for every way to number"
    )]
    public async Task Sentences_hold()
    {
        bool[] both = [false, true];
        var types = (
            from withYear in both
            from gapless in both
            from company in both
            from confirmed in both
            select (withYear, gapless, company, confirmed)
        )
            .Select(
                (of, i) =>
                    Plan(
                        $"way{i}",
                        new("W", 3, 4, of.withYear, of.gapless, of.company),
                        [.. of.withYear ? [new LinesDefinition("steps", "Step", "Steps")] : Array.Empty<LinesDefinition>()]
                    ) with
                    {
                        Confirmed = of.confirmed,
                    }
            )
            .ToList();
        await GoLiveAsync(draft =>
            types.Aggregate(draft, (all, type) => all.With(type).With(On(type.Code, "tag", "text") with { Unique = true }))
        );
        await using var nextYear = await site.AnotherNodeAsync(new Ahead(TimeSpan.FromDays(366)));
        var (year, later) = (site.Store.Today.Year, nextYear.GetRequiredService<RecordStore>().Today.Year);
        foreach (var definition in types)
        {
            var (code, said) = (definition.Code, string.Join(' ', RecordTypeWords.Describe(definition, isLive: false)));
            bool Says(string text) => said.Contains(text, StringComparison.Ordinal);
            string Numbered(long number, int inYear, string company = "FI") =>
                definition
                    .Numbering.First.Replace("company", company, StringComparison.Ordinal)
                    .Replace("year", inYear.ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal)
                    .Replace("004", number.ToString("000", CultureInfo.InvariantCulture), StringComparison.Ordinal);
            (string, Value)[] Of(string tag, string company = "fi") =>
                Says("Each company has its own count")
                    ? [("tag", Value.From(tag)), ("company", Value.From(company))]
                    : [("tag", Value.From(tag))];

            var first = await SaveAsync(code, null, site.Changes(code, Of("one")));
            Assert.Equal(Numbered(4, year), first.Title);
            Assert.NotEqual(
                SaveResult.Saved,
                (await site.Saver.SaveAsync(site.Type(code), null, site.Changes(code, Of("one")), Site.Desk)).Result
            );
            if (Says("a save that fails can leave a gap"))
                await site.ScalarAsync(
                    $"SELECT nextval('own.{code}_number_number{(Says("Each company has its own count") ? "_fi" : "")}')"
                );
            else
                Assert.True(Says("Numbers have no gaps"));
            var second = Says("Numbers have no gaps") ? 5 : 6;
            Assert.Equal(Numbered(second, year), (await SaveAsync(code, null, site.Changes(code, Of("two")))).Title);
            if (Says("Each company has its own count"))
                Assert.Equal(Numbered(4, year, "NO"), (await SaveAsync(code, null, site.Changes(code, Of("other", "no")))).Title);

            // In the year that follows.
            var then = await nextYear
                .GetRequiredService<RecordSaver>()
                .SaveAsync(
                    nextYear.GetRequiredService<Catalogues>().Live.Find(code)!,
                    null,
                    Elsewhere(nextYear, code, Of("then")),
                    Site.Desk
                );
            Assert.Equal(SaveResult.Saved, then.Result);
            Assert.Equal(Numbered(Says("counting begins anew each year") ? 4 : second + 1, later), then.Outcome.State.Title);

            Assert.Equal(
                Says("Each has many steps, which begin with a description"),
                site.Type(code).LineParts is [{ Plural: "Steps" } steps] && steps.Find("description") is not null
            );
            Assert.True(Says($"Programs read and write it as {code}."));
            if (Says("It is being prepared until somebody confirms it"))
            {
                Assert.Equal("open", first.Header[site.Type(code).Header.Find("status")!.Slot].Text);
                await SaveAsync(code, first.Id, site.Changes(code, ("status", Value.From("confirmed"))));
                Assert.NotEqual(
                    SaveResult.Saved,
                    (
                        await site.Saver.SaveAsync(
                            site.Type(code),
                            first.Id,
                            site.Changes(code, ("tag", Value.From("changed"))),
                            Site.Administrator
                        )
                    ).Result
                );
                Assert.NotEqual(
                    SaveResult.Saved,
                    (await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type(code), first.Id!.Value, Site.Administrator)).Result
                );
            }
            else
            {
                await SaveAsync(code, first.Id, site.Changes(code, ("tag", Value.From("changed"))));
                Assert.Equal(
                    Says("records are never deleted") ? SaveResult.Refused : SaveResult.Saved,
                    (await site.Deleter.DeleteAsync(site.Catalogues.Live, site.Type(code), first.Id!.Value, Site.Desk)).Result
                );
            }
        }
    }

    private static RecordChanges Elsewhere(ServiceProvider node, string code, params (string Code, Value Value)[] entered)
    {
        var changes = new RecordChanges();
        foreach (var (field, value) in entered)
            changes.Header[node.GetRequiredService<Catalogues>().Live.Find(code)!.Header.Find(field)!] = value;
        return changes;
    }

    [Fact(DisplayName = "What the plan says of a live type that is numbered otherwise, or comes back, is what then happens")]
    public async Task Numbers_go_on()
    {
        foreach (
            var (gapless, from, to) in from gapless in new[] { false, true }
            from before in new[] { false, true }
            from after in new[] { false, true }
            select (gapless, before, after)
        )
        {
            var code = $"count_{gapless}_{from}_{to}".ToLowerInvariant();
            await GoLiveAsync(draft => draft.With(Plan(code, new("C", 3, 4, from, gapless))));
            for (var i = 0; i < 3; i++)
                await SaveAsync(code, null, site.Changes(code, ("name", Value.From("x"))));
            var was = site.Catalogues.Live;
            await GoLiveAsync(draft => draft.With(draft.FindType("t-" + code)! with { Numbering = new("D", 4, 4, to, gapless) }));
            var effect = Planning
                .Make(was, site.Catalogues.Live, StorageFacts.Nothing)
                .Changes.Single(change => change.Sentence.StartsWith("Changes how", StringComparison.Ordinal))
                .Effect;
            var next = (await SaveAsync(code, null, site.Changes(code, ("name", Value.From("y"))))).Title;
            var number = effect.Contains("where none was counted so before", StringComparison.Ordinal) ? 4 : 7;
            Assert.True(next == site.Type(code).Identifier.Numbering!.Write(number, site.Store.Today.Year), $"{effect} {next}");

            await GoLiveAsync(draft => draft.With(draft.FindType("t-" + code)! with { Retired = true }));
            was = site.Catalogues.Live;
            await GoLiveAsync(draft => draft.With(draft.FindType("t-" + code)! with { Retired = false }));
            effect = Planning
                .Make(was, site.Catalogues.Live, StorageFacts.Nothing)
                .Changes.Single(change => change.Sentence.StartsWith("Brings the record type", StringComparison.Ordinal))
                .Effect;
            Assert.Contains("go on from the last that was given", effect, StringComparison.Ordinal);
            Assert.Equal(
                site.Type(code).Identifier.Numbering!.Write(number + 1, site.Store.Today.Year),
                (await SaveAsync(code, null, site.Changes(code, ("name", Value.From("z"))))).Title
            );
        }
    }

    [Fact(
        DisplayName = "A type gets lines later, is retired with its records and fields kept, "
            + "and comes back; a link to it has to be retired first"
    )]
    public async Task A_type_lives()
    {
        await GoLiveAsync(draft =>
            draft
                .With(Plan("survey", new("", 1, 1)))
                .With(On("survey", "depth", "integer"))
                .With(On("partner", "survey", "link") with { Target = "survey" })
        );
        var id = (await SaveAsync("survey", null, site.Changes("survey", ("depth", Value.From(7))))).Id!.Value;
        await GoLiveAsync(draft =>
            draft.With(draft.FindType("t-survey")! with { Label = "Sounding", Lines = [new("points", "Point", "Points")] })
        );
        Assert.Empty((await site.Store.FindAsync(site.Type("survey"), id, Site.Desk))!.Lines[0]);

        await site.Drafts.ChangeAsync(draft => draft.With(draft.FindType("t-survey")! with { Retired = true }), "Test", Site.Administrator);
        Assert.Contains(site.Catalogues.Build((await site.Drafts.ReadAsync()).Site).Problems, problem =>
            problem is { Element: "f-partner-survey", Property: "target" }
        );
        await GoLiveAsync(draft => draft.With(draft.Find("f-partner-survey")! with { Retired = true }));
        Assert.Null(site.Catalogues.Live.Find("survey"));
        Assert.Equal(7L, await site.ScalarAsync($"SELECT depth FROM added.survey WHERE id = {id}"));

        await GoLiveAsync(draft => draft.With(draft.FindType("t-survey")! with { Retired = false }));
        Assert.Equal(
            Value.From(7),
            (await site.Store.FindAsync(site.Type("survey"), id, Site.Desk))!.Header[site.Type("survey").Header.Find("depth")!.Slot]
        );
    }
}
