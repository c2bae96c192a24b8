namespace Pelto.Web.Pages;

/// <summary>A row of the library of queries.</summary>
public sealed record QueryEntry(QueryDefinition Query, IReadOnlyList<FieldDefinition> Fills, string? State);

/// <summary>All saved queries, with what they fill.</summary>
public sealed class QueriesModel(CurrentRequest request, Drafts drafts) : PageModel
{
    /// <summary>By name.</summary>
    public IReadOnlyList<QueryEntry> Queries { get; private set; } = [];

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        var (site, live) = ((await drafts.ReadAsync()).Site, request.Catalogue.Site);
        Queries =
        [
            .. site
                .Queries.Where(query => request.Views.Sees(query, site))
                .OrderBy(query => query.Label, StringComparer.OrdinalIgnoreCase)
                .Select(query => new QueryEntry(
                    query,
                    [.. site.Fields.Where(field => field.Query?.Id == query.Id && !field.Retired && request.Views.Sees(field))],
                    live.FindQuery(query.Id) is not { } old ? "draft: new"
                        : SiteDefinition.Same(old, query) ? null
                        : "draft: changed"
                )),
        ];
    }
}
