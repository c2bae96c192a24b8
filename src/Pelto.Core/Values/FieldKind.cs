using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>
/// What values a field takes: how they are read, written, checked, kept, compared and described. One more kind is one more of these and a
/// line in FieldKinds.
/// </summary>
public abstract record FieldKind
{
    /// <summary>The kind's name in definitions and in the programming interface.</summary>
    public abstract string Name { get; }

    /// <summary>What people call it.</summary>
    public abstract string Label { get; }

    /// <summary>The type of its values in formulas.</summary>
    public abstract DataType DataType { get; }

    /// <summary>How it is kept.</summary>
    public abstract IReadOnlyList<KindColumn> Columns { get; }

    /// <summary>The kind with its size, in words, such as "text, up to 30".</summary>
    public virtual string Description => Label.ToLowerInvariant();

    /// <summary>Columns of twelve that it takes on a screen until somebody arranges it.</summary>
    public virtual int Width => 2;

    /// <summary>How wide its column of lines is until somebody arranges it.</summary>
    public virtual LineWidth LineWidth =>
        IsBlock || StaysWithRecord ? LineWidth.Block
        : IsAmount ? LineWidth.Text
        : LineWidth.Usual;

    /// <summary>True when values are read down a column, aligned at the right.</summary>
    public bool IsFigure => DataType is DataType.Number or DataType.Money or DataType.Quantity;

    /// <summary>True for what is kept sealed and never shown by itself.</summary>
    public bool IsSecret => DataType == DataType.Secret;

    /// <summary>Stands for a secret wherever values are shown; sent back, it means: as it was.</summary>
    public const string SecretMask = "••••••••";

    /// <summary>True for files and pictures.</summary>
    public bool IsFile => DataType == DataType.File;

    /// <summary>True for what is looked at with its own record only: secrets and files.</summary>
    public bool StaysWithRecord => IsSecret || IsFile;

    /// <summary>The code of the record type that values point to; null for what is not a link.</summary>
    public virtual string? TargetCode => null;

    /// <summary>True for what points to records.</summary>
    public bool IsLink => IsOneLink || IsSeveralLinks;

    /// <summary>True for what points to one record.</summary>
    public bool IsOneLink => DataType == DataType.Link;

    /// <summary>True for what can point to several.</summary>
    public bool IsSeveralLinks => DataType == DataType.Links;

    /// <summary>
    /// True when deleting the record pointed to leaves the link empty; otherwise that record stays as long as it is pointed to.
    /// </summary>
    public virtual bool ClearsWithTarget => false;

    /// <summary>What can be chosen; null for what is no choice.</summary>
    public virtual ChoiceSet? Choices => null;

    /// <summary>True for what is chosen from a list of choices.</summary>
    public bool IsChoice => Choices is not null;

    /// <summary>True where one of them is chosen.</summary>
    public bool IsOneChoice => IsChoice && !IsSeveralChoices;

    /// <summary>True where several can be.</summary>
    public bool IsSeveralChoices => DataType == DataType.Several;

    /// <summary>True for what holds several of something.</summary>
    public bool IsSeveral => IsSeveralChoices || IsSeveralLinks;

    /// <summary>True where a formula can fill it.</summary>
    public bool IsComputable => !IsSeveralLinks && !StaysWithRecord;

    /// <summary>True where a query can fill it.</summary>
    public bool IsAskable => IsComputable && !IsSeveral;

    /// <summary>True where a value can stand beside number and name of a record that is chosen.</summary>
    public bool IsShort => !StaysWithRecord && !IsLongText && !IsSeveralLinks;

    /// <summary>True where real values say what size is needed: texts that are as they were typed, and figures.</summary>
    public virtual bool IsSizedByValues => IsFigure;

    /// <summary>True for what takes a block of its own rather than a line.</summary>
    public virtual bool IsBlock => IsSeveral || IsLongText;

    /// <summary>True where a pattern for what is typed is offered.</summary>
    public virtual bool HasPattern => false;

    /// <summary>True where the kind itself sees to the pattern of its definition.</summary>
    public virtual bool KeepsPattern => false;

    /// <summary>True for texts of several lines, which stand in a block of their own and are not sorted or found by.</summary>
    public virtual bool IsLongText => false;

    /// <summary>True for texts with formatting, kept as HTML.</summary>
    public virtual bool IsFormatted => false;

    /// <summary>For amounts: what they can be in, the usual one first, each with its code and how people write it.</summary>
    public virtual IReadOnlyList<(string Code, string Symbol)> UnitChoices => [];

    /// <summary>For texts: the longest that fits, in characters.</summary>
    public virtual int? Longest => null;

    /// <summary>For identifiers: the code of their scheme.</summary>
    public virtual string? SchemeCode => null;

    /// <summary>The media types of files that are taken, with commas between; null for all.</summary>
    public virtual string? Accepts => null;

    /// <summary>Where somebody goes who follows a value, as a URI; null for what leads nowhere.</summary>
    public virtual string? Href(Value value) => null;

    /// <summary>How values are entered and shown, by the name of a partial page; kinds that look alike share one.</summary>
    public virtual string Control => PlainControl;

    /// <summary>True where values are shown as <see cref="Format"/> writes them, whatever they are entered by.</summary>
    public virtual bool IsShownAsText => Control == PlainControl;

    /// <summary>The control of what is entered as a line of text.</summary>
    public const string PlainControl = "text";

    /// <summary>True for amounts with a currency or unit.</summary>
    public bool IsAmount => DataType is DataType.Money or DataType.Quantity;

    /// <summary>True for figures whose sum says something.</summary>
    public virtual bool IsSummable => false;

    /// <summary>What definitions say of it beside its name, what decides most about what fits first.</summary>
    public virtual IReadOnlyList<KindOption> Options => [];

    /// <summary>True when definitions of this kind may say that.</summary>
    public bool Takes(KindOption option) => Options.Contains(option);

    /// <summary>The property of a definition that says the size of the kind, where values on file that do not fit are told.</summary>
    public string SizeProperty => Options is [var first, ..] ? first.Name : "kind";

    /// <summary>
    /// What becomes of a field when what is said of its kind changes, after its name, such as "takes 60 characters instead of 30".
    /// </summary>
    /// <param name="was">The same kind as it was.</param>
    public virtual string Resized(FieldKind was) => $"is {Description} from now on";

    /// <summary>True when values have an order: lists sort by them and filter for what lies between two.</summary>
    public virtual bool IsOrdered => true;

    /// <summary>True when lists can look for what values contain.</summary>
    public virtual bool IsSearched => DataType == DataType.Text;

    /// <summary>True when lists can look for values equal to one.</summary>
    public virtual bool IsCompared => true;

    /// <summary>The language-independent form in which <see cref="Parse"/> reads back what <see cref="Format"/> wrote.</summary>
    protected abstract Parsed Read(string text, Locale locale);

    /// <summary>Writes a value that is not empty, as people read it; <see cref="Parse"/> reads it back in the same locale.</summary>
    protected abstract string Write(Value value, Locale locale);

    /// <summary>Writes a value (neither empty nor failed) as an input holds it; as people read it, unless a kind says otherwise.</summary>
    protected virtual string WriteInput(Value value, Locale locale) => Write(value, locale);

    /// <summary>The keys that a small screen offers for it (the attribute <c>inputmode</c> of HTML); null for all.</summary>
    public virtual string? InputMode => null;

    /// <summary>What an empty input shows as an example; null for nothing.</summary>
    /// <param name="locale">The conventions of whoever types there.</param>
    public virtual string? Hint(Locale locale) => null;

    /// <summary>True when the database can keep an index of it for lists, beside the one that links have anyway.</summary>
    public bool HasIndex => IsOrdered && Columns.Count == 1 && !IsLink && !IsSeveral && !StaysWithRecord && !IsLongText;

    /// <summary>True for what a least and a greatest are offered for.</summary>
    public bool HasBounds => IsOrdered && !IsChoice && DataType is not (DataType.Text or DataType.YesNo or DataType.Link);

    /// <summary>The letters of the widest value, where the kind tells; null where values on file have to be looked at.</summary>
    public virtual int? Letters => null;

    /// <summary>Says why a value (not empty) does not belong in this field, or null when it does.</summary>
    public virtual string? Refuse(Value value) => null;

    /// <summary>True when a live field of this kind, which no column holds, takes a fitted value of any size.</summary>
    public virtual bool IsBoundlessLive => false;

    /// <summary>
    /// Where even those end, either way: what is beyond, with its decimals, fits no number that memory and the database both hold.
    /// </summary>
    public const decimal MaxLive = 100_000_000_000_000_000_000m;

    /// <summary>No number of this kind is larger than this, either way; null where that is not told.</summary>
    public virtual double? MaxNumber => null;

    /// <summary>A computed value as this field takes it: rounded to its decimals, halves away from zero.</summary>
    public virtual Value Fit(Value value) => value;

    /// <summary>The same in SQL.</summary>
    /// <param name="text">An expression for what goes into the first column.</param>
    /// <param name="unit">For money and quantities: one for the currency or unit.</param>
    public virtual string FitSql(string text, string? unit) => text;

    /// <summary>A number that is not an error, nor nothing, rounded.</summary>
    protected static Value Rounded(Value value, int decimals) =>
        value.DataType switch
        {
            DataType.Number => Value.From(Numbers.Round(value.Number, decimals)),
            DataType.Money => Value.Money(Numbers.Round(value.Amount, decimals), value.Unit),
            DataType.Quantity => Value.Quantity(Numbers.Round(value.Amount, decimals), value.Unit),
            _ => value,
        };

    /// <summary>The same in SQL.</summary>
    protected static string RoundedSql(string text, int decimals) =>
        string.Create(System.Globalization.CultureInfo.InvariantCulture, $"round({text}, {decimals})");

    /// <summary>
    /// Says why a value that fits cannot be entered any more, such as a retired choice, or null. Records that have it keep it.
    /// </summary>
    public virtual string? RefuseAnew(Value value) => null;

    /// <summary>What the database checks for such columns.</summary>
    public virtual IEnumerable<ColumnCheck> Checks(ColumnNames column) => [];

    /// <summary>
    /// What the database sorts and compares by, for a kind that <see cref="IsOrdered"/>; a single value of type <see cref="OrderType"/>.
    /// </summary>
    public virtual string OrderSql(ColumnNames column) => column("");

    /// <summary>What a value is sorted and compared by.</summary>
    public virtual object? OrderKey(Value value) => ToColumn(value, 0);

    /// <summary>The type of what is sorted and compared by.</summary>
    public virtual ColumnType OrderType => Columns[0].Type;

    /// <summary>The suffix of a column that must be equal for values to be comparable at all, such as the currency; or null.</summary>
    public virtual string? Common => null;

    /// <summary>Reads a value from the programming interface.</summary>
    public abstract Parsed FromJson(JsonElement json);

    /// <summary>Writes a value for the programming interface.</summary>
    public abstract JsonNode? ToJson(Value value);

    /// <summary>This kind as a JSON Schema, for the OpenAPI document.</summary>
    public abstract JsonObject Schema();

    /// <summary>
    /// Reads what a person typed. Blank is empty, whatever the kind; what this kind cannot hold is refused with a sentence.
    /// </summary>
    public Parsed Parse(string? text, Locale? locale = null)
    {
        var trimmed = text?.Trim();
        if (string.IsNullOrEmpty(trimmed))
            return Value.Empty;
        var parsed = Read(trimmed, locale ?? Locale.International);
        return parsed.Refusal is null && !parsed.Value.IsEmpty && Refuse(parsed.Value) is { } refusal ? new(parsed.Value, refusal) : parsed;
    }

    /// <summary>Writes a value as people read it; empty is the empty text, a failed computation its reason.</summary>
    public string Format(Value value, Locale? locale = null) =>
        value.DataType switch
        {
            DataType.Empty => "",
            DataType.Error => value.Reason,
            _ => Write(value, locale ?? Locale.International),
        };

    /// <summary>
    /// A value as running text, without format: what <see cref="Format"/> writes, unless that holds more than people read.
    /// </summary>
    public virtual string Plain(Value value, Locale? locale = null) => Format(value, locale);

    /// <summary>A value as an input holds it: what <see cref="Parse"/> reads back, without the unit that stands beside it.</summary>
    /// <param name="value">The value.</param>
    /// <param name="locale">The conventions of whoever types there.</param>
    public string Input(Value value, Locale? locale = null) =>
        value.DataType is DataType.Empty or DataType.Error ? Format(value, locale) : WriteInput(value, locale ?? Locale.International);

    /// <summary>
    /// Turns a value of another kind into one of this, when a field changes its kind. What cannot be turned is refused, and the record gets
    /// none.
    /// </summary>
    public virtual Parsed Convert(Value value, FieldKind from)
    {
        if (value.IsEmpty)
            return value;
        if (value.DataType == DataType.Secret)
            return Parsed.Refused("A secret is never turned into a value that is not secret.");
        if (value.DataType == DataType.File && DataType == DataType.Text)
            return Parse(value.FileName);
        if (value.DataType == DataType && DataType != DataType.Text)
            return Refuse(value) is { } refusal ? Parsed.Refused(refusal) : value;
        return Parse(from.Format(value)) is { Refusal: null } read
            ? read
            : Parsed.Refused($"“{from.Format(value)}” is not a {Label.ToLowerInvariant()} of this size.");
    }

    /// <summary>A value as the database driver takes it, for one of the columns.</summary>
    public virtual object? ToColumn(Value value, int at) =>
        value.DataType switch
        {
            DataType.Empty or DataType.Error => null,
            DataType.Text => value.Text,
            DataType.Number when Columns[0].Type == ColumnType.Integer => (long)value.Number,
            DataType.Number => value.Number,
            DataType.Date => value.Date,
            DataType.YesNo => value.Yes,
            DataType.Time => value.Time,
            DataType.Moment => value.Moment,
            DataType.Link => value.Target,
            _ => throw new InvalidOperationException($"The kind {Name} does not say how a {value.DataType} is kept."),
        };

    /// <summary>The value that the database driver gave, column by column.</summary>
    public virtual Value FromColumns(ReadOnlySpan<object?> stored) =>
        stored[0] switch
        {
            null or DBNull => Value.Empty,
            string text => Value.From(text),
            long number => DataType == DataType.Link ? Value.LinkTo(number) : Value.From((decimal)number),
            decimal number => Value.From(number),
            DateOnly date => Value.From(date),
            TimeOnly time => Value.From(time),
            DateTime moment => Value.From(moment),
            bool yes => Value.From(yes),
            var other => throw new InvalidOperationException($"A column of kind {Name} held a {other.GetType().Name}."),
        };

    /// <summary>A single column.</summary>
    protected static IReadOnlyList<KindColumn> One(ColumnType type) => [new("", type)];

    /// <summary>A JSON Schema for this type that also allows null, which is how an empty value is sent.</summary>
    protected static JsonObject Nullable(string type, string? format = null, string? description = null)
    {
        var schema = new JsonObject { ["type"] = new JsonArray(type, "null") };
        if (format is not null)
            schema["format"] = format;
        if (description is not null)
            schema["description"] = description;
        return schema;
    }

    /// <summary>For kinds whose JSON is a text that <see cref="Parse"/> reads.</summary>
    protected Parsed FromText(JsonElement json, string wanted) =>
        json.ValueKind switch
        {
            JsonValueKind.Null => Value.Empty,
            JsonValueKind.String => Parse(json.GetString()),
            _ => WrongJson(json, wanted),
        };

    /// <summary>For kinds whose JSON is a number.</summary>
    protected Parsed FromNumber(JsonElement json, string wanted) =>
        json.ValueKind switch
        {
            JsonValueKind.Null => Value.Empty,
            JsonValueKind.String => Parse(json.GetString()),
            JsonValueKind.Number when json.TryGetDecimal(out var number) => Refuse(Value.From(number)) is { } refusal
                ? Parsed.Refused(refusal)
                : Value.From(number),
            JsonValueKind.Number => Parsed.Refused("This number is larger than fits."),
            _ => WrongJson(json, wanted),
        };

    /// <summary>The sentence for JSON of the wrong shape.</summary>
    protected static Parsed WrongJson(JsonElement json, string wanted) =>
        Parsed.Refused($"{wanted} is expected here, not {Describe(json)}.");

    /// <summary>A text as a literal in SQL. Only for what definitions hold, never for what people enter.</summary>
    internal static string Quoted(string text) => $"'{text.Replace("'", "''", StringComparison.Ordinal)}'";

    private static string Describe(JsonElement json) =>
        json.ValueKind switch
        {
            JsonValueKind.String => $"“{json.GetString()}”",
            JsonValueKind.Object => "an object",
            JsonValueKind.Array => "a list",
            _ => json.GetRawText(),
        };
}
