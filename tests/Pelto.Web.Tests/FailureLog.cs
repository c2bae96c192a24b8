using System.Collections.Concurrent;
using Microsoft.Extensions.Logging;

namespace Pelto.Web.Tests;

/// <summary>Keeps what a server puts down as a failure.</summary>
internal sealed class FailureLog : ILoggerProvider
{
    private readonly ConcurrentQueue<string> all = new();

    public IReadOnlyCollection<string> All => all;

    public ILogger CreateLogger(string categoryName) => new Category(categoryName, all);

    public void Dispose() { }

    private sealed class Category(string name, ConcurrentQueue<string> all) : ILogger
    {
        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => null;

        public bool IsEnabled(LogLevel logLevel) => logLevel >= LogLevel.Error;

        public void Log<TState>(
            LogLevel logLevel,
            EventId eventId,
            TState state,
            Exception? exception,
            Func<TState, Exception?, string> formatter
        )
        {
            if (IsEnabled(logLevel))
                all.Enqueue($"{name}: {formatter(state, exception)} {exception?.GetBaseException().Message}");
        }
    }
}
