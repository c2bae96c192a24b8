using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>Placement changes for an audience.</summary>
public sealed record Layer : ISiteElement
{
    /// <summary>The audience of all.</summary>
    public const string Everyone = "everyone";

    /// <summary>Lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What people call it.</summary>
    public string Label { get; init; } = "";

    /// <summary>Why it is there.</summary>
    public string? Comment { get; init; }

    /// <summary>
    /// For whom: <c>everyone</c>, or such as <c>company:no</c>, <c>country:NO</c>, <c>role:order_desk</c>, <c>user:henna.aro</c>.
    /// </summary>
    public string Audience { get; init; } = Everyone;

    /// <summary>In the order in which they are carried out.</summary>
    public IReadOnlyList<LayerOperation> Operations { get; init; } = [];

    /// <summary>For whom, read; null when it says nothing that there is.</summary>
    [JsonIgnore]
    public Audience? For => Definitions.Audience.TryParse(Audience, out var audience) ? audience : null;

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "a-" + Guid.NewGuid().ToString("N")[..12];

    string ISiteElement.ElementId => Id;
}
