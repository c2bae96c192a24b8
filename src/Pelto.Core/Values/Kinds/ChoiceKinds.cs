using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;

namespace Pelto.Core.Values;

/// <summary>One of the values that a choice field allows.</summary>
/// <param name="Code">What is kept; lasting.</param>
/// <param name="Label">What people read.</param>
public sealed record Choice(string Code, string Label)
{
    /// <summary>The name of a colour that marks it, or null.</summary>
    public string? Colour { get; init; }

    /// <summary>What people of other languages read, by two-letter language (ISO 639-1).</summary>
    public IReadOnlyDictionary<string, string>? Texts { get; init; }

    /// <summary>What people of a language read.</summary>
    public string LabelIn(Locale locale) => Texts?.GetValueOrDefault(locale.Language) is { Length: > 0 } text ? text : Label;

    /// <summary>What it is called, in all languages.</summary>
    [JsonIgnore]
    public IEnumerable<string> Labels => (Texts?.Values ?? []).Prepend(Label);

    /// <summary>True when it is called so by somebody: in that language before all, else as it was defined.</summary>
    internal bool IsCalled(string text, Locale locale) => string.Equals(LabelIn(locale), text, StringComparison.OrdinalIgnoreCase) || string.Equals(Label, text, StringComparison.OrdinalIgnoreCase);

    /// <summary>True when it is not offered any more; records that have it keep it.</summary>
    public bool Retired { get; init; }

    /// <summary>The code of the choice that took its place, or null.</summary>
    public string? MergedInto { get; init; }

    /// <summary>The colours that a choice can have.</summary>
    public static IReadOnlyList<string> Colours { get; } = ["moss", "rye", "clay", "fjord", "heather", "slate"];

    /// <summary>True when it can be chosen.</summary>
    [JsonIgnore]
    public bool IsOffered => !Retired && MergedInto is null;

    /// <summary>Equal when it says the same, in all languages: an unchanged definition is seen as such.</summary>
    public bool Equals(Choice? other) => other is not null && (Code, Label, Colour, Retired, MergedInto) == (other.Code, other.Label, other.Colour, other.Retired, other.MergedInto)
        && (Texts?.Count ?? 0) == (other.Texts?.Count ?? 0) && (Texts ?? new Dictionary<string, string>()).All(text => other.Texts!.GetValueOrDefault(text.Key) == text.Value);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Code, Label, Colour, Retired, MergedInto, Texts?.Count ?? 0);
}

/// <summary>What one choice and several choices share: the choices, and finding one by what people type.</summary>
/// <param name="Choices">In the order in which they are offered.</param>
/// <param name="MayAdd">True when people may add a choice while they enter a record.</param>
public abstract record AnyChoiceKind(IReadOnlyList<Choice> Choices, bool MayAdd) : FieldKind
{
    /// <inheritdoc/>
    public override bool IsChoice => true;

    /// <inheritdoc/>
    public override string SizeProperty => "choices";

    /// <inheritdoc/>
    public override int Width => Choices.Count > 0 && Choices.Max(choice => choice.Label.Length) > 16 ? 3 : 2;

    /// <inheritdoc/>
    public override bool IsSearched => false;

    /// <summary>True when they are offered in the order of their labels, in each language for itself.</summary>
    public bool IsByLabel { get; init; }

    /// <summary>Those that can be chosen, in the order in which people of a language are offered them.</summary>
    public IEnumerable<Choice> Offered(Locale locale)
    {
        var offered = Choices.Where(choice => choice.IsOffered);
        return IsByLabel && locale.Language.Length > 0 ? offered.OrderBy(choice => choice.LabelIn(locale), StringComparer.Create(locale.Culture, ignoreCase: true)) : offered;
    }

    /// <summary>Those that hold a text in what people read for them, in any language.</summary>
    public IEnumerable<Choice> Reading(string text) => Choices.Where(choice => choice.Labels.Any(label => CultureInfo.InvariantCulture.CompareInfo.IndexOf(label, text, CompareOptions.IgnoreCase | CompareOptions.IgnoreNonSpace) >= 0));

    /// <summary>The choice with this code.</summary>
    public Choice? Find(string code) => Choices.FirstOrDefault(choice => choice.Code == code);

    /// <summary>The label of a code, as it was defined or as people of a language read it; the code itself when it is unknown.</summary>
    public string LabelOf(string code, Locale? locale = null) => Find(code)?.LabelIn(locale ?? Locale.International) ?? code;

    /// <summary>
    /// The choice that somebody named. A code comes before a label, since a label may read like another choice's code; a merged choice
    /// stands for the one that took its place.
    /// </summary>
    protected Choice? Named(string text, Locale locale)
    {
        // What one of them is called in this language comes before what another one was called when it was defined, and what is offered
        // before what is not any more.
        var found = Find(text) ?? Choices.Where(choice => choice.IsCalled(text, locale))
            .OrderBy(choice => choice.MergedInto is not null).ThenBy(choice => choice.Retired).ThenBy(choice => !string.Equals(choice.LabelIn(locale), text, StringComparison.OrdinalIgnoreCase)).FirstOrDefault();
        for (var hops = 0; found?.MergedInto is { } next && hops < Choices.Count; hops++) found = Find(next);
        return found;
    }

    /// <summary>Codes as a list in SQL.</summary>
    protected string CodeList => string.Join(", ", Choices.Select(choice => Quoted(choice.Code)));

    /// <summary>Codes for a JSON Schema.</summary>
    protected JsonArray CodesForSchema(bool orNull)
    {
        var codes = new JsonArray();
        foreach (var choice in Choices.Where(choice => choice.MergedInto is null)) codes.Add(choice.Code);
        if (orNull) codes.Add(null);
        return codes;
    }

    /// <summary>Equal when the choices are, so that an unchanged definition is seen as such.</summary>
    public virtual bool Equals(AnyChoiceKind? other) => other is not null && EqualityContract == other.EqualityContract && MayAdd == other.MayAdd && IsByLabel == other.IsByLabel && Choices.SequenceEqual(other.Choices);

    /// <inheritdoc/>
    public override int GetHashCode() => Choices.Aggregate(17, HashCode.Combine);
}

/// <summary>One value out of a given list; its code is kept, its label is read.</summary>
/// <param name="Choices">In the order in which they are offered.</param>
/// <param name="MayAdd">True when people may add a choice while they enter a record.</param>
public sealed record ChoiceKind(IReadOnlyList<Choice> Choices, bool MayAdd = false) : AnyChoiceKind(Choices, MayAdd)
{
    /// <inheritdoc/>
    public override int? Letters => Choices.Count == 0 ? 0 : Choices.Max(one => one.Labels.Max(label => label.Length));

    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => value.Text;

    /// <inheritdoc/>
    public override string Name => "choice";

    /// <inheritdoc/>
    public override string Label => "Choice";

    /// <inheritdoc/>
    public override string Description => $"choice of {Choices.Count(choice => choice.IsOffered)}";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Text;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Text);

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) => Named(text, locale) is { } choice ? Value.Of(choice.Code) : Parsed.Refused($"“{text}” is not among the choices.");

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => LabelOf(value.Text, locale);

    /// <inheritdoc/>
    public override string? Refuse(Value value) => Find(value.Text) is null ? $"“{value.Text}” is not among the choices." : null;

    /// <inheritdoc/>
    public override string? RefuseAnew(Value value) => Find(value.Text) is { IsOffered: false } choice ? $"“{choice.Label}” is retired. Choose another." : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("choice", $"{column("")} in ({CodeList})")];

    // Lists sort choices in the order in which they are offered.
    /// <inheritdoc/>
    public override string OrderSql(ColumnNames column) => $"array_position(ARRAY[{CodeList}]::text[], {column("")})";

    /// <inheritdoc/>
    public override ColumnType OrderType => ColumnType.Integer;

    /// <inheritdoc/>
    public override object? OrderKey(Value value) =>
        value.Type == ValueForm.Text && Choices.Select((choice, index) => (choice, index)).FirstOrDefault(pair => pair.choice.Code == value.Text) is { choice: not null } found ? (long)found.index + 1 : null;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) => value.Type == ValueForm.Several ? value.Codes.Count == 1 ? Parse(value.Codes[0]) : Parsed.Refused("More than one is chosen.") : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "The code of a choice");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Text ? value.Text : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("string");
        schema["enum"] = CodesForSchema(orNull: true);
        return schema;
    }

    /// <summary>Equal when the choices are.</summary>
    public bool Equals(ChoiceKind? other) => base.Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode() => base.GetHashCode();
}

/// <summary>Any number of values out of a given list.</summary>
/// <param name="Choices">In the order in which they are offered.</param>
/// <param name="MayAdd">True when people may add a choice while they enter a record.</param>
public sealed record SeveralChoicesKind(IReadOnlyList<Choice> Choices, bool MayAdd = false) : AnyChoiceKind(Choices, MayAdd)
{
    /// <inheritdoc/>
    protected override string WriteInput(Value value, Locale locale) => string.Join(';', value.Codes);

    /// <inheritdoc/>
    public override string Name => "choices";

    /// <inheritdoc/>
    public override string Label => "Several choices";

    /// <inheritdoc/>
    public override string Description => $"several of {Choices.Count(choice => choice.IsOffered)}";

    /// <inheritdoc/>
    public override ValueForm Holds => ValueForm.Several;

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
            if (Named(part, locale) is not { } choice) return Parsed.Refused($"“{part}” is not among the choices.");
            if (!codes.Contains(choice.Code)) codes.Add(choice.Code);
        }

        return Value.Of(InOrder(codes));
    }

    // Labels may hold any of the marks that keep them apart, but then their codes are written.
    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => string.Join("; ", value.Codes.Select(code => LabelOf(code, locale) is var label && label.IndexOfAny([';', ',', '\n']) < 0 && Named(label, locale)?.Code == code ? label : code));

    /// <inheritdoc/>
    public override string? Refuse(Value value) => value.Codes.FirstOrDefault(code => Find(code) is null) is { } unknown ? $"“{unknown}” is not among the choices." : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("choice", $"{column("")} <@ ARRAY[{CodeList}]::text[] AND cardinality({column("")}) > 0")];

    /// <inheritdoc/>
    public override object? ToColumn(Value value, int at) => value.Type == ValueForm.Several ? value.Codes.ToArray() : null;

    /// <inheritdoc/>
    public override Value FromColumns(ReadOnlySpan<object?> kept) => kept[0] is string[] codes ? Value.Of(codes) : Value.Empty;

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) => from is ChoiceKind && !value.IsEmpty ? Parse(value.Text) is { Refusal: null } read ? read : Parse(from.Format(value)) : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json)
    {
        if (json.ValueKind != JsonValueKind.Array) return FromText(json, "A list of codes");
        if (json.EnumerateArray().Any(item => item.ValueKind != JsonValueKind.String))
            return Parsed.Refused("A list of codes is wanted here.");
        return Parse(string.Join(';', json.EnumerateArray().Select(item => item.GetString())));
    }

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.Type == ValueForm.Several ? new JsonArray([.. value.Codes.Select(code => JsonValue.Create(code))]) : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("array");
        schema["uniqueItems"] = true;
        schema["items"] = new JsonObject { ["enum"] = CodesForSchema(orNull: false) };
        return schema;
    }

    /// <summary>Equal when the choices are.</summary>
    public bool Equals(SeveralChoicesKind? other) => base.Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode() => base.GetHashCode();

    private IEnumerable<string> InOrder(List<string> codes) => Choices.Select(choice => choice.Code).Where(codes.Contains);
}
