using System.Text.RegularExpressions;

namespace Pelto.Web.Tests.SecondWorld;

/// <summary>An answer without what differs by design: each of these has its reason, and there are no others.</summary>
public sealed partial class Plain
{
    // The same thing gets the same number in both worlds, in the order in which it is met there.
    private readonly Dictionary<string, int> met = new(StringComparer.Ordinal);

    public async Task<string> OfAsync(HttpResponseMessage answer)
    {
        var body =
            answer.Content.Headers.ContentType?.MediaType == "text/event-stream"
                ? await EventAsync(answer)
                : await answer.Content.ReadAsStringAsync();
        return Of($"{(int)answer.StatusCode} {answer.Content.Headers.ContentType} {answer.Headers.Location} {answer.Headers.ETag}\n{body}");
    }

    // Events go on and on; the first is what is so when somebody begins to listen.
    private static async Task<string> EventAsync(HttpResponseMessage answer)
    {
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync());
        var said = $"{await reader.ReadLineAsync()}\n{await reader.ReadLineAsync()}";
        answer.Dispose();
        return said;
    }

    public string Of(string text)
    {
        text = Sealed().Replace(text, "SEALED");
        text = Took().Replace(text, "TOOK");
        text = Times().Replace(text, "TIME");
        text = Guids().Replace(text, Numbered);
        return Digests().Replace(text, Numbered);
    }

    private string Numbered(Match match)
    {
        if (!met.TryGetValue(match.Value, out var number))
            met[match.Value] = number = met.Count;
        return $"#{number}";
    }

    // What data protection seals is random: tokens of forms and of offers.
    [GeneratedRegex(@"CfDJ8[\w\-]+")]
    private static partial Regex Sealed();

    // How long something took.
    [GeneratedRegex(@"\d+([.,]\d+)? (ms|milliseconds|seconds|s)\b")]
    private static partial Regex Took();

    // The time of day at which it was asked.
    [GeneratedRegex(@"\d{1,2}:\d{2}(:\d{2}([.,]\d+)?)?(Z|[+-]\d{2}:\d{2})?")]
    private static partial Regex Times();

    // Ids and references that are made at random.
    [GeneratedRegex(@"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\b[fgqlt]-[0-9a-f]{12}\b|\b[0-9A-Z]{4}-[0-9A-Z]{4}\b")]
    private static partial Regex Guids();

    // Versions of records are digests over the database's own numbers of transactions, which both worlds share.
    [GeneratedRegex(@"\b[0-9A-Fa-f]{16,64}\b")]
    private static partial Regex Digests();
}
