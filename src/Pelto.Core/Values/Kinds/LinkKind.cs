using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>A reference to a record of another type; a foreign key in the database.</summary>
/// <param name="Target">The code of the record type that it points to.</param>
/// <param name="Clears">
/// True when deleting the target leaves the link empty; false when the target stays as long as a link points to it.
/// </param>
public sealed record LinkKind(string Target, bool Clears = false) : FieldKind
{
    /// <inheritdoc/>
    public override string? TargetCode => Target;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Target, KindOption.ClearsWithTarget];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new LinkKind(Sizes.Target(options, refuse), options.ClearsWithTarget);

    /// <inheritdoc/>
    public override string Control => "link";

    /// <inheritdoc/>
    public override bool ClearsWithTarget => Clears;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Record;

    /// <inheritdoc/>
    public override string Name => "link";

    /// <inheritdoc/>
    public override string Label => "Link";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Link;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Integer);

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var id) && id > 0
            ? Value.LinkTo(id)
            : Parsed.Refused($"Nothing is found for “{text}”. Choose from the list that opens while you type.");

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => value.Target.ToString(CultureInfo.InvariantCulture);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) =>
        json.ValueKind switch
        {
            JsonValueKind.Null => Value.Empty,
            JsonValueKind.Number when json.TryGetInt64(out var id) && id > 0 => Value.LinkTo(id),
            JsonValueKind.String => Parse(json.GetString()),
            _ => WrongJson(json, "The id of a record"),
        };

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.DataType == DataType.Link ? JsonValue.Create(value.Target) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("integer", description: $"The id of a record of type {Target}.");
}
