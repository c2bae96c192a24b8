using Npgsql;
using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Carries plan steps out, one by one, on a database that people are working on.</summary>
/// <remarks>A change of structure needs its lock for a moment only. It waits no longer than <see cref="LockWait"/> for it, because everybody who comes later waits behind it, then steps back and tries again.</remarks>
public sealed class StepRunner(NpgsqlDataSource source, StepSql sql, FactsReader facts)
{
    private const string LockWait = "150ms";
    private const int Attempts = 200;

    /// <summary>Carries out what is not done yet. Steps that take a moment go to the database together; each that takes longer goes alone.</summary>
    /// <param name="steps">In order.</param>
    /// <param name="say">Told of steps before they begin; throws to stop.</param>
    /// <param name="cancel">Stops between steps.</param>
    public async Task RunAsync(IReadOnlyList<PlanStep> steps, Func<PlanStep, Task> say, CancellationToken cancel)
    {
        if (steps.Count == 0) return;
        var known = await facts.ReadTablesAsync(cancel);
        var together = new List<string>();
        foreach (var step in steps.Where(step => !step.IsDone(known)))
        {
            cancel.ThrowIfCancellationRequested();
            await say(step);
            if (!step.IsInstant) await FlushAsync(together, cancel);
            together.AddRange(sql.For(step));
            if (!step.IsInstant) await FlushAsync(together, cancel);
        }

        await FlushAsync(together, cancel);
    }

    // One command is one transaction: when its lock cannot be had, none of it is done, and all of it is tried again.
    private async Task FlushAsync(List<string> statements, CancellationToken cancel)
    {
        if (statements.Count > 0) await RunAsync(string.Join('\n', statements), cancel);
        statements.Clear();
    }

    private async Task RunAsync(string statement, CancellationToken cancel)
    {
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(cancel);
                await using var command = new NpgsqlCommand($"SET lock_timeout = '{LockWait}'; {statement} RESET lock_timeout;", connection);
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
