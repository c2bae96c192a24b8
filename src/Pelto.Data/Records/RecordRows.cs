using System.Security.Cryptography;

namespace Pelto.Data.Records;

/// <summary>How a record is held while it is worked on.</summary>
internal enum Hold
{
    /// <summary>Not at all.</summary>
    Nothing,

    /// <summary>Nobody else saves it meanwhile; others may go on pointing to it.</summary>
    ToSave,

    /// <summary>Nobody else saves it or points to it meanwhile.</summary>
    ToDelete,
}

/// <summary>The rows of one record, and the record that they make.</summary>
/// <remarks>
/// A record is a host row, the row beside it, and for each part with lines the same again for every line.
/// They are read by SQL of our own, all in one round trip. A save hands the host's rows to EF Core, which finds what changed and guards the
/// rows'
/// versions; what is added is written by <see cref="AddedRows"/>, since its columns change with each release and EF Core's models with
/// them.
/// </remarks>
internal sealed class RecordRows
{
    private readonly RecordType type;
    private readonly Dictionary<Part, Dictionary<long, Dictionary<string, object>>> host = [];
    private readonly Dictionary<Part, Dictionary<long, Dictionary<string, object>>> added = [];

    private RecordRows(RecordType type)
    {
        this.type = type;
        foreach (var part in type.Parts)
            (host[part], added[part]) = ([], []);
    }

    /// <summary>Nothing on file yet.</summary>
    public static RecordRows ForNew(RecordType type) => new(type);

    /// <summary>Reads a record; null when there is none with this id.</summary>
    /// <param name="transaction">Where; repeatable read, or with the lock, so that header and lines belong together.</param>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id.</param>
    /// <param name="hold">Whether the record is held until the transaction ends, so that saves of one record follow each other.</param>
    /// <param name="cancel">Stops it.</param>
    public static async Task<RecordRows?> LoadAsync(
        NpgsqlTransaction transaction,
        RecordType type,
        long id,
        Hold hold,
        CancellationToken cancel
    )
    {
        await using var batch = new NpgsqlBatch(transaction.Connection!, transaction);

        // The lock is a statement of its own: what comes after it sees what the one who held it before has saved.
        if (hold != Hold.Nothing)
            Add(
                batch,
                $"SELECT 1 FROM {Sql.Base(type.Header)} WHERE id = $1 FOR {(hold == Hold.ToDelete ? "UPDATE" : "NO KEY UPDATE")}",
                id
            );
        foreach (var part in type.Parts)
        {
            Add(batch, SelectOf(part), id);
            foreach (var table in part.AddedTables.Skip(1))
                Add(batch, SelectOf(part, table), id);
        }

        await using var reader = await batch.ExecuteReaderAsync(cancel);
        if (hold != Hold.Nothing)
            await reader.NextResultAsync(cancel);
        var rows = new RecordRows(type);
        foreach (var part in type.Parts)
        {
            while (await reader.ReadAsync(cancel))
                rows.Read(part, reader);
            await reader.NextResultAsync(cancel);
            foreach (var table in part.AddedTables.Skip(1))
            {
                while (await reader.ReadAsync(cancel))
                    rows.Read(part, table, reader);
                await reader.NextResultAsync(cancel);
            }
        }

        return rows.host[type.Header].Count == 0 ? null : rows;
    }

    /// <summary>
    /// True when a record is what it was, which it stays until the transaction ends; false as well while somebody saves it.
    /// </summary>
    /// <param name="transaction">Where.</param>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id.</param>
    /// <param name="version">What it was.</param>
    /// <param name="cancel">Stops it.</param>
    public static async Task<bool> HoldAsItWasAsync(
        NpgsqlTransaction transaction,
        RecordType type,
        long id,
        string version,
        CancellationToken cancel
    )
    {
        await using var hold = new NpgsqlCommand(
            $"SELECT true FROM {Sql.Base(type.Header)} WHERE id = $1 FOR NO KEY UPDATE SKIP LOCKED",
            transaction.Connection,
            transaction
        );
        hold.Parameters.Add(new() { Value = id });
        return await hold.ExecuteScalarAsync(cancel) is true
            && await LoadAsync(transaction, type, id, Hold.Nothing, cancel) is { } rows
            && rows.Version() == version;
    }

    /// <summary>The record that these rows make; after a save, with the versions that the database gave them.</summary>
    public RecordState ToState(long id)
    {
        var state = new RecordState(type) { Id = id, Version = Version() };
        Read(type.Header, id, state.Header, state.Origins);
        foreach (var part in type.LineParts)
        {
            foreach (var lineId in host[part].Keys)
            {
                var values = new Value[part.Fields.Count];
                var line = new LineState(lineId.ToString(CultureInfo.InvariantCulture), lineId, values);
                Read(part, lineId, values, line.Origins);
                state.LinesOf(part).Add(line);
            }
        }

        return state;
    }

    /// <summary>
    /// Makes the rows say what the record says; new lines get the ids given for them. Gives what of the added rows is to be written, after
    /// the host's.
    /// </summary>
    /// <param name="state">The record.</param>
    /// <param name="id">Its id.</param>
    /// <param name="idOf">The ids of new lines.</param>
    /// <param name="erp">Writes the host's rows, and goes first: what is added hangs on them.</param>
    public AddedRows Take(RecordState state, long id, Func<LineState, long> idOf, RecordContext erp)
    {
        foreach (var part in type.Parts)
        foreach (var row in host[part].Values)
            Set(erp, part).Attach(row);
        var before = type.Parts.ToDictionary(
            part => part,
            part => added[part].ToDictionary(pair => pair.Key, pair => new Dictionary<string, object>(pair.Value))
        );
        Write(erp, type.Header, id, state.Header, state.Origins, null, 0);
        foreach (var part in type.LineParts)
        {
            var order = new List<long>();
            foreach (var line in state.LinesOf(part))
            {
                order.Add(line.Id ?? idOf(line));
                Write(erp, part, order[^1], line.Values, line.Origins, id, order.Count - 1);
            }

            foreach (var gone in host[part].Keys.Except(order).ToList())
            {
                // The database takes the row beside it away with it.
                added[part].Remove(gone);
                Set(erp, part).Remove(host[part][gone]);
            }

            host[part] = order.ToDictionary(line => line, line => host[part][line]);
        }

        var rows = new AddedRows();
        foreach (var part in type.Parts.Where(part => part.StoredFields.Any()))
        foreach (var (rowId, row) in added[part])
            rows.Add(part, row, before[part].GetValueOrDefault(rowId));
        return rows;
    }

    /// <summary>Where a row holds its version in one of the tables of what is added.</summary>
    public static string VersionIn(Part part, string table) => table == part.Table ? "xmin" : $"xmin {table}";

    private static void Add(NpgsqlBatch batch, string sql, long id)
    {
        var command = new NpgsqlBatchCommand(sql);
        command.Parameters.Add(new() { Value = id });
        batch.BatchCommands.Add(command);
    }

    // Explicit columns always: a column that a newer release adds is nothing to a request that began under an older one.
    private static string SelectOf(Part part)
    {
        var columns = new List<string> { "h.id", "h.xmin" };
        if (part.IsLines)
            columns.AddRange(["h.parent", "h.position"]);
        columns.AddRange(part.Fields.Where(field => !field.IsAdded).SelectMany(field => Columns.Quoted(field, "h.")));
        var from = $"{Sql.Base(part)} h";
        if (part.AddedTables.Count > 0)
        {
            columns.AddRange(["a.id", "a.xmin", $"a.{Sql.Origins}"]);
            columns.AddRange(FieldsIn(part, part.Table).SelectMany(field => Columns.Quoted(field, "a.")));
            from += $" LEFT JOIN {Sql.Table(Sql.Added, part.Table)} a ON a.id = h.id";
        }

        return $"SELECT {string.Join(", ", columns)} FROM {from} WHERE "
            + $"{(part.IsLines ? "h.parent = $1 ORDER BY h.position, h.id" : "h.id = $1")}";
    }

    // What a further table holds of the same rows: a statement of its own, since the database gives 1,664 columns in one.
    private static string SelectOf(Part part, string table)
    {
        var columns = FieldsIn(part, table).SelectMany(field => Columns.Quoted(field, "a."));
        return $"SELECT {string.Join(", ", columns.Prepend("a.xmin").Prepend("a.id"))} FROM {Sql.Table(Sql.Added, table)} a "
            + $"{(part.IsLines ? $"JOIN {Sql.Base(part)} h ON h.id = a.id WHERE h.parent = $1" : "WHERE a.id = $1")}";
    }

    private static IEnumerable<Field> FieldsIn(Part part, string table) => part.StoredFields.Where(field => field.Table == table);

    private void Read(Part part, string table, NpgsqlDataReader reader)
    {
        // Each statement sees what is there by then; a row that came between belongs to what is read the next time.
        if (!added[part].TryGetValue(reader.GetInt64(0), out var row))
            return;
        var at = 2;
        row[VersionIn(part, table)] = reader.GetFieldValue<uint>(1);
        foreach (var column in FieldsIn(part, table).SelectMany(field => field.Columns))
            row[column.Name] = Columns.Read(reader, at++, column.Type)!;
    }

    private void Read(Part part, NpgsqlDataReader reader)
    {
        var at = 0;
        var row = new Dictionary<string, object> { ["id"] = reader.GetInt64(at++), ["xmin"] = reader.GetFieldValue<uint>(at++) };
        if (part.IsLines)
            (row["parent"], row["position"]) = (reader.GetInt64(at++), reader.GetInt32(at++));
        foreach (var column in part.Fields.Where(field => !field.IsAdded).SelectMany(field => field.Columns))
            row[column.Name] = Columns.Read(reader, at++, column.Type)!;
        var id = (long)row["id"];
        host[part].Add(id, row);
        if (!part.StoredFields.Any() || reader.IsDBNull(at))
            return;
        var beside = new Dictionary<string, object>
        {
            ["id"] = reader.GetInt64(at++),
            ["xmin"] = reader.GetFieldValue<uint>(at++),
            [Sql.Origins] = Columns.Read(reader, at++, ColumnType.Text)!,
        };
        foreach (var column in FieldsIn(part, part.Table).SelectMany(field => field.Columns))
            beside[column.Name] = Columns.Read(reader, at++, column.Type)!;
        added[part].Add(id, beside);
    }

    private static DbSet<Dictionary<string, object>> Set(RecordContext context, Part part) =>
        context.Set<Dictionary<string, object>>(RecordModels.Entity(part));

    private void Read(Part part, long id, Value[] values, Dictionary<Field, Origin> origins)
    {
        var (row, beside) = (host[part][id], added[part].GetValueOrDefault(id));
        foreach (var field in part.Fields.Where(field => field.IsStored))
        {
            var from = field.IsAdded ? beside : row;
            values[field.Slot] = from is null ? Value.Empty : ValueIn(from, field);
        }

        if (beside?.GetValueOrDefault(Sql.Origins) is not string stored)
            return;
        foreach (var (field, origin) in Origins.Read(stored, part))
            origins[field] = origin;
    }

    private void Write(RecordContext erp, Part part, long id, Value[] values, Dictionary<Field, Origin> origins, long? parent, int position)
    {
        if (!host[part].TryGetValue(id, out var row))
        {
            row = new() { ["id"] = id };
            if (parent is { } header)
                row["parent"] = header;
            if (part.IsLines)
                row["position"] = position;
            Fill(row, part.Fields.Where(field => !field.IsAdded), values);
            Set(erp, part).Add(row);
            host[part].Add(id, row);
        }
        else
        {
            if (part.IsLines && (int)row["position"] != position)
                row["position"] = position;
            Fill(row, part.Fields.Where(field => !field.IsAdded), values);
        }

        var stored = Origins.Write(origins);
        if (added[part].TryGetValue(id, out var beside))
        {
            Fill(beside, part.StoredFields, values);
            if (!string.Equals(beside.GetValueOrDefault(Sql.Origins) as string, stored, StringComparison.Ordinal))
                beside[Sql.Origins] = stored!;
        }
        else if (part.StoredFields.Any() && (stored is not null || part.StoredFields.Any(field => !values[field.Slot].IsEmpty)))
        {
            beside = new() { ["id"] = id, [Sql.Origins] = stored! };
            Fill(beside, part.StoredFields, values);
            added[part].Add(id, beside);
        }
    }

    private static void Fill(Dictionary<string, object> row, IEnumerable<Field> fields, Value[] values)
    {
        foreach (var field in fields)
        {
            if (row.ContainsKey(field.Columns[0].Name) && ValueIn(row, field) == values[field.Slot])
                continue;
            for (var i = 0; i < field.Columns.Count; i++)
                row[field.Columns[i].Name] = field.Kind.ToColumn(values[field.Slot], i)!;
        }
    }

    private static Value ValueIn(Dictionary<string, object> row, Field field)
    {
        var stored = new object?[field.Columns.Count];
        for (var i = 0; i < stored.Length; i++)
            stored[i] = row.GetValueOrDefault(field.Columns[i].Name);
        return field.Kind.FromColumns(stored);
    }

    // PostgreSQL gives each version of a row the number of the transaction that wrote it; together they tell whether anything of the record
    // changed.
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
                foreach (var table in part.AddedTables.Skip(1))
                    writer.Write(row.GetValueOrDefault(VersionIn(part, table)) as uint? ?? 0);
            }
        }

        writer.Flush();
        return Convert.ToHexStringLower(SHA256.HashData(bytes.GetBuffer().AsSpan(0, (int)bytes.Length)))[..16];
    }
}
