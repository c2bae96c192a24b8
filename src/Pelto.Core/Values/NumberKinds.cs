using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>Whole numbers, such as a count of copies, of up to 15 digits so that every JSON reader keeps them exact.</summary>
public sealed record IntegerKind : FieldKind
{
    private const decimal Largest = 999_999_999_999_999;

    /// <inheritdoc/>
    public override string Name => "integer";

    /// <inheritdoc/>
    public override string Label => "Integer";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Number;

    /// <inheritdoc/>
    public override ColumnType Column => ColumnType.Integer;

    /// <inheritdoc/>
    protected override Parsed Read(string text) =>
        Numbers.TryParse(text, out var number) ? Value.Of(number) : Parsed.Refused($"“{text}” is not a whole number.");

    /// <inheritdoc/>
    protected override string Write(Value value) => Numbers.Format(value.Number);

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        decimal.Truncate(value.Number) != value.Number ? $"Only a whole number fits; {Numbers.Format(value.Number)} has decimals."
        : Math.Abs(value.Number) > Largest ? "At most 15 digits fit." : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(string column) => [new("size", $"abs({column}) <= 999999999999999")];

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => DecimalKind.NumberFromJson(this, json, "A whole number");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Number ? JsonValue.Create(decimal.ToInt64(value.Number)) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("integer");
}

/// <summary>Numbers with a fixed count of decimals, such as a load in tonnes.</summary>
/// <param name="Digits">All digits together, before and after the point.</param>
/// <param name="Decimals">Digits after the point.</param>
public sealed record DecimalKind(int Digits, int Decimals) : FieldKind
{
    /// <summary>The most digits that a definition may ask for; decimal arithmetic stays exact below it.</summary>
    public const int MostDigits = 18;

    /// <inheritdoc/>
    public override string Name => "decimal";

    /// <inheritdoc/>
    public override string Label => "Decimal";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Number;

    /// <inheritdoc/>
    public override ColumnType Column => ColumnType.Numeric;

    /// <inheritdoc/>
    protected override Parsed Read(string text) =>
        Numbers.TryParse(text, out var number) ? Value.Of(number) : Parsed.Refused($"“{text}” is not a number.");

    /// <inheritdoc/>
    protected override string Write(Value value) => Numbers.Format(Shortest(value.Number), Decimals);

    /// <inheritdoc/>
    public override string? Refuse(Value value)
    {
        if (Shortest(value.Number).Scale > Decimals)
            return string.Create(CultureInfo.InvariantCulture, $"At most {Decimals} digits fit after the point.");
        return Math.Abs(value.Number) >= PowerOfTen(Digits - Decimals)
            ? string.Create(CultureInfo.InvariantCulture, $"At most {Digits - Decimals} digits fit before the point.") : null;
    }

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(string column) =>
    [
        new("size", string.Create(CultureInfo.InvariantCulture, $"abs({column}) < 1e{Digits - Decimals}")),
        new("scale", string.Create(CultureInfo.InvariantCulture, $"scale(trim_scale({column})) <= {Decimals}")),
    ];

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => NumberFromJson(this, json, "A number");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Number ? JsonValue.Create(value.Number) : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("number");
        schema["multipleOf"] = 1 / PowerOfTen(Decimals);
        return schema;
    }

    internal static Parsed NumberFromJson(FieldKind kind, JsonElement json, string wanted) => json.ValueKind switch
    {
        JsonValueKind.Null => Value.Empty,
        JsonValueKind.String => kind.Parse(json.GetString()),
        JsonValueKind.Number when json.TryGetDecimal(out var number) =>
            kind.Refuse(Value.Of(number)) is { } refusal ? Parsed.Refused(refusal) : Value.Of(number),
        JsonValueKind.Number => Parsed.Refused("This number is larger than fits."),
        _ => kind.WrongJsonFor(json, wanted),
    };

    private static decimal Shortest(decimal number) => number / 1.0000000000000000000000000000m;

    private static decimal PowerOfTen(int power)
    {
        var result = 1m;
        for (var i = 0; i < power; i++) result *= 10;
        return result;
    }
}
