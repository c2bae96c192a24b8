using Pelto.Core.Formulas;

namespace Pelto.Web.Pages;

/// <summary>Defines a field, with a real record beside it.</summary>
public sealed class FieldModel(
    CurrentRequest request,
    Drafts drafts,
    FieldCheck check,
    FieldProofs proofs,
    FieldLives lives,
    FieldEffects effects
) : PageModel
{
    private FieldSubject subject = default!;

    /// <summary>What stands in the inputs.</summary>
    public FieldInput Input { get; private set; } = new();

    /// <summary>What is wrong, by property.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>True for a field that is not in the draft yet.</summary>
    public bool IsNew { get; private set; }

    /// <summary>The field as it is live; null for one that nobody has yet.</summary>
    public FieldDefinition? Live => subject.Live;

    /// <summary>True for a field that people have.</summary>
    public bool IsLive => Live is not null;

    /// <summary>True for a live text: its values on file can be the choices that it becomes.</summary>
    public bool IsLiveText => Live is { Kind: "text" or "long_text" };

    /// <summary>True when the draft says something else of it than what is live.</summary>
    public bool IsInDraft { get; private set; }

    /// <summary>True when only a part of the page is sent.</summary>
    public bool IsAnswer { get; private set; }

    /// <summary>True when the offered places have to change because the part did.</summary>
    public bool PartChanged { get; private set; }

    /// <summary>The record's screen from which somebody came.</summary>
    public string? From { get; private set; }

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>The field as the draft has it.</summary>
    public FieldDefinition Known => subject.Known;

    /// <summary>What there is to choose from.</summary>
    public FieldChoices Choices => new(Input, subject.Id, subject.Catalogue, request.Views);

    /// <summary>The record type.</summary>
    public RecordType? Type => Choices.Part?.RecordType;

    /// <summary>Which roles get which level of it, as the draft has it; of a new one, what its record type gives.</summary>
    public IEnumerable<(string Does, string Roles)> Access =>
        Type is not { } type
            ? []
            : from role in subject.Catalogue.Host.Roles
            let viewer = Viewer.For(role)
            group role.Label by subject.Catalogue.FindField(subject.Id) is { } known
                ? viewer.LevelAt(known)
                : viewer.LevelAt(type) into level
            orderby level.Key descending
            select (GrantWords.Verb(level.Key), string.Join(", ", level));

    /// <summary>What the definition does, on what is on file.</summary>
    public FieldProof Proof { get; private set; } = default!;

    /// <summary>True while something is only not filled in yet, which is no mistake, and keeps it from being shown.</summary>
    public bool IsUnfinished => Proof.Checked.Problems.Count > Problems.Count;

    /// <summary>What became of it; nothing for a new one.</summary>
    public FieldLife Life { get; private set; } = new();

    /// <summary>What real values say about the size.</summary>
    public ValueFacts? Facts { get; private set; }

    /// <summary>The different values on file of a text, as choices, with how many rows hold one; empty before somebody asks.</summary>
    public IReadOnlyList<ReadChoice> Values { get; private set; } = [];

    /// <summary>True when there are more different values than a list holds.</summary>
    public bool HasTooManyValues { get; private set; }

    /// <summary>Opens a field, or begins one at the spot that somebody pointed at.</summary>
    public async Task<IActionResult> OnGetAsync(
        string id,
        string? type,
        string? part,
        string? after,
        string? record,
        string? from,
        bool saved
    )
    {
        await LoadAsync(id, from);
        if (IsNew)
            Input = Begun(type, part, after);
        else if ((subject.Draft.Site.Find(id) ?? Live) is { } field)
            Input = FieldInput.From(field, subject.Draft.Site.PlacementOf(id));
        else if (id.Split('@')[0] is var own && own != id && subject.Draft.Site.Find(own) is not null)
            return Redirect($"/setup/fields/{own}");
        else
            return NotFound();
        Input.Record = record ?? "";
        if (saved)
            Message = "It is in the draft. People get it when you publish.";
        await ProveAsync(await CheckAsync(isAsked: !IsNew));
        await ShowLifeAsync();
        return Page();
    }

    /// <summary>Runs on every pause in typing: checks the definition and shows it on a real record, saving nothing.</summary>
    public async Task<IActionResult> OnPostTryAsync(
        string id,
        [FromForm] FieldInput input,
        [FromForm] string? placesOf,
        [FromForm] string? from
    )
    {
        await LoadAsync(id, from);
        (Input, IsAnswer) = (input, true);
        PartChanged = placesOf != input.Part;
        if (PartChanged && Choices.Places.All(place => place.Value != input.After))
            input.After = "";
        await ProveAsync(await CheckAsync(isAsked: false));
        return Partial("Setup/_TryAnswer", this);
    }

    /// <summary>The names that can stand where somebody is typing in a formula.</summary>
    public async Task<IActionResult> OnPostNamesAsync(
        string id,
        [FromForm] FieldInput input,
        [FromForm] string? text,
        [FromForm] int at,
        [FromForm] string? of
    )
    {
        await LoadAsync(id, null);
        Input = input;
        if (Choices.Part is not { } part)
            return NamesFound.None;
        if (of != nameof(FieldInput.Offers))
            return NamesFound.Answer(Completions.For(text ?? "", at, part, isShown: request.Views.Sees));
        return subject.Catalogue.Find(input.Target) is { } target
            ? NamesFound.Answer(Completions.For(text ?? "", at, target.Header, part, request.Views.Sees))
            : NamesFound.None;
    }

    /// <summary>Looks up the values on file of a text that becomes a choice.</summary>
    public async Task<IActionResult> OnPostValuesAsync(string id, CancellationToken cancel)
    {
        await LoadAsync(id, null);
        if (!IsLiveText || request.Catalogue.FindField(subject.Id) is not { } live)
            return NotFound();
        var values = await effects.DifferentTextsAsync(live, request.Viewer, cancel);
        HasTooManyValues = values.Count > ChoiceRules.MaxChoices;
        Values = ChoiceReading.Read([.. values.Select(value => new[] { value })], []);
        return Partial("Setup/_Values", this);
    }

    /// <summary>Says what real values need: those that were pasted, or those on file.</summary>
    public async Task<IActionResult> OnPostFactsAsync(string id, [FromForm] FieldInput input, [FromForm] bool onFile)
    {
        await LoadAsync(id, null);
        Input = input;
        var live = Live is null ? null : request.Catalogue.FindField(subject.Id);
        Facts = await effects.FactsAsync(live, request.Viewer, Entered(Known), onFile ? null : input.Pasted, request.Locale);
        return Partial("Setup/_Facts", this);
    }

    /// <summary>Puts the field in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string id, [FromForm] FieldInput input, [FromForm] string? then, [FromForm] string? from)
    {
        await LoadAsync(id, from);
        Input = input;
        SiteDefinition Change(SiteDefinition site) =>
            site.With(Entered(site.Find(subject.Id) ?? Entered(Known))).Placing(subject.Id, input.ToPlacement(subject.Id));
        var found = await CheckAsync(isAsked: true);
        if (Problems.Count == 0 && await drafts.RefuseAsync(request.Viewer, subject.Draft.Site, Change(subject.Draft.Site)) is { } refusal)
            Problems = [new(subject.Id, "label", refusal)];
        if (Problems.Count > 0)
        {
            await ProveAsync(found);
            await ShowLifeAsync();
            return Page();
        }

        await drafts.ChangeAsync(Change, (IsNew ? "Added " : "Changed ") + Entered(Known).Label, request.Viewer);
        var back = From is null ? "" : $"&from={Uri.EscapeDataString(From)}";
        return Redirect(then == "review" ? $"/setup/draft?{back.TrimStart('&')}" : $"/setup/fields/{subject.Id}?saved=true{back}");
    }

    /// <summary>Takes a field that nobody has yet out of the draft.</summary>
    public Task<IActionResult> OnPostTakeOutAsync(string id) => ChangeAsync(id, (site, _) => site.Without(id), "Took out", "/setup/draft");

    /// <summary>Stores anew what the formula gives, in the background.</summary>
    public async Task<IActionResult> OnPostRefillAsync(string id) => await lives.RefillAsync(id) ? Redirect("/setup/jobs") : NotFound();

    /// <summary>Retires the field: it leaves all screens and keeps its data.</summary>
    public Task<IActionResult> OnPostRetireAsync(string id) =>
        ChangeAsync(id, (site, field) => site.With(field with { Retired = true }), "Retired", "/setup/draft");

    /// <summary>Brings a retired field back.</summary>
    public Task<IActionResult> OnPostRestoreAsync(string id) =>
        ChangeAsync(id, (site, field) => site.With(field with { Retired = false }), "Brought back", "/setup/draft");

    /// <summary>Removes the field for good; its data is saved to a file first.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(string id)
    {
        var columns = await effects.ColumnsAsync();
        return await ChangeAsync(id, (site, field) => FieldEffects.Removing(site, field, columns), "Removed", "/setup/draft");
    }

    /// <summary>Goes back to a kind that it had before, over the column that is still kept.</summary>
    public async Task<IActionResult> OnPostBackAsync(string id, int column)
    {
        await LoadAsync(id, null);
        var earlier = (await effects.EarlierKindsAsync(Live)).FirstOrDefault(kind => kind.Column == column);
        if (earlier is null)
            return NotFound();
        return await ChangeAsync(
            id,
            (site, field) => site.With(FieldEffects.WithKindOf(field, earlier)),
            "Took back the kind of",
            SavedAddress(id)
        );
    }

    /// <summary>Drops the columns of earlier kinds.</summary>
    public Task<IActionResult> OnPostDropEarlierAsync(string id) =>
        ChangeAsync(id, (site, field) => site.With(field with { DropsEarlier = true }), "Dropped the earlier kind of", SavedAddress(id));

    /// <summary>Makes the field's own choices a list that other fields can share.</summary>
    public Task<IActionResult> OnPostShareAsync(string id)
    {
        var list = ChoiceList.NewId();
        return ChangeAsync(id, (site, field) => Sharing(site, field, list), "Shared the choices of", $"/setup/lists/{list}");
    }

    private static SiteDefinition Sharing(SiteDefinition site, FieldDefinition field, string list) =>
        site.With(
                new ChoiceList
                {
                    Id = list,
                    Label = field.Label,
                    MayAdd = field.MayAdd,
                    Choices = field.Choices ?? [],
                }
            )
            .With(field with { Choices = null, MayAdd = false, ChoiceList = list });

    private static string SavedAddress(string id) => $"/setup/fields/{id}?saved=true";

    private FieldInput Begun(string? type, string? part, string? after)
    {
        var all = subject.Catalogue.RecordTypes;
        var mine = all.Where(one => request.Views.WorksAt(one.Code)).DefaultIfEmpty(all[0]).ToList();
        var owner = all.FirstOrDefault(one => one.Code == type && request.Views.Sees(one))
            ?? mine.FirstOrDefault(candidate => candidate.LineParts.Count > 0)
            ?? mine[0];
        return new() { Part = $"{owner.Code}/{owner.FindPart(part ?? "")?.Code ?? Part.HeaderCode}", After = after ?? "" };
    }

    // The field as it stands in the inputs, over what they do not say.
    private FieldDefinition Entered(FieldDefinition known) => Input.ToField(known, Choices.TakenCodes, []);

    private async Task<IActionResult> ChangeAsync(
        string id,
        Func<SiteDefinition, FieldDefinition, SiteDefinition> change,
        string what,
        string then
    )
    {
        await LoadAsync(id, null);
        if (subject.Draft.Site.Find(id) is not { } field)
            return NotFound();
        await drafts.ChangeAsync(site => site.Find(id) is { } now ? change(site, now) : site, $"{what} {field.Label}", request.Viewer);
        return Redirect(then);
    }

    private async Task LoadAsync(string id, string? from)
    {
        IsNew = id == "new";
        subject = await check.ReadAsync(IsNew ? FieldDefinition.NewId() : id, HttpContext.RequestAborted);
        IsInDraft = !IsNew && !SiteDefinition.Same(subject.Draft.Site.Find(id), Live);
        From = Url.IsLocalUrl(from) ? from : null;
    }

    private async Task<CheckedField> CheckAsync(bool isAsked)
    {
        var found = await check.CheckAsync(subject, Input, HttpContext.RequestAborted);
        Problems = isAsked ? found.Problems : [.. found.Mistakes(Input)];
        return found;
    }

    private async Task ProveAsync(CheckedField found) => Proof = await proofs.ProveAsync(found, Input, HttpContext.RequestAborted);

    private async Task ShowLifeAsync()
    {
        if (!IsNew)
            Life = await lives.OfAsync(subject, HttpContext.RequestAborted);
    }
}
