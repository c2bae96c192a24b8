using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Web.Components;

/// <summary>A change of a definition, property by property, in words.</summary>
internal static class DefinitionDetails
{
    /// <summary>What differs between two states of a definition, each as JSON; null where it was not there.</summary>
    public static IReadOnlyList<(string Property, string Before, string After)> Of(string? before, string? after)
    {
        var (old, now) = (Parse(before), Parse(after));
        return [.. old.Select(pair => pair.Key).Concat(now.Select(pair => pair.Key)).Distinct().Where(key => key is not ("id" or "column" or "lastColumn" or "recordType" or "part"))
            .Select(key => (Words.GetValueOrDefault(key, key), Said(old[key]), Said(now[key]))).Where(entry => entry.Item2 != entry.Item3)];
    }

    private static readonly Dictionary<string, string> Words = new(StringComparer.Ordinal)
    {
        ["alsoOn"] = "also on",
        ["choiceList"] = "choice list",
        ["mayAdd"] = "people may add choices",
        ["startingValue"] = "starting value",
        ["required"] = "needed",
        ["requiredWhen"] = "needed where",
        ["patternMessage"] = "pattern, what people read",
        ["checkMessage"] = "check, what people read",
        ["checkDigit"] = "check digit",
        ["fillExisting"] = "records on file get the starting value",
        ["texts"] = "in other languages",
        ["dropsEarlier"] = "earlier kinds dropped",
        ["readBack"] = "saved data read back",
        ["withYear"] = "with the year",
        ["gapless"] = "without gaps",
        ["clearsWithTarget"] = "empties with its target",
        ["target"] = "points to",
        ["alphabetical"] = "in alphabetical order",
    };

    private static JsonObject Parse(string? json) => json is null ? [] : JsonNode.Parse(json)!.AsObject();

    private static string Said(JsonNode? node) => node switch
    {
        null => "nothing",
        JsonValue value when value.GetValueKind() == JsonValueKind.True => "yes",
        JsonValue value when value.GetValueKind() == JsonValueKind.String => value.GetValue<string>(),
        JsonArray { Count: 0 } => "nothing",
        JsonArray list when list.All(item => item is JsonObject) => string.Join(", ", list.Select(item => item!["label"] is { } label ? $"{label}{(item["retired"] is not null ? " (retired)" : "")}{(item["mergedInto"] is { } into ? $" (merged into {into})" : "")}" : $"{item["recordType"]}")),
        JsonArray list => string.Join(", ", list.Select(Said)),
        JsonObject part => string.Join(", ", part.Select(pair => $"{Words.GetValueOrDefault(pair.Key, pair.Key)} {Said(pair.Value)}")),
        _ => node.ToJsonString(),
    };
}
