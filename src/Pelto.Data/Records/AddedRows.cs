using NpgsqlTypes;

namespace Pelto.Data.Records;

/// <summary>
/// Writes what is added to the rows of one record: only columns that changed, all rows in one round trip, each guarded by its version.
/// </summary>
/// <remarks>
/// By SQL of our own: with EF Core every release needed a model of its own, which took half of the time from Publish to live on a busy
/// machine
/// (<c>docs/benchmarks.md</c>). What goes wrong is told as EF Core tells it, so that a save knows one way.
/// </remarks>
internal sealed class AddedRows
{
    private static readonly FieldColumn OriginsColumn = new(Sql.Origins, ColumnType.Text, "");
    private readonly List<(NpgsqlBatchCommand Command, Dictionary<string, object> Row, string Version)> writes = [];

    /// <summary>Takes a row, unless it stays as it is.</summary>
    /// <param name="part">The part that it belongs to.</param>
    /// <param name="row">What it is to hold, by column, with its id.</param>
    /// <param name="before">What it held, with its version; null for a new one.</param>
    public void Add(Part part, Dictionary<string, object> row, Dictionary<string, object>? before)
    {
        foreach (var table in part.AddedTables)
            Add(part, table, row, before);
    }

    // The first table has a row wherever another has one, and goes first; in the others a row is made once it holds something.
    private void Add(Part part, string table, Dictionary<string, object> row, Dictionary<string, object>? before)
    {
        var (isFirst, version) = (table == part.Table, RecordRows.VersionIn(part, table));
        var isThere = before?.ContainsKey(version) == true;
        var changed = part
            .StoredFields.Where(field => field.Table == table)
            .SelectMany(field => field.Columns)
            .Concat(isFirst ? [OriginsColumn] : [])
            .Where(column => !Equals(row.GetValueOrDefault(column.Name), before?.GetValueOrDefault(column.Name)))
            .ToList();

        // Where a value comes from stands in the first table. The row of the value itself is written along, so that a job that read it
        // before passes it over.
        var isTold =
            !isFirst
            && !Equals(row.GetValueOrDefault(Sql.Origins), before?.GetValueOrDefault(Sql.Origins))
            && part.StoredFields.Any(field => field.Table == table && field.IsChangeable);
        if (changed.Count == 0 && (isThere || !isFirst) && !isTold)
            return;
        var command = new NpgsqlBatchCommand();
        string Give(NpgsqlParameter parameter)
        {
            command.Parameters.Add(parameter);
            return string.Create(CultureInfo.InvariantCulture, $"${command.Parameters.Count}");
        }

        var id = Give(new() { Value = row["id"] });
        var values = changed
            .Select(column =>
                (Name: Sql.Name(column.Name), Value: Give(Columns.Parameter(column.Type, row.GetValueOrDefault(column.Name))))
            )
            .ToList();
        var name = Sql.Table(Sql.Added, table);
        command.CommandText = !isThere
            ? $"INSERT INTO {name} (id{string.Concat(values.Select(pair => $", {pair.Name}"))}) "
                + $"VALUES ({id}{string.Concat(values.Select(pair => $", {pair.Value}"))}) RETURNING xmin"
            : $"UPDATE {name} SET {string.Join(", ", values.Select(pair => $"{pair.Name} = {pair.Value}").DefaultIfEmpty("id = id"))} WHERE id = {id} AND xmin = {Give(new() { NpgsqlDbType = NpgsqlDbType.Xid, Value = before![version] })} RETURNING xmin";
        writes.Add((command, row, version));
    }

    /// <summary>Writes them; each row gets the version that the database gave it.</summary>
    /// <exception cref="DbUpdateConcurrencyException">Somebody else changed or deleted a row meanwhile.</exception>
    /// <exception cref="DbUpdateException">The database refused a row.</exception>
    public async Task SaveAsync(NpgsqlTransaction transaction, CancellationToken cancel)
    {
        if (writes.Count == 0)
            return;
        await using var batch = new NpgsqlBatch(transaction.Connection!, transaction);
        foreach (var (command, _, _) in writes)
            batch.BatchCommands.Add(command);
        try
        {
            await using var reader = await batch.ExecuteReaderAsync(cancel);
            foreach (var (_, row, version) in writes)
            {
                if (!await reader.ReadAsync(cancel))
                    throw new DbUpdateConcurrencyException("A row of what is added was changed or deleted meanwhile.");
                row[version] = reader.GetFieldValue<uint>(0);
                await reader.NextResultAsync(cancel);
            }
        }
        catch (PostgresException refused)
        {
            throw new DbUpdateException("The database refused a row of what is added.", refused);
        }
    }
}
