using System.Diagnostics;

namespace Pelto.Bench;

/// <summary>Pages that people have open, listening for releases.</summary>
internal sealed class OpenPages(HttpClient browser)
{
    private readonly List<Page> pages = [];

    public async Task OpenAsync(int count, CancellationToken end)
    {
        for (var i = 0; i < count; i++)
        {
            var answer = await browser.GetAsync($"/live?type=sales_order&title=SO-{i}", HttpCompletionOption.ResponseHeadersRead, end);
            var page = new Page(new(await answer.Content.ReadAsStreamAsync(end)));
            pages.Add(page);
            _ = page.ListenAsync(end);
        }
    }

    /// <summary>The time on the stopwatch's clock when the last page has heard of the next release.</summary>
    public async Task<TimeSpan> HearNextAsync() => (await Task.WhenAll(pages.Select(page => page.NextAsync()))).Max();

    private sealed class Page(StreamReader reader)
    {
        private TaskCompletionSource<TimeSpan> next = new(TaskCreationOptions.RunContinuationsAsynchronously);

        public Task<TimeSpan> NextAsync()
        {
            next = new(TaskCreationOptions.RunContinuationsAsynchronously);
            return next.Task;
        }

        public async Task ListenAsync(CancellationToken end)
        {
            try
            {
                while (await reader.ReadLineAsync(end) is { } line)
                    if (line == "event: release")
                        next.TrySetResult(Stopwatch.GetElapsedTime(0));
            }
            catch (Exception over) when (over is OperationCanceledException or IOException)
            {
                // The run is over.
            }
        }
    }
}
