using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;
using Pelto.Data.Hosts;
using Pelto.Data.Releases;
using Pelto.Tests;

namespace Pelto.Data.Tests;

/// <summary>A whole installation on a database of its own, without the web.</summary>
public class Site : IAsyncLifetime
{
    private readonly string database = $"pelto_test_{Guid.NewGuid():N}";

    public static Viewer Administrator { get; } = new(Guid.NewGuid(), "Henna Aro", ["administrator"]);

    public static Viewer Desk { get; } = new(Guid.NewGuid(), "Eero Lahdenmaa", ["order_desk"]);

    public static Viewer Guest { get; } = new(Guid.NewGuid(), "Vieno Kallioaho", ["guest"]);

    /// <summary>How many columns a table of what is added takes.</summary>
    protected virtual int ColumnsInATable => Placing.MaxHeld;

    public ServiceProvider Services { get; private set; } = default!;

    public string Connection { get; private set; } = "";

    public RecordStore Store => Services.GetRequiredService<RecordStore>();

    public RecordSaver Saver => Services.GetRequiredService<RecordSaver>();

    public RecordDeleter Deleter => Services.GetRequiredService<RecordDeleter>();

    public SecretShowing Secrets => Services.GetRequiredService<SecretShowing>();

    public QueryOffers Offers => Services.GetRequiredService<QueryOffers>();

    public StockLevels Stock => Services.GetRequiredService<StockLevels>();

    public RecordLists Lists => Services.GetRequiredService<RecordLists>();

    public Catalogues Catalogues => Services.GetRequiredService<Catalogues>();

    public Drafts Drafts => Services.GetRequiredService<Drafts>();

    public AuditReader Audit => Services.GetRequiredService<AuditReader>();

    public Publisher Publisher => Services.GetRequiredService<Publisher>();

    /// <summary>Carries publishings through.</summary>
    public PublishingQueue Publishings => Services.GetRequiredService<PublishingQueue>();

    /// <summary>What publishing would do.</summary>
    public ReleasePlans Plans => Services.GetRequiredService<ReleasePlans>();

    /// <summary>The database as its owner, for what tests do by hand.</summary>
    public NpgsqlDataSource Source => Services.GetRequiredService<OwnerDatabase>().Source;

    public RecordType Type(string code) => Catalogues.Live.Find(code)!;

    public async ValueTask InitializeAsync()
    {
        Connection = await TemplateDatabase.CopyAsync(database);
        Services = new ServiceCollection()
            .AddLogging()
            .AddPeltoData(Connection, TemplateDatabase.HostFolder, TemplateDatabase.KeyFile)
            .BuildServiceProvider();
        await Services.GetRequiredService<Installer>().EnsureAsync();
        await Catalogues.CatchUpAsync();
        Drafts.ColumnsInATable = ColumnsInATable;
    }

    public async ValueTask DisposeAsync()
    {
        await Services.DisposeAsync();
        await TemplateDatabase.DropAsync(database);
    }

    /// <summary>Another node on the same database.</summary>
    /// <param name="clock">Its clock; that of the machine when none is given.</param>
    public async Task<ServiceProvider> AnotherNodeAsync(TimeProvider? clock = null)
    {
        var services = new ServiceCollection().AddLogging().AddPeltoData(Connection, TemplateDatabase.HostFolder, TemplateDatabase.KeyFile);
        if (clock is not null)
            services.AddSingleton(clock);
        var node = services.BuildServiceProvider();
        await node.GetRequiredService<Catalogues>().CatchUpAsync();
        return node;
    }

    /// <summary>Puts a field in the draft and publishes it.</summary>
    public async Task<PublishingRow> PublishAsync(FieldDefinition field, LayerOperation? placement = null)
    {
        await Drafts.ChangeAsync(site => site.With(field).Placing(field.Id, placement), "Test", Administrator);
        return await Publishings.RunAsync(await Publisher.StartAsync("For a test", Administrator));
    }

    /// <summary>Puts fields in the draft and publishes them together.</summary>
    public async Task<PublishingRow> PublishAsync(IEnumerable<FieldDefinition> fields)
    {
        await Drafts.ChangeAsync(site => fields.Aggregate(site, static (site, field) => site.With(field)), "Test", Administrator);
        return await Publishings.RunAsync(await Publisher.StartAsync("For a test", Administrator));
    }

    /// <summary>An added field of the sales order.</summary>
    public static FieldDefinition Field(string code, string kind = "integer", string part = "header", string type = "sales_order") =>
        new()
        {
            Id = $"f-{code}",
            RecordType = type,
            Part = part,
            Code = code,
            Label = code,
            Kind = kind,
        };

    public async Task<object?> ScalarAsync(string sql)
    {
        await using var command = Source.CreateCommand(await SpreadAsync(sql));
        return await command.ExecuteScalarAsync() is var value and not DBNull ? value : null;
    }

    /// <summary>Waits until work that is under way waits for a lock in the database; fails when it ends before.</summary>
    /// <param name="work">The work.</param>
    /// <param name="statement">What the statement that waits begins with.</param>
    public async Task UntilWaitingAsync(Task work, string statement = "")
    {
        while (
            await ScalarAsync(
                $"""
                SELECT 1 FROM pg_stat_activity
                WHERE datname = current_database() AND wait_event_type = 'Lock' AND starts_with(query, '{statement}') LIMIT 1
                """
            )
                is null
        )
        {
            Assert.False(work.IsCompleted, "Nothing waited.");
            await Task.Delay(5);
        }
    }

    /// <summary>The table of what is added that has a column.</summary>
    public async Task<string> TableWithAsync(string column) =>
        (string)
            (
                await ScalarAsync(
                    "SELECT attrelid::regclass::text FROM pg_attribute JOIN pg_class c ON c.oid = attrelid "
                        + $"WHERE relnamespace = 'added'::regnamespace AND relkind = 'r' AND attname = '{column}'"
                )
            )!;

    /// <summary>How often indexes whose names fit were used, once that is more than it was.</summary>
    public async Task<long> IndexUsesAsync(string names, long before = -1)
    {
        // What the database counts, it tells a little later, and over the connections that lists are read by: one tells what it counted
        // when it is used again.
        for (var wait = 0; ; wait++)
        {
            await using var command = Services
                .GetRequiredService<NpgsqlDataSource>()
                .CreateCommand($"SELECT coalesce(sum(idx_scan), 0)::bigint FROM pg_stat_user_indexes WHERE indexrelname ~ '{names}'");
            var uses = (long)(await command.ExecuteScalarAsync())!;
            if (before < 0 || uses > before || wait == 60)
                return uses;
            await Task.Delay(100);
        }
    }

    /// <summary>A statement that names the first table of what is added to a part, for all its tables.</summary>
    public virtual Task<string> SpreadAsync(string sql) => Task.FromResult(sql);

    /// <summary>Changes by code, for the header.</summary>
    public RecordChanges Changes(string type, params (string Code, Value Value)[] values)
    {
        var changes = new RecordChanges();
        foreach (var (code, value) in values)
            changes.Header[Type(type).Header.Find(code)!] = value;
        return changes;
    }

    /// <summary>A line by code, for the lines of a sales order.</summary>
    public EnteredLine Line(string key, long? id, params (string Code, Value Value)[] values) =>
        new(key, id, values.ToDictionary(pair => Type("sales_order").LineParts[0].Find(pair.Code)!, pair => (Parsed)pair.Value));
}
