using System.Security.Cryptography;
using System.Text;
using Microsoft.Extensions.Logging;

namespace Pelto.Data.Definitions;

/// <summary>
/// The database role that the application works as: it reads and writes rows, and neither makes nor changes tables. Of the audit it may add
/// and read entries; releases it only reads.
/// </summary>
/// <remarks>
/// It signs in for itself, so nothing that reaches the database through a page can become the owner. Where the server lets Pelto make no
/// role, the application works as the owner, and says so when it starts.
/// </remarks>
/// <param name="connection">The connection string of the owner.</param>
/// <param name="secrets">Derives its password, which is kept nowhere.</param>
/// <param name="log">Takes why there is no such role.</param>
public sealed class ApplicationRole(string connection, Secrets secrets, ILogger<ApplicationRole> log)
{
    // Enough for many people at once, few enough for several nodes on one server.
    private const int MaxConnections = 60;
    private const int LongestName = 63;
    private const string Mark = "application_role";
    private readonly string database = new NpgsqlConnectionStringBuilder(connection).Database ?? "pelto";

    /// <summary>What its connections are called in the database.</summary>
    internal const string Named = "Pelto";

    // What it calls in the database, of what has effects, that is taken from everybody else: see QueryRole. What has none is given to it as
    // a whole.
    private static readonly string[] Functions =
    [
        "nextval(regclass)",
        "setval(regclass, bigint)",
        "pg_notify(text, text)",
        "clock_timestamp()",
        "gen_random_uuid()",
        "random()",
        "set_config(text, text, boolean)",
        "pg_relation_size(regclass)",
        "pg_relation_size(regclass, text)",
        "pg_advisory_lock(bigint)",
        "pg_advisory_unlock(bigint)",
        "pg_try_advisory_lock(bigint)",
        "pg_advisory_xact_lock(bigint)",
        "pg_advisory_xact_lock(integer, integer)",
        "pg_try_advisory_xact_lock(bigint)",
    ];

    /// <summary>Its name: that of the database with a word behind, since roles belong to a whole server.</summary>
    public string Name => NameFor(database);

    /// <summary>The name of the role of a database.</summary>
    public static string NameFor(string database) =>
        (database.Length > LongestName - 4 ? database[..(LongestName - 4)] : database) + "_app";

    /// <summary>True when the application works as this role, once <see cref="Connect"/> was called.</summary>
    public bool IsSeparate { get; private set; }

    private string Password => secrets.Derive("application role " + Name);

    /// <summary>The connections of the application. They can be used once <see cref="EnsureAsync"/> has made the role.</summary>
    public NpgsqlDataSource Connect()
    {
        var settings = ConnectionSettings.From(connection, Named, MaxConnections);
        IsSeparate = MayMakeRoles();
        if (IsSeparate)
            (settings.Username, settings.Password) = (Name, Password);
        else
            log.LogWarning(
                "The application works as the owner of its database, which could change the audit: "
                    + "the server lets Pelto make no role. Give its role CREATEROLE, and start again"
            );
        return NpgsqlDataSource.Create(settings);
    }

    /// <summary>Makes the role and what it may do. Safe to repeat.</summary>
    /// <param name="owner">A connection of the owner.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task EnsureAsync(NpgsqlConnection owner, CancellationToken cancel)
    {
        if (!MayMakeRoles())
            return;
        var role = Sql.Name(Name);
        await owner
            .Command(
                $"""
                DO $$ BEGIN CREATE ROLE {role} LOGIN; EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; END $$;
                ALTER ROLE {role} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION NOBYPASSRLS PASSWORD '{Password}'
                """
            )
            .RunAsync(cancel);
        var script = $"""
            GRANT CONNECT, TEMPORARY ON DATABASE {Sql.Name(database)} TO {role};
            ALTER DEFAULT PRIVILEGES GRANT USAGE ON SCHEMAS TO {role};
            ALTER DEFAULT PRIVILEGES GRANT SELECT, INSERT, UPDATE, DELETE ON TABLES TO {role};
            ALTER DEFAULT PRIVILEGES GRANT SELECT, USAGE, UPDATE ON SEQUENCES TO {role};
            DO $$ DECLARE one text; BEGIN
              FOR one IN SELECT quote_ident(nspname) FROM pg_namespace WHERE nspname IN ('erp', 'added', 'own', 'linked', 'pelto', 'formulas', 'readable', 'public') LOOP
                EXECUTE 'GRANT USAGE ON SCHEMA ' || one || ' TO {role}';
                EXECUTE 'GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA ' || one || ' TO {role}';
                EXECUTE 'GRANT SELECT, USAGE, UPDATE ON ALL SEQUENCES IN SCHEMA ' || one || ' TO {role}';
              END LOOP;
            END $$;
            REVOKE INSERT, UPDATE, DELETE ON pelto.release, pelto.migrations FROM {role};
            REVOKE UPDATE, DELETE ON pelto.audit FROM {role};
            DO $$ DECLARE one text; BEGIN
              FOR one IN SELECT p.oid::regprocedure::text FROM pg_proc p WHERE p.pronamespace = 'pg_catalog'::regnamespace AND p.provolatile = 's' AND p.prokind = 'f' AND NOT {QueryFunctions.Allowed}
                AND NOT EXISTS (SELECT FROM pg_init_privs i WHERE i.objoid = p.oid AND i.classoid = 'pg_proc'::regclass) LOOP
                EXECUTE 'GRANT EXECUTE ON FUNCTION ' || one || ' TO {role}';
              END LOOP;
            END $$;
            GRANT EXECUTE ON FUNCTION {string.Join(", ", Functions.Select(function => "pg_catalog." + function))} TO {role};
            """;

        // Once for each text of it: granting writes to every table's description, which need not be at each start.
        var digest = Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(script)));
        await using var ask = new NpgsqlCommand("SELECT value FROM pelto.setting WHERE name = $1", owner)
        {
            Parameters = { new() { Value = Mark } },
        };
        if (await ask.ExecuteScalarAsync(cancel) as string == digest)
            return;
        await owner
            .Command(
                $"BEGIN; {script} INSERT INTO pelto.setting (name, value) VALUES ('{Mark}', '{digest}') "
                    + "ON CONFLICT (name) DO UPDATE SET value = excluded.value; COMMIT"
            )
            .RunAsync(cancel);
    }

    private bool MayMakeRoles()
    {
        using var owner = new NpgsqlConnection(connection);
        owner.Open();
        using var ask = new NpgsqlCommand("SELECT rolsuper OR rolcreaterole FROM pg_roles WHERE rolname = current_user", owner);
        return ask.ExecuteScalar() is true;
    }
}
