namespace Pelto.Web.Pages;

/// <summary>Where the lists of what points to a record stand on its screen.</summary>
public sealed class PointingModel(CurrentRequest request, Drafts drafts, Catalogues catalogues) : PageModel
{
    private const string Below = "";

    private SiteDefinition site = SiteDefinition.Nothing;

    /// <summary>The record type, as the draft has it.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>All record types, for choosing.</summary>
    public IReadOnlyList<RecordType> Types { get; private set; } = [];

    /// <summary>True when it was put in the draft just now.</summary>
    public bool IsSaved { get; private set; }

    /// <summary>Where a list can stand.</summary>
    public IEnumerable<(string Value, string Label)> Places =>
        Type
            .Screen.Layout.Pages.SelectMany(page =>
                page.Sections.Where(section => section.Pointing is null)
                    .Select(section =>
                        (
                            section.Id,
                            Type.Screen.Layout.Pages.Count > 1 && page.Label != section.Label
                                ? $"after {page.Label}, {section.Label}"
                                : $"after {section.Label}"
                        )
                    )
            )
            .Prepend((Below, "below the screen"))
            .Append((LayerOperation.Hide, "on no screen"));

    /// <summary>Where a list stands.</summary>
    public string PlaceOf(Field link) =>
        site.PlacementOf(LayoutSection.IdOf(link)) is { } placed
            ? placed.Op == LayerOperation.Hide
                ? LayerOperation.Hide
                : placed.After ?? Below
            : Below;

    /// <summary>True when the draft says something else of a list than what is live.</summary>
    public bool IsDrafted(Field link) =>
        site.PlacementOf(LayoutSection.IdOf(link)) != request.Catalogue.Site.PlacementOf(LayoutSection.IdOf(link));

    /// <summary>Shows them.</summary>
    public async Task<IActionResult> OnGetAsync(string? type, bool saved)
    {
        IsSaved = saved;
        return await LoadAsync(type) ? Page() : NotFound();
    }

    /// <summary>Puts all of them in the draft, as one change.</summary>
    public async Task<IActionResult> OnPostAsync(string? type, [FromForm] Dictionary<string, string?> places, [FromForm] string? then)
    {
        if (!await LoadAsync(type))
            return NotFound();
        var known = Places.Select(place => place.Value).ToHashSet(StringComparer.Ordinal);
        var changed = Type
            .PointedBy.Where(link =>
                places.TryGetValue(link.Id, out var place) && (place ?? Below) != PlaceOf(link) && known.Contains(place ?? Below)
            )
            .ToList();
        if (changed.Count > 0)
            await drafts.ChangeAsync(
                now =>
                    changed.Aggregate(now, (so, link) => so.Placing(LayoutSection.IdOf(link), Operation(link, places[link.Id] ?? Below))),
                $"Placed lists on the screen of {Type.Plural.ToLowerInvariant()}",
                request.Viewer
            );
        return Redirect(then == "review" ? "/setup/draft" : $"/setup/pointing?type={Type.Code}&saved=true");
    }

    private static LayerOperation? Operation(Field link, string place) =>
        place switch
        {
            Below => null,
            LayerOperation.Hide => new() { Op = LayerOperation.Hide, Part = LayoutSection.IdOf(link) },
            _ => new()
            {
                Op = LayerOperation.Put,
                Part = LayoutSection.IdOf(link),
                After = place,
            },
        };

    private async Task<bool> LoadAsync(string? type)
    {
        site = (await drafts.ReadAsync()).Site;
        Types = [.. catalogues.Build(site).RecordTypes.Where(one => one.PointedBy.Count > 0 && request.Views.WorksAt(one.Code))];
        if ((type is null ? Types.FirstOrDefault() : Types.FirstOrDefault(one => one.Code == type)) is not { } found)
            return false;
        Type = found;
        return true;
    }
}
