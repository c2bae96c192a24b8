using System.Globalization;
using Pelto.Core.Values;

namespace Pelto.Core.Catalog;

/// <summary>All kinds of field: which there are, and how a definition becomes one.</summary>
public static class FieldKinds
{
    /// <summary>Names no kind of its own: a field of another record, seen through a link, has the kind that it has there.</summary>
    public const string Seen = "seen";

    private delegate FieldKind Maker(FieldContent content, Action<string, string> refuse);

    // One line for each kind: its maker, and as the administrator is first offered it.
    private static readonly (FieldKind Sample, Maker Make)[] Kinds =
    [
        (new TextKind(30), static (content, refuse) => new TextKind(Length(content, refuse, 30, TextKind.LongestLength))),
        (new LongTextKind(2000), static (content, refuse) => new LongTextKind(Length(content, refuse, 2000, LongTextKind.LongestLength))),
        (new FormattedTextKind(10000), static (content, refuse) => new FormattedTextKind(Length(content, refuse, 10000, LongTextKind.LongestLength))),
        (new IntegerKind(), static (_, _) => new IntegerKind()),
        (new DecimalKind(10, 2), static (content, refuse) => Sized(content, refuse, static (digits, decimals) => new DecimalKind(digits, decimals))),
        (new MoneyKind(12, ["EUR"]), Money),
        (new PercentKind(1), static (content, refuse) => new PercentKind(Decimals(content, refuse, 1, 6))),
        (new QuantityKind(10, 2, [Units.All[0]]), Quantity),
        (new DateKind(), static (_, _) => new DateKind()),
        (new TimeKind(), static (_, _) => new TimeKind()),
        (new MomentKind(), static (_, _) => new MomentKind()),
        (new DurationKind(), static (_, _) => new DurationKind()),
        (new YesNoKind(), static (_, _) => new YesNoKind()),
        (new ChoiceKind([]), static (content, refuse) => new ChoiceKind(ChoiceRules.Checked(content.Choices, refuse), content.MayAdd) { IsByLabel = content.ChoicesByLabel }),
        (new SeveralChoicesKind([]), static (content, refuse) => new SeveralChoicesKind(ChoiceRules.Checked(content.Choices, refuse), content.MayAdd) { IsByLabel = content.ChoicesByLabel }),
        (new FileKind(), static (_, _) => new FileKind()),
        (new ImageKind(), static (_, _) => new ImageKind()),
        (new WebAddressKind(), static (_, _) => new WebAddressKind()),
        (new EmailKind(), static (_, _) => new EmailKind()),
        (new PhoneKind("FI"), Phone),
        (new IdentifierKind("gtin"), Identifier),
        (new SecretKind(100), static (content, refuse) => new SecretKind(Length(content, refuse, 100, 1000))),
        (new LinkKind(""), static (content, refuse) => new LinkKind(Target(content, refuse), content.ClearsWithTarget)),
        (new LinksKind(""), static (content, refuse) => new LinksKind(Target(content, refuse), content.ClearsWithTarget)),
    ];

    private static readonly Dictionary<string, Maker> Makers = Kinds.ToDictionary(kind => kind.Item1.Name, kind => kind.Item2, StringComparer.Ordinal);

    /// <summary>The kinds that an administrator can choose, in the order in which they are offered.</summary>
    public static IReadOnlyList<FieldKind> Definable { get; } = [.. Kinds.Select(kind => kind.Sample)];

    /// <summary>The names of the kinds of which something is so, with a blank between them.</summary>
    /// <param name="which">What is so.</param>
    public static string Names(Func<FieldKind, bool> which) => string.Join(' ', Definable.Where(which).Select(kind => kind.Name));

    /// <summary>
    /// Makes the kind that a definition asks for; what is wrong goes to <paramref name="refuse"/> with the property's name, and null comes
    /// back for an unknown kind.
    /// </summary>
    public static FieldKind? Make(FieldContent content, Action<string, string> refuse)
    {
        if (Makers.TryGetValue(content.Kind, out var make)) return make(content, refuse);
        refuse("kind", content.Kind.Length == 0 ? "Choose a kind." : $"There is no kind “{content.Kind}”. There are: {string.Join(", ", Makers.Keys)}.");
        return null;
    }

    private static int Length(FieldContent content, Action<string, string> refuse, int usual, int longest)
    {
        var length = content.Length ?? usual;
        if (length < 1 || length > longest)
            refuse("length", $"A text is 1 to {longest.ToString(CultureInfo.InvariantCulture)} characters long.");
        return Math.Clamp(length, 1, longest);
    }

    private static int Decimals(FieldContent content, Action<string, string> refuse, int usual, int most)
    {
        var decimals = content.Decimals ?? usual;
        if (decimals < 0 || decimals > most)
            refuse("decimals", $"There can be 0 to {most.ToString(CultureInfo.InvariantCulture)} digits after the point.");
        return Math.Clamp(decimals, 0, most);
    }

    private static FieldKind Sized(FieldContent content, Action<string, string> refuse, Func<int, int, FieldKind> make)
    {
        var (digits, decimals) = (Digits(content, refuse, 10), content.Decimals ?? 2);
        if (decimals < 0 || decimals > digits)
            refuse("decimals", "After the point there can be no fewer than 0 digits and no more than there are in all.");
        return make(digits, Math.Clamp(decimals, 0, digits));
    }

    private static int Digits(FieldContent content, Action<string, string> refuse, int usual)
    {
        var digits = content.Digits ?? usual;
        if (digits is < 1 or > DecimalKind.MostDigits)
            refuse("digits", string.Create(CultureInfo.InvariantCulture, $"A number has 1 to {DecimalKind.MostDigits} digits in all."));
        return Math.Clamp(digits, 1, DecimalKind.MostDigits);
    }

    private static MoneyKind Money(FieldContent content, Action<string, string> refuse)
    {
        var codes = content.Currencies is { Count: > 0 } given ? given : ["EUR"];
        if (codes.FirstOrDefault(code => !Currencies.IsKnown(code)) is { } unknown)
            refuse("currencies", $"“{unknown}” is no currency of ISO 4217.");
        if (codes.Distinct(StringComparer.Ordinal).Count() < codes.Count) refuse("currencies", "A currency is there twice.");
        return new(Math.Max(4, Digits(content, refuse, 15)), codes);
    }

    private static FieldKind Quantity(FieldContent content, Action<string, string> refuse)
    {
        var codes = content.Units is { Count: > 0 } given ? given : ["KGM"];
        if (codes.FirstOrDefault(code => Units.Find(code) is null) is { } unknown) refuse("units", $"“{unknown}” is no unit that is known here. Units are codes of UN/ECE Recommendation 20, such as KGM for kilograms.");
        if (codes.Distinct(StringComparer.Ordinal).Count() < codes.Count) refuse("units", "A unit is there twice.");
        var units = codes.Select(Units.Find).OfType<Unit>().ToList();
        if (units.Select(unit => unit.Dimension).Distinct().Count() > 1) refuse("units", $"The units of one field measure the same thing; {units[0].Name} measures {units[0].Dimension}, {units.First(unit => unit.Dimension != units[0].Dimension).Name} {units.First(unit => unit.Dimension != units[0].Dimension).Dimension}.");
        return Sized(content, refuse, (digits, decimals) => new QuantityKind(digits, decimals, units.Count > 0 ? units : [Units.All[0]]));
    }

    private static PhoneKind Phone(FieldContent content, Action<string, string> refuse)
    {
        var country = content.Country is { Length: > 0 } given ? given.ToUpperInvariant() : "FI";
        if (!PhoneKind.Countries.Contains(country))
            refuse("country", $"“{country}” is no country of ISO 3166 with a numbering plan, such as FI.");
        return new(country);
    }

    private static IdentifierKind Identifier(FieldContent content, Action<string, string> refuse)
    {
        var scheme = content.Scheme is { Length: > 0 } given ? given : "gtin";
        if (scheme != IdentifierKind.Own)
        {
            if (IdentifierScheme.All.All(known => known.Code != scheme)) refuse("scheme", $"There is no scheme “{scheme}”. There are: {string.Join(", ", IdentifierScheme.All.Select(known => known.Code))}, {IdentifierKind.Own}.");
            return new(scheme);
        }

        if (string.IsNullOrEmpty(content.Pattern) && string.IsNullOrEmpty(content.CheckDigit))
            refuse("pattern", "Say what such an identifier looks like, or how its check digit is reckoned.");
        if (content.CheckDigit is { Length: > 0 } check && !IdentifierKind.Checked.ContainsKey(check)) refuse("checkDigit", $"There is no way “{check}” to reckon a check digit. There are: {string.Join(", ", IdentifierKind.Checked.Keys)}.");
        return new(scheme, content.Pattern, content.CheckDigit is { Length: > 0 } way ? way : null);
    }

    private static string Target(FieldContent content, Action<string, string> refuse)
    {
        if (string.IsNullOrEmpty(content.Target)) refuse("target", "Choose the record type that it points to.");
        return content.Target ?? "";
    }
}
