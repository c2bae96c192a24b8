namespace Pelto.Core.Queries;

/// <summary>What the database answered to a query.</summary>
/// <param name="Rows">The first rows, as the driver gives them; two are enough to tell one from many.</param>
/// <param name="Failure">Why there is no answer, as a sentence; null when there is one.</param>
public sealed record QueryAnswer(IReadOnlyList<object?[]> Rows, string? Failure = null)
{
    /// <summary>True when a save did not wait for it any longer: it is asked beside.</summary>
    public bool IsBeside { get; init; }
}
