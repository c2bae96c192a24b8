using Microsoft.EntityFrameworkCore;
using Npgsql;
using Pelto.Data.Definitions;

namespace Pelto.Data.Storage;

/// <summary>The database as the role that owns it, which makes and changes tables: for installing and publishing. All else goes as <see cref="ApplicationRole"/>.</summary>
/// <param name="connection">The connection string that the installation was given.</param>
public sealed class OwnerDatabase(string connection) : IAsyncDisposable
{
    // One publishes at a time, with a few connections beside.
    private const int MostConnections = 10;

    /// <summary>Its connections.</summary>
    public NpgsqlDataSource Source { get; } = NpgsqlDataSource.Create(new NpgsqlConnectionStringBuilder(connection) { MaxPoolSize = MostConnections, ApplicationName = "Pelto, publishing" });

    /// <summary>Our own tables, as their owner.</summary>
    public PeltoContext NewContext()
    {
        var builder = new DbContextOptionsBuilder<PeltoContext>();
        PeltoContext.Configure(builder, Source);
        return new(builder.Options);
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => Source.DisposeAsync();
}
