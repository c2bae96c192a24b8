using System.Text.Json.Nodes;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Records;
using Pelto.Data.Definitions;
using Pelto.Data.Records;

namespace Pelto.Web.Api;

/// <summary>What came in through public forms: reading, accepting, refusing.</summary>
internal static class EntriesInterface
{
    public static void MapEntries(this RouteGroupBuilder api)
    {
        api.MapGet("records/{type}/entries", ListAsync);
        api.MapPost("records/{type}/entries/{id:guid}/accept", AcceptAsync);
        api.MapPost(
            "records/{type}/entries/{id:guid}/refuse",
            (string type, Guid id, CurrentRequest request, Entries entries, CancellationToken cancel) =>
                DecideAsync(type, request, found => entries.RefuseAsync(found, id, request.Viewer, cancel))
        );
        api.MapPost(
            "records/{type}/entries/{id:guid}/wait",
            (string type, Guid id, CurrentRequest request, Entries entries, CancellationToken cancel) =>
                DecideAsync(type, request, found => entries.UnrefuseAsync(found, id, request.Viewer, cancel))
        );
    }

    private static async Task<IResult> ListAsync(
        string type,
        string? state,
        CurrentRequest request,
        Entries entries,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found)
            return RecordsInterface.NoType(type);
        if (!Enum.TryParse<EntryState>(state ?? nameof(EntryState.Waiting), ignoreCase: true, out var wanted) || int.TryParse(state, out _))
            return Problems.For(StatusCodes.Status400BadRequest, "state is waiting, accepted or refused.");
        var rows = await entries.ReadAsync(found, wanted, request.Viewer, RecordLists.LargestPage, cancel);
        return Results.Json(new JsonObject { ["entries"] = new JsonArray([.. rows.Select(entry => Written(entry, request.Viewer))]) });
    }

    // What the entry says, and over that what the body says.
    private static async Task<IResult> AcceptAsync(
        string type,
        Guid id,
        HttpContext context,
        CurrentRequest request,
        Entries entries,
        RecordSaver saver,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found)
            return RecordsInterface.NoType(type);
        if (await entries.FindAsync(found, id, request.Viewer, cancel) is not { } entry)
            return Problems.NotFound("There is no such entry.");
        var changes = RecordChanges.Between(entry.Begun);
        changes.Entry = id;
        if (RecordsInterface.HasBody(context))
        {
            var (sent, refusal) = await RecordsInterface.BodyAsync(context, found, request, lists, cancel);
            if (refusal is not null)
                return refusal;
            changes.Put(sent);
        }

        return await RecordsInterface.CreatedAsync(found, changes, context, request, saver, cancel);
    }

    private static async Task<IResult> DecideAsync(string type, CurrentRequest request, Func<RecordType, Task<bool>> decide)
    {
        if (request.Find(type) is not { } found)
            return RecordsInterface.NoType(type);
        return await decide(found)
            ? Results.NoContent()
            : Problems.For(StatusCodes.Status409Conflict, "It was decided already, or does not exist.");
    }

    private static JsonNode Written(Entry entry, Viewer viewer)
    {
        var json = RecordJson.Write(entry.Begun, viewer);
        json.Insert(0, "id", entry.Row.Id.ToString());
        json["reference"] = entry.Row.Reference;
        json["state"] = entry.Row.State.ToString().ToLowerInvariant();
        json["sent"] = new JsonObject
        {
            ["at"] = entry.Row.SentAt.UtcDateTime.ToString("O"),
            ["form"] = entry.Row.Form,
            ["release"] = entry.Row.Release,
            ["address"] = entry.Row.Address,
            ["agent"] = entry.Row.Agent,
        };
        if (entry.Row.DecidedAt is { } at)
            json["decided"] = new JsonObject
            {
                ["at"] = at.UtcDateTime.ToString("O"),
                ["by"] = entry.Row.DecidedBy,
                ["record"] = entry.Row.RecordId,
            };
        return json;
    }
}
