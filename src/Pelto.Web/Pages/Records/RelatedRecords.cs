using Pelto.Core.Records;

namespace Pelto.Web.Pages;

/// <summary>What stands around a record.</summary>
/// <param name="Pointing">What points to it, by record type and field, where the screen shows no list of it.</param>
/// <param name="Entry">The entry from outside that it came from.</param>
/// <param name="Chain">The documents that it follows and that follow it.</param>
/// <param name="Next">The documents that can be made from it now.</param>
public sealed record Related(IReadOnlyList<Pointing> Pointing, EntryRow? Entry, IReadOnlyList<ChainStep> Chain, IReadOnlyList<Follow> Next)
{
    /// <summary>Of a record that is not on file.</summary>
    public static Related Nothing { get; } = new([], null, [], []);
}

/// <summary>Finds what stands around a record, as far as one may read it.</summary>
public sealed class RelatedRecords(
    CurrentRequest request,
    Pointers pointers,
    Entries entries,
    Chains chains,
    StockNotes stock,
    RecordLists lists
)
{
    /// <summary>What stands around a record on file.</summary>
    /// <param name="form">Its form.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<Related> OfAsync(RecordForm form, CancellationToken cancel)
    {
        var (state, viewer) = (form.State, request.Viewer);
        if (state.Id is not { } id)
            return Related.Nothing;
        var placed = form.Layout.Sections.Select(section => section.Pointing).ToHashSet();
        var pointing = form.Pointing.Count > 0 ? form.Pointing : await pointers.ReadAsync(request.Catalogue, form.Type, id, viewer, cancel);
        return new(
            [.. pointing.Where(one => !placed.Contains(one.Field) && !form.Layout.HiddenLists.Contains(one.Field))],
            await entries.OriginAsync(state, viewer, cancel),
            await chains.ReadAsync(state, viewer, cancel),
            [.. form.Type.Next.Where(follow => viewer.MayCreate(follow.Next) && NextDocument.Refuse(follow, state) is null)]
        );
    }

    /// <summary>The first of the records that point to one by a link.</summary>
    public Task<PointingRows> RowsAsync(Field link, long id, CancellationToken cancel) =>
        PointingRows.OfAsync(link, id, lists, request.Viewer, cancel);

    /// <summary>What is said of a record that was saved just now.</summary>
    public async Task<string> SavedAsync(RecordState state, CancellationToken cancel) =>
        await stock.OfAsync(state, request.Viewer, cancel) is { } note ? $"Saved. {note}" : "Saved.";
}
