namespace Pelto.Web.Pages;

/// <summary>What an address of a page that arranges says.</summary>
public sealed class ArrangeAddress
{
    /// <summary>What <see cref="On"/> says of a record that is being added.</summary>
    public const string Adding = "adding";

    /// <summary>The code of the record type.</summary>
    public string? Type { get; init; }

    /// <summary>The id of the layer.</summary>
    public string? Layer { get; init; }

    /// <summary>The record that is shown: its id, or what people call it.</summary>
    public string? Record { get; init; }

    /// <summary>When the screen is shown: <c>adding</c>, or while a record is changed.</summary>
    public string? On { get; init; }

    /// <summary>
    /// What is being arranged: nothing for the screen, <c>list</c>, or <c>in:</c> and the id of a link for the list of what points here.
    /// </summary>
    public string? Of { get; init; }
}

/// <summary>What there is to arrange.</summary>
/// <param name="Site">The definition that a change is made of.</param>
/// <param name="Catalogue">The same, put together.</param>
/// <param name="Version">Grows with each change.</param>
public sealed record Arrangeable(SiteDefinition Site, Catalogue Catalogue, long Version);
