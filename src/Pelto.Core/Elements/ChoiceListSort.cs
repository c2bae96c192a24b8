using Pelto.Core.Access;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Lists of choices that several fields can share.</summary>
public sealed class ChoiceListSort : ElementSort<ChoiceList>
{
    /// <inheritdoc/>
    public override string Name => "choice list";

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/lists/{id}";

    /// <inheritdoc/>
    protected override IReadOnlyList<ChoiceList> All(SiteDefinition site) => site.ChoiceLists;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<ChoiceList> all) => site with { ChoiceLists = all };

    /// <inheritdoc/>
    protected override bool IsShown(ChoiceList element, SiteDefinition site, SiteViews views) => views.Sees(element, site);

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) =>
        change
            .Sites.SelectMany(site => site.Fields)
            .Where(field => field.ChoiceList == id)
            .SelectMany(field => field.Places())
            .Select(place => place.RecordType)
            .Distinct()
            .DefaultIfEmpty(AdminAction.AnyType)
            .Select(type => new AdminAction(AdminWork.Define, type));

    internal override IEnumerable<Field> OnFile(string id, SiteChange change) =>
        change.Before.Fields.Where(field => field.ChoiceList == id).SelectMany(field => FieldSort.Placed(field.Id, change.Live));

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(ChoiceList? before, ChoiceList? after, SiteComparison of)
    {
        if (after is null)
            return [new(before!.Id, of.AnyType, $"Deletes the choice list {before.Label}.", "No field uses it.")];
        var uses = of.Draft.Site.Fields.Where(field => field.ChoiceList == after.Id && !field.Retired).ToList();
        var type = uses.Select(field => of.Draft.Find(field.RecordType)).FirstOrDefault(found => found is not null) ?? of.AnyType;
        var used = uses.Count == 0 ? "No field uses it yet." : $"For {string.Join(", ", uses.Select(field => field.Label))}.";
        return before is null
            ? [new(after.Id, type, $"Adds the choice list {after.Label} with {Plan.Count(after.Choices.Count, "choice")}.", used)]
            :
            [
                new(
                    after.Id,
                    type,
                    $"Changes the choice list {after.Label}: {Changes(before, after)}.",
                    $"{used} {of.Merges(uses, before.Choices, after.Choices)}{of.OnFile(uses)}"
                ),
            ];
    }

    private static string Changes(ChoiceList old, ChoiceList now)
    {
        var said = new List<string>();
        if (old.Label != now.Label)
            said.Add($"is called {now.Label} instead of {old.Label}");
        if (!old.Choices.SequenceEqual(now.Choices))
            said.Add(ChoiceWords.Changes(old.Choices, now.Choices));
        if (old.Alphabetical != now.Alphabetical)
            said.Add(now.Alphabetical ? "offered in alphabetical order" : "offered in the order given");
        if (old.MayAdd != now.MayAdd)
            said.Add(now.MayAdd ? "people may add to it while they enter records" : "people may no longer add to it");
        return string.Join("; ", said);
    }
}
