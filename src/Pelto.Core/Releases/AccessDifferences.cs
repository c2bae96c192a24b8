using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Elements;

namespace Pelto.Core.Releases;

/// <summary>Says what people will notice of the difference between the guards and grants of two sites.</summary>
internal sealed class AccessDifferences(Catalogue live, Catalogue draft)
{
    private const string AtOnce = "At once, on every way in and out.";

    public IEnumerable<PlannedChange> All() => Guards().Concat(Grants()).Concat(Held()).Select(change => change with { IsAccess = true }).Concat(Roles());

    private IEnumerable<PlannedChange> Roles()
    {
        foreach (var role in draft.Site.Roles.Where(role => !live.Site.Roles.Contains(role)))
            yield return live.Site.Roles.FirstOrDefault(old => old.Code == role.Code) is { } old
                ? new("role:" + role.Code, draft.RecordTypes[0], $"The role {old.Label} is called {role.Label}.", "Nothing else changes.") : new("role:" + role.Code, draft.RecordTypes[0], $"Adds the role {role.Label}.", "Nobody has it yet.");
        foreach (var gone in live.Site.Roles.Where(role => draft.Site.Roles.All(now => now.Code != role.Code))) yield return new("role:" + gone.Code, draft.RecordTypes[0], $"Takes the role {gone.Label} out.", "Nobody has it any more.");
    }

    private IEnumerable<PlannedChange> Guards()
    {
        foreach (var guard in draft.Site.Guards)
        {
            var old = live.Site.GuardOf(guard.On);
            var name = GrantWords.Named(draft, guard.On);
            if (old is null) yield return new(guard.On, TypeOf(draft, guard.On), $"Guards {name}: nobody but administrators has it until grants give it.", $"{AtOnce} What is worked out from it is guarded too.");
            else if (old.Ending != guard.Ending) yield return new(guard.On, TypeOf(draft, guard.On), guard.Ending ? $"Whoever sees {name} masked sees its last {Masks.EndingLength} characters." : $"Whoever sees {name} masked sees nothing of it any more.", AtOnce);
            else if (old.Comment != guard.Comment) yield return new(guard.On, TypeOf(draft, guard.On), $"Says anew why {name} is guarded.", "Nothing else changes.");
        }

        foreach (var gone in live.Site.Guards.Where(guard => draft.Site.GuardOf(guard.On) is null)) yield return new(gone.On, TypeOf(draft, gone.On), $"Guards {GrantWords.Named(live, gone.On)} no more.", "It starts with what its record type gives again, for everybody.");
    }

    // Values on file keep what they came from as a guard, until somebody who may give access says otherwise.
    private IEnumerable<PlannedChange> Held()
    {
        foreach (var now in draft.Site.Fields)
        {
            if (live.Site.Find(now.Id) is not { } old) continue;
            foreach (var id in now.HeldFrom.Except(old.HeldFrom).Where(id => Heritage.Holds(draft, id))) yield return new(now.Id, TypeOf(draft, now.Id), $"{now.Label} is still kept from whoever may not read {GrantWords.Named(live, id)}: its values on file came from that.", "It stays so until somebody who may give access says otherwise on its page.");
            foreach (var id in old.HeldFrom.Except(now.HeldFrom)) yield return new(now.Id, TypeOf(draft, now.Id), $"{now.Label} is no longer kept from whoever may not read {GrantWords.Named(live, id)}.", $"{AtOnce} Its values on file came from that, and can be read from then on.");
        }
    }

    private IEnumerable<PlannedChange> Grants()
    {
        foreach (var grant in draft.Site.Grants)
        {
            var old = live.Site.FindGrant(grant.Id);
            if (old is not null && SiteDefinition.Same(old, grant)) continue;
            var type = TypeOf(draft, grant.On.FirstOrDefault() ?? "");
            if (old is null) yield return new(grant.Id, type, $"{GrantWords.Sentence(draft, grant)}.", AtOnce);
            else if (SiteDefinition.Same(old with { Comment = grant.Comment }, grant)) yield return new(grant.Id, type, $"Says anew why: {GrantWords.Sentence(draft, grant)}.", "Nothing else changes.");
            else yield return new(grant.Id, type, $"{GrantWords.Sentence(draft, grant)}.", $"It was: {GrantWords.Sentence(live, old)}. {AtOnce}");
        }

        foreach (var gone in live.Site.Grants.Where(grant => draft.Site.FindGrant(grant.Id) is null)) yield return new(gone.Id, TypeOf(draft, gone.On.FirstOrDefault() ?? ""), $"Takes this back: {GrantWords.Sentence(live, gone)}.", AtOnce);
    }

    private static RecordType TypeOf(Catalogue catalogue, string on) =>
        (on.StartsWith(Grant.TypePrefix, StringComparison.Ordinal) ? catalogue.Find(on[Grant.TypePrefix.Length..]) : catalogue.FindField(on)?.Part.RecordType) ?? catalogue.RecordTypes[0];
}
