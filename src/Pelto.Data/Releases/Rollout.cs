using Microsoft.Extensions.Logging;
using Pelto.Core.Elements;
using Pelto.Core.Releases;
using Pelto.Data.Storage;

namespace Pelto.Data.Releases;

/// <summary>Takes one publishing live while people work: expand, switch, settle.</summary>
/// <remarks>Called by whoever holds the lock of publishing.</remarks>
public sealed class Rollout(
    Catalogues catalogues,
    FactsReader facts,
    StepRunner steps,
    TakingBack taking,
    ReleaseSwitch going,
    PublishingProgress progress,
    ILogger<Rollout> log
)
{
    /// <summary>How long requests that began under the earlier release get to end before columns are dropped.</summary>
    public static TimeSpan Draining { get; set; } = TimeSpan.FromSeconds(4);

    /// <summary>Raised on this node when a release has begun jobs.</summary>
    public event Action? JobsBegan;

    /// <summary>Makes storage ready for a release beside the one that people work with, and switches to it.</summary>
    /// <param name="row">The publishing; moved on with it.</param>
    /// <param name="cancel">Stops it between steps.</param>
    /// <exception cref="PublishRefusedException">It cannot go live, or somebody stopped it.</exception>
    public async Task PrepareAndSwitchAsync(PublishingRow row, CancellationToken cancel)
    {
        foreach (var other in await progress.UnfinishedAsync(row.Id, cancel))
        {
            // What another node left half settled comes first: what it carries over would be carried over later values otherwise.
            await progress.SayAsync(row, "Waits for the release before it to finish.", cancel);
            await catalogues.CatchUpAsync(cancel);
            await EndingAsync(other, () => FinishAsync(other, cancel));
        }

        // While people keep the machine busy each question to the database takes its time: what need not wait for one another is asked at
        // once.
        var others = taking.BackOthersAsync(row.Id, saying => progress.SayAsync(row, saying, cancel), cancel);
        await Task.WhenAll(others, catalogues.CatchUpAsync(cancel));
        var live = catalogues.Live;
        if (live.Release != row.Base)
            throw new PublishRefusedException($"Release {live.Release} went live in between. Look at the plan again.");
        var next = catalogues.Build(SiteDefinition.FromJson(row.Definition), row.Base + 1);
        var reading = facts.ReadStorageAsync(next, cancel);
        await Task.WhenAll(reading, taking.NoteAsync(row.Id, live, next, cancel));
        var known = await reading;
        var plan = Planning.Make(live, next, known);
        if (plan.Problems.Count > 0)
            throw new PublishRefusedException(plan.Problems[0].Sentence, plan.Problems);

        await steps.RunAsync(plan.Before, known, saying => progress.SayAsync(row, saying, cancel), cancel);
        await going.SwitchAsync(row, next, plan, cancel);
        await catalogues.GoToAsync(next, cancel);

        // Once this node knows what they are about.
        if (plan.Jobs.Count > 0)
            JobsBegan?.Invoke();
    }

    /// <summary>Does what had to wait for the switch: drops what nobody uses any more, and holds values on file to new rules.</summary>
    /// <param name="row">The publishing; moved on with it.</param>
    /// <param name="cancel">Stops it between steps.</param>
    public async Task FinishAsync(PublishingRow row, CancellationToken cancel)
    {
        var (live, earlier) = (catalogues.Live, await catalogues.AtAsync(row.Base, cancel));
        var plan = Planning.Make(earlier, live, await facts.ReadTablesAsync(cancel));
        var left = plan.Before.Where(step => step is not (TrackColumn or ConvertValues)).Concat(plan.After).ToList();
        if (left.Exists(step => step is DropColumns))
        {
            await progress.SayAsync(row, "Waits until nobody works with what is dropped any longer.", cancel);
            await Task.Delay(Draining, cancel);
        }

        await steps.RunAsync(left, await facts.ReadTablesAsync(cancel), saying => progress.SayAsync(row, saying, cancel), cancel);
        await progress.SetAsync(row, PublishingState.Done, $"Release {row.Release} is live.", cancel);
    }

    /// <summary>Does something of a publishing, and ends it where that is refused: whoever waits for it is told why.</summary>
    /// <param name="row">The publishing.</param>
    /// <param name="work">What is done.</param>
    public async Task EndingAsync(PublishingRow row, Func<Task> work)
    {
        try
        {
            await work();
        }
        catch (Exception error) when (error is PublishRefusedException or PostgresException && !DatabaseErrors.IsDown(error))
        {
            log.LogWarning(error, "Publishing ended early");
            await progress.EndAsync(row, Reason(error));
        }
    }

    private static string Reason(Exception error) =>
        error switch
        {
            PublishRefusedException => error.Message,
            _ when DatabaseErrors.IsFull(error) => "The disk of the database is full.",
            _ => $"The database refused a step: {(error.GetBaseException() as PostgresException)?.MessageText ?? error.Message}",
        };
}
