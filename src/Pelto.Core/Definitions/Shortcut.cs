namespace Pelto.Core.Definitions;

/// <summary>A named link that stands in the menu for an audience.</summary>
public sealed record Shortcut : ISiteElement
{
    private const int MaxLabel = 40;
    private const int MaxAddress = 500;

    /// <summary>Its lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What the menu says.</summary>
    public string Label { get; init; } = "";

    /// <summary>Where it leads: an address within Pelto, from the first slash on, or a whole one of http or https.</summary>
    public string Address { get; init; } = "";

    /// <summary>In whose menu it stands: see <see cref="Definitions.Audience"/>.</summary>
    public string Audience { get; init; } = Layer.Everyone;

    string ISiteElement.ElementId => Id;

    /// <summary>True when it leads away from Pelto.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool IsOutside => !Address.StartsWith('/');

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "s-" + Guid.NewGuid().ToString("N")[..12];

    /// <inheritdoc/>
    public IEnumerable<(string Property, string Sentence)> Problem(HostDescription host)
    {
        if (string.IsNullOrWhiteSpace(Label) || Label.Length > MaxLabel)
            yield return ("label", $"Give the shortcut a name of at most {MaxLabel} characters.");
        if (RefuseAddress(Address) is { } sentence)
            yield return ("address", sentence);
        if (Definitions.Audience.Refuse(Audience, host) is { } unknown)
            yield return ("audience", unknown);
    }

    /// <summary>Why nothing may lead to an address, as a sentence; null when something may.</summary>
    /// <remarks>
    /// Addresses within Pelto begin with one slash: with two, or with a backslash after it, browsers take what follows for another
    /// server (WHATWG URL standard, from memory).
    /// </remarks>
    public static string? RefuseAddress(string address)
    {
        if (address.Length is 0 or > MaxAddress || address.Any(c => char.IsControl(c) || char.IsWhiteSpace(c) || c == '\\'))
            return $"Write an address of at most {MaxAddress} characters, without blanks: /records/sales_order, or https://example.org/.";
        if (address.StartsWith('/'))
            return address.StartsWith("//", StringComparison.Ordinal) ? "An address within Pelto begins with one slash." : null;
        return Uri.TryCreate(address, UriKind.Absolute, out var whole) && whole.Scheme is "http" or "https"
            ? null
            : "An address begins with a slash, or with http:// or https://.";
    }
}
