using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.Features;

namespace Pelto.Web.Components;

/// <summary>
/// Bringing files and reading them. A file is read by way of the record that it belongs to, so that access to the record decides.
/// </summary>
internal static class FileRoutes
{
    public static void MapFiles(this WebApplication app)
    {
        app.MapPost("/files", BringAsync).RequireAuthorization().DisableAntiforgery();
        app.MapGet(
                "/files/{id:guid}",
                async (Guid id, HttpContext context, Files files, CurrentRequest request, CancellationToken cancel) =>
                    Send(await files.FindOwnAsync(id, request.Viewer, cancel), context)
            )
            .RequireAuthorization();
        app.MapGet("/files/{type}/{record:long}/{field}", ReadAsync).RequireAuthorization();
    }

    /// <summary>Where a value is read: by its record once that is kept, before that by those who brought it.</summary>
    public static string AddressOf(Field field, long? record, long? line, Value value) =>
        value.DataType != DataType.File ? ""
        : record is null ? $"/files/{value.FileId}"
        : $"/files/{field.Part.RecordType.Code}/{record}/{field.Id}?of={value.FileId}{(line is null ? "" : $"&line={line}")}";

    public static async Task<IResult> ReadAsync(
        string type,
        long record,
        string field,
        long? line,
        Guid? of,
        HttpContext context,
        Files files,
        CurrentRequest request,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var asked))
            return Results.NotFound();
        var file = await files.FindAsync(found, record, asked, line, request.Viewer, cancel);

        // Just brought, and not saved with the record yet.
        if (of is { } id && file?.Id != id)
            file = await files.FindOwnAsync(id, request.Viewer, cancel);
        return Send(file, context, asked.Part.RecordType.Guarding.Restrains(asked));
    }

    /// <summary>Takes a file in, from a form or as the plain body with its name beside.</summary>
    public static async Task<(StoredFile? File, string? Refusal)> TakeAsync(
        HttpContext context,
        string? name,
        string? field,
        Files files,
        CurrentRequest request,
        CancellationToken cancel
    )
    {
        context.Features.Get<IHttpMaxRequestBodySizeFeature>()?.MaxRequestBodySize = FileRules.LargestSize + (1024 * 1024);
        if (context.Request.ContentLength > FileRules.LargestSize + (1024 * 1024))
            return (null, TooLarge);
        name = Path.GetFileName((name ?? "").Replace('\\', '/')).Trim();
        if (!FileRules.IsName(name))
            return (null, "A file has a name of 1 to 200 characters, without slashes.");
        using var content = new MemoryStream();
        try
        {
            await context.Request.Body.CopyToAsync(content, cancel);
        }
        catch (BadHttpRequestException)
        {
            return (null, TooLarge);
        }

        if (content.Length == 0)
            return (null, $"“{name}” is empty.");
        return content.Length > FileRules.LargestSize
            ? (null, TooLarge)
            : await files.BringAsync(name, content.ToArray(), request.Catalogue.FindField(field ?? ""), request.Viewer, cancel);
    }

    private const string TooLarge = "A file has at most 20 MB.";

    private static async Task<IResult> BringAsync(
        string? name,
        string? field,
        bool? image,
        HttpContext context,
        IAntiforgery antiforgery,
        Files files,
        CurrentRequest request,
        CancellationToken cancel
    )
    {
        if (!await antiforgery.IsRequestValidAsync(context))
            return Results.BadRequest();
        var (file, refusal) = await TakeAsync(context, name, field, files, request, cancel);
        if (file is null)
            return Results.Json(new { refusal });
        if (image == true && !file.MediaType.StartsWith("image/", StringComparison.Ordinal))
            return Results.Json(new { refusal = $"“{file.Name}” is not a picture: PNG, JPEG, GIF and WebP are taken." });
        return Results.Json(
            new
            {
                value = $"{file.Id}/{file.Name}",
                name = file.Name,
                address = $"/files/{file.Id}",
            }
        );
    }

    // Pictures are shown; all else is saved rather than opened, since what a browser opens it may also run.
    // What is guarded is left in no cache, not the browser's own either.
    private static IResult Send(StoredFile? file, HttpContext context, bool isGuarded = true)
    {
        if (file is null)
            return Results.NotFound();
        context.Response.Headers.ContentSecurityPolicy = "default-src 'none'; sandbox";
        context.Response.Headers.CacheControl = isGuarded ? "no-store" : "private, max-age=3600";
        return file.MediaType.StartsWith("image/", StringComparison.Ordinal)
            ? Results.Bytes(file.Content, file.MediaType)
            : Results.Bytes(file.Content, file.MediaType, file.Name);
    }
}
