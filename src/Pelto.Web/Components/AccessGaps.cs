namespace Pelto.Web.Components;

/// <summary>The gaps in the guards and grants of a catalogue, for the roles of the host and the people who are here.</summary>
public sealed class AccessGaps(People people)
{
    /// <summary>All of them.</summary>
    public async Task<IReadOnlyList<AccessGap>> OfAsync(Catalogue catalogue, CancellationToken cancel = default)
    {
        if (catalogue.Guarding.IsPlain)
            return [];

        // Of people who stand alike, one tells for all.
        var named = catalogue.Site.Grants.SelectMany(grant => grant.To).ToHashSet(StringComparer.Ordinal);
        var different = (await people.ViewersAsync(cancel)).DistinctBy(person =>
            (
                string.Join(',', person.Roles.Order(StringComparer.Ordinal)),
                person.Company,
                named.Contains($"user:{person.SignIn}") ? person.SignIn : ""
            )
        );
        return new Gaps(catalogue, [.. Gaps.OfRoles(catalogue.Host), .. different]).All();
    }
}
