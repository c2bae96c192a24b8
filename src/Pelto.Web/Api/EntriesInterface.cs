using System.Text.Json.Nodes;
using Pelto.Core.Records;

namespace Pelto.Web.Api;

/// <summary>What came in through public forms: reading, accepting, refusing.</summary>
internal static class EntriesInterface
{
    /// <summary>Maps them below the address of a record type.</summary>
    public static void MapEntries(this RouteGroupBuilder records)
    {
        records.MapGet("entries", ListAsync);
        records.MapPost("entries/{id:guid}/accept", AcceptAsync);
        records.MapPost("entries/{id:guid}/refuse", (Guid id, CurrentRequest request, Entries entries, CancellationToken cancel) =>
            DecidedAsync(entries.RefuseAsync(request.Type, id, request.Viewer, cancel))
        );
        records.MapPost("entries/{id:guid}/wait", (Guid id, CurrentRequest request, Entries entries, CancellationToken cancel) =>
            DecidedAsync(entries.UnrefuseAsync(request.Type, id, request.Viewer, cancel))
        );
    }

    private static async Task<IResult> ListAsync(string? state, CurrentRequest request, Entries entries, CancellationToken cancel)
    {
        if (!Enum.TryParse<EntryState>(state ?? nameof(EntryState.Waiting), ignoreCase: true, out var wanted) || int.TryParse(state, out _))
            return Problems.For(StatusCodes.Status400BadRequest, "state is waiting, accepted or refused.");
        var rows = await entries.ReadAsync(request.Type, wanted, request.Viewer, RecordLists.LargestPage, cancel);
        return Results.Json(new JsonObject { ["entries"] = new JsonArray([.. rows.Select(entry => Written(entry, request.Viewer))]) });
    }

    // What the entry says, and over that what the body says.
    private static async Task<IResult> AcceptAsync(
        Guid id,
        HttpContext context,
        CurrentRequest request,
        Entries entries,
        RecordSaver saver,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        if (await entries.FindAsync(request.Type, id, request.Viewer, cancel) is not { } entry)
            return Problems.NotFound("There is no such entry.");
        var changes = RecordChanges.Between(entry.Begun);
        changes.Entry = id;
        if (RecordBodies.Has(context))
        {
            var (sent, refusal) = await RecordBodies.ReadAsync(context, request.Type, request, lists, cancel);
            if (refusal is not null)
                return refusal;
            changes.Put(sent);
        }

        return await RecordsInterface.CreatedAsync(request.Type, changes, context, request, saver, cancel);
    }

    private static async Task<IResult> DecidedAsync(Task<bool> decision) =>
        await decision ? Results.NoContent() : Problems.For(StatusCodes.Status409Conflict, "It was decided already, or does not exist.");

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
