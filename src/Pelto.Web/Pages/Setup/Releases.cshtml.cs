using Microsoft.EntityFrameworkCore;
using Pelto.Core.Elements;
using Pelto.Core.Releases;

namespace Pelto.Web.Pages;

/// <summary>All releases, the live one first.</summary>
public sealed class ReleasesModel(CurrentRequest request, PeltoContext context, Catalogues catalogues) : PageModel
{
    /// <summary>The releases.</summary>
    public IReadOnlyList<ReleaseRow> Rows { get; private set; } = [];

    /// <summary>The number of the live one.</summary>
    public int Live => request.Catalogue.Release;

    /// <summary>The conventions of the person who looks.</summary>
    public Pelto.Core.Values.Locale Locale => request.Locale;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        var views = request.Views;
        Rows = await context
            .Releases.AsNoTracking()
            .OrderByDescending(row => row.Number)
            .Take(views.WorksEverywhere ? 200 : 30)
            .ToListAsync();
        if (views.WorksEverywhere)
            return;

        // What was noticed was written down for all; whoever has part of the work is told anew, of that part.
        var shown = Rows.Select(row => catalogues.Build(views.VisibleTo(SiteDefinition.FromJson(row.Definition)))).ToList();
        foreach (var (row, at) in Rows.Select((row, at) => (row, at)))
            row.Summary =
                at + 1 < shown.Count
                    ? string.Join(
                        '\n',
                        Planning.Make(shown[at + 1], shown[at], StorageFacts.Nothing).Changes.Select(change => change.Sentence)
                    )
                    : "";
    }
}
