using System.Text.Json;
using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>What is said about a field, whether the host describes it or an administrator defines it.</summary>
public abstract record FieldContent : KindOptions
{
    /// <summary>The lasting technical name: a plain identifier, unique in its part.</summary>
    public string Code { get; init; } = "";

    /// <summary>What people read.</summary>
    public string Label { get; init; } = "";

    /// <summary>A short label for lists and columns; the label when not given.</summary>
    public string? Heading { get; init; }

    /// <summary>A sentence that tells people what to fill in.</summary>
    public string? Help { get; init; }

    /// <summary>What people of other languages read, by two-letter language (ISO 639-1).</summary>
    public IReadOnlyDictionary<string, LocalText>? Texts { get; init; }

    /// <summary>What fills it, as a formula over the record, its lines and what its links point to; people do when not given.</summary>
    public string? Formula { get; init; }

    /// <summary>For what a formula fills: when it does, and so whether people may change it.</summary>
    public FillMode Fills { get; init; }

    /// <summary>The query that fills it, and when.</summary>
    public QueryUse? Query { get; init; }

    /// <summary>For what is filled when its source is chosen: true when nobody may change it then.</summary>
    public bool Locked { get; init; }

    /// <summary>For what is seen through a link: the way there by codes, such as <c>customer.credit_limit</c>.</summary>
    public string? Path { get; init; }

    /// <summary>
    /// For links: which records are offered, as a formula over the candidate's fields and <c>record</c>, the record at hand; all when not
    /// given.
    /// </summary>
    public string? Offers { get; init; }

    /// <summary>For links: what people read when a record is not among those.</summary>
    public string? OffersMessage { get; init; }

    /// <summary>
    /// For links: codes of fields of the record pointed to that stand beside its number and name where one chooses; it is found by those
    /// that hold text too.
    /// </summary>
    public IReadOnlyList<string>? Finds { get; init; }

    /// <summary>What a new record begins with, as a person would type it; <c>today</c> for dates.</summary>
    [JsonConverter(typeof(ScalarAsText))]
    public string? DefaultValue { get; init; }

    /// <summary>True when a record cannot be saved without it.</summary>
    public bool Required { get; init; }

    /// <summary>A condition, as a formula, under which a record cannot be saved without it.</summary>
    public string? RequiredWhen { get; init; }

    /// <summary>
    /// A condition, as a formula, under which it is shown on its record's screen; always when not given. What it holds stays, and it is not
    /// demanded while it is not shown.
    /// </summary>
    public string? ShownWhen { get; init; }

    /// <summary>The least that is taken, written as a person would type it.</summary>
    [JsonConverter(typeof(ScalarAsText))]
    public string? Minimum { get; init; }

    /// <summary>The greatest that is taken.</summary>
    [JsonConverter(typeof(ScalarAsText))]
    public string? Maximum { get; init; }

    /// <summary>What people read when a text does not fit its pattern.</summary>
    public string? PatternMessage { get; init; }

    /// <summary>True when no two records may have the same value.</summary>
    public bool Unique { get; init; }

    /// <summary>True when the database keeps an index of it, for lists.</summary>
    public bool Indexed { get; init; }

    /// <summary>
    /// For numbers: true when the sum of several says nothing, as of prices, rates and shares; lists in groups give none then.
    /// </summary>
    public bool NoTotals { get; init; }

    /// <summary>A formula that must hold, or the record is not saved.</summary>
    public string? Check { get; init; }

    /// <summary>What people read when it does not hold.</summary>
    public string? CheckMessage { get; init; }
}

/// <summary>What people of one language read for a field.</summary>
/// <param name="Label">Instead of its label.</param>
/// <param name="Heading">Instead of its column heading.</param>
/// <param name="Help">Instead of its help text.</param>
public sealed record LocalText(string? Label = null, string? Heading = null, string? Help = null);

/// <summary>Reads a JSON number, boolean or text as text, so that <c>2</c> and <c>"2"</c> both say 2.</summary>
internal sealed class ScalarAsText : JsonConverter<string?>
{
    public override string? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        reader.TokenType switch
        {
            JsonTokenType.Null => null,
            JsonTokenType.String => reader.GetString(),
            JsonTokenType.True => "yes",
            JsonTokenType.False => "no",
            JsonTokenType.Number => JsonElement.ParseValue(ref reader).GetRawText(),
            _ => throw new JsonException("A text, a number, true or false is expected here."),
        };

    public override void Write(Utf8JsonWriter writer, string? value, JsonSerializerOptions options) => writer.WriteStringValue(value);
}
