namespace Pelto.Core.Access;

/// <summary>Who belongs to an audience.</summary>
public static class Membership
{
    /// <summary>True when a person belongs to it.</summary>
    /// <param name="audience">The audience.</param>
    /// <param name="viewer">The person.</param>
    /// <param name="companies">The host's companies, which say in which country each is.</param>
    public static bool Holds(this Audience audience, Viewer viewer, IReadOnlyList<CompanyDescription> companies) =>
        audience.Kind switch
        {
            AudienceKind.Everyone => true,
            AudienceKind.Company => viewer.Company == audience.Code,
            AudienceKind.Country => companies.Any(company => company.Code == viewer.Company && company.Country == audience.Code),
            AudienceKind.Role => viewer.Roles.Contains(audience.Code),
            _ => viewer.SignIn == audience.Code,
        };
}
