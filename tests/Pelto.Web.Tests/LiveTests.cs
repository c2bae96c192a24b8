using Pelto.Core.Access;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Releases;
using Pelto.Tests;

namespace Pelto.Web.Tests;

/// <summary>What open pages tell and are told: who is at work, and that something went live.</summary>
public sealed class LiveTests(App app) : IClassFixture<App>
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(60);

    // A page that is open: its stream, of which the first words were read.
    private static async Task<(HttpResponseMessage Page, StreamReader Told)> OpenAsync(HttpClient browser, string query)
    {
        var page = await browser.GetAsync("/live?" + query, HttpCompletionOption.ResponseHeadersRead);
        Assert.Equal("text/event-stream", page.Content.Headers.ContentType!.MediaType);
        var told = new StreamReader(await page.Content.ReadAsStreamAsync());
        Assert.Equal("event: hello", await told.ReadLineAsync());
        return (page, told);
    }

    private static async Task<string> AtWorkAsync(HttpClient henna) =>
        string.Join('\n', (await henna.PageAsync("/setup/draft")).QuerySelectorAll(".at-work li").Select(item => item.TextContent.Trim()));

    private static async Task<Viewer> DraftAsync(IServiceProvider node, string code)
    {
        var administrator = (await node.GetRequiredService<People>().ViewerAsync("administrator"))!;
        var field = new FieldDefinition
        {
            Id = "f-" + code,
            RecordType = "partner",
            Part = "header",
            Code = code,
            Label = code,
            Kind = "text",
        };
        await node.GetRequiredService<Drafts>().ChangeAsync(site => site.With(field), "Added " + code, administrator);
        return administrator;
    }

    private static async Task UntilAsync(Func<Task<bool>> holds)
    {
        using var end = new CancellationTokenSource(Patience);
        while (!await holds())
            await Task.Delay(20, end.Token);
    }

    [Fact(DisplayName = "Who has a page open is at work, on what whoever reads it may know; not once it is closed or falls silent")]
    public async Task At_work()
    {
        var (henna, eero) = (await app.BrowserAsync("Henna Aro"), await app.BrowserAsync("Eero Lahdenmaa"));
        await DraftAsync(app.Services, "first");
        var (page, words) = await OpenAsync(eero, "type=sales_order&title=SO-10060&release=1");
        Assert.Contains("Eero Lahdenmaa", await AtWorkAsync(henna), StringComparison.Ordinal);
        Assert.Contains("SO-10060", await AtWorkAsync(henna), StringComparison.Ordinal);

        // Whoever may not see sales orders is told that Eero works, and not on what.
        var (drafts, publisher) = (app.Services.GetRequiredService<Drafts>(), app.Services.GetRequiredService<Publisher>());
        var administrator = (await app.Services.GetRequiredService<People>().ViewerAsync("administrator"))!;
        var closed = new Grant
        {
            Id = "g-closed",
            On = ["type:sales_order"],
            To = ["role:guest"],
            May = ["read"],
            Does = Grant.Withhold,
        };
        await drafts.ChangeAsync(site => site with { Grants = [closed] }, "Closed", administrator);
        await app.Services.GetRequiredService<PublishingQueue>().RunAsync(await publisher.StartAsync("Closed", administrator));
        await DraftAsync(app.Services, "drafted");
        Assert.Contains("Eero Lahdenmaa SO-10060", await AtWorkAsync(henna), StringComparison.Ordinal);
        var guest = (await app.Services.GetRequiredService<People>().ViewerAsync("guest"))!;
        var told = await app.Services.GetRequiredService<Presences>().NowAsync(guest, app.Services.GetRequiredService<Catalogues>().Live);
        Assert.Equal([new("Eero Lahdenmaa", "", "")], told.Where(one => one.PersonName.StartsWith("Eero", StringComparison.Ordinal)));

        // Fallen silent: nothing was heard of the page for a minute.
        await using (
            var command = app
                .Services.GetRequiredService<OwnerDatabase>()
                .Source.CreateCommand("UPDATE pelto.presence SET seen_at = seen_at - interval '1 minute'")
        )
            await command.ExecuteNonQueryAsync();
        Assert.DoesNotContain("Eero Lahdenmaa", await AtWorkAsync(henna), StringComparison.Ordinal);

        var (another, heard) = await OpenAsync(eero, "type=partner&title=P-0061");
        Assert.Contains("P-0061", await AtWorkAsync(henna), StringComparison.Ordinal);
        heard.Dispose();
        another.Dispose();
        await UntilAsync(async () => !(await AtWorkAsync(henna)).Contains("P-0061", StringComparison.Ordinal));
        words.Dispose();
        page.Dispose();
    }

    [Fact(
        DisplayName = "A node whose connection for listening breaks listens again, hears of the release that it missed, and tells open pages"
    )]
    public async Task Listens_again()
    {
        var eero = await app.BrowserAsync("Eero Lahdenmaa");
        var (page, told) = await OpenAsync(eero, "type=partner&title=P-0001");
        var source = app.Services.GetRequiredService<OwnerDatabase>().Source;
        async Task<bool> BreakAsync()
        {
            await using var command = source.CreateCommand(
                "SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity WHERE datname = current_database() AND query LIKE 'LISTEN%'"
            );
            return (long)(await command.ExecuteScalarAsync())! > 0;
        }

        await using var node = new ServiceCollection()
            .AddLogging()
            .AddPeltoData(app.Connection, TemplateDatabase.HostFolder, TemplateDatabase.KeyFile)
            .BuildServiceProvider();
        await node.GetRequiredService<Catalogues>().CatchUpAsync();
        var administrator = await DraftAsync(node, "heard");
        var started = await node.GetRequiredService<Publisher>().StartAsync("While nobody listened", administrator);
        await UntilAsync(BreakAsync);
        Assert.Equal(PublishingState.Done, (await node.GetRequiredService<PublishingQueue>().RunAsync(started)).State);

        var live = app.Services.GetRequiredService<Catalogues>();
        await UntilAsync(() => Task.FromResult(live.Live.Find("partner")!.Header.Find("heard") is not null));
        using var end = new CancellationTokenSource(Patience);
        string? line;
        do line = await told.ReadLineAsync(end.Token);
        while (line != "event: release");
        Assert.Equal($"data: {{\"release\":{live.Live.Release}}}", await told.ReadLineAsync(end.Token));
        told.Dispose();
        page.Dispose();
    }
}
