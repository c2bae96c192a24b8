using Pelto.Core.Elements;
using Pelto.Core.Releases;
using Pelto.Data.Queries;
using Pelto.Data.Storage;

namespace Pelto.Data.Releases;

/// <summary>What publishing the draft would do, as somebody is shown it, and whether it may be published.</summary>
public sealed class ReleasePlans(Catalogues catalogues, Drafts drafts, FactsReader facts, QueryRunner queries)
{
    internal const int MaxComment = 500;

    /// <summary>
    /// What publishing the draft would do: the changes that somebody is shown, and what they may be told of what is on file.
    /// </summary>
    public async Task<(Draft Draft, Catalogue Catalogue, Plan Plan)> PlanAsync(Viewer viewer, CancellationToken cancel = default)
    {
        var draft = await drafts.ReadAsync(cancel);
        var live = catalogues.Live;
        var shown = new SiteViews(viewer, live).Drafted(draft.Site);
        var catalogue = catalogues.Build(shown);
        var known = (await facts.ReadAsync(live, catalogue, cancel)).For(viewer, catalogue, live);
        var plan = Planning.Make(live, catalogue, known);
        if (shown.IsSameAs(draft.Site))
            return (draft, catalogue, plan);

        // What only seems to be wrong, since the part that it needs is not shown, is not.
        var wrong = catalogues
            .Build(draft.Site)
            .Problems.Concat(live.Problems)
            .Select(problem => problem.Sentence)
            .ToHashSet(StringComparer.Ordinal);
        var seeming = catalogue.Problems.Select(problem => problem.Sentence).Where(sentence => !wrong.Contains(sentence)).ToHashSet();
        var problems = plan.Problems.Where(problem => !seeming.Contains(problem.Sentence)).ToList();
        return (draft, catalogue, plan with { HoldsMore = true, Problems = problems });
    }

    /// <summary>The SQL of some steps, for those who want to read it.</summary>
    public static IReadOnlyList<string> SqlOf(IEnumerable<PlanStep> steps) => [.. steps.SelectMany(StepRunner.SqlOf)];

    /// <summary>Checks that the draft may go live, by this person and with this comment.</summary>
    /// <param name="comment">Why it goes live.</param>
    /// <param name="viewer">Who publishes.</param>
    /// <param name="ifVersion">The version of the draft that was looked at; another one is refused.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>The definition as it goes live, with what its queries read, and the version of the draft.</returns>
    /// <exception cref="PublishRefusedException">It may not.</exception>
    /// <exception cref="AccessRefusedException">This person may not publish it.</exception>
    internal async Task<(SiteDefinition Settled, long Version)> CheckAsync(
        string? comment,
        Viewer viewer,
        long? ifVersion,
        CancellationToken cancel
    )
    {
        if (!viewer.May(AdminWork.Publish))
            throw new AccessRefusedException("You may not publish.");
        Allowing.MustBeSure(viewer);
        CheckComment(comment);
        var draft = await drafts.ReadAsync(cancel);
        if (new AdminRules(catalogues.Live.Site, draft.Site, catalogues.Live).RefusePublishing(viewer) is { } refusal)
            throw new AccessRefusedException(refusal);
        var next = catalogues.Build(draft.Site);
        var known = await facts.ReadStorageAsync(next, cancel);
        var plan = Planning.Make(catalogues.Live, next, known);
        if (ifVersion is { } seen && seen != draft.Version)
            throw new PublishRefusedException("The draft changed after you looked at the plan. Look at it again.");
        var told = Planning.Make(catalogues.Live, next, known.For(viewer, next, catalogues.Live)).Problems;
        if (told.Count > 0)
            throw new PublishRefusedException(told[0].Sentence, told);
        if (plan.Problems.Count > 0)
            throw new PublishRefusedException(
                "The draft changes what values must keep to that you may not read: somebody who may read them has to publish it."
            );
        var readable = catalogues.Live.Host.Version == next.Host.Version ? catalogues.Live : next;
        var (settled, unsound) = await queries.AnalyseAsync(draft.Site, readable, cancel);
        if (unsound.Count > 0)
            throw new PublishRefusedException(unsound[0].Sentence, unsound);
        if (plan.IsEmpty)
            throw new PublishRefusedException("The draft holds nothing that is not live already.");
        return (settled, draft.Version);
    }

    private static void CheckComment(string? comment)
    {
        if (string.IsNullOrWhiteSpace(comment))
            throw new PublishRefusedException("Say in a comment why this goes live.");
        if (comment.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t')))
            throw new PublishRefusedException("The comment holds a control character.");
        if (comment.Length > MaxComment)
            throw new PublishRefusedException($"A comment has at most {MaxComment} characters.");
    }
}
