using System.Text.Json.Nodes;
using Pelto.Core.Records;

namespace Pelto.Web.Api;

/// <summary>Records: list, read, create, change, delete, and trying without saving.</summary>
internal static class RecordsInterface
{
    private const int UsualPage = 50;

    public static void MapRecords(this RouteGroupBuilder api)
    {
        var records = api.MapGroup("records/{type}").AddEndpointFilter(new AddressedType());
        records.MapGet("", ListAsync);
        records.MapGet("groups", GroupAsync);
        records.MapPost("", CreateAsync);
        records.MapPost("try", TryAsync);
        records.MapGet("{id:long}", ReadAsync);
        records.MapPatch("{id:long}", ChangeAsync);
        records.MapDelete("{id:long}", DeleteAsync);
        records.MapPost("{id:long}/next/{next}", FollowAsync);
        records.MapGet("{record:long}/files/{field}", FileRoutes.ReadAsync);
        records.MapPost("{id:long}/reveal/{field}", RevealAsync);
        records.MapEntries();
        api.MapPost("files", BringAsync);
    }

    private static async Task<IResult> ListAsync(
        CurrentRequest request,
        RecordLists lists,
        string? order,
        string? take,
        string? after,
        string? search,
        string[]? filter,
        CancellationToken cancel
    )
    {
        if (RecordLists.TryOrder(request.Type, order, request.Viewer, out var keys) is { } wrong)
            return Problems.For(StatusCodes.Status400BadRequest, wrong);
        if (!TryTake(take, out var rows))
            return Problems.For(StatusCodes.Status400BadRequest, $"take is a whole number from 1 to {RecordLists.LargestPage}.");
        if (TryFilters(request.Type, filter, request, out var filters) is { } notFiltered)
            return notFiltered;
        try
        {
            var page = await lists.ReadAsync(new(request.Type, keys, rows, after, search) { Filters = filters }, request.Viewer, cancel);
            var fields = request.Type.Header.Fields.Where(field => request.Viewer.LevelAt(field) > AccessLevel.None).ToList();
            var records = new JsonArray([.. page.Rows.Select(row => Row(fields, row))]);
            return Results.Json(new JsonObject { ["records"] = records, ["next"] = page.Next });
        }
        catch (FormatException unknown)
        {
            return Problems.For(StatusCodes.Status400BadRequest, unknown.Message);
        }
    }

    private static IResult? TryFilters(RecordType type, string[]? said, CurrentRequest request, out List<Filter> filters)
    {
        filters = [];
        foreach (
            var (one, refusal) in (said ?? []).Select(text =>
                Filter.Parse(type, text, field => request.Viewer.LevelAt(field) > AccessLevel.None)
            )
        )
        {
            if (one is null || !FilterInput.MayFilter(request.Viewer, one.Field))
                return Problems.For(StatusCodes.Status400BadRequest, refusal ?? $"You may not search {one!.Field.Label}.");
            filters.Add(one);
        }

        return null;
    }

    private static async Task<IResult> GroupAsync(
        CurrentRequest request,
        RecordLists lists,
        string[]? by,
        string? search,
        string[]? filter,
        CancellationToken cancel
    )
    {
        if (TryFilters(request.Type, filter, request, out var filters) is { } notFiltered)
            return notFiltered;
        var keys = new List<GroupKey>();
        foreach (
            var (key, refusal) in (by ?? []).Select(text =>
                GroupKey.Parse(request.Type, text, field => request.Viewer.LevelAt(field) > AccessLevel.None)
            )
        )
        {
            if (key is not { } one || !FilterInput.MayFilter(request.Viewer, one.Field))
                return Problems.For(StatusCodes.Status400BadRequest, refusal ?? $"There is no field “{key?.Field.Code}” to group by.");
            keys.Add(one);
        }

        if (keys.Count is 0 or > ListGroups.MaxKeys || keys.DistinctBy(key => key.Field).Count() < keys.Count)
            return Problems.For(
                StatusCodes.Status400BadRequest,
                $"Say with “by” what to group by: one field, or {ListGroups.MaxKeys} different ones."
            );
        var groups = await lists.GroupAsync(
            new(request.Type, [], 0, Search: search) { Filters = filters },
            keys,
            ListGroups.Totals(request.Type.Header.Fields, request.Viewer),
            request.Viewer,
            cancel
        );
        return Results.Json(
            new JsonObject
            {
                ["groups"] = new JsonArray([.. groups.Groups.Select(group => Group(groups, group))]),
                ["all"] = Group(groups, groups.All, isAll: true),
                ["more"] = groups.IsMore,
            }
        );
    }

    private static JsonObject Group(ListGroups groups, ListGroup group, bool isAll = false)
    {
        var (values, totals) = (new JsonObject(), new JsonObject());
        foreach (var (key, value) in groups.Keys.Zip(group.Values))
            values[key.Field.Code] =
                value.IsEmpty ? null
                : key.Step == GroupStep.Value ? key.Field.Kind.ToJson(value)
                : key.Format(value, Locale.International);

        // What does not add is left out, so that nobody takes it for nothing.
        foreach (var (field, total) in groups.Totalled.Zip(group.Totals))
            if (!total.IsError)
                totals[field.Code] =
                    total.IsEmpty ? null
                    : total.DataType == DataType.Money ? new JsonObject { ["amount"] = total.Amount, ["currency"] = total.Unit }
                    : field.Kind.ToJson(total);
        var json = new JsonObject { ["count"] = group.Count, ["totals"] = totals };
        if (!isAll)
            json.Insert(0, "values", values);
        return json;
    }

    private static async Task<IResult> BringAsync(
        string? name,
        string? field,
        HttpContext context,
        Files files,
        CurrentRequest request,
        CancellationToken cancel
    )
    {
        var (file, refusal) = await FileRoutes.TakeAsync(context, name, field, files, request, cancel);
        return file is null
            ? Problems.For(StatusCodes.Status422UnprocessableEntity, refusal!)
            : Results.Json(
                new
                {
                    id = file.Id,
                    name = file.Name,
                    mediaType = file.MediaType,
                },
                statusCode: StatusCodes.Status201Created
            );
    }

    private static async Task<IResult> RevealAsync(
        long id,
        string field,
        long? line,
        HttpContext context,
        CurrentRequest request,
        SecretShowing secrets,
        CancellationToken cancel
    )
    {
        if (!request.Type.TryFindField(field, out var asked) && (asked = request.Type.Header.Find(field)) is null || !asked.Kind.IsSecret)
            return Problems.NotFound($"There is no secret “{field}”.");
        context.Response.Headers.CacheControl = "no-store";
        var text = await secrets.RevealAsync(request.Type, id, asked, line, request.Viewer, cancel);
        return text is null ? Problems.NotFound("There is nothing to show.") : Results.Json(new { text });
    }

    private static async Task<IResult> ReadAsync(
        long id,
        HttpContext context,
        CurrentRequest request,
        RecordStore store,
        CancellationToken cancel
    )
    {
        if (await store.FindAsync(request.Type, id, request.Viewer, cancel) is not { } state)
            return NoRecord(request.Type, id);
        if (context.Request.Headers.IfNoneMatch.ToString() == Tag(state))
            return Results.StatusCode(StatusCodes.Status304NotModified);
        return Answer(state, context, request.Viewer);
    }

    private static async Task<IResult> CreateAsync(
        HttpContext context,
        CurrentRequest request,
        RecordSaver saver,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        var (changes, refusal) = await RecordBodies.ReadAsync(context, request.Type, request, lists, cancel);
        if (refusal is not null)
            return refusal;
        return await CreatedAsync(request.Type, changes, context, request, saver, cancel);
    }

    /// <summary>Saves a new record, and answers with it and where it is.</summary>
    public static async Task<IResult> CreatedAsync(
        RecordType type,
        RecordChanges changes,
        HttpContext context,
        CurrentRequest request,
        RecordSaver saver,
        CancellationToken cancel
    )
    {
        var saving = await saver.SaveAsync(type, null, changes, request.Viewer, cancel: cancel);
        if (saving.Result != SaveResult.Saved)
            return Refused(saving.Outcome, changes);
        context.Response.Headers.Location = $"{Interface.Root}/records/{type.Code}/{saving.Outcome.State.Id}";
        return await SavedAsync(saving.Outcome.State, context, request.Viewer, StatusCodes.Status201Created);
    }

    // The document that follows, with all that is open; what the body says is put over that.
    private static async Task<IResult> FollowAsync(
        long id,
        string next,
        HttpContext context,
        CurrentRequest request,
        RecordStore store,
        RecordSaver saver,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        if (request.Find(next) is not { } to || to.Follows.FirstOrDefault(one => one.Source == request.Type) is not { } follow)
            return Problems.NotFound($"No {next} follows a {request.Type.Label.ToLowerInvariant()}.");
        if (!request.Viewer.MayCreate(to))
            throw new AccessRefusedException($"You may not create {to.Plural.ToLowerInvariant()}.");
        var (begun, none) = await store.FollowAsync(follow, id, request.Viewer, cancel);
        if (begun is null)
            return none is null ? NoRecord(request.Type, id) : Problems.For(StatusCodes.Status409Conflict, none);
        var changes = RecordChanges.Between(begun);
        if (RecordBodies.Has(context))
        {
            var (sent, refusal) = await RecordBodies.ReadAsync(context, to, request, lists, cancel);
            if (refusal is not null)
                return refusal;
            changes.Put(sent);
        }

        return await CreatedAsync(to, changes, context, request, saver, cancel);
    }

    private static async Task<IResult> TryAsync(
        long? id,
        HttpContext context,
        CurrentRequest request,
        RecordStore store,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        var (changes, refusal) = await RecordBodies.ReadAsync(context, request.Type, request, lists, cancel);
        if (refusal is not null)
            return refusal;
        if (await store.TryAsync(request.Type, id, changes, request.Viewer, cancel: cancel) is not { } outcome)
            return NoRecord(request.Type, id!.Value);
        var answer = RecordJson.Write(outcome.State, request.Viewer);
        answer["messages"] = new JsonArray([
            .. outcome.Messages.Select(message => new JsonObject
            {
                ["pointer"] = "#" + RecordJson.Pointer(message.At, changes),
                ["detail"] = message.Sentence,
            }),
        ]);
        return Results.Json(answer);
    }

    private static async Task<IResult> ChangeAsync(
        long id,
        HttpContext context,
        CurrentRequest request,
        RecordSaver saver,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        var (changes, refusal) = await RecordBodies.ReadAsync(context, request.Type, request, lists, cancel);
        if (refusal is not null)
            return refusal;
        var saving = await saver.SaveAsync(request.Type, id, changes, request.Viewer, Wanted(context), cancel: cancel);
        return saving.Result switch
        {
            SaveResult.Saved => await SavedAsync(saving.Outcome.State, context, request.Viewer, StatusCodes.Status200OK),
            SaveResult.Stale => Stale(saving.Outcome.State, context),
            SaveResult.Gone => NoRecord(request.Type, id),
            _ => Refused(saving.Outcome, changes),
        };
    }

    private static async Task<IResult> DeleteAsync(
        long id,
        HttpContext context,
        CurrentRequest request,
        RecordDeleter deleter,
        CancellationToken cancel
    )
    {
        var deletion = await deleter.DeleteAsync(request.Catalogue, request.Type, id, request.Viewer, Wanted(context), cancel);
        return deletion.Result switch
        {
            SaveResult.Saved => Results.NoContent(),
            SaveResult.Gone => NoRecord(request.Type, id),
            SaveResult.Stale => Stale(null, context),
            _ => Problems.For(StatusCodes.Status409Conflict, deletion.Refusal!),
        };
    }

    private static JsonNode Row(IReadOnlyList<Field> fields, ListRow row)
    {
        var (values, masked) = (new JsonObject(), new JsonArray());
        foreach (var cell in fields.Select(field => row[field]))
        {
            if (cell.IsRead)
                values[cell.Field.Code] = cell.ToJson();
            else if (cell.Mask is not null)
                masked.Add($"/values/{cell.Field.Code}");
        }

        var json = new JsonObject { ["id"] = row.Id, ["values"] = values };
        if (masked.Count > 0)
            json["masked"] = masked;
        return json;
    }

    private static async Task<IResult> SavedAsync(RecordState state, HttpContext context, Viewer viewer, int status) =>
        Answer(
            state,
            context,
            viewer,
            status,
            await context.RequestServices.GetRequiredService<StockNotes>().OfAsync(state, viewer, context.RequestAborted)
        );

    private static IResult Answer(
        RecordState state,
        HttpContext context,
        Viewer viewer,
        int status = StatusCodes.Status200OK,
        string? note = null
    )
    {
        context.Response.Headers.ETag = Tag(state);
        var json = RecordJson.Write(state, viewer);
        if (RecordJson.WriteOrigins(state, viewer) is { } origins)
            json["origins"] = origins;
        if (RecordJson.WriteMasked(state, viewer) is { } masked)
            json["masked"] = masked;
        if (note is not null)
            json["notes"] = new JsonArray(note);
        return Results.Json(json, statusCode: status);
    }

    private static IResult Refused(Outcome outcome, RecordChanges changes) =>
        Problems.For(
            StatusCodes.Status422UnprocessableEntity,
            outcome.Messages[0].Sentence,
            outcome.Messages.Select(message => (RecordJson.Pointer(message.At, changes), message.Sentence))
        );

    private static IResult Stale(RecordState? now, HttpContext context)
    {
        if (now is not null)
            context.Response.Headers.ETag = Tag(now);
        return Problems.For(
            StatusCodes.Status412PreconditionFailed,
            "Somebody changed this record meanwhile. Read it again and repeat your change."
        );
    }

    private static string Tag(RecordState state) => $"\"{state.Version}\"";

    internal static string? Wanted(HttpContext context) =>
        context.Request.Headers.IfMatch.ToString() is { Length: > 0 } tag and not "*" ? tag.Trim('"') : null;

    private static bool TryTake(string? text, out int rows)
    {
        rows = UsualPage;
        return string.IsNullOrEmpty(text) || (int.TryParse(text, out rows) && rows is >= 1 and <= RecordLists.LargestPage);
    }

    /// <summary>The answer where there is no such record.</summary>
    public static IResult NoRecord(RecordType type, long id) =>
        Problems.NotFound($"There is no {type.Label.ToLowerInvariant()} with the id {id}.");
}
