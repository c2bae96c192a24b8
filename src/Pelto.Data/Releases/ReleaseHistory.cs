using Pelto.Core.Elements;

namespace Pelto.Data.Releases;

/// <summary>A release in which something happened to an element.</summary>
public sealed record ReleaseMark(int Release, string Comment, string By, DateTimeOffset At);

/// <summary>Since when an element is there, and when it last changed.</summary>
public sealed record ElementHistory(ReleaseMark Since, ReleaseMark Changed);

/// <summary>What the releases tell of each element that has a page. Calculated once for each live release.</summary>
public sealed class ReleaseHistory(IDbContextFactory<PeltoContext> contexts, Catalogues catalogues)
{
    private Known known = new(0, new Dictionary<string, ElementHistory>(), new Dictionary<string, string>());

    /// <summary>By the element's lasting id.</summary>
    public async Task<IReadOnlyDictionary<string, ElementHistory>> AllAsync(CancellationToken cancel = default)
    {
        // Only what came since: what the earlier ones tell stays, however many they are.
        var recent = known;
        if (recent.Release >= catalogues.Live.Release)
            return recent.Elements;
        var (elements, before) = (
            new Dictionary<string, ElementHistory>(recent.Elements, StringComparer.Ordinal),
            new Dictionary<string, string>(recent.Texts, StringComparer.Ordinal)
        );
        var last = recent.Release;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await foreach (
            var row in context
                .Releases.AsNoTracking()
                .Where(row => row.Number > recent.Release)
                .OrderBy(row => row.Number)
                .AsAsyncEnumerable()
                .WithCancellation(cancel)
        )
        {
            last = row.Number;
            var mark = new ReleaseMark(row.Number, row.Comment, row.PublishedBy, row.PublishedAt);
            foreach (var (id, text) in Elements(SiteDefinition.FromJson(row.Definition)))
            {
                if (!elements.TryGetValue(id, out var history))
                    elements[id] = new(mark, mark);
                else if (before[id] != text)
                    elements[id] = history with { Changed = mark };
                before[id] = text;
            }
        }

        known = new(last, elements, before);
        return elements;
    }

    private sealed record Known(
        int Release,
        IReadOnlyDictionary<string, ElementHistory> Elements,
        IReadOnlyDictionary<string, string> Texts
    );

    private static IEnumerable<(string Id, string Text)> Elements(SiteDefinition site) =>
        from sort in ElementSorts.WithPage
        from id in sort.In(site).Select(element => element.ElementId).Distinct()
        select (id, sort.Text(site, id)!);
}
