using Pelto.Core.Queries;
using Pelto.Core.Records;
using Pelto.Data.Queries;
using static Pelto.Data.Allowing;

namespace Pelto.Data.Records;

/// <summary>What editing asks the database with.</summary>
internal sealed record EditTools(
    NpgsqlDataSource Source,
    IDbContextFactory<PeltoContext> Contexts,
    QueryRunner Queries,
    TimeProvider Clock
);

/// <summary>
/// A record that somebody edits, within one request: loaded once, however often what they entered is tried, so that all of the answer is
/// about the same state of it.
/// </summary>
public sealed class RecordEdit
{
    private readonly EditTools tools;
    private readonly RecordState whole;
    private readonly RecordAccess access;

    internal RecordEdit(EditTools tools, RecordState whole, RecordAccess access)
    {
        (this.tools, this.whole, this.access) = (tools, whole, access);
        Current = access.Withheld(whole.Copy());
    }

    /// <summary>Its type.</summary>
    public RecordType Type => whole.Type;

    /// <summary>The record as it is on file, or a new one, as they may read it.</summary>
    public RecordState Current { get; }

    // Where nothing has to be looked up, the database is not asked.
    private bool AsksTheDatabase =>
        access.Viewer.Form is not null
        || Type.RelatedFields.Count > 0
        || Type.Follows.Count > 0
        || Type.FillOrder.Any(one => one.Asking is not null)
        || OutsideChecks.AreRequired(Type);

    /// <summary>Runs changes through the pipeline without saving anything.</summary>
    /// <param name="changes">What was entered; links to what they may not read are taken out.</param>
    /// <param name="isDemanded">Which required fields must be filled; all when null.</param>
    /// <param name="patience">How long queries may take that fill fields; as usual when null.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="AccessRefusedException">They may not change it.</exception>
    public async Task<Outcome> TryAsync(
        RecordChanges changes,
        Func<Field, bool>? isDemanded = null,
        TimeSpan? patience = null,
        CancellationToken cancel = default
    )
    {
        // Over a state of its own: it learns where it is and what is around it.
        var (current, viewer, clock) = (whole.Copy(), access.Viewer, tools.Clock);
        if (current.Id is not null)
            MustWrite(Type, viewer);
        MustWrite(current, access, viewer);
        if (!AsksTheDatabase)
            return Pipeline.Run(current, changes, viewer, clock.Today, isDemanded).Withheld(current, changes, access);
        await using var connection = await tools.Source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var targets = new Targets(connection, transaction, viewer, clock.Now);
        await targets.SiftAsync(changes, cancel);
        var related = new RelatedRows(connection, transaction, clock.Now, Outcomes.Copied(current), tools.Queries) { Patience = patience };
        related.ContextFor(current);
        var outcome = await related.RunAsync(Type, () => Pipeline.Run(current, changes, viewer, clock.Today, isDemanded), cancel);
        var checks = new OutsideChecks(transaction, tools.Contexts, current, outcome.State, viewer, isSaving: false);
        outcome = outcome.With(await checks.RunAsync(cancel));
        return await outcome.WithheldAsync(transaction, targets, current, changes, access, cancel);
    }
}
