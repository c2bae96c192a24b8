using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Routing;

namespace Pelto.Web.Tests;

/// <summary>Bodies that mean two things, or what nothing can keep, are refused as a whole and change nothing.</summary>
public sealed class BodiesTests(App app) : IClassFixture<App>
{
    [Fact(
        DisplayName = "A name that stands twice is refused with 400 by every endpoint that reads JSON, "
            + "at the top, further in, and in lists (RFC 8259, section 4)"
    )]
    public async Task No_name_twice()
    {
        var api = await app.InterfaceAsync("administrator");
        async Task<HttpStatusCode> AskAsync(string method, string path, string body)
        {
            using var request = new HttpRequestMessage(new(method), new Uri(api.BaseAddress!, path))
            {
                Content = new StringContent(body, Encoding.UTF8, new MediaTypeHeaderValue("application/json")),
            };
            return (await api.SendAsync(request)).StatusCode;
        }

        var read = 0;
        foreach (var route in app.Services.GetServices<EndpointDataSource>().SelectMany(source => source.Endpoints).OfType<RouteEndpoint>())
        foreach (var method in route.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? [])
        {
            var path =
                "/"
                + route
                    .RoutePattern.RawText!.TrimStart('/')
                    .Replace("{type}", "sales_order", StringComparison.Ordinal)
                    .Replace("{id:long}", "5", StringComparison.Ordinal);
            if (
                method is "GET" or "DELETE"
                || !path.StartsWith("/api/", StringComparison.Ordinal)
                || path.Contains('{', StringComparison.Ordinal)
            )
                continue;

            // What does not mind half a body reads none.
            if (await AskAsync(method, path, "{") != HttpStatusCode.BadRequest)
                continue;
            read++;
            foreach (
                var twice in new[]
                {
                    "{\"values\":{},\"values\":{}}",
                    "{\"text\":\"1\",\"text\":\"1\"}",
                    "{\"values\":{\"note\":\"a\",\"note\":\"b\"}}",
                    "{\"fields\":[{\"code\":\"a\",\"code\":\"b\"}]}",
                }
            )
                Assert.Equal((method, path, twice, HttpStatusCode.BadRequest), (method, path, twice, await AskAsync(method, path, twice)));
        }

        Assert.True(read >= 6, $"Only {read} endpoints read JSON.");
    }

    [Fact(
        DisplayName = "A parameter that an address does not have is refused with 400 by every endpoint, "
            + "and those that it has are named; a list says what it left out, and its file is refused"
    )]
    public async Task No_parameter_unknown()
    {
        var api = await app.InterfaceAsync("administrator");
        var asked = 0;
        foreach (var route in app.Services.GetServices<EndpointDataSource>().SelectMany(source => source.Endpoints).OfType<RouteEndpoint>())
        foreach (var method in route.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? [])
        {
            var path = Regex.Replace("/" + route.RoutePattern.RawText!.TrimStart('/'), @"\{(\w+)[^}]*\}", place =>
                place.Groups[1].Value switch
                {
                    _ when place.Value.Contains("guid", StringComparison.Ordinal) => Guid.Empty.ToString(),
                    "type" => "sales_order",
                    "next" => "delivery",
                    "field" => "reference",
                    _ => "1",
                }
            );
            if (!path.StartsWith("/api/", StringComparison.Ordinal))
                continue;
            asked++;
            using var request = new HttpRequestMessage(new(method), new Uri(api.BaseAddress!, path + "?fitler=total~from~1"));
            if (method is not ("GET" or "DELETE"))
                request.Content = new StringContent("{}", Encoding.UTF8, new MediaTypeHeaderValue("application/json"));
            var answer = await (await api.SendAsync(request)).JsonAsync(HttpStatusCode.BadRequest);
            Assert.StartsWith("There is no parameter “fitler” here.", answer["detail"]!.GetValue<string>(), StringComparison.Ordinal);
        }

        Assert.True(asked > 25, $"Only {asked} were asked.");
        var list = await (await api.GetAsync("records/sales_order?oder=number")).JsonAsync(HttpStatusCode.BadRequest);
        Assert.EndsWith("There are: after, filter, order, search, take.", list["detail"]!.GetValue<string>(), StringComparison.Ordinal);

        var desk = await app.BrowserAsync("Henna Aro");
        foreach (
            var (asks, sentence) in new[]
            {
                ("filter=colour~is~red", "There is no field “colour” to search."),
                ("filter=net_total~like~1", "There is no test “like”."),
                ("order=colour", "There is no field “colour” to sort by."),
                ("group=colour", "There is no field “colour” to group by."),
                ("fitler=a", "A list knows nothing of “fitler”."),
            }
        )
        {
            var said = (await desk.PageAsync($"/records/sales_order?{asks}")).QuerySelector("[role=alert]")!.TextContent;
            Assert.Contains(sentence, said, StringComparison.Ordinal);
            var file = await desk.GetAsync($"/records/sales_order/export.csv?{asks}");
            Assert.Equal(
                (HttpStatusCode.BadRequest, true),
                (file.StatusCode, (await file.Content.ReadAsStringAsync()).Contains(sentence, StringComparison.Ordinal))
            );
        }

        Assert.Null(
            (await desk.PageAsync("/records/sales_order?search=a&order=-number&filter=status~is~open&group=customer")).QuerySelector(
                "[role=alert]"
            )
        );
    }

    [Fact(
        DisplayName = "A number that nothing can keep is refused with 400 wherever a definition takes a number, and named by its pointer"
    )]
    public async Task No_number_beyond()
    {
        var api = await app.InterfaceAsync("administrator");
        var schema = await api.GetJsonAsync("setup/schema");
        var places = new List<(string Pointer, Func<string, string> Document)>();
        foreach (var (name, kind) in schema["properties"]!.AsObject())
            if (kind!["items"]?["$ref"] is { } definition)
                Find(
                    schema,
                    schema["$defs"]![definition.GetValue<string>().Split('/')[^1]]!,
                    $"/{name}/0",
                    inner => $$"""{"{{name}}":[{{inner}}]}""",
                    places
                );
        Assert.Contains(places, place => place.Pointer == "/recordTypes/0/numbering/start");
        Assert.Contains(places, place => place.Pointer == "/layers/0/operations/0/width");

        foreach (var (pointer, document) in places)
        foreach (var number in new[] { "1E400", "1E40", "-99999999999999999999999999999999" })
        {
            using var content = new StringContent(document(number), Encoding.UTF8, new MediaTypeHeaderValue("application/json"));
            var answer = await (await api.PutAsync("setup/draft", content)).JsonAsync(HttpStatusCode.BadRequest);
            Assert.Equal((pointer, "#" + pointer), (pointer, answer["errors"]![0]!["pointer"]!.GetValue<string>()));
            Assert.DoesNotContain("System.", answer.ToJsonString(), StringComparison.Ordinal);
        }

        Assert.True(places.Count >= 12, $"Only {places.Count} places take a number.");
    }

    // Every place below a definition that takes a number, with a document that says only that.
    private static void Find(
        JsonNode schema,
        JsonNode node,
        string pointer,
        Func<string, string> document,
        List<(string, Func<string, string>)> places
    )
    {
        if (node["$ref"] is { } definition)
            node = schema["$defs"]![definition.GetValue<string>().Split('/')[^1]]!;
        if (
            node["type"] is { } type
            && (type is JsonArray several ? several.Select(one => one!.GetValue<string>()) : [type.GetValue<string>()]).Any(one =>
                one is "integer" or "number"
            )
        )
            places.Add((pointer, document));
        if (node["items"] is { } items)
            Find(schema, items, pointer + "/0", inner => document($"[{inner}]"), places);
        foreach (var (name, property) in node["properties"]?.AsObject() ?? [])
            if (pointer.Count(c => c == '/') < 8)
                Find(schema, property!, $"{pointer}/{name}", inner => document($$"""{"{{name}}":{{inner}}}"""), places);
    }
}
