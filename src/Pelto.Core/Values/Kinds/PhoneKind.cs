using System.Text.Json.Nodes;
using PhoneNumbers;

namespace Pelto.Core.Values;

/// <summary>A telephone number: kept as ITU-T E.164 has it, shown in its national form to those in the same country.</summary>
/// <param name="Country">The ISO 3166 code of the country whose numbers are typed without a country code.</param>
/// <remarks>Numbering plans change often: they come from libphonenumber.</remarks>
public sealed record PhoneKind(string Country) : AnyTextKind(16)
{
    /// <inheritdoc/>
    public override string? InputMode => "tel";

    private static readonly PhoneNumberUtil Plans = PhoneNumberUtil.GetInstance();

    /// <summary>The countries whose plans are known.</summary>
    public static IReadOnlyList<string> Countries { get; } = [.. Plans.GetSupportedRegions().Order(StringComparer.Ordinal)];

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Country];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse)
    {
        var country = options.Country is { Length: > 0 } given ? given.ToUpperInvariant() : "FI";
        if (!Countries.Contains(country))
            refuse("country", $"“{country}” is not a country of ISO 3166 with a numbering plan, such as FI.");
        return new PhoneKind(country);
    }

    /// <inheritdoc/>
    public override string? Href(Value value) => "tel:" + value.Text;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Address;

    /// <inheritdoc/>
    public override string Name => "phone";

    /// <inheritdoc/>
    public override string Label => "Phone";

    /// <inheritdoc/>
    public override int Width => 3;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        try
        {
            var number = Plans.Parse(text, Country);
            if (Plans.IsValidNumber(number) && !number.HasExtension)
                return Value.From(Plans.Format(number, PhoneNumberFormat.E164));
        }
        catch (NumberParseException)
        {
            // Told below, in our own words.
        }

        return Parsed.Refused(
            $"“{text}” is not a telephone number. Write it with its area, or with + and the country's code, such as {Example}."
        );
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale)
    {
        try
        {
            var number = Plans.Parse(value.Text, null);
            return Plans.Format(
                number,
                Plans.GetRegionCodeForNumber(number) == Country ? PhoneNumberFormat.NATIONAL : PhoneNumberFormat.INTERNATIONAL
            );
        }
        catch (NumberParseException)
        {
            return value.Text;
        }
    }

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        base.Refuse(value)
        ?? (value.Text.StartsWith('+') && value.Text.Skip(1).All(char.IsAsciiDigit) ? null : $"“{value.Text}” is not a telephone number.");

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("phone", $"{column("")} ~ '^[+][0-9]{{3,15}}$'")];

    /// <inheritdoc/>
    public override JsonObject Schema() =>
        Nullable("string", description: "A telephone number in the form of ITU-T E.164, such as +358401234567.");

    private string Example =>
        Plans.GetExampleNumber(Country) is { } number ? Plans.Format(number, PhoneNumberFormat.INTERNATIONAL) : "+358 41 2345678";
}
