namespace Pelto.Web;

/// <summary>
/// Carries publishings through in the background, so that the page can show how far each is and offer to stop it; also those that another
/// node left behind when it died.
/// </summary>
public sealed class Publishing(PublishingQueue queue, ILogger<Publishing> log) : EnduringService(log)
{
    private static readonly TimeSpan NowAndThen = TimeSpan.FromSeconds(3);
    private readonly SemaphoreSlim wanted = new(0);

    /// <inheritdoc/>
    protected override string What => "Publishing";

    /// <summary>Has what was put down carried through at once.</summary>
    public void Begin() => wanted.Release();

    /// <inheritdoc/>
    protected override async Task WorkAsync(CancellationToken cancel)
    {
        await queue.ResumeAsync(cancel);
        await wanted.WaitAsync(NowAndThen, cancel);
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        wanted.Dispose();
        base.Dispose();
    }
}
