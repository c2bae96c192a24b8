using System.Text;
using CsvHelper;
using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Saves the data of columns before they are dropped, as CSV (RFC 4180) that can be downloaded and read back.</summary>
public sealed class DataSaver(NpgsqlDataSource source, IDbContextFactory<PeltoContext> contexts, TimeProvider clock)
{
    /// <summary>The heading of the column with the row's id.</summary>
    public const string IdHeading = "id";

    /// <summary>Saves it; a step that is repeated takes the place of what it saved before.</summary>
    public async Task SaveAsync(SaveData step, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        var (csv, count) = await ReadAsync(connection, step.Table, step.Columns, cancel);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.SavedData.Where(row => row.Field == step.FieldId && row.Csv == csv).ExecuteDeleteAsync(cancel);
        context.SavedData.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                Field = step.FieldId,
                Label = step.Label,
                RecordType = step.Part.RecordType.Code,
                Part = step.Part.Code,
                Definition = step.Definition,
                Csv = csv,
                Count = count,
                SavedAt = clock.GetUtcNow(),
            }
        );
        await context.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    private static async Task<(string Csv, long Count)> ReadAsync(
        NpgsqlConnection connection,
        string table,
        IReadOnlyList<string> columns,
        CancellationToken cancel
    )
    {
        var text = new StringBuilder();
        await using var writer = new CsvWriter(new StringWriter(text), CultureInfo.InvariantCulture);
        foreach (var heading in columns.Prepend(IdHeading))
            writer.WriteField(heading);
        await writer.NextRecordAsync();
        var count = 0L;
        var filled = string.Join(" OR ", columns.Select(column => $"{Sql.Name(column)} IS NOT NULL"));
        await using var command = new NpgsqlCommand(
            $"SELECT id, {string.Join(", ", columns.Select(column => $"to_jsonb({Sql.Name(column)}) #>> '{{}}'"))} FROM {Sql.Table(Sql.Added, table)} WHERE {filled} ORDER BY id",
            connection
        )
        {
            CommandTimeout = 0,
        };
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            writer.WriteField(reader.GetInt64(0));
            for (var i = 1; i <= columns.Count; i++)
                writer.WriteField(reader.IsDBNull(i) ? "" : reader.GetString(i));
            await writer.NextRecordAsync();
            count++;
        }

        await writer.FlushAsync();
        return (text.ToString(), count);
    }
}
