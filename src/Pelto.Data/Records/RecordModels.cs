using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Microsoft.Extensions.Caching.Memory;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata.Conventions;
using Pelto.Core.Catalog;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>A context over the tables of one record type; its entities are dictionaries from column to value.</summary>
public sealed class RecordContext(DbContextOptions options) : DbContext(options);

/// <summary>The EF Core models of record types, built from the catalogue: one small model for each, made anew only when its columns change.</summary>
/// <remarks>
/// Models are handed over with <c>UseModel</c> and built before a release goes live, so that no request waits for one.
/// EF's cache of compiled queries is our own and small, so that those of old models are pushed out, and the models with them.
/// Emptying it at each switch was tried: it throws away what was warmed up just before.
/// </remarks>
public sealed class RecordModels : IDisposable
{
    // A record type has some ten queries; EF counts each as 10.
    private const int QueriesKept = 600;
    private const int SizeOfQuery = 10;

    private readonly ConcurrentDictionary<string, (string Shape, IModel Model)> models = new(StringComparer.Ordinal);
    private readonly MemoryCache queries = new(new MemoryCacheOptions { SizeLimit = QueriesKept * SizeOfQuery });

    /// <summary>A context on an open connection. The model is built on first use when nobody prepared it.</summary>
    public RecordContext Open(RecordType type, DbConnection connection)
    {
        var options = new DbContextOptionsBuilder<RecordContext>();
        options.UseNpgsql(connection).UseModel(ModelOf(type)).UseMemoryCache(queries);
        return new(options.Options);
    }

    /// <summary>Builds the models that a catalogue needs and does not find, and runs a read and a save through each, so that the first people are not the ones who wait.</summary>
    public async Task PrepareAsync(Catalogue catalogue, DbDataSource source, CancellationToken cancel = default)
    {
        foreach (var type in catalogue.RecordTypes.Where(type => !models.TryGetValue(KeyOf(type), out _)))
        {
            await using var connection = await source.OpenConnectionAsync(cancel);
            await using var context = Open(type, connection);
            await RecordRows.WarmUpAsync(context, type, cancel);
        }
    }

    /// <summary>Forgets the models that no record type of these catalogues uses.</summary>
    public void Keep(params IEnumerable<Catalogue> catalogues)
    {
        var used = catalogues.SelectMany(catalogue => catalogue.RecordTypes).Select(KeyOf).ToHashSet(StringComparer.Ordinal);
        foreach (var key in models.Keys.Where(key => !used.Contains(key))) models.TryRemove(key, out _);
    }

    /// <summary>The name of an entity type: schema and table.</summary>
    public static string Entity(string schema, Part part) => $"{schema}.{part.Table}";

    /// <inheritdoc/>
    public void Dispose() => queries.Dispose();

    private static string KeyOf(RecordType type) =>
        string.Join('|', type.Parts.Select(part => part.Table + ':' + string.Join(',', part.Fields.Select(field => $"{(field.IsAdded ? "+" : "")}{field.Code}/{(int)field.Kind.Column}"))));

    private IModel ModelOf(RecordType type)
    {
        var key = KeyOf(type);
        return models.GetOrAdd(key, _ => (key, Build(type))).Model;
    }

    private static IModel Build(RecordType type)
    {
        var builder = new ModelBuilder(NpgsqlConventionSetBuilder.Build());
        foreach (var part in type.Parts)
        {
            builder.SharedTypeEntity<Dictionary<string, object>>(Entity(Sql.Erp, part), entity =>
            {
                Describe(entity, Sql.Erp, part);
                if (part.IsLines)
                {
                    entity.IndexerProperty<long>("parent").HasColumnName("parent");
                    entity.IndexerProperty<int>("position").HasColumnName("position");
                    entity.HasOne(Entity(Sql.Erp, type.Header)).WithMany().HasForeignKey("parent");
                }

                foreach (var field in part.Fields.Where(field => !field.IsAdded)) AddProperty(entity, field);
            });
            if (!part.AddedFields.Any()) continue;
            builder.SharedTypeEntity<Dictionary<string, object>>(Entity(Sql.Added, part), entity =>
            {
                Describe(entity, Sql.Added, part);
                foreach (var field in part.AddedFields) AddProperty(entity, field);
                entity.HasOne(Entity(Sql.Erp, part)).WithOne().HasForeignKey(Entity(Sql.Added, part), "id");
            });
        }

        return builder.FinalizeModel();
    }

    private static void Describe(EntityTypeBuilder<Dictionary<string, object>> entity, string schema, Part part)
    {
        entity.ToTable(part.Table, schema);
        entity.IndexerProperty<long>("id").HasColumnName("id").ValueGeneratedNever();
        entity.HasKey("id");
        entity.IndexerProperty<uint>("xmin").IsRowVersion();
    }

    private static void AddProperty(EntityTypeBuilder<Dictionary<string, object>> entity, Field field) =>
        entity.IndexerProperty(field.Kind.ClrType(), field.Code).HasColumnName(field.Code).HasColumnType(field.Kind.SqlType()).IsRequired(false);
}
