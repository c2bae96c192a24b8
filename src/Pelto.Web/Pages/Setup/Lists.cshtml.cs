namespace Pelto.Web.Pages;

/// <summary>A row of the page of choice lists.</summary>
public sealed record ListEntry(
    string Id,
    string Label,
    IReadOnlyList<Choice> Choices,
    string Order,
    bool MayAdd,
    IReadOnlyList<string> Uses,
    string? State
);

/// <summary>All choices: lists that fields share, and those that belong to one field.</summary>
public sealed class ListsModel(CurrentRequest request, Drafts drafts) : PageModel
{
    /// <summary>Shared lists first.</summary>
    public IReadOnlyList<ListEntry> Lists { get; private set; } = [];

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        var (site, live) = ((await drafts.ReadAsync()).Site, request.Catalogue.Site);
        Lists =
        [
            .. site
                .ChoiceLists.Where(list => request.Views.Sees(list, site))
                .OrderBy(list => list.Label, StringComparer.OrdinalIgnoreCase)
                .Select(list => new ListEntry(
                    list.Id,
                    list.Label,
                    list.Choices,
                    list.Alphabetical ? "alphabetical" : "as given",
                    list.MayAdd,
                    [.. site.Fields.Where(field => field.ChoiceList == list.Id && request.Views.Sees(field)).Select(field => field.Label)],
                    State(list, live.FindList(list.Id))
                )),
            .. site
                .Fields.Where(field => field.Choices is { Count: > 0 } && !field.Retired && request.Views.Sees(field))
                .Select(field => new ListEntry(
                    field.Id,
                    field.Label,
                    field.Choices!,
                    "as given",
                    field.MayAdd,
                    [$"{field.Label} alone"],
                    State(field.Choices, live.Find(field.Id)?.Choices)
                )),
        ];
    }

    private static string? State<T>(T now, T? live) =>
        live is null ? "draft: new"
        : SiteDefinition.Same(now, live) ? null
        : "draft: changed";
}
