using System.Text.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Elements;

namespace Pelto.Web.Components;

/// <summary>A property of a definition that was changed.</summary>
/// <param name="Property">What people call it; empty for what is one value.</param>
/// <param name="Before">What it was, in words.</param>
/// <param name="After">What it became.</param>
/// <param name="IsWritten">True for what somebody wrote in a language of its own, such as a formula or a query.</param>
public sealed record PropertyChange(string Property, string Before, string After, bool IsWritten = false)
{
    /// <summary>What stands where there is no value.</summary>
    public const string Nothing = "nothing";
}

/// <summary>
/// A change of a definition, property by property, in words: what it names is called by its label, as it is now, where whoever reads knows
/// of it.
/// </summary>
/// <param name="catalogue">What there is.</param>
/// <param name="views">What of it whoever reads is shown.</param>
internal sealed class DefinitionDetails(Catalogue catalogue, SiteViews views)
{
    // Where a thing is kept, and what never changes.
    internal static readonly HashSet<string> Unset = ["id", "column", "lastColumn", "table", "storedAs", "recordType", "part"];

    private static readonly HashSet<string> Written =
    [
        "code",
        "formula",
        "sql",
        "check",
        "requiredWhen",
        "shownWhen",
        "offers",
        "when",
        "pattern",
        "path",
        "finds",
        "with",
        "built",
        "address",
        "prefix",
    ];

    // Said in one word as they are named; all others stand below.
    private static readonly HashSet<string> Plain =
    [
        "label",
        "plural",
        "heading",
        "help",
        "comment",
        "kind",
        "length",
        "digits",
        "decimals",
        "choices",
        "currencies",
        "units",
        "country",
        "scheme",
        "code",
        "formula",
        "query",
        "locked",
        "path",
        "retired",
        "unique",
        "indexed",
        "minimum",
        "maximum",
        "pattern",
        "check",
        "live",
        "printed",
        "fills",
        "audience",
        "operations",
        "numbering",
        "lines",
        "confirmed",
        "columns",
        "reads",
        "about",
        "place",
        "level",
        "on",
        "to",
        "may",
        "does",
        "when",
        "ending",
        "parameters",
    ];

    private static readonly Dictionary<string, string> Words = new(StringComparer.Ordinal)
    {
        ["alsoOn"] = "also on",
        ["carriedAlong"] = "carried along to the documents that follow",
        ["choiceList"] = "choice list",
        ["choicesByLabel"] = "choices in alphabetical order",
        ["mayAdd"] = "people may add choices",
        ["defaultValue"] = "default",
        ["required"] = "required",
        ["requiredWhen"] = "required where",
        ["shownWhen"] = "shown where",
        ["patternMessage"] = "pattern, what people read",
        ["checkMessage"] = "check, what people read",
        ["checkDigit"] = "check digit",
        ["offers"] = "offers where",
        ["offersMessage"] = "offers, what people read",
        ["finds"] = "found by",
        ["noTotals"] = "no totals in lists",
        ["fillExisting"] = "records on file get the default",
        ["texts"] = "in other languages",
        ["dropsEarlier"] = "earlier kinds dropped",
        ["readBack"] = "saved data read back",
        ["heldFrom"] = "guarded like",
        ["withYear"] = "with the year",
        ["gapless"] = "without gaps",
        ["clearsWithTarget"] = "empties with its target",
        ["target"] = "points to",
        ["alphabetical"] = "in alphabetical order",
        ["sql"] = "SQL",
        ["built"] = "put together",
        ["none"] = "where there is no row",
        ["many"] = "where there are several rows",
        ["read"] = "read by",
        ["write"] = "written by",
        ["create"] = "made by",
        ["delete"] = "deleted by",
        ["publicForm"] = "public form",
    };

    /// <summary>What people call a property; null for one that is not told.</summary>
    /// <param name="property">The name that definitions have for it.</param>
    internal static string? Called(string property) =>
        Unset.Contains(property) ? null : Words.GetValueOrDefault(property) ?? (Plain.Contains(property) ? property : null);

    /// <summary>What differs between two states of a definition, each as JSON; null where it was not there.</summary>
    public IReadOnlyList<PropertyChange> For(string? before, string? after)
    {
        var (old, now) = (Parse(before), Parse(after));
        return
        [
            .. old.Select(pair => pair.Key)
                .Concat(now.Select(pair => pair.Key))
                .Distinct()
                .Where(key => !Unset.Contains(key))
                .Select(key => new PropertyChange(Called(key) ?? key, Format(key, old[key]), Format(key, now[key]), Written.Contains(key)))
                .Where(change => change.Before != change.After),
        ];
    }

    private static JsonObject Parse(string? json) => json is null ? [] : JsonNode.Parse(json)!.AsObject();

    private string Format(string key, JsonNode? node) =>
        node switch
        {
            null => PropertyChange.Nothing,
            JsonValue value when value.GetValueKind() == JsonValueKind.True => "yes",
            JsonValue value when value.GetValueKind() == JsonValueKind.String => Named(key, value.GetValue<string>()),
            JsonArray { Count: 0 } => PropertyChange.Nothing,
            JsonArray list => string.Join(", ", list.Select(item => item is JsonObject one ? Brief(one) : Format(key, item))),
            JsonObject part => string.Join(", ", part.Select(pair => $"{Called(pair.Key) ?? pair.Key} {Format(pair.Key, pair.Value)}")),
            _ => node.ToJsonString(),
        };

    // One of several: by its label, where it has one.
    private string Brief(JsonObject item) =>
        item["label"] is { } label && item["op"] is null
            ? $"{label}{(item["retired"] is not null ? " (retired)" : "")}{(item["mergedInto"] is { } into ? $" (merged into {into})" : "")}"
        : item["recordType"] is { } type && item["op"] is null ? Named("recordType", $"{type}")
        : Format("", item);

    private string Named(string key, string text) =>
        key switch
        {
            "kind" => FieldKinds.Definable.FirstOrDefault(kind => kind.Name == text)?.Label ?? text,
            "target" or "recordType" or "screen" => TypeOf(text),
            "choiceList" => catalogue.Site.FindList(text) is { } list && views.Sees(list, catalogue.Site) ? list.Label : text,
            "id" => catalogue.Site.FindQuery(text) is { } query && views.Sees(query, catalogue.Site) ? query.Label : text,
            "read" or "write" or "create" or "delete" or "to" or "audience" => Whom(text),
            "place" or "after" or "part" or "field" or "on" or "reads" or "heldFrom" => Where(text),
            _ => text,
        };

    private string TypeOf(string code) => catalogue.Find(code) is { } type && views.Sees(type) ? type.Plural : code;

    private string Whom(string text) =>
        text == "*" ? "everyone"
        : Audience.TryParse(text, out var audience) ? audience.InWords(catalogue.Host)
        : catalogue.Host.Roles.FirstOrDefault(role => role.Code == text)?.Label ?? text;

    // A field by what it is called, with the record type that it is of; others, such as parts of screens, as they are.
    private string Where(string text)
    {
        var at = text.LastIndexOf(' ') + 1;
        var id = text[at..];
        if (id.StartsWith("type:", StringComparison.Ordinal))
            return TypeOf(id[5..]);
        return catalogue.FindField(id) is { } field && views.Knows(field)
            ? $"{text[..at]}{field.Part.RecordType.Label}: {field.Label}"
            : text;
    }
}
