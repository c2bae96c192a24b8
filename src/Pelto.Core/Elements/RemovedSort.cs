using Pelto.Core.Access;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Fields that were removed for good; one that stood in several parts has an entry for each.</summary>
public sealed class RemovedSort : ElementSort<RemovedField>
{
    /// <inheritdoc/>
    public override string Name => "removed field";

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/fields/{id}";

    /// <inheritdoc/>
    protected override IReadOnlyList<RemovedField> All(SiteDefinition site) => site.Removed;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<RemovedField> all) => site with { Removed = all };

    /// <inheritdoc/>
    protected override bool IsShown(RemovedField element, SiteDefinition site, SiteViews views) => views.WorksAt(element.RecordType);

    // What was removed stays removed: its entry is only taken away when the field comes back.
    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) =>
        change
            .Sites.SelectMany(site => site.Removed)
            .Where(removed => removed.Id == id)
            .Select(removed => removed.RecordType)
            .Distinct()
            .Select(type => new AdminAction(AdminWork.Define, type));

    internal override IEnumerable<Field> OnFile(string id, SiteChange change) =>
        FieldSort.Placed(id, change.Live).Where(field => field.IsStored);

    // An entry for each part, so what is new is known by its part too; that one is gone is said of the field that is back.
    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(SiteComparison of) =>
        from removed in of.Draft.Site.Removed
        let part = of.Draft.Find(removed.RecordType)?.FindPart(removed.Part)
        where
            part is not null
            && !of.Live.Site.Removed.Any(known =>
                (known.Id, known.Part, known.RecordType) == (removed.Id, removed.Part, removed.RecordType)
            )
        let filled = of.Facts.Filled.GetValueOrDefault(removed.Id)
        select new PlannedChange(
            removed.Id,
            part.RecordType,
            $"Removes {removed.Label} for good.",
            $"Its data ({Plan.Count(filled, "value")}) is saved to a file first, which can be downloaded and read back."
        );
}
