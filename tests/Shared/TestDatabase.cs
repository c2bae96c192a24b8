using Npgsql;
using Pelto.Data;
using Pelto.Data.Hosts;

[assembly: AssemblyFixture(typeof(Pelto.Tests.TemplateDatabase))]

namespace Pelto.Tests;

/// <summary>A database with the sample company, installed once for all tests of an assembly; each test class works on a copy.</summary>
public sealed class TemplateDatabase : IAsyncLifetime
{
    private static readonly string Server = Environment.GetEnvironmentVariable("PELTO_TEST_SERVER")
        ?? throw new InvalidOperationException("PELTO_TEST_SERVER names no PostgreSQL server. Run the tests with ./pelto test.");

    private static readonly string Name = $"pelto_test_{Guid.NewGuid():N}";

    /// <summary>The folder of the host description.</summary>
    public static string HostFolder { get; } =
        Environment.GetEnvironmentVariable("PELTO_HOST") ?? throw new InvalidOperationException("PELTO_HOST names no folder.");

    /// <summary>The file with the key of secrets.</summary>
    public static string KeyFile { get; } = Path.Combine(Path.GetTempPath(), $"pelto-test-{Environment.ProcessId}.key");

    public async ValueTask InitializeAsync()
    {
        await RunAsync($"CREATE DATABASE {Name}");
        await using var services = new ServiceCollection()
            .AddLogging()
            .AddPeltoData(ConnectionTo(Name), HostFolder, KeyFile)
            .BuildServiceProvider();
        await services.GetRequiredService<Installer>().EnsureAsync();
        NpgsqlConnection.ClearAllPools();
    }

    public async ValueTask DisposeAsync()
    {
        File.Delete(KeyFile);
        await DropAsync(Name);
    }

    /// <summary>Makes a copy to work on; gives its connection string.</summary>
    public static async Task<string> CopyAsync(string copy)
    {
        await RunAsync($"CREATE DATABASE {copy} TEMPLATE {Name}");

        // A test need not outlive a crash of the machine.
        await RunAsync($"ALTER DATABASE {copy} SET synchronous_commit = off");
        return ConnectionTo(copy);
    }

    /// <summary>Throws a copy away, with its roles.</summary>
    public static async Task DropAsync(string copy)
    {
        await RunAsync($"DROP DATABASE IF EXISTS {copy} WITH (FORCE)");
        foreach (var role in new[] { Data.Queries.QueryRole.NameFor(copy), Data.Definitions.ApplicationRole.NameFor(copy) })
            await RunAsync($"DROP ROLE IF EXISTS {role}");
    }

    private static string ConnectionTo(string database) =>
        new NpgsqlConnectionStringBuilder(Server) { Database = database }.ConnectionString;

    private static async Task RunAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(Server) { Database = "postgres", Pooling = false }.ConnectionString
        );
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection) { CommandTimeout = 120 };
        await command.ExecuteNonQueryAsync();
    }
}
