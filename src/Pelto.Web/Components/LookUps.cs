namespace Pelto.Web.Components;

/// <summary>What inputs ask while somebody types.</summary>
internal static class LookUps
{
    private const int MaxShown = 30;

    public static void MapLookUps(this WebApplication app)
    {
        app.MapGet("/choose/{type}/{field}", Choose).RequireAuthorization();
        app.MapGet("/find", async (string? text, FindOrDo finder, CancellationToken cancel) =>
                Results.Json(await finder.FindAsync(text ?? "", cancel))
            )
            .RequireAuthorization();
        app.MapGet(
                "/pick/{type}",
                async (string type, string? text, string? field, CurrentRequest request, RecordLists lists, CancellationToken cancel) =>
                    request.Find(type) is { } found
                        ? Results.Json(
                            (
                                await lists.PickAsync(
                                    found,
                                    text ?? "",
                                    request.Viewer,
                                    link: request.Catalogue.FindField(field ?? "") is { Narrowing: null } link && link.Target == found
                                        ? link
                                        : null,
                                    cancel: cancel
                                )
                            ).Select(Shown)
                        )
                        : Results.NotFound()
            )
            .RequireAuthorization();
    }

    /// <summary>A target as pickers show it.</summary>
    public static object Shown(Target target) =>
        new
        {
            id = target.Id,
            code = target.Identifier,
            name = target.Name,
            text = target.Text,
            details = string.Join(" · ", target.Details),
            recent = target.IsRecent,
        };

    // What begins so first, then what holds a word that begins so, then what holds it anywhere.
    private static IResult Choose(string type, string field, string? text, CurrentRequest request)
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var asked) || asked.Kind.Choices is not { } choices)
            return Results.NotFound();
        var words = (text ?? "").Trim();
        var fitting = choices
            .Offered(request.Locale)
            .Select(choice => (choice, rank: Rank(choice.LabelIn(request.Locale), words)))
            .Where(pair => pair.rank < 3)
            .OrderBy(pair => pair.rank)
            .Select(pair => pair.choice)
            .Take(MaxShown);
        return Results.Json(
            fitting.Select(choice => new
            {
                id = choice.Code,
                code = "",
                name = choice.LabelIn(request.Locale),
                text = choice.LabelIn(request.Locale),
                colour = choice.Colour,
            })
        );
    }

    /// <summary>How well a text fits what was typed: begins so, has a word that begins so, holds it, or (3) does not.</summary>
    public static int Rank(string text, string typed)
    {
        const CompareOptions Loose = CompareOptions.IgnoreCase | CompareOptions.IgnoreNonSpace;
        var compare = CultureInfo.InvariantCulture.CompareInfo;
        return compare.IsPrefix(text, typed, Loose) ? 0
            : text.Split(' ', '-', '/', '_').Any(word => compare.IsPrefix(word, typed, Loose)) ? 1
            : compare.IndexOf(text, typed, Loose) >= 0 ? 2
            : 3;
    }
}
