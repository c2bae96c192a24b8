using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Features;
using Pelto.Core.Records;

namespace Pelto.Web.Api;

/// <summary>What programs send of records, read as changes.</summary>
internal static class RecordBodies
{
    /// <summary>True when something was sent, also by programs that do not say how much.</summary>
    public static bool Has(HttpContext context) => context.Features.Get<IHttpRequestBodyDetectionFeature>()?.CanHaveBody == true;

    /// <summary>Reads the changes that a body asks for.</summary>
    public static async Task<(RecordChanges Changes, IResult? Refusal)> ReadAsync(
        HttpContext context,
        RecordType type,
        CurrentRequest request,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        try
        {
            return await ChangesAsync(await Bodies.NodeAsync(context, cancel), type, request, lists, cancel);
        }
        catch (Exception wrong) when (wrong is JsonException or ArgumentException or InvalidOperationException)
        {
            return (new(), Problems.For(StatusCodes.Status400BadRequest, $"The body is not JSON that can be read: {wrong.Message}"));
        }
    }

    /// <summary>Reads the changes that JSON asks for.</summary>
    public static async Task<(RecordChanges Changes, IResult? Refusal)> ChangesAsync(
        JsonNode? node,
        RecordType type,
        CurrentRequest request,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        await ResolveAsync(node, type, request, lists, cancel);
        using var json = JsonDocument.Parse(node?.ToJsonString() ?? "null");
        var refusals = new List<(string Pointer, string Sentence)>();
        var changes = RecordJson.ReadChanges(json.RootElement, type, refusals);
        return (
            changes,
            refusals.Count == 0 ? null : Problems.For(StatusCodes.Status422UnprocessableEntity, refusals[0].Sentence, refusals)
        );
    }

    // Links may be sent as what people call the target: "customer": "P-0177".
    private static async Task ResolveAsync(
        JsonNode? node,
        RecordType type,
        CurrentRequest request,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        if (node is not JsonObject body)
            return;
        if (body["values"] is JsonObject values)
            await ResolveAsync(values, type.Header, request, lists, cancel);
        if (body["lines"] is not JsonObject parts)
            return;
        foreach (var part in type.LineParts)
            if (parts[part.Code] is JsonArray rows)
                foreach (var row in rows.OfType<JsonObject>())
                    await ResolveAsync(row, part, request, lists, cancel);
    }

    private static async Task ResolveAsync(
        JsonObject values,
        Part part,
        CurrentRequest request,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        foreach (var field in part.Fields.Where(field => field.Target is not null && request.Viewer.MayRead(field.Target)))
        {
            if (values[field.Code] is JsonValue one && await IdOfAsync(one, field) is { } id)
                values[field.Code] = id;
            if (values[field.Code] is not JsonArray several)
                continue;
            for (var at = 0; at < several.Count; at++)
                if (several[at] is JsonValue sent && await IdOfAsync(sent, field) is { } among)
                    several[at] = among;
        }

        async Task<long?> IdOfAsync(JsonValue sent, Field field) =>
            sent.TryGetValue<string>(out var identifier) ? await lists.FindAsync(field.Target!, identifier, request.Viewer, cancel) : null;
    }
}
