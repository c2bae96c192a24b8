using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>A day of the calendar, written as ISO 8601 has it.</summary>
public sealed record DateKind : FieldKind
{
    private static readonly string[] Forms = ["yyyy-M-d", "yyyyMMdd", "d.M.yyyy", "d/M/yyyy"];

    /// <inheritdoc/>
    public override string Name => "date";

    /// <inheritdoc/>
    public override string Label => "Date";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Date;

    /// <inheritdoc/>
    public override ColumnType Column => ColumnType.Date;

    /// <inheritdoc/>
    protected override Parsed Read(string text) =>
        DateOnly.TryParseExact(text, Forms, CultureInfo.InvariantCulture, DateTimeStyles.None, out var date)
            ? Value.Of(date)
            : Parsed.Refused($"“{text}” is not a date. Write year, month and day, such as 2026-11-18.");

    /// <inheritdoc/>
    protected override string Write(Value value) => value.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => json.ValueKind switch
    {
        JsonValueKind.Null => Value.Empty,
        JsonValueKind.String => Parse(json.GetString()),
        _ => WrongJson(json, "A date such as \"2026-11-18\""),
    };

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Date ? Write(value) : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("string");
        schema["format"] = "date";
        return schema;
    }
}
