using System.Text.Json.Serialization;

namespace Pelto.Core.Values;

/// <summary>
/// What a definition says about the kind of its field: which it is, and what that kind takes beside, as <see cref="FieldKind.Options"/>
/// names it.
/// </summary>
public abstract record KindOptions
{
    /// <summary>The name of the kind, as <see cref="FieldKinds"/> lists them.</summary>
    public string Kind { get; init; } = "";

    /// <summary>For texts and secrets: the longest that fits, in characters.</summary>
    public int? Length { get; init; }

    /// <summary>For decimals, money and quantities: all digits.</summary>
    public int? Digits { get; init; }

    /// <summary>For decimals, percentages and quantities: digits after the point.</summary>
    public int? Decimals { get; init; }

    /// <summary>For choices: what is offered, in order; null when a list that several fields share is named instead.</summary>
    public IReadOnlyList<Choice>? Choices { get; init; }

    /// <summary>For choices: the lasting id of the choice list.</summary>
    public string? ChoiceList { get; init; }

    /// <summary>For choices of a list: true when they are offered in the order of their labels.</summary>
    [JsonIgnore]
    public bool ChoicesByLabel { get; init; }

    /// <summary>For choices of its own: true when people may add one while they enter a record.</summary>
    public bool MayAdd { get; init; }

    /// <summary>For money: ISO 4217 codes, the usual one first.</summary>
    public IReadOnlyList<string>? Currencies { get; init; }

    /// <summary>For quantities: codes of UN/ECE Recommendation 20, the usual one first.</summary>
    public IReadOnlyList<string>? Units { get; init; }

    /// <summary>For phone numbers: the ISO 3166 code of the country whose numbers need no country code.</summary>
    public string? Country { get; init; }

    /// <summary>For identifiers: the scheme, such as <c>iban</c>, or <c>own</c>.</summary>
    public string? Scheme { get; init; }

    /// <summary>For texts: a regular expression that the whole must fit; for identifiers of one's own it is what they look like.</summary>
    public string? Pattern { get; init; }

    /// <summary>For identifiers of one's own: how the check characters are reckoned.</summary>
    public string? CheckDigit { get; init; }

    /// <summary>For links: the code of the record type pointed to.</summary>
    public string? Target { get; init; }

    /// <summary>
    /// For links: true when deleting the record pointed to leaves the link empty; otherwise that record stays as long as anything points to
    /// it.
    /// </summary>
    public bool ClearsWithTarget { get; init; }

    /// <summary>What of this a kind takes: what is said for another kind is gone.</summary>
    /// <param name="kind">The kind; null for one that is not known, which takes nothing.</param>
    public KindOptions For(FieldKind? kind) =>
        KindOption
            .All.Where(option => kind?.Takes(option) != true)
            .Aggregate(this, static (options, option) => option.Taken(options, Nothing));

    /// <summary>This with the kind of another definition, and all that it says of it.</summary>
    /// <param name="other">That definition.</param>
    public KindOptions WithKindOf(KindOptions other) =>
        KindOption.All.Aggregate(this with { Kind = other.Kind }, (options, option) => option.Taken(options, other));

    private static readonly KindOptions Nothing = new Unset();

    private sealed record Unset : KindOptions;
}
