using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>An amount of money with its currency; each currency has its own number of decimals.</summary>
/// <param name="Digits">All digits of the amount together.</param>
/// <param name="Allowed">The ISO 4217 codes that it may be in; the first stands in new records.</param>
public sealed record MoneyKind(int Digits, IReadOnlyList<string> Allowed) : FieldKind
{
    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => WriteAmount(value, locale);

    /// <inheritdoc/>
    public override bool IsSummable => true;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Currencies, KindOption.Digits];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse)
    {
        var codes = options.Currencies is { Count: > 0 } given ? given : ["EUR"];
        if (codes.FirstOrDefault(code => !Currencies.IsKnown(code)) is { } unknown)
            refuse("currencies", $"“{unknown}” is not a currency of ISO 4217.");
        if (Sizes.HasTwice(codes))
            refuse("currencies", "A currency is there twice.");
        return new MoneyKind(Math.Max(4, Sizes.Digits(options, refuse, 15)), codes);
    }

    /// <inheritdoc/>
    public override string Control => "amount";

    /// <inheritdoc/>
    public override bool IsShownAsText => true;

    /// <inheritdoc/>
    public override IReadOnlyList<(string Code, string Symbol)> UnitChoices { get; } = [.. Allowed.Select(code => (code, code))];

    /// <inheritdoc/>
    public override string Name => "money";

    /// <inheritdoc/>
    public override string Label => "Money";

    /// <inheritdoc/>
    public override string Description =>
        $"money in {string.Join(", ", Allowed.Take(4))}{(Allowed.Count > 4 ? $" and {Allowed.Count - 4} more" : "")}";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Money;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = [new("", ColumnType.Numeric), new("_currency", ColumnType.Text)];

    /// <inheritdoc/>
    public override string Common => "_currency";

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        if (!Amounts.TrySplit(text, locale, out var amount, out var unit))
            return Amounts.Refused(
                text,
                locale,
                $"“{text}” is not an amount of money. Write it such as {Numbers.Format(1234.5m, 2, locale)} {Allowed[0]}."
            );
        if (Currencies.WithSign(unit) is { Count: > 0 } signed)
        {
            string[] meant = [.. signed.Where(Allowed.Contains)];
            if (meant.Length != 1)
                return Parsed.Refused(
                    $"“{unit}” stands for {(meant.Length == 0 ? "none of the currencies here" : "several currencies")}. "
                        + $"Write three letters: {string.Join(", ", (meant.Length == 0 ? Allowed : meant).Take(8))}."
                );
            unit = meant[0];
        }

        var code = unit.Length == 0 ? Allowed[0] : unit.ToUpperInvariant();
        return Currencies.IsKnown(code)
            ? Value.Money(amount, code)
            : Parsed.Refused($"“{unit}” is not a currency. A currency is three letters, such as {Allowed[0]}.");
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => $"{WriteAmount(value, locale)}\u00a0{value.Unit}";

    /// <summary>The amount alone, with the decimals of its currency.</summary>
    private static string WriteAmount(Value value, Locale locale) =>
        Numbers.Format(Numbers.Shortest(value.Amount), Currencies.DecimalsOf(value.Unit), locale);

    /// <inheritdoc/>
    public override Value Fit(Value value) => value.DataType == DataType.Money ? Rounded(value, Currencies.DecimalsOf(value.Unit)) : value;

    /// <inheritdoc/>
    public override string FitSql(string text, string? unit) =>
        Allowed.All(code => Currencies.DecimalsOf(code) == 2)
            ? RoundedSql(text, 2)
            : $"round({text}, CASE {unit} {string.Concat(Allowed.Where(code => Currencies.DecimalsOf(code) != 2).Select(code => string.Create(CultureInfo.InvariantCulture, $"WHEN {Quoted(code)} THEN {Currencies.DecimalsOf(code)} ")))}ELSE 2 END)";

    /// <inheritdoc/>
    public override string? Refuse(Value value)
    {
        if (!Allowed.Contains(value.Unit))
            return $"{value.Unit} is not taken here. Use {string.Join(", ", Allowed.Take(8))}.";
        var decimals = Currencies.DecimalsOf(value.Unit);
        if (Numbers.Shortest(value.Amount).Scale > decimals)
            return decimals == 0
                ? $"{value.Unit} has no decimals."
                : string.Create(CultureInfo.InvariantCulture, $"{value.Unit} has {decimals} decimals.");
        return Amounts.Refuse(value.Amount, Digits, 3);
    }

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column)
    {
        var odd = Allowed.Where(code => Currencies.DecimalsOf(code) != 2).GroupBy(Currencies.DecimalsOf).OrderBy(group => group.Key);
        var decimals = string.Concat(
            odd.Select(group =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"WHEN {column("_currency")} IN ({string.Join(", ", group.Order(StringComparer.Ordinal).Select(Quoted))}) THEN {group.Key} "
                )
            )
        );
        return
        [
            new("size", string.Create(CultureInfo.InvariantCulture, $"abs({column("")}) < 1e{Digits - 3}")),
            new("scale", $"scale(trim_scale({column("")})) <= {(decimals.Length == 0 ? "2" : $"CASE {decimals}ELSE 2 END")}"),
            new(
                "currency",
                $"({column("")} IS NULL) = ({column("_currency")} IS NULL) "
                    + $"AND ({column("_currency")} IS NULL OR {column("_currency")} IN "
                    + $"({string.Join(", ", Allowed.Order(StringComparer.Ordinal).Select(Quoted))}))"
            ),
        ];
    }

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) =>
        value.DataType != DataType.Money ? null
        : at == 0 ? value.Amount
        : value.Unit;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> stored) =>
        stored[0] is decimal amount && stored[1] is string code ? Value.Money(amount, code) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from)
    {
        var changed = value.DataType switch
        {
            DataType.Number => Value.Money(value.Number, Allowed[0]),
            DataType.Quantity => Value.Money(value.Amount, Allowed[0]),
            _ => value,
        };
        return base.Convert(changed, changed == value ? from : this);
    }

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) =>
        Amounts.TryRead(json, "currency", Allowed[0], out var amount, out var currency) ? Judged(Value.Money(amount, currency))
        : json.ValueKind == JsonValueKind.Object ? Parsed.Refused("Money is written {\"amount\": 12.5, \"currency\": \"EUR\"}.")
        : FromText(json, "Money such as {\"amount\": 12.5, \"currency\": \"EUR\"}");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Money ? new JsonObject { ["amount"] = value.Amount, ["currency"] = value.Unit } : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("object");
        schema["required"] = new JsonArray("amount");
        schema["properties"] = new JsonObject
        {
            ["amount"] = new JsonObject { ["type"] = "number" },
            ["currency"] = new JsonObject { ["enum"] = new JsonArray([.. Allowed.Select(code => JsonValue.Create(code))]) },
        };
        return schema;
    }

    /// <summary>Equal when what is allowed is, so that an unchanged definition is seen as such.</summary>
    public bool Equals(MoneyKind? other) => other is not null && Digits == other.Digits && Allowed.SequenceEqual(other.Allowed);

    /// <inheritdoc/>
    public override int GetHashCode() => Allowed.Aggregate(Digits, HashCode.Combine);

    private Parsed Judged(Value value) => Refuse(value) is { } refusal ? Parsed.Refused(refusal) : value;
}

/// <summary>An amount with its unit; the units of one field measure the same thing and convert into one another.</summary>
/// <param name="Digits">All digits of the amount together.</param>
/// <param name="Decimals">Digits after the point.</param>
/// <param name="Allowed">The units that it may be in; the first stands in new records.</param>
public sealed record QuantityKind(int Digits, int Decimals, IReadOnlyList<Unit> Allowed) : FieldKind
{
    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => WriteAmount(value, locale);

    /// <inheritdoc/>
    public override bool IsSummable => true;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Units, KindOption.Digits, KindOption.Decimals];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse)
    {
        var codes = options.Units is { Count: > 0 } given ? given : ["KGM"];
        if (codes.FirstOrDefault(code => Units.Find(code) is null) is { } unknown)
            refuse("units", $"“{unknown}” is not a known unit. Units are codes of UN/ECE Recommendation 20, such as KGM for kilograms.");
        if (Sizes.HasTwice(codes))
            refuse("units", "A unit is there twice.");
        var units = codes.Select(Units.Find).OfType<Unit>().ToList();
        if (units.Find(unit => unit.Dimension != units[0].Dimension) is { } other)
        {
            refuse(
                "units",
                "The units of one field measure the same thing; "
                    + $"{units[0].Name} measures {units[0].Dimension}, {other.Name} {other.Dimension}."
            );
        }

        var (digits, decimals) = Sizes.Decimal(options, refuse);
        return new QuantityKind(digits, decimals, units.Count > 0 ? units : [Units.All[0]]);
    }

    /// <inheritdoc/>
    public override string Control => "amount";

    /// <inheritdoc/>
    public override bool IsShownAsText => true;

    /// <inheritdoc/>
    public override IReadOnlyList<(string Code, string Symbol)> UnitChoices { get; } =
    [.. Allowed.Select(unit => (unit.Code, unit.Symbol))];

    /// <inheritdoc/>
    public override string Name => "quantity";

    /// <inheritdoc/>
    public override string Label => "Quantity";

    /// <inheritdoc/>
    public override string Description => $"quantity in {string.Join(", ", Allowed.Select(unit => unit.Symbol))}";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Quantity;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = [new("", ColumnType.Numeric), new("_unit", ColumnType.Text)];

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        if (!Amounts.TrySplit(text, locale, out var amount, out var unit))
            return Amounts.Refused(text, locale, $"“{text}” is not a quantity. Write it such as 12 {Allowed[0].Symbol}.");
        var found = unit.Length == 0 ? Allowed[0] : Units.Named(unit, Allowed);
        return found is not null
            ? Value.Quantity(amount, found.Code)
            : Parsed.Refused($"“{unit}” is not a unit of this field. It takes {string.Join(", ", Allowed.Select(each => each.Symbol))}.");
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) =>
        $"{WriteAmount(value, locale)}\u00a0{Units.Find(value.Unit)?.Symbol ?? value.Unit}";

    /// <summary>The amount alone.</summary>
    private static string WriteAmount(Value value, Locale locale) => Numbers.Format(Numbers.Shortest(value.Amount), 0, locale);

    /// <inheritdoc/>
    public override Value Fit(Value value) => Rounded(value, Decimals);

    /// <inheritdoc/>
    public override string FitSql(string text, string? unit) => RoundedSql(text, Decimals);

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        Allowed.All(unit => unit.Code != value.Unit)
            ? $"{Units.Find(value.Unit)?.Symbol ?? value.Unit} is not a unit of this field. "
                + $"It takes {string.Join(", ", Allowed.Select(each => each.Symbol))}."
            : Amounts.Refuse(value.Amount, Digits, Decimals);

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) =>
        [
            .. Amounts.Checks(column(""), Digits, Decimals),
            new(
                "unit",
                $"({column("")} IS NULL) = ({column("_unit")} IS NULL) "
                    + $"AND ({column("_unit")} IS NULL OR {column("_unit")} IN "
                    + $"({string.Join(", ", Allowed.Select(unit => unit.Code).Order(StringComparer.Ordinal).Select(Quoted))}))"
            ),
        ];

    /// <inheritdoc/>
    public override string OrderSql(ColumnNames column) =>
        Allowed.Count == 1
            ? $"({column("")} * {Factor(Allowed[0])})"
            : $"({column("")} * CASE {column("_unit")} {string.Concat(Allowed.Select(unit => $"WHEN {Quoted(unit.Code)} THEN {Factor(unit)} "))}END)";

    /// <inheritdoc/>
    public override object? OrderKey(Value value) =>
        value.DataType == DataType.Quantity && Units.Find(value.Unit) is { } unit ? value.Amount * unit.Factor : null;

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) =>
        value.DataType != DataType.Quantity ? null
        : at == 0 ? value.Amount
        : value.Unit;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> stored) =>
        stored[0] is decimal amount && stored[1] is string code ? Value.Quantity(amount, code) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from)
    {
        var changed = value.DataType switch
        {
            DataType.Number => Value.Quantity(value.Number, Allowed[0].Code),
            DataType.Money => Value.Quantity(value.Amount, Allowed[0].Code),
            DataType.Quantity
                when Allowed.All(unit => unit.Code != value.Unit)
                    && Units.Find(value.Unit) is { } old
                    && old.Dimension == Allowed[0].Dimension => Value.Quantity(
                Numbers.Shortest(Units.Convert(value.Amount, old, Allowed[0])),
                Allowed[0].Code
            ),
            _ => value,
        };
        return base.Convert(changed, changed == value ? from : this);
    }

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) =>
        Amounts.TryRead(json, "unit", Allowed[0].Code, out var amount, out var unit) ? Judged(Value.Quantity(amount, unit))
        : json.ValueKind == JsonValueKind.Object ? Parsed.Refused("A quantity is written {\"amount\": 12.5, \"unit\": \"KGM\"}.")
        : FromText(json, "A quantity such as {\"amount\": 12.5, \"unit\": \"KGM\"}");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Quantity ? new JsonObject { ["amount"] = value.Amount, ["unit"] = value.Unit } : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("object", description: "Units are codes of UN/ECE Recommendation 20.");
        schema["required"] = new JsonArray("amount");
        schema["properties"] = new JsonObject
        {
            ["amount"] = new JsonObject { ["type"] = "number" },
            ["unit"] = new JsonObject { ["enum"] = new JsonArray([.. Allowed.Select(unit => JsonValue.Create(unit.Code))]) },
        };
        return schema;
    }

    /// <summary>Equal when what is allowed is, so that an unchanged definition is seen as such.</summary>
    public bool Equals(QuantityKind? other) =>
        other is not null && Digits == other.Digits && Decimals == other.Decimals && Allowed.SequenceEqual(other.Allowed);

    /// <inheritdoc/>
    public override int GetHashCode() => Allowed.Aggregate(HashCode.Combine(Digits, Decimals), HashCode.Combine);

    private Parsed Judged(Value value) => Refuse(value) is { } refusal ? Parsed.Refused(refusal) : value;

    private static string Factor(Unit unit) => unit.Factor.ToString(CultureInfo.InvariantCulture);
}
