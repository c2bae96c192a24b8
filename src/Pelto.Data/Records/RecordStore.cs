using Pelto.Core.Formulas;
using Pelto.Core.Records;
using Pelto.Data.Queries;
using static Pelto.Data.Allowing;

namespace Pelto.Data.Records;

/// <summary>
/// Records as somebody gets them, to read and to edit. <see cref="RecordSaver"/> puts them on file, <see cref="RecordDeleter"/> takes them
/// off.
/// </summary>
public sealed class RecordStore(
    NpgsqlDataSource source,
    IDbContextFactory<PeltoContext> contexts,
    RecordReader reader,
    QueryRunner queries,
    TimeProvider clock
)
{
    /// <summary>The day, for defaults.</summary>
    public DateOnly Today => clock.Today;

    /// <summary>What the clock says, for formulas.</summary>
    public Clock Clock => clock.Now;

    private EditTools Tools => new(source, contexts, queries, clock);

    /// <summary>Reads a record; null when there is none.</summary>
    public async Task<RecordState?> FindAsync(RecordType type, long id, Viewer viewer, CancellationToken cancel = default)
    {
        MustRead(type, viewer);
        if (await reader.LoadAsync(type, id, viewer, cancel) is not var (state, access) || !access.MayRead)
            return null;
        access.Withhold(state);
        return state;
    }

    /// <summary>
    /// A record whole, for explaining how grants decide at it and for nothing else; null when there is none, or when whoever asks may not
    /// read it, or does not set up.
    /// </summary>
    /// <param name="type">Its type, of the catalogue whose grants are explained.</param>
    /// <param name="live">The same type as it is live.</param>
    /// <param name="id">Its id.</param>
    /// <param name="viewer">Who asks.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordState?> AskedAsync(RecordType type, RecordType live, long id, Viewer viewer, CancellationToken cancel = default)
    {
        MustRead(live, viewer);
        if (!viewer.MayAt(AdminWork.Grant, live.Code))
            return null;
        if (await reader.LoadAsync(live, id, viewer, cancel) is not var (whole, access) || !access.MayRead)
            return null;
        if (type == live)
            return whole;
        var asked = new RecordState(type) { Id = id };
        whole.CopyTo(asked);
        await using var connection = await source.OpenConnectionAsync(cancel);
        var related = new RelatedRows(connection, null, Clock);
        related.ContextFor(asked);
        try
        {
            await related.RunAsync(
                type,
                () =>
                {
                    Pipeline.FillLive(asked);
                    return RecordAccess.To(asked, viewer);
                },
                cancel
            );
        }
        catch (PostgresException unknown) when (unknown.SqlState is PostgresErrorCodes.UndefinedColumn or PostgresErrorCodes.UndefinedTable)
        {
            // What only the draft has is in no table yet: conditions on it have no answer.
            asked.Context = null;
        }

        return asked;
    }

    /// <summary>A new record with its defaults.</summary>
    public RecordState Fresh(RecordType type, Viewer viewer)
    {
        MustCreate(type, viewer);
        return Pipeline.Fresh(type, Today);
    }

    /// <summary>
    /// The document that follows another, as its maker sees it before saving; and why nothing can be made. Both null when the one before is
    /// not there for them.
    /// </summary>
    public async Task<(RecordState? Begun, string? Refusal)> FollowAsync(
        Follow follow,
        long id,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        MustRead(follow.Source, viewer);
        if (await reader.LoadAsync(follow.Source, id, viewer, cancel) is not var (before, access) || !access.MayRead)
            return (null, null);
        if (NextDocument.Refuse(follow, before) is { } none)
            return (null, access.IsShown(follow.Source.Document!.Status, null) ? none : $"Nothing of {before.Title} is open.");

        // Made of the whole document, so that it is known what its maker is not shown; that is copied when it is saved.
        return (await VisibleAsync(NextDocument.Make(follow, before, Clock), viewer, cancel, isCopied: true), null);
    }

    /// <summary>
    /// Takes out of what was entered links to records that this person may not read: for whoever puts it into a record without saving.
    /// </summary>
    public async Task SiftAsync(RecordChanges changes, Viewer viewer, CancellationToken cancel = default)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await new Targets(connection, null, viewer, Clock).SiftAsync(changes, cancel);
    }

    /// <summary>Shows in a record that is not on file what its links lead to.</summary>
    public Task<RecordState> VisibleAsync(RecordState state, Viewer viewer, CancellationToken cancel = default) =>
        VisibleAsync(state, viewer, cancel, isCopied: false);

    private async Task<RecordState> VisibleAsync(RecordState state, Viewer viewer, CancellationToken cancel, bool isCopied)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        var targets = new Targets(connection, null, viewer, Clock);
        await targets.CloseAsync(state, cancel);

        // In a new record somebody put the links there: those to what they may not read lead nowhere.
        if (state.Id is null && !isCopied)
            Targets.Empty(state);
        var related = new RelatedRows(connection, null, Clock, runner: queries);
        related.ContextFor(state);
        await related.RunAsync(
            state.Type,
            () =>
            {
                Pipeline.Fill(state);
                return state;
            },
            cancel
        );
        await SeeThrough.FillAsync(connection, null, state, cancel);
        await targets.CloseAsync(state, cancel);
        RecordAccess.At(state, viewer).Tried(state, state, null).Withhold(state);
        return state;
    }

    /// <summary>Begins to edit a record, or a new one (no id). Null when there is none that the viewer may read.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="id">Its id; null for a new one.</param>
    /// <param name="viewer">Who edits.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordEdit?> EditAsync(RecordType type, long? id, Viewer viewer, CancellationToken cancel = default)
    {
        if (id is null)
        {
            var fresh = Fresh(type, viewer);
            return new(Tools, fresh, RecordAccess.To(fresh, viewer));
        }

        MustRead(type, viewer);
        return await reader.LoadAsync(type, id.Value, viewer, cancel) is var (whole, access) && access.MayRead
            ? new(Tools, whole, access)
            : null;
    }

    /// <summary>Runs changes through the pipeline without saving anything. Null when the record is gone.</summary>
    public async Task<Outcome?> TryAsync(
        RecordType type,
        long? id,
        RecordChanges changes,
        Viewer viewer,
        Func<Field, bool>? isDemanded = null,
        CancellationToken cancel = default
    )
    {
        if (id is not null)
            MustWrite(type, viewer);
        return await EditAsync(type, id, viewer, cancel) is { } edit ? await edit.TryAsync(changes, isDemanded, cancel: cancel) : null;
    }
}
