using System.Diagnostics;
using Npgsql;

namespace Pelto.Bench;

/// <summary>
/// Two programs that each change one record after another while something else goes on, and how long each change takes them.
/// </summary>
internal static class Writers
{
    /// <summary>Lets them work until the work is done.</summary>
    /// <param name="server">Where.</param>
    /// <param name="sql">What each does: $1 is the record's id, $2 a text.</param>
    /// <param name="first">The first id.</param>
    /// <param name="count">How many ids there are from there.</param>
    /// <param name="work">What goes on meanwhile; gives how many rows it was about.</param>
    public static async Task<(long Rows, double Seconds, Latencies Latencies)> WhileAsync(
        Server server,
        string sql,
        long first,
        int count,
        Func<Task<long>> work
    )
    {
        var latencies = new Latencies();
        using var stop = new CancellationTokenSource();
        var writers = Enumerable
            .Range(0, 2)
            .Select(writer =>
                Task.Run(async () =>
                {
                    var random = new Random(writer);
                    await using var connection = new NpgsqlConnection(server.Connection);
                    await connection.OpenAsync();
                    while (!stop.IsCancellationRequested)
                    {
                        await using var command = new NpgsqlCommand(sql, connection);
                        command.Parameters.Add(new() { Value = first + random.Next(count) });
                        command.Parameters.Add(new() { Value = $"writer {writer}" });
                        await latencies.TimeAsync(command.ExecuteNonQueryAsync);
                        await Task.Delay(2);
                    }
                })
            )
            .ToList();
        await Task.Delay(300);
        var clock = Stopwatch.StartNew();
        var rows = await work();
        var seconds = clock.Elapsed.TotalSeconds;
        await stop.CancelAsync();
        await Task.WhenAll(writers);
        return (rows, seconds, latencies);
    }
}
