namespace Pelto.Core.Values;

/// <summary>One thing that definitions say of some kinds, such as a length.</summary>
/// <param name="Name">The property of a definition, as problems and the programming interface name it.</param>
/// <param name="Text">What a definition says of it, as text; null for nothing.</param>
/// <param name="Taken">The options that come first, with it as the second say it.</param>
/// <param name="IsSize">True for what makes more or fewer values fit; false for what has a meaning, and sentences, of its own.</param>
public sealed record KindOption(
    string Name,
    Func<KindOptions, string?> Text,
    Func<KindOptions, KindOptions, KindOptions> Taken,
    bool IsSize = true
)
{
    /// <summary>The longest that fits, in characters.</summary>
    public static KindOption Length { get; } =
        new("length", said => Figure(said.Length), (into, from) => into with { Length = from.Length });

    /// <summary>All digits of a number.</summary>
    public static KindOption Digits { get; } =
        new("digits", said => Figure(said.Digits), (into, from) => into with { Digits = from.Digits });

    /// <summary>Digits after the point.</summary>
    public static KindOption Decimals { get; } =
        new("decimals", said => Figure(said.Decimals), (into, from) => into with { Decimals = from.Decimals });

    /// <summary>The currencies that amounts may be in.</summary>
    public static KindOption Currencies { get; } =
        new("currencies", said => List(said.Currencies), (into, from) => into with { Currencies = from.Currencies });

    /// <summary>The units that quantities may be in.</summary>
    public static KindOption Units { get; } = new("units", said => List(said.Units), (into, from) => into with { Units = from.Units });

    /// <summary>The country whose telephone numbers need no code.</summary>
    public static KindOption Country { get; } = new("country", said => said.Country, (into, from) => into with { Country = from.Country });

    /// <summary>The scheme of identifiers.</summary>
    public static KindOption Scheme { get; } = new("scheme", said => said.Scheme, (into, from) => into with { Scheme = from.Scheme });

    /// <summary>How check characters are reckoned.</summary>
    public static KindOption CheckDigit { get; } =
        new("checkDigit", said => said.CheckDigit, (into, from) => into with { CheckDigit = from.CheckDigit });

    /// <summary>Choices of its own.</summary>
    public static KindOption Choices { get; } =
        new(
            "choices",
            said => List(said.Choices?.Select(choice => choice.Code)),
            (into, from) => into with { Choices = from.Choices },
            IsSize: false
        );

    /// <summary>A list of choices that several fields share.</summary>
    public static KindOption ChoiceList { get; } =
        new("choiceList", said => said.ChoiceList, (into, from) => into with { ChoiceList = from.ChoiceList }, IsSize: false);

    /// <summary>Whether people may add a choice.</summary>
    public static KindOption MayAdd { get; } =
        new("mayAdd", said => said.MayAdd ? "yes" : null, (into, from) => into with { MayAdd = from.MayAdd }, IsSize: false);

    /// <summary>The record type pointed to.</summary>
    public static KindOption Target { get; } =
        new("target", said => said.Target, (into, from) => into with { Target = from.Target }, IsSize: false);

    /// <summary>Whether deleting the record pointed to leaves the link empty.</summary>
    public static KindOption ClearsWithTarget { get; } =
        new(
            "clearsWithTarget",
            said => said.ClearsWithTarget ? "yes" : null,
            (into, from) => into with { ClearsWithTarget = from.ClearsWithTarget },
            IsSize: false
        );

    /// <summary>All of them.</summary>
    public static IReadOnlyList<KindOption> All { get; } =
    [Length, Digits, Decimals, Currencies, Units, Country, Scheme, CheckDigit, Choices, ChoiceList, MayAdd, Target, ClearsWithTarget];

    private static string? Figure(int? number) => number?.ToString(CultureInfo.InvariantCulture);

    private static string? List(IEnumerable<string>? said) => said is null ? null : string.Join(", ", said);
}
