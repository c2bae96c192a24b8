using System.Text.Json;
using System.Text.Json.Serialization;
using Pelto.Core.Values;

namespace Pelto.Core.Catalog;

/// <summary>What is said about a field, whether the host describes it or an administrator defines it.</summary>
public abstract record FieldContent
{
    /// <summary>The lasting technical name: a plain identifier, unique in its part.</summary>
    public string Code { get; init; } = "";

    /// <summary>What people read.</summary>
    public string Label { get; init; } = "";

    /// <summary>A short label for lists and columns; the label when not given.</summary>
    public string? Heading { get; init; }

    /// <summary>A sentence that tells people what to fill in.</summary>
    public string? Help { get; init; }

    /// <summary>The name of the kind: text, integer, decimal, date, yes_no, choice, link.</summary>
    public string Kind { get; init; } = "";

    /// <summary>For text: the longest that fits, in characters.</summary>
    public int? Length { get; init; }

    /// <summary>For decimals: all digits.</summary>
    public int? Digits { get; init; }

    /// <summary>For decimals: digits after the point.</summary>
    public int? Decimals { get; init; }

    /// <summary>For choices: what is offered, in order.</summary>
    public IReadOnlyList<Choice>? Choices { get; init; }

    /// <summary>For links: the code of the record type pointed to.</summary>
    public string? Target { get; init; }

    /// <summary>What a new record begins with, as a person would type it; <c>today</c> for dates.</summary>
    [JsonConverter(typeof(ScalarAsText))]
    public string? StartingValue { get; init; }

    /// <summary>True when a record cannot be saved without it.</summary>
    public bool Required { get; init; }
}

/// <summary>Reads a JSON number, boolean or text as text, so that <c>2</c> and <c>"2"</c> both say 2.</summary>
internal sealed class ScalarAsText : JsonConverter<string?>
{
    public override string? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) => reader.TokenType switch
    {
        JsonTokenType.Null => null,
        JsonTokenType.String => reader.GetString(),
        JsonTokenType.True => "yes",
        JsonTokenType.False => "no",
        JsonTokenType.Number => JsonElement.ParseValue(ref reader).GetRawText(),
        _ => throw new JsonException("A text, a number, true or false is wanted here."),
    };

    public override void Write(Utf8JsonWriter writer, string? value, JsonSerializerOptions options) => writer.WriteStringValue(value);
}
