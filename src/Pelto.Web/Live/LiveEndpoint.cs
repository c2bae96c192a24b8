using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Live;

/// <summary>Server-sent events (WHATWG HTML, 9.2) for open pages; an open connection is also how others know who works where.</summary>
internal static class LiveEndpoint
{
    public static void MapLive(this WebApplication app)
    {
        app.MapGet("/live", ServeAsync).RequireAuthorization();
        app.MapGet("/live/changes", ChangesAsync).RequireAuthorization();
    }

    public static LiveEvent ReleaseEvent(Catalogue catalogue) =>
        new("release", JsonSerializer.Serialize(new { release = catalogue.Release }));

    // What changed since a page was drawn on the screen that somebody has of a record type, for the notice on it.
    private static async Task<IResult> ChangesAsync(
        CurrentRequest request,
        Catalogues catalogues,
        string type,
        int since,
        bool adding = false
    )
    {
        if (request.Find(type) is not { } now)
            return Results.NotFound();
        if ((await catalogues.AtAsync(since)).Find(type) is not { } before)
            return Results.Json(
                new
                {
                    release = request.Catalogue.Release,
                    isAny = true,
                    said = "It changed this screen.",
                }
            );
        var difference = ScreenDifference.Between(before, now, request.Viewer, adding ? RecordMode.Adding : RecordMode.Changing);
        return Results.Json(
            new
            {
                release = request.Catalogue.Release,
                difference.IsAny,
                said = Describe(difference),
            }
        );
    }

    private static string Describe(ScreenDifference difference)
    {
        var parts = new List<string>();
        if (difference.Fields > 0)
            parts.Add(difference.Fields == 1 ? "one field" : $"{difference.Fields} fields");
        if (difference.Arrangement)
            parts.Add("the arrangement");
        if (difference.Rights)
            parts.Add("what you may do");
        if (parts.Count == 0)
            return "";
        var said = GrantWords.Listed(parts);
        return $"{char.ToUpperInvariant(said[0])}{said[1..]} changed on this screen.";
    }

    private static async Task ServeAsync(
        HttpContext context,
        CurrentRequest request,
        LiveHub hub,
        Presences presences,
        Sessions sessions,
        Catalogues catalogues,
        IHostApplicationLifetime lifetime,
        string? type,
        string? title,
        int? release
    )
    {
        using var end = CancellationTokenSource.CreateLinkedTokenSource(context.RequestAborted, lifetime.ApplicationStopping);
        var (page, cancel) = (Guid.CreateVersion7(), end.Token);
        context.Response.ContentType = "text/event-stream";
        context.Response.Headers.CacheControl = "no-store";
        var events = hub.Enter(page);
        try
        {
            await presences.SeenAsync(page, request.Viewer, Cut(type), Cut(title), cancel);
            await SendAsync(context, new("hello", "{}"), cancel);
            if (release is { } drawn && drawn != catalogues.Live.Release)
                await SendAsync(context, ReleaseEvent(catalogues.Live), cancel);
            while (!cancel.IsCancellationRequested)
            {
                using var pulse = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                pulse.CancelAfter(Presences.Pulse);
                try
                {
                    await SendAsync(context, await events.ReadAsync(pulse.Token), cancel);
                }
                catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
                {
                    // Whoever is signed out meanwhile hears no more.
                    if (request.Who.Session is { } session && await sessions.FindAsync(session, isUse: false, cancel) is null)
                        break;
                    await context.Response.WriteAsync(": still here\n\n", cancel);
                    await context.Response.Body.FlushAsync(cancel);
                    await presences.SeenAsync(page, request.Viewer, Cut(type), Cut(title), cancel);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // The page was closed, or the server stops.
        }
        finally
        {
            hub.Leave(page);
            try
            {
                await presences.GoneAsync(page);
            }
            catch (Exception error) when (error is Npgsql.NpgsqlException or DbUpdateException)
            {
                // It falls silent instead, and is skipped after a while.
            }
        }
    }

    private static async Task SendAsync(HttpContext context, LiveEvent happened, CancellationToken cancel)
    {
        await context.Response.WriteAsync($"event: {happened.Name}\ndata: {happened.Data}\n\n", cancel);
        await context.Response.Body.FlushAsync(cancel);
    }

    private static string Cut(string? text) => string.Concat((text ?? "").Where(c => !char.IsControl(c)).Take(100));
}
