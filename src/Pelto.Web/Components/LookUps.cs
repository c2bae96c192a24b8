using Pelto.Data.Records;

namespace Pelto.Web.Components;

/// <summary>What inputs ask while somebody types.</summary>
internal static class LookUps
{
    public static void MapLookUps(this WebApplication app) =>
        app.MapGet("/pick/{type}", async (string type, string? text, CurrentRequest request, RecordLists lists, CancellationToken cancel) =>
            request.Find(type) is { } found
                ? Results.Json((await lists.PickAsync(found, text ?? "", request.Viewer, cancel: cancel)).Select(target => new { id = target.Id, code = target.Identifier, name = target.Name, text = target.Text }))
                : Results.NotFound()).RequireAuthorization();
}
