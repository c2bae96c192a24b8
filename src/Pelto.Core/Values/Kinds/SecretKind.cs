using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>A secret, such as a door code: encrypted on file, shown only when somebody asks, and each showing is on record.</summary>
/// <remarks>
/// What is entered is a text until the store seals it; what is on file never leaves sealed form in a value, so no page, list, export or log
/// can show it by mistake.
/// </remarks>
/// <param name="Length">The longest that it may be.</param>
public sealed record SecretKind(int Length) : FieldKind
{
    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Length];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new SecretKind(Sizes.Length(options, refuse, 100, 1000));

    /// <inheritdoc/>
    public override string Resized(FieldKind was) => new TextKind(Length).Resized(new TextKind((was as SecretKind)?.Length ?? Length));

    /// <inheritdoc/>
    public override string Control => "secret";

    /// <inheritdoc/>
    public override string Name => "secret";

    /// <inheritdoc/>
    public override string Label => "Secret";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Secret;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Text);

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    public override bool IsOrdered => false;

    /// <inheritdoc/>
    public override bool IsCompared => false;

    /// <inheritdoc/>
    public override bool IsSearched => false;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) => Value.From(text);

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => SecretMask;

    /// <inheritdoc/>
    public override string? Refuse(Value value) => value.DataType == DataType.Secret ? null : new TextKind(Length).Refuse(value);

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) =>
        value.DataType == DataType.Secret ? value.Stored
        : value.IsEmpty ? null
        : throw new InvalidOperationException("A secret was about to be stored unencrypted.");

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> stored) => stored[0] is string text ? Value.Sealed(text) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        Parsed.Refused("A secret is entered by hand: it is never made from a value that was not secret.");

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "A text");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.IsEmpty ? null : SecretMask;

    /// <inheritdoc/>
    public override JsonObject Schema() =>
        Nullable("string", "password", $"Never shown: {SecretMask} says that there is one, and sent back leaves it as it was.");
}
