using Pelto.Core.Catalog;

namespace Pelto.Core.Releases;

/// <summary>A change that people will notice, in plain words.</summary>
/// <param name="Element">The id of the field that it is about.</param>
/// <param name="RecordType">The record type whose people notice it.</param>
/// <param name="Sentence">What changes.</param>
/// <param name="Effect">What follows for records and people.</param>
public sealed record PlannedChange(string Element, RecordType RecordType, string Sentence, string Effect);

/// <summary>What a release will do, before it does it.</summary>
/// <param name="Changes">What people will notice.</param>
/// <param name="Before">What is done to storage while the earlier release is live: only additions and loosened rules.</param>
/// <param name="After">What is done once the new release is live: tightened rules.</param>
/// <param name="Problems">What keeps it from being published.</param>
public sealed record Plan(
    IReadOnlyList<PlannedChange> Changes, IReadOnlyList<PlanStep> Before, IReadOnlyList<PlanStep> After, IReadOnlyList<Problem> Problems)
{
    /// <summary>True when the draft says what is live already.</summary>
    public bool IsEmpty => Changes.Count == 0;

    /// <summary>True when it can be published.</summary>
    public bool IsPublishable => !IsEmpty && Problems.Count == 0;

    /// <summary>Works out what takes the live release to the draft.</summary>
    /// <param name="live">What is live.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="facts">What the database holds.</param>
    public static Plan Make(Catalogue live, Catalogue draft, StorageFacts facts) => new Planning(live, draft, facts).Make();
}
