using Microsoft.Extensions.Logging;

namespace Pelto.Data.Queries;

/// <summary>
/// The database role that queries run as, and its connections: it reads the views of schema <c>readable</c>, and nothing else.
/// </summary>
/// <remarks>
/// It signs in for itself, so no query can become another role. Its transactions are read-only. All functions but those of
/// <see cref="QueryFunctions"/>, such as those that sleep, lock, notify, change settings or read tables by a name in a text, are taken from
/// everybody but Pelto's own roles,
/// in this database: that it cannot call them is the database's doing.
/// </remarks>
/// <param name="connection">The connection string of the database.</param>
/// <param name="secrets">Derives its password, which is kept nowhere.</param>
/// <param name="log">Takes why there are no queries.</param>
public sealed class QueryRole(string connection, Secrets secrets, ILogger<QueryRole> log) : IAsyncDisposable
{
    /// <summary>What its connections are called in the database.</summary>
    internal const string Named = "Pelto queries";

    private const int MaxConnections = 10;
    private const int LongestName = 63;
    private readonly string database = new NpgsqlConnectionStringBuilder(connection).Database ?? "pelto";
    private NpgsqlDataSource? source;

    /// <summary>Its name: that of the database with a word behind, since roles belong to a whole server.</summary>
    public string Name => NameFor(database);

    /// <summary>The name of the role of a database.</summary>
    public static string NameFor(string database) =>
        (database.Length > LongestName - 8 ? database[..(LongestName - 8)] : database) + "_queries";

    /// <summary>Its connections; null where this server lets Pelto make no role.</summary>
    public NpgsqlDataSource? Source => source;

    private string Password => secrets.Derive("query role " + Name);

    /// <summary>Makes the role and what it may do. Safe to repeat.</summary>
    /// <param name="owner">A connection of Pelto's own.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task EnsureAsync(NpgsqlConnection owner, CancellationToken cancel)
    {
        var role = Sql.Name(Name);
        try
        {
            await owner
                .Command(
                    $"""
                    DO $$ BEGIN CREATE ROLE {role} LOGIN; EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; END $$;
                    ALTER ROLE {role} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION NOINHERIT PASSWORD '{Password}' CONNECTION LIMIT {(
                        MaxConnections * 4
                    ).ToString(CultureInfo.InvariantCulture)};
                    ALTER ROLE {role} IN DATABASE {Sql.Name(database)} SET default_transaction_read_only = on;
                    ALTER ROLE {role} IN DATABASE {Sql.Name(database)} SET search_path = {ReadableViews.Schema};
                    ALTER ROLE {role} IN DATABASE {Sql.Name(database)} SET statement_timeout = '{(int)
                        QueryRunner.Longest.TotalMilliseconds}';
                    CREATE SCHEMA IF NOT EXISTS {ReadableViews.Schema};
                    GRANT TEMPORARY ON DATABASE {Sql.Name(database)} TO CURRENT_USER;
                    REVOKE TEMPORARY ON DATABASE {Sql.Name(database)} FROM PUBLIC;
                    REVOKE CREATE ON SCHEMA public FROM PUBLIC;
                    GRANT USAGE ON SCHEMA {ReadableViews.Schema}, {Core.Formulas.Functions.Schema}, public TO {role};
                    """
                )
                .RunAsync(cancel);
        }
        catch (PostgresException refused) when (refused.SqlState == PostgresErrorCodes.InsufficientPrivilege)
        {
            log.LogWarning(
                refused,
                "Queries are off: the database lets Pelto make no role for them. Give its role CREATEROLE, and start again"
            );
            return;
        }

        await TakeFunctionsAsync(owner, cancel);
        var settings = ConnectionSettings.From(connection, Named, MaxConnections);
        (settings.Username, settings.Password) = (Name, Password);
        source ??= NpgsqlDataSource.Create(settings);
    }

    /// <summary>Shows queries a catalogue, where there are queries (<see cref="ReadableViews.MakeAsync"/>).</summary>
    internal Task ShowAsync(NpgsqlDataSource owner, Catalogue catalogue, TimeSpan? longest, CancellationToken cancel) =>
        source is null ? Task.CompletedTask : ReadableViews.MakeAsync(owner, catalogue, Name, longest, cancel);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (source is not null)
            await source.DisposeAsync();
    }

    // What is open to all roles still is taken from all but the owner, and given back to the application by ApplicationRole. Where Pelto
    // does not own the server the functions stay;
    // the read-only transaction, the limit of time and what the database puts down of each query are left.
    private async Task TakeFunctionsAsync(NpgsqlConnection owner, CancellationToken cancel)
    {
        try
        {
            await owner
                .Command(
                    $"""
                    DO $$ DECLARE one text; BEGIN
                      FOR one IN SELECT p.oid::regprocedure::text FROM pg_proc p WHERE p.pronamespace = 'pg_catalog'::regnamespace AND p.prokind IN ('f', 'w') AND has_function_privilege('public', p.oid, 'EXECUTE') AND NOT {QueryFunctions.Allowed} LOOP
                        EXECUTE 'GRANT EXECUTE ON FUNCTION ' || one || ' TO CURRENT_USER';
                        EXECUTE 'REVOKE EXECUTE ON FUNCTION ' || one || ' FROM PUBLIC';
                      END LOOP;
                    END $$
                    """
                )
                .RunAsync(cancel);
        }
        catch (PostgresException refused) when (refused.SqlState == PostgresErrorCodes.InsufficientPrivilege)
        {
            log.LogWarning(
                "Functions that queries may not call stay open to all roles of this database: Pelto's role may not take them away"
            );
        }
    }
}
