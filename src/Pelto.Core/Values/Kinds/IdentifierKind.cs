using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Pelto.Core.Values;

/// <summary>A scheme of identifiers.</summary>
/// <param name="Code">Its name in definitions.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Shape">A regular expression for the whole.</param>
/// <param name="IsChecked">Whether the check characters agree.</param>
/// <param name="Like">How it is written, for sentences.</param>
public sealed record IdentifierScheme(string Code, string Label, string Shape, Func<string, bool> IsChecked, string Like)
{
    /// <summary>The built-in schemes.</summary>
    public static IReadOnlyList<IdentifierScheme> All { get; } =
    [
        new(
            "iban",
            "IBAN (ISO 13616)",
            "^[A-Z]{2}[0-9]{2}[A-Z0-9]{11,30}$",
            IsIban,
            "two letters, two check digits and the account, such as FI21 1234 5600 0007 85"
        ),
        new(
            "gtin",
            "GTIN (GS1)",
            "^([0-9]{8}|[0-9]{12}|[0-9]{13}|[0-9]{14})$",
            CheckDigits.Mod10,
            "8, 12, 13 or 14 digits, the last of them the check digit"
        ),
        new("lei", "LEI (ISO 17442)", "^[A-Z0-9]{18}[0-9]{2}$", CheckDigits.Mod97, "18 letters and digits and two check digits"),
        new(
            "container",
            "Container number (ISO 6346)",
            "^[A-Z]{3}[UJZ][0-9]{7}$",
            CheckDigits.Container,
            "four letters and seven digits, such as CSQU 305438 3"
        ),
        new("isbn", "ISBN-13 (ISO 2108)", "^97[89][0-9]{10}$", CheckDigits.Mod10, "13 digits that begin with 978 or 979"),
    ];

    /// <summary>The scheme of one's own.</summary>
    public const string UserDefined = "own";

    /// <summary>Ways to reckon check characters, for an own scheme.</summary>
    public static IReadOnlyDictionary<string, (string Label, Func<string, bool> IsChecked)> CheckWays { get; } =
        new Dictionary<string, (string, Func<string, bool>)>(StringComparer.Ordinal)
        {
            ["mod10"] = ("modulo 10, weights 3 and 1 (GS1)", CheckDigits.Mod10),
            ["mod11_2"] = ("MOD 11-2 (ISO 7064)", CheckDigits.Mod11),
            ["mod97_10"] = ("MOD 97-10 (ISO 7064)", CheckDigits.Mod97),
            ["mod37_36"] = ("MOD 37-36 (ISO 7064)", CheckDigits.Mod37),
        };

    // Lengths by country: ISO 13616-1 as its registry lists them, from memory; countries that are not here are held to the check digits
    // alone.
    private static readonly Dictionary<string, int> IbanLengths =
        "AD24 AE23 AL28 AT20 AZ28 BA20 BE16 BG22 BH22 BR29 CH21 CR22 CY28 CZ24 DE22 DK18 DO28 EE20 ES24 FI18 FO18 FR27 GB22 GE22 GI23 GL18 GR27 GT28 HR21 HU28 IE22 IL23 IS26 IT27 KW30 KZ20 LB28 LI21 LT20 LU20 LV21 MC27 MD24 ME22 MK19 MT31 MU30 NL18 NO15 PK24 PL28 PS29 PT25 QA29 RO24 RS22 SA24 SE24 SI19 SK24 SM27 TN24 TR26 UA29 VA22 VG24 XK20"
            .Split(' ')
            .ToDictionary(
                entry => entry[..2],
                entry => int.Parse(entry[2..], System.Globalization.CultureInfo.InvariantCulture),
                StringComparer.Ordinal
            );

    private static bool IsIban(string text) =>
        (!IbanLengths.TryGetValue(text[..2], out var length) || text.Length == length)
        && text[2..4] is not ("00" or "01" or "99")
        && CheckDigits.Mod97(text[4..] + text[..4]);
}

/// <summary>
/// An identifier with a check digit, of a known scheme or of a pattern of one's own. Kept in capitals, without the spaces and hyphens that
/// only help the eye.
/// </summary>
/// <param name="Scheme">The code of a built-in scheme, or <see cref="IdentifierScheme.UserDefined"/>.</param>
/// <param name="Pattern">For an own scheme: a regular expression for the whole.</param>
/// <param name="Check">For an own scheme: how the check characters are reckoned, or null.</param>
public sealed record IdentifierKind(string Scheme, string? Pattern = null, string? Check = null) : AnyTextKind(60)
{
    private IdentifierScheme? Known => IdentifierScheme.All.FirstOrDefault(scheme => scheme.Code == Scheme);

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Scheme, KindOption.CheckDigit];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse)
    {
        var scheme = options.Scheme is { Length: > 0 } given ? given : "gtin";
        if (scheme != IdentifierScheme.UserDefined)
        {
            if (IdentifierScheme.All.All(known => known.Code != scheme))
                refuse(
                    "scheme",
                    $"There is no scheme “{scheme}”. There are: "
                        + $"{string.Join(", ", IdentifierScheme.All.Select(known => known.Code))}, {IdentifierScheme.UserDefined}."
                );
            return new IdentifierKind(scheme);
        }

        var check = options.CheckDigit is { Length: > 0 } way ? way : null;
        if (string.IsNullOrEmpty(options.Pattern) && check is null)
            refuse("pattern", "Say what such an identifier looks like, or how its check digit is calculated.");
        if (check is not null && !IdentifierScheme.CheckWays.ContainsKey(check))
            refuse(
                "checkDigit",
                $"There is no check digit method “{check}”. There are: {string.Join(", ", IdentifierScheme.CheckWays.Keys)}."
            );
        return new IdentifierKind(scheme, options.Pattern, check);
    }

    /// <inheritdoc/>
    public override bool HasPattern => true;

    /// <inheritdoc/>
    public override bool KeepsPattern => Scheme == IdentifierScheme.UserDefined;

    /// <inheritdoc/>
    public override string SchemeCode => Scheme;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Text;

    /// <inheritdoc/>
    public override string Name => "identifier";

    /// <inheritdoc/>
    public override string Label => "Identifier";

    /// <inheritdoc/>
    public override string Description => Known?.Label ?? "identifier of one's own";

    /// <inheritdoc/>
    public override int Width => 3;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Value.From(
            Known is null && (Pattern ?? "").Contains('-', StringComparison.Ordinal)
                ? text.ToUpperInvariant()
                : string.Concat(text.ToUpperInvariant().Where(static c => !char.IsWhiteSpace(c) && c != '-'))
        );

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) =>
        Scheme switch
        {
            "iban" => string.Join(' ', value.Text.Chunk(4).Select(group => new string(group))),
            "container" when value.Text.Length == 11 => $"{value.Text[..4]} {value.Text[4..10]} {value.Text[10..]}",
            _ => value.Text,
        };

    /// <inheritdoc/>
    public override string? Refuse(Value value)
    {
        if (base.Refuse(value) is { } refusal)
            return refusal;
        if (Known is { } known)
        {
            if (!Regex.IsMatch(value.Text, known.Shape))
                return $"“{value.Text}” is not a valid {known.Label}: it is {known.Like}.";
            return known.IsChecked(value.Text) ? null : $"The check digit of “{value.Text}” is wrong: please compare it digit by digit.";
        }

        if (Pattern is { Length: > 0 } && !Patterns.Fits(value.Text, Pattern))
            return $"“{value.Text}” does not have the required form: {Pattern}.";
        var digits = string.Concat(value.Text.Where(char.IsAsciiLetterOrDigit));
        return Check is { } check && IdentifierScheme.CheckWays.TryGetValue(check, out var method) && !method.IsChecked(digits)
            ? $"The check digit of “{value.Text}” is wrong: please compare it digit by digit."
            : null;
    }

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = base.Schema();
        if (Known?.Shape is { } shape)
            schema["pattern"] = shape;
        schema["description"] = Description;
        return schema;
    }
}
