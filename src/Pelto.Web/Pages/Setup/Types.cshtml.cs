namespace Pelto.Web.Pages;

/// <summary>A row of the page of record types.</summary>
public sealed record TypeEntry(RecordTypeDefinition Type, int Fields, long? Records, string? State);

/// <summary>The user-defined record types.</summary>
public sealed class TypesModel(CurrentRequest request, Drafts drafts, RecordCounts counts) : PageModel
{
    /// <summary>Those of the draft, in the order of the menu.</summary>
    public IReadOnlyList<TypeEntry> Types { get; private set; } = [];

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        var site = (await drafts.ReadAsync()).Site;
        var entries = new List<TypeEntry>();
        foreach (var type in site.RecordTypes.Where(type => request.Views.SeesType(type.Code)))
        {
            var live = request.Catalogue.Site.FindType(type.Id);
            var state =
                type.Retired ? "retired"
                : live is null ? "draft: new"
                : SiteDefinition.Same(type, live) ? null
                : "draft: changed";
            entries.Add(
                new(
                    type,
                    site.Fields.Count(field => request.Views.Sees(field) && field.Places().Any(place => place.RecordType == type.Code)),
                    request.Catalogue.Find(type.Code) is { } found ? await counts.OfAsync(found, request.Viewer) : null,
                    state
                )
            );
        }

        Types = entries;
    }
}
