using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.Extensions.Caching.Memory;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata.Conventions;
using Pelto.Core.Catalog;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>A context over the tables of one record type in one schema; its entities are dictionaries from column to value.</summary>
public sealed class RecordContext(DbContextOptions options) : DbContext(options);

/// <summary>The EF Core models through which records are written, built from the catalogue: for each record type one of the host's tables and one of what is added.</summary>
/// <remarks>
/// The host's tables never change, so publishing builds only the small model of the added columns that it touches, and does so before the switch:
/// nobody who saves waits for it. Models are handed over with <c>UseModel</c>.
/// EF's cache of compiled queries is our own and small, so that what belongs to old models is pushed out, and the models with it.
/// </remarks>
public sealed class RecordModels : IDisposable
{
    private const int MostCached = 4000;

    private readonly ConcurrentDictionary<string, IModel> models = new(StringComparer.Ordinal);
    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MostCached });

    /// <summary>A context on an open connection. The model is built on first use when nobody prepared it.</summary>
    public RecordContext Open(RecordType type, string schema, DbConnection connection)
    {
        var model = models.GetOrAdd(KeyOf(type, schema), _ => Whole(Build(type, schema)));
        return new(Options(model).UseNpgsql(connection).Options);
    }

    // A model is whole once a context has taken it up; until then nobody else gets it.
    private IModel Whole(IModel model)
    {
        using var context = new RecordContext(Options(model).UseNpgsql().Options);
        _ = context.Model.GetRelationalModel();
        return context.Model;
    }

    private DbContextOptionsBuilder<RecordContext> Options(IModel model)
    {
        var options = new DbContextOptionsBuilder<RecordContext>();
        options.UseModel(model).UseMemoryCache(cache);

        // EF makes services of its own for each cache. That is one installation each; only tests have many in one process.
        options.ConfigureWarnings(static warnings => warnings.Ignore(CoreEventId.ManyServiceProvidersCreatedWarning));
        return options;
    }

    /// <summary>Builds the models of what is added that a catalogue needs and does not find, and sends a save through each, so that the first people are not the ones who wait.</summary>
    public async Task PrepareAsync(Catalogue catalogue, DbDataSource source, CancellationToken cancel = default)
    {
        foreach (var type in catalogue.RecordTypes.Where(type => HasAdded(type) && !models.ContainsKey(KeyOf(type, Sql.Added))))
        {
            await using var connection = await source.OpenConnectionAsync(cancel);
            await using var context = Open(type, Sql.Added, connection);
            await RecordRows.WarmUpAsync(context, type, cancel);
        }
    }

    /// <summary>Forgets the models that no record type of these catalogues uses.</summary>
    public void Keep(params IEnumerable<Catalogue> catalogues)
    {
        var used = catalogues.SelectMany(catalogue => catalogue.RecordTypes).SelectMany(type => new[] { KeyOf(type, Sql.SchemaOf(type)), KeyOf(type, Sql.Added) }).ToHashSet(StringComparer.Ordinal);
        foreach (var key in models.Keys.Where(key => !used.Contains(key))) models.TryRemove(key, out _);
    }

    /// <summary>True when the site added fields to any part of a record type.</summary>
    public static bool HasAdded(RecordType type) => type.Parts.Any(part => part.KeptFields.Any());

    /// <summary>The name of an entity type: schema and table.</summary>
    public static string Entity(string schema, Part part) => $"{schema}.{part.Table}";

    /// <inheritdoc/>
    public void Dispose() => cache.Dispose();

    private static string KeyOf(RecordType type, string schema) =>
        $"{schema}|{string.Join('|', type.Parts.Select(part => part.Table + ':' + string.Join(',', ColumnsOf(part, schema).Select(column => $"{column.Name}/{(int)column.Type}"))))}";

    private static IEnumerable<FieldColumn> ColumnsOf(Part part, string schema) => part.Fields.Where(field => field.IsStored && field.IsAdded == (schema == Sql.Added)).SelectMany(field => field.Columns);

    private static IModel Build(RecordType type, string schema)
    {
        var builder = new ModelBuilder(NpgsqlConventionSetBuilder.Build());
        foreach (var part in type.Parts.Where(part => ColumnsOf(part, schema).Any()))
        {
            builder.SharedTypeEntity<Dictionary<string, object>>(Entity(schema, part), entity =>
            {
                entity.ToTable(part.Table, schema);
                entity.IndexerProperty<long>("id").HasColumnName("id").ValueGeneratedNever();
                entity.HasKey("id");
                entity.IndexerProperty<uint>("xmin").IsRowVersion();
                foreach (var column in ColumnsOf(part, schema))
                    entity.IndexerProperty(column.Type.ClrType(), column.Name).HasColumnName(column.Name).HasColumnType(column.Type.SqlType()).IsRequired(false);
                if (schema == Sql.Added) entity.IndexerProperty<string>(Sql.Origins).HasColumnName(Sql.Origins).IsRequired(false);
                if (schema == Sql.Added || !part.IsLines) return;
                entity.IndexerProperty<long>("parent").HasColumnName("parent");
                entity.IndexerProperty<int>("position").HasColumnName("position");
                entity.HasOne(Entity(schema, type.Header)).WithMany().HasForeignKey("parent");
            });
        }

        return builder.FinalizeModel();
    }
}
