namespace Pelto.Core.Elements;

/// <summary>Puts what somebody sends back, who was shown a part, among the rest.</summary>
internal static class SiteMerging
{
    /// <summary>What was sent, and what was not shown behind what stood before it, as far as that is still there.</summary>
    /// <param name="whole">All of them as they are.</param>
    /// <param name="seen">Those that were shown.</param>
    /// <param name="sent">Those that were sent back.</param>
    /// <param name="id">What one is known by.</param>
    public static IReadOnlyList<T> Of<T>(IReadOnlyList<T> whole, IReadOnlyList<T> seen, IReadOnlyList<T> sent, Func<T, string> id)
    {
        var (shown, now) = (seen.Select(id).ToHashSet(StringComparer.Ordinal), sent.Select(id).ToHashSet(StringComparer.Ordinal));
        var behind = new Dictionary<string, List<T>>(StringComparer.Ordinal);
        var last = "";
        foreach (var one in whole)
        {
            if (now.Contains(id(one)))
                last = id(one);
            else if (!shown.Contains(id(one)))
                (behind.TryGetValue(last, out var rest) ? rest : behind[last] = []).Add(one);
        }

        return
        [
            .. behind.GetValueOrDefault("") ?? [],
            .. sent.SelectMany(one => behind.GetValueOrDefault(id(one)) is { } rest ? rest.Prepend(one) : [one]),
        ];
    }
}
