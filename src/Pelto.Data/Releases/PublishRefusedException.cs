namespace Pelto.Data.Releases;

/// <summary>A draft that cannot be published, with the reason as a sentence.</summary>
public sealed class PublishRefusedException(string message, IReadOnlyList<Problem>? problems = null) : Exception(message)
{
    /// <summary>What is wrong with the definitions.</summary>
    public IReadOnlyList<Problem> Problems { get; } = problems ?? [];
}
