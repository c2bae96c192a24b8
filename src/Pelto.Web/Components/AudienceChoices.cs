namespace Pelto.Web.Components;

/// <summary>The audiences that there are, for choosing one.</summary>
internal static class AudienceChoices
{
    /// <summary>All but everyone, each as definitions write it and as people read it.</summary>
    /// <param name="host">Has the companies and roles.</param>
    /// <param name="people">All people.</param>
    public static IEnumerable<(string Code, string Label)> For(HostDescription host, IEnumerable<PersonToPick> people) =>
        [
            .. host.Companies.Select(company => ($"company:{company.Code}", $"Company {company.Label}")),
            .. host.Companies.Select(company => company.Country).Distinct().Select(country => ($"country:{country}", $"Country {country}")),
            .. host.Roles.Select(role => ($"role:{role.Code}", $"Role {role.Label}")),
            .. people.Select(person => ($"user:{person.SignIn}", $"Only {person.Name}")),
        ];
}
