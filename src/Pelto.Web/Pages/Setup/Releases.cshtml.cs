using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Pelto.Data.Definitions;

namespace Pelto.Web.Pages;

/// <summary>All releases, the live one first.</summary>
public sealed class ReleasesModel(CurrentRequest request, PeltoContext context) : PageModel
{
    /// <summary>The releases.</summary>
    public IReadOnlyList<ReleaseRow> Rows { get; private set; } = [];

    /// <summary>The number of the live one.</summary>
    public int Live => request.Catalogue.Release;

    /// <summary>The conventions of the person who looks.</summary>
    public Pelto.Core.Values.Locale Locale => request.Locale;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync() => Rows = await context.Releases.AsNoTracking().OrderByDescending(row => row.Number).Take(200).ToListAsync();
}
