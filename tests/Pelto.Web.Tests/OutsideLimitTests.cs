using System.Net.Http.Json;

namespace Pelto.Web.Tests;

/// <summary>An application of its own, since a flood holds up whoever else comes from the same place.</summary>
public sealed class OutsideLimitTests(App app) : IClassFixture<App>
{
    [Fact(
        DisplayName = "Who asks for a public form again and again is told to wait, "
            + "in a sentence and by Retry-After (RFC 9110, 10.2.3); those who are signed in go on"
    )]
    public async Task Floods_are_held_up()
    {
        var henna = await app.InterfaceAsync("administrator");
        var draft = await henna.GetJsonAsync("setup/draft");
        draft["recordTypes"]!
            .AsArray()
            .Add(
                JsonNode.Parse(
                    """{"id": "t-claim", "code": "claim", "label": "Claim", "plural": "Claims", "read": ["*"], "write": ["order_desk"], "publicForm": {"address": "claims-for-floods", "title": "Claims", "fields": [{"field": "name"}]}}"""
                )
            );
        await (await henna.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await henna.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();

        var stranger = app.CreateClient(new() { AllowAutoRedirect = false });
        var answers = new List<HttpResponseMessage>();
        for (var turn = 0; turn < 130; turn++)
            answers.Add(await stranger.GetAsync("/form/claims-for-floods"));
        Assert.Equal(120, answers.Count(answer => answer.StatusCode == HttpStatusCode.OK));
        var held = answers[^1];
        Assert.Equal((HttpStatusCode.TooManyRequests, TimeSpan.FromSeconds(30)), (held.StatusCode, held.Headers.RetryAfter!.Delta!.Value));
        Assert.Contains("what you typed is still on your page", await held.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await (await app.BrowserAsync("Eero Lahdenmaa")).GetAsync("/records/claim")).StatusCode);
    }
}
