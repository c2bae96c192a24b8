using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>
/// What the kinds that hold text share: a greatest length, counted in characters as PostgreSQL counts them (code points).
/// </summary>
public abstract record AnyTextKind(int Length) : FieldKind
{
    /// <inheritdoc/>
    public override DataType DataType => DataType.Text;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Text);

    /// <summary>True when the text may run over several lines.</summary>
    protected virtual bool HasLines => false;

    /// <inheritdoc/>
    public override int? Longest => Length;

    /// <inheritdoc/>
    public override string Resized(FieldKind was) =>
        string.Create(CultureInfo.InvariantCulture, $"takes {Length} characters instead of {(was as AnyTextKind)?.Length ?? Length}");

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) => Value.From(text);

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => value.Text;

    /// <inheritdoc/>
    public override string? Refuse(Value value)
    {
        var text = value.Text;
        if (text.Any(c => char.IsControl(c) && !(HasLines && c is '\n' or '\t')))
            return HasLines ? "A control character cannot stand here." : "A line break or another control character cannot stand here.";
        if (!Characters.AreWhole(text))
            return "This text holds half a character; please type it again.";
        var length = Characters.Count(text);
        return length > Length ? string.Create(CultureInfo.InvariantCulture, $"At most {Length} characters fit; this has {length}.") : null;
    }

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) =>
        [new("length", string.Create(CultureInfo.InvariantCulture, $"char_length({column("")}) <= {Length}"))];

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "A text");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.DataType == DataType.Text ? value.Text : null;

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = Nullable("string");
        schema["maxLength"] = Length;
        return schema;
    }
}

/// <summary>A line of text of at most <paramref name="Length"/> characters.</summary>
/// <param name="Length">The longest that it may be.</param>
public sealed record TextKind(int Length) : AnyTextKind(Length)
{
    /// <summary>The most that a length can be set to.</summary>
    public const int LongestLength = 4000;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Length];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new TextKind(Sizes.Length(options, refuse, 30, LongestLength));

    /// <inheritdoc/>
    public override bool HasPattern => true;

    /// <inheritdoc/>
    public override bool IsSizedByValues => true;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Text;

    /// <inheritdoc/>
    public override string Name => "text";

    /// <inheritdoc/>
    public override string Label => "Text";

    /// <inheritdoc/>
    public override string Description => string.Create(CultureInfo.InvariantCulture, $"text, up to {Length}");

    /// <inheritdoc/>
    public override int Width =>
        Length switch
        {
            <= 12 => 2,
            <= 30 => 3,
            <= 60 => 4,
            _ => 6,
        };

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        value.IsEmpty ? value
        : from is FormattedTextKind
            ? Parse(string.Join(' ', Html.ToText(value.Text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)))
        : from is LongTextKind ? Parse(string.Join(' ', value.Text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)))
        : base.Convert(value, from);
}

/// <summary>Text of several lines.</summary>
/// <param name="Length">The longest that it may be.</param>
public sealed record LongTextKind(int Length) : AnyTextKind(Length)
{
    /// <inheritdoc/>
    public override bool IsLongText => true;

    /// <summary>The most that a length can be set to.</summary>
    public const int LongestLength = 100_000;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Length];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new LongTextKind(Sizes.Length(options, refuse, 2000, LongestLength));

    /// <inheritdoc/>
    public override bool HasPattern => true;

    /// <inheritdoc/>
    public override bool IsSizedByValues => true;

    /// <inheritdoc/>
    public override string Control => "long_text";

    /// <inheritdoc/>
    public override string Name => "long_text";

    /// <inheritdoc/>
    public override string Label => "Long text";

    /// <inheritdoc/>
    public override int Width => 6;

    /// <inheritdoc/>
    public override bool IsOrdered => false;

    /// <inheritdoc/>
    protected override bool HasLines => true;

    // Browsers send lines ended by CR LF; one line end is kept, so that lengths agree everywhere.
    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) => Value.From(text.ReplaceLineEndings("\n"));

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        from is FormattedTextKind && !value.IsEmpty ? Parse(Html.ToText(value.Text)) : base.Convert(value, from);
}

/// <summary>Text with headings, lists, emphasis and links, as HTML of which only harmless elements are kept.</summary>
/// <param name="Length">The longest that the HTML may be.</param>
public sealed record FormattedTextKind(int Length) : AnyTextKind(Length)
{
    /// <inheritdoc/>
    public override bool IsLongText => true;

    /// <inheritdoc/>
    public override bool IsFormatted => true;

    /// <inheritdoc/>
    public override IReadOnlyList<KindOption> Options { get; } = [KindOption.Length];

    /// <summary>Makes it as a definition says.</summary>
    internal static FieldKind Make(KindOptions options, Action<string, string> refuse) =>
        new FormattedTextKind(Sizes.Length(options, refuse, 10000, LongTextKind.LongestLength));

    /// <inheritdoc/>
    public override string Control => "formatted_text";

    /// <inheritdoc/>
    public override string Plain(Value value, Locale? locale = null) =>
        value.DataType == DataType.Text ? Html.ToText(value.Text) : base.Plain(value, locale);

    /// <inheritdoc/>
    public override string Name => "formatted_text";

    /// <inheritdoc/>
    public override string Label => "Formatted text";

    /// <inheritdoc/>
    public override int Width => 6;

    /// <inheritdoc/>
    public override bool IsOrdered => false;

    /// <inheritdoc/>
    public override bool IsCompared => false;

    /// <inheritdoc/>
    protected override bool HasLines => true;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) => Value.From(Html.Clean(text));

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) => value.IsEmpty ? value : Parse(Html.FromText(from.Format(value)));

    /// <inheritdoc/>
    public override JsonObject Schema()
    {
        var schema = base.Schema();
        schema["contentMediaType"] = "text/html";
        return schema;
    }
}

/// <summary>An address on the web.</summary>
public sealed record WebAddressKind() : AnyTextKind(2000)
{
    /// <inheritdoc/>
    public override string? InputMode => "url";

    /// <inheritdoc/>
    public override string? Hint(Locale locale) => "https://";

    /// <inheritdoc/>
    public override string? Href(Value value) => value.Text;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Address;

    /// <inheritdoc/>
    public override string Name => "web_address";

    /// <inheritdoc/>
    public override string Label => "Web address";

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Value.From(
            text.Contains("://", StringComparison.Ordinal)
            || !text.Contains('.', StringComparison.Ordinal)
            || text.Contains(':', StringComparison.Ordinal)
                ? text
                : "https://" + text
        );

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        Uri.TryCreate(value.Text, UriKind.Absolute, out var address)
        && address.Scheme is "http" or "https"
        && address.Host.Length > 0
        && address.UserInfo.Length == 0
        && !value.Text.Any(char.IsWhiteSpace)
            ? base.Refuse(value)
            : $"“{value.Text}” is not a web address. Write it as browsers show it, such as https://example.org/page.";

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("string", "uri");
}

/// <summary>An address for mail: a local part and a domain (RFC 5321).</summary>
public sealed record EmailKind() : AnyTextKind(254)
{
    /// <inheritdoc/>
    public override string? InputMode => "email";

    /// <inheritdoc/>
    public override string? Href(Value value) => "mailto:" + value.Text;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Address;

    /// <inheritdoc/>
    public override string Name => "email";

    /// <inheritdoc/>
    public override string Label => "E-mail";

    /// <inheritdoc/>
    public override int Width => 4;

    /// <inheritdoc/>
    public override string? Refuse(Value value)
    {
        var text = value.Text;
        var at = text.LastIndexOf('@');
        var fine =
            at is > 0 and <= 64
            && IsLocal(text[..at])
            && Uri.CheckHostName(text[(at + 1)..]) == UriHostNameType.Dns
            && text[(at + 1)..].Contains('.', StringComparison.Ordinal)
            && !text.EndsWith('.');
        return fine ? base.Refuse(value) : $"“{text}” is not an e-mail address. It is written name@domain, such as orders@example.org.";
    }

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("string", "email");

    private static bool IsLocal(string local) =>
        !local.StartsWith('.')
        && !local.EndsWith('.')
        && !local.Contains("..", StringComparison.Ordinal)
        && local.All(static c => char.IsLetterOrDigit(c) || "!#$%&'*+/=?^_`{|}~.-".Contains(c, StringComparison.Ordinal));
}
