using Pelto.Data.Storage;

namespace Pelto.Web.Pages;

/// <summary>Arranging a screen or a list for an audience, in the draft.</summary>
public sealed class ArrangeModel(
    CurrentRequest request,
    ArrangedScreens screens,
    FactsReader facts,
    Drafts drafts,
    Catalogues catalogues,
    People people
) : ArrangePage(request, screens, facts)
{
    /// <inheritdoc/>
    public override string Path => "/setup/arrange";

    /// <inheritdoc/>
    public override bool IsOwn => false;

    /// <inheritdoc/>
    protected override bool MayArrange => Current.Viewer.May(AdminWork.Arrange);

    /// <summary>True for those who also define fields here.</summary>
    public bool MayDefine => Current.Viewer.MayAt(AdminWork.Define, Type.Code);

    /// <summary>True for those who also see as others.</summary>
    public bool MaySee => AdminRights.All(Current.Viewer);

    /// <summary>True for those who also publish.</summary>
    public bool MayPublish => Current.Viewer.May(AdminWork.Publish);

    /// <summary>The host, as people call it.</summary>
    public string HostName => $"{Catalogue.Host.Label} {Catalogue.Host.Version}";

    /// <inheritdoc/>
    public override IReadOnlyList<LayerOperation> Operations =>
        Current.Views.VisibleTo(Site).FindLayer(Layer.Id)?.Operations ?? Layer.Operations;

    /// <summary>All layers, in the order in which they are laid over each other, each with how much it says of this screen.</summary>
    public IEnumerable<(Layer Layer, string For, int Count)> Layers =>
        LayoutResolver
            .InOrder(Site.Layers.Any(one => one.Id == Everyone.Id) ? Site.Layers : [Everyone, .. Site.Layers])
            .Select(layer => (layer, InWords(layer), OfType(layer).Count(IsHere)));

    /// <inheritdoc/>
    public override IReadOnlyList<string> Refusals => new LayerReport(Layer, Screen, NameOf).Refusals(Catalogue);

    /// <summary>The audiences that have no layer yet, and what they are called.</summary>
    public IEnumerable<(string Code, string Label)> Audiences =>
        AudienceChoices.For(Catalogue.Host, People).Where(one => Site.Layers.All(known => known.Audience != one.Code));

    /// <summary>All people, to see the screen as.</summary>
    public IReadOnlyList<PersonToPick> People { get; private set; } = [];

    /// <summary>A new layer as it was asked for, so that a refusal loses nothing of it.</summary>
    public (string Audience, string Label, string Comment, string Copy) NewLayer { get; private set; } = ("", "", "", "");

    /// <summary>What keeps a new layer from being made, and at which of its inputs.</summary>
    public (string At, string Sentence)? LayerRefusal { get; private set; }

    /// <summary>True when people may arrange this for themselves.</summary>
    public bool MayBeOwn => PersonalArrangement.MayArrange(Laid, List?.Id ?? PersonalArrangement.ScreenId(Type));

    /// <inheritdoc/>
    public override IEnumerable<(string Role, string Level)> Levels =>
        Place is not { } place ? [] : Catalogue.Host.Roles.Select(role => (role.Label, GrantLevel(Viewer.For(role).LevelAt(place.Field))));

    private Layer Everyone =>
        Site.Layers.FirstOrDefault(one => one.Audience == Layer.Everyone) ?? new Layer { Id = "site", Label = "Site" };

    /// <summary>Takes the newest change of the draft back, where it is the one that this page made.</summary>
    public async Task<IActionResult> OnPostUndoAsync([FromQuery] ArrangeAddress at, [FromForm] long version)
    {
        if (!await LoadAsync(at))
            return NotFound();
        var said = (string?)null;
        if (version != Version)
            said = "Somebody changed the draft meanwhile: look at it again before you undo.";
        else if (await drafts.UndoAsync(Current.Viewer) is { } undone)
            said = $"Undone: {undone.What}.";
        await LoadAsync(at);
        Message = said;
        return Partial("Arranging/_Arranged", this);
    }

    /// <summary>Makes a layer for another audience; it begins with what that audience has now, and may copy another layer.</summary>
    public async Task<IActionResult> OnPostLayerAsync(
        [FromQuery] ArrangeAddress at,
        [FromForm] string audience,
        [FromForm] string? label,
        [FromForm] string? comment,
        [FromForm] string? copy
    )
    {
        if (!await LoadAsync(at))
            return NotFound();
        NewLayer = (audience, label ?? "", comment ?? "", copy ?? "");
        LayerRefusal =
            string.IsNullOrWhiteSpace(label) ? ("label", "Give the layer a name.")
            : string.IsNullOrWhiteSpace(comment) ? ("comment", "Say why the layer is there.")
            : Audiences.All(known => known.Code != audience) ? ("audience", "Choose for whom it is.")
            : null;
        if (LayerRefusal is not null)
            return Page();
        var made = new Layer
        {
            Id = Layer.NewId(),
            Label = label!.Trim(),
            Comment = comment!.Trim(),
            Audience = audience,
        };
        await KeepAsync(now => now.With(made with { Operations = now.FindLayer(copy)?.Copied() ?? [] }), $"Added the layer {made.Label}");
        return Redirect(AddressOf(made));
    }

    /// <summary>Moves a layer among those for the same kind of audience, or takes it away.</summary>
    public async Task<IActionResult> OnPostOrderAsync([FromQuery] ArrangeAddress at, [FromForm] string then)
    {
        if (!await LoadAsync(at))
            return NotFound();
        if (then == "delete")
        {
            await KeepAsync(
                now => now with { Layers = [.. now.Layers.Where(one => one.Id != Layer.Id)] },
                $"Deleted the layer {Layer.Label}"
            );
            return Redirect($"/setup/arrange?type={Type.Code}");
        }

        await KeepAsync(now => now.MovingLayer(Layer.Id, then == "up" ? -1 : 1), $"Moved the layer {Layer.Label}");
        return Redirect(AddressOf(Layer));
    }

    /// <inheritdoc/>
    protected override bool IsMine(RecordType type) => Current.Views.WorksAt(type.Code);

    /// <inheritdoc/>
    protected override async Task<Arrangeable> ReadAsync(ArrangeAddress at)
    {
        People = await people.AllAsync();
        var draft = await drafts.ReadAsync();
        var catalogue = catalogues.Build(draft.Site);

        // A catalogue that is kept was put together from an equal site: its own operations are those that its screens know.
        return new(catalogue.Site, catalogue, draft.Version);
    }

    /// <inheritdoc/>
    protected override Layer? Choose(ArrangeAddress at) => at.Layer is null or "site" ? Everyone : Site.FindLayer(at.Layer);

    /// <inheritdoc/>
    /// <remarks>For one person all layers that hold for them, for others those of everyone and this one.</remarks>
    protected override async Task<IReadOnlyList<Layer>> LaidAsync()
    {
        if (
            Layer.For is { Kind: AudienceKind.User } one
            && People.FirstOrDefault(person => person.SignIn == one.Code) is { } person
            && await people.ViewerAsync(person.Id) is { } their
        )
            return Type.Screens.LayersOf(their);
        return [.. Type.Screens.Layers.Where(layer => layer.For!.Kind == AudienceKind.Everyone || layer.Id == Layer.Id)];
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<ShelfItem> FindShelf()
    {
        var all = List is null ? Components.Shelf.For(Type, Screen, Current.Viewer) : Components.Shelf.For(List, Screen, Current.Viewer);
        return MayDefine ? all : [.. all.Where(item => item.Kind != "seen" && !item.IsMade)];
    }

    /// <inheritdoc/>
    protected override Task KeepAsync(Func<SiteDefinition, SiteDefinition> change, string what) =>
        drafts.ChangeAsync(change, what, Current.Viewer);

    /// <inheritdoc/>
    /// <remarks>What is seen through a link becomes a field of its own, in the same change.</remarks>
    protected override SiteDefinition Put(SiteDefinition now, LayerOperation operation, ref string part)
    {
        var (type, path) = List is null ? (Type, operation.Part) : (List.Type, List.FieldIdOf(operation.Part) ?? "");
        var isKnown = operation is not { Op: LayerOperation.Put, New: null } || Catalogue.FindField(path) is not null;
        if (isKnown || LayerEdits.AddThroughLink(type, path) is not { } field)
            return now.With(LayerIn(now).With(operation));
        part =
            List is null ? field.Id
            : List.By is null ? ListOf.Prefix + field.Id
            : List.Id + field.Id;
        return now.With(field).With(LayerIn(now).With(operation with { Part = part }));
    }

    /// <inheritdoc/>
    protected override SiteDefinition Saying(SiteDefinition now, IReadOnlyList<LayerOperation> operations) =>
        Current.Views.Merged(now, Current.Views.VisibleTo(now).With(LayerIn(now) with { Operations = operations }));

    /// <inheritdoc/>
    /// <remarks>What cannot be is not put in the draft.</remarks>
    protected override string? Refuse(SiteDefinition changed)
    {
        var report = new LayerReport(Layer, Screen, NameOf);
        var wrong = report.Refusals(catalogues.Build(changed)).Except(report.Refusals(Catalogue)).ToList();
        return wrong.Count > 0 ? $"Not done: {string.Join(" ", wrong)}" : null;
    }

    /// <inheritdoc/>
    protected override IEnumerable<LayerOperation> OfType() => OfType(Layer);

    private IReadOnlyList<LayerOperation> OfType(Layer layer) =>
        Type.Screens.Layers.FirstOrDefault(known => known.Id == layer.Id)?.Operations ?? [];

    private string InWords(Layer layer) =>
        layer.For is { Kind: AudienceKind.User } one
            ? $"only {People.FirstOrDefault(person => person.SignIn == one.Code)?.Name ?? one.Code}"
            : layer.For?.InWords(Catalogue.Host) ?? layer.Audience;

    private static string GrantLevel(AccessLevel level) =>
        level switch
        {
            AccessLevel.Write => "write",
            AccessLevel.Read => "read",
            AccessLevel.Masked => "masked",
            _ => "no access",
        };
}
