using Pelto.Data.Storage;

namespace Pelto.Web;

/// <summary>Carries a publishing through in the background, so that the page can show how far it is and offer to stop it.</summary>
public sealed class Publishing(Publisher publisher, ILogger<Publishing> log)
{
    /// <summary>Begins; a server that goes down in between resumes it when it starts again.</summary>
    public void Begin(Guid id) => _ = RunAsync(id);

    private async Task RunAsync(Guid id)
    {
        try
        {
            await publisher.RunAsync(id);
        }
        catch (Exception error)
        {
            log.LogError(error, "Publishing was cut off; it is resumed at the next start");
        }
    }
}
