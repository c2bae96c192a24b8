using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Mvc.Infrastructure;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;

namespace Pelto.Web.Tests;

/// <summary>
/// Sends each endpoint, and each handler of each page, from their own lists, what a fuzzer would: no input makes a crash.
/// </summary>
public sealed class NonsenseTests(App app) : IClassFixture<App>
{
    // What cannot be a character, a number, a date, a cursor, a list.
    private static readonly string[] Texts =
    [
        "%00",
        "a%00b",
        "%ED%A0%80",
        "%FF",
        "1E40",
        "-1",
        "99999999999999999999",
        "2026-13-45",
        "%2Fetc%2Fpasswd",
        "[]",
        "W10",
        "WyIiLFtdLDFd",
        new('x', 3000),
        "'%22%3B--",
        "~",
        "note~is~%00",
    ];

    private static readonly string[] Bodies =
    [
        "",
        "null",
        "[]",
        "1",
        "\"x\"",
        "{",
        "{\"values\":{},\"values\":{}}",
        "{\"values\":{\"note\":\"a\",\"note\":\"b\"}}",
        "{\"values\":{\"note\":\"\\u0000\"}}",
        "{\"values\":{\"note\":\"\\ud800\"}}",
        "{\"values\":{\"credit_limit\":1E40}}",
        "{\"values\":{\"credit_limit\":1e-400}}",
        "{\"values\":null,\"lines\":null}",
        "{\"values\":[],\"lines\":[]}",
        "{\"lines\":{\"lines\":[null,1,{\"id\":1E40},{\"id\":\"x\"}]}}",
        "{\"lines\":{\"lines\":{\"a\":1}}}",
        "{\"values\":{\"customer\":\"\\u0000\"}}",
        "{\"values\":{\"customer\":{\"a\":1}}}",
        "{\"values\":{\"customer\":99999999999999999999}}",
        "{\"fillAgain\":[1,null,\"/x\"]}",
        "{\"fields\":[{\"recordType\":\"partner\",\"code\":\"x\",\"label\":\"X\",\"kind\":\"decimal\",\"minimum\":1E40}]}",
        "{\"fields\":[{\"recordType\":\"partner\",\"code\":\"x\",\"label\":\"X\",\"kind\":\"integer\",\"defaultValue\":1E400}]}",
        "{\"fields\":[{\"recordType\":\"partner\",\"code\":\"x\",\"label\":\"X\",\"kind\":\"text\",\"length\":1E40}]}",
        "{\"fields\":[{\"recordType\":\"partner\",\"code\":\"x\",\"label\":\"\\u0000\",\"kind\":\"text\"}]}",
        "{\"fields\":[{\"recordType\":\"partner\",\"code\":\"x\",\"label\":\"X\",\"kind\":\"decimal\",\"digits\":9,\"decimals\":2,\"maximum\":\"1E40\"}]}",
        "{\"fields\":[],\"fields\":[]}",
        "{\"fields\":[null]}",
        "{\"layers\":[{\"id\":\"l\",\"operations\":[null]}]}",
        "{\"queries\":[{\"id\":\"q\",\"label\":\"Q\",\"sql\":\"SELECT \\u0000\"}]}",
        "{\"guards\":[{\"on\":\"\\u0000\"}]}",
        "{\"comment\":\"\\u0000\"}",
        "{\"comment\":\"\\ud800\"}",
        "{\"comment\":1E40}",
        "{\"text\":\"\\u0000\"}",
        "{\"text\":\"1E400\",\"recordType\":\"partner\",\"recordId\":1E40}",
        "{\"text\":\"number\",\"recordType\":\"partner\",\"part\":\"\\u0000\",\"recordId\":-1}",
        "{\"text\":\"number\",\"recordType\":\"partner\",\"values\":{\"note\":1},\"values\":{}}",
    ];

    [Fact(
        DisplayName = "Whatever is sent to any endpoint or handler, "
            + "by an administrator for whom nothing is closed, is answered, and is no crash"
    )]
    public async Task No_input_crashes()
    {
        var crashes = new List<string>();
        var asked = 0;
        async Task AskAsync(HttpClient client, Func<HttpRequestMessage> make, string what)
        {
            using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
            var answer = await client.SendAsync(make(), HttpCompletionOption.ResponseHeadersRead, limit.Token);
            for (
                ;
                (int)answer.StatusCode == 429;
                answer = await client.SendAsync(make(), HttpCompletionOption.ResponseHeadersRead, limit.Token)
            )
                await Task.Delay(100, limit.Token);
            if (answer.Content.Headers.ContentType?.MediaType != "text/event-stream" && (int)answer.StatusCode >= 500)
                crashes.Add($"{(int)answer.StatusCode} at {what}");
            answer.Dispose();
            asked++;
        }

        var (browser, program) = (await app.BrowserAsync("Henna Aro"), await app.InterfaceAsync("administrator"));
        var token = (await browser.PageAsync("/account/settings")).Token();
        var routes = app
            .Services.GetServices<EndpointDataSource>()
            .SelectMany(source => source.Endpoints)
            .OfType<RouteEndpoint>()
            .Select(endpoint =>
                (
                    Path: "/" + endpoint.RoutePattern.RawText!.TrimStart('/'),
                    Methods: endpoint.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["GET"],
                    Takes: string.Join(
                        '&',
                        endpoint.Metadata.GetOrderedMetadata<IParameterBindingMetadata>().Select(parameter => parameter.Name)
                    )
                )
            )
            .Where(route => !route.Path.Contains("{*", StringComparison.Ordinal))
            .Distinct()
            .ToList();
        foreach (var (path, methods, takes) in routes)
        foreach (var method in methods)
        {
            var isProgram = path.StartsWith("/api/", StringComparison.Ordinal);
            var client = isProgram ? program : browser;
            foreach (var address in Texts.SelectMany(text => Addresses(path, text, takes)).Distinct())
                if (method == "GET")
                    await AskAsync(client, () => new(HttpMethod.Get, new Uri(client.BaseAddress!, address)), $"GET {address}");
            if (method is "POST" or "PUT" or "PATCH" && isProgram)
                foreach (var body in Bodies)
                    await AskAsync(
                        program,
                        () =>
                            new(new(method), new Uri(client.BaseAddress!, Filled(path)))
                            {
                                Content = new StringContent(body, Encoding.UTF8, new MediaTypeHeaderValue("application/json")),
                            },
                        $"{method} {Filled(path)} with {body}"
                    );
        }

        var loader = app.Services.GetRequiredService<PageLoader>();
        foreach (
            var page in app
                .Services.GetRequiredService<IActionDescriptorCollectionProvider>()
                .ActionDescriptors.Items.OfType<PageActionDescriptor>()
        )
        {
            var path = Filled("/" + page.AttributeRouteInfo!.Template!);
            if (path.StartsWith("/account/sign-out", StringComparison.Ordinal))
                continue;
            var names = (await loader.LoadAsync(page, EndpointMetadataCollection.Empty))
                .HandlerMethods.Where(handler => handler.HttpMethod == "Post")
                .Select(handler => handler.Name)
                .Append("Nonsense")
                .Append("Get")
                .Distinct()
                .ToList();
            await AskAsync(browser, () => new(HttpMethod.Get, $"{path}?handler=Nonsense"), $"GET {path}?handler=Nonsense");

            // Ending all sessions and turning demo data off would end the test.
            foreach (var name in names.Where(name => name is not ("Settings" or "End" or "Delete")))
            foreach (var value in new[] { "\0", "1E40", "99999999999999999999", "{\"a\":1,\"a\":2}", "[null]", "\ud83d\ude00", "" })
                await AskAsync(
                    browser,
                    () =>
                        new(HttpMethod.Post, $"{path}?handler={name}&type=partner&record=5&field=partner.note&layer=site")
                        {
                            Content = new FormUrlEncodedContent(
                                Inputs.Select(input => KeyValuePair.Create(input, value)).Append(new("__RequestVerificationToken", token))
                            ),
                        },
                    $"POST {path}?handler={name} with {value.Replace("\0", "NUL", StringComparison.Ordinal)}"
                );
        }

        Assert.True(asked > 2_000, $"{asked} were sent.");
        // Nor is anything put down as a failure of the server's own: else anybody could fill the log.
        Assert.True(app.Failures.Count == 0, $"{app.Failures.Count} failures:\n{string.Join("\n", app.Failures.Distinct().Take(60))}");
        Assert.True(crashes.Count == 0, $"{crashes.Count} crashes:\n{string.Join("\n", crashes.Distinct().Take(60))}");
    }

    // What handlers of pages read; each handler takes what it knows.
    private static readonly string[] Inputs =
    [
        "opened",
        "release",
        "parts",
        "lines.order",
        "lines.n1.item",
        "customer",
        "customer.text",
        "note",
        "header.note",
        "note.by",
        "text",
        "at",
        "of",
        "operation",
        "operations",
        "index",
        "version",
        "audience",
        "label",
        "comment",
        "then",
        "pasted",
        "onFile",
        "Label",
        "Code",
        "Kind",
        "Part",
        "Length",
        "Digits",
        "Decimals",
        "Formula",
        "Offers",
        "Check",
        "DefaultValue",
        "Minimum",
        "Maximum",
        "Pattern",
        "Choices",
        "Sql",
        "Record",
        "Sample",
        "to",
        "work",
        "types",
        "companies",
        "right",
        "role",
        "name",
        "signIn",
        "company",
        "roles",
        "On",
        "To",
        "Level",
        "May",
        "When",
        "Does",
        "guard",
        "grant",
        "from",
        "why",
        "session",
        "token",
        "ticket",
        "code",
        "days",
        "password",
        "language",
        "zone",
        "entry",
        "line",
        "column",
        "mergeFrom",
        "mergeInto",
        "undo",
        "parts",
        "unseen",
        "Width",
        "After",
        "Rows[0].Code",
        "places[x]",
    ];

    private static string Filled(string route) => Regex.Replace(route, @"\{(\w+)[^}]*\}", place => place.Groups[1].Value switch
            {
                "type" => "partner",
                "next" => "delivery",
                "field" or "element" => "partner.note",
                "id" or "record" => place.Value.Contains("guid", StringComparison.Ordinal) ? Guid.Empty.ToString() : "5",
                _ => "x",
            });

    private const string Known =
        "&type=&field=&record=&id=&text=&search=&order=&after=&take=&filter=&by=&group=&of=&line=&person=&kind=&words=&since=&until=&before=&layer=&on=&part=&handler=&from=&with=&entry=&said=&title=&release=&returnUrl=&follow=&to=";

    private static IEnumerable<string> Addresses(string route, string text, string takes)
    {
        // No server takes NUL in a path.
        if (!text.Contains("%00", StringComparison.Ordinal))
            yield return Regex.Replace(route, @"\{(\w+)[^}]*\}", text.Replace("%2F", "", StringComparison.Ordinal));
        if (route.StartsWith("/api/", StringComparison.Ordinal))
        {
            // What is no parameter of it is refused before it is looked at.
            foreach (var name in takes.Split('&').Where(name => Known.Contains($"&{name}=", StringComparison.Ordinal)))
                yield return $"{Filled(route)}?{name}={text}";
            yield return $"{Filled(route)}?nonsense={text}";
            yield break;
        }

        yield return $"{Filled(route)}?{Known[1..].Replace("=", "=" + text, StringComparison.Ordinal)}";
        yield return $"{Filled(route)}?words={text}&after={text}&search={text}&with=note~{text}&filter=name~contains~{text}";
    }
}
