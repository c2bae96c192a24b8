using Pelto.Core.Access;

namespace Pelto.Web.Tests;

/// <summary>How often programs may call: by person, as an installation sets it, and so that clients wait and go on by themselves.</summary>
public sealed class InterfaceLimitTests(App app) : IClassFixture<App>
{
    [Fact(
        DisplayName = "One person is held to what the installation says, with however many tokens; "
            + "others go on, and a common client library gets everything through by itself (Retry-After, RFC 9110, 10.2.3)"
    )]
    public async Task People_are_counted()
    {
        await using var held = app.WithWebHostBuilder(host =>
            host.UseSetting("PELTO_CALLS_A_SECOND", "20").UseSetting("PELTO_CALLS_AT_ONCE", "30")
        );
        HttpClient With(string token, HttpMessageHandler? handler = null)
        {
            var client = handler is null ? held.CreateClient() : new HttpClient(handler) { BaseAddress = held.Server.BaseAddress };
            client.DefaultRequestHeaders.Authorization = new("Bearer", token);
            return client;
        }

        var limits = new TokenLimits([], Writes: true, SetsUp: true);
        string[] tokens =
        [
            await app.TokenAsync("order_desk", limits, TimeSpan.FromDays(1)),
            await app.TokenAsync("order_desk", limits, TimeSpan.FromDays(1)),
        ];
        var (one, two, other) = (
            With(tokens[0]),
            With(tokens[1]),
            With(await app.TokenAsync("administrator", limits, TimeSpan.FromDays(1)))
        );
        const string Path = "/api/v1/records/partner/5";
        var answers = await Task.WhenAll(Enumerable.Range(0, 80).Select(turn => (turn % 2 == 0 ? one : two).GetAsync(Path)));
        Assert.InRange(answers.Count(answer => answer.StatusCode == HttpStatusCode.OK), 30, 70);
        var refused = answers.First(answer => answer.StatusCode == HttpStatusCode.TooManyRequests);
        Assert.Equal(TimeSpan.FromSeconds(1), refused.Headers.RetryAfter!.Delta);
        Assert.Equal(HttpStatusCode.OK, (await other.GetAsync(Path)).StatusCode);

        // Microsoft.Extensions.Http.Resilience as it comes: it reads Retry-After.
        var services = new ServiceCollection();
        services
            .AddHttpClient("patient")
            .ConfigurePrimaryHttpMessageHandler(() => held.Server.CreateHandler())
            .AddStandardResilienceHandler();
        await using var made = services.BuildServiceProvider();
        var patient = made.GetRequiredService<IHttpClientFactory>().CreateClient("patient");
        (patient.BaseAddress, patient.DefaultRequestHeaders.Authorization) = (held.Server.BaseAddress, new("Bearer", tokens[0]));
        var all = await Task.WhenAll(Enumerable.Range(0, 40).Select(_ => patient.GetAsync(Path)));
        Assert.All(all, answer => Assert.Equal(HttpStatusCode.OK, answer.StatusCode));
    }
}
