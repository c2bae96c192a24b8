using System.Collections.Concurrent;
using Pelto.Core.Catalog;
using Pelto.Data.Storage;

namespace Pelto.Web.Components;

/// <summary>How many records there are of each type, for the rail; looked up now and then, since a rail that is some seconds old misleads nobody.</summary>
public sealed class RecordCounts(FactsReader facts, TimeProvider clock)
{
    private static readonly TimeSpan Good = TimeSpan.FromSeconds(10);
    private readonly ConcurrentDictionary<string, (long Count, DateTimeOffset At)> known = new(StringComparer.Ordinal);

    /// <summary>The count, or what it was a moment ago.</summary>
    public async Task<long> OfAsync(RecordType type) => (await OfAsync([type]))[type];

    /// <summary>The counts of many, or what they were a moment ago.</summary>
    public async Task<IReadOnlyDictionary<RecordType, long>> OfAsync(IReadOnlyList<RecordType> types)
    {
        var now = clock.GetUtcNow();
        var old = types.Where(type => !known.TryGetValue(type.Code, out var recent) || now - recent.At >= Good).ToList();

        // Those of the site may have no table yet, so each is asked on its own.
        var builtIn = old.Where(type => type.Own is null).ToList();
        if (builtIn.Count > 0)
            foreach (var (type, count) in builtIn.Zip(await facts.CountAsync(builtIn))) known[type.Code] = (count, now);
        foreach (var type in old.Where(type => type.Own is not null)) known[type.Code] = (await facts.CountAsync(type), now);
        return types.ToDictionary(type => type, type => known[type.Code].Count);
    }
}
