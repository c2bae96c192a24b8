using System.Globalization;
using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Pelto.Core.Catalog;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data.Storage;

namespace Pelto.Data.Records;

/// <summary>The rows of one record, tracked by a context, and the record that they make.</summary>
/// <remarks>A record is a host row, the row beside it, and for each part with lines the same again for every line.</remarks>
internal sealed class RecordRows
{
    private readonly RecordContext context;
    private readonly RecordType type;
    private readonly Dictionary<Part, Dictionary<long, Dictionary<string, object>>> host = [];
    private readonly Dictionary<Part, Dictionary<long, Dictionary<string, object>>> added = [];

    private RecordRows(RecordContext context, RecordType type) => (this.context, this.type) = (context, type);

    /// <summary>Nothing on file yet.</summary>
    public static RecordRows ForNew(RecordContext context, RecordType type)
    {
        var rows = new RecordRows(context, type);
        foreach (var part in type.Parts) (rows.host[part], rows.added[part]) = ([], []);
        return rows;
    }

    /// <summary>Reads a record; null when there is none with this id.</summary>
    public static async Task<RecordRows?> LoadAsync(RecordContext context, RecordType type, long id, CancellationToken cancel)
    {
        var rows = ForNew(context, type);
        await rows.LoadAsync(type.Header, rows.Set(Sql.Erp, type.Header).Where(row => EF.Property<long>(row, "id") == id), [id], cancel);
        foreach (var part in type.LineParts)
        {
            await rows.LoadAsync(part, rows.LinesOf(part, id), null, cancel);
        }

        return rows.host[type.Header].Count == 0 ? null : rows;
    }

    /// <summary>Sends each read and each kind of update through once, for a record that is not there. What EF Core compiles for them is compiled here, not under the hands of all who save first.</summary>
    public static async Task WarmUpAsync(RecordContext context, RecordType type, CancellationToken cancel)
    {
        const long Nobody = 0;
        var rows = ForNew(context, type);
        await rows.LoadAsync(type.Header, rows.Set(Sql.Erp, type.Header).Where(row => EF.Property<long>(row, "id") == Nobody), [Nobody], cancel);
        foreach (var part in type.LineParts) await rows.LoadAsync(part, rows.LinesOf(part, Nobody), [Nobody], cancel);
        foreach (var (part, schema) in type.Parts.SelectMany(part => part.AddedFields.Any() ? new[] { (part, Sql.Erp), (part, Sql.Added) } : [(part, Sql.Erp)]))
        {
            var entry = rows.Set(schema, part).Attach(new() { ["id"] = Nobody, ["xmin"] = 0u });
            entry.Property(part.Fields.First(field => field.IsAdded == (schema == Sql.Added)).Code).IsModified = true;
            try
            {
                await context.SaveChangesAsync(cancel);
            }
            catch (DbUpdateConcurrencyException)
            {
                // Of course: no row has this id.
            }

            context.ChangeTracker.Clear();
        }
    }

    /// <summary>The record that these rows make; after a save, with the versions that the database gave them.</summary>
    public RecordState ToState(long id)
    {
        var state = new RecordState(type) { Id = id, Version = Version() };
        Read(type.Header, id, state.Header);
        foreach (var part in type.LineParts)
        {
            foreach (var lineId in host[part].Keys)
            {
                var values = new Value[part.Fields.Count];
                Read(part, lineId, values);
                state.LinesOf(part).Add(new(lineId.ToString(CultureInfo.InvariantCulture), lineId, values));
            }
        }

        return state;
    }

    /// <summary>Makes the tracked rows say what the record says; new lines get the ids given for them.</summary>
    public void Take(RecordState state, long id, Func<LineState, long> idOf)
    {
        Write(type.Header, id, state.Header, null, 0);
        foreach (var part in type.LineParts)
        {
            var order = new List<long>();
            foreach (var line in state.LinesOf(part))
            {
                order.Add(line.Id ?? idOf(line));
                Write(part, order[^1], line.Values, id, order.Count - 1);
            }

            foreach (var gone in host[part].Keys.Except(order).ToList()) Remove(part, gone);
            host[part] = order.ToDictionary(line => line, line => host[part][line]);
        }
    }

    private IQueryable<Dictionary<string, object>> LinesOf(Part part, long id) =>
        Set(Sql.Erp, part).Where(row => EF.Property<long>(row, "parent") == id).OrderBy(row => EF.Property<int>(row, "position")).ThenBy(row => EF.Property<long>(row, "id"));

    private void Remove(Part part, long id)
    {
        if (added[part].Remove(id, out var beside)) Set(Sql.Added, part).Remove(beside);
        Set(Sql.Erp, part).Remove(host[part][id]);
    }

    private DbSet<Dictionary<string, object>> Set(string schema, Part part) => context.Set<Dictionary<string, object>>(RecordModels.Entity(schema, part));

    private async Task LoadAsync(Part part, IQueryable<Dictionary<string, object>> query, IReadOnlyList<long>? ids, CancellationToken cancel)
    {
        foreach (var row in await query.ToListAsync(cancel)) host[part].Add((long)row["id"], row);
        if (!part.AddedFields.Any()) return;
        var keys = ids ?? [.. host[part].Keys];
        if (keys.Count == 0) return;
        foreach (var row in await Set(Sql.Added, part).Where(row => keys.Contains(EF.Property<long>(row, "id"))).ToListAsync(cancel))
            added[part].Add((long)row["id"], row);
    }

    private void Read(Part part, long id, Value[] values)
    {
        var (row, beside) = (host[part][id], added[part].GetValueOrDefault(id));
        foreach (var field in part.Fields)
        {
            var from = field.IsAdded ? beside : row;
            values[field.Slot] = from is not null && from.TryGetValue(field.Code, out var kept) ? field.Kind.FromColumn(kept) : Value.Empty;
        }
    }

    private void Write(Part part, long id, Value[] values, long? parent, int position)
    {
        if (!host[part].TryGetValue(id, out var row))
        {
            row = new() { ["id"] = id };
            if (parent is { } header) row["parent"] = header;
            if (part.IsLines) row["position"] = position;
            Fill(row, part.Fields.Where(field => !field.IsAdded), values);
            Set(Sql.Erp, part).Add(row);
            host[part].Add(id, row);
        }
        else
        {
            if (part.IsLines && (int)row["position"] != position) row["position"] = position;
            Fill(row, part.Fields.Where(field => !field.IsAdded), values);
        }

        if (added[part].TryGetValue(id, out var beside))
        {
            Fill(beside, part.AddedFields, values);
        }
        else if (part.AddedFields.Any(field => !values[field.Slot].IsEmpty))
        {
            beside = new() { ["id"] = id };
            Fill(beside, part.AddedFields, values);
            Set(Sql.Added, part).Add(beside);
            added[part].Add(id, beside);
        }
    }

    private static void Fill(Dictionary<string, object> row, IEnumerable<Field> fields, Value[] values)
    {
        foreach (var field in fields)
            if (!row.TryGetValue(field.Code, out var kept) || field.Kind.FromColumn(kept) != values[field.Slot])
                row[field.Code] = field.Kind.ToColumn(values[field.Slot])!;
    }

    // PostgreSQL gives each version of a row the number of the transaction that wrote it; together they tell whether anything of the record changed.
    private string Version()
    {
        using var bytes = new MemoryStream();
        using var writer = new BinaryWriter(bytes);
        foreach (var part in type.Parts)
        {
            foreach (var (id, row) in host[part].Concat(added[part].OrderBy(pair => pair.Key)))
            {
                writer.Write(id);
                writer.Write((uint)row["xmin"]);
            }
        }

        writer.Flush();
        return Convert.ToHexStringLower(SHA256.HashData(bytes.GetBuffer().AsSpan(0, (int)bytes.Length)))[..16];
    }
}
