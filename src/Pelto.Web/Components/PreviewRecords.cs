using Npgsql;
using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>The records on which a draft is shown, as it would hold them.</summary>
public sealed class PreviewRecords(RecordStore store, RecordLists lists)
{
    /// <summary>The newest record that somebody may read; null when there is none.</summary>
    /// <param name="type">Its type as it is live.</param>
    /// <param name="viewer">Who reads.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordState?> NewestAsync(RecordType type, Viewer viewer, CancellationToken cancel)
    {
        RecordLists.TryOrder(type, null, viewer, out var order);
        var page = await lists.ReadAsync(new(type, order, 1) { Shown = [] }, viewer, cancel);
        return page.Rows.Count == 0 ? null : await store.FindAsync(type, page.Rows[0].Id, viewer, cancel);
    }

    /// <summary>The record that people call so, or that has this id; null when there is none that somebody may read.</summary>
    /// <param name="type">Its type as it is live.</param>
    /// <param name="text">What it is called, or its id.</param>
    /// <param name="viewer">Who reads.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordState?> FindAsync(RecordType type, string text, Viewer viewer, CancellationToken cancel)
    {
        var id = await lists.FindAsync(type, text, viewer, cancel) ?? (TryId(text, out var known) ? known : null);
        return id is { } found ? await store.FindAsync(type, found, viewer, cancel) : null;
    }

    /// <summary>The record with an id, as addresses have it; null when there is none that somebody may read.</summary>
    /// <param name="type">Its type as it is live.</param>
    /// <param name="text">Its id.</param>
    /// <param name="viewer">Who reads.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordState?> AtAsync(RecordType type, string? text, Viewer viewer, CancellationToken cancel) =>
        TryId(text, out var id) ? await store.FindAsync(type, id, viewer, cancel) : null;

    /// <summary>A new record of a draft.</summary>
    public RecordState Fresh(RecordType drafted) => Pipeline.Fresh(drafted, store.Today);

    /// <summary>
    /// A record as a draft would hold it, with what it sees through links and what live formulas read there. What the draft alone has is in
    /// no table yet; then it goes without.
    /// </summary>
    /// <param name="drafted">Its type, of the draft.</param>
    /// <param name="record">The record on file; null for none, so that nothing is filled in.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordState> DraftedAsync(RecordType drafted, RecordState? record, Viewer viewer, CancellationToken cancel)
    {
        var shown = new RecordState(drafted) { Id = record?.Id };
        record?.CopyTo(shown);
        try
        {
            await store.VisibleAsync(shown, viewer, cancel);
        }
        catch (PostgresException unknown) when (unknown.SqlState is PostgresErrorCodes.UndefinedColumn or PostgresErrorCodes.UndefinedTable)
        {
            Pipeline.FillLive(shown);
            RecordAccess.To(shown, viewer).Withhold(shown);
        }

        return shown;
    }

    private static bool TryId(string? text, out long id) => long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out id);
}
