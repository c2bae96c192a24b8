namespace Pelto.Data.Definitions;

/// <summary>
/// The database as the role that owns it, which makes and changes tables: for installing and publishing. All else goes as
/// <see cref="ApplicationRole"/>.
/// </summary>
/// <param name="connection">The connection string that the installation was given.</param>
/// <param name="contexts">Makes contexts of the application.</param>
public sealed class OwnerDatabase(string connection, IDbContextFactory<PeltoContext> contexts) : IAsyncDisposable
{
    // One publishes at a time, with a few connections beside.
    private const int MaxConnections = 10;

    /// <summary>What its connections are called in the database.</summary>
    internal const string Named = "Pelto, publishing";

    /// <summary>Its connections.</summary>
    public NpgsqlDataSource Source { get; } = NpgsqlDataSource.Create(ConnectionSettings.From(connection, Named, MaxConnections));

    /// <summary>
    /// Our own tables, as their owner. The context is one of the application over another connection: with options of its own, all that EF
    /// Core calculates of the model would be calculated twice at each start.
    /// </summary>
    public PeltoContext NewContext()
    {
        var context = contexts.CreateDbContext();
        context.Database.SetDbConnection(Source.CreateConnection(), contextOwnsConnection: true);
        return context;
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => Source.DisposeAsync();
}
