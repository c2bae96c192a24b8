using Pelto.Core.Auditing;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Data.Jobs;

namespace Pelto.Web.Pages;

/// <summary>What became of a field since it was defined, and what can still be done with it.</summary>
public sealed record FieldLife
{
    /// <summary>Who changed what, newest first.</summary>
    public IReadOnlyList<HistoryEntry> History { get; init; } = [];

    /// <summary>For a secret: who had it shown, newest first.</summary>
    public IReadOnlyList<AuditEntry> Showings { get; init; } = [];

    /// <summary>For a field of which is stored what a formula or a query gives: itself, as it is live.</summary>
    public Field? Stored { get; init; }

    /// <summary>How many stored values are not what the formula gives now; null when that takes too long to tell.</summary>
    public long? Stale { get; init; }

    /// <summary>What filling it again would do.</summary>
    public FormulaProof? Refill { get; init; }

    /// <summary>Kinds that it had before and whose columns are still kept, newest first.</summary>
    public IReadOnlyList<FieldDefinition> EarlierKinds { get; init; } = [];

    /// <summary>What else uses it, for those who want to remove it.</summary>
    public IReadOnlyList<string> Uses { get; init; } = [];
}

/// <summary>Tells what became of fields, and fills them again.</summary>
public sealed class FieldLives(
    CurrentRequest request,
    FieldEffects effects,
    FormulaProofs formulas,
    QueryFills queries,
    JobRunner runner,
    JobService jobs
)
{
    /// <summary>What became of a field of the draft.</summary>
    public async Task<FieldLife> OfAsync(FieldSubject subject, CancellationToken cancel)
    {
        var life = new FieldLife
        {
            History = await effects.HistoryAsync(subject.Id, request.Views),
            Showings = FieldKinds.Find(subject.Known.Kind)?.IsSecret == true ? await effects.ShowingsAsync(subject.Known) : [],
            EarlierKinds = await effects.EarlierKindsAsync(subject.Live),
            Uses = FieldEffects.UsesOf(subject.Catalogue, subject.Known, request.Views),
        };
        if (request.Catalogue.FindField(subject.Id) is not { IsStored: true } live)
            return life;
        if (live.Asking is { When: not QueryWhen.Offer })
            return life with { Stored = live, Refill = await queries.ProofAsync(live, request.Viewer, cancel) };
        if (live is not { IsAdded: true, Formula: not null })
            return life;
        var stale = await formulas.CountStaleAsync(live, request.Viewer, cancel);
        var refill = stale == 0 ? null : await formulas.OfRefillAsync(live, request.Viewer, cancel);
        return life with { Stored = live, Stale = stale, Refill = refill };
    }

    /// <summary>Stores anew what a formula or a query gives, in the background; false for a field that neither fills.</summary>
    public async Task<bool> RefillAsync(string fieldId)
    {
        if (request.Catalogue.FindField(fieldId) is not { IsStored: true, IsAdded: true } live || live is { Formula: null, Asking: null })
            return false;
        await runner.RefillAsync(live, request.Viewer);
        jobs.Wake();
        return true;
    }
}
