using System.Net.Http.Json;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Pelto.Web.Tests;

/// <summary>
/// Fills each form of the pages of set-up and of one's account as somebody would who leaves something out or writes nonsense: what is
/// refused comes back with all that was typed.
/// </summary>
public sealed class TypedIsKeptTests(App app) : IClassFixture<App>
{
    private static readonly string[] Pages =
    [
        "/setup/fields/new?type=partner",
        "/setup/fields/f-kept",
        "/setup/fields/set",
        "/setup/types/new",
        "/setup/types/t-kept",
        "/setup/types/t-kept/form",
        "/setup/lists/new",
        "/setup/lists/l-kept",
        "/setup/queries/new",
        "/setup/queries/q-kept",
        "/setup/arrange?type=partner",
        "/setup/arrange?type=partner&layer=a-kept",
        "/setup/pointing?type=partner",
        "/setup/shortcuts",
        "/setup/access?type=partner",
        "/setup/access?type=partner&field=f-kept",
        "/setup/people",
        "/setup/people/new",
        "/setup/draft",
        "/setup/audit",
        "/account/settings",
        "/account/security",
    ];

    [Fact(
        DisplayName = "A form that is refused comes back with what was typed and chosen in it, "
            + "whatever was left out, on every page of set-up and of one's account"
    )]
    public async Task What_is_refused_comes_back()
    {
        var all = await app.InterfaceAsync("administrator");
        var site = await all.GetJsonAsync("setup/draft");
        site["fields"]!
            .AsArray()
            .Add(
                new System.Text.Json.Nodes.JsonObject
                {
                    ["id"] = "f-kept",
                    ["recordType"] = "partner",
                    ["code"] = "kept",
                    ["label"] = "Kept",
                    ["kind"] = "decimal",
                    ["decimals"] = 2,
                }
            );
        site["recordTypes"]!
            .AsArray()
            .Add(
                System.Text.Json.Nodes.JsonNode.Parse(
                    """{"id":"t-kept","code":"plan","label":"Plan","plural":"Plans","numbering":{"prefix":"P-"},"publicForm":{"address":"plans-for-tests-1","title":"Ask","fields":[{"field":"name"}]}}"""
                )
            );
        site["choiceLists"]!
            .AsArray()
            .Add(System.Text.Json.Nodes.JsonNode.Parse("""{"id":"l-kept","label":"Makes","choices":[{"code":"steel","label":"Steel"}]}"""));
        site["queries"]!
            .AsArray()
            .Add(
                System.Text.Json.Nodes.JsonNode.Parse(
                    """{"id":"q-kept","label":"Orders","sql":"SELECT number FROM sales_order WHERE customer = :customer","parameters":[{"name":"customer","kind":"link"}]}"""
                )
            );
        site["layers"] = System.Text.Json.Nodes.JsonNode.Parse(
            """[{"id":"a-kept","label":"Desk","comment":"Theirs","audience":"role:order_desk","operations":[]}]"""
        );
        await (await all.PutAsJsonAsync("setup/draft", site)).JsonAsync();

        var browser = await app.BrowserAsync("Henna Aro");
        var (refused, lost) = (0, new List<string>());
        var person = (await browser.PageAsync("/setup/people"))
            .QuerySelectorAll("main a[href^='/setup/people/']")
            .First(link => link.TextContent.Contains("Kaisa", StringComparison.Ordinal))
            .GetAttribute("href")!;
        foreach (var path in Pages.Prepend(person))
        {
            var page = await browser.PageAsync(path);
            foreach (
                var form in page.QuerySelectorAll("main form[method=post]")
                    .OfType<IHtmlFormElement>()
                    .Where(form => form.Id is not ("record" or "outside") && Texts(form).Any())
            )
            {
                var texts = Texts(form).ToList();

                // Nonsense everywhere; then one after another left out.
                foreach (var without in new IElement?[] { null }.Concat(texts))
                {
                    var answer = await SendAsync(browser, path, page, form, without);
                    if (answer.Answer.StatusCode is HttpStatusCode.Redirect)
                    {
                        // Taken: it is put back as it was.
                        await (await all.PutAsJsonAsync("setup/draft", site)).JsonAsync();
                        continue;
                    }

                    var what = $"{path} {Name(form)} without {without?.GetAttribute("name") ?? "nothing"}";
                    var text = await answer.Answer.Content.ReadAsStringAsync();
                    if (!answer.Answer.IsSuccessStatusCode)
                    {
                        lost.Add($"{what}: {(int)answer.Answer.StatusCode}");
                        continue;
                    }

                    var next = new HtmlParser().ParseDocument(text);
                    if (next.QuerySelector("main :is(.message:not([hidden]), .notice.bad, [role=alert]:not([hidden]))") is null)
                        continue;
                    refused++;
                    var again = next.QuerySelectorAll("main form[method=post]")
                        .OfType<IHtmlFormElement>()
                        .FirstOrDefault(other => Name(other) == Name(form));
                    if (again is null)
                        lost.Add($"{what}: the form is gone");
                    else
                        lost.AddRange(
                            answer
                                .Sent.Where(sent => !Standing(again, next).Contains(sent) && !Follows(sent, answer.Sent))
                                .Select(sent => $"{what}: {sent.Key} = {sent.Value}")
                        );
                }
            }
        }

        Assert.True(refused > 30, $"{refused} forms were refused.");
        Assert.True(lost.Count == 0, $"{lost.Count} lost:\n{string.Join("\n", lost.Take(80))}");
    }

    private static string Name(IHtmlFormElement form) =>
        form.Id is { Length: > 0 } id
            ? id
            : new Uri(new("http://localhost"), form.GetAttribute("action") ?? "?")
                .Query.Split('&', '?')
                .FirstOrDefault(part => part.StartsWith("handler=", StringComparison.Ordinal))
                ?? "";

    // The forms of a record and of people outside are shown there as they will be; typing in them has a test of its own.
    private static IEnumerable<IElement> Of(IHtmlFormElement form, IHtmlDocument page) =>
        form.QuerySelectorAll("input, select, textarea")
            .Concat(form.Id is { Length: > 0 } id ? page.QuerySelectorAll($"[form={id}]:not(form [form={id}])") : [])
            .Where(input => input.GetAttribute("name") is { } name && name != "__RequestVerificationToken" && input.LocalName != "button");

    // What people type; a password is never given back.
    private static IEnumerable<IElement> Texts(IHtmlFormElement form) =>
        form.QuerySelectorAll(
                "input[name]:not([type]), input[name][type=text], input[name][type=search], input[name][type=email], textarea[name]"
            )
            .Where(input => !input.HasAttribute("readonly") && !input.HasAttribute("disabled"));

    private static List<KeyValuePair<string, string>> Standing(IHtmlFormElement form, IHtmlDocument page) =>
        [
            .. Of(form, page)
                .Where(input => input is not IHtmlInputElement { Type: "checkbox" or "radio" } box || box.IsChecked)
                .Select(input => KeyValuePair.Create(input.GetAttribute("name")!, Value(input))),
        ];

    // A code that is left out follows the label; the place that a field is for is none of those that it stands on as well.
    private static bool Follows(KeyValuePair<string, string> sent, List<KeyValuePair<string, string>> all) =>
        sent is { Key: "Code", Value: "" } || (sent.Key == "AlsoOn" && all.Contains(new("Part", sent.Value)));

    private static string Value(IElement input) =>
        input switch
        {
            IHtmlSelectElement select => select.Value ?? "",
            IHtmlTextAreaElement area => area.Value.Trim(),
            _ => (input.GetAttribute("value") ?? "").Trim(),
        };

    private static async Task<(HttpResponseMessage Answer, List<KeyValuePair<string, string>> Sent)> SendAsync(
        HttpClient browser,
        string path,
        IHtmlDocument page,
        IHtmlFormElement form,
        IElement? without
    )
    {
        var (values, sent) = (new List<KeyValuePair<string, string>>(), new List<KeyValuePair<string, string>>());
        var texts = Texts(form).ToHashSet();
        foreach (var input in Of(form, page).Where(input => input is not IHtmlInputElement { Type: "radio" } box || box.IsChecked))
        {
            var name = input.GetAttribute("name")!;

            // The last choice is one that nobody has to begin with.
            var value =
                input.HasAttribute("data-code-typed") ? "true"
                : texts.Contains(input)
                    ? input == without ? ""
                        : $"¤{name}"[..Math.Min(name.Length + 1, int.Parse(input.GetAttribute("maxlength") ?? "60"))]
                : input is IHtmlSelectElement { IsMultiple: false } select ? select.Options.Last().Value
                : Value(input);
            values.Add(new(name, value));
            if (texts.Contains(input) || input is IHtmlSelectElement or IHtmlInputElement { Type: "checkbox" })
                sent.Add(new(name, value));
        }

        var token = page.QuerySelector("main input[name=__RequestVerificationToken]")?.GetAttribute("value")
            ?? (await browser.PageAsync("/account/settings")).Token();
        values.Add(new("__RequestVerificationToken", token));
        var action = form.GetAttribute("action") is { Length: > 0 } there ? there : path;
        return (await browser.PostAsync(action, new FormUrlEncodedContent(values)), sent);
    }
}
