namespace Pelto.Data.SigningIn;

/// <summary>Too many people sign in at this moment.</summary>
public sealed class TooBusyException() : Exception("Very many people are signing in just now. Please try again in half a minute.");

/// <summary>
/// Reckoning out passwords is made slow, so it gets a share of the machine and no more: however many are tried at once, people at work
/// notice nothing.
/// </summary>
internal static class Hashing
{
    // Half of the processors, and at least one.
    private static readonly SemaphoreSlim Turns = new(Math.Max(1, Environment.ProcessorCount / 2));

    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    // Whoever comes later than these would wait for longer than that.
    private const int MaxWaiting = 60;
    private static int waiting;

    public static async Task<T> RunAsync<T>(Func<T> work, CancellationToken cancel)
    {
        if (Interlocked.Increment(ref waiting) > MaxWaiting)
        {
            Interlocked.Decrement(ref waiting);
            throw new TooBusyException();
        }

        try
        {
            if (!await Turns.WaitAsync(Longest, cancel))
                throw new TooBusyException();
            try
            {
                return await Task.Run(work, cancel);
            }
            finally
            {
                Turns.Release();
            }
        }
        finally
        {
            Interlocked.Decrement(ref waiting);
        }
    }
}
