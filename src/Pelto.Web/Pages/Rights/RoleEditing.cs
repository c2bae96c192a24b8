using Pelto.Data.Rights;

namespace Pelto.Web.Pages;

/// <summary>Adds and removes the site's own roles: live at once, or with the draft where publishing takes two people.</summary>
public sealed class RoleEditing(CurrentRequest request, PeopleAdmin admin, Proposals proposals, SmallReleases releases, Drafts drafts)
{
    private HostDescription Host => request.Catalogue.Host;

    /// <summary>Why a role cannot be added; null when it can.</summary>
    public string? RefuseNew(RoleDescription role)
    {
        var own = request.Catalogue.Site.Roles;
        return RoleRules.Refuse(
            role,
            Host with
            {
                Roles = [.. Host.Roles.Where(known => own.All(mine => mine.Code != known.Code))],
            },
            request.Catalogue.Site with
            {
                Roles = [.. own, role],
            }
        );
    }

    /// <summary>Adds one; what was done, or why not.</summary>
    public async Task<(string? Done, string? Refusal)> AddAsync(RoleDescription role)
    {
        SiteDefinition Adding(SiteDefinition site) =>
            site.Roles.Any(known => known.Code == role.Code) ? site : site with { Roles = [.. site.Roles, role] };
        if (await proposals.TakesTwoAsync())
            return await InDraftAsync(Adding, $"Added the role {role.Label}");
        return await releases.PublishAsync(Adding, $"Added the role {role.Label}.", request.Viewer) is { } refusal
            ? (null, refusal)
            : ($"The role {role.Label} is there. Give it to people, and say under Access what it sees.", null);
    }

    /// <summary>Removes one that nobody has; what was done, or why not.</summary>
    public async Task<(string? Done, string? Refusal)> DropAsync(RoleDescription role)
    {
        SiteDefinition Without(SiteDefinition site) => site with { Roles = [.. site.Roles.Where(other => other.Code != role.Code)] };
        if (await proposals.TakesTwoAsync())
            return await InDraftAsync(Without, $"Removed the role {role.Label}");
        if (await admin.CountOfRoleAsync(role.Code) is > 0 and var many)
            return (null, $"{many} {(many == 1 ? "person has" : "people have")} the role {role.Label}. Take it from them first.");
        if (await releases.PublishAsync(Without, $"Removed the role {role.Label}.", request.Viewer) is { } refusal)
            return (null, $"It is still named elsewhere: {refusal}");
        await admin.ForgetRoleAsync(role.Code);
        return ($"The role {role.Label} is gone.", null);
    }

    // It goes live with the draft, as all else does.
    private async Task<(string? Done, string? Refusal)> InDraftAsync(Func<SiteDefinition, SiteDefinition> change, string what)
    {
        if (!AdminWork.InDraft.Any(request.Viewer.May))
            return (null, "Publishing takes two people here, roles included: somebody who works on the draft has to add it there.");
        await drafts.ChangeAsync(change, what, request.Viewer);
        return ("It is in the draft: publishing takes two people here, roles included.", null);
    }
}
