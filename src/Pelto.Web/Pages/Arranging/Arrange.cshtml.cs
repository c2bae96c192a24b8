using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Records;
using Pelto.Data.Releases;
using Pelto.Data.Storage;
using Pelto.Web.Components;

namespace Pelto.Web.Pages;

/// <summary>Arranging a screen for an audience: the real screen with a real record, in the draft.</summary>
public class ArrangeModel(CurrentRequest request, Drafts drafts, Catalogues catalogues, RecordForms forms, RecordStore store, RecordLists lists, People people, FactsReader facts) : PageModel
{
    private const string AddingMode = "adding";
    private const int MostRows = 12;

    private SiteDefinition site = SiteDefinition.Nothing;
    private Catalogue catalogue = default!;
    private RecordState? record;
    private Resolved? shownList;
    private IReadOnlyList<Layer> laid = [];

    /// <summary>Who asks.</summary>
    protected CurrentRequest Current => request;

    /// <summary>The record type, as the draft has it.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>All record types, for choosing.</summary>
    public IEnumerable<RecordType> Types => catalogue.RecordTypes.Where(IsMine);

    /// <summary>True for those who also define fields here.</summary>
    public bool MayDefine => request.Viewer.MayAt(Works.Define, Type.Code);

    /// <summary>True for those who also see as others.</summary>
    public bool MaySee => WorkRights.All(request.Viewer);

    /// <summary>True for those who also publish.</summary>
    public bool MayPublish => request.Viewer.May(Works.Publish);

    /// <summary>True when the one who asks may use this page.</summary>
    protected virtual bool MayArrange => request.Viewer.May(Works.Arrange);

    /// <summary>The host, as people call it.</summary>
    public string HostName => $"{catalogue.Host.Label} {catalogue.Host.Version}";

    /// <summary>The layer that is being changed.</summary>
    public Layer Layer { get; private set; } = default!;

    /// <summary>All layers, in the order in which they are laid over each other, each with how much it says of this screen.</summary>
    public IReadOnlyList<(Layer Layer, string For, int Count)> Layers { get; private set; } = [];

    /// <summary>What the layer says of all screens that the one who arranges works on, for doing it again.</summary>
    public IReadOnlyList<LayerOperation> Operations => IsOwn ? Layer.Operations : request.Views.Seen(site).FindLayer(Layer.Id)?.Operations ?? Layer.Operations;

    /// <summary>What the layer says of this screen, in words, each with its place among its operations.</summary>
    public IReadOnlyList<(int Index, string Sentence, string Part, bool IsDraft)> Says { get; private set; } = [];

    /// <summary>True when a record is being added on the screen, rather than changed.</summary>
    public bool IsAdding { get; private set; }

    /// <summary>What is shown.</summary>
    public RecordForm Form { get; private set; } = default!;

    /// <summary>The screen, or the list.</summary>
    public Resolved Screen => shownList ?? Form.Screen;

    /// <summary>The list that is being arranged; null for the screen.</summary>
    public ListOf? List { get; private set; }

    /// <summary>
    /// What is being arranged, as addresses say it: empty for the screen, <c>list</c>, or <c>in:</c> and the id of a link.
    /// </summary>
    public string Of { get; private set; } = "";

    /// <summary>All that can be arranged of the record type: its screen, its list, and the lists of what points to its records.</summary>
    public IEnumerable<(string Of, string Label)> Arranged => Type.Screens.Lists.Where(list => request.Viewer.MayRead(list.Type)).Select(list => list.By is null ? (ListMode, "list") : (InMode + list.By.Id, $"list of {list.Type.Plural.ToLowerInvariant()} by {list.By.Label} on it")).Prepend(("", "screen"));

    /// <summary>For a list: the columns that are shown, and rows as they are on file.</summary>
    public IReadOnlyList<LayoutPlace> Columns => ListOrder.Visible(Screen, request.Viewer);

    /// <summary>Cells of a list, row by row.</summary>
    public IReadOnlyList<IReadOnlyList<FieldView?>> Rows { get; private set; } = [];

    /// <summary>True when somebody arranges for themselves alone.</summary>
    public virtual bool IsOwn => false;

    /// <summary>Where this page is.</summary>
    public virtual string Path => "/setup/arrange";

    /// <summary>The conventions of the person who arranges.</summary>
    public Core.Values.Locale Locale => request.Locale;

    private const string ListMode = "list";
    private const string InMode = "in:";

    /// <summary>The record that is shown, by its title; or what stands in for it.</summary>
    public string RecordTitle { get; private set; } = "";

    /// <summary>The record's id in addresses.</summary>
    public string RecordId => record?.Id?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "";

    /// <summary>What could be put on the screen.</summary>
    public IReadOnlyList<ShelfItem> Shelf { get; private set; } = [];

    /// <summary>The draft's version.</summary>
    public long Version { get; private set; }

    /// <summary>How many changes are in the draft.</summary>
    public int Drafted { get; private set; }

    /// <summary>What was done just now, and what it moved.</summary>
    public string? Said { get; private set; }

    /// <summary>Another place for what was put somewhere just now: after which part it would move nothing.</summary>
    public (string Part, string After, string Label)? Offer { get; private set; }

    /// <summary>What could not be carried out as it is, of the layer that is being changed.</summary>
    public IReadOnlyList<string> Clashes { get; private set; } = [];

    /// <summary>What keeps the draft from being published, of this layer.</summary>
    public IReadOnlyList<string> Refusals { get; private set; } = [];

    /// <summary>The part that is chosen.</summary>
    public string Part { get; private set; } = "";

    /// <summary>The audiences that have no layer yet, and what they are called.</summary>
    public IReadOnlyList<(string Code, string Label)> Audiences { get; private set; } = [];

    /// <summary>All people, to see the screen as.</summary>
    public IReadOnlyList<PersonToPick> People { get; private set; } = [];

    /// <summary>A new layer as it was asked for, so that a refusal loses nothing of it.</summary>
    public (string Audience, string Label, string Comment, string Copy) NewLayer { get; private set; } = ("", "", "", "");

    /// <summary>What keeps a new layer from being made, and at which of its inputs.</summary>
    public (string At, string Sentence)? LayerRefusal { get; private set; }

    /// <summary>The address of this page with another layer.</summary>
    public string AddressOf(Layer layer) => $"{Path}?type={Type.Code}&layer={layer.Id}{(Of.Length > 0 ? $"&of={Uri.EscapeDataString(Of)}" : "")}{(RecordId.Length > 0 ? $"&record={RecordId}" : "")}{(IsAdding ? "&on=adding" : "")}";

    /// <summary>Lets nobody else on this page, whatever they ask of it.</summary>
    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (!MayArrange) context.Result = Forbid();
    }

    /// <summary>Shows a screen.</summary>
    public async Task<IActionResult> OnGetAsync(string? type, string? layer, string? record, string? on, string? part)
    {
        Part = part ?? "";
        return await LoadAsync(type, layer, record, on) ? Page() : NotFound();
    }

    /// <summary>The settings of a part.</summary>
    public async Task<IActionResult> OnGetPartAsync(string? type, string? layer, string? record, string? on, string part)
    {
        Part = part;
        return await LoadAsync(type, layer, record, on) ? Partial("Arranging/_ArrangePart", this) : NotFound();
    }

    /// <summary>Carries one operation out.</summary>
    public async Task<IActionResult> OnPostDoAsync(string? type, string? layer, string? record, string? on, [FromForm] string? operation)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        LayerOperation? wanted;
        try
        {
            wanted = JsonSerializer.Deserialize<LayerOperation>(operation ?? "", SiteDefinition.Json);
        }
        catch (JsonException)
        {
            return BadRequest();
        }

        if (wanted is null) return BadRequest();
        Part = wanted.Part;
        return await ChangeAsync(now => Put(now, wanted), $"{Layer.Label}: {LayerWords.Whole(wanted, id => NameOf(id, wanted))}", wanted);
    }

    // What is made just now is known by what it is made of.
    private string NameOf(string id, LayerOperation operation) => id != operation.Part ? NameOf(id)
        : operation.New is { What: NewPart.Again, Field: { } field } ? NameOf(field) : operation.New is { What: NewPart.Guidance } ? "guidance" : operation.New is not null ? operation.Label ?? "" : NameOf(id);

    /// <summary>What a part is called, as far as whoever arranges is shown it.</summary>
    public string NameOf(string id) => Screen.NameOf(id, request.Views.Knows);

    /// <summary>Why the part that is looked at is as it is.</summary>
    public IReadOnlyList<string> Why => [.. Type.Screens.Why(Screen, Part, request.Views.Knows)];

    /// <summary>Puts the settings of a part into the layer.</summary>
    public async Task<IActionResult> OnPostSettingsAsync(string? type, string? layer, string? record, string? on, [FromForm] PartSettings settings)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        Part = settings.Part;
        if (settings.Refusal is { } refusal) return Content($"Not done: {refusal}", "text/plain", System.Text.Encoding.UTF8);
        return await ChangeAsync(now => now.With(settings.PutInto(LayerIn(now))), $"{Layer.Label}: settings of {NameOf(settings.Part)}");
    }

    /// <summary>Takes one of the layer's operations back.</summary>
    public async Task<IActionResult> OnPostBackAsync(string? type, string? layer, string? record, string? on, [FromForm] int index)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        return await ChangeAsync(now => now.With(LayerIn(now).Without(index)), $"{Layer.Label}: took back a change");
    }

    /// <summary>Takes the newest change of the draft back, where it is the one that this page made.</summary>
    public async Task<IActionResult> OnPostUndoAsync(string? type, string? layer, string? record, string? on, [FromForm] long version)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        if (version != Version) Said = "Somebody changed the draft meanwhile: look at it again before you undo.";
        else if (await drafts.UndoAsync(request.Viewer) is { } undone) Said = $"Undone: {undone.What}.";
        var said = Said;
        await LoadAsync(type, layer, record, on);
        Said = said;
        return Partial("Arranging/_Arranged", this);
    }

    /// <summary>Sets what the layer says of all screens: doing again what was undone.</summary>
    public async Task<IActionResult> OnPostAgainAsync(string? type, string? layer, string? record, string? on, [FromForm] string? operations, [FromForm] long version)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        if (version != Version)
        {
            Said = "Somebody changed the draft meanwhile: look at it again before you do that again.";
            return Partial("Arranging/_Arranged", this);
        }

        try
        {
            var wanted = JsonSerializer.Deserialize<List<LayerOperation>>(operations ?? "", SiteDefinition.Json) ?? [];
            return await ChangeAsync(now => IsOwn ? now.With(LayerIn(now) with { Operations = wanted }) : request.Views.Merged(now, request.Views.Seen(now).With(LayerIn(now) with { Operations = wanted })), $"{Layer.Label}: did it again");
        }
        catch (JsonException)
        {
            return BadRequest();
        }
    }

    /// <summary>Makes a layer for another audience; it begins with what that audience has now, and may copy another layer.</summary>
    public async Task<IActionResult> OnPostLayerAsync(string? type, string? layer, string? record, string? on, [FromForm] string audience, [FromForm] string? label, [FromForm] string? comment, [FromForm] string? copy)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        NewLayer = (audience, label ?? "", comment ?? "", copy ?? "");
        LayerRefusal = string.IsNullOrWhiteSpace(label) ? ("label", "Give the layer a name.")
            : string.IsNullOrWhiteSpace(comment) ? ("comment", "Say why the layer is there.")
            : Audiences.All(known => known.Code != audience) ? ("audience", "Choose for whom it is.") : null;
        if (LayerRefusal is not null) return Page();
        var made = new Layer { Id = Layer.NewId(), Label = label!.Trim(), Comment = comment!.Trim(), Audience = audience };
        await KeepAsync(now => now.With(made with { Operations = CopyOf(now.FindLayer(copy)) }), $"Added the layer {made.Label}");
        return Redirect(AddressOf(made));
    }

    /// <summary>Moves a layer among those for the same kind of audience, or takes it away.</summary>
    public async Task<IActionResult> OnPostOrderAsync(string? type, string? layer, string? record, string? on, [FromForm] string then)
    {
        if (!await LoadAsync(type, layer, record, on)) return NotFound();
        if (then == "delete")
        {
            await KeepAsync(now => now with { Layers = [.. now.Layers.Where(one => one.Id != Layer.Id)] }, $"Deleted the layer {Layer.Label}");
            return Redirect($"/setup/arrange?type={Type.Code}");
        }

        await KeepAsync(now => Moved(now, then == "up" ? -1 : 1), $"Moved the layer {Layer.Label}");
        return Redirect(AddressOf(Layer));
    }

    // Parts that a layer made keep their ids only there: a copy makes its own.
    private static List<LayerOperation> CopyOf(Layer? other)
    {
        if (other is null) return [];
        var ids = other.Operations.Where(operation => operation.New is not null).Select(operation => operation.Part).Distinct().ToDictionary(id => id, _ => NewPart.NewId(), StringComparer.Ordinal);
        return [.. other.Operations.Select(operation => operation with { Part = ids.GetValueOrDefault(operation.Part, operation.Part), After = operation.After is { } after ? ids.GetValueOrDefault(after, after) : null })];
    }

    private SiteDefinition Moved(SiteDefinition now, int step)
    {
        var all = now.Layers.ToList();
        var at = all.FindIndex(one => one.Id == Layer.Id);
        var to = at + step;
        while (to >= 0 && to < all.Count && all[to].For?.Kind != Layer.For?.Kind) to += step;
        if (at < 0 || to < 0 || to >= all.Count) return now;
        (all[at], all[to]) = (all[to], all[at]);
        return now with { Layers = all };
    }

    // What is seen through a link becomes a field of its own, in the same change.
    private SiteDefinition Put(SiteDefinition now, LayerOperation operation)
    {
        if (IsOwn && List is null && operation.Op == LayerOperation.Put)
        {
            // What somebody hid from themselves is there again, and stands where they put it.
            var mine = LayerIn(now);
            return now.With((mine with { Operations = [.. mine.Operations.Where(old => old.Part != operation.Part || old.Op != LayerOperation.Hide)] }).With(operation with { Op = LayerOperation.Move }));
        }

        var (type, path) = (List?.Type ?? Type, List is null ? operation.Part : List.FieldIdOf(operation.Part) ?? "");
        if (IsOwn || operation is not { Op: LayerOperation.Put, New: null } || catalogue.FindField(path) is not null || path.Split('.') is not [var link, var code] || type.Header.Find(link)?.Target?.Header.Find(code) is not { } seen) return now.With(LayerIn(now).With(operation));
        var taken = type.Header.Fields.Select(field => field.Code).ToHashSet(StringComparer.Ordinal);
        var name = taken.Contains($"{link}_{code}") ? Enumerable.Range(2, 99).Select(i => $"{link}_{code}_{i}").First(candidate => !taken.Contains(candidate)) : $"{link}_{code}";
        var field = new FieldDefinition { Id = FieldDefinition.NewId(), RecordType = type.Code, Code = name, Label = seen.Label, Kind = FieldKinds.Seen, Path = path };
        Part = List is null ? field.Id : List.By is null ? ListOf.Prefix + field.Id : List.Id + field.Id;
        return now.With(field).With(LayerIn(now).With(operation with { Part = Part }));
    }

    /// <summary>What there is: the site, its version, how many changes are drafted, and the catalogue that shows it.</summary>
    protected virtual async Task<(SiteDefinition Site, long Version, int Drafted, Catalogue Catalogue)> ReadAsync()
    {
        var draft = await drafts.ReadAsync();
        return (draft.Site, draft.Version, await drafts.CountAsync(), catalogues.Build(draft.Site));
    }

    /// <summary>Keeps a change.</summary>
    /// <param name="change">The change.</param>
    /// <param name="what">What it is, for the history.</param>
    protected virtual Task KeepAsync(Func<SiteDefinition, SiteDefinition> change, string what) => drafts.ChangeAsync(change, what, request.Viewer);

    /// <summary>The layer that is arranged, of those that there are.</summary>
    protected virtual Layer? Choose(string? layer, Layer everyone) => layer is null or "site" ? everyone : site.FindLayer(layer);

    /// <summary>
    /// The layers that make what is shown: for one person all that hold for them, for others those of everyone and this one.
    /// </summary>
    protected virtual async Task<IReadOnlyList<Layer>> LaidAsync() =>
        Layer.For is { Kind: AudienceKind.User } one && (await people.AllAsync()).FirstOrDefault(person => person.SignIn == one.Code) is { } person && await people.ViewerAsync(person.Id) is { } their
            ? Type.Screens.LayersOf(their) : [.. Type.Screens.Layers.Where(layer => layer.For!.Kind == AudienceKind.Everyone || layer.Id == Layer.Id)];

    private Layer LayerIn(SiteDefinition now) => now.FindLayer(Layer.Id) ?? Layer;

    /// <summary>Loads the page and carries a change out.</summary>
    protected async Task<IActionResult> DoAsync(string? type, string? layer, string? record, string? on, Func<SiteDefinition, SiteDefinition> change, string what) =>
        await LoadAsync(type, layer, record, on) ? await ChangeAsync(change, what) : NotFound();

    private async Task<IActionResult> ChangeAsync(Func<SiteDefinition, SiteDefinition> change, string what, LayerOperation? operation = null)
    {
        if (Refuse(change) is { } refusal) return Content(refusal, "text/plain", System.Text.Encoding.UTF8);
        var before = Screen.Layout;
        await KeepAsync(change, what.Length > 200 ? what[..200] : what);
        await LoadAsync(Type.Code, Layer.Id, RecordId, IsAdding ? AddingMode : null);
        Said = what[(what.IndexOf(':', StringComparison.Ordinal) + 2)..];
        Said = $"{Said[..1].ToUpperInvariant()}{Said[1..]}.";
        if (List is null && operation?.Op is LayerOperation.Put or LayerOperation.Move or LayerOperation.Resize or LayerOperation.Row)
            TellMoved(before, operation);
        if (operation?.Op == LayerOperation.Resize && Widest is { } widest && Place is { } narrow && narrow.Width < widest.Columns)
            Said += $" Its widest value, of {widest.Letters} letters, needs {widest.Columns} of 12.";
        return Partial("Arranging/_Arranged", this);
    }

    // What cannot be is not put in the draft, and what changes nothing is not said to be done.
    private string? Refuse(Func<SiteDefinition, SiteDefinition> change)
    {
        var changed = change(site);
        if (SiteDefinition.Same(changed.FindLayer(Layer.Id), site.FindLayer(Layer.Id)) && changed.Says(site))
            return "Nothing is changed by that: it is so already.";
        if (IsOwn) return null;
        var next = catalogues.Build(changed);
        List<string> Wrong(Catalogue of) => [.. of.Problems.Where(problem => problem.Element == Layer.Id).Select(problem => problem.Sentence).Concat(of.Clashes.Where(clash => clash.Clash.Layer.Id == Layer.Id && clash.Clash.Refused).Select(clash => clash.Clash.Sentence)).Distinct()];
        return Wrong(next).Except(Wrong(catalogue)).ToList() is { Count: > 0 } wrong ? $"Not done: {string.Join(" ", wrong)}" : null;
    }

    // A place that was taken is answered at once: what moved where, and where it would not.
    private void TellMoved(Layout before, LayerOperation operation)
    {
        var shown = InSight(Screen.Layout);
        var moved = GridFlow.Moved(InSight(before), shown, Part);
        if (moved.Count == 0) return;
        var (item, was, now) = moved[0];
        var to = now.Row > was.Row ? "to the next row" : now.Row < was.Row ? "one row up" : now.Column > was.Column ? $"{now.Column - was.Column} to the right" : $"{was.Column - now.Column} to the left";
        Said += $" {NameOf(item.Id)} moves {to}{(moved.Count > 1 ? $", and {moved.Count - 1} more with it" : "")}.";
        if (shown.Sections.FirstOrDefault(section => section.Items.Any(one => one.Id == Part)) is not { } section || operation.Op is LayerOperation.Resize or LayerOperation.Row) return;
        var width = section.Items.First(one => one.Id == Part).Width;
        if (GridFlow.Gap(section, width, Part) is { } gap && gap.Id != operation.After) Offer = (Part, gap.Id, NameOf(gap.Id));
    }

    // What the ERP or a definition does not show on this record takes no place.
    private Layout InSight(Layout layout) => layout with { Pages = [.. layout.Pages.Select(page => page with { Sections = [.. page.Sections.Select(section => section with { Items = [.. section.Items.Where(item => item is not LayoutPlace { Field.Part.IsLines: false } place || Form.At(place, null).IsShown)] })] })] };

    private bool IsMine(RecordType one) => request.Viewer.MayRead(one) && (IsOwn || request.Views.WorksAt(one.Code));

    private async Task<bool> LoadAsync(string? type, string? layer, string? record, string? on)
    {
        (site, Version, Drafted, catalogue) = await ReadAsync();
        var asked = type ?? "sales_order";
        if ((Types.FirstOrDefault(one => one.Code == asked) ?? (type is null ? Types.FirstOrDefault() : null)) is not { } found)
            return false;
        Type = found;
        var everyone = site.Layers.FirstOrDefault(one => one.Audience == Layer.Everyone) ?? new Layer { Id = "site", Label = "Site" };
        Of = Request.Query["of"].ToString();
        if (Of.Length == 0 && Type.Screens.Lists.FirstOrDefault(list => list.Knows(Part)) is { } ofPart)
            Of = ofPart.By is null ? ListMode : InMode + ofPart.By.Id;
        List = Of.Length == 0 ? null : Type.Screens.Lists.FirstOrDefault(list => Of == (list.By is null ? ListMode : InMode + list.By.Id));
        if (List is null || !request.Viewer.MayRead(List.Type)) (List, Of) = (null, "");
        Layer = Choose(layer, everyone)!;
        if (Layer is null) return false;
        IsAdding = on == AddingMode;
        await ShowAsync(record);
        People = await people.AllAsync();
        Layers = [.. LayoutResolver.InOrder(site.Layers.Any(one => one.Id == everyone.Id) ? site.Layers : [everyone, .. site.Layers]).Select(one => (one, InWords(one), Type.Screens.Layers.FirstOrDefault(known => known.Id == one.Id)?.Operations.Count(IsHere) ?? 0))];
        Audiences = [.. AllAudiences().Where(one => site.Layers.All(known => known.Audience != one.Code))];
        var own = (IsOwn ? Layer : Type.Screens.Layers.FirstOrDefault(known => known.Id == Layer.Id))?.Operations.Where(IsHere).ToHashSet<LayerOperation>(ReferenceEqualityComparer.Instance) ?? [];
        var live = (request.Catalogue.Site.FindLayer(Layer.Id)?.Operations ?? []).Select(SiteDefinition.Text).ToHashSet(StringComparer.Ordinal);
        Says = [.. Layer.Operations.Select((operation, index) => (operation, index)).Where(pair => own.Contains(pair.operation)).Select(pair => (pair.index, Sentence(pair.operation), pair.operation.Part, !live.Contains(SiteDefinition.Text(pair.operation))))];
        Clashes = [.. catalogue.Clashes.Where(clash => clash.Type == Type && clash.Clash.Layer.Id == Layer.Id && !clash.Clash.Refused && IsHere(clash.Clash.Operation)).Select(clash => clash.Clash.Sentence).Distinct(),
            .. RoleConflicts.Of(Type.Screens, Layer).Where(conflict => Screen.Names.ContainsKey(conflict.Part)).Select(conflict => $"{conflict.Other.Label} says otherwise of {NameOf(conflict.Part)}: for people with both roles, {conflict.Wins.Label} wins."),
            .. RoleConflicts.MadeTwice(Type.Screens, Layer).GroupBy(twice => twice.Other).Select(twice => $"{twice.Key.Label} makes the same: whoever gets both layers has {string.Join(" and ", twice.Select(made => NameOf(made.Part)).Distinct().Take(4))} twice.")];
        Refusals = IsOwn ? [.. Screen.Clashes.Where(clash => clash.Layer.Id == Layer.Id).Select(clash => clash.Sentence).Distinct()] : [.. catalogue.Problems.Where(problem => problem.Element == Layer.Id).Select(problem => problem.Sentence).Concat(catalogue.Clashes.Where(clash => clash.Clash.Layer.Id == Layer.Id && clash.Clash.Refused).Select(clash => clash.Clash.Sentence)).Distinct()];
        Shelf = List is null ? Components.Shelf.Of(Type, Screen, request.Viewer) : Components.Shelf.Of(List, Screen, request.Viewer);
        if (!MayDefine) Shelf = [.. Shelf.Where(item => item.Kind != "seen" && !item.IsMade)];
        if (IsOwn) Shelf = List is not null ? [.. Shelf.Where(item => !item.IsMade)] : [.. Shelf.Where(item => !item.Again && Screen.Hidden.ContainsKey(item.Id) && Layer.Operations.Any(operation => operation.Op == LayerOperation.Hide && operation.Part == item.Id))];
        if (Place is { Width: > 0, Field: { Part.IsLines: false } field } && (Widths.LettersOf(field) ?? (request.Catalogue.FindField(field.Id) is { } known ? await facts.LongestAsync(known, request.Viewer) : null)) is { } letters)
            Widest = (letters, Widths.Needed(letters, field.Kind.IsOneLink || field.Kind.IsOneChoice || field.Kind.Holds == ValueForm.YesNo));
        return true;
    }

    /// <summary>True for what is said of what is being arranged: the screen, or the list.</summary>
    protected bool IsHere(LayerOperation operation) => List is null ? !operation.IsOfList : List.Knows(operation.Part);

    private string Sentence(LayerOperation operation)
    {
        var said = LayerWords.Whole(operation, NameOf);
        return said[..1].ToUpperInvariant() + said[1..];
    }

    private string InWords(Layer layer) => layer.For is { Kind: AudienceKind.User } one ? $"only {People.FirstOrDefault(person => person.SignIn == one.Code)?.Name ?? one.Code}" : layer.For?.InWords(catalogue.Host) ?? layer.Audience;

    private IEnumerable<(string Code, string Label)> AllAudiences() =>
        catalogue.Host.Companies.Select(company => ($"company:{company.Code}", $"Company {company.Label}"))
            .Concat(catalogue.Host.Companies.Select(company => company.Country).Distinct().Select(country => ($"country:{country}", $"Country {country}")))
            .Concat(catalogue.Host.Roles.Select(role => ($"role:{role.Code}", $"Role {role.Label}")))
            .Concat(People.Select(person => ($"user:{person.SignIn}", $"Only {person.Name}")));

    // Rows as they are on file; what the draft alone has is in no table yet.
    private async Task ShowRowsAsync(ListOf list)
    {
        RecordTitle = "the first records of it";
        if (request.Catalogue.Find(list.Type.Code) is not { } live || !request.Viewer.MayRead(live)) return;
        var order = Screen.Sorted.Select(key => live.TryFindField(key.Column.Id, out var field) && request.Viewer.MayFind(field) ? new SortKey(field, key.Descending) : (SortKey?)null).OfType<SortKey>().ToList();
        if (order.Count == 0) order = [.. ListOrder.Of(live, live.Screens.ListFor(list, []), request.Viewer)];
        var page = await lists.ReadAsync(new(live, order, MostRows) { Shown = Columns.Select(place => live.TryFindField(place.Field.Id, out var field) ? field : null).OfType<Field>() }, request.Viewer);
        Rows = [.. page.Rows.Select(row => (IReadOnlyList<FieldView?>)[.. Columns.Select(place => live.TryFindField(place.Field.Id, out var field) ? FieldView.InRow(row, field, request.Locale) : null)])];
    }

    private async Task ShowAsync(string? asked)
    {
        var mine = laid = await LaidAsync();
        if (List is not null)
        {
            shownList = Type.Screens.ListFor(List, mine);
            await ShowRowsAsync(List);
            return;
        }

        record = IsAdding ? null : await RecordAsync(asked);
        IReadOnlyList<int>? counts = null;
        var shown = record is null ? Pipeline.Fresh(Type, store.Today) : new RecordState(Type) { Id = record.Id };
        if (record is not null)
        {
            record.CopyTo(shown);
            await InDraft.SeeAsync(store, shown, request.Viewer, HttpContext.RequestAborted);

            // Two are enough to see how lines look; what is worked out over all of them is by now.
            counts = [.. shown.Lines.Select(lines => lines.Count)];
            foreach (var lines in shown.Lines.Where(lines => lines.Count > 2)) lines.RemoveRange(2, lines.Count - 2);
        }

        RecordTitle = record?.Title ?? (IsAdding ? $"a new {Type.Label.ToLowerInvariant()}" : "no record on file yet");
        var form = await forms.OfAsync(shown);
        Form = new() { Release = form.Release, State = shown, OnFile = shown, Opened = [], Viewer = form.Viewer, Targets = form.Targets, Pointing = [], LineCounts = counts, Shown = Type.Screens.For(mine, request.Viewer, shown) };
    }

    private async Task<RecordState?> RecordAsync(string? asked)
    {
        if (request.Catalogue.Find(Type.Code) is not { } live || !request.Viewer.MayRead(live)) return null;
        if (long.TryParse(asked, out var id) && await store.FindAsync(live, id, request.Viewer) is { } known) return known;
        if (!string.IsNullOrWhiteSpace(asked) && await lists.FindAsync(live, asked.Trim(), request.Viewer) is { } found)
            return await store.FindAsync(live, found, request.Viewer);
        RecordLists.TryOrder(live, null, request.Viewer, out var order);
        var page = await lists.ReadAsync(new(live, order, 1) { Shown = [] }, request.Viewer);
        return page.Rows.Count == 0 ? null : await store.FindAsync(live, page.Rows[0].Id, request.Viewer);
    }

    /// <summary>The part that is chosen, as its settings show it.</summary>
    public PartSettings Settings => PartSettings.Of(Layer, Part);

    /// <summary>The place that is chosen, when it is one of a field.</summary>
    public LayoutPlace? Place => Screen.Layout.Places.FirstOrDefault(place => place.Id == Part);

    /// <summary>For the place of a field: the letters of its widest value, and the columns of twelve that they need.</summary>
    public (int Letters, int Columns)? Widest { get; private set; }

    /// <summary>What a layer made that is chosen.</summary>
    public LayoutExtra? Extra => Screen.Layout.Sections.SelectMany(section => section.Items).OfType<LayoutExtra>().FirstOrDefault(extra => extra.Id == Part);

    /// <summary>Those of some places whose fields this person may know of.</summary>
    public IEnumerable<string> Known(IEnumerable<string> ids)
    {
        var unknown = Screen.Layout.Places.Where(place => request.Viewer.LevelAt(place.Field) == AccessLevel.None).Select(place => place.Id).ToHashSet(StringComparer.Ordinal);
        return ids.Where(id => !unknown.Contains(id));
    }

    /// <summary>True when the layer that is being changed made what is chosen.</summary>
    public bool IsMadeHere => Layer.Operations.Any(operation => operation.Part == Part && operation.New is not null);

    /// <summary>True when people may arrange this for themselves.</summary>
    public bool MayBeOwn => OwnArrangement.MayArrange(laid, List?.Id ?? OwnArrangement.ScreenId(Type));

    /// <summary>What roles may do with the field that is chosen.</summary>
    public IEnumerable<(string Role, string Level)> Levels => IsOwn || Place is not { } place ? [] : catalogue.Host.Roles.Select(role => (role.Label, Viewer.Of(role).LevelAt(place.Field) switch { AccessLevel.Write => "write", AccessLevel.Read => "read", AccessLevel.Masked => "masked", _ => "no access" }));

    /// <summary>Places that Tab can come from to the one that is chosen.</summary>
    public IEnumerable<LayoutPlace> TabFrom => Place is not { } chosen ? [] : Screen.Layout.Places.Where(place => place.Field.Part == chosen.Field.Part && place != chosen);
}
