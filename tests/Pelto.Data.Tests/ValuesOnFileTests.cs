using Microsoft.EntityFrameworkCore;
using Pelto.Core.Releases;
using Pelto.Data.Jobs;

namespace Pelto.Data.Tests;

/// <summary>
/// What a draft says becomes of values on file, held against what then does: from every way in which a field can be filled to every other.
/// </summary>
public sealed class ValuesOnFileTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private const string Formula = "LEN(number) + 1";
    private const string Gives = "length(number) + 1";

    private JobRunner Jobs => site.Services.GetRequiredService<JobRunner>();

    // Ways in which a field of the warehouse, which has few records, can be there; null for not at all.
    private static readonly Dictionary<string, Func<FieldDefinition, FieldDefinition?>> Ways = new()
    {
        ["taken out"] = _ => null,
        ["typed"] = field => field,
        ["starts"] = field => field with { DefaultValue = "7" },
        ["starts on file"] = field => field with { DefaultValue = "7", FillExisting = true },
        ["retired"] = field => field with { Retired = true },
        ["live"] = field => field with { Formula = Formula, Live = true },
        ["kept"] = field => field with { Formula = Formula },
        ["until typed over"] = field => field with { Formula = Formula, Fills = FillMode.Untouched },
        ["when chosen"] = field => field with { Formula = Formula, Fills = FillMode.Chosen },
        ["required"] = field => field with { Required = true, Label = "Other", Minimum = "1" },
    };

    [Fact(
        DisplayName = "From every way in which a field can be filled to every other, "
            + "what is said of values on file is what then happens, and nothing happens of which nothing is said"
    )]
    public async Task What_is_said_happens()
    {
        var plain = Site.Field("fate", type: "warehouse");
        foreach (var (from, to) in Pairs([.. Ways.Keys]))
        {
            await GoAsync(plain, Ways[from](plain));
            await MixAsync();
            var before = await ValuesAsync();
            var isNew = site.Catalogues.Live.FindField(plain.Id) is null;
            var said = string.Join(" ", await GoAsync(plain, Ways[to](plain)));
            var after = await ValuesAsync();
            var given = await GivenAsync();
            void Is(string phrase, Func<long, long?> wanted)
            {
                if (said.Contains(phrase, StringComparison.Ordinal))
                    Assert.True(after.All(row => row.Value == wanted(row.Key)), $"{from} to {to}: {said}");
            }

            // Each thing that can be said, and what is true of every row then.
            Is(ValuesOnFile.Stay, id => before[id]);
            Is("get no value", _ => null);
            Is("stored there before", id => before[id]);
            Is("on file get the default", _ => 7);
            Is("that have none get the default", id => before[id] ?? 7);
            Is("get their value in the background, which can be undone.", id => given[id]);
            Is("Nothing is stored", id => before[id]);

            // And nothing happens of which nothing is said.
            if (!before.SequenceEqual(after))
                Assert.True(said.Contains("in the background", StringComparison.OrdinalIgnoreCase), $"{from} to {to}: {said}");
            if (isNew && site.Catalogues.Live.FindField(plain.Id) is not null)
                Assert.Contains(" on file", said, StringComparison.Ordinal);
        }
    }

    // All ordered pairs, so that most begin where the one before has ended.
    private static IEnumerable<(string From, string To)> Pairs(IReadOnlyList<string> ways)
    {
        for (var step = 1; step < ways.Count; step++)
        {
            var walked = new HashSet<int>();
            for (var start = 0; start < ways.Count; start++)
            for (var at = start; walked.Add(at); at = (at + step) % ways.Count)
                yield return (ways[at], ways[(at + step) % ways.Count]);
        }
    }

    [Fact(
        DisplayName = "What a job changes of a field is followed by what is stored of it elsewhere, "
            + "and a record type to which a definition comes later is filled like the first"
    )]
    public async Task Jobs_are_followed()
    {
        var count = Site.Field("counted", type: "warehouse");
        await site.PublishAsync([count, Site.Field("twice", type: "warehouse") with { Formula = "counted * 2" }]);
        await GoAsync(count, count with { DefaultValue = "4", FillExisting = true });
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.warehouse w LEFT JOIN added.warehouse a ON a.id = w.id "
                    + "WHERE a.counted IS DISTINCT FROM 4 OR a.twice IS DISTINCT FROM 8"
            )
        );

        var said = await GoAsync(count, count with { DefaultValue = "4", FillExisting = true, AlsoOn = [new("employee")] });
        Assert.Contains(
            "With employees: Records on file get the default in the background, which can be undone.",
            said.Single(),
            StringComparison.Ordinal
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.employee e LEFT JOIN added.employee a ON a.id = e.id WHERE a.counted IS DISTINCT FROM 4"
            )
        );
    }

    [Fact(DisplayName = "A merged choice is counted on every record type on which its field stands, and the count is what the jobs change")]
    public async Task Merges_are_counted()
    {
        Choice[] choices = [new("a", "Old"), new("b", "New")];
        var grade = Site.Field("grade", "choice", type: "warehouse") with { Choices = choices, AlsoOn = [new("employee")] };
        await site.PublishAsync([grade]);
        await site.ScalarAsync(
            "INSERT INTO added.warehouse (id, grade) SELECT id, 'a' FROM erp.warehouse ON CONFLICT (id) DO UPDATE SET grade = 'a'"
        );
        await site.ScalarAsync(
            "INSERT INTO added.employee (id, grade) SELECT id, CASE WHEN id <= 5 THEN 'a' ELSE 'b' END "
                + "FROM erp.employee ON CONFLICT (id) DO UPDATE SET grade = excluded.grade"
        );
        var many = (long)(await site.ScalarAsync("SELECT count(*) FROM erp.warehouse"))! + 5;
        var said = await GoAsync(grade, grade with { Choices = [choices[0] with { Retired = true, MergedInto = "b" }, choices[1]] });
        Assert.Equal($"{many} records with Old get New; it can be undone. All other values on file stay as they are.", said.Single());
        await using var context = await site.Services.GetRequiredService<IDbContextFactory<PeltoContext>>().CreateDbContextAsync();
        Assert.Equal(many, context.Jobs.Where(job => job.Work == PlannedJob.MergeChoice).Sum(job => job.Changed));
    }

    // Takes a draft live in which the field is as given, and gives what was said of it; its jobs are done by then.
    private async Task<IReadOnlyList<string>> GoAsync(FieldDefinition plain, FieldDefinition? becomes)
    {
        await site.Drafts.ChangeAsync(
            draft => becomes is null ? draft with { Fields = [.. draft.Fields.Where(field => field.Id != plain.Id)] } : draft.With(becomes),
            "Test",
            Site.Administrator
        );
        var (_, _, plan) = await site.Plans.PlanAsync(Site.Administrator);
        Assert.Empty(plan.Problems);
        if (plan.IsEmpty)
            return [];
        Assert.Equal(
            PublishingState.Done,
            (await site.Publishings.RunAsync(await site.Publisher.StartAsync("On", Site.Administrator))).State
        );
        await Jobs.RunOpenAsync();
        Assert.All((await Jobs.AllAsync()).Where(job => job.Release == site.Catalogues.Live.Release), job =>
            Assert.Equal(JobState.Done, job.State)
        );
        return [.. plan.Changes.Where(change => change.Element == plain.Id).Select(change => change.Effect).Distinct()];
    }

    // Half of the rows hold a value of somebody's own, the others none.
    private async Task MixAsync()
    {
        if (
            await site.ScalarAsync(
                "SELECT 1 FROM information_schema.columns WHERE table_schema = 'added' "
                    + "AND table_name LIKE 'warehouse%' AND column_name = 'fate'"
            )
            is null
        )
            return;
        await site.ScalarAsync(
            "INSERT INTO added.warehouse (id, fate) SELECT id, CASE WHEN id % 2 = 0 THEN 100 + id END "
                + "FROM erp.warehouse ON CONFLICT (id) DO UPDATE SET fate = excluded.fate"
        );
    }

    private Task<Dictionary<long, long?>> GivenAsync() => ReadAsync($"SELECT id, ({Gives})::bigint FROM erp.warehouse ORDER BY id");

    private async Task<Dictionary<long, long?>> ValuesAsync() =>
        await site.ScalarAsync(
            "SELECT 1 FROM information_schema.columns WHERE table_schema = 'added' "
                + "AND table_name LIKE 'warehouse%' AND column_name = 'fate'"
        )
            is null
            ? await ReadAsync("SELECT id, NULL::bigint FROM erp.warehouse ORDER BY id")
            : await ReadAsync("SELECT w.id, a.fate::bigint FROM erp.warehouse w LEFT JOIN added.warehouse a ON a.id = w.id ORDER BY w.id");

    private async Task<Dictionary<long, long?>> ReadAsync(string sql)
    {
        await using var command = site.Source.CreateCommand(await site.SpreadAsync(sql));
        await using var reader = await command.ExecuteReaderAsync();
        var rows = new Dictionary<long, long?>();
        while (await reader.ReadAsync())
            rows[reader.GetInt64(0)] = reader.IsDBNull(1) ? null : reader.GetInt64(1);
        return rows;
    }
}
