using System.Diagnostics.CodeAnalysis;

namespace Pelto.Core.Definitions;

/// <summary>The kinds of audience, in the order in which their layers are laid over each other: later ones win.</summary>
public enum AudienceKind
{
    /// <summary>All people.</summary>
    Everyone,

    /// <summary>The people of a company.</summary>
    Company,

    /// <summary>The people of all companies in a country.</summary>
    Country,

    /// <summary>The people with a role.</summary>
    Role,

    /// <summary>One person.</summary>
    User,
}

/// <summary>For whom a layer is.</summary>
/// <param name="Kind">What kind of audience.</param>
/// <param name="Code">Which company, country (ISO 3166-1, two letters), role or user (by sign-in name); empty for everyone.</param>
public sealed record Audience(AudienceKind Kind, string Code)
{
    /// <summary>All people.</summary>
    public static Audience Everyone { get; } = new(AudienceKind.Everyone, "");

    /// <summary>Reads an audience as definitions write it: <c>everyone</c>, or such as <c>role:order_desk</c>.</summary>
    public static bool TryParse(string text, [NotNullWhen(true)] out Audience? audience)
    {
        audience = null;
        if (text == Layer.Everyone)
            audience = Everyone;
        else if (
            text.Split(':', 2) is [var kind, { Length: > 0 } code]
            && Enum.TryParse<AudienceKind>(kind, ignoreCase: true, out var known)
            && known != AudienceKind.Everyone
            && kind == Word(known)
        )
            audience = new(known, code);
        return audience is not null;
    }

    /// <summary>As definitions write it.</summary>
    public override string ToString() => Kind == AudienceKind.Everyone ? Layer.Everyone : $"{Word(Kind)}:{Code}";

    /// <summary>As people read it, such as “role Order desk”.</summary>
    /// <param name="host">Knows what companies and roles are called.</param>
    public string InWords(HostDescription host) =>
        Kind switch
        {
            AudienceKind.Everyone => "everyone",
            AudienceKind.Company => $"company {host.Companies.FirstOrDefault(company => company.Code == Code)?.Label ?? Code}",
            AudienceKind.Country => $"country {Code}",
            AudienceKind.Role => $"role {host.Roles.FirstOrDefault(role => role.Code == Code)?.Label ?? Code}",
            _ => $"only {Code}",
        };

    /// <summary>Why what definitions write is not an audience, as a sentence; null when it is one.</summary>
    /// <param name="text">As definitions write it.</param>
    /// <param name="host">Knows the companies, countries and roles.</param>
    public static string? Refuse(string text, HostDescription host) =>
        (TryParse(text, out var audience) ? audience : null) switch
        {
            null => $"“{text}” is not an audience: write everyone, or such as company:no, country:NO, role:order_desk or user:henna.aro.",
            { Kind: AudienceKind.Company } company when host.Companies.All(known => known.Code != company.Code) =>
                $"There is no company “{company.Code}”.",
            { Kind: AudienceKind.Country } country when host.Companies.All(known => known.Country != country.Code) =>
                $"No company is in the country “{country.Code}”.",
            { Kind: AudienceKind.Role } role when host.Roles.All(known => known.Code != role.Code) => $"There is no role “{role.Code}”.",
            _ => null,
        };

    private static string Word(AudienceKind kind) => kind.ToString().ToLowerInvariant();
}
