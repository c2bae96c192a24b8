using Pelto.Data.Storage;

namespace Pelto.Web.Pages;

/// <summary>A choice as it stands in the inputs.</summary>
public sealed class ChoiceRow
{
    /// <summary>True for one that the draft has: its code stays.</summary>
    public bool Known { get; set; }

    /// <summary>Its code; empty to follow from the label.</summary>
    public string Code { get; set; } = "";

    /// <summary>What people read.</summary>
    public string Label { get; set; } = "";

    /// <summary>A colour, or nothing.</summary>
    public string Colour { get; set; } = "";

    /// <summary>What people of other languages read, by two-letter language.</summary>
    public Dictionary<string, string> Texts { get; set; } = [];

    /// <summary>Empty while it is offered, <c>retired</c>, or <c>into code</c>.</summary>
    public string State { get; set; } = "";

    /// <summary>True when it is retired.</summary>
    public bool Retired => State == "retired";

    /// <summary>The code that it is merged into.</summary>
    public string MergedInto => State.StartsWith("into ", StringComparison.Ordinal) ? State["into ".Length..] : "";

    /// <summary>The row of a choice.</summary>
    public static ChoiceRow From(Choice choice) =>
        new()
        {
            Known = true,
            Code = choice.Code,
            Label = choice.Label,
            Colour = choice.Colour ?? "",
            Texts = new(choice.Texts ?? new Dictionary<string, string>(), StringComparer.Ordinal),
            State =
                choice.MergedInto is { } into ? $"into {into}"
                : choice.Retired ? "retired"
                : "",
        };
}

/// <summary>What stands in the inputs of a choice list.</summary>
public sealed class ChoiceListInput
{
    /// <summary>What people call it.</summary>
    public string Label { get; set; } = "";

    /// <summary>Offered in alphabetical order.</summary>
    public bool Alphabetical { get; set; }

    /// <summary>People may add while they enter records.</summary>
    public bool MayAdd { get; set; }

    /// <summary>The choices, in order.</summary>
    public List<ChoiceRow> Rows { get; set; } = [];

    /// <summary>The languages that have a column besides those that a choice has a label in.</summary>
    public List<string> Languages { get; set; } = [];

    /// <summary>All languages that have a column, in order.</summary>
    public IEnumerable<string> Columns =>
        Languages
            .Concat(Rows.SelectMany(row => row.Texts.Where(text => !string.IsNullOrWhiteSpace(text.Value)).Select(text => text.Key)))
            .Where(language => language.Length == 2)
            .Distinct(StringComparer.Ordinal)
            .Order(StringComparer.Ordinal);

    /// <summary>What was pasted.</summary>
    public string Pasted { get; set; } = "";

    /// <summary>The choices that the inputs make.</summary>
    public List<Choice> ToChoices()
    {
        var choices = new List<Choice>();
        var codes = Rows.Where(row => row.Code.Length > 0).Select(row => row.Code.Trim()).ToHashSet(StringComparer.Ordinal);
        foreach (var row in Rows.Where(row => row.Label.Trim().Length > 0 || row.Known))
        {
            var label = string.Join(' ', row.Label.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
            var code = row.Code.Trim() is { Length: > 0 } typed ? typed : Codes.From(label, codes);
            if (code.Length == 0)
                code = Codes.From($"choice {choices.Count + 1}", codes);
            codes.Add(code);
            choices.Add(
                new(code, label)
                {
                    Colour = row.Colour.Length > 0 ? row.Colour : null,
                    Retired = row.Retired,
                    MergedInto = row.MergedInto.Length > 0 ? row.MergedInto : null,
                    Texts = TextsOf(row),
                }
            );
        }

        return choices;
    }

    /// <summary>Where a new one is called as one that is retired.</summary>
    public IEnumerable<string> Doubles()
    {
        var choices = ToChoices();
        return Rows.Where(row => !row.Known && row.Label.Trim().Length > 0)
            .Select(row => ChoiceRules.RefuseAnew(row.Label.Trim(), choices, mayOffer: true))
            .OfType<string>();
    }

    private static Dictionary<string, string>? TextsOf(ChoiceRow row)
    {
        var texts = row
            .Texts.Where(text => !string.IsNullOrWhiteSpace(text.Value))
            .ToDictionary(
                text => text.Key,
                text => string.Join(' ', text.Value.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)),
                StringComparer.Ordinal
            );
        return texts.Count > 0 ? texts : null;
    }
}

/// <summary>
/// One choice list: its choices, their order and colours, pasting, retiring and merging. Also for the choices that belong to one field.
/// </summary>
public sealed class ChoiceListModel(CurrentRequest request, Drafts drafts, Catalogues catalogues, FactsReader facts, FieldEffects effects)
    : PageModel
{
    private SiteDefinition site = SiteDefinition.Nothing;
    private string listId = "";

    /// <summary>What stands in the inputs.</summary>
    public ChoiceListInput Input { get; private set; } = new();

    /// <summary>True for a list that is not in the draft yet.</summary>
    public bool IsNew { get; private set; }

    /// <summary>True when the draft says something else of it than what is live.</summary>
    public bool IsInDraft { get; private set; }

    /// <summary>The field that the choices belong to; null for a shared list.</summary>
    public FieldDefinition? OfField { get; private set; }

    /// <summary>What is wrong.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>What was read from what was pasted.</summary>
    public IReadOnlyList<ReadChoice> Read { get; private set; } = [];

    /// <summary>The line of what was pasted on which a quotation mark is opened and not closed.</summary>
    public int? Unclosed { get; private set; }

    /// <summary>How many records hold each choice, by code.</summary>
    public IReadOnlyDictionary<string, long> Counts { get; private set; } = new Dictionary<string, long>();

    /// <summary>Labels of the fields that use it.</summary>
    public IReadOnlyList<string> Uses { get; private set; } = [];

    /// <summary>Who changed what, newest first.</summary>
    public IReadOnlyList<HistoryEntry> History { get; private set; } = [];

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>The language that is chosen for another column, and has none yet.</summary>
    public string Language =>
        Request.HasFormContentType && !Input.Columns.Contains(Request.Form["language"].ToString())
            ? Request.Form["language"].ToString()
            : "";

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>What it is called.</summary>
    public string Title => OfField?.Label ?? (IsNew ? "New list" : Input.Label);

    /// <summary>True for a choice that is live: it can be retired or merged, and not just taken away.</summary>
    public bool IsLive(string code) =>
        (OfField is { } field ? request.Catalogue.Site.Find(field.Id)?.Choices : request.Catalogue.Site.FindList(listId)?.Choices)?.Any(
            choice => choice.Code == code
        ) == true;

    /// <summary>Opens it.</summary>
    public async Task<IActionResult> OnGetAsync(string id, bool saved)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input =
            OfField is { } field ? new() { MayAdd = field.MayAdd, Rows = [.. (field.Choices ?? []).Select(ChoiceRow.From)] }
            : site.FindList(id) is { } list
                ? new()
                {
                    Label = list.Label,
                    Alphabetical = list.Alphabetical,
                    MayAdd = list.MayAdd,
                    Rows = [.. list.Choices.Select(ChoiceRow.From)],
                }
            : new();
        if (saved)
            Message = "It is in the draft. People get it when you publish.";
        await CountAsync();
        return Page();
    }

    /// <summary>Looks at what was pasted, taking nothing.</summary>
    public async Task<IActionResult> OnPostLookAsync(string id, [FromForm] ChoiceListInput input)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = input;
        Unclosed = PastedTable.Unclosed(input.Pasted);
        Read = Unclosed is null ? ChoiceReading.Read(PastedTable.Read(input.Pasted), input.ToChoices()) : [];
        return Partial("Setup/_Pasted", this);
    }

    /// <summary>Takes what was pasted into the inputs.</summary>
    public async Task<IActionResult> OnPostTakeAsync(string id, [FromForm] ChoiceListInput input)
    {
        if (!await LoadAsync(id))
            return NotFound();
        var taken = PastedTable.Unclosed(input.Pasted) is not null
            ? []
            : ChoiceReading
                .Read(PastedTable.Read(input.Pasted), input.ToChoices())
                .Where(choice => choice.IsTaken)
                .Select(choice => choice.Choice)
                .ToList();
        input.Rows =
        [
            .. input.Rows.Where(row => row.Known || row.Label.Trim().Length > 0),
            .. taken.Select(choice => new ChoiceRow
            {
                Code = choice.Code,
                Label = choice.Label,
                Colour = choice.Colour ?? "",
                Texts = new(choice.Texts ?? new Dictionary<string, string>(), StringComparer.Ordinal),
            }),
        ];
        (Input, input.Pasted, Message) = (input, "", $"{Numbers.Format(taken.Count)} taken. Put the list in the draft when it is right.");
        ModelState.Clear();
        await CountAsync();
        return Page();
    }

    /// <summary>Adds a column for labels in another language.</summary>
    public async Task<IActionResult> OnPostLanguageAsync(string id, [FromForm] ChoiceListInput input, [FromForm] string? language)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = input;
        if (LabelLanguages.Knows(language))
            input.Languages.Add(language!);
        ModelState.Clear();
        await CountAsync();
        return Page();
    }

    /// <summary>Merges one choice into another, in the inputs.</summary>
    public async Task<IActionResult> OnPostMergeAsync(
        string id,
        [FromForm] ChoiceListInput input,
        [FromForm] string? mergeFrom,
        [FromForm] string? mergeInto
    )
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = input;
        var (from, into) = (
            input.Rows.Find(row => row.Known && row.Code == mergeFrom),
            input.Rows.Find(row => row.Known && row.Code == mergeInto)
        );
        if (from is null || into is null || from == into)
            Problems = [new(listId, "choices", "Choose two different choices: the one that goes, and the one that stays.")];
        else
        {
            // What was merged into the one that goes follows it.
            foreach (var row in input.Rows.Where(row => row == from || row.MergedInto == from.Code))
                row.State = $"into {into.Code}";
            Message = $"{from.Label} goes into {into.Label}. Put the list in the draft when it is right.";
        }

        ModelState.Clear();
        await CountAsync();
        return Page();
    }

    /// <summary>Puts it in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string id, [FromForm] ChoiceListInput input, [FromForm] string? then)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = input;
        Problems = [.. catalogues.Build(Change(site, input)).Problems.Where(problem => problem.Element == listId)];
        Problems = [.. Problems, .. input.Doubles().Select(sentence => new Problem(listId, "choices", sentence))];
        if (OfField is null && string.IsNullOrWhiteSpace(input.Label) && Problems.All(problem => problem.Property != "label"))
            Problems = [.. Problems, new(listId, "label", "Give the list a label.")];
        if (Problems.Count > 0)
        {
            await CountAsync();
            return Page();
        }

        await drafts.ChangeAsync(
            now => Change(now, input),
            $"{(IsNew ? "Added" : "Changed")} the choices of {(OfField?.Label ?? input.Label)}",
            request.Viewer
        );
        return Redirect(then == "review" ? "/setup/draft" : $"/setup/lists/{listId}?saved=true");
    }

    /// <summary>Deletes a list that no field uses.</summary>
    public async Task<IActionResult> OnPostDeleteAsync(string id)
    {
        if (!await LoadAsync(id) || OfField is not null || Uses.Count > 0)
            return NotFound();
        await drafts.ChangeAsync(
            now =>
                now.Fields.Any(field => field.ChoiceList == id)
                    ? now
                    : now with
                    {
                        ChoiceLists = [.. now.ChoiceLists.Where(list => list.Id != id)],
                    },
            $"Deleted the list {site.FindList(id)?.Label}",
            request.Viewer
        );
        return Redirect("/setup/lists");
    }

    private SiteDefinition Change(SiteDefinition now, ChoiceListInput input) =>
        OfField is not null
            ? now.Find(listId) is { } field
                ? now.With(field with { Choices = input.ToChoices(), MayAdd = input.MayAdd })
                : now
            : now.With(
                new ChoiceList
                {
                    Id = listId,
                    Label = input.Label.Trim(),
                    Alphabetical = input.Alphabetical,
                    MayAdd = input.MayAdd,
                    Choices = input.ToChoices(),
                }
            );

    private async Task<bool> LoadAsync(string id)
    {
        site = (await drafts.ReadAsync()).Site;
        IsNew = id == "new";
        listId = IsNew ? ChoiceList.NewId() : id;
        OfField = site.Find(id) is { Choices: not null } own ? own : null;
        if (!IsNew && OfField is null && site.FindList(id) is null)
            return false;
        var live = request.Catalogue.Site;
        IsInDraft =
            IsNew
            || (
                OfField is { } field
                    ? !SiteDefinition.Same(field.Choices, live.Find(id)?.Choices)
                    : !SiteDefinition.Same(site.FindList(id), live.FindList(id))
            );
        Uses = [.. site.Fields.Where(each => each.ChoiceList == id && request.Views.Sees(each)).Select(each => each.Label)];
        return true;
    }

    private async Task CountAsync()
    {
        var fields = request
            .Catalogue.RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.AddedFields)
            .Where(field =>
                field.Kind.IsChoice && (field.Definition!.ChoiceList == listId || (OfField is not null && field.Definition.Id == listId))
            )
            .ToList();
        Counts = await facts.CountChoicesAsync(fields, request.Viewer);
        if (!IsNew)
            History = await effects.HistoryAsync(listId, request.Views);
    }
}
