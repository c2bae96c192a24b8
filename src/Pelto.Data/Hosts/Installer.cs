using System.Security.Cryptography;
using System.Text;
using Pelto.Core.Binding;
using Pelto.Core.Formulas;
using Pelto.Data.Queries;
using Pelto.Data.Records;

namespace Pelto.Data.Hosts;

/// <summary>
/// Makes a database ready: our own tables, the host's tables with their sample data, the sample company's people, and release 1.
/// </summary>
public sealed class Installer(
    OwnerDatabase database,
    ApplicationRole application,
    HostVersions hosts,
    QueryRole queries,
    KeyCheck key,
    SampleCompany sample
)
{
    // Seconds, for what may wait for another node.
    internal const int Patience = 300;

    private HostDescription Host => hosts.Installed;

    private const int MaxTries = 20;

    /// <summary>Makes what is missing. Safe to repeat, and to run on several nodes at once, also while one of them publishes.</summary>
    public async Task EnsureAsync(CancellationToken cancel = default)
    {
        for (var tries = 1; ; tries++)
        {
            try
            {
                await EnsureOnceAsync(cancel);
                return;
            }
            catch (Exception error) when (tries < MaxTries && DatabaseErrors.IsLock(error))
            {
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(50, 250)), cancel);
            }
        }
    }

    private async Task EnsureOnceAsync(CancellationToken cancel)
    {
        await using var guard = await database.Source.OpenConnectionAsync(cancel);
        await guard.Command($"SELECT pg_advisory_lock({DatabaseLocks.Installing})").Unhurried(Patience).RunAsync(cancel);
        try
        {
            await using var context = database.NewContext();
            await MigrateAsync(context, cancel);
            await key.EnsureAsync(context, cancel);
            await MakeFunctionsAsync(guard, cancel);
            if (!await context.Releases.AnyAsync(cancel))
                await sample.InstallAsync(context, cancel);
            else
                await RefuseEarlierHostAsync(guard, cancel);

            await queries.EnsureAsync(guard, cancel);
            await application.EnsureAsync(guard, cancel);
            await KeepZonesAsync(context, cancel);
            await MakeReadableAsync(context, guard, cancel);

            // After the data, which is quicker. Asked first: to say "if not exists" waits for everybody who writes.
            foreach (var type in Catalogue.Build(1, Host, SiteDefinition.Nothing).RecordTypes)
                if (await guard.Command($"SELECT to_regclass('{PickSql.LastIndex(type)}') IS NULL").ValueAsync<bool>(cancel))
                    await guard.Command(PickSql.Indexes(type)).Unhurried(Patience).RunAsync(cancel);
        }
        finally
        {
            // Where the connection broke, the lock went with it.
            if (guard.State == System.Data.ConnectionState.Open)
                await guard
                    .Command($"SELECT pg_advisory_unlock({DatabaseLocks.Installing})")
                    .Unhurried(Patience)
                    .RunAsync(CancellationToken.None);
        }
    }

    // Where people are read, the host is not at hand.
    private async Task KeepZonesAsync(PeltoContext context, CancellationToken cancel)
    {
        var zones = Host
            .Companies.Where(company => company.Zone is not null)
            .Select(company => new SettingRow { Name = ViewerRows.ZoneOf + company.Code, Value = company.Zone! })
            .ToList();
        var names = zones.Select(zone => zone.Name).ToList();
        var stored = await context
            .Settings.AsNoTracking()
            .Where(row => names.Contains(row.Name))
            .ToDictionaryAsync(row => row.Name, cancel);
        await context.UpsertAsync([.. zones.Where(zone => stored.GetValueOrDefault(zone.Name)?.Value != zone.Value)], cancel);
    }

    // What queries read; also for a database that was given another name.
    // Whoever publishes just now makes them those of the release that is about to go live.
    private async Task MakeReadableAsync(PeltoContext context, NpgsqlConnection guard, CancellationToken cancel)
    {
        if (
            queries.Source is null
            || !await guard.Command($"SELECT pg_try_advisory_lock({DatabaseLocks.Publishing})").ValueAsync<bool>(cancel)
        )
            return;
        try
        {
            await MakeReadableAsync(context, cancel);
            await guard
                .Command($"GRANT SELECT ON ALL TABLES IN SCHEMA {ReadableViews.Schema} TO {Sql.Name(queries.Name)}")
                .Unhurried(Patience)
                .RunAsync(cancel);
        }
        finally
        {
            if (guard.State == System.Data.ConnectionState.Open)
                await guard
                    .Command($"SELECT pg_advisory_unlock({DatabaseLocks.Publishing})")
                    .Unhurried(Patience)
                    .RunAsync(CancellationToken.None);
        }
    }

    private async Task MakeReadableAsync(PeltoContext context, CancellationToken cancel)
    {
        var newest = await context.Releases.AsNoTracking().OrderByDescending(row => row.Number).FirstAsync(cancel);
        var site = SiteDefinition.FromJson(newest.Definition);
        await ReadableViews.MakeAsync(database.Source, Catalogue.Build(newest.Number, hosts.For(site), site), queries.Name, null, cancel);
    }

    // What formulas call in the database; made again when this version has others. The comment on their schema says which are there.
    private static async Task MakeFunctionsAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        var mark = Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(Functions.Script)));
        var there = connection.Command($"SELECT obj_description(to_regnamespace('{Functions.Schema}'), 'pg_namespace')");
        if (await there.ValueAsync<string>(cancel) != mark)
            await connection
                .Command($"BEGIN; {Functions.Script} COMMENT ON SCHEMA {Functions.Schema} IS '{mark}'; COMMIT")
                .Unhurried(Patience)
                .RunAsync(cancel);
    }

    // Our own tables go forward with the program, never back. Where they are as they are to be, EF Core is not asked to find that out: it
    // compares the whole model with the last migration, which takes a good part of a start.
    private static async Task MigrateAsync(PeltoContext context, CancellationToken cancel)
    {
        var known = context.Database.GetMigrations().ToHashSet(StringComparer.Ordinal);
        var applied = (await context.Database.GetAppliedMigrationsAsync(cancel)).ToList();
        if (applied.Exists(migration => !known.Contains(migration)))
            throw new HostException(
                "Another version of Pelto set this database up, and this one cannot work with it. "
                    + "Start that version, or make the demo data anew with ./pelto reset."
            );
        if (applied.Count < known.Count)
            await context.Database.MigrateAsync(cancel);
    }

    // The host's tables are its own: Pelto makes them once, with the demo data, and does not change them.
    private async Task RefuseEarlierHostAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        var ask = connection.Command("SELECT table_name || '.' || column_name FROM information_schema.columns WHERE table_schema = 'erp'");
        var there = (await ask.ListAsync(row => row.GetString(0), cancel)).ToHashSet(StringComparer.Ordinal);
        var missing = Catalogue
            .Build(1, Host, SiteDefinition.Nothing)
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.Fields)
            .FirstOrDefault(field => !there.Contains($"{field.Part.Table}.{field.Columns[0].Name}"));
        if (missing is not null)
            throw new HostException(
                $"This database holds an earlier {Host.Label} {Host.Version}: "
                    + $"erp.{missing.Part.Table} has no {missing.Code}. Demo data is made anew with ./pelto reset."
            );
    }

    /// <summary>Goes on with the key of secrets that is here, when the one from before is lost; false when it is that one.</summary>
    public async Task<bool> TakeKeyAsync(CancellationToken cancel = default)
    {
        await using var context = database.NewContext();
        await MigrateAsync(context, cancel);
        var taken = await key.TakeAsync(context, cancel);
        await EnsureAsync(cancel);
        return taken;
    }

    /// <summary>Drops all that Pelto keeps in this database, then makes it anew.</summary>
    public async Task ResetAsync(CancellationToken cancel = default)
    {
        await using (var connection = await database.Source.OpenConnectionAsync(cancel))
            await connection
                .Command(
                    "DROP SCHEMA IF EXISTS readable CASCADE; DROP SCHEMA IF EXISTS added CASCADE; DROP SCHEMA IF EXISTS own CASCADE; "
                        + "DROP SCHEMA IF EXISTS erp CASCADE; DROP SCHEMA IF EXISTS pelto CASCADE; DROP SCHEMA IF EXISTS formulas CASCADE"
                )
                .Unhurried(Patience)
                .RunAsync(cancel);
        await EnsureAsync(cancel);
    }
}
