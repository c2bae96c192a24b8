using Pelto.Data.Jobs;

namespace Pelto.Web;

/// <summary>Asks, in the background, what saves did not wait for.</summary>
public sealed class LateQueriesService(LateQueries beside, ILogger<LateQueriesService> log) : EnduringService(log)
{
    /// <inheritdoc/>
    protected override string What => "Asking beside saves";

    /// <inheritdoc/>
    protected override Task WorkAsync(CancellationToken cancel) => beside.RunAsync(cancel);
}
