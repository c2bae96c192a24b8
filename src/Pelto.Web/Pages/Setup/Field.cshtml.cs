using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Layouts;
using Pelto.Core.Queries;
using Pelto.Core.Values;
using Pelto.Data;
using Pelto.Data.Jobs;
using Pelto.Data.Records;
using Pelto.Data.Releases;
using Pelto.Web.Components;

namespace Pelto.Web.Pages;

/// <summary>Defines a field, with a real record beside it.</summary>
public sealed partial class FieldModel(CurrentRequest request, Drafts drafts, Catalogues catalogues, RecordStore store, RecordLists lists, RecordForms forms, FieldEffects effects, TargetFinder finder, OfferProofs offers, FormulaProofs formulaProofs, JobRunner runner, JobService jobs, QueryFills queryFills) : PageModel
{
    private Draft draft = default!;
    private Catalogue catalogue = default!;
    private string fieldId = "";

    /// <summary>What stands in the inputs.</summary>
    public FieldInput Input { get; private set; } = new();

    /// <summary>What is wrong, by property.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>True for a field that is not in the draft yet.</summary>
    public bool IsNew { get; private set; }

    /// <summary>The field as it is live; null for one that nobody has yet.</summary>
    public FieldDefinition? Live { get; private set; }

    /// <summary>True for a field that people have.</summary>
    public bool IsLive => Live is not null;

    /// <summary>True when the draft says something else of it than what is live.</summary>
    public bool IsInDraft { get; private set; }

    /// <summary>True when only a part of the page is sent.</summary>
    public bool IsAnswer { get; private set; }

    /// <summary>True when the offered places have to change because the part did.</summary>
    public bool PartChanged { get; private set; }

    /// <summary>The record's screen from which somebody came.</summary>
    public string? From { get; private set; }

    /// <summary>What to tell on arrival.</summary>
    public string? Said { get; private set; }

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>The field as the draft has it.</summary>
    public FieldDefinition Known => draft.Site.Find(fieldId) ?? new() { Id = fieldId };

    /// <summary>The record type.</summary>
    public RecordType? Type => PartOf(Input.Part)?.RecordType;

    /// <summary>Which roles get which level of it, as the draft has it; of a new one, what its record type gives.</summary>
    public IEnumerable<(string Does, string Roles)> Access =>
        Type is not { } type ? []
        : from role in catalogue.Host.Roles
          let viewer = Viewer.Of(role)
          group role.Label by catalogue.FindField(fieldId) is { } known ? viewer.LevelAt(known) : viewer.LevelAt(type) into level
          orderby level.Key descending
          select (GrantWords.Verb(level.Key), string.Join(", ", level));

    /// <summary>The form that shows the field on a record; null while it cannot be shown.</summary>
    public RecordForm? Proof { get; private set; }

    /// <summary>The section in which the field stands.</summary>
    public IReadOnlyList<LayoutSection> ProofSections { get; private set; } = [];

    /// <summary>The record that is shown.</summary>
    public string ProofTitle { get; private set; } = "";

    /// <summary>What follows from the definition.</summary>
    public IReadOnlyList<string> Effects { get; private set; } = [];

    /// <summary>What a change of kind, or a smaller size, makes of the values on file; null when neither is asked for.</summary>
    public ValueEffects? OnFile { get; private set; }

    /// <summary>How the tried value reads, or why it is refused.</summary>
    public string SampleAnswer { get; private set; } = "";

    /// <summary>True when the tried value is refused.</summary>
    public bool SampleRefused { get; private set; }

    /// <summary>What real values say about the size.</summary>
    public ValueFacts? Facts { get; private set; }

    /// <summary>Who changed what, newest first.</summary>
    public IReadOnlyList<HistoryEntry> History { get; private set; } = [];

    /// <summary>For a secret: who had it shown, newest first.</summary>
    public IReadOnlyList<AuditEntry> Showings { get; private set; } = [];

    /// <summary>Kinds that it had before and whose columns are still kept, newest first.</summary>
    public IReadOnlyList<FieldDefinition> EarlierKinds { get; private set; } = [];

    /// <summary>What else uses it, for those who want to remove it.</summary>
    public IReadOnlyList<string> Uses { get; private set; } = [];

    /// <summary>The choice lists that it can take.</summary>
    public IReadOnlyList<ChoiceList> ChoiceLists => [.. draft.Site.ChoiceLists.Where(list => request.Views.Sees(list, draft.Site))];

    /// <summary>What a link can point to.</summary>
    public IEnumerable<(string Code, string Label)> TargetChoices => catalogue.RecordTypes.Where(request.Views.Sees).Select(type => (type.Code, type.Plural));

    /// <summary>True for a field of lines.</summary>
    public bool IsLines => PartOf(Input.Part) is { IsLines: true };

    /// <summary>
    /// Conditions that come to mind for what a link offers: both sides point to the same record, and open documents only.
    /// </summary>
    public IEnumerable<string> SuggestedOffers
    {
        get
        {
            if (PartOf(Input.Part) is not { } part || catalogue.Find(Input.Target) is not { } target) yield break;
            foreach (var own in part.RecordType.Header.Fields.Where(own => own.Target is not null && own.Id != fieldId))
                foreach (var theirs in target.Header.Fields.Where(theirs => theirs.Target == own.Target && request.Views.Sees(theirs)))
                    yield return $"{theirs.Code} = {Formula.RecordName}.{own.Code}";
            if (target.Document is { } document) yield return $"{document.Status.Code} = \"{document.Description.Open}\"";
        }
    }

    /// <summary>Fields that may stand beside number and name and do not yet; each with what the input would say then.</summary>
    public IEnumerable<(string Label, string Finds)> SuggestedFinds => catalogue.Find(Input.Target) is not { } target ? []
        : target.ListColumns.Where(column => column != target.Identifier && column != target.Name && request.Views.Sees(column) && column is { IsSeen: false, Kind.IsShort: true } && !Input.Finds.Split(',', StringSplitOptions.TrimEntries).Contains(column.Code))
            .Take(6).Select(column => (column.Label, Input.Finds.Trim().Length == 0 ? column.Code : $"{Input.Finds.Trim().TrimEnd(',')}, {column.Code}"));

    /// <summary>What can be seen through one link of the part.</summary>
    public IEnumerable<(string Path, string Label)> PathChoices => PartOf(Input.Part)?.Fields.Where(link => link is { Target: not null, IsSeen: false })
        .SelectMany(link => link.Target!.Header.Fields.Where(far => !far.IsSeen && !far.Kind.StaysWithRecord && request.Views.Sees(far)).Select(far => ($"{link.Code}.{far.Code}", $"{link.Label}: {far.Label}"))) ?? [];

    /// <summary>The first thing that is wrong in the formula, at its place.</summary>
    public FormulaProblem? FormulaProblem { get; private set; }

    /// <summary>What the formula does, in words; null while it makes no sense.</summary>
    public string? FormulaSentence { get; private set; }

    /// <summary>What the formula does to the records on file.</summary>
    public FormulaProof? FormulaProof { get; private set; }

    /// <summary>The parts of the formula at work on the record that is shown.</summary>
    public IReadOnlyList<FormulaStep> FormulaSteps { get; private set; } = [];

    /// <summary>The field as it would be.</summary>
    public Field? ProvedField { get; private set; }

    /// <summary>True for a live field in which is stored what a formula gives.</summary>
    public bool IsKeptComputed { get; private set; }

    /// <summary>How many stored values are not what the formula gives now; null when that takes too long to tell.</summary>
    public long? Stale { get; private set; }

    /// <summary>A value of any type, as people read it.</summary>
    public string Written(Value value) => value.Type switch
    {
        ValueForm.Number => Numbers.Format(Numbers.Shortest(Numbers.Round(value.Number, 6)), locale: Locale),
        ValueForm.Date => Times.Format(value.Date, Locale),
        ValueForm.Time => Times.Format(value.Time, Locale),
        ValueForm.Link => "a record",
        ValueForm.Text => value.Text.Length > 60 ? value.Text[..60] + "…" : value.Text,
        _ => value.ToString(),
    };

    /// <summary>What the link would offer on real records.</summary>
    public IReadOnlyList<OfferProof> Offered { get; private set; } = [];

    /// <summary>The languages that labels can be written in, besides the one that they are defined in.</summary>
    public static IReadOnlyList<(string Code, string Name)> LabelLanguages { get; } =
        [.. Locale.Languages.Where(code => code.Length > 0).Select(code => code[..2]).Distinct().Select(code => (code, CultureInfo.GetCultureInfo(code).EnglishName)).OrderBy(pair => pair.EnglishName, StringComparer.Ordinal)];

    /// <summary>What a language is called; its code when it is none of those.</summary>
    public static string LanguageName(string code) => LabelLanguages.FirstOrDefault(known => known.Code == code) is { Name: { } name } ? name : code;

    /// <summary>The different values on file of a text, as choices, with how many rows hold one; empty before somebody asks.</summary>
    public IReadOnlyList<ReadChoice> Values { get; private set; } = [];

    /// <summary>True when there are more different values than a list holds.</summary>
    public bool HasTooManyValues { get; private set; }

    /// <summary>True for a live text: its values on file can be the choices that it becomes.</summary>
    public bool IsLiveText => Live is { Kind: "text" or "long_text" };

    /// <summary>Where a field can belong.</summary>
    public IEnumerable<(string Value, string Label)> PartChoices =>
        catalogue.RecordTypes.Where(request.Views.Sees).SelectMany(type => type.Parts).Select(part => ($"{part.RecordType.Code}/{part.Code}", LabelOf(part)));

    /// <summary>The part, in words.</summary>
    public string PartLabel => PartOf(Input.Part) is { } part ? LabelOf(part) : "";

    /// <summary>What belonging to this part means.</summary>
    public string WhatFollows => PartOf(Input.Part) switch
    {
        null => "",
        { IsLines: true } part => $"Every {part.Label.ToLowerInvariant()} has a value of its own, in a column.",
        var part => $"Each {part.Label.ToLowerInvariant()} has one value.",
    };

    /// <summary>Where the field can stand.</summary>
    public IEnumerable<(string Value, string Label)> Places
    {
        get
        {
            yield return ("", "at the end");
            if (PartOf(Input.Part) is not { } part) yield break;
            foreach (var section in part.RecordType.Screen.Layout.Sections.Where(section => section.Holds(part)))
            {
                yield return (section.Id, $"first in {section.Label}");
                foreach (var place in section.Places.Where(place => place.Field.Id != fieldId && request.Views.Sees(place.Field)))
                    yield return (place.Field.Id, $"{section.Label}: after {place.Field.Label}");
            }

            yield return (FieldInput.Nowhere, "on no screen");
        }
    }

    /// <summary>Opens a field, or begins one at the spot that somebody pointed at.</summary>
    public async Task<IActionResult> OnGetAsync(string id, string? type, string? part, string? after, string? record, string? from, bool kept)
    {
        await LoadAsync(id, from);
        if (IsNew)
        {
            var mine = catalogue.RecordTypes.Where(one => request.Views.WorksAt(one.Code)).DefaultIfEmpty(catalogue.RecordTypes[0]).ToList();
            var owner = catalogue.RecordTypes.FirstOrDefault(one => one.Code == type && request.Views.Sees(one)) ?? mine.FirstOrDefault(candidate => candidate.LineParts.Count > 0) ?? mine[0];
            Input = new() { Part = $"{owner.Code}/{owner.FindPart(part ?? "")?.Code ?? Part.HeaderCode}", After = after ?? "", Record = record ?? "" };
        }
        else if ((draft.Site.Find(id) ?? Live) is { } field)
        {
            Input = FieldInput.Of(field, draft.Site.PlacementOf(id));
            Input.Record = record ?? "";
        }
        else if (id.Split('@')[0] is var own && own != id && draft.Site.Find(own) is not null)
        {
            return Redirect($"/setup/fields/{own}");
        }
        else
        {
            return NotFound();
        }

        if (kept) Said = "It is in the draft. People get it when you publish.";
        await ProveAsync(isAsked: !IsNew);
        await ShowLifeAsync();
        return Page();
    }

    /// <summary>Runs on every pause in typing: checks the definition and shows it on a real record, saving nothing.</summary>
    public async Task<IActionResult> OnPostTryAsync(string id, [FromForm] FieldInput input, [FromForm] string? placesOf, [FromForm] string? from)
    {
        await LoadAsync(id, from);
        (Input, IsAnswer) = (input, true);
        PartChanged = placesOf != input.Part;
        if (PartChanged && Places.All(place => place.Value != input.After)) input.After = "";
        await ProveAsync(isAsked: false);
        return Partial("Setup/_TryAnswer", this);
    }

    /// <summary>The names that can stand where somebody is typing in a formula.</summary>
    public async Task<IActionResult> OnPostNamesAsync(string id, [FromForm] FieldInput input, [FromForm] string? text, [FromForm] int at, [FromForm] string? of)
    {
        await LoadAsync(id, null);
        Input = input;
        if (PartOf(input.Part) is not { } part) return NamesFound.None;
        if (of != nameof(FieldInput.Offers)) return NamesFound.Answer(Completions.Of(text ?? "", at, part, isShown: request.Views.Sees));
        return catalogue.Find(input.Target) is { } target ? NamesFound.Answer(Completions.Of(text ?? "", at, target.Header, part, request.Views.Sees)) : NamesFound.None;
    }

    /// <summary>Looks up the values on file of a text that becomes a choice.</summary>
    public async Task<IActionResult> OnPostValuesAsync(string id, CancellationToken cancel)
    {
        await LoadAsync(id, null);
        if (!IsLiveText || request.Catalogue.FindField(fieldId) is not { } live) return NotFound();
        var values = await effects.DifferentTextsAsync(live, request.Viewer, cancel);
        HasTooManyValues = values.Count > ChoiceRules.MostChoices;
        Values = ChoiceReading.Read([.. values.Select(value => new[] { value })], []);
        return Partial("Setup/_Values", this);
    }

    /// <summary>Says what real values need: those that were pasted, or those on file.</summary>
    public async Task<IActionResult> OnPostFactsAsync(string id, [FromForm] FieldInput input, [FromForm] bool onFile)
    {
        await LoadAsync(id, null);
        Input = input;
        Facts = await effects.FactsAsync(Live is null ? null : request.Catalogue.FindField(fieldId), request.Viewer, input.ToField(Known, Taken(), []), onFile ? null : input.Pasted, request.Locale);
        return Partial("Setup/_Facts", this);
    }

    /// <summary>Puts the field in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string id, [FromForm] FieldInput input, [FromForm] string? then, [FromForm] string? from)
    {
        await LoadAsync(id, from);
        Input = input;
        await ProveAsync(isAsked: true);
        var field = input.ToField(Known, Taken(), []);
        SiteDefinition Change(SiteDefinition site) => site.With(input.ToField(site.Find(fieldId) ?? field, Taken(), [])).Placing(fieldId, input.ToPlacement(fieldId));
        if (Problems.Count == 0 && await drafts.RefuseAsync(request.Viewer, draft.Site, Change(draft.Site)) is { } refusal)
            Problems = [new(fieldId, "label", refusal)];
        if (Problems.Count > 0)
        {
            await ShowLifeAsync();
            return Page();
        }

        await drafts.ChangeAsync(Change, (IsNew ? "Added " : "Changed ") + field.Label, request.Viewer);
        var back = From is null ? "" : $"&from={Uri.EscapeDataString(From)}";
        return Redirect(then == "review" ? $"/setup/draft?{back.TrimStart('&')}" : $"/setup/fields/{fieldId}?kept=true{back}");
    }

    /// <summary>Takes a field that nobody has yet out of the draft.</summary>
    public Task<IActionResult> OnPostTakeOutAsync(string id) => ChangeAsync(id, (site, _) => site.Without(id), "Took out", "/setup/draft");

    /// <summary>Stores anew what the formula gives, in the background.</summary>
    public async Task<IActionResult> OnPostRefillAsync(string id)
    {
        if (request.Catalogue.FindField(id) is not { IsStored: true, IsAdded: true } live || live is { Formula: null, Asking: null })
            return NotFound();
        await runner.RefillAsync(live, request.Viewer);
        jobs.Wake();
        return Redirect("/setup/jobs");
    }

    /// <summary>Retires the field: it leaves all screens and keeps its data.</summary>
    public Task<IActionResult> OnPostRetireAsync(string id) => ChangeAsync(id, (site, field) => site.With(field with { Retired = true }), "Retired", "/setup/draft");

    /// <summary>Brings a retired field back.</summary>
    public Task<IActionResult> OnPostRestoreAsync(string id) => ChangeAsync(id, (site, field) => site.With(field with { Retired = false }), "Brought back", "/setup/draft");

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
        if (earlier is null) return NotFound();
        return await ChangeAsync(id, (site, field) => site.With(FieldEffects.WithKindOf(field, earlier)), "Took back the kind of", $"/setup/fields/{id}?kept=true");
    }

    /// <summary>Drops the columns of earlier kinds.</summary>
    public Task<IActionResult> OnPostDropEarlierAsync(string id) => ChangeAsync(id, (site, field) => site.With(field with { DropsEarlier = true }), "Dropped the earlier kind of", $"/setup/fields/{id}?kept=true");

    /// <summary>Makes the field's own choices a list that other fields can share.</summary>
    public Task<IActionResult> OnPostShareAsync(string id)
    {
        var list = ChoiceList.NewId();
        return ChangeAsync(id, (site, field) => site.With(new ChoiceList { Id = list, Label = field.Label, MayAdd = field.MayAdd, Choices = field.Choices ?? [] }).With(field with { Choices = null, MayAdd = false, ChoiceList = list }), "Shared the choices of", $"/setup/lists/{list}");
    }

    private async Task<IActionResult> ChangeAsync(string id, Func<SiteDefinition, FieldDefinition, SiteDefinition> change, string what, string then)
    {
        await LoadAsync(id, null);
        if (draft.Site.Find(id) is not { } field) return NotFound();
        await drafts.ChangeAsync(site => site.Find(id) is { } now ? change(site, now) : site, $"{what} {field.Label}", request.Viewer);
        return Redirect(then);
    }

    private async Task LoadAsync(string id, string? from)
    {
        draft = await drafts.ReadAsync();
        catalogue = catalogues.Build(draft.Site);
        IsNew = id == "new";
        fieldId = IsNew ? FieldDefinition.NewId() : id;
        Live = request.Catalogue.Site.Find(id);
        IsInDraft = !IsNew && !SiteDefinition.Same(draft.Site.Find(id), Live);
        From = Url.IsLocalUrl(from) ? from : null;
    }

    private async Task ShowLifeAsync()
    {
        if (IsNew) return;
        History = await effects.HistoryAsync(fieldId, request.Views);
        if (FieldKinds.Find(Known.Kind)?.IsSecret == true) Showings = await effects.ShowingsAsync(Known);
        if (request.Catalogue.FindField(fieldId) is { IsStored: true, IsAdded: true, Formula: not null } kept)
        {
            (IsKeptComputed, KeptField, Stale) = (true, kept, await formulaProofs.CountStaleAsync(kept, request.Viewer, HttpContext.RequestAborted));
            if (Stale is null or > 0) RefillProof = await formulaProofs.OfRefillAsync(kept, request.Viewer, HttpContext.RequestAborted);
        }

        if (request.Catalogue.FindField(fieldId) is { IsStored: true, Asking.When: not QueryWhen.Offer } asked)
            (KeptField, RefillProof) = (asked, await queryFills.ProofAsync(asked, request.Viewer, HttpContext.RequestAborted));
        EarlierKinds = await effects.EarlierKindsAsync(Live);
        Uses = FieldEffects.UsesOf(catalogue, Known, request.Views);
    }

    /// <summary>The saved queries, of the draft too.</summary>
    public IReadOnlyList<QueryDefinition> Queries => [.. draft.Site.Queries.Where(query => request.Views.Sees(query, draft.Site)).OrderBy(query => query.Label, StringComparer.OrdinalIgnoreCase)];

    /// <summary>That the record that was asked for is not there.</summary>
    public string? NoRecord { get; private set; }

    /// <summary>For a field whose formula's values are stored: itself, as it is live.</summary>
    public Field? KeptField { get; private set; }

    /// <summary>Its conditions, on the record that is shown.</summary>
    public IReadOnlyList<ConditionProof> Conditions { get; private set; } = [];

    /// <summary>What filling it again would do.</summary>
    public FormulaProof? RefillProof { get; private set; }

    private Part? PartOf(string text) => text.Split('/', 2) is [var type, var part] && request.Views.SeesType(type) ? catalogue.Find(type)?.FindPart(part) : null;

    private IEnumerable<string> Taken() => PartOf(Input.Part)?.Fields.Where(field => field.Id != fieldId).Select(field => field.Code) ?? [];

    private static string LabelOf(Part part) => part.IsLines ? $"{part.RecordType.Label}, {part.Plural.ToLowerInvariant()}" : part.RecordType.Label;
}
