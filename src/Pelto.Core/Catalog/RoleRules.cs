namespace Pelto.Core.Catalog;

/// <summary>Holds roles that a site adds to what they have to say.</summary>
public static class RoleRules
{
    private const int MaxLabel = 60;

    /// <summary>Why a role cannot be, as a sentence; null when it can.</summary>
    public static string? Refuse(RoleDescription role, HostDescription host, SiteDefinition site)
    {
        if (string.IsNullOrWhiteSpace(role.Label) || role.Label.Length > MaxLabel || role.Label.Any(char.IsControl))
            return $"A role has a name of 1 to {MaxLabel} characters.";
        if (!Codes.IsCode(role.Code))
            return $"“{role.Code}” is not a code: it begins with a small letter, and has small letters, digits and underscores.";
        if (host.Roles.Any(known => known.Code == role.Code) || site.Roles.Count(known => known.Code == role.Code) > 1)
            return $"There is a role with the code {role.Code} already.";
        return
            host
                .Roles.Concat(site.Roles)
                .FirstOrDefault(known =>
                    known.Code != role.Code && string.Equals(known.Label, role.Label, StringComparison.OrdinalIgnoreCase)
                )
                is { } other
            ? $"There is a role called {other.Label} already."
            : null;
    }
}
