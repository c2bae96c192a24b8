using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>A line of text of at most <paramref name="Length"/> characters.</summary>
/// <param name="Length">The longest that it may be, counted in characters as PostgreSQL counts them (code points).</param>
public sealed record TextKind(int Length) : FieldKind
{
    /// <summary>The most that a length can be set to.</summary>
    public const int LongestLength = 4000;

    /// <inheritdoc/>
    public override string Name => "text";

    /// <inheritdoc/>
    public override string Label => "Text";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Text;

    /// <inheritdoc/>
    public override ColumnType Column => ColumnType.Text;

    /// <inheritdoc/>
    public override int Width => Length switch { <= 12 => 2, <= 30 => 3, <= 60 => 4, _ => 6 };

    /// <inheritdoc/>
    protected override Parsed Read(string text) => Value.Of(text);

    /// <inheritdoc/>
    protected override string Write(Value value) => value.Text;

    /// <inheritdoc/>
    public override string? Refuse(Value value)
    {
        var text = value.Text;
        if (text.Any(char.IsControl)) return "A line break or another control character cannot stand here.";
        if (!IsWellFormed(text)) return "This text holds half a character; please type it again.";
        var length = Count(text);
        return length > Length ? string.Create(CultureInfo.InvariantCulture, $"At most {Length} characters fit; this has {length}.") : null;
    }

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(string column) =>
        [new("length", string.Create(CultureInfo.InvariantCulture, $"char_length({column}) <= {Length}"))];

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => json.ValueKind switch
    {
        JsonValueKind.Null => Value.Empty,
        JsonValueKind.String => Parse(json.GetString()),
        _ => WrongJson(json, "A text"),
    };

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Text ? value.Text : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("string");
        schema["maxLength"] = Length;
        return schema;
    }

    private static int Count(string text) => text.EnumerateRunes().Count();

    private static bool IsWellFormed(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (!char.IsSurrogate(text[i])) continue;
            if (!char.IsSurrogatePair(text, i)) return false;
            i++;
        }

        return true;
    }
}
