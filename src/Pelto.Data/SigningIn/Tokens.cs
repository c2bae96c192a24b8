using System.Security.Cryptography;
using System.Text;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.SigningIn;

/// <summary>
/// Bearer tokens for the programming interface (RFC 6750): each of one person, limited in what it may, ending by itself, and revocable.
/// </summary>
public sealed class Tokens(IDbContextFactory<PeltoContext> contexts, NpgsqlDataSource source, AuditTrail audit, TimeProvider clock)
{
    private const string Prefix = "pelto_";
    private const int Length = 70;

    /// <summary>How long a token lasts at most.</summary>
    public static TimeSpan Longest { get; } = TimeSpan.FromDays(366);

    /// <summary>Makes a token. It is told once; only its digest is kept.</summary>
    /// <param name="person">Whose rights it carries.</param>
    /// <param name="name">What it is called.</param>
    /// <param name="limits">What it is limited to.</param>
    /// <param name="lasts">How long it lasts.</param>
    /// <param name="by">Who makes it.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<string> MakeAsync(
        Viewer person,
        string name,
        TokenLimits limits,
        TimeSpan lasts,
        Viewer by,
        CancellationToken cancel = default
    )
    {
        Allowing.MustBeSure(by);
        var token = Prefix + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        var now = clock.GetUtcNow();
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var row = new TokenRow
        {
            Digest = Digest(token),
            PersonId = person.Id,
            Name = name,
            Types = [.. limits.Types],
            Writes = limits.Writes,
            SetsUp = limits.SetsUp,
            MadeAt = now,
            EndsAt = now + (lasts > Longest ? Longest : lasts),
        };
        context.Tokens.Add(row);
        await audit.CommitAsync(
            context,
            by,
            new(AuditKinds.People, person.Id.ToString(), $"Made the token “{name}” of {person.Name}") { After = InWords(row) },
            cancel
        );
        return token;
    }

    /// <summary>
    /// Whose token this is, with what it is limited to, and what it is called; null when it is none, or has ended. One look-up, since every
    /// call of the programming interface begins with it.
    /// </summary>
    public async Task<(Viewer Viewer, string Name)?> FindAsync(string token, CancellationToken cancel = default)
    {
        if (DigestOf(token) is not { } digest)
            return null;
        var now = clock.GetUtcNow();
        await using var command = source.CreateCommand(
            $"""
            SELECT {ViewerRows.Columns}, t.name, t.types, t.writes, t.sets_up, t.used_at
            FROM pelto.token t JOIN pelto.person p ON p.id = t.person_id {ViewerRows.Joined}
            WHERE t.digest = $1 AND t.ends_at > $2 AND NOT p.disabled
            """
        );
        command.Parameters.Add(new() { Value = digest });
        command.Parameters.Add(new() { Value = now });
        DateTimeOffset? used;
        (Viewer, string) found;
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            if (!await reader.ReadAsync(cancel))
                return null;
            found = (
                ViewerRows.Read(reader) with
                {
                    Limits = new(
                        reader.GetFieldValue<string[]>(ViewerRows.Count + 1),
                        reader.GetBoolean(ViewerRows.Count + 2),
                        reader.GetBoolean(ViewerRows.Count + 3)
                    ),
                },
                reader.GetString(ViewerRows.Count)
            );
            used = reader.IsDBNull(ViewerRows.Count + 4) ? null : reader.GetFieldValue<DateTimeOffset>(ViewerRows.Count + 4);
        }

        if (used is null || now - used > TimeSpan.FromHours(1))
        {
            await using var context = await contexts.CreateDbContextAsync(cancel);
            await context
                .Tokens.Where(row => row.Digest == digest)
                .ExecuteUpdateAsync(set => set.SetProperty(row => row.UsedAt, now), cancel);
        }

        return found;
    }

    /// <summary>The tokens of a person, newest first.</summary>
    public async Task<IReadOnlyList<TokenRow>> OfAsync(Guid person, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context
            .Tokens.AsNoTracking()
            .Where(row => row.PersonId == person)
            .OrderByDescending(row => row.MadeAt)
            .ToListAsync(cancel);
    }

    /// <summary>Ends a token of a person; false when it is not there.</summary>
    public async Task<bool> RevokeAsync(Viewer person, string digest, Viewer by, CancellationToken cancel = default)
    {
        Allowing.MustBeSure(by);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        if (await context.Tokens.FirstOrDefaultAsync(row => row.Digest == digest && row.PersonId == person.Id, cancel) is not { } row)
            return false;
        context.Tokens.Remove(row);
        await audit.CommitAsync(
            context,
            by,
            new(AuditKinds.People, person.Id.ToString(), $"Ended the token “{row.Name}” of {person.Name}") { Before = InWords(row) },
            cancel
        );
        return true;
    }

    /// <summary>What a token may, in words.</summary>
    public static string InWords(TokenRow row) =>
        $"{(row.Writes ? "reads and writes" : "reads")} "
        + $"{(row.Types.Length == 0 ? "all record types" : string.Join(", ", row.Types))}{(row.SetsUp ? ", sets up" : "")}";

    // Of what has the form of a token; anything else is not looked up.
    private static string? DigestOf(string? text) =>
        text is { Length: Length } && text.StartsWith(Prefix, StringComparison.Ordinal) ? Digest(text) : null;

    private static string Digest(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
