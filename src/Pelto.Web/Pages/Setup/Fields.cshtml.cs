namespace Pelto.Web.Pages;

/// <summary>All fields of a record type, built in and added, as the draft has them.</summary>
public sealed class FieldsModel(CurrentRequest request, Drafts drafts, Catalogues catalogues) : PageModel
{
    private SiteDefinition site = SiteDefinition.Nothing;

    /// <summary>All record types.</summary>
    public IReadOnlyList<RecordType> Types { get; private set; } = [];

    /// <summary>The one that is shown.</summary>
    public RecordType? Shown { get; private set; }

    /// <summary>Fields of this record type that are retired.</summary>
    public IReadOnlyList<FieldDefinition> Retired { get; private set; } = [];

    /// <summary>Fields of the draft that cannot be shown in place, with the reason.</summary>
    public IReadOnlyList<(FieldDefinition Field, string Problem)> Broken { get; private set; } = [];

    /// <summary>How many fields were added just now.</summary>
    public int Added { get; private set; }

    /// <summary>Shows a record type; sales documents have the most fields of their own, so they come first when nobody says.</summary>
    public async Task OnGetAsync(string? type, int added)
    {
        Added = added;
        site = (await drafts.ReadAsync()).Site;
        var draft = catalogues.Build(site);
        Types = [.. draft.RecordTypes.Where(request.Views.Sees)];
        Shown = (type is null ? null : Types.FirstOrDefault(candidate => candidate.Code == type))
            ?? First([.. Types.Where(candidate => request.Views.WorksAt(candidate.Code))])
            ?? First(Types);
        if (Shown is null)
            return;
        Retired =
        [
            .. draft.Site.Fields.Where(field =>
                field.Retired && request.Views.Sees(field) && field.Places().Any(place => place.RecordType == Shown.Code)
            ),
        ];
        Broken =
        [
            .. draft
                .Site.Fields.Where(field => !field.Retired && draft.FindField(field.Id) is null && request.Views.Sees(field))
                .Select(field => (field, draft.Problems.FirstOrDefault(problem => problem.Element == field.Id)?.Sentence ?? "")),
        ];
    }

    private static RecordType? First(IReadOnlyList<RecordType> types) =>
        types.FirstOrDefault(type => type.Parts.Any(part => part.AddedFields.Any()))
        ?? types.FirstOrDefault(type => type.LineParts.Count > 0)
        ?? types.FirstOrDefault();

    /// <summary>True when the one who looks defines fields of the record type that is shown.</summary>
    public bool MayDefine => Shown is { } type && request.Viewer.MayAt(AdminWork.Define, type.Code);

    /// <summary>True when they arrange its screen.</summary>
    public bool MayArrange => Shown is { } type && request.Viewer.MayAt(AdminWork.Arrange, type.Code);

    /// <summary>True when a field is shown to the one who looks.</summary>
    public bool IsShown(Field field) => request.Views.SeesDefinition(field);

    /// <summary>Whether the draft adds or changes a field, in words; null when it is live as it stands.</summary>
    public string? StateOf(Field field)
    {
        if (field.Content is not FieldDefinition definition)
            return null;
        var live = request.Catalogue.Site;
        return live.Find(definition.Id) is not { } old ? "draft: new"
            : !SiteDefinition.Same(old, definition) || live.PlacementOf(field.Id) != site.PlacementOf(field.Id) ? "draft: changed"
            : null;
    }

    /// <summary>A kind with its size, in words.</summary>
    public static string KindOf(Field field) => field.KindInWords;

    /// <summary>Where a field stands on its screen.</summary>
    public string WhereIs(Field field)
    {
        string? In(Layout layout) =>
            layout
                .Pages.SelectMany(page => page.Sections, (page, section) => (page, section))
                .FirstOrDefault(one => one.section.Places.Any(place => place.Field == field))
                is ({ } page, { } section)
                ? layout.Pages.Count > 1 && page.Label != section.Label
                    ? $"{page.Label}, {section.Label}"
                    : section.Label
                : null;
        if (In(Shown!.Screen.Layout) is { } where)
            return where;
        foreach (var layer in Shown!.Screens.Layers)
            if (In(Shown!.Screens.For(layer, RecordMode.Changing).Layout) is { } place)
                return $"{place}, by the layer {layer.Label}";
        return "on no screen";
    }
}
