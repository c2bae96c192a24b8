using System.Text.Json.Serialization;

namespace Pelto.Core.Values;

/// <summary>One of the values that a choice field allows.</summary>
/// <param name="Code">What is kept; lasting.</param>
/// <param name="Label">What people read.</param>
public sealed record Choice(string Code, string Label)
{
    /// <summary>The name of a colour that marks it, or null.</summary>
    public string? Colour { get; init; }

    /// <summary>What people of other languages read, by two-letter language (ISO 639-1).</summary>
    public IReadOnlyDictionary<string, string>? Texts { get; init; }

    /// <summary>What people of a language read.</summary>
    public string LabelIn(Locale locale) => Texts?.GetValueOrDefault(locale.Language) is { Length: > 0 } text ? text : Label;

    /// <summary>What it is called, in all languages.</summary>
    [JsonIgnore]
    public IEnumerable<string> Labels => (Texts?.Values ?? []).Prepend(Label);

    /// <summary>True when it is called so by somebody: in that language before all, else as it was defined.</summary>
    internal bool IsCalled(string text, Locale locale) =>
        string.Equals(LabelIn(locale), text, StringComparison.OrdinalIgnoreCase)
        || string.Equals(Label, text, StringComparison.OrdinalIgnoreCase);

    /// <summary>True when it is not offered any more; records that have it keep it.</summary>
    public bool Retired { get; init; }

    /// <summary>The code of the choice that took its place, or null.</summary>
    public string? MergedInto { get; init; }

    /// <summary>The colours that a choice can have.</summary>
    public static IReadOnlyList<string> Colours { get; } = ["moss", "rye", "clay", "fjord", "heather", "slate"];

    /// <summary>True when it can be chosen.</summary>
    [JsonIgnore]
    public bool IsOffered => !Retired && MergedInto is null;

    /// <summary>Equal when it says the same, in all languages: an unchanged definition is seen as such.</summary>
    public bool Equals(Choice? other) =>
        other is not null
        && (Code, Label, Colour, Retired, MergedInto) == (other.Code, other.Label, other.Colour, other.Retired, other.MergedInto)
        && (Texts?.Count ?? 0) == (other.Texts?.Count ?? 0)
        && (Texts ?? new Dictionary<string, string>()).All(text => other.Texts!.GetValueOrDefault(text.Key) == text.Value);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Code, Label, Colour, Retired, MergedInto, Texts?.Count ?? 0);
}
