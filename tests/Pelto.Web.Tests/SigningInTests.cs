using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Identity;
using OtpNet;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Data;
using Pelto.Data.Auditing;
using Pelto.Data.Definitions;
using Pelto.Data.Releases;
using Pelto.Data.Rights;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Tests;

/// <summary>
/// Signing in by password and second factor, sessions that end, and who guesses; on an installation where nobody is picked.
/// </summary>
public sealed class SigningInTests(App app) : IClassFixture<App>
{
    private const string Password = "kolme venettä aamulla";

    private T Get<T>()
        where T : notnull => app.Services.GetRequiredService<T>();

    private async Task<Viewer> PersonAsync(string name)
    {
        var viewer = (await Get<People>().ViewerAsync(name))!;
        if (await Get<Credentials>().PasswordSetAtAsync(viewer.Id) is null)
        {
            Assert.Null(await Get<Credentials>().AcceptAsync(await Get<Credentials>().InviteAsync(viewer, viewer), Password, ""));
            await Get<DemoSetting>().SetAsync(false, viewer);
            await Get<FactorDemand>().SetAsync(FactorDemand.Nobody, (await Get<People>().ViewerAsync("administrator"))!);
        }

        return viewer;
    }

    private HttpClient Browser() => app.CreateClient(new() { AllowAutoRedirect = false });

    private static async Task<HttpResponseMessage> TryAsync(HttpClient browser, string name, string password)
    {
        var page = await browser.PageAsync("/account/sign-in");
        return await browser.PostAsync(
            "/account/sign-in",
            new FormUrlEncodedContent([new("name", name), new("password", password), new("__RequestVerificationToken", page.Token())])
        );
    }

    private async Task<HttpClient> SignedInAsync(string name)
    {
        await PersonAsync(name);
        var browser = Browser();
        Assert.Equal(HttpStatusCode.Redirect, (await TryAsync(browser, name, Password)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync("/account/security")).StatusCode);
        return browser;
    }

    private async Task ExecuteAsync(string sql)
    {
        await using var command = Get<OwnerDatabase>().Source.CreateCommand(sql);
        await command.ExecuteNonQueryAsync();
    }

    private static async Task<bool> IsOutAsync(HttpClient browser) =>
        (await browser.GetAsync("/account/settings")) is { StatusCode: HttpStatusCode.Redirect } answer
        && answer.Headers.Location!.ToString().Contains("/account/sign-in", StringComparison.Ordinal);

    // Counts what makes an answer slow.
    private sealed class CountingHasher : IPasswordHasher<Person>
    {
        private readonly PasswordHasher<Person> inner = new();

        public int Checked { get; private set; }

        public string HashPassword(Person user, string password) => inner.HashPassword(user, password);

        public PasswordVerificationResult VerifyHashedPassword(Person user, string hashedPassword, string providedPassword)
        {
            Checked++;
            return inner.VerifyHashedPassword(user, hashedPassword, providedPassword);
        }
    }

    [Fact(DisplayName = "An unknown name and a wrong password get the same answer, after checking one password")]
    public async Task Nothing_is_told()
    {
        await PersonAsync("otto.hietakari");
        var hasher = new CountingHasher();
        await using var server = app.WithWebHostBuilder(host =>
            host.ConfigureServices(services => services.AddSingleton<IPasswordHasher<Person>>(hasher))
        );
        async Task<(string Answer, int Checked)> AskAsync(string name)
        {
            var before = hasher.Checked;
            var answer = await TryAsync(server.CreateClient(new() { AllowAutoRedirect = false }), name, "not this, but as long");
            var text = (await answer.Content.ReadAsStringAsync()).Replace(name, "NAME", StringComparison.Ordinal);
            return ($"{answer.StatusCode} {Regex.Replace(text, "value=\"CfDJ8[^\"]*\"", "")}", hasher.Checked - before);
        }

        var (known, unknown) = (await AskAsync("otto.hietakari"), await AskAsync("otto.hietakara"));
        Assert.Equal(known, unknown);
        Assert.Equal(1, known.Checked);
        Assert.Contains("Name and password do not match.", known.Answer, StringComparison.Ordinal);
        Assert.Contains(await Get<AuditReader>().FindAsync(new(Kind: AuditKinds.SignIn), 20), entry =>
            entry.Note.What == "Could not sign in as Otto Hietakari"
        );
    }

    [Fact(DisplayName = "Whoever guesses is locked out, with the right password too; the person's own browser is not")]
    public async Task Guessing()
    {
        await PersonAsync("ritva.sorasalo");
        var own = await SignedInAsync("ritva.sorasalo");
        await own.PostAsync(
            "/account/sign-out",
            new FormUrlEncodedContent([
                new(
                    "__RequestVerificationToken",
                    (await own.PageAsync("/account/settings")).QuerySelector("[data-sign-out] input")!.GetAttribute("value")!
                ),
            ])
        );
        Assert.True(await IsOutAsync(own));
        var stranger = Browser();
        for (var i = 0; i < SignInTries.MaxOfSender; i++)
            Assert.Equal(HttpStatusCode.OK, (await TryAsync(stranger, "ritva.sorasalo", "guess number " + i)).StatusCode);
        Assert.Equal(HttpStatusCode.TooManyRequests, (await TryAsync(stranger, "ritva.sorasalo", Password)).StatusCode);
        Assert.Equal(HttpStatusCode.TooManyRequests, (await TryAsync(Browser(), "RITVA.Sorasalo ", Password)).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await TryAsync(own, "ritva.sorasalo", Password)).StatusCode);

        // Somebody whom nobody guesses at is not held up by it, from the same network; nor is a name that is nobody's told apart.
        await PersonAsync("ville.mastola");
        Assert.Equal(HttpStatusCode.Redirect, (await TryAsync(Browser(), "ville.mastola", Password)).StatusCode);
        for (var i = 0; i < SignInTries.MaxOfSender; i++)
            await TryAsync(stranger, "nobody.at.all", "guess");
        Assert.Equal(HttpStatusCode.TooManyRequests, (await TryAsync(stranger, "nobody.at.all", "guess")).StatusCode);
    }

    [Fact(
        DisplayName = "Many wrong passwords at once are as many tries; however the name is written, it is the same name (PRECIS, RFC 8265)"
    )]
    public async Task Counted_first()
    {
        await PersonAsync("kaisa.purjeranta");
        var pages = await Task.WhenAll(
            Enumerable
                .Range(0, 30)
                .Select(async _ => (Browser: Browser(), Token: ""))
                .Select(async made =>
                    await made is var (browser, _) ? (browser, (await browser.PageAsync("/account/sign-in")).Token()) : default
                )
        );
        string[] names = ["kaisa.purjeranta", "KAISA.purjeranta", "\u212Aaisa.purjeranta", "\uFF4Baisa.purjeranta", " kaisa.purjeranta "];
        var answers = await Task.WhenAll(
            pages.Select(
                (page, at) =>
                    page.browser.PostAsync(
                        "/account/sign-in",
                        new FormUrlEncodedContent([
                            new("name", names[at % names.Length]),
                            new("password", $"wrong as it can be {at}"),
                            new("__RequestVerificationToken", page.Item2),
                        ])
                    )
            )
        );
        Assert.Equal(SignInTries.MaxOfSender, answers.Count(answer => answer.StatusCode == HttpStatusCode.OK));
        Assert.Equal(30 - SignInTries.MaxOfSender, answers.Count(answer => answer.StatusCode == HttpStatusCode.TooManyRequests));
        Assert.All(names, name => Assert.Equal("kaisa.purjeranta", SignInNames.Normal(name)));
        Assert.NotEqual(SignInNames.Normal("kaisa"), SignInNames.Normal("ka\u0131sa"));
        await ExecuteAsync("DELETE FROM pelto.failure");
    }

    [Fact(
        DisplayName = "What is typed wrong in one browser that knows a person holds up no other; "
            + "none is known any more once the password is another, or all was ended"
    )]
    public async Task Known_browsers()
    {
        var (one, two) = (await SignedInAsync("sigrid.skarvik"), await SignedInAsync("sigrid.skarvik"));
        for (var i = 0; i < SignInTries.MaxOfSender; i++)
            await TryAsync(one, "sigrid.skarvik", "wrong in this one " + i);
        Assert.Equal(HttpStatusCode.TooManyRequests, (await TryAsync(one, "sigrid.skarvik", Password)).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await TryAsync(two, "sigrid.skarvik", Password)).StatusCode);

        var viewer = (await Get<People>().ViewerAsync("sigrid.skarvik"))!;
        var token = await app.TokenAsync("sigrid.skarvik", new([], Writes: false, SetsUp: false), TimeSpan.FromDays(1));
        Assert.NotNull(await Get<Tokens>().FindAsync(token));
        await Get<Sessions>().EndAsync(viewer, null, null, viewer);
        Assert.Null(await Get<Tokens>().FindAsync(token));
        for (var i = 0; i < SignInTries.MaxOfSender; i++)
            await TryAsync(Browser(), "sigrid.skarvik", "a stranger's guess " + i);
        Assert.Equal(HttpStatusCode.TooManyRequests, (await TryAsync(two, "sigrid.skarvik", Password)).StatusCode);

        var second = await app.TokenAsync("sigrid.skarvik", new([], Writes: false, SetsUp: false), TimeSpan.FromDays(1));
        Assert.Null(await Get<Credentials>().SetPasswordAsync(viewer, "neljä venettä illalla", null));
        Assert.Null(await Get<Tokens>().FindAsync(second));
        await ExecuteAsync("DELETE FROM pelto.failure");
    }

    [Fact(
        DisplayName = "Where a second factor is demanded, whoever has none gets nowhere but to where it is set up; "
            + "outside of demo data it is demanded of administrators from the start"
    )]
    public async Task Factor_is_demanded()
    {
        Assert.True(FactorDemand.IsOf(new(Guid.NewGuid(), "A", ["administrator"]), FactorDemand.Administrators));
        var browser = await SignedInAsync("arne.steinsund");
        var administrator = (await Get<People>().ViewerAsync("administrator"))!;
        await Get<FactorDemand>().SetAsync(FactorDemand.Everyone, administrator);
        try
        {
            foreach (var path in new[] { "/", "/records/delivery", "/account/settings", "/find?text=a", "/setup/fields" })
                Assert.EndsWith(
                    "/account/security",
                    (await browser.GetAsync(path)).Headers.Location?.ToString() ?? "",
                    StringComparison.Ordinal
                );
            var page = await browser.PageAsync("/account/security");
            Assert.Contains("You need a second factor", page.Body!.TextContent, StringComparison.Ordinal);
            var made = await browser.PostAsync(
                "/account/security?handler=Token",
                new FormUrlEncodedContent([new("name", "x"), new("days", "7"), new("__RequestVerificationToken", page.Token())])
            );
            Assert.Contains("Set up the second factor first.", await made.Content.ReadAsStringAsync(), StringComparison.Ordinal);
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (
                    await browser.PostAsync(
                        "/records/delivery/new?handler=Try",
                        new FormUrlEncodedContent([new("__RequestVerificationToken", page.Token())])
                    )
                ).StatusCode
            );

            var begun = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(
                await (
                    await browser.PostAsync(
                        "/account/security?handler=Begin",
                        new FormUrlEncodedContent([new("__RequestVerificationToken", page.Token())])
                    )
                ).Content.ReadAsStringAsync()
            );
            var key = Base32Encoding.ToBytes(begun.QuerySelector("code.digest")!.TextContent.Replace(" ", "", StringComparison.Ordinal));
            await browser.PostAsync(
                "/account/security?handler=Start",
                new FormUrlEncodedContent([
                    new("ticket", begun.QuerySelector("[name=ticket]")!.GetAttribute("value")!),
                    new("code", new Totp(key).ComputeTotp()),
                    new("__RequestVerificationToken", page.Token()),
                ])
            );
            Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync("/account/settings")).StatusCode);
        }
        finally
        {
            await Get<FactorDemand>().SetAsync(FactorDemand.Nobody, administrator);
        }
    }

    [Fact(DisplayName = "A ticket for a second factor is of one person in one browser: nobody sets up theirs for another")]
    public async Task Ticket_is_of_one_session()
    {
        var (eero, henna) = (await SignedInAsync("eero.lahdenmaa"), await SignedInAsync("henna.purjeranta"));
        async Task<AngleSharp.Html.Dom.IHtmlDocument> PostAsync(HttpClient browser, string handler, params (string, string)[] values)
        {
            var page = await browser.PageAsync("/account/security");
            return new AngleSharp.Html.Parser.HtmlParser().ParseDocument(
                await (
                    await browser.PostAsync(
                        $"/account/security?handler={handler}",
                        new FormUrlEncodedContent(
                            values
                                .Select(pair => KeyValuePair.Create(pair.Item1, pair.Item2))
                                .Append(new("__RequestVerificationToken", page.Token()))
                        )
                    )
                ).Content.ReadAsStringAsync()
            );
        }

        var begun = await PostAsync(eero, "Begin");
        var (ticket, key) = (
            begun.QuerySelector("[name=ticket]")!.GetAttribute("value")!,
            Base32Encoding.ToBytes(begun.QuerySelector("code.digest")!.TextContent.Replace(" ", "", StringComparison.Ordinal))
        );
        Assert.Contains(
            "Begin again",
            (await PostAsync(henna, "Start", ("ticket", ticket), ("code", new Totp(key).ComputeTotp()))).Body!.TextContent,
            StringComparison.Ordinal
        );
        var other = await SignedInAsync("eero.lahdenmaa");
        Assert.Contains(
            "Begin again",
            (await PostAsync(other, "Start", ("ticket", ticket), ("code", new Totp(key).ComputeTotp()))).Body!.TextContent,
            StringComparison.Ordinal
        );
        foreach (var name in new[] { "eero.lahdenmaa", "henna.purjeranta" })
            Assert.False(await Get<Credentials>().HasCodeAsync((await Get<People>().ViewerAsync(name))!.Id));

        // In the browser that it is for, it asks again where that is long ago.
        await ExecuteAsync("UPDATE pelto.session SET confirmed_at = now() - interval '16 minutes'");
        Assert.Contains(
            "Confirm that it is you.",
            (await PostAsync(eero, "Start", ("ticket", ticket), ("code", new Totp(key).ComputeTotp()))).Body!.TextContent,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "From now on you need a code",
            (await PostAsync(eero, "Start", ("ticket", ticket), ("code", new Totp(key).ComputeTotp()), ("confirm", Password)))
                .Body!
                .TextContent,
            StringComparison.Ordinal
        );
    }

    [Fact(
        DisplayName = "In a session that has grown old nothing changes of access, people, tokens, "
            + "signing in or what is live, by whichever handler of whichever page"
    )]
    public async Task Old_sessions_change_nothing()
    {
        var henna = await SignedInAsync("henna.aro");
        var administrator = (await Get<People>().ViewerAsync("henna.aro"))!;
        await Get<Drafts>()
            .ChangeAsync(
                site =>
                    site.With(
                            new FieldDefinition
                            {
                                Id = "f-old",
                                RecordType = "partner",
                                Code = "oldest",
                                Label = "Oldest",
                                Kind = "integer",
                            }
                        )
                        .With(new Guard { On = "partner.note" })
                        .With(
                            new RecordTypeDefinition
                            {
                                Id = "t-old",
                                Code = "old_type",
                                Label = "Old",
                                Plural = "Olds",
                                Read = ["*"],
                                Write = ["order_desk"],
                            }
                        ),
                "For a test",
                administrator
            );
        Assert.Null(await Get<PeopleAdmin>().GiveAsync("role:guest", AdminRight.To(AdminWork.ArrangeOwn), administrator));
        var right = (await Get<PeopleAdmin>().RightsAsync()).First().Id;
        var eero = (await Get<People>().ViewerAsync("eero.lahdenmaa"))!;
        await app.TokenAsync("henna.aro", new([], true, true), TimeSpan.FromDays(1));
        var token = (await Get<Tokens>().OfAsync(administrator.Id))[0].Digest;
        await ExecuteAsync("UPDATE pelto.session SET confirmed_at = now() - interval '16 minutes'");
        async Task<string> StateAsync()
        {
            await using var command = Get<OwnerDatabase>()
                .Source.CreateCommand(
                    """
                    SELECT md5(concat_ws('|', (SELECT string_agg(p::text, ',' ORDER BY p.id) FROM pelto.person p), (SELECT string_agg(r::text, ',' ORDER BY r.user_id, r.role_id) FROM pelto.person_role r), (SELECT string_agg(w::text, ',' ORDER BY w.id) FROM pelto.admin_right w),
                      (SELECT string_agg(t.digest, ',' ORDER BY t.digest) FROM pelto.token t), (SELECT count(*) FROM pelto.session), (SELECT string_agg(i.digest, ',' ORDER BY i.digest) FROM pelto.invitation i), (SELECT string_agg(c.digest, ',' ORDER BY c.digest) FROM pelto.recovery_code c),
                      (SELECT string_agg(s::text, ',' ORDER BY s.name) FROM pelto.setting s), (SELECT count(*) FROM pelto.release), (SELECT count(*) FROM pelto.publishing), (SELECT count(*) FROM pelto.proposal)))
                    """
                );
            var draft = (await Get<Drafts>().ReadAsync()).Site;
            return $"{await command.ExecuteScalarAsync()} {SiteDefinition.Text(draft.Guards)} {SiteDefinition.Text(draft.Grants)} "
                + $"{SiteDefinition.Text(draft.Roles)} {SiteDefinition.Text(draft.FindType("t-old")?.PublicForm)}";
        }

        var (before, asked) = (await StateAsync(), 0);
        var form = (await henna.PageAsync("/account/settings")).Token();
        var loader = app.Services.GetRequiredService<Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure.PageLoader>();
        foreach (
            var page in app
                .Services.GetRequiredService<Microsoft.AspNetCore.Mvc.Infrastructure.IActionDescriptorCollectionProvider>()
                .ActionDescriptors.Items.OfType<Microsoft.AspNetCore.Mvc.RazorPages.PageActionDescriptor>()
        )
        {
            var template = "/" + page.AttributeRouteInfo!.Template!;
            if (
                !(template.StartsWith("/setup", StringComparison.Ordinal) || template.StartsWith("/account", StringComparison.Ordinal))
                || template.StartsWith("/account/sign", StringComparison.Ordinal)
                || template.Contains("{word}", StringComparison.Ordinal)
            )
                continue;
            foreach (
                var handler in (
                    await loader.LoadAsync(page, Microsoft.AspNetCore.Http.EndpointMetadataCollection.Empty)
                ).HandlerMethods.Where(handler => handler.HttpMethod == "Post")
            )
            foreach (
                var id in template.Contains("{id", StringComparison.Ordinal) ? new[] { eero.Id.ToString(), "new", "t-old", "f-old" } : [""]
            )
            {
                if (template.Contains("guid", StringComparison.Ordinal) && !Guid.TryParse(id, out _))
                    continue;
                var path = Regex.Replace(template, @"\{id[^}]*\}", id);
                var values = new (string, string)[]
                {
                    ("signIn", "new.person"),
                    ("name", "New Person"),
                    ("company", "fi"),
                    ("roles", "order_desk"),
                    ("right", right.ToString()),
                    ("to", "role:warehouse"),
                    ("work", "define"),
                    ("label", "A new role"),
                    ("role", "x"),
                    ("takesTwo", "true"),
                    ("factor", "everyone"),
                    ("password", "viisi venettä yöllä"),
                    ("ticket", "x"),
                    ("code", "123456"),
                    ("token", token),
                    ("days", "7"),
                    ("Does", "guard"),
                    ("On", "partner.credit_limit"),
                    ("guard", "partner.note"),
                    ("grant", "g"),
                    ("comment", "For a test"),
                    ("version", $"{(await Get<Drafts>().ReadAsync()).Version}"),
                    ("Address", "abcdefghijkl"),
                    ("Title", "A form"),
                    ("Rows[0].Field", "name"),
                    ("Rows[0].Asked", "true"),
                    ("Label", "Olds"),
                    ("Plural", "Olds"),
                    ("Read", "order_desk"),
                    ("then", "stay"),
                    ("__RequestVerificationToken", form),
                };
                await henna.PostAsync(
                    $"{path}?type=partner{(handler.Name is null ? "" : $"&handler={handler.Name}")}",
                    new FormUrlEncodedContent(values.Select(pair => KeyValuePair.Create(pair.Item1, pair.Item2)))
                );
                Assert.True(before == await StateAsync(), $"{path} {handler.Name} changed something without asking again.");
                asked++;
            }
        }

        Assert.True(asked > 60, $"{asked} handlers were asked.");
        Assert.Null(await Get<PeopleAdmin>().TakeAsync(right, administrator));
        await Assert.ThrowsAsync<ConfirmationRequiredException>(() =>
            Get<Publisher>().StartAsync("x", administrator with { MustConfirm = true })
        );
    }

    [Fact(DisplayName = "With a second factor a code is asked for; none counts twice, and one put by for its loss counts once")]
    public async Task Second_factor()
    {
        var viewer = await PersonAsync("vieno.kallioaho");
        var key = SecondFactor.NewKey();
        Assert.Null(await Get<Credentials>().StartCodeAsync(viewer, key, "000000", null));
        var codes = (
            await Get<Credentials>().StartCodeAsync(viewer, key, new Totp(key).ComputeTotp(DateTime.UtcNow.AddSeconds(-30)), null)
        )!;
        Assert.All(codes, static code => Assert.Matches("^([a-z2-7]{5}-){4}[a-z2-7]{5}$", code));
        var browser = Browser();
        async Task<HttpResponseMessage> CodeAsync(string code)
        {
            var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(
                await (await TryAsync(browser, "vieno.kallioaho", Password)).Content.ReadAsStringAsync()
            );
            return await browser.PostAsync(
                "/account/sign-in?handler=Code",
                new FormUrlEncodedContent([
                    new("ticket", page.QuerySelector("[name=ticket]")!.GetAttribute("value")!),
                    new("code", code),
                    new("__RequestVerificationToken", page.Token()),
                ])
            );
        }

        Assert.True(await IsOutAsync(browser));
        Assert.Equal(HttpStatusCode.OK, (await CodeAsync("123456")).StatusCode);
        var now = new Totp(key).ComputeTotp();
        Assert.Equal(HttpStatusCode.Redirect, (await CodeAsync(now)).StatusCode);
        Assert.False(await IsOutAsync(browser));
        Assert.Equal(HttpStatusCode.OK, (await CodeAsync(now)).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await CodeAsync(codes[3])).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await CodeAsync(codes[3])).StatusCode);

        // The key is not in the database in the open.
        await using var command = Get<OwnerDatabase>()
            .Source.CreateCommand("SELECT totp_key FROM pelto.person WHERE user_name = 'vieno.kallioaho'");
        Assert.DoesNotContain(Convert.ToHexString(key), (string)(await command.ExecuteScalarAsync())!, StringComparison.OrdinalIgnoreCase);
    }

    [Fact(
        DisplayName = "A session that was ended, that nothing was done in, or that is too old, "
            + "is over at once; so is that of somebody who left, and a cookie made up"
    )]
    public async Task Sessions_end()
    {
        var (one, two, three, four) = (
            await SignedInAsync("liisa.vesaranta"),
            await SignedInAsync("liisa.vesaranta"),
            await SignedInAsync("liisa.vesaranta"),
            await SignedInAsync("liisa.vesaranta")
        );
        var viewer = (await Get<People>().ViewerAsync("liisa.vesaranta"))!;
        var open = await Get<Sessions>().OfAsync(viewer.Id);
        Assert.Equal(4, open.Count);
        var begun = open.OrderBy(session => session.BeganAt).Select(session => session.Id).ToList();
        await Get<Sessions>().EndAsync(viewer, begun[0], null, viewer);
        Assert.True(await IsOutAsync(one));
        Assert.False(await IsOutAsync(two));
        await ExecuteAsync(
            $"UPDATE pelto.session SET seen_at = now() - interval '61 minutes' WHERE id = '{begun[1]}'; "
                + $"UPDATE pelto.session SET began_at = now() - interval '721 minutes' WHERE id = '{begun[2]}'"
        );
        Assert.True(await IsOutAsync(two));
        Assert.True(await IsOutAsync(three));
        Assert.False(await IsOutAsync(four));
        await Get<PeopleAdmin>()
            .SaveAsync(
                viewer.Id,
                (await Get<PeopleAdmin>().FindAsync(viewer.Id))! with
                {
                    Disabled = true,
                },
                (await Get<People>().ViewerAsync("administrator"))!
            );
        Assert.True(await IsOutAsync(four));
        Assert.NotEqual(HttpStatusCode.Redirect, (await TryAsync(Browser(), "liisa.vesaranta", Password)).StatusCode);
        var made = Browser();
        made.DefaultRequestHeaders.Add("Cookie", "pelto=CfDJ8made-up");
        Assert.True(await IsOutAsync(made));
    }

    [Fact(
        DisplayName = "Publishing asks again who it is after a while, keeps what was typed, "
            + "and takes no wrong password; a right that is taken is gone at once"
    )]
    public async Task Asked_again()
    {
        var henna = await SignedInAsync("henna.aro");
        var draft = Get<Drafts>();
        await draft.ChangeAsync(
            site =>
                site.With(
                    new FieldDefinition
                    {
                        Id = "f-again",
                        RecordType = "partner",
                        Code = "again",
                        Label = "Again",
                        Kind = "integer",
                    }
                ),
            "Added Again",
            (await Get<People>().ViewerAsync("henna.aro"))!
        );
        await ExecuteAsync("UPDATE pelto.session SET confirmed_at = now() - interval '16 minutes'");
        async Task<(HttpResponseMessage Answer, string Text)> PublishAsync(string shown)
        {
            var page = await henna.PageAsync("/setup/draft");
            var answer = await henna.PostAsync(
                "/setup/draft?handler=Publish",
                new FormUrlEncodedContent([
                    new("version", page.QuerySelector("[name=version]")!.GetAttribute("value")!),
                    new("comment", "Because of the test"),
                    new("confirm", shown),
                    new("__RequestVerificationToken", page.Token()),
                ])
            );
            return (answer, await answer.Content.ReadAsStringAsync());
        }

        var (_, without) = await PublishAsync("");
        Assert.Contains("Confirm that it is you.", without, StringComparison.Ordinal);
        Assert.Contains("Because of the test", without, StringComparison.Ordinal);
        Assert.Contains("That is not right.", (await PublishAsync("not my password at all")).Text, StringComparison.Ordinal);
        var (answer, _) = await PublishAsync(Password);
        Assert.Contains("/setup/releases/going/", answer.Headers.Location!.ToString(), StringComparison.Ordinal);

        var kaisa = await SignedInAsync("kaisa.purjeranta");
        Assert.Equal(HttpStatusCode.Redirect, (await kaisa.GetAsync("/setup/fields")).StatusCode);
        var administrator = (await Get<People>().ViewerAsync("henna.aro"))!;
        Assert.Null(await Get<PeopleAdmin>().GiveAsync("user:kaisa.purjeranta", AdminRight.To(AdminWork.Define), administrator));
        Assert.Equal(HttpStatusCode.OK, (await kaisa.GetAsync("/setup/fields")).StatusCode);
        Assert.Null(
            await Get<PeopleAdmin>()
                .TakeAsync(
                    (await Get<PeopleAdmin>().RightsAsync()).Single(row => row.Audience == "user:kaisa.purjeranta").Id,
                    administrator
                )
        );
        Assert.Equal(HttpStatusCode.Redirect, (await kaisa.GetAsync("/setup/fields")).StatusCode);
    }

    [Fact(DisplayName = "An invitation works once; what it says to whom is nowhere kept in the open; a used one tells nothing")]
    public async Task Invitations()
    {
        var viewer = (await Get<People>().ViewerAsync("arne.steinsund"))!;
        var word = await Get<Credentials>().InviteAsync(viewer, viewer);
        var browser = Browser();
        var page = await browser.PageAsync($"/account/welcome/{word}");
        async Task<string> ChooseAsync(string password) =>
            await (
                await browser.PostAsync(
                    $"/account/welcome/{word}",
                    new FormUrlEncodedContent([new("password", password), new("__RequestVerificationToken", page.Token())])
                )
            ).Content.ReadAsStringAsync();
        Assert.Contains("at least 15 characters", await ChooseAsync("too short"), StringComparison.Ordinal);
        Assert.Contains("easy to guess", await ChooseAsync("arne.steinsund.arne"), StringComparison.Ordinal);
        Assert.Equal("", await ChooseAsync(Password));
        Assert.Contains("no longer works", await ChooseAsync("another long password"), StringComparison.Ordinal);
        Assert.Contains(
            "no longer works",
            (await browser.PageAsync($"/account/welcome/{new string('0', 48)}")).Body!.TextContent,
            StringComparison.Ordinal
        );
    }
}
