using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Formulas;
using Pelto.Core.Layouts;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Layers. They are shared by those who arrange, so each of their operations counts by itself.</summary>
public sealed class LayerSort : ElementSort<Layer>
{
    /// <inheritdoc/>
    public override string Name => "layer";

    /// <inheritdoc/>
    public override string AuditKind => AuditKinds.Layer;

    internal override string OrderTakes => AdminWork.Arrange;

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/arrange?layer={id}";

    /// <inheritdoc/>
    protected override IReadOnlyList<Layer> All(SiteDefinition site) => site.Layers;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<Layer> all) => site with { Layers = all };

    // That there is a layer is no secret; what it does at screens on which they do not work is not shown.
    /// <inheritdoc/>
    protected override bool IsShown(Layer element, SiteDefinition site, SiteViews views) => true;

    internal override SiteDefinition ShownIn(SiteDefinition into, SiteDefinition whole, SiteViews views) =>
        into with
        {
            Layers =
            [
                .. whole.Layers.Select(layer =>
                    layer with
                    {
                        Operations = [.. layer.Operations.Where(operation => views.Sees(operation, whole))],
                    }
                ),
            ],
        };

    // A layer that holds what they are not shown goes on with that, though they take away all that they see of it.
    internal override SiteDefinition Merged(SiteDefinition sent, SiteDefinition whole, SiteDefinition seen)
    {
        var hidden = whole.Layers.ToDictionary(
            layer => layer.Id,
            layer => layer.Operations.Except(seen.FindLayer(layer.Id)?.Operations ?? []).ToList()
        );
        var stored = SiteMerging.Of(
            whole.Layers,
            [.. seen.Layers.Where(layer => hidden[layer.Id].Count == 0 || sent.FindLayer(layer.Id) is not null)],
            sent.Layers,
            Id
        );
        return sent with { Layers = [.. stored.Select(Whole)] };

        Layer Whole(Layer layer) =>
            hidden.GetValueOrDefault(layer.Id) is not { Count: > 0 } rest
                ? layer
                : layer with
                {
                    Operations = sent.FindLayer(layer.Id) is not { } now
                        ? rest
                        : SiteMerging.Of(
                            whole.FindLayer(layer.Id)!.Operations,
                            seen.FindLayer(layer.Id)!.Operations,
                            now.Operations,
                            SiteDefinition.Text
                        ),
                };
    }

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change)
    {
        var (old, now) = (change.Before.FindLayer(id), change.After.FindLayer(id));
        var companies = Meet(old, now);
        if (old is null || now is null || old.Audience != now.Audience || old.Label != now.Label || old.Comment != now.Comment)
        {
            // A layer for everyone comes into being with the first field that is placed.
            var types =
                old is null || now is null
                    ? []
                    : old
                        .Operations.Concat(now.Operations)
                        .Select(operation => operation.Screen ?? change.TypeOf(operation.Part))
                        .Distinct();
            if ((old ?? now)!.Audience != Layer.Everyone || (old is not null && now is not null))
                foreach (var type in types.DefaultIfEmpty(AdminAction.AnyType))
                    yield return new(AdminWork.Arrange, type, companies);
        }

        var (were, are) = (Texts(old), Texts(now));
        foreach (
            var operation in (old?.Operations ?? [])
                .Where(operation => !are.Contains(SiteDefinition.Text(operation)))
                .Concat((now?.Operations ?? []).Where(operation => !were.Contains(SiteDefinition.Text(operation))))
        )
        {
            // Where an added field stands for everyone is part of defining it.
            var places =
                (old ?? now)!.Audience == Layer.Everyone && operation.IsStanding && change.Both(site => site.Find(operation.Part)).Any();
            yield return new(places ? AdminWork.Define : AdminWork.Arrange, operation.Screen ?? change.TypeOf(operation.Part), companies);
        }
    }

    private static HashSet<string> Texts(Layer? layer) => [.. (layer?.Operations ?? []).Select(SiteDefinition.Text)];

    private static IReadOnlyList<string>? Meet(Layer? old, Layer? now) =>
        SiteChange.CompaniesOf([.. new[] { old, now }.OfType<Layer>().Select(layer => layer.Audience)]);

    // Of each, what is newly said counts, and not what others said in it before; to other people, all of it is newly said.
    internal override IEnumerable<Formula> Asks(SiteChange change, Catalogue next)
    {
        var said = change.After.Layers.SelectMany(Said).ToHashSet();
        return next
            .RecordTypes.SelectMany(type => type.Screens.Conditions)
            .Where(one => said.Contains((one.Layer.Id, one.Condition.Text)))
            .Select(one => one.Condition);

        IEnumerable<(string Layer, string Condition)> Said(Layer layer)
        {
            var known = Texts(change.Before.FindLayer(layer.Id) is { } old && old.Audience == layer.Audience ? old : null);
            return layer
                .Operations.Where(operation => operation.When is not null && !known.Contains(SiteDefinition.Text(operation)))
                .Select(operation => (layer.Id, operation.When!));
        }
    }

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(SiteComparison of) => Places(of).Concat(PlacedLists(of)).Concat(base.Compare(of));

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(Layer? before, Layer? after, SiteComparison of)
    {
        var words = new LayerDifferences(of.Live, of.Draft);
        return after is null ? [words.Gone(before!)] : words.Between(before, after);
    }

    // Where fields of the ERP, and those that stand on several screens, stand for everyone.
    private static IEnumerable<PlannedChange> Places(SiteComparison of) =>
        from type in of.Draft.RecordTypes
        from field in type.Parts.SelectMany(part => part.Fields)
        where
            (!field.IsAdded || field.Id != field.Definition!.Id)
            && of.Live.Site.PlacementOf(field.Id) != of.Draft.Site.PlacementOf(field.Id)
        select new PlannedChange(
            field.Id,
            type,
            $"{field.Label} is placed {SiteComparison.Where(field)}.",
            SeeingWords.OnScreens(field, of.Draft)
        )
        {
            Page = ElementSorts.Fields.PageOf(field.Id),
        };

    private static IEnumerable<PlannedChange> PlacedLists(SiteComparison of) =>
        from type in of.Draft.RecordTypes
        from link in type.PointedBy
        let id = LayoutSection.IdOf(link)
        where of.Live.Site.PlacementOf(id) != of.Draft.Site.PlacementOf(id)
        let sections = type.Screen.Layout.Sections.ToList()
        let at = sections.FindIndex(section => section.Id == id)
        let stands = at > 0 ? $"after {sections[at - 1].Label}"
        : type.Screen.Layout.HiddenLists.Contains(link) ? "on no screen"
        : "below the screen"
        select new PlannedChange(
            id,
            type,
            $"On the screen of {type.Plural.ToLowerInvariant()}, "
                + $"the list of {link.Part.RecordType.Plural.ToLowerInvariant()} by {link.Label} stands {stands}.",
            "For everyone who may see both."
        )
        {
            Page = $"/setup/pointing?type={type.Code}",
        };
}
