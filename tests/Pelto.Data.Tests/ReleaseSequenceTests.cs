using Pelto.Core.Releases;

namespace Pelto.Data.Tests;

/// <summary>
/// Long random lives of a site, held against a plain model: whatever is defined, changed, taken out and brought back, nothing entered is
/// lost.
/// </summary>
public sealed class ReleaseSequenceTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private const string Type = "employee";
    private readonly Dictionary<string, Value> entered = new(StringComparer.Ordinal);
    private readonly Dictionary<string, FieldDefinition> ever = new(StringComparer.Ordinal);

    [Fact(DisplayName = "After any sequence of releases, columns, rules and values are what the definitions and the entries say")]
    public async Task Sequences_keep_everything()
    {
        var random = new Random(7);
        for (var step = 0; step < 36; step++)
        {
            var live = site.Catalogues.Live.Site;
            var next = Next(random, live, $"step_{step}");
            if (next.IsSameAs(live))
                continue;
            await site.Drafts.ChangeAsync(_ => next, "Test", Site.Administrator);
            Assert.Equal(
                PublishingState.Done,
                (await site.Publishings.RunAsync(await site.Publisher.StartAsync("Step", Site.Administrator))).State
            );
            await EnterAsync(random);
            await CheckAsync();
        }
    }

    private SiteDefinition Next(Random random, SiteDefinition live, string code)
    {
        switch (random.Next(5))
        {
            case 0 when live.Fields.Count > 0:
                return live.Without(live.Fields[random.Next(live.Fields.Count)].Id);
            case 1 when ever.Values.FirstOrDefault(field => live.Find(field.Id) is null) is { } gone:
                return live.With(gone);
            case 2 when live.Fields.LastOrDefault(field => field.Kind == "text") is { } text:
                return Remembered(live, text with { Length = text.Length + 5, Label = text.Label + "!" });
            case 3 when live.Fields.LastOrDefault(field => field.Kind == "choice") is { } choice:
                return Remembered(
                    live,
                    choice with
                    {
                        Choices = [.. choice.Choices!, new($"c{choice.Choices!.Count}", $"Choice {choice.Choices.Count}")],
                    }
                );
            default:
                return Remembered(
                    live,
                    random.Next(3) switch
                    {
                        0 => Site.Field(code, "text", type: Type) with { Length = 8 },
                        1 => Site.Field(code, "decimal", type: Type) with { Digits = 6, Decimals = 1 },
                        _ => Site.Field(code, "choice", type: Type) with { Choices = [new("c0", "Choice 0")] },
                    }
                );
        }
    }

    private SiteDefinition Remembered(SiteDefinition live, FieldDefinition field)
    {
        ever[field.Id] = field;
        return live.With(field);
    }

    private async Task EnterAsync(Random random)
    {
        var type = site.Type(Type);
        if (type.Header.AddedFields.ToList() is not { Count: > 0 } fields)
            return;
        var field = fields[random.Next(fields.Count)];
        var value = field.Kind switch
        {
            TextKind => Value.From($"t{random.Next(1000)}"),
            ChoiceKind => Value.From("c0"),
            _ => Value.From(random.Next(9999) / 10m),
        };
        Assert.Equal(
            SaveResult.Saved,
            (await site.Saver.SaveAsync(type, 3, site.Changes(Type, (field.Code, value)), Site.Administrator)).Result
        );
        entered[field.Code] = value;
    }

    private async Task CheckAsync()
    {
        var type = site.Type(Type);
        var record = (await site.Store.FindAsync(type, 3, Site.Administrator))!;
        Assert.All(type.Header.AddedFields, field => Assert.Equal(entered.GetValueOrDefault(field.Code), record.Header[field.Slot]));

        // What was taken out keeps its column and its values; every rule is validated, and there is one of each for each column.
        var stored = (
            (string?)
                await site.ScalarAsync(
                    "SELECT string_agg(column_name, ',' ORDER BY column_name) FROM information_schema.columns "
                        + "WHERE table_schema = 'added' AND table_name LIKE 'employee%' AND column_name <> 'id'"
                )
            ?? ""
        ).Split(',', StringSplitOptions.RemoveEmptyEntries);
        Assert.Empty(entered.Keys.Except(stored));
        Assert.Equal(
            0L,
            await site.ScalarAsync("SELECT count(*) FROM pg_constraint WHERE connamespace = 'added'::regnamespace AND NOT convalidated")
        );
        Assert.All(type.Header.AddedFields, field => Assert.Contains(field.Code, stored));
        var wanted = type.Header.AddedFields.SelectMany(AddCheck.For).Select(check => check.Name).ToList();
        var rules = (
            (string?)
                await site.ScalarAsync(
                    "SELECT string_agg(conname, ',') FROM pg_constraint "
                        + "WHERE conrelid::regclass::text LIKE 'added.%employee%' AND contype = 'c'"
                )
            ?? ""
        ).Split(',');
        Assert.Empty(wanted.Except(rules));
    }
}
