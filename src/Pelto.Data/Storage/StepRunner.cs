using Npgsql;
using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Carries plan steps out, one by one, on a database that people are working on.</summary>
/// <remarks>A change of structure needs its lock for a moment only. It waits no longer than <see cref="LockWait"/> for it, because everybody who comes later waits behind it, then steps back and tries again.</remarks>
public sealed class StepRunner(NpgsqlDataSource source, StepSql sql, FactsReader facts)
{
    private const string LockWait = "150ms";
    private const int Attempts = 200;

    /// <summary>Carries out what is not done yet.</summary>
    /// <param name="steps">In order.</param>
    /// <param name="say">Told of each step before it begins; throws to stop.</param>
    /// <param name="cancel">Stops between steps.</param>
    public async Task RunAsync(IReadOnlyList<PlanStep> steps, Func<PlanStep, Task> say, CancellationToken cancel)
    {
        if (steps.Count == 0) return;
        var known = await facts.ReadTablesAsync(cancel);
        foreach (var step in steps.Where(step => !step.IsDone(known)))
        {
            cancel.ThrowIfCancellationRequested();
            await say(step);
            foreach (var statement in sql.For(step)) await RunAsync(statement, cancel);
        }
    }

    private async Task RunAsync(string statement, CancellationToken cancel)
    {
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(cancel);
                await using var command = new NpgsqlCommand($"SET lock_timeout = '{LockWait}'; {statement}; RESET lock_timeout", connection);
                await command.ExecuteNonQueryAsync(cancel);
                return;
            }
            catch (PostgresException error) when (DatabaseErrors.IsLock(error) && attempt < Attempts)
            {
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(20, 120)), cancel);
            }
        }
    }
}
