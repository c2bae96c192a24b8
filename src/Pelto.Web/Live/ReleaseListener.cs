using Npgsql;

namespace Pelto.Web.Live;

/// <summary>Hears of releases, from whichever node published them, goes there and tells the open pages.</summary>
internal sealed class ReleaseListener : EnduringService
{
    // A connection that broke without a word is found out by then.
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(20);

    private readonly NpgsqlDataSource source;
    private readonly OwnerDatabase owner;
    private readonly Catalogues catalogues;

    public ReleaseListener(NpgsqlDataSource source, OwnerDatabase owner, Catalogues catalogues, LiveHub hub, ILogger<ReleaseListener> log)
        : base(log)
    {
        (this.source, this.owner, this.catalogues) = (source, owner, catalogues);
        catalogues.WentLive += catalogue => hub.Tell(LiveEndpoint.ReleaseEvent(catalogue));
    }

    protected override string What => "Listening for releases";

    protected override async Task WorkAsync(CancellationToken cancel)
    {
        // It hears at once that the database went away: connections from before are of no use to anybody.
        source.Clear();
        owner.Source.Clear();
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using (var command = new NpgsqlCommand($"LISTEN {ReleaseSwitch.Channel}", connection))
            await command.ExecuteNonQueryAsync(cancel);

        // What was said while nobody listened.
        await catalogues.CatchUpAsync(cancel);
        while (true)
        {
            if (await connection.WaitAsync(Silence, cancel))
                await catalogues.CatchUpAsync(cancel);
            else
                await using (var command = new NpgsqlCommand("SELECT 1", connection))
                    await command.ExecuteScalarAsync(cancel);
        }
    }
}
