using System.Security.Cryptography;
using System.Text;
using Microsoft.EntityFrameworkCore.Storage;
using Pelto.Core.Auditing;

namespace Pelto.Data.Auditing;

/// <summary>Puts on record what happens, in the transaction in which it happens: both are kept, or neither.</summary>
/// <remarks>
/// Entries only grow: the application's role may add and read them, and a trigger refuses changes to everybody. Each is tied to the one
/// before by a digest,
/// and sealed under a key outside the database, so that whoever may change everything in the database still cannot make a chain that holds.
/// </remarks>
public sealed class AuditTrail(Secrets secrets, IDbContextFactory<PeltoContext> contexts, TimeProvider clock)
{
    /// <summary>Who did it when Pelto itself did.</summary>
    public static Viewer Pelto { get; } = new(Guid.Empty, "Pelto", []);

    /// <summary>
    /// Puts notes on record. Entries stand in one order, so those of two transactions follow each other: to be called last before a
    /// transaction is committed.
    /// </summary>
    /// <param name="transaction">The transaction in which it happens, which reads what others committed meanwhile.</param>
    /// <param name="viewer">Who did it, and from where.</param>
    /// <param name="notes">What happened; nothing is done when there are none.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task WriteAsync(
        NpgsqlTransaction transaction,
        Viewer viewer,
        IReadOnlyCollection<AuditNote> notes,
        CancellationToken cancel
    )
    {
        if (notes.Count == 0)
            return;
        var at = clock.GetUtcNow();
        await AppendAsync(
            transaction,
            [.. notes.Select(note => new AuditEntry(0, at, viewer.Id == Guid.Empty ? null : viewer.Id, viewer.Name, viewer.From, note))],
            cancel
        );
    }

    /// <summary>Puts notes on record in the transaction that a context is in.</summary>
    public Task WriteAsync(PeltoContext context, Viewer viewer, IReadOnlyCollection<AuditNote> notes, CancellationToken cancel) =>
        WriteAsync((NpgsqlTransaction)context.Database.CurrentTransaction!.GetDbTransaction(), viewer, notes, cancel);

    /// <summary>Saves what a context holds, puts on record what was done, and commits the transaction that it is in.</summary>
    public async Task CommitAsync(PeltoContext context, Viewer by, AuditNote note, CancellationToken cancel)
    {
        await context.SaveChangesAsync(cancel);
        await WriteAsync(context, by, [note], cancel);
        await context.Database.CommitTransactionAsync(cancel);
    }

    /// <summary>Puts something on record that changes nothing else.</summary>
    public async Task WriteAsync(NpgsqlDataSource source, Viewer viewer, AuditNote note, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await WriteAsync(transaction, viewer, [note], cancel);
        await transaction.CommitAsync(cancel);
    }

    /// <summary>The seal of a digest (HMAC-SHA-256, RFC 2104), in hexadecimal digits.</summary>
    public string Seal(string hash) => secrets.Derive("audit " + hash);

    /// <summary>True when a seal is that of a digest.</summary>
    public bool IsSeal(string hash, string seal) =>
        CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(Seal(hash)), Encoding.UTF8.GetBytes(seal));

    internal async Task AppendAsync(NpgsqlTransaction transaction, IReadOnlyList<AuditEntry> entries, CancellationToken cancel)
    {
        var (number, hash) = await HoldLastAsync(transaction, cancel);
        await using var context = contexts.Within(transaction);
        foreach (var entry in entries)
        {
            // To the microsecond, as the database keeps it.
            var stored = entry with { Number = ++number, At = new(entry.At.UtcTicks / 10 * 10, TimeSpan.Zero) };
            hash = stored.Hash(hash);
            context.Audit.Add(AuditRow.FromEntry(stored, hash, Seal(hash)));
        }

        await context.SaveChangesAsync(cancel);
    }

    // The lock first, in a statement of its own: what is read after it is what the one before committed.
    private static async Task<(long Number, string Hash)> HoldLastAsync(NpgsqlTransaction transaction, CancellationToken cancel)
    {
        await using var batch = new NpgsqlBatch(transaction.Connection, transaction)
        {
            BatchCommands =
            {
                new($"SELECT pg_advisory_xact_lock({DatabaseLocks.Audit})"),
                new("SELECT number, hash FROM pelto.audit ORDER BY number DESC LIMIT 1"),
            },
        };
        await using var reader = await batch.ExecuteReaderAsync(cancel);
        await reader.NextResultAsync(cancel);
        return await reader.ReadAsync(cancel) ? (reader.GetInt64(0), reader.GetString(1)) : (0, AuditEntry.Beginning);
    }
}
