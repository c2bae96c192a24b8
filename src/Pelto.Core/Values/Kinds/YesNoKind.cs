using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>Yes, no, or not answered.</summary>
public sealed record YesNoKind : FieldKind
{
    /// <inheritdoc/>
    public override int? Letters => 3;

    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => value.Yes ? "yes" : "no";

    /// <inheritdoc/>
    public override string Control => "yes_no";

    /// <inheritdoc/>
    public override bool IsShownAsText => true;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Word;

    /// <inheritdoc/>
    public override string Name => "yes_no";

    /// <inheritdoc/>
    public override string Label => "Yes or no";

    /// <inheritdoc/>
    public override DataType DataType => DataType.YesNo;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Boolean);

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        text.ToUpperInvariant() switch
        {
            "YES" or "Y" or "TRUE" or "1" => Value.From(true),
            "NO" or "N" or "FALSE" or "0" => Value.From(false),
            _ => Parsed.Refused($"“{text}” is neither yes nor no."),
        };

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => value.Yes ? "Yes" : "No";

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) =>
        json.ValueKind switch
        {
            JsonValueKind.Null => Value.Empty,
            JsonValueKind.True => Value.From(true),
            JsonValueKind.False => Value.From(false),
            JsonValueKind.String => Parse(json.GetString()),
            _ => WrongJson(json, "true or false"),
        };

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.DataType == DataType.YesNo ? JsonValue.Create(value.Yes) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("boolean");
}
