using System.Diagnostics;
using System.Text.RegularExpressions;

namespace Pelto.Data.Database;

/// <summary>Runs statements that change the structure of a database that people are working on.</summary>
/// <remarks>
/// Such a statement needs its lock for a moment only. It waits no longer than <see cref="LockWait"/> for it, because everybody who comes
/// later waits behind it, then steps back and tries again.
/// </remarks>
internal static partial class StructureStatements
{
    private const string LockWait = "150ms";

    // What a node that died was at ends soon: whoever takes over begins it anew.
    private const string EndsWithItsNode = "SET client_connection_check_interval = '500ms'";

    // Looked after before that, so that of two who wait for each other it is we who step back, and so that the database's own upkeep of a
    // table
    // makes way: it does so only for whoever has waited as long as this. A role that may not set it waits for the upkeep to end.
    private const string MakeWay =
        "DO $$ BEGIN PERFORM set_config('deadlock_timeout', '100ms', false); EXCEPTION WHEN insufficient_privilege THEN NULL; END $$";

    /// <summary>How long a statement is tried again before publishing gives up.</summary>
    public static TimeSpan Longest { get; set; } = TimeSpan.FromMinutes(10);

    /// <summary>Runs it, again and again while its lock cannot be had. One call is one transaction: all of it is done or none.</summary>
    /// <param name="source">Where.</param>
    /// <param name="statement">What.</param>
    /// <param name="longest">How long to try; <see cref="Longest"/> where it is not said.</param>
    /// <param name="cancel">Stops it at once, also while it waits.</param>
    public static async Task RunAsync(
        NpgsqlDataSource source,
        string statement,
        TimeSpan? longest = null,
        CancellationToken cancel = default
    )
    {
        // What is built beside everybody's work waits for others, and nobody waits for it.
        var wait = BesideOthers().IsMatch(statement) ? "0" : LockWait;
        var began = Stopwatch.GetTimestamp();
        while (true)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(cancel);
                await connection.Command($"SET lock_timeout = '{wait}'; {EndsWithItsNode}; {MakeWay}").Unhurried().RunAsync(cancel);
                await connection.Command(statement).Unhurried().RunAsync(cancel);
                return;
            }
            catch (PostgresException error) when (DatabaseErrors.IsLock(error))
            {
                if (Stopwatch.GetElapsedTime(began) > (longest ?? Longest))
                    throw;
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(20, 120)), cancel);
            }
        }
    }

    [GeneratedRegex("^(CREATE|CREATE UNIQUE|DROP) INDEX CONCURRENTLY ")]
    private static partial Regex BesideOthers();
}
