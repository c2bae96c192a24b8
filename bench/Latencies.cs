using System.Collections.Concurrent;
using System.Diagnostics;

namespace Pelto.Bench;

/// <summary>How long saves took, and how many failed.</summary>
internal sealed class Latencies
{
    private readonly ConcurrentBag<double> milliseconds = [];
    private int failed;

    public int Failed => failed;

    public int Count => milliseconds.Count;

    public void Add(TimeSpan took) => milliseconds.Add(took.TotalMilliseconds);

    /// <summary>Does something, and puts down how long it took.</summary>
    public async Task TimeAsync(Func<Task> work)
    {
        var started = Stopwatch.GetTimestamp();
        await work();
        Add(Stopwatch.GetElapsedTime(started));
    }

    public void Fail() => Interlocked.Increment(ref failed);

    /// <summary>The time within which that share of saves was done.</summary>
    public double At(double share)
    {
        var sorted = milliseconds.Order().ToArray();
        return sorted.Length == 0 ? 0 : sorted[(int)Math.Min(sorted.Length - 1, Math.Ceiling(sorted.Length * share) - 1)];
    }

    public string Row(string name, double seconds) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"| {name} | {Count} | {Count / seconds:0} | {Failed} | {At(0.5):0} | {At(0.99):0} | {At(1):0} |"
        );
}
