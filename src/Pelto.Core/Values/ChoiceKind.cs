using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>One of the values that a choice field allows.</summary>
/// <param name="Code">What is kept; lasting.</param>
/// <param name="Label">What people read.</param>
public sealed record Choice(string Code, string Label);

/// <summary>One value out of a given list; its code is kept, its label is read.</summary>
/// <param name="Choices">In the order in which they are offered.</param>
public sealed record ChoiceKind(IReadOnlyList<Choice> Choices) : FieldKind
{
    /// <inheritdoc/>
    public override string Name => "choice";

    /// <inheritdoc/>
    public override string Label => "Choice";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Text;

    /// <inheritdoc/>
    public override ColumnType Column => ColumnType.Text;

    /// <inheritdoc/>
    public override int Width => Choices.Count > 0 && Choices.Max(choice => choice.Label.Length) > 16 ? 3 : 2;

    /// <inheritdoc/>
    protected override Parsed Read(string text) =>
        Find(text) is { } choice ? Value.Of(choice.Code) : Parsed.Refused($"“{text}” is not among the choices.");

    /// <inheritdoc/>
    protected override string Write(Value value) => Choices.FirstOrDefault(choice => choice.Code == value.Text)?.Label ?? value.Text;

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        Choices.Any(choice => choice.Code == value.Text) ? null : $"“{value.Text}” is not among the choices.";

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(string column) =>
        [new("choice", $"{column} in ({string.Join(", ", Choices.Select(choice => $"'{choice.Code.Replace("'", "''", StringComparison.Ordinal)}'"))})")];

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => json.ValueKind switch
    {
        JsonValueKind.Null => Value.Empty,
        JsonValueKind.String => Parse(json.GetString()),
        _ => WrongJson(json, "The code of a choice"),
    };

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Text ? value.Text : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("string");
        var codes = new JsonArray();
        foreach (var choice in Choices) codes.Add(choice.Code);
        codes.Add(null);
        schema["enum"] = codes;
        return schema;
    }

    /// <summary>Equal when the choices are, so that an unchanged definition is seen as such.</summary>
    public bool Equals(ChoiceKind? other) => other is not null && Choices.SequenceEqual(other.Choices);

    /// <inheritdoc/>
    public override int GetHashCode() => Choices.Aggregate(17, (hash, choice) => HashCode.Combine(hash, choice));

    // A code comes before a label: a label may read like another choice's code.
    private Choice? Find(string text) =>
        Choices.FirstOrDefault(choice => choice.Code == text)
        ?? Choices.FirstOrDefault(choice => string.Equals(choice.Label, text, StringComparison.OrdinalIgnoreCase));
}
