using System.Security.Cryptography;
using System.Text;

namespace Pelto.Data.SigningIn;

/// <summary>Slows down who guesses, and nobody else.</summary>
/// <remarks>
/// Tries count for a name and a sender together, whether or not there is somebody of that name. A sender is a network; a browser in which
/// that person has signed in before is one of its own.
/// So whoever tries from elsewhere locks themselves out, and not the person. From many networks at once, all together are slowed down for
/// that name, and the person's own browsers still are not.
/// </remarks>
public sealed class SignInTries(IDbContextFactory<PeltoContext> contexts, TimeProvider clock)
{
    // The first of the two numbers of the locks under which tries are counted.
    /// <summary>How many tries one sender has for a name before it waits.</summary>
    public const int MaxOfSender = 5;

    /// <summary>How many tries all strange senders together have for a name before they wait.</summary>
    public const int MaxOfStrangers = 50;

    /// <summary>For how long tries count.</summary>
    public static TimeSpan Counts { get; } = TimeSpan.FromMinutes(15);

    /// <summary>
    /// Counts a try before it is looked at, so that many at once do not pass by the count; or says how long this sender still has to wait
    /// before trying this name, and counts nothing.
    /// </summary>
    /// <param name="name">The name, as typed.</param>
    /// <param name="sender">The network, or the mark of a browser in which this person signed in before.</param>
    /// <param name="isKnown">True for such a browser.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>Zero when it may be tried.</returns>
    public async Task<TimeSpan> TakeAsync(string name, string sender, bool isKnown, CancellationToken cancel = default)
    {
        var (key, now) = (Key(name), clock.GetUtcNow());
        var since = now - Counts;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);

        // One after another for each name, on all nodes.
        await context.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({DatabaseLocks.Tries}, hashtext({key}))", cancel);
        await context.Failures.Where(row => row.At < since).ExecuteDeleteAsync(cancel);
        var tries = context.Failures.AsNoTracking().Where(row => row.Name == key && row.At > since);
        var mine = await tries
            .Where(row => row.Sender == sender)
            .OrderByDescending(row => row.At)
            .Take(MaxOfSender)
            .Select(row => row.At)
            .ToListAsync(cancel);
        var until = mine.Count >= MaxOfSender ? mine[^1] + Counts : DateTimeOffset.MinValue;
        if (!isKnown)
        {
            var all = await tries.OrderByDescending(row => row.At).Take(MaxOfStrangers).Select(row => row.At).ToListAsync(cancel);
            if (all.Count >= MaxOfStrangers && all[^1] + Counts > until)
                until = all[^1] + Counts;
        }

        if (until > now)
            return until - now;
        context.Failures.Add(
            new()
            {
                Name = key,
                Sender = sender,
                At = now,
            }
        );
        await context.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return TimeSpan.Zero;
    }

    /// <summary>Forgets the tries of a sender who turned out to be the person.</summary>
    public async Task SucceededAsync(string name, string sender, CancellationToken cancel = default)
    {
        var key = Key(name);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Failures.Where(row => row.Name == key && row.Sender == sender).ExecuteDeleteAsync(cancel);
    }

    // Not the name itself: people type their password there by mistake.
    private static string Key(string name) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(SignInNames.Normal(name))))[..32];
}
