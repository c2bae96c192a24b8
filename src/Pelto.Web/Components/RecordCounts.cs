using System.Collections.Concurrent;
using Pelto.Data.Storage;

namespace Pelto.Web.Components;

/// <summary>
/// How many records there are of each type, for the rail: of those that somebody may read. Looked up now and then, since a rail that is
/// some seconds old misleads nobody.
/// </summary>
public sealed class RecordCounts(FactsReader facts, RecordLists lists, TimeProvider clock)
{
    /// <summary>For how long a count is good.</summary>
    public static TimeSpan Good { get; set; } = TimeSpan.FromSeconds(10);

    private const int MaxCached = 5_000;
    private readonly ConcurrentDictionary<(string Type, Guid Person), (long Count, DateTimeOffset At)> known = new();

    /// <summary>The count, or what it was a moment ago.</summary>
    public async Task<long> OfAsync(RecordType type, Viewer viewer) => (await OfAsync([type], viewer))[type];

    /// <summary>The counts of many, or what they were a moment ago.</summary>
    public async Task<IReadOnlyDictionary<RecordType, long>> OfAsync(IReadOnlyList<RecordType> types, Viewer viewer)
    {
        var now = clock.GetUtcNow();
        if (known.Count > MaxCached)
            known.Clear();

        // Who may read all of them shares a count; where the record decides, each has their own.
        (string, Guid) Key(RecordType type) => (type.Code, viewer.AccessAt(type).For(type).Read.IsSure ? Guid.Empty : viewer.Id);
        var old = types.Where(type => !known.TryGetValue(Key(type), out var recent) || now - recent.At >= Good).ToList();
        foreach (var type in old.Where(type => Key(type).Item2 != Guid.Empty).ToList())
        {
            known[Key(type)] = (await lists.CountAsync(type, viewer), now);
            old.Remove(type);
        }

        // Those of the site may have no table yet, so each is asked on its own.
        var builtIn = old.Where(type => type.Definition is null).ToList();
        if (builtIn.Count > 0)
            foreach (var (type, count) in builtIn.Zip(await facts.CountAsync(builtIn)))
                known[Key(type)] = (count, now);
        foreach (var type in old.Where(type => type.Definition is not null))
            known[Key(type)] = (await facts.CountAsync(type), now);
        return types.ToDictionary(type => type, type => known.TryGetValue(Key(type), out var found) ? found.Count : 0);
    }
}
