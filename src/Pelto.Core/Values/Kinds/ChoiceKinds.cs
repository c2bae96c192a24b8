using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>One value out of a given list; its code is kept, its label is read.</summary>
/// <param name="Set">The choices.</param>
public sealed record ChoiceKind(ChoiceSet Set) : FieldKind
{
    /// <summary>One of choices that nobody adds to.</summary>
    public ChoiceKind(IReadOnlyList<Choice> choices)
        : this(new ChoiceSet(choices)) { }

    /// <inheritdoc/>
    public override ChoiceSet Choices => Set;

    /// <inheritdoc/>
    public override bool IsSearched => false;

    /// <inheritdoc/>
    public override int Width => Set.All.Count > 0 && Set.All.Max(choice => choice.Label.Length) > 16 ? 3 : 2;

    /// <inheritdoc/>
    public override int? Letters => Set.All.Count == 0 ? 0 : Set.All.Max(one => one.Labels.Max(label => label.Length));

    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => value.Text;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Choices, KindOption.ChoiceList, KindOption.MayAdd];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) => new ChoiceKind(ChoiceSet.From(options, refuse));

    /// <inheritdoc/>
    public override string Control => "choice";

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Word;

    /// <inheritdoc/>
    public override string Name => "choice";

    /// <inheritdoc/>
    public override string Label => "Choice";

    /// <inheritdoc/>
    public override string Description => $"choice of {Set.All.Count(choice => choice.IsOffered)}";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Text;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Text);

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Set.Named(text, locale) is { } choice ? Value.From(choice.Code) : Parsed.Refused($"“{text}” is not among the choices.");

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => Set.LabelOf(value.Text, locale);

    /// <inheritdoc/>
    public override string? Refuse(Value value) => Set.Find(value.Text) is null ? $"“{value.Text}” is not among the choices." : null;

    /// <inheritdoc/>
    public override string? RefuseAnew(Value value) =>
        Set.Find(value.Text) is { IsOffered: false } choice ? $"“{choice.Label}” is retired. Choose another." : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("choice", $"{column("")} in ({Set.CodeList})")];

    // Lists sort choices in the order in which they are offered.
    /// <inheritdoc/>
    public override string OrderSql(ColumnNames column) => $"array_position(ARRAY[{Set.CodeList}]::text[], {column("")})";

    /// <inheritdoc/>
    public override ColumnType OrderType => ColumnType.Integer;

    /// <inheritdoc/>
    public override object? OrderKey(Value value) =>
        value.DataType == DataType.Text
        && Set.All.Select((choice, index) => (choice, index)).FirstOrDefault(pair => pair.choice.Code == value.Text)
            is { choice: not null } found
            ? (long)found.index + 1
            : null;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        value.DataType == DataType.Several
            ? value.Codes.Count == 1
                ? Parse(value.Codes[0])
                : Parsed.Refused("More than one is chosen.")
            : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "The code of a choice");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.DataType == DataType.Text ? value.Text : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("string");
        schema["enum"] = Set.CodesForSchema(orNull: true);
        return schema;
    }

    /// <summary>Equal when the choices are, so that an unchanged definition is seen as such.</summary>
    public bool Equals(ChoiceKind? other) => other is not null && Set.Equals(other.Set);

    /// <inheritdoc/>
    public override int GetHashCode() => Set.GetHashCode();
}

/// <summary>Any number of values out of a given list.</summary>
/// <param name="Set">The choices.</param>
public sealed record SeveralChoicesKind(ChoiceSet Set) : FieldKind
{
    /// <summary>One of choices that nobody adds to.</summary>
    public SeveralChoicesKind(IReadOnlyList<Choice> choices)
        : this(new ChoiceSet(choices)) { }

    /// <inheritdoc/>
    public override ChoiceSet Choices => Set;

    /// <inheritdoc/>
    public override bool IsSearched => false;

    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => string.Join(';', value.Codes);

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Choices, KindOption.ChoiceList, KindOption.MayAdd];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new SeveralChoicesKind(ChoiceSet.From(options, refuse));

    /// <inheritdoc/>
    public override string Control => "choices";

    /// <inheritdoc/>
    public override string Name => "choices";

    /// <inheritdoc/>
    public override string Label => "Several choices";

    /// <inheritdoc/>
    public override string Description => $"several of {Set.All.Count(choice => choice.IsOffered)}";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Several;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.TextArray);

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    public override bool IsOrdered => false;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        var codes = new List<string>();
        foreach (var part in text.Split([';', '\n', ','], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (Set.Named(part, locale) is not { } choice)
                return Parsed.Refused($"“{part}” is not among the choices.");
            if (!codes.Contains(choice.Code))
                codes.Add(choice.Code);
        }

        return Value.From(InOrder(codes));
    }

    // Labels may hold any of the marks that keep them apart, but then their codes are written.
    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) =>
        string.Join(
            "; ",
            value.Codes.Select(code =>
                Set.LabelOf(code, locale) is var label && label.IndexOfAny([';', ',', '\n']) < 0 && Set.Named(label, locale)?.Code == code
                    ? label
                    : code
            )
        );

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        value.Codes.FirstOrDefault(code => Set.Find(code) is null) is { } unknown ? $"“{unknown}” is not among the choices." : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) =>
        [new("choice", $"{column("")} <@ ARRAY[{Set.CodeList}]::text[] AND cardinality({column("")}) > 0")];

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) => value.DataType == DataType.Several ? value.Codes.ToArray() : null;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> stored) => stored[0] is string[] codes ? Value.From(codes) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        from is ChoiceKind && !value.IsEmpty
            ? Parse(value.Text) is { Refusal: null } read
                ? read
                : Parse(from.Format(value))
            : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json)
    {
        if (json.ValueKind != JsonValueKind.Array)
            return FromText(json, "A list of codes");
        if (json.EnumerateArray().Any(item => item.ValueKind != JsonValueKind.String))
            return Parsed.Refused("A list of codes is expected here.");
        return Parse(string.Join(';', json.EnumerateArray().Select(item => item.GetString())));
    }

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Several ? new JsonArray([.. value.Codes.Select(code => JsonValue.Create(code))]) : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("array");
        schema["uniqueItems"] = true;
        schema["items"] = new JsonObject { ["enum"] = Set.CodesForSchema(orNull: false) };
        return schema;
    }

    /// <summary>Equal when the choices are, so that an unchanged definition is seen as such.</summary>
    public bool Equals(SeveralChoicesKind? other) => other is not null && Set.Equals(other.Set);

    /// <inheritdoc/>
    public override int GetHashCode() => Set.GetHashCode();

    private IEnumerable<string> InOrder(List<string> codes) => Set.All.Select(choice => choice.Code).Where(codes.Contains);
}
