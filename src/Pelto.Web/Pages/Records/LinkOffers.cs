namespace Pelto.Web.Pages;

/// <summary>What links and queries offer to choose from, by all that stands in a form.</summary>
public sealed class LinkOffers(CurrentRequest request, RecordLists lists, OfferTokens tokens, QueryOffers queries)
{
    /// <summary>True when a person may be offered what a link leads to.</summary>
    public bool MayPick(Field link) =>
        link.Target is { } target
        && request.Viewer.MayRead(target)
        && request.Viewer.LevelAt(link) == AccessLevel.Write
        && request.Viewer.MayBeOffered(link);

    /// <summary>What a link offers, by what was typed; null where its line is not there.</summary>
    /// <param name="link">The link, which they may pick by.</param>
    /// <param name="run">The form.</param>
    /// <param name="line">The key of the line on which it stands.</param>
    /// <param name="text">What was typed.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<object?> PickAsync(Field link, EditRun run, string? line, string text, CancellationToken cancel)
    {
        var offer = Offer.To(request.Viewer, link, run.Outcome.State, LineOf(link, run, line));
        if (link.Part.IsLines && offer.Line is null)
            return null;
        if (offer.Missing is { } missing)
        {
            var label = missing.TextIn(request.Locale).Label;
            return new { first = $"Fill {label} first: what can be chosen here depends on it.", found = Array.Empty<object>() };
        }

        var demands = link.Narrowing?.Condition.Demands(offer.Record.FrameAt(offer.Line)).Where(demand => demand.Field.IsTyped) ?? [];
        return new
        {
            found = (await lists.PickAsync(link.Target!, text, request.Viewer, offer: offer, cancel: cancel)).Select(LookUps.Shown),
            offer = tokens.Write(offer),
            with = string.Concat(
                demands.Select(demand => $"&with={Uri.EscapeDataString($"{demand.Field.Code}~{Written(demand.Field, demand.Value)}")}")
            ),
        };
    }

    /// <summary>What a field's query offers; null where its line is not there.</summary>
    /// <param name="asked">The field.</param>
    /// <param name="run">The form.</param>
    /// <param name="line">The key of the line on which it stands.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<object?> AskAsync(Field asked, EditRun run, string? line, CancellationToken cancel)
    {
        var at = LineOf(asked, run, line);
        if (asked.Part.IsLines && at is null)
            return null;
        var (offered, failure) = await queries.OfAsync(asked, run.Outcome.State, at, request.Viewer, cancel);
        return new { offered = offered.Select(value => asked.Kind.Format(value, request.Locale)), failure };
    }

    private static LineState? LineOf(Field field, EditRun run, string? line) =>
        field.Part.IsLines ? run.Outcome.State.LinesOf(field.Part).FirstOrDefault(row => row.Key == line) : null;

    private static string Written(Field field, Value value) => field.Kind.IsChoice ? value.Text : field.Kind.Format(value);
}
