using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Pelto.Web.Api;

/// <summary>
/// Bodies of the programming interface: JSON in which each name stands once (RFC 8259, section 4), so that nobody reads another of two than
/// is checked.
/// </summary>
internal static partial class Bodies
{
    private static readonly JsonDocumentOptions Strict = new() { AllowDuplicateProperties = false };

    /// <summary>Reads a body. Throws <see cref="JsonException"/> for what is no such JSON.</summary>
    public static Task<JsonNode?> NodeAsync(HttpContext context, CancellationToken cancel) =>
        JsonNode.ParseAsync(context.Request.Body, documentOptions: Strict, cancellationToken: cancel);

    /// <summary>The same as a document.</summary>
    public static Task<JsonDocument> DocumentAsync(HttpContext context, CancellationToken cancel) =>
        JsonDocument.ParseAsync(context.Request.Body, Strict, cancel);

    /// <summary>Where a document holds numbers beyond what can be kept, as JSON pointers (RFC 6901), each with a sentence.</summary>
    public static IEnumerable<(string Pointer, string Sentence)> NumbersBeyond(JsonElement json, string at = "") =>
        json.ValueKind switch
        {
            JsonValueKind.Number when !json.TryGetDecimal(out _) =>
            [
                (at, $"{Shortened(json.GetRawText())} is beyond the numbers that can be kept."),
            ],
            JsonValueKind.Object => json.EnumerateObject()
                .SelectMany(property => NumbersBeyond(property.Value, $"{at}/{Escaped(property.Name)}")),
            JsonValueKind.Array => json.EnumerateArray()
                .SelectMany((entry, index) => NumbersBeyond(entry, string.Create(CultureInfo.InvariantCulture, $"{at}/{index}"))),
            _ => [],
        };

    /// <summary>
    /// The pointer to where a document could not be read, from the path in the exception's own notation: <c>$.fields[0].length</c>.
    /// </summary>
    public static string PointerOf(string path) => IndexInPath().Replace(path.TrimStart('$').Replace('.', '/'), "/$1");

    private static string Escaped(string name) =>
        name.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal);

    private static string Shortened(string number) => number.Length > 30 ? number[..30] + "…" : number;

    [GeneratedRegex(@"\[(\d+)\]")]
    private static partial Regex IndexInPath();
}
