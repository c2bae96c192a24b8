using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Threading.Channels;
using Microsoft.EntityFrameworkCore;
using Pelto.Core.Releases;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Live;

/// <summary>Server-sent events (WHATWG HTML, 9.2) for open pages; an open connection is also how others know who works where.</summary>
internal static class LiveEndpoint
{
    public static void MapLive(this WebApplication app)
    {
        app.MapGet("/live", Serve).RequireAuthorization();
        app.MapGet("/live/changes", ChangesAsync).RequireAuthorization();
    }

    public static SseItem<string> ReleaseEvent(Catalogue catalogue) =>
        new(JsonSerializer.Serialize(new { release = catalogue.Release }), "release");

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

    private static IResult Serve(
        CurrentRequest request,
        LiveHub hub,
        Presences presences,
        Sessions sessions,
        Catalogues catalogues,
        IHostApplicationLifetime lifetime,
        HttpContext context,
        string? type,
        string? title,
        int? release
    )
    {
        var page = new OpenPage(Guid.CreateVersion7(), request, Cut(type), Cut(title), hub, presences, sessions);
        context.Response.Headers.CacheControl = "no-store";
        return TypedResults.ServerSentEvents(EventsAsync(page, release, catalogues, lifetime.ApplicationStopping, context.RequestAborted));
    }

    // Ends when the page is closed, when whoever has it open is signed out, and when the server stops.
    private static async IAsyncEnumerable<SseItem<string>> EventsAsync(
        OpenPage page,
        int? release,
        Catalogues catalogues,
        CancellationToken stopping,
        [EnumeratorCancellation] CancellationToken aborted
    )
    {
        using var end = CancellationTokenSource.CreateLinkedTokenSource(aborted, stopping);
        var events = page.Enter();
        try
        {
            await page.SeenAsync(aborted);
            yield return new("{}", "hello");
            if (release is { } drawn && drawn != catalogues.Live.Release)
                yield return ReleaseEvent(catalogues.Live);
            while (true)
            {
                if (await NextAsync(events, end.Token) is { } happened)
                    yield return happened;
                else if (end.IsCancellationRequested || !await page.IsSignedInAsync(aborted))
                    yield break;
                else
                {
                    await page.SeenAsync(aborted);
                    yield return new("{}", "pulse");
                }
            }
        }
        finally
        {
            await page.LeaveAsync();
        }
    }

    // What happens next; nothing when nothing did for a while, or when it is over.
    private static async Task<SseItem<string>?> NextAsync(ChannelReader<SseItem<string>> events, CancellationToken cancel)
    {
        using var pulse = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        pulse.CancelAfter(Presences.Pulse);
        try
        {
            return await events.ReadAsync(pulse.Token);
        }
        catch (OperationCanceledException)
        {
            return null;
        }
    }

    /// <summary>A page that somebody has open, as others hear of it.</summary>
    private sealed record OpenPage(
        Guid Id,
        CurrentRequest Request,
        string Type,
        string Title,
        LiveHub Hub,
        Presences Presences,
        Sessions Sessions
    )
    {
        public ChannelReader<SseItem<string>> Enter() => Hub.Enter(Id);

        public Task SeenAsync(CancellationToken cancel) => Presences.SeenAsync(Id, Request.Viewer, Type, Title, cancel);

        public async Task<bool> IsSignedInAsync(CancellationToken cancel) =>
            Request.Who.Session is not { } session || await Sessions.FindAsync(session, isUse: false, cancel) is not null;

        public async Task LeaveAsync()
        {
            Hub.Leave(Id);
            try
            {
                await Presences.GoneAsync(Id);
            }
            catch (Exception error) when (error is Npgsql.NpgsqlException or DbUpdateException)
            {
                // It falls silent instead, and is skipped after a while.
            }
        }
    }

    private static string Cut(string? text) => string.Concat((text ?? "").Where(c => !char.IsControl(c)).Take(100));
}
