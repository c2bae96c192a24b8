using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>
/// References to several records of another type, in the order in which they were chosen. The database keeps a table of them beside the
/// field, with a foreign key for each.
/// </summary>
/// <param name="Target">The code of the record type that they point to.</param>
/// <param name="Clears">True when deleting a target takes it away here; false when it stays as long as a link points to it.</param>
public sealed record LinksKind(string Target, bool Clears = false) : FieldKind
{
    /// <inheritdoc/>
    public override string? TargetCode => Target;

    /// <summary>The most records that one field points to.</summary>
    public const int Most = 200;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Target, KindOption.ClearsWithTarget];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new LinksKind(Sizes.Target(options, refuse), options.ClearsWithTarget);

    /// <inheritdoc/>
    public override string Control => "links";

    /// <inheritdoc/>
    public override bool ClearsWithTarget => Clears;

    /// <inheritdoc/>
    public override string Name => "links";

    /// <inheritdoc/>
    public override string Label => "Several links";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Links;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.IntegerArray);

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    public override bool IsOrdered => false;

    /// <inheritdoc/>
    public override bool IsCompared => false;

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        value.Targets.Count > Most ? $"At most {Most.ToString(CultureInfo.InvariantCulture)} records fit here." : null;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        var ids = new List<long>();
        foreach (var part in text.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (!long.TryParse(part, NumberStyles.None, CultureInfo.InvariantCulture, out var id) || id == 0)
                return Parsed.Refused($"Nothing is found for “{part}”. Choose from the list that opens while you type.");
            ids.Add(id);
        }

        return Value.LinksTo(ids);
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) =>
        string.Join(';', value.Targets.Select(id => id.ToString(CultureInfo.InvariantCulture)));

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json)
    {
        if (json.ValueKind == JsonValueKind.Null)
            return Value.Empty;
        if (json.ValueKind != JsonValueKind.Array)
            return WrongJson(json, "A list of ids of records");
        var ids = new List<long>();
        foreach (var one in json.EnumerateArray())
        {
            if (one.ValueKind != JsonValueKind.Number || !one.TryGetInt64(out var id) || id <= 0)
                return Parsed.Refused(
                    one.ValueKind == JsonValueKind.String
                        ? $"Nothing is found for “{one.GetString()}”."
                        : "A list of ids of records is expected here."
                );
            ids.Add(id);
        }

        var value = Value.LinksTo(ids);
        return Refuse(value) is { } refusal ? Parsed.Refused(refusal) : value;
    }

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Links ? new JsonArray([.. value.Targets.Select(id => JsonValue.Create(id))]) : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("array", description: $"Ids of records of type {Target}, in order.");
        schema["items"] = new JsonObject { ["type"] = "integer" };
        return schema;
    }

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) => value.DataType == DataType.Links ? value.Targets.ToArray() : null;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> stored) => stored[0] is long[] ids ? Value.LinksTo(ids) : Value.Empty;
}
