using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.Extensions.Caching.Memory;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata.Conventions;

namespace Pelto.Data.Records;

/// <summary>
/// A context over the host's tables of one record type, or those of a user-defined one; its entities are dictionaries from column to value.
/// </summary>
public sealed class RecordContext(DbContextOptions options) : DbContext(options);

/// <summary>
/// The EF Core models through which the host's rows of records are written, built from the catalogue: one for each record type, on its
/// first save.
/// </summary>
/// <remarks>
/// They last, since a release changes no table of the host; what it adds is written by <see cref="AddedRows"/>. Models are handed over with
/// <c>UseModel</c>.
/// EF's cache of compiled queries is our own and small, so that what belongs to old models is pushed out, and the models with it.
/// </remarks>
public sealed class RecordModels : IDisposable
{
    private const int MaxCached = 4000;

    private readonly ConcurrentDictionary<string, IModel> models = new(StringComparer.Ordinal);
    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MaxCached });

    /// <summary>A context on an open connection.</summary>
    public RecordContext Open(RecordType type, DbConnection connection)
    {
        var model = models.GetOrAdd(KeyOf(type), _ => Whole(Build(type)));
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

    /// <summary>Forgets the models that no record type of these catalogues uses.</summary>
    public void Keep(params IEnumerable<Catalogue> catalogues)
    {
        var used = catalogues.SelectMany(catalogue => catalogue.RecordTypes).Select(KeyOf).ToHashSet(StringComparer.Ordinal);
        foreach (var key in models.Keys.Where(key => !used.Contains(key)))
            models.TryRemove(key, out _);
    }

    /// <summary>The name of an entity type: schema and table.</summary>
    public static string Entity(Part part) => $"{Sql.SchemaOf(part.RecordType)}.{part.Table}";

    /// <inheritdoc/>
    public void Dispose() => cache.Dispose();

    private static string KeyOf(RecordType type) =>
        $"{Sql.SchemaOf(type)}|{string.Join('|', type.Parts.Select(part => part.Table + ':' + string.Join(',', ColumnsOf(part).Select(column => $"{column.Name}/{(int)column.Type}"))))}";

    private static IEnumerable<FieldColumn> ColumnsOf(Part part) =>
        part.Fields.Where(field => field.IsStored && !field.IsAdded).SelectMany(field => field.Columns);

    private static IModel Build(RecordType type)
    {
        var builder = new ModelBuilder(NpgsqlConventionSetBuilder.Build());
        foreach (var part in type.Parts)
        {
            builder.SharedTypeEntity<Dictionary<string, object>>(Entity(part), entity =>
            {
                entity.ToTable(part.Table, Sql.SchemaOf(type));
                entity.IndexerProperty<long>("id").HasColumnName("id").ValueGeneratedNever();
                entity.HasKey("id");
                entity.IndexerProperty<uint>("xmin").IsRowVersion();
                foreach (var column in ColumnsOf(part))
                    entity
                        .IndexerProperty(column.Type.ClrType(), column.Name)
                        .HasColumnName(column.Name)
                        .HasColumnType(column.Type.SqlType())
                        .IsRequired(false);
                if (!part.IsLines)
                    return;
                entity.IndexerProperty<long>("parent").HasColumnName("parent");
                entity.IndexerProperty<int>("position").HasColumnName("position");
                entity.HasOne(Entity(type.Header)).WithMany().HasForeignKey("parent");
            });
        }

        return builder.FinalizeModel();
    }
}
