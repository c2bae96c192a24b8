using Pelto.Data.Jobs;
using Pelto.Data.Storage;

namespace Pelto.Web;

/// <summary>Carries jobs through: when a release begins some, when somebody asks, and now and then for what another node left behind.</summary>
public sealed class JobService(JobRunner runner, Publisher publisher, ILogger<JobService> log) : BackgroundService
{
    private static readonly TimeSpan NowAndThen = TimeSpan.FromSeconds(20);
    private readonly SemaphoreSlim wanted = new(0);

    /// <summary>Has the jobs looked at soon.</summary>
    public void Wake() => wanted.Release();

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        publisher.JobsBegan += Wake;
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await runner.RefillNightlyAsync(stoppingToken);
                await runner.RunOpenAsync(stoppingToken);
                await wanted.WaitAsync(NowAndThen, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception error)
            {
                log.LogWarning(error, "Jobs were cut off; they go on in a moment");
                await Task.Delay(TimeSpan.FromSeconds(2), stoppingToken);
            }
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        wanted.Dispose();
        base.Dispose();
    }
}
