using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>Whole numbers, such as a count of copies, of up to 15 digits so that every JSON reader keeps them exact.</summary>
public sealed record IntegerKind : FieldKind
{
    /// <inheritdoc/>
    public override string? InputMode => "numeric";

    /// <inheritdoc/>
    public override bool IsSummable => true;

    private const decimal Largest = 999_999_999_999_999;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Figure;

    /// <inheritdoc/>
    public override string Name => "integer";

    /// <inheritdoc/>
    public override string Label => "Integer";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Number;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Integer);

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Numbers.TryParse(text, out var number, locale)
            ? Value.From(number)
            : Parsed.Refused(Numbers.TwoWays(text, locale) ?? $"“{text}” is not a whole number.");

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => Numbers.Format(Numbers.Shortest(value.Number), 0, locale);

    /// <inheritdoc/>
    public override double? MaxNumber => (double)Largest;

    /// <inheritdoc/>
    public override Value Fit(Value value) => Rounded(value, 0);

    /// <inheritdoc/>
    public override string FitSql(string text, string? unit) => RoundedSql(text, 0);

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        decimal.Truncate(value.Number) != value.Number ? $"Only a whole number fits; {Numbers.Format(value.Number)} has decimals."
        : Math.Abs(value.Number) > Largest ? "At most 15 digits fit."
        : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("size", $"abs({column("")}) <= 999999999999999")];

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        from is PhoneKind or IdentifierKind && !value.IsEmpty
            ? Parsed.Refused($"“{from.Format(value)}” is a name made of digits, not a number.")
            : base.Convert(Amounts.NumberIn(value), from is MoneyKind or QuantityKind ? this : from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromNumber(json, "A whole number");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Number ? JsonValue.Create(decimal.ToInt64(value.Number)) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("integer");
}

/// <summary>Numbers with a fixed count of decimals, such as a load in tonnes.</summary>
/// <param name="Digits">All digits together, before and after the point.</param>
/// <param name="Decimals">Digits after the point.</param>
public sealed record DecimalKind(int Digits, int Decimals) : FieldKind
{
    /// <inheritdoc/>
    public override string? InputMode => "decimal";

    /// <inheritdoc/>
    public override bool IsSummable => true;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Digits, KindOption.Decimals];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse)
    {
        var (digits, decimals) = Sizes.Decimal(options, refuse);
        return new DecimalKind(digits, decimals);
    }

    /// <inheritdoc/>
    public override string Resized(FieldKind was) =>
        string.Create(CultureInfo.InvariantCulture, $"takes {Digits} digits, {Decimals} of them after the point");

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Figure;

    /// <inheritdoc/>
    public override string Name => "decimal";

    /// <inheritdoc/>
    public override string Label => "Decimal";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Number;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Numeric);

    /// <inheritdoc/>
    public override string Description =>
        string.Create(CultureInfo.InvariantCulture, $"decimal, {Digits} digits, {Decimals} after the point");

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Numbers.TryParse(text, out var number, locale)
            ? Value.From(number)
            : Parsed.Refused(Numbers.TwoWays(text, locale) ?? $"“{text}” is not a number.");

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => Numbers.Format(Numbers.Shortest(value.Number), Decimals, locale);

    /// <inheritdoc/>
    public override bool IsBoundlessLive => true;

    /// <inheritdoc/>
    public override double? MaxNumber => Math.Pow(10, Digits - Decimals);

    /// <inheritdoc/>
    public override Value Fit(Value value) => Rounded(value, Decimals);

    /// <inheritdoc/>
    public override string FitSql(string text, string? unit) => RoundedSql(text, Decimals);

    /// <inheritdoc/>
    public override string? Refuse(Value value) => Amounts.Refuse(value.Number, Digits, Decimals);

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => Amounts.Checks(column(""), Digits, Decimals);

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        from is PhoneKind or IdentifierKind && !value.IsEmpty
            ? Parsed.Refused($"“{from.Format(value)}” is a name made of digits, not a number.")
            : base.Convert(Amounts.NumberIn(value), from is MoneyKind or QuantityKind ? this : from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromNumber(json, "A number");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.DataType == DataType.Number ? JsonValue.Create(value.Number) : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("number");
        schema["multipleOf"] = 1 / Numbers.PowerOfTen(Decimals);
        return schema;
    }
}

/// <summary>
/// A share in hundredths. What is kept is the share itself: 12.5 % is 0.125, so that formulas multiply by it as it is (OpenFormula 5.7).
/// </summary>
/// <param name="Decimals">Digits after the point of the percentage as people read it.</param>
public sealed record PercentKind(int Decimals) : FieldKind
{
    /// <inheritdoc/>
    public override string? InputMode => "decimal";

    private const int Digits = 9;
    private const int MaxDecimals = 6;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Decimals];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse)
    {
        var decimals = options.Decimals ?? 1;
        if (decimals is < 0 or > MaxDecimals)
            refuse("decimals", string.Create(CultureInfo.InvariantCulture, $"There can be 0 to {MaxDecimals} digits after the point."));
        return new PercentKind(Math.Clamp(decimals, 0, MaxDecimals));
    }

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Figure;

    /// <inheritdoc/>
    public override string Name => "percent";

    /// <inheritdoc/>
    public override string Label => "Percent";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Number;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Numeric);

    /// <inheritdoc/>
    public override string Description => string.Create(CultureInfo.InvariantCulture, $"percent, {Decimals} after the point");

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Numbers.TryParse(text.Trim('%', ' ', '\u00a0', '\u202f'), out var number, locale)
            ? Value.From(number / 100)
            : Parsed.Refused(Numbers.TwoWays(text.Trim('%', ' ', '\u00a0', '\u202f'), locale) ?? $"“{text}” is not a percentage.");

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) =>
        Numbers.Format(Numbers.Shortest(value.Number * 100), Decimals, locale)
        + (locale.Culture.NumberFormat.PercentPositivePattern == 1 && !locale.IsInternational ? "%" : "\u00a0%");

    /// <inheritdoc/>
    public override bool IsBoundlessLive => true;

    /// <inheritdoc/>
    public override Value Fit(Value value) => Rounded(value, Decimals + 2);

    /// <inheritdoc/>
    public override string FitSql(string text, string? unit) => RoundedSql(text, Decimals + 2);

    /// <inheritdoc/>
    public override string? Refuse(Value value) => Amounts.Refuse(value.Number * 100, Digits, Decimals);

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => Amounts.Checks(column(""), Digits, Decimals + 2);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) =>
        json.ValueKind == JsonValueKind.String ? Parse(json.GetString()) : FromNumber(json, "A share such as 0.125");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Number ? JsonValue.Create(Numbers.Shortest(value.Number)) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("number", description: "A share: 0.125 is 12.5 %.");
}

/// <summary>What numbers of all kinds share.</summary>
internal static class Amounts
{
    public static string? Refuse(decimal number, int digits, int decimals)
    {
        if (Numbers.Shortest(number).Scale > decimals)
            return decimals == 0
                ? "Only a whole number fits here."
                : string.Create(CultureInfo.InvariantCulture, $"At most {decimals} digits fit after the point.");
        return Math.Abs(number) >= Numbers.PowerOfTen(digits - decimals)
            ? string.Create(CultureInfo.InvariantCulture, $"At most {digits - decimals} digits fit before the point.")
            : null;
    }

    public static IEnumerable<ColumnCheck> Checks(string column, int digits, int decimals) =>
        [
            new("size", string.Create(CultureInfo.InvariantCulture, $"abs({column}) < 1e{digits - decimals}")),
            new("scale", string.Create(CultureInfo.InvariantCulture, $"scale(trim_scale({column})) <= {decimals}")),
        ];

    // The number in an amount with a unit, when a field changes to a plain number: the unit is what is lost.
    public static Value NumberIn(Value value) => value.DataType is DataType.Money or DataType.Quantity ? Value.From(value.Amount) : value;

    // {"amount": 12, "unit": "KGM"}, without its unit, or a plain number.
    public static bool TryRead(JsonElement json, string unitName, string usual, out decimal amount, out string unit)
    {
        (amount, unit) = (0, usual);
        if (json.ValueKind == JsonValueKind.Number)
            return json.TryGetDecimal(out amount);
        if (json.ValueKind != JsonValueKind.Object || !json.TryGetProperty("amount", out var figure))
            return false;
        if (json.TryGetProperty(unitName, out var code) && code.ValueKind == JsonValueKind.String)
            unit = code.GetString()!;
        return figure.ValueKind == JsonValueKind.Number && figure.TryGetDecimal(out amount);
    }

    // "12 kg", "kg 12" or "12": the figure, and what stands beside it.
    public static bool TrySplit(string text, Locale locale, out decimal amount, out string unit)
    {
        (var figure, unit) = Split(text);
        return Numbers.TryParse(figure, out amount, locale);
    }

    /// <summary>Why that is no amount: a sentence, or that its figure could be two.</summary>
    public static Parsed Refused(string text, Locale locale, string otherwise) =>
        Parsed.Refused(Numbers.TwoWays(Split(text).Figure, locale) ?? otherwise);

    private static (string Figure, string Unit) Split(string text)
    {
        text = text.Trim();
        var first = text.Length > 0 && Numbers.IsOfUnit(text[0]);
        var cut = first
            ? text.IndexOfAny(['0', '1', '2', '3', '4', '5', '6', '7', '8', '9', '-', '\u2212'])
            : text.TakeWhile(c => !Numbers.IsOfUnit(c)).Count();
        if (cut < 0)
            return ("", text);
        return first ? (text[cut..], text[..cut].Trim()) : (text[..cut], text[cut..].Trim());
    }
}
