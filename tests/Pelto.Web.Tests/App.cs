using System.Net.Http.Headers;
using System.Net.Http.Json;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.Logging;
using Pelto.Core.Access;
using Pelto.Data.Definitions;
using Pelto.Data.Jobs;
using Pelto.Data.SigningIn;
using Pelto.Tests;

namespace Pelto.Web.Tests;

/// <summary>The whole application on a database of its own.</summary>
public sealed class App : WebApplicationFactory<Program>, IAsyncLifetime
{
    private readonly string database = $"pelto_test_{Guid.NewGuid():N}";

    /// <summary>The connection string of its database.</summary>
    public string Connection { get; private set; } = "";

    public async ValueTask InitializeAsync() => Connection = await TemplateDatabase.CopyAsync(database);

    public override async ValueTask DisposeAsync()
    {
        await base.DisposeAsync();
        await TemplateDatabase.DropAsync(database);
    }

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        builder.UseSetting(Application.DatabaseSetting, Connection);
        builder.UseSetting(Application.HostSetting, TemplateDatabase.HostFolder);
        builder.UseSetting(Application.KeySetting, TemplateDatabase.KeyFile);
        builder.UseEnvironment("Production");

        // The test server has no limit that could be set, and would say so with each request.
        builder.ConfigureLogging(logging =>
            logging
                .AddFilter("Microsoft.AspNetCore.Mvc.Filters", LogLevel.Error)
                .AddFilter("Microsoft.AspNetCore.Routing.EndpointRoutingMiddleware", LogLevel.Error)
                .AddProvider(failures)
        );
    }

    private readonly FailureLog failures = new();

    /// <summary>What the server has put down as failures of its own.</summary>
    public IReadOnlyCollection<string> Failures => failures.All;

    /// <summary>Waits until what releases do with many records in the background is done.</summary>
    public async Task JobsAreDoneAsync()
    {
        var jobs = Services.GetRequiredService<JobRunner>();
        while ((await jobs.AllAsync()).Any(job => job.State == JobState.Running))
            await jobs.RunOpenAsync();
    }

    /// <summary>The programming interface as a person, or as the first person of a role; null is nobody.</summary>
    public async Task<HttpClient> InterfaceAsync(string? person)
    {
        var client = CreateClient(new() { AllowAutoRedirect = false });
        client.BaseAddress = new Uri(client.BaseAddress!, "/api/v1/");
        if (person is not null)
            client.DefaultRequestHeaders.Authorization = new(
                "Bearer",
                await TokenAsync(person, new([], Writes: true, SetsUp: true), TimeSpan.FromDays(1))
            );
        return client;
    }

    /// <summary>A token of a person, or of the first person of a role.</summary>
    public async Task<string> TokenAsync(string person, TokenLimits limits, TimeSpan lasts)
    {
        var viewer = (await Services.GetRequiredService<People>().ViewerAsync(person))!;
        return await Services.GetRequiredService<Tokens>().MakeAsync(viewer, "For a test", limits, lasts, viewer);
    }

    /// <summary>A browser in which a person is signed in.</summary>
    public async Task<HttpClient> BrowserAsync(string person)
    {
        var client = CreateClient(new() { AllowAutoRedirect = false });
        var page = await client.PageAsync("/account/sign-in");
        var button = page.QuerySelectorAll("button[name=pick]")
            .Single(candidate => candidate.TextContent.Contains(person, StringComparison.Ordinal));
        var answer = await client.PostAsync(
            "/account/sign-in",
            new FormUrlEncodedContent([new("pick", button.GetAttribute("value")!), new("__RequestVerificationToken", page.Token())])
        );
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        return client;
    }
}

internal static class Talking
{
    public static async Task<JsonObject> JsonAsync(this HttpResponseMessage answer, HttpStatusCode expected = HttpStatusCode.OK)
    {
        var text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.StatusCode == expected, $"{(int)answer.StatusCode} instead of {(int)expected}: {text}");
        return JsonNode.Parse(text)!.AsObject();
    }

    public static async Task<JsonObject> GetJsonAsync(this HttpClient client, string path) =>
        await (await client.GetAsync(path)).JsonAsync();

    public static Task<HttpResponseMessage> SendJsonAsync(
        this HttpClient client,
        HttpMethod method,
        string path,
        string body,
        string? ifMatch = null
    )
    {
        var request = new HttpRequestMessage(method, path)
        {
            Content = new StringContent(body, new MediaTypeHeaderValue("application/json")),
        };
        if (ifMatch is not null)
            request.Headers.TryAddWithoutValidation("If-Match", ifMatch);
        return client.SendAsync(request);
    }

    /// <summary>Puts one more field in the draft and publishes it.</summary>
    public static async Task PublishAsync(this HttpClient client, string field)
    {
        var draft = await client.GetJsonAsync("setup/draft");
        draft["fields"]!.AsArray().Add(JsonNode.Parse(field));
        await (await client.PutAsJsonAsync("setup/draft", draft)).JsonAsync();
        await (await client.PostAsJsonAsync("setup/publish", new { comment = "For a test" })).JsonAsync();
    }

    public static async Task<IHtmlDocument> PageAsync(this HttpClient client, string path)
    {
        var answer = await client.GetAsync(path);
        var text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, $"{(int)answer.StatusCode} at {path}: {text}");
        return new HtmlParser().ParseDocument(text);
    }

    public static string Token(this IHtmlDocument page) =>
        page.QuerySelector("main input[name=__RequestVerificationToken]")!.GetAttribute("value")!;

    /// <summary>What a browser would send of a record's form, with some inputs filled.</summary>
    public static FormUrlEncodedContent Filled(this IHtmlDocument page, params (string Name, string Value)[] typed)
    {
        var values = new List<KeyValuePair<string, string>>();
        foreach (var input in page.QuerySelectorAll("#record input, #record select").Where(input => input.GetAttribute("name") is not null))
        {
            var name = input.GetAttribute("name")!;
            var value = input is IHtmlSelectElement select ? select.Value ?? "" : input.GetAttribute("value") ?? "";
            values.Add(new(name, typed.FirstOrDefault(pair => pair.Name == name) is { Name: not null } found ? found.Value ?? "" : value));
        }

        return new(values);
    }
}
