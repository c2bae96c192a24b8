using System.Diagnostics;

namespace Pelto.Web;

/// <summary>
/// Work in the background that outlasts whatever goes wrong: it is logged, and begun again after a pause that grows with each failure in a
/// row.
/// Only the end of the program ends it.
/// </summary>
public abstract class EnduringService(ILogger log) : BackgroundService
{
    private static readonly TimeSpan Shortest = TimeSpan.FromSeconds(0.5);
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(5);

    /// <summary>What this does, for the log: "Listening for releases".</summary>
    protected abstract string What { get; }

    /// <summary>One round of it, or all of it for as long as it goes well.</summary>
    protected abstract Task WorkAsync(CancellationToken cancel);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        // Nothing here may hold up the start of the others.
        await Task.Yield();
        var pause = Shortest;
        while (!stoppingToken.IsCancellationRequested)
        {
            var began = Stopwatch.GetTimestamp();
            try
            {
                await WorkAsync(stoppingToken);
                pause = Shortest;
            }
            catch (Exception) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception error)
            {
                // Also what calls itself cancelled: a connection that broke can end in that, and nobody asked for an end.
                if (Stopwatch.GetElapsedTime(began) > Longest)
                    pause = Shortest;
                log.LogWarning(error, "{What} was cut off; it goes on in {Seconds} s", What, pause.TotalSeconds);
                await Task.Delay(pause, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
                pause = pause * 2 > Longest ? Longest : pause * 2;
            }
        }
    }
}
