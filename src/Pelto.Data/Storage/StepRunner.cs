using Pelto.Core.Releases;

namespace Pelto.Data.Storage;

/// <summary>Carries plan steps out, one by one, on a database that people are working on.</summary>
public sealed class StepRunner(OwnerDatabase database, ValueConversion conversion, DataSaver saver)
{
    /// <summary>
    /// Carries out what is not done yet. Steps that take a moment go to the database together; each that takes longer goes alone.
    /// </summary>
    /// <param name="steps">In order.</param>
    /// <param name="known">How the database stands.</param>
    /// <param name="say">Told what is being done; throws to stop.</param>
    /// <param name="cancel">Stops between steps.</param>
    public async Task RunAsync(IReadOnlyList<PlanStep> steps, StorageFacts known, Func<string, Task> say, CancellationToken cancel)
    {
        var together = new List<string>();
        foreach (var step in steps.Where(step => !step.IsDone(known)))
        {
            cancel.ThrowIfCancellationRequested();
            await say(step.Description);
            if (step.IsInstant)
            {
                together.AddRange(SqlOf(step));
                continue;
            }

            await FlushAsync(together, cancel);
            await RunAloneAsync(step, say, cancel);
        }

        await FlushAsync(together, cancel);
    }

    /// <summary>The statements that carry a step out.</summary>
    public static IReadOnlyList<string> SqlOf(PlanStep step) => [.. step.Sql(StorageNames.Instance)];

    private async Task RunAloneAsync(PlanStep step, Func<string, Task> say, CancellationToken cancel)
    {
        switch (step)
        {
            case ConvertValues convert:
                await conversion.ConvertAllAsync(convert.From, convert.To, say, cancel);
                break;
            case FinishConversion finish:
                await conversion.ConvertChangedAsync(finish.From, finish.To, cancel);
                await RunAsync(string.Join('\n', SqlOf(step)), cancel);
                await conversion.ConvertChangedAsync(finish.From, finish.To, cancel);
                break;
            case SaveData save:
                await saver.SaveAsync(save, cancel);
                break;
            case { IsDroppedWhenCutOff: true }:
                await BuildAsync(SqlOf(step), cancel);
                break;
            default:
                foreach (var statement in SqlOf(step))
                    await RunAsync(statement, cancel);
                break;
        }
    }

    // What could not be built to its end is of no use, and would be kept up with every save.
    private async Task BuildAsync(IReadOnlyList<string> dropAndBuild, CancellationToken cancel)
    {
        try
        {
            foreach (var statement in dropAndBuild)
                await RunAsync(statement, cancel);
        }
        catch (PostgresException error) when (!DatabaseErrors.IsDown(error))
        {
            await RunAsync(dropAndBuild[0], CancellationToken.None);
            throw;
        }
    }

    // One command is one transaction: when its lock cannot be had, none of it is done, and all of it is tried again.
    private async Task FlushAsync(List<string> statements, CancellationToken cancel)
    {
        if (statements.Count > 0)
            await RunAsync(string.Join('\n', statements), cancel);
        statements.Clear();
    }

    private Task RunAsync(string statement, CancellationToken cancel) =>
        StructureStatements.RunAsync(database.Source, statement, cancel: cancel);
}
