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
    public async Task<long> OfAsync(RecordType type)
    {
        if (known.TryGetValue(type.Code, out var recent) && clock.GetUtcNow() - recent.At < Good) return recent.Count;
        var count = await facts.CountAsync(type);
        known[type.Code] = (count, clock.GetUtcNow());
        return count;
    }
}
