using System.Collections.Concurrent;
using System.Net.ServerSentEvents;
using System.Threading.Channels;

namespace Pelto.Web.Live;

/// <summary>Hands events to all pages that are open on this node.</summary>
public sealed class LiveHub
{
    private readonly ConcurrentDictionary<Guid, Channel<SseItem<string>>> pages = new();

    /// <summary>Listens for a page until it is left.</summary>
    public ChannelReader<SseItem<string>> Enter(Guid page)
    {
        // A page that does not read loses the oldest events, never the node's memory; it asks for the release when it comes back.
        var channel = Channel.CreateBounded<SseItem<string>>(
            new BoundedChannelOptions(50) { FullMode = BoundedChannelFullMode.DropOldest }
        );
        pages[page] = channel;
        return channel.Reader;
    }

    /// <summary>Stops listening.</summary>
    public void Leave(Guid page) => pages.TryRemove(page, out _);

    /// <summary>Tells all pages.</summary>
    public void Tell(SseItem<string> happened)
    {
        foreach (var channel in pages.Values)
            channel.Writer.TryWrite(happened);
    }
}
