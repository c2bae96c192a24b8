using Npgsql;
using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Carries plan steps out, one by one, on a database that people are working on.</summary>
/// <remarks>A change of structure needs its lock for a moment only. It waits no longer than <see cref="LockWait"/> for it, because everybody who comes later waits behind it, then steps back and tries again.</remarks>
public sealed class StepRunner(NpgsqlDataSource source, StepSql sql, FactsReader facts, Carrying carrying, DataSaver saver)
{
    private const string LockWait = "150ms";
    private const int Attempts = 200;

    /// <summary>Carries out what is not done yet. Steps that take a moment go to the database together; each that takes longer goes alone.</summary>
    /// <param name="steps">In order.</param>
    /// <param name="say">Told what is being done; throws to stop.</param>
    /// <param name="cancel">Stops between steps.</param>
    public async Task RunAsync(IReadOnlyList<PlanStep> steps, Func<string, Task> say, CancellationToken cancel)
    {
        if (steps.Count == 0) return;
        var known = await facts.ReadTablesAsync(cancel);
        var together = new List<string>();
        foreach (var step in steps.Where(step => !step.IsDone(known)))
        {
            cancel.ThrowIfCancellationRequested();
            await say(step.Says);
            if (step.IsInstant)
            {
                together.AddRange(sql.For(step));
                continue;
            }

            await FlushAsync(together, cancel);
            await RunAloneAsync(step, say, cancel);
        }

        await FlushAsync(together, cancel);
    }

    private async Task RunAloneAsync(PlanStep step, Func<string, Task> say, CancellationToken cancel)
    {
        switch (step)
        {
            case CarryValues carry:
                await carrying.CarryAllAsync(carry.From, carry.To, say, cancel);
                break;
            case FinishCarrying finish:
                await carrying.CarryChangedAsync(finish.From, finish.To, cancel);
                await RunAsync(string.Join('\n', sql.For(step)), cancel);
                await carrying.CarryChangedAsync(finish.From, finish.To, cancel);
                break;
            case SaveData save:
                await saver.SaveAsync(save, cancel);
                break;
            case AddUnique or DropUnique or AddLinkIndex or AddFindIndex or AddListIndex or DropFindIndex:
                // Built beside everybody's work: it waits for others, and nobody waits for it.
                foreach (var statement in sql.For(step)) await RunAsync(statement, cancel, wait: "0");
                break;
            default:
                foreach (var statement in sql.For(step)) await RunAsync(statement, cancel);
                break;
        }
    }

    // One command is one transaction: when its lock cannot be had, none of it is done, and all of it is tried again.
    private async Task FlushAsync(List<string> statements, CancellationToken cancel)
    {
        if (statements.Count > 0) await RunAsync(string.Join('\n', statements), cancel);
        statements.Clear();
    }

    private async Task RunAsync(string statement, CancellationToken cancel, string wait = LockWait)
    {
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(cancel);
                await ExecuteAsync(connection, $"SET lock_timeout = '{wait}'", cancel);
                await ExecuteAsync(connection, statement, cancel);
                return;
            }
            catch (PostgresException error) when (DatabaseErrors.IsLock(error) && attempt < Attempts)
            {
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(20, 120)), cancel);
            }
        }
    }

    private static async Task ExecuteAsync(NpgsqlConnection connection, string sql, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(sql, connection) { CommandTimeout = 0 };
        await command.ExecuteNonQueryAsync(cancel);
    }
}
