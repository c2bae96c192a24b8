using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc.Filters;
using Pelto.Data.Storage;

namespace Pelto.Web.Pages;

/// <summary>
/// Arranging a screen or a list: the real one with a real record. Every change is one operation of a layer; whose layer it is, and how it is
/// kept, is said by the page.
/// </summary>
public abstract class ArrangePage(CurrentRequest request, ArrangedScreens screens, FactsReader facts) : PageModel
{
    private const string ListMode = "list";
    private const string InMode = "in:";
    private const int LongestNote = 200;

    private Arrangeable all = default!;

    /// <summary>Who asks.</summary>
    protected CurrentRequest Current => request;

    /// <summary>What is arranged.</summary>
    protected SiteDefinition Site => all.Site;

    /// <summary>The same, put together.</summary>
    protected Catalogue Catalogue => all.Catalogue;

    /// <summary>The conventions of the person who arranges.</summary>
    public Locale Locale => request.Locale;

    /// <summary>Where this page is.</summary>
    public abstract string Path { get; }

    /// <summary>True when somebody arranges for themselves alone.</summary>
    public abstract bool IsOwn { get; }

    /// <summary>True when the one who asks may use this page.</summary>
    protected abstract bool MayArrange { get; }

    /// <summary>The record type, as it is arranged.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>All record types, for choosing.</summary>
    public IEnumerable<RecordType> Types => Catalogue.RecordTypes.Where(type => request.Viewer.MayRead(type) && IsMine(type));

    /// <summary>The layer that is being changed.</summary>
    public Layer Layer { get; private set; } = default!;

    /// <summary>What the layer says of all screens that the one who arranges works on, for doing it again.</summary>
    public abstract IReadOnlyList<LayerOperation> Operations { get; }

    /// <summary>The layers that make what is shown.</summary>
    protected IReadOnlyList<Layer> Laid { get; private set; } = [];

    /// <summary>What the layer says of this screen, in words, each with its place among its operations.</summary>
    public IReadOnlyList<(int Index, string Sentence, string Part, bool IsDraft)> Descriptions { get; private set; } = [];

    /// <summary>What could not be carried out as it is, of the layer that is being changed.</summary>
    public IReadOnlyList<string> Clashes { get; private set; } = [];

    /// <summary>What keeps the layer from being as it says.</summary>
    public abstract IReadOnlyList<string> Refusals { get; }

    /// <summary>True when a record is being added on the screen, rather than changed.</summary>
    public bool IsAdding { get; private set; }

    /// <summary>What is shown.</summary>
    public ArrangedScreen Shown { get; private set; } = default!;

    /// <summary>The screen, or the list.</summary>
    public Resolved Screen => Shown.Screen;

    /// <summary>The list that is being arranged; null for the screen.</summary>
    public ListOf? List { get; private set; }

    /// <summary>What is being arranged, as addresses say it (<see cref="ArrangeAddress.Of"/>); empty for the screen.</summary>
    public string Of { get; private set; } = "";

    /// <summary>All that can be arranged of the record type: its screen, its list, and the lists of what points to its records.</summary>
    public IEnumerable<(string Of, string Label)> Arranged =>
        Type
            .Screens.Lists.Where(list => request.Viewer.MayRead(list.Type))
            .Select(list => (ModeOf(list), NameOf(list)))
            .Prepend(("", "screen"));

    /// <summary>What could be put there.</summary>
    public IReadOnlyList<ShelfItem> Shelf { get; private set; } = [];

    /// <summary>The version of what is arranged.</summary>
    public long Version => all.Version;

    /// <summary>What was done just now, and what it moved.</summary>
    public string? Message { get; protected set; }

    /// <summary>Another place for what was put somewhere just now: after which part it would move nothing.</summary>
    public (string Part, string After, string Label)? Offer { get; private set; }

    /// <summary>The part that is chosen.</summary>
    public string Part { get; private set; } = "";

    /// <summary>The part that is chosen, as its settings show it.</summary>
    public PartSettings Settings => PartSettings.For(Layer, Part);

    /// <summary>The place that is chosen, when it is one of a field.</summary>
    public LayoutPlace? Place => Screen.Layout.Places.FirstOrDefault(place => place.Id == Part);

    /// <summary>For the place of a field: the letters of its widest value, and the columns of twelve that they need.</summary>
    public (int Letters, int Columns)? Widest { get; private set; }

    /// <summary>What a layer made that is chosen.</summary>
    public LayoutExtra? Extra =>
        Screen.Layout.Sections.SelectMany(section => section.Items).OfType<LayoutExtra>().FirstOrDefault(extra => extra.Id == Part);

    /// <summary>True when the layer that is being changed made what is chosen.</summary>
    public bool IsMadeHere => Layer.Operations.Any(operation => operation.Part == Part && operation.New is not null);

    /// <summary>What else can be said of the part that is chosen, each a choice of a few; with what definitions call it.</summary>
    public IEnumerable<(string Kind, OperationChoice Choice)> Choices =>
        from kind in OperationKinds.All
        where kind.Choice?.IsFor(Selected) == true && (!IsOwn || (List is null ? kind.IsOwnOnScreens : kind.IsOwnInLists))
        select (kind.Name, kind.Choice!);

    private ArrangedPart Selected =>
        new(IsSection: Place is null && Extra is null, IsOfList: List is not null, IsOrdered: Place?.Field.Kind.IsOrdered == true);

    /// <summary>Why the part that is looked at is as it is.</summary>
    public IReadOnlyList<string> Why => [.. Type.Screens.Why(Screen, Part, request.Views.Knows)];

    /// <summary>What roles may do with the field that is chosen; nothing on a page where that is not said.</summary>
    public virtual IEnumerable<(string Role, string Level)> Levels => [];

    /// <summary>Places that Tab can come from to the one that is chosen.</summary>
    public IEnumerable<LayoutPlace> TabFrom =>
        Place is not { } chosen ? [] : Screen.Layout.Places.Where(place => place.Field.Part == chosen.Field.Part && place != chosen);

    /// <summary>The address of this page with another layer.</summary>
    public string AddressOf(Layer layer)
    {
        var address = new StringBuilder($"{Path}?type={Type.Code}&layer={layer.Id}");
        if (Of.Length > 0)
            address.Append($"&of={Uri.EscapeDataString(Of)}");
        if (Shown.RecordId.Length > 0)
            address.Append($"&record={Shown.RecordId}");
        if (IsAdding)
            address.Append($"&on={ArrangeAddress.Adding}");
        return address.ToString();
    }

    /// <summary>What a part is called, as far as whoever arranges is shown it.</summary>
    public string NameOf(string id) => Screen.NameOf(id, request.Views.Knows);

    /// <summary>Those of some places whose fields this person may know of.</summary>
    public IEnumerable<string> Known(IEnumerable<string> ids)
    {
        var unknown = Screen
            .Layout.Places.Where(place => request.Viewer.LevelAt(place.Field) == AccessLevel.None)
            .Select(place => place.Id)
            .ToHashSet(StringComparer.Ordinal);
        return ids.Where(id => !unknown.Contains(id));
    }

    /// <summary>Lets nobody else on this page, whatever they ask of it.</summary>
    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (!MayArrange)
            context.Result = Forbid();
    }

    /// <summary>Shows a screen.</summary>
    public async Task<IActionResult> OnGetAsync([FromQuery] ArrangeAddress at, string? part)
    {
        Part = part ?? "";
        return await LoadAsync(at) ? Page() : NotFound();
    }

    /// <summary>The settings of a part.</summary>
    public async Task<IActionResult> OnGetPartAsync([FromQuery] ArrangeAddress at, string part)
    {
        Part = part;
        return await LoadAsync(at) ? Partial("Arranging/_ArrangePart", this) : NotFound();
    }

    /// <summary>Carries one operation out.</summary>
    public async Task<IActionResult> OnPostDoAsync([FromQuery] ArrangeAddress at, [FromForm] string? operation)
    {
        if (!await LoadAsync(at))
            return NotFound();
        if (Read<LayerOperation>(operation) is not { } wanted)
            return BadRequest();
        Part = wanted.Part;
        var what = LayerWords.Whole(wanted, id => NameOf(id, wanted));
        return await ChangeAsync(at, now => Putting(now, wanted), what, wanted);
    }

    /// <summary>Puts the settings of a part into the layer.</summary>
    public async Task<IActionResult> OnPostSettingsAsync([FromQuery] ArrangeAddress at, [FromForm] PartSettings settings)
    {
        if (!await LoadAsync(at))
            return NotFound();
        Part = settings.Part;
        if (settings.Refusal is { } refusal)
            return Refused($"Not done: {refusal}");
        return await ChangeAsync(at, now => now.With(settings.PutInto(LayerIn(now))), $"settings of {NameOf(settings.Part)}");
    }

    /// <summary>Takes one of the layer's operations back.</summary>
    public async Task<IActionResult> OnPostBackAsync([FromQuery] ArrangeAddress at, [FromForm] int index)
    {
        if (!await LoadAsync(at))
            return NotFound();
        return await ChangeAsync(at, now => now.With(LayerIn(now).Without(index)), "took back a change");
    }

    /// <summary>Sets what the layer says of all screens: doing again what was undone.</summary>
    public async Task<IActionResult> OnPostAgainAsync([FromQuery] ArrangeAddress at, [FromForm] string? operations, [FromForm] long version)
    {
        if (!await LoadAsync(at))
            return NotFound();
        if (version != Version)
        {
            Message = "Somebody changed the draft meanwhile: look at it again before you do that again.";
            return Partial("Arranging/_Arranged", this);
        }

        if (Read<List<LayerOperation>>(operations) is not { } wanted)
            return BadRequest();
        return await ChangeAsync(at, now => Saying(now, wanted), "did it again");
    }

    /// <summary>True when the one who arranges works on a record type here.</summary>
    protected abstract bool IsMine(RecordType type);

    /// <summary>What there is to arrange.</summary>
    protected abstract Task<Arrangeable> ReadAsync(ArrangeAddress at);

    /// <summary>The layer that is arranged; null when there is none such.</summary>
    protected abstract Layer? Choose(ArrangeAddress at);

    /// <summary>The layers that make what is shown.</summary>
    protected abstract Task<IReadOnlyList<Layer>> LaidAsync();

    /// <summary>What could be put on the screen or list.</summary>
    protected abstract IReadOnlyList<ShelfItem> FindShelf();

    /// <summary>Keeps a change.</summary>
    /// <param name="change">The change.</param>
    /// <param name="what">What it is, for the history.</param>
    protected abstract Task KeepAsync(Func<SiteDefinition, SiteDefinition> change, string what);

    /// <summary>The site with one more operation in the layer, and with what that needs.</summary>
    protected abstract SiteDefinition Put(SiteDefinition now, LayerOperation operation, ref string part);

    /// <summary>The site with a layer that says this instead of what it said, as far as the one who arranges is shown it.</summary>
    protected abstract SiteDefinition Saying(SiteDefinition now, IReadOnlyList<LayerOperation> operations);

    /// <summary>Why a change that changes something cannot be made; null when it can.</summary>
    protected virtual string? Refuse(SiteDefinition changed) => null;

    /// <summary>Those operations that the layer has of this record type.</summary>
    protected abstract IEnumerable<LayerOperation> OfType();

    /// <summary>The layer as it is now.</summary>
    protected Layer LayerIn(SiteDefinition now) => now.FindLayer(Layer.Id) ?? Layer;

    /// <summary>True for what is said of what is being arranged: the screen, or the list.</summary>
    protected bool IsHere(LayerOperation operation) => List is null ? !operation.IsOfList : List.Knows(operation.Part);

    /// <summary>A refusal, which is said where it was asked for and changes nothing on the page.</summary>
    protected ContentResult Refused(string sentence) => Content(sentence, "text/plain", Encoding.UTF8);

    /// <summary>Loads the page and carries a change out.</summary>
    protected async Task<IActionResult> DoAsync(ArrangeAddress at, Func<SiteDefinition, SiteDefinition> change, string what) =>
        await LoadAsync(at) ? await ChangeAsync(at, change, what) : NotFound();

    /// <summary>Loads what is shown; false when there is nothing such.</summary>
    protected async Task<bool> LoadAsync(ArrangeAddress at)
    {
        all = await ReadAsync(at);
        if (!Choose(at, out var type, out var layer))
            return false;
        (Type, Layer, IsAdding) = (type, layer, at.On == ArrangeAddress.Adding);
        (List, Of) = Find(at.Of ?? "");
        Laid = await LaidAsync();
        Shown = List is null
            ? await screens.OfRecordAsync(Type, Laid, at.Record, IsAdding, HttpContext.RequestAborted)
            : await screens.OfListAsync(Type, List, Laid, HttpContext.RequestAborted);
        var report = new LayerReport(Layer, Screen, NameOf);
        var here = OfType().Where(IsHere).ToHashSet<LayerOperation>(ReferenceEqualityComparer.Instance);
        Descriptions = report.Describe(here, request.Catalogue.Site.FindLayer(Layer.Id));
        Clashes = report.Clashes(Type, Catalogue, IsHere);
        Shelf = FindShelf();
        Widest = await WidestAsync();
        return true;
    }

    private bool Choose(ArrangeAddress at, out RecordType type, out Layer layer)
    {
        var asked = at.Type ?? "sales_order";
        type = (Types.FirstOrDefault(one => one.Code == asked) ?? (at.Type is null ? Types.FirstOrDefault() : null))!;
        layer = Choose(at)!;
        return type is not null && layer is not null;
    }

    // What is chosen on a list says which list, where the address does not.
    private (ListOf? List, string Of) Find(string of)
    {
        var list =
            of.Length > 0
                ? Type.Screens.Lists.FirstOrDefault(list => of == ModeOf(list))
                : Type.Screens.Lists.FirstOrDefault(list => list.Knows(Part));
        return list is null || !request.Viewer.MayRead(list.Type) ? (null, "") : (list, ModeOf(list));
    }

    private async Task<(int Letters, int Columns)?> WidestAsync()
    {
        if (Place is not { Width: > 0, Field: { Part.IsLines: false } field })
            return null;
        var known = Widths.LettersOf(field)
            ?? (request.Catalogue.FindField(field.Id) is { } live ? await facts.LongestAsync(live, request.Viewer) : null);
        if (known is not { } letters)
            return null;
        var hasButton = field.Kind.IsOneLink || field.Kind.IsOneChoice || field.Kind.DataType == DataType.YesNo;
        return (letters, Widths.Needed(letters, hasButton));
    }

    private SiteDefinition Putting(SiteDefinition now, LayerOperation operation)
    {
        var part = operation.Part;
        var site = Put(now, operation, ref part);
        Part = part;
        return site;
    }

    private async Task<IActionResult> ChangeAsync(
        ArrangeAddress at,
        Func<SiteDefinition, SiteDefinition> change,
        string what,
        LayerOperation? operation = null
    )
    {
        var changed = change(Site);
        if (SiteDefinition.Same(changed.FindLayer(Layer.Id), Site.FindLayer(Layer.Id)) && changed.IsSameAs(Site))
            return Refused("Nothing changes: it is like that already.");
        if (Refuse(changed) is { } refusal)
            return Refused(refusal);
        var before = Screen.Layout;
        var note = $"{Layer.Label}: {what}";
        await KeepAsync(change, note.Length > LongestNote ? note[..LongestNote] : note);
        await LoadAsync(
            new()
            {
                Type = Type.Code,
                Layer = Layer.Id,
                Record = Shown.RecordId,
                On = IsAdding ? ArrangeAddress.Adding : null,
                Of = at.Of,
            }
        );
        Message = $"{what[..1].ToUpperInvariant()}{what[1..]}.";
        if (List is null && operation?.Op is LayerOperation.Put or LayerOperation.Move or LayerOperation.Resize or LayerOperation.Row)
        {
            var moved = Moves.For(InSight(before), InSight(Screen.Layout), operation with { Part = Part }, NameOf);
            (Message, Offer) = ($"{Message}{moved.Sentence}", moved.Offer);
        }

        if (operation?.Op == LayerOperation.Resize && Widest is { } widest && Place is { } narrow && narrow.Width < widest.Columns)
            Message += $" Its widest value, of {widest.Letters} letters, needs {widest.Columns} of 12.";
        return Partial("Arranging/_Arranged", this);
    }

    // What the ERP or a definition does not show on this record takes no place.
    private Layout InSight(Layout layout)
    {
        bool IsThere(LayoutItem item) => item is not LayoutPlace { Field.Part.IsLines: false } place || Shown.Form!.At(place, null).IsShown;
        LayoutSection Of(LayoutSection section) => section with { Items = [.. section.Items.Where(IsThere)] };
        return layout with { Pages = [.. layout.Pages.Select(page => page with { Sections = [.. page.Sections.Select(Of)] })] };
    }

    // What is made just now is known by what it is made of.
    private string NameOf(string id, LayerOperation operation) =>
        operation.New switch
        {
            { } when id != operation.Part => NameOf(id),
            { What: NewPart.Again, Field: { } field } => NameOf(field),
            { What: NewPart.Guidance } => "guidance",
            { } => operation.Label ?? "",
            null => NameOf(id),
        };

    private static string ModeOf(ListOf list) => list.By is null ? ListMode : InMode + list.By.Id;

    private static string NameOf(ListOf list) =>
        list.By is null ? "list" : $"list of {list.Type.Plural.ToLowerInvariant()} by {list.By.Label} on it";

    private static T? Read<T>(string? json)
        where T : class
    {
        try
        {
            return JsonSerializer.Deserialize<T>(json ?? "", SiteDefinition.Json);
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
