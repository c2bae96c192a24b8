namespace Pelto.Web.Pages;

/// <summary>A publishing on its way.</summary>
public sealed class PublishingModel(CurrentRequest request, Publisher publisher) : PageModel
{
    /// <summary>How it stands.</summary>
    public PublishingRow Row { get; private set; } = default!;

    /// <summary>The record's screen from which somebody came.</summary>
    public string? From { get; private set; }

    /// <summary>How far it is. Which step it is at, and of how many values, is for those who may know all of them.</summary>
    public string Saying =>
        IsOver || AdminRights.All(request.Viewer) ? Row.Saying
        : Row.State == PublishingState.Preparing ? "Storage is made ready."
        : "It is live; the rest is being finished.";

    /// <summary>True when it has ended, well or not.</summary>
    public bool IsOver => Row.State is PublishingState.Done or PublishingState.Failed or PublishingState.Stopped;

    /// <summary>Where to ask again.</summary>
    public string Here => $"/setup/releases/going/{Row.Id}{(From is null ? "" : "?from=" + Uri.EscapeDataString(From))}";

    /// <summary>Shows how it stands; the page asks for its middle again and again.</summary>
    public async Task<IActionResult> OnGetAsync(Guid id, string? from)
    {
        if (await publisher.FindAsync(id) is not { } row)
            return NotFound();
        Row = row;
        From = Url.IsLocalUrl(from) ? from : null;
        return Request.Headers.ContainsKey("HX-Request") ? Partial("Setup/_Publishing", this) : Page();
    }

    /// <summary>Stops it, unless it is live already.</summary>
    public async Task<IActionResult> OnPostStopAsync(Guid id)
    {
        await publisher.StopAsync(id, request.Viewer);
        return Redirect($"/setup/releases/going/{id}");
    }
}
