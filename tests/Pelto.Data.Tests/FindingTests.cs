namespace Pelto.Data.Tests;

/// <summary>What stands beside number and name where one chooses, and finding by it.</summary>
public sealed class FindingTests(NarrowSite site) : IClassFixture<NarrowSite>, IAsyncLifetime
{
    private Field Link => site.Type("sales_order").Header.Find("broker")!;

    public async ValueTask InitializeAsync()
    {
        if (site.Type("sales_order").Header.Find("broker") is not null)
            return;
        await PublishAsync(draft =>
            draft
                .With(Site.Field("keeper", "link", type: "partner") with { Target = "employee" })
                .With(Site.Field("other", type: "partner"))
                .With(Site.Field("mark", "text", type: "partner"))
        );
        foreach (
            var (code, value) in new[]
            {
                ("mark", "(ARRAY['Heron', 'Ösprey', 'Gull', 'Tern'])[1 + id % 4] || ' ' || id"),
                ("keeper", "1 + id % 5"),
            }
        )
            await site.ScalarAsync(
                $"INSERT INTO added.partner (id, {code}) SELECT id, {value} FROM erp.partner "
                    + $"WHERE id % 3 > 0 ON CONFLICT (id) DO UPDATE SET {code} = excluded.{code}"
            );
        await PublishAsync(draft =>
            draft
                .With(Site.Field("broker", "link") with { Target = "partner", Finds = ["city", "country", "mark"] })
                .With(Site.Field("kept_by", "link") with { Target = "partner", Finds = ["keeper", "city"] })
        );
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private async Task PublishAsync(Func<SiteDefinition, SiteDefinition> change)
    {
        await site.Drafts.ChangeAsync(change, "Test", Site.Administrator);
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    private async Task<IEnumerable<long>> PickAsync(string text, int take = 300) =>
        (await site.Lists.PickAsync(Link.Target!, text, Site.Desk, take, link: Link)).Select(target => target.Id);

    [Fact(
        DisplayName = "For generated words, whichever columns each of them stands in, "
            + "the same partners are found as by looking through all of them in SQL"
    )]
    public async Task Words_stand_anywhere()
    {
        const string Everything = "pelto.plain(p.number || ' ' || p.name || ' ' || coalesce(p.city, '') || ' ' || coalesce(a.mark, ''))";
        var random = new Random(1);
        var texts = (
            (string)
                (
                    await site.ScalarAsync(
                        "SELECT string_agg(concat_ws(' ', p.number, p.name, p.city, a.mark), '|') "
                            + "FROM erp.partner p LEFT JOIN added.partner a ON a.id = p.id"
                    )
                )!
        ).Split('|');
        var meant = Link.Target!.Header.Find("country")!.Kind.Choices!.All.SelectMany(choice => choice.Labels).ToList();
        var asked = 0;
        for (var turn = 0; turn < 400; turn++)
        {
            var parts = texts[random.Next(texts.Length)].Split(' ').Where(part => part.Length > 2).ToArray();
            var words = Enumerable
                .Range(0, random.Next(1, 5))
                .Select(_ => parts[random.Next(parts.Length)])
                .Select(part => part.Substring(random.Next(part.Length - 2), 3))
                .ToList();

            // Another's word now and then, so that not everything is found.
            if (random.Next(4) == 0)
                words.Add(texts[random.Next(texts.Length)].Split(' ')[^1]);
            words =
            [
                .. words.Where(word =>
                    word.Length > 2 && !word.Contains('_', StringComparison.Ordinal) && !word.Contains('%', StringComparison.Ordinal)
                ),
            ];
            if (words.Count == 0)
                continue;
            var expected = (
                (long[])
                    (
                        await site.ScalarAsync(
                            "SELECT coalesce(array_agg(p.id ORDER BY p.id), '{}') FROM erp.partner p LEFT "
                                + "JOIN added.partner a ON a.id = p.id WHERE "
                                + $"{string.Join(" AND ", words.Select(word => $"{Everything} LIKE pelto.plain('%{word.Replace("'", "''", StringComparison.Ordinal)}%')"))}"
                        )
                    )!
            ).ToList();
            if (
                expected.Count > 150
                || words.Exists(word => meant.Exists(label => label.StartsWith(word, StringComparison.OrdinalIgnoreCase)))
            )
                continue;
            asked++;
            Assert.True(expected.SequenceEqual((await PickAsync(string.Join(' ', words))).Order()), string.Join(' ', words));
        }

        Assert.True(asked > 150, $"Only {asked} of the generated words told anything.");
    }

    [Fact(DisplayName = "What stands in added columns, in whichever table, is found by their index among many records")]
    public async Task Indexes_are_used()
    {
        await PublishAsync(draft =>
            new[] { "rack", "bay", "shed" }.Aggregate(draft, (all, code) =>
                all.With(Site.Field(code, "text", type: "employee") with { Length = 60 })
            )
        );
        Assert.Equal(2, site.Type("employee").Header.AddedTables.Count);
        await site.ScalarAsync(
            "INSERT INTO erp.employee (id, number, name, department, company) SELECT 100000 + n, 'Z-' || n, 'Somebody ' || n, "
                + "department, company FROM (SELECT * FROM erp.employee LIMIT 1) e, generate_series(1, 20000) n"
        );
        foreach (var code in new[] { "rack", "shed" })
            await site.ScalarAsync(
                $"INSERT INTO added.employee (id, {code}) SELECT id, '{code} ' || md5(id::text) "
                    + $"FROM erp.employee ON CONFLICT (id) DO UPDATE SET {code} = excluded.{code}"
            );
        await PublishAsync(draft => draft.With(Site.Field("stored_by", "link") with { Target = "employee", Finds = ["rack", "shed"] }));
        await site.ScalarAsync("ANALYZE");
        var link = site.Type("sales_order").Header.Find("stored_by")!;
        var mark = (string)(await site.ScalarAsync("SELECT left(md5('107001'), 9)"))!;
        const string Index = "^employee_find_[0-9a-f]{8}$";
        foreach (var text in new[] { $"rack {mark}", $"shed {mark}", mark })
        {
            var before = await site.IndexUsesAsync(Index);
            Assert.Equal(
                [107001L],
                (await site.Lists.PickAsync(link.Target!, text, Site.Desk, 20, link: link)).Select(target => target.Id)
            );
            Assert.True(await site.IndexUsesAsync(Index, before) > before, $"{text} was not found by the index.");
        }
    }

    [Fact(
        DisplayName = "Chosen columns are shown as people read them; "
            + "a country narrows down what other words find; who may not see one of them finds by number and name"
    )]
    public async Task Columns_are_shown()
    {
        var heron = (long)
            (
                await site.ScalarAsync(
                    "SELECT min(p.id) FROM erp.partner p JOIN added.partner a ON a.id = p.id "
                        + "WHERE mark LIKE 'Heron%' AND city IS NOT NULL AND country = 'NO'"
                )
            )!;
        var (city, mark) = (
            (string)(await site.ScalarAsync($"SELECT city FROM erp.partner WHERE id = {heron}"))!,
            (string)(await site.ScalarAsync($"SELECT mark FROM added.partner WHERE id = {heron}"))!
        );
        Assert.Equal(
            [city, "Norway", mark],
            (await site.Lists.PickAsync(Link.Target!, mark, Site.Desk, link: Link)).Single(target => target.Id == heron).Details
        );
        Assert.Contains(heron, await PickAsync($"{city[..3]} {mark} norw"));
        Assert.DoesNotContain(heron, await PickAsync($"{mark} finl"));
        Assert.DoesNotContain(await site.Lists.PickAsync(Link.Target!, mark, Site.Desk), target => target.Id == heron);

        // A guest may not see employees: nothing of them is shown, and no column of this link leads anywhere.
        var stored = site.Type("sales_order").Header.Find("kept_by")!;
        var number = (string)(await site.ScalarAsync($"SELECT number FROM erp.partner WHERE id = {heron}"))!;
        Assert.Equal(2, (await site.Lists.PickAsync(stored.Target!, number, Site.Desk, link: stored)).Single().Details.Count);
        Assert.Equal([city], (await site.Lists.PickAsync(stored.Target!, number, Site.Guest, link: stored)).Single().Details);
    }

    [Fact(DisplayName = "Each table has one index for what a link finds by, kept as long as one does")]
    public async Task Indexes_come_and_go()
    {
        const string Indexes =
            "SELECT count(*) FROM pg_index i JOIN pg_class x ON x.oid = i.indexrelid "
            + "WHERE x.relname ~ '^item_find_[0-9a-f]{8}$' AND i.indisvalid";
        await PublishAsync(draft => draft.With(Site.Field("shelf", "text", type: "item")));
        var (one, two) = (
            Site.Field("spare", "link") with
            {
                Target = "item",
                Finds = ["shelf", "unit"],
            },
            Site.Field("twin", "link") with
            {
                Target = "item",
                Finds = ["shelf"],
            }
        );
        await PublishAsync(draft => draft.With(one).With(two));
        Assert.Equal(1L, await site.ScalarAsync(Indexes));
        await PublishAsync(draft => draft.With(one with { Finds = null }));
        Assert.Equal(1L, await site.ScalarAsync(Indexes));
        await PublishAsync(draft => draft.With(two with { Finds = ["unit"] }));
        Assert.Equal(0L, await site.ScalarAsync(Indexes));
    }
}
