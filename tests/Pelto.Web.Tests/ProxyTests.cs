using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Web.Tests;

/// <summary>A proxy in front, named by <c>PELTO_PROXY</c>: what it says of sender and scheme is believed, and nobody else.</summary>
public sealed class ProxyTests(App app) : IClassFixture<App>
{
    private const string Proxy = "192.0.2.1";
    private const string Name = "pelto.example";

    // The test server has no network: who sends stands in a header of ours. Browsers speak TLS with the proxy, which does not with Pelto.
    private sealed class Senders : IStartupFilter
    {
        public const string Header = "Sent-By";

        public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) =>
            builder =>
            {
                builder.Use(
                    (context, go) =>
                    {
                        context.Request.Scheme = "http";
                        context.Connection.RemoteIpAddress = IPAddress.Parse(context.Request.Headers[Header].ToString());
                        return go(context);
                    }
                );
                next(builder);
            };
    }

    private WebApplicationFactory<Program> Behind(string? proxies) =>
        app.WithWebHostBuilder(host =>
        {
            host.UseSetting(Application.NamesSetting, Name + ", erp.example");
            if (proxies is not null)
                host.UseSetting(Application.ProxySetting, proxies);
            host.ConfigureServices(services => services.AddSingleton<IStartupFilter, Senders>());
        });

    // Signs in as somebody whose requests arrive from one address, with what they say of where they come from.
    private static async Task<HttpResponseMessage> SignInAsync(WebApplicationFactory<Program> server, string sender)
    {
        var browser = server.CreateClient(new() { AllowAutoRedirect = false, BaseAddress = new("https://" + Name) });
        browser.DefaultRequestHeaders.Add(Senders.Header, sender);
        browser.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.7");
        browser.DefaultRequestHeaders.Add("X-Forwarded-Proto", "https");
        var page = await browser.PageAsync("/account/sign-in");
        var pick = page.QuerySelectorAll("button[name=pick]")
            .First(one => one.TextContent.Contains("Otto Hietakari", StringComparison.Ordinal));
        using var form = new FormUrlEncodedContent([
            new("pick", pick.GetAttribute("value")!),
            new("__RequestVerificationToken", page.Token()),
        ]);
        var answer = await browser.PostAsync("/account/sign-in", form);
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        return answer;
    }

    [Theory(
        DisplayName = "What the proxy says of sender and scheme is believed, in the audit, cookies and HSTS; what anybody else says is not"
    )]
    [InlineData(Proxy, Proxy, true)]
    [InlineData("192.0.2.9, 192.0.2.1", Proxy, true)]
    [InlineData("192.0.2.9 192.0.2.1", Proxy, true)]
    [InlineData(Proxy, "198.51.100.20", false)]
    [InlineData("", Proxy, false)]
    [InlineData(null, Proxy, false)]
    public async Task Is_believed(string? proxies, string sender, bool isBelieved)
    {
        await using var server = Behind(proxies);
        var answer = await SignInAsync(server, sender);
        var cookie = answer.Headers.GetValues("Set-Cookie").Single(one => one.StartsWith("pelto=", StringComparison.Ordinal));
        Assert.Equal(isBelieved, cookie.Contains("; secure", StringComparison.OrdinalIgnoreCase));
        Assert.Equal(isBelieved, answer.Headers.Contains("Strict-Transport-Security"));
        var entry = (await server.Services.GetRequiredService<AuditReader>().FindAsync(new(Kind: AuditKinds.SignIn), 1))[0];
        Assert.Equal(isBelieved ? "203.0.113.7" : sender, entry.From);
    }

    [Theory(DisplayName = "It answers to the names that it was given and on loopback, and to no other")]
    [InlineData(Name, HttpStatusCode.OK)]
    [InlineData("erp.example", HttpStatusCode.OK)]
    [InlineData("localhost", HttpStatusCode.OK)]
    [InlineData("127.0.0.1", HttpStatusCode.OK)]
    [InlineData("attacker.example", HttpStatusCode.BadRequest)]
    public async Task Has_names(string name, HttpStatusCode expected)
    {
        await using var server = Behind(Proxy);
        var browser = server.CreateClient(new() { BaseAddress = new($"http://{name}") });
        browser.DefaultRequestHeaders.Add(Senders.Header, Proxy);
        Assert.Equal(expected, (await browser.GetAsync("/account/sign-in")).StatusCode);
    }
}
