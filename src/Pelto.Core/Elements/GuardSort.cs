using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Guards: each is known by what it is on.</summary>
public sealed class GuardSort : ElementSort<Guard>
{
    /// <summary>When access changes, and where.</summary>
    internal const string AtOnce = "At once, on every way in and out.";

    /// <inheritdoc/>
    public override string Name => "guard";

    /// <inheritdoc/>
    public override string AuditKind => AuditKinds.Access;

    /// <inheritdoc/>
    public override string PageOf(string id) => "/setup/access?show=guarded";

    /// <inheritdoc/>
    protected override IReadOnlyList<Guard> All(SiteDefinition site) => site.Guards;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<Guard> all) => site with { Guards = all };

    /// <inheritdoc/>
    protected override bool IsShown(Guard element, SiteDefinition site, SiteViews views) => views.Gives(element.On, site);

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) => [new(AdminWork.Grant, change.TypeOf(id))];

    // To take away, or change, what keeps others from it lets them have it.
    internal override IEnumerable<AccessGiven> Gives(string id, SiteChange change) =>
        change.Before.GuardOf(id) is null ? [] : [new([id], AccessLevel.Write, null)];

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(Guard? before, Guard? after, SiteComparison of)
    {
        if (after is null)
        {
            yield return Change(
                before!.On,
                $"No longer guards {GrantWords.Named(of.Live, before.On)}.",
                "It starts with what its record type gives again, for everybody.",
                of
            );
            yield break;
        }

        var name = GrantWords.Named(of.Draft, after.On);
        if (before is null)
            yield return Change(
                after.On,
                $"Guards {name}: nobody but administrators has it until grants give it.",
                $"{AtOnce} What is calculated from it is guarded too.",
                of
            );
        else if (before.Ending != after.Ending)
            yield return Change(
                after.On,
                after.Ending
                    ? $"Whoever sees {name} masked sees its last {Masks.EndingLength} characters."
                    : $"Whoever sees {name} masked no longer sees anything of it.",
                AtOnce,
                of
            );
        else if (before.Comment != after.Comment)
            yield return Change(after.On, $"Changes the reason why {name} is guarded.", "Nothing else changes.", of);
    }

    /// <summary>A change of what is guarded.</summary>
    internal static PlannedChange Change(string on, string sentence, string effect, SiteComparison of)
    {
        var type = TypeOf(of.Draft, on);
        return new(on, type, sentence, effect) { IsAccess = true, Page = $"/setup/access?type={type.Code}&show=guarded" };
    }

    /// <summary>The record type that a guard or grant is about.</summary>
    internal static RecordType TypeOf(Catalogue catalogue, string on)
    {
        var type = on.StartsWith(Grant.TypePrefix, StringComparison.Ordinal)
            ? catalogue.Find(on[Grant.TypePrefix.Length..])
            : catalogue.FindField(on)?.Part.RecordType;
        return type ?? catalogue.RecordTypes[0];
    }
}
