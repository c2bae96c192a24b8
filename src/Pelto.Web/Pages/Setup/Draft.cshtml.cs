using Pelto.Core.Elements;
using Pelto.Core.Releases;

namespace Pelto.Web.Pages;

/// <summary>The draft: what publishing it will do, in plain words, and the way to publish.</summary>
public sealed class DraftModel(
    CurrentRequest request,
    ReleasePlans plans,
    Proposals proposals,
    Drafts drafts,
    Presences presences,
    AccessGaps gaps
) : PageModel
{
    /// <summary>What publishing will do.</summary>
    public Plan Plan { get; private set; } = default!;

    /// <summary>The draft's version that is shown.</summary>
    public long Version { get; private set; }

    /// <summary>What is done to storage, in words.</summary>
    public IReadOnlyList<string> Steps { get; private set; } = [];

    /// <summary>The same as SQL.</summary>
    public IReadOnlyList<string> Sql { get; private set; } = [];

    /// <summary>Who is working now, other than the one who looks.</summary>
    public IReadOnlyList<AtWork> AtWork { get; private set; } = [];

    /// <summary>Codes of the record types whose screens change.</summary>
    public IReadOnlySet<string> Touched { get; private set; } = new HashSet<string>();

    /// <summary>Who changed what in the draft, newest first.</summary>
    public IReadOnlyList<DraftRow> History { get; private set; } = [];

    /// <summary>The record's screen from which somebody came.</summary>
    public string? From { get; private set; }

    /// <summary>The comment as typed.</summary>
    public string Comment { get; private set; } = "";

    /// <summary>Why the comment is refused.</summary>
    public string? CommentRefusal { get; private set; }

    /// <summary>Why publishing is refused.</summary>
    public string? Refusal { get; private set; }

    /// <summary>The conventions of the person who looks.</summary>
    public Pelto.Core.Values.Locale Locale => request.Locale;

    /// <summary>
    /// What layers say that has lost what it was anchored to: nothing that keeps anybody from publishing, but it needs a look.
    /// </summary>
    public IReadOnlyList<(RecordType Type, LayerClash Clash)> Clashes { get; private set; } = [];

    /// <summary>
    /// What somebody could learn, or could not do, by the guards and grants of the draft and not by those that are live: nothing that keeps
    /// anybody from publishing, but it needs a look.
    /// </summary>
    public IReadOnlyList<AccessGap> Gaps { get; private set; } = [];

    /// <summary>What was done just now.</summary>
    public string? Message { get; private set; }

    /// <summary>Shows the draft.</summary>
    public Task OnGetAsync(string? from, string? undone)
    {
        Message = undone is null ? null : $"Undone: {undone}.";
        return ShowAsync(from);
    }

    /// <summary>Publishes: it begins here, and goes on even when the page is closed.</summary>
    public async Task<IActionResult> OnPostPublishAsync(
        string? comment,
        long version,
        string? from,
        [FromServices] Publisher publisher,
        [FromServices] Publishing publishing,
        [FromServices] Confirming confirming
    )
    {
        if (!await confirming.IsDoneAsync(Request.Form, "publish"))
        {
            await ShowAsync(from);
            Comment = comment ?? "";
            return Page();
        }

        try
        {
            if (
                await proposals.TakesTwoAsync()
                && await proposals.FindAsync() is var asked
                && (asked is null || asked.PersonId == request.Viewer.Id)
            )
            {
                await publisher.ProposeAsync(comment, request.Viewer, version);
                return Redirect("/setup/draft");
            }

            var id = await publisher.StartAsync(comment, request.Viewer, version);
            publishing.Begin();
            return Redirect($"/setup/releases/going/{id}{(Url.IsLocalUrl(from) ? "?from=" + Uri.EscapeDataString(from!) : "")}");
        }
        catch (PublishRefusedException refused)
        {
            await ShowAsync(from);
            Comment = comment ?? "";
            if (string.IsNullOrWhiteSpace(comment))
                CommentRefusal = refused.Message;
            else
                Refusal = refused.Message;
            return Page();
        }
    }

    /// <summary>Takes back that the draft is to be published, or sends it back to who asked.</summary>
    public async Task<IActionResult> OnPostWithdrawAsync()
    {
        await proposals.WithdrawAsync(request.Viewer);
        return Redirect("/setup/draft");
    }

    /// <summary>Takes the newest change of the draft back.</summary>
    public async Task<IActionResult> OnPostUndoAsync(string? from)
    {
        var undone = await drafts.UndoAsync(request.Viewer);
        return Redirect(
            $"/setup/draft?undone={Uri.EscapeDataString(undone?.What ?? "nothing was left to undo")}{(Url.IsLocalUrl(from) ? "&from=" + Uri.EscapeDataString(from!) : "")}"
        );
    }

    /// <summary>Goes back to what is live, as one more change of the draft, so that it can be undone.</summary>
    public async Task<IActionResult> OnPostDiscardAsync()
    {
        await drafts.ChangeAsync(_ => request.Catalogue.Site, "Discarded the draft", request.Viewer);
        return Redirect("/setup/draft");
    }

    /// <summary>True where publishing takes two people.</summary>
    public bool TakesTwo { get; private set; }

    /// <summary>Who asks for this draft to be published; null when nobody does.</summary>
    public ProposalRow? Proposal { get; private set; }

    /// <summary>True when it was the one who looks.</summary>
    public bool IsMine => Proposal?.PersonId == request.Viewer.Id;

    /// <summary>Why the one who looks may not publish this draft; null when they may.</summary>
    public string? Closed { get; private set; }

    /// <summary>True when the one who looks may go back to what is live.</summary>
    public bool MayDiscard { get; private set; }

    private async Task ShowAsync(string? from)
    {
        (TakesTwo, Proposal) = (await proposals.TakesTwoAsync(), await proposals.FindAsync());
        From = Url.IsLocalUrl(from) ? from : null;
        var (draft, catalogue, plan) = await plans.PlanAsync(request.Viewer);
        Clashes = [.. catalogue.Clashes.Where(clash => !clash.Clash.Refused)];
        var known = (await gaps.OfAsync(request.Catalogue)).Select(gap => gap.Sentence).ToHashSet(StringComparer.Ordinal);
        Gaps = [.. (await gaps.OfAsync(catalogue)).Where(gap => !known.Contains(gap.Sentence))];
        (Plan, Version) = (plan, draft.Version);
        Closed = request.Viewer.May(AdminWork.Publish)
            ? new AdminRules(request.Catalogue.Site, draft.Site, request.Catalogue).RefusePublishing(request.Viewer)
            : "You may not publish: somebody who may looks at the draft.";
        MayDiscard = await drafts.RefuseAsync(request.Viewer, draft.Site, request.Catalogue.Site) is null;
        var steps = plan.Before.Concat(plan.After).ToList();
        Steps = [.. steps.Select(step => step.Description)];
        Sql = ReleasePlans.SqlOf(steps);
        Touched = plan.Changes.Select(change => change.RecordType.Code).ToHashSet();
        AtWork =
        [
            .. (await presences.NowAsync(request.Viewer, request.Catalogue)).Where(person => person.PersonName != request.Viewer.Name),
        ];
        var history = await drafts.HistoryAsync();
        History = request.Views.WorksEverywhere ? history : [.. history.TakeWhile(row => row.ChangedBy == request.Viewer.Name)];
    }
}
