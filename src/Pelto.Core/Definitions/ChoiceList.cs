using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>Choices that several fields can share.</summary>
public sealed record ChoiceList : ISiteElement
{
    /// <summary>Lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What people call it.</summary>
    public string Label { get; init; } = "";

    /// <summary>True when choices are offered in the order of their labels, rather than as they stand here.</summary>
    public bool Alphabetical { get; init; }

    /// <summary>True when people may add a choice while they enter a record.</summary>
    public bool MayAdd { get; init; }

    /// <summary>The choices.</summary>
    public IReadOnlyList<Values.Choice> Choices { get; init; } = [];

    /// <summary>The choices as they are offered.</summary>
    [JsonIgnore]
    public IReadOnlyList<Values.Choice> InOrder =>
        Alphabetical ? [.. Choices.OrderBy(choice => choice.Label, StringComparer.InvariantCultureIgnoreCase)] : Choices;

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "l-" + Guid.NewGuid().ToString("N")[..12];

    string ISiteElement.ElementId => Id;
}
