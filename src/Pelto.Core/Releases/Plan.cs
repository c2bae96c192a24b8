namespace Pelto.Core.Releases;

/// <summary>A change that people will notice, in plain words.</summary>
/// <param name="Element">The id of the element that it is about.</param>
/// <param name="RecordType">The record type whose people notice it.</param>
/// <param name="Sentence">What changes.</param>
/// <param name="Effect">What follows for records and people.</param>
public sealed record PlannedChange(string Element, RecordType RecordType, string Sentence, string Effect)
{
    /// <summary>The address of the page on which it can be changed.</summary>
    public string Page { get; init; } = "";

    /// <summary>For a change of placement: the layer that says it. People outside its audience notice nothing.</summary>
    public Layer? Layer { get; init; }

    /// <summary>
    /// For a change that is often made of many fields in the same way: what is done, before and behind what they are called, such as “Adds”
    /// and “ to sales orders”.
    /// </summary>
    public (string Does, string Behind, string Label)? Alike { get; init; }

    /// <summary>True for a change of guards or grants.</summary>
    public bool IsAccess { get; init; }
}

/// <summary>Work on records that begins once a release is live, in the background.</summary>
/// <param name="Work">What is to be done: <see cref="FillStart"/> or <see cref="MergeChoice"/>.</param>
/// <param name="Field">The id of the field in its part.</param>
/// <param name="From">For merging: the choice that goes.</param>
/// <param name="To">The value that records get, as the interface writes it.</param>
/// <param name="Says">What it does, for people.</param>
public sealed record PlannedJob(string Work, string Field, string? From, string? To, string Says)
{
    /// <summary>Gives records without a value the default.</summary>
    public const string FillStart = "fill";

    /// <summary>Gives records back what was saved when the field was removed.</summary>
    public const string ReadBack = "read_back";

    /// <summary>Stores anew what a formula gives.</summary>
    public const string Refill = "refill";

    /// <summary>Gives records that hold one choice another.</summary>
    public const string MergeChoice = "merge";
}

/// <summary>What a release will do, before it does it.</summary>
/// <param name="Changes">What people will notice.</param>
/// <param name="Before">What is done to storage while the earlier release is live: only additions and loosened rules.</param>
/// <param name="After">What is done once the new release is live: tightened rules, and what is dropped for good.</param>
/// <param name="Problems">What keeps it from being published.</param>
public sealed record Plan(
    IReadOnlyList<PlannedChange> Changes,
    IReadOnlyList<PlanStep> Before,
    IReadOnlyList<PlanStep> After,
    IReadOnlyList<Problem> Problems
)
{
    /// <summary>Work on records that begins once it is live.</summary>
    public IReadOnlyList<PlannedJob> Jobs { get; init; } = [];

    /// <summary>True when the draft holds changes beyond these, at record types on which whoever looks does not work.</summary>
    public bool HoldsMore { get; init; }

    // Fewer are read as quickly one by one.
    private const int Many = 5;

    /// <summary>The changes as people read them: many that do the same are one, with all of them behind it.</summary>
    public IEnumerable<(string Sentence, IReadOnlyList<PlannedChange> Changes)> Summary()
    {
        var told = new HashSet<(string, string)>();
        foreach (var change in Changes)
        {
            var same = change.Alike is { } alike
                ? Changes.Where(other => other.Alike is { } its && (its.Does, its.Behind) == (alike.Does, alike.Behind)).ToList()
                : [];
            if (same.Count < Many)
                yield return (change.Sentence, [change]);
            else if (told.Add((change.Alike!.Value.Does, change.Alike.Value.Behind)))
                yield return (
                    $"{change.Alike.Value.Does} {Count(same.Count, "field")}{change.Alike.Value.Behind}: "
                        + $"{string.Join(", ", same.Take(4).Select(one => one.Alike!.Value.Label))}{(same.Count > 4 ? $" and {same.Count - 4} more" : "")}.",
                    same
                );
        }
    }

    /// <summary>True when the draft says what is live already.</summary>
    public bool IsEmpty => Changes.Count == 0;

    /// <summary>True when it can be published.</summary>
    public bool IsPublishable => !IsEmpty && Problems.Count == 0;

    /// <summary>So many of something, such as “3 values”.</summary>
    /// <param name="count">How many.</param>
    /// <param name="one">What one is called.</param>
    internal static string Count(long count, string one) => Invariant($"{Numbers.Format(count)} {one}{(count == 1 ? "" : "s")}");
}
