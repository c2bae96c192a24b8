using Npgsql;
using Pelto.Core.Auditing;
using Pelto.Data.Database;

namespace Pelto.Data.Auditing;

/// <summary>Takes what installations from before there was an audit put on record in tables of their own over into it.</summary>
internal static class EarlierRecords
{
    private const string Earlier = """
        SELECT changed_at AS at, changed_by, 'definition', element, what, before, after, NULL::text, NULL::bigint, NULL::bigint FROM pelto.change
        UNION ALL SELECT shown_at, shown_to, 'showing', field, 'Showed a secret', NULL, NULL, record_type, record, line FROM pelto.showing
        ORDER BY at
        """;

    /// <summary>Does so once, when those tables are there.</summary>
    public static async Task MoveAsync(NpgsqlConnection owner, AuditTrail trail, CancellationToken cancel)
    {
        if (
            !await owner
                .Command("SELECT to_regclass('pelto.change') IS NOT NULL AND to_regclass('pelto.showing') IS NOT NULL")
                .ValueAsync<bool>(cancel)
        )
            return;
        await using var transaction = await owner.BeginTransactionAsync(cancel);
        var entries = new List<AuditEntry>();
        await using (var read = new NpgsqlCommand(Earlier, owner, transaction))
        await using (var reader = await read.ExecuteReaderAsync(cancel))
        {
            string? Text(int at) => reader.IsDBNull(at) ? null : reader.GetString(at);
            long? Number(int at) => reader.IsDBNull(at) ? null : reader.GetInt64(at);
            while (await reader.ReadAsync(cancel))
                entries.Add(
                    new(
                        0,
                        reader.GetFieldValue<DateTimeOffset>(0),
                        null,
                        reader.GetString(1),
                        "",
                        new(reader.GetString(2), reader.GetString(3), reader.GetString(4))
                        {
                            Before = Text(5),
                            After = Text(6),
                            RecordType = Text(7),
                            Record = Number(8),
                            Line = Number(9),
                        }
                    )
                );
        }

        if (entries.Count > 0)
            await trail.AppendAsync(transaction, entries, cancel);
        await transaction.Command("DROP TABLE pelto.change, pelto.showing").RunAsync(cancel);
        await transaction.CommitAsync(cancel);
    }
}
