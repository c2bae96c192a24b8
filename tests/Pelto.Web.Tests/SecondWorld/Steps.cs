using System.Net.Http.Headers;
using System.Text;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Pelto.Web.Tests.SecondWorld;

/// <summary>A person in one world: a browser and a program.</summary>
public sealed class Visitor(HttpClient browser, HttpClient program, string tokenPage = "/account/settings")
{
    private string? token;

    public HttpClient Browser => browser;

    public HttpClient Program => program;

    /// <summary>Asks; where it is told to come back later, it waits, as a program would.</summary>
    public static async Task<HttpResponseMessage> SendAsync(HttpClient client, Func<HttpRequestMessage> request)
    {
        while (true)
        {
            var answer = await client.SendAsync(request(), HttpCompletionOption.ResponseHeadersRead);
            if (answer.Headers.RetryAfter is null)
                return answer;
            await Task.Delay(200);
        }
    }

    public async Task<string> TokenAsync() => token ??= (await browser.PageAsync(tokenPage)).Token();
}

/// <summary>Something that a person asks, in the same way in both worlds.</summary>
public abstract record Step
{
    /// <summary>True when it may leave other definitions behind.</summary>
    public virtual bool MayDefine => false;

    public abstract Task<HttpResponseMessage> AskAsync(Visitor visitor);
}

/// <summary>A page, or an address of the programming interface.</summary>
public sealed record Get(string Address) : Step
{
    public override Task<HttpResponseMessage> AskAsync(Visitor visitor)
    {
        var client = Address.StartsWith("/api/", StringComparison.Ordinal) ? visitor.Program : visitor.Browser;
        return Visitor.SendAsync(client, () => new(HttpMethod.Get, new Uri(client.BaseAddress!, Address)));
    }
}

/// <summary>JSON to the programming interface.</summary>
public sealed record Send(string Method, string Address, string Body) : Step
{
    public override bool MayDefine => Address.Contains("/setup/", StringComparison.Ordinal);

    public override Task<HttpResponseMessage> AskAsync(Visitor visitor) =>
        Visitor.SendAsync(visitor.Program, () =>
            new(new(Method), new Uri(visitor.Program.BaseAddress!, Address))
            {
                Content = new StringContent(Body, new MediaTypeHeaderValue("application/json")),
            }
        );
}

/// <summary>A form of a page as it stands there, with some inputs filled, sent to a handler.</summary>
public sealed record Fill(string Page, string Form, string Handler, params (string Name, string Value)[] Typed) : Step
{
    public override bool MayDefine => !Page.StartsWith("/records/", StringComparison.Ordinal);

    public override async Task<HttpResponseMessage> AskAsync(Visitor visitor)
    {
        var opened = await visitor.Browser.GetAsync(Page);
        var values = new List<KeyValuePair<string, string>>();
        if (opened.IsSuccessStatusCode)
        {
            var page = new HtmlParser().ParseDocument(await opened.Content.ReadAsStringAsync());
            foreach (var input in page.QuerySelectorAll($"{Form} input, {Form} select, {Form} textarea"))
                if (
                    input.GetAttribute("name") is { } name
                    && (input is not IHtmlInputElement { Type: "checkbox" or "radio" } box || box.IsChecked)
                )
                    values.Add(
                        new(
                            name,
                            Typed.FirstOrDefault(one => one.Name == name) is { Name: not null } typed ? typed.Value
                                : input is IHtmlSelectElement select ? select.Value ?? ""
                                : input is IHtmlTextAreaElement area ? area.Value
                                : input.GetAttribute("value") ?? ""
                        )
                    );
        }

        // Also what the page did not offer.
        values.AddRange(
            Typed.Where(one => values.All(pair => pair.Key != one.Name)).Select(one => KeyValuePair.Create(one.Name, one.Value))
        );
        values.RemoveAll(pair => pair.Key == "__RequestVerificationToken");
        values.Add(new("__RequestVerificationToken", await visitor.TokenAsync()));
        var address = Page + (Handler.Length == 0 ? "" : (Page.Contains('?', StringComparison.Ordinal) ? "&" : "?") + "handler=" + Handler);
        return await Visitor.SendAsync(visitor.Browser, () =>
            new(HttpMethod.Post, new Uri(visitor.Browser.BaseAddress!, address)) { Content = new FormUrlEncodedContent(values) }
        );
    }
}

/// <summary>A change of the draft through the programming interface.</summary>
public sealed record Draft(string What, Action<JsonObject> Change) : Step
{
    public override bool MayDefine => true;

    public override async Task<HttpResponseMessage> AskAsync(Visitor visitor)
    {
        var read = await Visitor.SendAsync(visitor.Program, () => new(HttpMethod.Get, "setup/draft"));
        if (!read.IsSuccessStatusCode)
            return read;
        var draft = JsonNode.Parse(await read.Content.ReadAsStringAsync())!.AsObject();
        Change(draft);
        var body = draft.ToJsonString();
        return await Visitor.SendAsync(visitor.Program, () =>
            new(HttpMethod.Put, "setup/draft") { Content = new StringContent(body, Encoding.UTF8, "application/json") }
        );
    }

    public override string ToString() => $"Draft {What}";
}
