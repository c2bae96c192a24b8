using Pelto.Core.Auditing;

namespace Pelto.Data.Auditing;

/// <summary>What is looked for in the audit; what is empty is not asked for.</summary>
/// <param name="Words">
/// Stands in what happened, in what it was or became, in the name of who did it, or is the whole of its subject.
/// </param>
/// <param name="Kind">One of <see cref="AuditKinds"/>.</param>
/// <param name="Person">Who did it.</param>
/// <param name="Since">The first moment.</param>
/// <param name="Until">The moment after the last.</param>
/// <param name="RecordType">The code of a record type.</param>
/// <param name="Record">A record's id.</param>
public sealed record AuditSearch(
    string? Words = null,
    string? Kind = null,
    Guid? Person = null,
    DateTimeOffset? Since = null,
    DateTimeOffset? Until = null,
    string? RecordType = null,
    long? Record = null
)
{
    /// <summary>Only what happened to these.</summary>
    public IReadOnlyCollection<string>? Subjects { get; init; }
}

/// <summary>What came of going through the chain.</summary>
/// <param name="Entries">How many entries were looked at.</param>
/// <param name="Head">The digest of the last entry that holds.</param>
/// <param name="Broken">The number of the first entry that does not hold; null when all do.</param>
/// <param name="Why">What is wrong there.</param>
/// <param name="Unsealed">
/// How many at the beginning carry the seal of a key that was lost: that they follow each other is all that can be shown of them.
/// </param>
public sealed record AuditCheck(long Entries, string Head, long? Broken = null, string? Why = null, long Unsealed = 0);

/// <summary>Finds entries of the audit, and goes through its chain.</summary>
public sealed class AuditReader(IDbContextFactory<PeltoContext> contexts, AuditTrail trail)
{
    /// <summary>Entries, newest first.</summary>
    /// <param name="search">What is looked for.</param>
    /// <param name="most">How many at most.</param>
    /// <param name="before">Only those with a smaller number.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<AuditEntry>> FindAsync(
        AuditSearch search,
        int most,
        long? before = null,
        CancellationToken cancel = default
    )
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var found = Filtered(context, search);
        if (before is { } number)
            found = found.Where(row => row.Number < number);
        return [.. (await found.OrderByDescending(row => row.Number).Take(most).ToListAsync(cancel)).Select(row => row.ToEntry())];
    }

    /// <summary>All entries that are looked for, oldest first, with their digests: as many as there are, read as they are taken.</summary>
    public async IAsyncEnumerable<(AuditEntry Entry, string Hash)> ReadAsync(
        AuditSearch search,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel = default
    )
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await foreach (var row in Filtered(context, search).OrderBy(row => row.Number).AsAsyncEnumerable().WithCancellation(cancel))
            yield return (row.ToEntry(), row.Hash);
    }

    /// <summary>
    /// Goes through all entries: whether each follows the one before, says what it said when it was written, and carries the seal of this
    /// installation, or comes before one that says, under such a seal, that the key is another from then on.
    /// </summary>
    public async Task<AuditCheck> CheckAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var (number, head, unsealed) = (0L, AuditEntry.Beginning, 0L);
        await foreach (var row in context.Audit.AsNoTracking().OrderBy(row => row.Number).AsAsyncEnumerable().WithCancellation(cancel))
        {
            if (row.Number != number + 1)
                return new(number, head, number + 1, $"Entry {number + 1} is missing.");
            if (row.ToEntry().Hash(head) != row.Hash)
                return new(number, head, row.Number, $"Entry {row.Number} is not as it was written, or does not follow the one before it.");
            var isOurs = trail.IsSeal(row.Hash, row.Seal);
            if (isOurs ? unsealed == number && number > 0 && row.Kind != AuditKinds.Key : unsealed < number)
                return NotOurs(isOurs ? 1 : row.Number);
            (number, head, unsealed) = (row.Number, row.Hash, isOurs ? unsealed : row.Number);
        }

        return unsealed == number && number > 0 ? NotOurs(1) : new(number, head, Unsealed: unsealed);

        AuditCheck NotOurs(long at) =>
            new(at - 1, at == 1 ? AuditEntry.Beginning : head, at, $"Entry {at} was not written by this installation.");
    }

    private static IQueryable<AuditRow> Filtered(PeltoContext context, AuditSearch search)
    {
        var rows = context.Audit.AsNoTracking();
        if (search.Kind is { Length: > 0 } kind)
            rows = rows.Where(row => row.Kind == kind);
        if (search.Person is { } person)
            rows = rows.Where(row => row.Person == person);
        if (search.Since is { } since)
            rows = rows.Where(row => row.At >= since);
        if (search.Until is { } until)
            rows = rows.Where(row => row.At < until);
        if (search.RecordType is { Length: > 0 } type)
            rows = rows.Where(row => row.RecordType == type);
        if (search.Record is { } record)
            rows = rows.Where(row => row.Record == record);
        if (search.Subjects is { } subjects)
            rows = rows.Where(row => subjects.Contains(row.Subject));
        if (search.Words?.Trim() is { Length: > 0 } words)
        {
            var like =
                $"%{words.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal)}%";
            rows = rows.Where(row =>
                EF.Functions.ILike(row.What, like)
                || EF.Functions.ILike(row.By, like)
                || EF.Functions.ILike(row.Before!, like)
                || EF.Functions.ILike(row.After!, like)
                || row.Subject == words
            );
        }

        return rows;
    }
}
