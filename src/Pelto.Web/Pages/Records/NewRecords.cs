namespace Pelto.Web.Pages;

/// <summary>The form of a new record, and what fills it in at the beginning.</summary>
public sealed class NewRecords(CurrentRequest request, RecordStore store, RecordForms forms, Entries entries)
{
    /// <summary>The form of a new record, for whoever may make one.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="from">The document that it follows, as <c>sales_order/17</c>; null for none.</param>
    /// <param name="with">What it begins with, each written <c>code~value</c>.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<RecordForm> OfAsync(RecordType type, string? from, string[]? with, CancellationToken cancel)
    {
        var fresh = store.Fresh(type, request.Viewer);
        if (await FollowingAsync(type, from, cancel) is { } next)
            return await forms.OfAsync(next, fresh);
        if (With(type, fresh, with) is not { } begun)
            return await forms.OfAsync(fresh);
        return await forms.OfAsync(await store.VisibleAsync(begun, request.Viewer, cancel), fresh);
    }

    /// <summary>The form of a record that an entry from outside becomes; null where it was decided on meanwhile.</summary>
    /// <param name="type">The record's type.</param>
    /// <param name="id">Of the entry.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<(RecordForm Form, EntryRow Entry)?> FromOutsideAsync(RecordType type, Guid id, CancellationToken cancel)
    {
        if (await entries.FindAsync(type, id, request.Viewer, cancel) is not { Row: { State: EntryState.Waiting } row } entry)
            return null;
        var fresh = store.Fresh(type, request.Viewer);
        return (await forms.OfAsync(await store.VisibleAsync(entry.Begun, request.Viewer, cancel), fresh, row.Id), row);
    }

    private static RecordState? With(RecordType type, RecordState fresh, string[]? with)
    {
        if (with is not { Length: > 0 })
            return null;
        var state = fresh.Copy();
        foreach (var entry in with.Select(text => text.Split('~', 2)).Where(entry => entry.Length == 2))
        {
            if (type.Header.Find(entry[0]) is not { IsTyped: true } field || field.Kind.Parse(entry[1]) is not { Refusal: null } read)
                continue;
            state.Header[field.Slot] = read.Value;
            if (field.IsChangeable)
                state.Origins[field] = new(DateTime.UtcNow, "the page before");
        }

        return state;
    }

    private async Task<RecordState?> FollowingAsync(RecordType type, string? from, CancellationToken cancel)
    {
        if (from?.Split('/') is not [var code, var number] || !RecordEditing.TryId(number, out var id))
            return null;
        if (type.Follows.FirstOrDefault(follow => follow.Source.Code == code) is not { } follow || !request.Viewer.MayRead(follow.Source))
            return null;
        return (await store.FollowAsync(follow, id, request.Viewer, cancel)).Begun;
    }
}
