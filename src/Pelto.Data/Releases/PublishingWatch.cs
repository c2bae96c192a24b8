using Microsoft.Extensions.Logging;
using Pelto.Data.Queries;

namespace Pelto.Data.Releases;

/// <summary>Looks after a publishing while it works: stops it at once when somebody wants that, and says for whom it waits.</summary>
public sealed class PublishingWatch(OwnerDatabase database, IDbContextFactory<PeltoContext> contexts, ILogger<PublishingWatch> log)
{
    private static readonly TimeSpan Often = TimeSpan.FromMilliseconds(200);

    // A step that cannot have its lock steps back between its tries: not to be seen waiting once says little.
    private const int Glimpses = 5;

    private const string Blocking = """
        SELECT coalesce(b.application_name, ''), coalesce(b.usename::text, ''), coalesce(extract(epoch FROM clock_timestamp() - b.xact_start), 0)::bigint, coalesce(b.state LIKE 'idle%', false)
        FROM (SELECT DISTINCT unnest(pg_blocking_pids(pid)) AS pid FROM pg_stat_activity WHERE datname = current_database() AND application_name = $1 AND wait_event_type = 'Lock') w
        JOIN pg_stat_activity b ON b.pid = w.pid ORDER BY b.xact_start LIMIT 1
        """;

    /// <summary>Does something of a publishing. Throws <see cref="PublishRefusedException"/> when somebody stopped it.</summary>
    /// <param name="row">The publishing; what it says is put back when it waits no longer.</param>
    /// <param name="work">What is done; it is told to stop.</param>
    /// <param name="cancel">Ends it with the node.</param>
    public async Task DuringAsync(PublishingRow row, Func<CancellationToken, Task> work, CancellationToken cancel)
    {
        using var stopping = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        using var over = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var watching = WatchAsync(row, stopping, over.Token);
        try
        {
            await work(stopping.Token);
        }
        catch (Exception) when (stopping.IsCancellationRequested && !cancel.IsCancellationRequested)
        {
            throw new PublishRefusedException(Publisher.Stopped);
        }
        finally
        {
            await over.CancelAsync();
            await watching.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private async Task WatchAsync(PublishingRow row, CancellationTokenSource stopping, CancellationToken over)
    {
        var unseen = Glimpses;
        while (true)
        {
            await Task.Delay(Often, over);
            try
            {
                await using var context = await contexts.CreateDbContextAsync(over);
                if (
                    await context.Publishings.Where(one => one.Id == row.Id).Select(one => one.State).FirstAsync(over)
                    == PublishingState.Stopped
                )
                {
                    await stopping.CancelAsync();
                    return;
                }

                var waits = await WaitsForAsync(over);
                unseen = waits is null ? unseen + 1 : 0;
                if (waits is null && unseen != Glimpses)
                    continue;
                var (state, saying) = (
                    row.State,
                    waits is null
                        ? row.Saying
                        : waits
                            + (
                                row.State == PublishingState.Preparing
                                    ? " Nobody waits behind this, and it can be stopped."
                                    : " Nobody waits behind this."
                            )
                );
                await context
                    .Publishings.Where(one => one.Id == row.Id && one.State == state)
                    .ExecuteUpdateAsync(set => set.SetProperty(one => one.Saying, saying), over);
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                // Whatever goes wrong with looking, stopping has to work the next time; a database that is gone is noticed by whoever
                // works.
                log.LogWarning(error, "A publishing could not be looked after for a moment");
            }
        }
    }

    private async Task<string?> WaitsForAsync(CancellationToken cancel)
    {
        await using var command = database.Source.CreateCommand(Blocking);
        command.Parameters.Add(new() { Value = OwnerDatabase.Named });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        if (!await reader.ReadAsync(cancel))
            return null;
        var (program, role, seconds, isIdle) = (reader.GetString(0), reader.GetString(1), reader.GetInt64(2), reader.GetBoolean(3));
        var who = program switch
        {
            ApplicationRole.Named => "work of people in Pelto",
            QueryRole.Named => "a query that runs in Pelto",
            OwnerDatabase.Named => "another step of publishing",
            // The workers of the database itself belong to no role.
            _ when role.Length == 0 => "the upkeep that the database does by itself",
            "" => $"a program that works in the database as {role}",
            _ => $"{program}, which works in the database as {role}",
        };
        var since = seconds < 120 ? $"{Numbers.Format(seconds)} s" : $"{Numbers.Format(seconds / 60)} min";
        return $"Waits for {who}: its transaction has been open for {since}{(isIdle ? ", and does nothing at present" : "")}.";
    }
}
