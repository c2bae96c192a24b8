using Pelto.Data.Jobs;

namespace Pelto.Web;

/// <summary>
/// Carries jobs through: when a release begins some, when somebody asks, and now and then for what another node left behind.
/// </summary>
public sealed class JobService : EnduringService
{
    private static readonly TimeSpan NowAndThen = TimeSpan.FromSeconds(20);
    private readonly SemaphoreSlim wanted = new(0);
    private readonly JobRunner runner;

    /// <summary>Hears of releases that begin jobs.</summary>
    public JobService(JobRunner runner, Rollout rollout, ILogger<JobService> log)
        : base(log)
    {
        this.runner = runner;
        rollout.JobsBegan += Wake;
    }

    /// <inheritdoc/>
    protected override string What => "Carrying jobs through";

    /// <summary>Has the jobs looked at soon.</summary>
    public void Wake() => wanted.Release();

    /// <inheritdoc/>
    protected override async Task WorkAsync(CancellationToken cancel)
    {
        await runner.RefillNightlyAsync(cancel);
        await runner.RunOpenAsync(cancel);
        await wanted.WaitAsync(NowAndThen, cancel);
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        wanted.Dispose();
        base.Dispose();
    }
}
