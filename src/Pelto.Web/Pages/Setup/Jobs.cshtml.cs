using Pelto.Data.Jobs;

namespace Pelto.Web.Pages;

/// <summary>Work on many records: how far it is, stopping it, undoing it.</summary>
public sealed class JobsModel(CurrentRequest request, JobRunner runner, JobService service) : PageModel
{
    /// <summary>Newest first.</summary>
    public IReadOnlyList<JobRow> Jobs { get; private set; } = [];

    /// <summary>True while one runs: the page asks again and again.</summary>
    public bool IsBusy => Jobs.Any(job => job.State is JobState.Running or JobState.Undoing);

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>
    /// True when the one who looks may know how many records a job changed, and what it met: they read all values of its field.
    /// </summary>
    public bool IsTold(JobRow job) =>
        request.Viewer.IsAdministrator
        || (request.Catalogue.FindField(job.Field) is { } field && request.Viewer.ReadsAll(field, request.Catalogue));

    /// <summary>How many records or lines a job changed, in words.</summary>
    public string Many(JobRow job) =>
        $"{Numbers.Format(job.Changed, locale: Locale)} "
        + $"{(request.Catalogue.FindField(job.Field) is { Part.IsLines: true } ? "line" : "record")}{(job.Changed == 1 ? "" : "s")}";

    /// <summary>Shows them.</summary>
    public async Task<IActionResult> OnGetAsync()
    {
        all = await runner.AllAsync();
        Jobs =
        [
            .. all.Where(job =>
                request.Views.WorksEverywhere
                || (request.Catalogue.FindField(job.Field) is { } field && request.Views.WorksAt(field.Part.RecordType.Code))
            ),
        ];
        return Request.Headers.ContainsKey("HX-Request") ? Partial("Setup/_Jobs", this) : Page();
    }

    /// <summary>How many jobs are done before this one begins; they are done one after the other.</summary>
    public int Before(JobRow job) =>
        job.State is JobState.Running or JobState.Undoing
            ? all.Count(other =>
                other.State is JobState.Running or JobState.Undoing && (other.StartedAt, other.Id).CompareTo((job.StartedAt, job.Id)) < 0
            )
            : 0;

    /// <summary>How many can be stopped together.</summary>
    public int Running => Jobs.Count(job => job.State == JobState.Running);

    private IReadOnlyList<JobRow> all = [];

    /// <summary>Stops all that run or wait.</summary>
    public async Task<IActionResult> OnPostStopAllAsync()
    {
        await runner.StopAllAsync(request.Viewer);
        return Redirect("/setup/jobs");
    }

    /// <summary>Stops one.</summary>
    public async Task<IActionResult> OnPostStopAsync(Guid id)
    {
        await runner.StopAsync(id, request.Viewer);
        return Redirect("/setup/jobs");
    }

    /// <summary>Takes back what one did.</summary>
    public async Task<IActionResult> OnPostUndoAsync(Guid id)
    {
        if (await runner.UndoAsync(id, request.Viewer))
            service.Wake();
        return Redirect("/setup/jobs");
    }
}
