using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>How a save ended.</summary>
public enum SaveResult
{
    /// <summary>It is on file.</summary>
    Saved,

    /// <summary>Nothing was written: see the outcome's messages and clashes.</summary>
    Refused,

    /// <summary>The record is not as the version that was asked for.</summary>
    Stale,

    /// <summary>There is no such record.</summary>
    Gone,
}

/// <summary>A save's end: the record as it is on file when saved, as it was wanted when refused.</summary>
public sealed record Saving(SaveResult Result, Outcome Outcome)
{
    /// <summary>Of lines that are new: the key that each has got, by the one that it was entered under.</summary>
    public IReadOnlyDictionary<string, string> NewKeys { get; init; } = new Dictionary<string, string>();
}

/// <summary>How deleting ended.</summary>
/// <param name="Result">Saved when the record is gone now.</param>
/// <param name="Refusal">Why it stays, as a sentence.</param>
/// <param name="Undo">What brings it back.</param>
/// <param name="Title">What it was called.</param>
public sealed record Deletion(SaveResult Result, string? Refusal = null, Guid? Undo = null, string? Title = null);
