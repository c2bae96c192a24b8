using Pelto.Data.Hosts;

namespace Pelto.Web;

/// <summary>Before the first request: make the database ready, load the live release, and finish a publishing that was cut off.</summary>
internal sealed class StartUp(Installer installer, Catalogues catalogues, PublishingQueue publishings, ILogger<StartUp> log)
    : IHostedService
{
    /// <summary>True once requests can be served.</summary>
    public bool IsOver { get; private set; }

    public async Task StartAsync(CancellationToken cancellationToken)
    {
        await installer.EnsureAsync(cancellationToken);
        await catalogues.CatchUpAsync(cancellationToken);
        try
        {
            await publishings.ResumeAsync(cancellationToken);
        }
        catch (AggregateException cutOff)
        {
            // Whoever works need not wait for it: it is tried again in the background.
            log.LogWarning(cutOff, "A publishing that was cut off could not be finished yet");
        }

        IsOver = true;
    }

    public Task StopAsync(CancellationToken cancellationToken) => Task.CompletedTask;
}
