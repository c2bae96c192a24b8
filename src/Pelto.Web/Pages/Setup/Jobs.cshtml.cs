using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Pelto.Core.Access;
using Pelto.Core.Values;
using Pelto.Data.Definitions;
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

    /// <summary>True when the one who looks may know how many records a job changed, and what it met: they read all values of its field.</summary>
    public bool IsTold(JobRow job) => request.Viewer.IsAdministrator || (request.Catalogue.FindField(job.Field) is { } field && request.Viewer.ReadsAll(field, request.Catalogue));

    /// <summary>Shows them.</summary>
    public async Task<IActionResult> OnGetAsync()
    {
        Jobs = [.. (await runner.AllAsync()).Where(job => request.Views.WorksEverywhere || (request.Catalogue.FindField(job.Field) is { } field && request.Views.WorksAt(field.Part.RecordType.Code)))];
        return Request.Headers.ContainsKey("HX-Request") ? Partial("Setup/_Jobs", this) : Page();
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
        if (await runner.UndoAsync(id, request.Viewer)) service.Wake();
        return Redirect("/setup/jobs");
    }
}
