namespace Pelto.Web.Pages;

/// <summary>What came in through the public form of a record type, for those who decide on it.</summary>
public sealed class EntriesModel(CurrentRequest request, Entries entries, RecordForms forms) : PageModel
{
    /// <summary>Where entries can stand, and what people call that.</summary>
    public static IReadOnlyList<(EntryState State, string Label)> States { get; } =
    [(EntryState.Waiting, "Waiting"), (EntryState.Accepted, "Accepted"), (EntryState.Refused, "Refused")];

    /// <summary>The record type.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>Which entries are shown.</summary>
    public EntryState State { get; private set; }

    /// <summary>The entries, each as the record that it would make.</summary>
    public IReadOnlyList<(Entry Entry, RecordForm Form)> Entries { get; private set; } = [];

    /// <summary>The entry that was refused just now.</summary>
    public EntryRow? Refused { get; private set; }

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>The fields of the header that the sender filled and this person may see.</summary>
    public IEnumerable<Field> Filled(Entry entry) => entry.Sent.Where(request.Viewer.ReadsWhereRead);

    /// <summary>Shows the entries.</summary>
    public async Task<IActionResult> OnGetAsync(string type, EntryState state, Guid? refused, bool late, CancellationToken cancel)
    {
        if (request.Find(type) is not { Definition: not null } found || !request.Viewer.MayCreate(found))
            return NotFound();
        (Type, State) = (found, state);
        var shown = await entries.ReadAsync(found, state, request.Viewer, cancel: cancel);
        Entries = [.. shown.Zip(await forms.ReadOnlyAsync([.. shown.Select(entry => entry.Begun)]))];
        if (refused is { } id && await entries.FindAsync(found, id, request.Viewer, cancel) is { Row: { State: EntryState.Refused } row })
            Refused = row;
        if (late)
            Message = "Somebody else decided it meanwhile.";
        return Page();
    }

    /// <summary>Refuses an entry; the page offers to undo it.</summary>
    public async Task<IActionResult> OnPostRefuseAsync(string type, Guid entry, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found)
            return NotFound();
        return Redirect(
            $"/records/{type}/entries?{(await entries.RefuseAsync(found, entry, request.Viewer, cancel) ? $"refused={entry}" : "late=true")}"
        );
    }

    /// <summary>Lets a refused entry wait again.</summary>
    public async Task<IActionResult> OnPostUnrefuseAsync(string type, Guid entry, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found)
            return NotFound();
        return Redirect(
            $"/records/{type}/entries{(await entries.UnrefuseAsync(found, entry, request.Viewer, cancel) ? "" : "?late=true")}"
        );
    }
}
