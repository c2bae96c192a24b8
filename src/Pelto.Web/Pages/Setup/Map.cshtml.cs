using Pelto.Core.Formulas;
using Pelto.Core.Maps;

namespace Pelto.Web.Pages;

/// <summary>The map: what fills what, as a drawing and as a list, of what is live or of the draft.</summary>
public sealed class MapModel(CurrentRequest request, Drafts drafts, FormulaProofs proofs) : PageModel
{
    /// <summary>The nodes and edges that are shown.</summary>
    public FillMap Map { get; private set; } = new([], []);

    /// <summary>The drawing.</summary>
    public MapLayout Layout { get; private set; } = MapLayout.For(new([], []));

    /// <summary>The record type that it is about; null for all.</summary>
    public RecordType? About { get; private set; }

    /// <summary>The node that is followed up and down.</summary>
    public MapNode? Followed { get; private set; }

    /// <summary>True for the draft.</summary>
    public bool OfDraft { get; private set; }

    /// <summary>True for the list instead of the drawing.</summary>
    public bool AsList { get; private set; }

    /// <summary>The record types that it can be about.</summary>
    public IReadOnlyList<RecordType> Types { get; private set; } = [];

    /// <summary>Shows it.</summary>
    /// <param name="type">The code of a record type.</param>
    /// <param name="follow">The id of a node.</param>
    /// <param name="of"><c>draft</c>, or what is live.</param>
    /// <param name="view"><c>list</c>, or the drawing.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task OnGetAsync(string? type, string? follow, string? of, string? view, CancellationToken cancel)
    {
        (OfDraft, AsList) = (of == "draft", view == "list");
        var catalogue = OfDraft ? await drafts.CatalogueAsync(cancel) : request.Catalogue;
        var all = FillMap.For(catalogue, await GrownOldAsync(cancel)).Only(node => IsShown(node, catalogue));
        Types =
        [
            .. catalogue.RecordTypes.Where(candidate =>
                all.Nodes.Any(node => node.RecordType == candidate.Code && node.Kind == MapKind.Filled)
            ),
        ];
        About = type is null ? null : catalogue.Find(type);
        Followed = all.Nodes.FirstOrDefault(node => node.Id == follow);
        Map =
            Followed is { } node ? all.Following(node.Id)
            : About is { } about ? all.About(about.Code)
            : all;
        Layout = MapLayout.For(Map);
    }

    /// <summary>This page with one thing about it changed.</summary>
    public string Address(string? type = null, string? follow = null, bool? asList = null, bool? ofDraft = null)
    {
        var said = new[]
        {
            type is null ? null : $"type={type}",
            follow is null ? null : $"follow={Uri.EscapeDataString(follow)}",
            asList ?? AsList ? "view=list" : null,
            ofDraft ?? OfDraft ? "of=draft" : null,
        }.OfType<string>();
        return "/setup/map" + (string.Join('&', said) is { Length: > 0 } query ? "?" + query : "");
    }

    /// <summary>What leads to a node, in words.</summary>
    public IEnumerable<(MapNode Node, string How)> Leading(MapNode node) =>
        Map.Edges.Where(edge => edge.To == node.Id).Select(edge => (Map.Nodes.First(other => other.Id == edge.From), edge.How));

    /// <summary>What a node leads to, in words.</summary>
    public IEnumerable<(MapNode Node, string How)> Following(MapNode node) =>
        Map.Edges.Where(edge => edge.From == node.Id).Select(edge => (Map.Nodes.First(other => other.Id == edge.To), edge.How));

    /// <summary>An edge as a path in SVG: level where it leaves and arrives.</summary>
    public static string PathOf(PlacedEdge edge)
    {
        static string N(double number) => number.ToString("0.#", CultureInfo.InvariantCulture);
        var path = $"M{N(edge.Points[0].X)} {N(edge.Points[0].Y)}";
        foreach (var (from, to) in edge.Points.Zip(edge.Points.Skip(1)))
        {
            var bend = edge.GoesBack ? 60 : (to.X - from.X) / 2;
            path +=
                from.Y == to.Y && !edge.GoesBack
                    ? $" L{N(to.X)} {N(to.Y)}"
                    : $" C{N(from.X + bend)} {N(from.Y)} {N(to.X - bend)} {N(to.Y)} {N(to.X)} {N(to.Y)}";
        }

        return path;
    }

    private bool IsShown(MapNode node, Catalogue catalogue) =>
        catalogue.FindField(node.Id) is { } field ? request.Views.SeesDefinition(field)
        : catalogue.Site.FindQuery(node.Id) is { } query ? request.Views.Sees(query, catalogue.Site)
        : node.RecordType is not { } type || catalogue.Find(type) is not { } screen || request.Views.Sees(screen);

    // What is stored and not what fills it now; only where that is told in a moment.
    private async Task<Dictionary<string, string>> GrownOldAsync(CancellationToken cancel)
    {
        var notes = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (
            var field in request
                .Catalogue.RecordTypes.SelectMany(type => type.FillOrder)
                .Where(field => field is { IsAdded: true, IsStored: true, Formula: not null, Mode: not FillMode.Chosen })
        )
            if (await proofs.CountStaleAsync(field, request.Viewer, cancel) is > 0 and var stale)
                notes[field.Id] =
                    $"{Numbers.Format(stale, locale: request.Locale)} stored "
                    + $"{(stale == 1 ? "value is" : "values are")} not what fills it now.";
        return notes;
    }
}
