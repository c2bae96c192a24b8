namespace Pelto.Web.Pages;

/// <summary>A shortcut as it stands in the inputs of its row.</summary>
public sealed class ShortcutInput
{
    /// <summary>Its lasting id; empty for a new one.</summary>
    public string Id { get; set; } = "";

    /// <summary>What the menu says.</summary>
    public string Label
    {
        get;
        set => field = value?.Trim() ?? "";
    } = "";

    /// <summary>Where it leads.</summary>
    public string Address
    {
        get;
        set => field = value?.Trim() ?? "";
    } = "";

    /// <summary>In whose menu it stands.</summary>
    public string Audience
    {
        get;
        set => field = value ?? Layer.Everyone;
    } = Layer.Everyone;

    /// <summary>True when it is to go.</summary>
    public bool Goes { get; set; }

    /// <summary>True for a new row in which nobody has typed.</summary>
    public bool IsBlank => Id.Length == 0 && Label.Length == 0 && Address.Length == 0;

    /// <summary>What the row says.</summary>
    public Shortcut ToShortcut() =>
        new()
        {
            Id = Id,
            Label = Label,
            Address = Address,
            Audience = Audience,
        };

    /// <summary>A shortcut, in its inputs.</summary>
    public static ShortcutInput From(Shortcut shortcut) =>
        new()
        {
            Id = shortcut.Id,
            Label = shortcut.Label,
            Address = shortcut.Address,
            Audience = shortcut.Audience,
        };
}

/// <summary>The shortcuts in the menu: named links, each for an audience.</summary>
public sealed class ShortcutsModel(CurrentRequest request, Drafts drafts, People people) : PageModel
{
    private const int NewRows = 2;

    private Catalogue draft = default!;

    /// <summary>One row for each shortcut, and some for new ones.</summary>
    public IReadOnlyList<ShortcutInput> Rows { get; private set; } = [];

    /// <summary>What is wrong in a row, by its place and the property.</summary>
    public ILookup<(int Row, string Property), string> Problems { get; private set; } =
        Array.Empty<string>().ToLookup(_ => (0, ""), sentence => sentence);

    /// <summary>Why it cannot be put in the draft.</summary>
    public string? Refusal { get; private set; }

    /// <summary>True when it was put in the draft just now.</summary>
    public bool IsSaved { get; private set; }

    /// <summary>Those for whom one can stand in the menu.</summary>
    public IReadOnlyList<(string Code, string Label)> Audiences { get; private set; } = [];

    /// <summary>True when the draft says something else of a shortcut than what is live, or has a new one.</summary>
    public bool IsDrafted(ShortcutInput row) =>
        draft.Site.Shortcuts.FirstOrDefault(one => one.Id == row.Id) is { } now
        && request.Catalogue.Site.Shortcuts.FirstOrDefault(one => one.Id == row.Id) != now;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(bool saved)
    {
        IsSaved = saved;
        await LoadAsync();
        Rows = [.. draft.Site.Shortcuts.Select(ShortcutInput.From), .. Blank()];
    }

    /// <summary>Puts all of them in the draft, as one change.</summary>
    public async Task<IActionResult> OnPostAsync([FromForm] List<ShortcutInput> rows, [FromForm] string? then) =>
        await KeepAsync(rows, site => site) ?? Redirect(then == "review" ? "/setup/draft" : "/setup/shortcuts?saved=true");

    /// <summary>Moves one among them; what was typed in the others is kept with it.</summary>
    public async Task<IActionResult> OnPostMoveAsync([FromForm] List<ShortcutInput> rows, string id, int step) =>
        await KeepAsync(rows, site => Moved(site, id, step < 0 ? -1 : 1)) ?? Redirect("/setup/shortcuts?saved=true");

    // The page with what is wrong, or null when it is in the draft.
    private async Task<IActionResult?> KeepAsync(List<ShortcutInput> rows, Func<SiteDefinition, SiteDefinition> then)
    {
        await LoadAsync();
        var entered = rows.Where(row => !row.IsBlank).ToList();
        var known = draft.Site.Shortcuts.Select(one => one.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var row in entered.Where(row => !known.Remove(row.Id)))
            row.Id = Shortcut.NewId();
        Problems = (
            from pair in entered.Select((row, at) => (row, at))
            where !pair.row.Goes
            from wrong in pair.row.ToShortcut().Problem(draft.Host)
            select (Key: (pair.at, wrong.Property), wrong.Sentence)
        ).ToLookup(one => one.Key, one => one.Sentence);
        SiteDefinition Change(SiteDefinition site) => then(With(site, entered));
        if (Problems.Count == 0)
            Refusal = await drafts.RefuseAsync(request.Viewer, draft.Site, Change(draft.Site), HttpContext.RequestAborted);
        if (Problems.Count == 0 && Refusal is null)
        {
            if (!Change(draft.Site).IsSameAs(draft.Site))
                await drafts.ChangeAsync(Change, "Changed the shortcuts", request.Viewer);
            return null;
        }

        Rows = [.. entered, .. Blank()];
        return Page();
    }

    // What somebody else put in meanwhile stays.
    private static SiteDefinition With(SiteDefinition site, List<ShortcutInput> entered)
    {
        var said = entered.ToDictionary(row => row.Id, StringComparer.Ordinal);
        var known = site.Shortcuts.Select(one => one.Id).ToHashSet(StringComparer.Ordinal);
        return site with
        {
            Shortcuts =
            [
                .. site
                    .Shortcuts.Where(one => said.GetValueOrDefault(one.Id) is not { Goes: true })
                    .Select(one => said.GetValueOrDefault(one.Id)?.ToShortcut() ?? one),
                .. entered.Where(row => !known.Contains(row.Id) && !row.Goes).Select(row => row.ToShortcut()),
            ],
        };
    }

    private static SiteDefinition Moved(SiteDefinition site, string id, int step)
    {
        var all = site.Shortcuts.ToList();
        var at = all.FindIndex(one => one.Id == id);
        var to = at + step;
        if (at < 0 || to < 0 || to >= all.Count)
            return site;
        (all[at], all[to]) = (all[to], all[at]);
        return site with { Shortcuts = all };
    }

    private static IEnumerable<ShortcutInput> Blank() => Enumerable.Range(0, NewRows).Select(_ => new ShortcutInput());

    private async Task LoadAsync()
    {
        draft = await drafts.CatalogueAsync(HttpContext.RequestAborted);
        Audiences = [(Layer.Everyone, "Everyone"), .. AudienceChoices.For(draft.Host, await people.AllAsync())];
    }
}
