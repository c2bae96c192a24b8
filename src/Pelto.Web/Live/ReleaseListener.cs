using Npgsql;
using Pelto.Data;
using Pelto.Data.Storage;

namespace Pelto.Web.Live;

/// <summary>Hears of releases, from whichever node published them, goes there and tells the open pages.</summary>
internal sealed class ReleaseListener(NpgsqlDataSource source, Catalogues catalogues, LiveHub hub, ILogger<ReleaseListener> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        catalogues.WentLive += catalogue => hub.Tell(LiveEndpoint.ReleaseEvent(catalogue));
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await ListenAsync(stoppingToken);
            }
            catch (NpgsqlException lost)
            {
                log.LogWarning("Lost touch with the database: {Reason}. Trying again.", lost.Message);
                await Task.Delay(Pause, stoppingToken);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }

    private async Task ListenAsync(CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using (var command = new NpgsqlCommand($"LISTEN {Publisher.Channel}", connection)) await command.ExecuteNonQueryAsync(cancel);

        // What was said while nobody listened.
        await catalogues.CatchUpAsync(cancel);
        while (true)
        {
            await connection.WaitAsync(cancel);
            await catalogues.CatchUpAsync(cancel);
        }
    }
}
