using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Roles beyond those of the host.</summary>
public sealed class RoleSort : ElementSort<RoleDescription>
{
    /// <inheritdoc/>
    public override string Name => "role";

    /// <inheritdoc/>
    public override string AuditKind => AuditKinds.People;

    /// <inheritdoc/>
    public override string PageOf(string id) => "/setup/people";

    /// <inheritdoc/>
    protected override IReadOnlyList<RoleDescription> All(SiteDefinition site) => site.Roles;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<RoleDescription> all) => site with { Roles = all };

    // What roles there are is read wherever something is given to one.
    /// <inheritdoc/>
    protected override bool IsShown(RoleDescription element, SiteDefinition site, SiteViews views) => true;

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) => [new(AdminWork.People, AdminAction.AnyType)];

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(RoleDescription? before, RoleDescription? after, SiteComparison of) =>
        [
            (before, after) switch
            {
                (null, { } added) => new(Id(added), of.AnyType, $"Adds the role {added.Label}.", "Nobody has it yet."),
                ({ } old, { } now) => new(Id(now), of.AnyType, $"The role {old.Label} is called {now.Label}.", "Nothing else changes."),
                _ => new(Id(before!), of.AnyType, $"Removes the role {before!.Label}.", "Nobody has it any longer."),
            },
        ];
}
