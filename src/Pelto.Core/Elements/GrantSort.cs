using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Formulas;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Grants.</summary>
public sealed class GrantSort : ElementSort<Grant>
{
    /// <inheritdoc/>
    public override string Name => "grant";

    /// <inheritdoc/>
    public override string AuditKind => AuditKinds.Access;

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/access?grant={id}#grant";

    /// <inheritdoc/>
    protected override IReadOnlyList<Grant> All(SiteDefinition site) => site.Grants;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<Grant> all) => site with { Grants = all };

    /// <inheritdoc/>
    protected override bool IsShown(Grant element, SiteDefinition site, SiteViews views) => element.On.All(on => views.Gives(on, site));

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) =>
        Both(id, change)
            .SelectMany(
                grant => grant.On,
                (grant, on) => new AdminAction(AdminWork.Grant, change.TypeOf(on), SiteChange.CompaniesOf(grant.To))
            );

    // By a grant, or by taking away what keeps others from it.
    internal override IEnumerable<AccessGiven> Gives(string id, SiteChange change)
    {
        if (change.After.FindGrant(id) is { } given && given.Does != Grant.Withhold)
            yield return new(given.On, AccessLevels.Read(given.Level) ?? AccessLevel.Write, given.May);
        if (change.Before.FindGrant(id) is { Does: Grant.Withhold } taken)
            yield return new(taken.On, AccessLevel.Write, taken.May);
    }

    internal override IEnumerable<Formula> Asks(SiteChange change, Catalogue next)
    {
        var changed = change.Changed(this).ToHashSet(StringComparer.Ordinal);
        return next
            .RecordTypes.SelectMany(type =>
                type.Guarding.On(type).Concat(type.Parts.SelectMany(part => part.Fields).SelectMany(type.Guarding.On))
            )
            .Where(grant => changed.Contains(grant.Grant.Id))
            .Select(grant => grant.When)
            .OfType<Formula>();
    }

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(SiteComparison of) => base.Compare(of).Concat(Held(of));

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(Grant? before, Grant? after, SiteComparison of)
    {
        if (after is null)
            return [Gone(before!, of)];
        var sentence = GrantWords.Sentence(of.Draft, after);
        var (says, effect) =
            before is null ? ($"{sentence}.", GuardSort.AtOnce)
            : SiteDefinition.Same(before with { Comment = after.Comment }, after)
                ? ($"Changes the reason: {sentence}.", "Nothing else changes.")
            : ($"{sentence}.", $"It was: {GrantWords.Sentence(of.Live, before)}. {GuardSort.AtOnce}");
        var type = GuardSort.TypeOf(of.Draft, after.On.FirstOrDefault() ?? "");
        return [new(after.Id, type, says, effect) { IsAccess = true, Page = $"/setup/access?type={type.Code}&grant={after.Id}#grant" }];
    }

    private static PlannedChange Gone(Grant grant, SiteComparison of)
    {
        var type = GuardSort.TypeOf(of.Draft, grant.On.FirstOrDefault() ?? "");
        var sentence = $"Takes this back: {GrantWords.Sentence(of.Live, grant)}.";
        return new(grant.Id, type, sentence, GuardSort.AtOnce) { IsAccess = true, Page = $"/setup/access?type={type.Code}&show=guarded" };
    }

    // Values on file keep what they came from as a guard, until somebody who may give access says otherwise.
    private static IEnumerable<PlannedChange> Held(SiteComparison of)
    {
        foreach (var now in of.Draft.Site.Fields)
        {
            if (of.Live.Site.Find(now.Id) is not { } old)
                continue;
            foreach (var id in now.HeldFrom.Except(old.HeldFrom).Where(id => GuardInheritance.Holds(of.Draft, id)))
                yield return GuardSort.Change(
                    now.Id,
                    $"{now.Label} is still kept from whoever may not read "
                        + $"{GrantWords.Named(of.Live, id)}: its values on file came from that.",
                    "It stays so until somebody who may give access says otherwise on its page.",
                    of
                );
            foreach (var id in old.HeldFrom.Except(now.HeldFrom))
                yield return GuardSort.Change(
                    now.Id,
                    $"{now.Label} is no longer kept from whoever may not read {GrantWords.Named(of.Live, id)}.",
                    $"{GuardSort.AtOnce} Its values on file came from that, and can be read from then on.",
                    of
                );
        }
    }
}
