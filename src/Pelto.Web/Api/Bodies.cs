using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Web.Api;

/// <summary>Bodies of the programming interface: JSON in which each name stands once (RFC 8259, section 4), so that nobody reads another of two than is checked.</summary>
internal static class Bodies
{
    private static readonly JsonDocumentOptions Strict = new() { AllowDuplicateProperties = false };

    /// <summary>Reads a body. Throws <see cref="JsonException"/> for what is no such JSON.</summary>
    public static Task<JsonNode?> NodeAsync(HttpContext context, CancellationToken cancel) => JsonNode.ParseAsync(context.Request.Body, documentOptions: Strict, cancellationToken: cancel);

    /// <summary>The same as a document.</summary>
    public static Task<JsonDocument> DocumentAsync(HttpContext context, CancellationToken cancel) => JsonDocument.ParseAsync(context.Request.Body, Strict, cancel);
}
