using System.Threading.Channels;
using Pelto.Core.Queries;

namespace Pelto.Data.Records;

/// <summary>The queries that a save did not wait for, until they are asked beside.</summary>
public sealed class AwaitedAnswers
{
    // Whoever saves faster than the database answers: the rest stays marked.
    private const int Most = 1000;

    private readonly Channel<(string Field, long Record)> waiting = Channel.CreateBounded<(string, long)>(
        new BoundedChannelOptions(Most) { FullMode = BoundedChannelFullMode.DropWrite }
    );

    /// <summary>Has asked for a record that was just saved what the save did not wait for.</summary>
    internal void After(RecordState saved)
    {
        if (saved.Id is not { } id)
            return;
        foreach (var field in saved.Type.Parts.SelectMany(part => part.Fields).Where(field => field.Asking is not null))
        {
            var origins = field.Part.IsLines ? saved.LinesOf(field.Part).Select(line => line.Origins) : [saved.Origins];
            if (origins.Any(all => all.GetValueOrDefault(field)?.IsAwaited == true))
                waiting.Writer.TryWrite((field.Id, id));
        }
    }

    /// <summary>The ids of their fields and records, as they come, until it is stopped.</summary>
    internal IAsyncEnumerable<(string Field, long Record)> AllAsync(CancellationToken cancel) => waiting.Reader.ReadAllAsync(cancel);
}
