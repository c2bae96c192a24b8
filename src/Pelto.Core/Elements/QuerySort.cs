using Pelto.Core.Access;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Queries.</summary>
public sealed class QuerySort : ElementSort<QueryDefinition>
{
    /// <inheritdoc/>
    public override string Name => "query";

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/queries/{id}";

    /// <inheritdoc/>
    protected override IReadOnlyList<QueryDefinition> All(SiteDefinition site) => site.Queries;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<QueryDefinition> all) => site with { Queries = all };

    /// <inheritdoc/>
    protected override bool IsShown(QueryDefinition element, SiteDefinition site, SiteViews views) => views.Sees(element, site);

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) =>
        Both(id, change)
            .SelectMany(query => query.Reads)
            .Select(change.TypeOf)
            .Distinct()
            .DefaultIfEmpty(AdminAction.AnyType)
            .Select(type => new AdminAction(AdminWork.Query, type));

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(QueryDefinition? before, QueryDefinition? after, SiteComparison of)
    {
        if (after is null)
            return [new(before!.Id, of.AnyType, $"Deletes the query {before.Label}.", "It fills no field.")];
        var fills = of.Draft.Site.Fields.Where(field => field.Query?.Id == after.Id && !field.Retired).ToList();
        var type = fills.Select(field => of.Draft.Find(field.RecordType)).FirstOrDefault(found => found is not null) ?? of.AnyType;
        var effect =
            fills.Count == 0
                ? "It fills no field yet."
                : $"It fills {string.Join(", ", fills.Select(field => field.Label))}; values on file stay until it is asked again.";
        return [new(after.Id, type, before is null ? $"Adds the query {after.Label}." : $"Changes the query {after.Label}.", effect)];
    }
}
