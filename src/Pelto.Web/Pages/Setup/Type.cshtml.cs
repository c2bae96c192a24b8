using Pelto.Core.Elements;
using Pelto.Core.Releases;

namespace Pelto.Web.Pages;

/// <summary>Defines a record type of the site's own.</summary>
public sealed class TypeModel(CurrentRequest request, Drafts drafts, Catalogues catalogues, FieldEffects effects, Confirming confirming)
    : PageModel
{
    private const int SpareLines = 2;

    private SiteDefinition site = SiteDefinition.Nothing;
    private string typeId = "";

    /// <summary>What stands in the inputs.</summary>
    public RecordTypeInput Input { get; private set; } = new();

    /// <summary>What is wrong, by property.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>True for a type that is not in the draft yet.</summary>
    public bool IsNew { get; private set; }

    /// <summary>The type as it is live; null for one that nobody has yet.</summary>
    public RecordTypeDefinition? Live { get; private set; }

    /// <summary>True when the draft says something else of it than what is live.</summary>
    public bool IsInDraft => !IsNew && !SiteDefinition.Same(site.FindType(typeId), Live);

    /// <summary>The type as the draft has it.</summary>
    public RecordTypeDefinition Known => site.FindType(typeId) ?? new() { Id = typeId };

    /// <summary>What follows from the definition, in words.</summary>
    public IReadOnlyList<string> Effects { get; private set; } = [];

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>Who changed what, newest first.</summary>
    public IReadOnlyList<HistoryEntry> History { get; private set; } = [];

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>The roles that records can be given to; administrators may do everything anyhow.</summary>
    public IEnumerable<RoleDescription> Roles => request.Catalogue.Host.Roles.Where(role => role.Code != Viewer.Administrator);

    /// <summary>The added fields that the draft gives it.</summary>
    public IEnumerable<FieldDefinition> Fields =>
        site.Fields.Where(added => !added.Retired && added.Places().Any(place => place.RecordType == Known.Code));

    /// <summary>Opens a type, or begins one.</summary>
    public async Task<IActionResult> OnGetAsync(string id, bool saved)
    {
        await LoadAsync(id);
        if (IsNew)
            Input = new()
            {
                Read = [.. Roles.Select(role => role.Code)],
                Write = [.. Roles.Where(Enters).Select(role => role.Code)],
                Create = [.. Roles.Where(Enters).Select(role => role.Code)],
                Delete = [.. Roles.Where(Enters).Select(role => role.Code)],
            };
        else if (site.FindType(id) is { } type)
            Input = RecordTypeInput.From(type);
        else
            return NotFound();
        await ShowAsync(isAsked: !IsNew);
        if (saved)
            Message = "It is in the draft. People get it when you publish.";
        return Page();
    }

    /// <summary>Runs on every pause in typing: checks, saves nothing.</summary>
    public async Task<IActionResult> OnPostTryAsync(string id, [FromForm] RecordTypeInput input)
    {
        await LoadAsync(id);
        Input = input;
        await ShowAsync(isAsked: false);
        return Partial("Setup/_TypeProof", this);
    }

    /// <summary>Puts the type in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string id, [FromForm] RecordTypeInput input, [FromForm] string? then)
    {
        await LoadAsync(id);
        Input = input;
        await ShowAsync(isAsked: true);
        if (Problems.Count > 0 || !await confirming.IsDoneAsync(Request.Form, "type"))
            return Page();
        var type = Definition([]);
        await drafts.ChangeAsync(
            now => now.With(input.ToType(now.FindType(typeId) ?? type, Taken(now), []) with { Code = type.Code }),
            (IsNew ? "Added " : "Changed ") + type.Plural,
            request.Viewer
        );
        return Redirect(
            then switch
            {
                "review" => "/setup/draft",
                "field" => $"/setup/fields/new?type={type.Code}",
                _ => $"/setup/types/{typeId}?saved=true",
            }
        );
    }

    /// <summary>Takes a type that nobody has yet, and its fields, out of the draft.</summary>
    public Task<IActionResult> OnPostTakeOutAsync(string id) =>
        ChangeAsync(id, "Took out", (now, type) =>
            request.Catalogue.Site.FindType(id) is not null
                ? now
                : now
                    .Fields.Where(field => field.RecordType == type.Code)
                    .Aggregate(now, (without, field) => without.Without(field.Id)) with
                {
                    RecordTypes = [.. now.RecordTypes.Where(other => other.Id != id)],
                }
        );

    /// <summary>Retires the type: it leaves the menu, and its records stay on file.</summary>
    public Task<IActionResult> OnPostRetireAsync(string id) =>
        ChangeAsync(id, "Retired", static (now, type) => now.With(type with { Retired = true }));

    /// <summary>Brings a retired type back.</summary>
    public Task<IActionResult> OnPostRestoreAsync(string id) =>
        ChangeAsync(id, "Brought back", static (now, type) => now.With(type with { Retired = false }));

    // Who enters nothing elsewhere is not offered to enter here either.
    private bool Enters(RoleDescription role) =>
        request.Catalogue.Host.RecordTypes.Any(type => type.Access.Write.Contains(role.Code) || type.Access.Write.Contains("*"));

    private async Task<IActionResult> ChangeAsync(string id, string what, Func<SiteDefinition, RecordTypeDefinition, SiteDefinition> change)
    {
        await LoadAsync(id);
        if (site.FindType(id) is not { } type)
            return NotFound();
        await drafts.ChangeAsync(now => now.FindType(id) is { } found ? change(now, found) : now, $"{what} {type.Plural}", request.Viewer);
        return Redirect("/setup/draft");
    }

    private async Task LoadAsync(string id)
    {
        site = (await drafts.ReadAsync()).Site;
        IsNew = id == "new";
        typeId = IsNew ? RecordTypeDefinition.NewId() : id;
        Live = request.Catalogue.Site.FindType(id);
    }

    private IEnumerable<string> Taken(SiteDefinition now) =>
        request
            .Catalogue.Host.RecordTypes.Select(type => type.Code)
            .Concat(now.RecordTypes.Where(type => type.Id != typeId).Select(type => type.Code));

    private RecordTypeDefinition Definition(List<Problem> problems)
    {
        var type = Input.ToType(Known, Taken(site), problems);
        return Live is { } live
            ? type with
            {
                Code = live.Code,
                Confirmed = live.Confirmed,
                Numbering = type.Numbering with { Gapless = live.Numbering.Gapless, PerCompany = live.Numbering.PerCompany },
            }
            : type;
    }

    private async Task ShowAsync(bool isAsked)
    {
        var problems = new List<Problem>();
        var type = Definition(problems);
        var before = Planning.Make(request.Catalogue, catalogues.Build(site), StorageFacts.Nothing).Problems;
        problems.AddRange(
            Planning
                .Make(request.Catalogue, catalogues.Build(site.With(type)), StorageFacts.Nothing)
                .Problems.Where(problem => problem.Element == typeId || !before.Contains(problem))
        );

        // Before somebody asks, what is only not filled in yet is no mistake.
        Problems =
        [
            .. problems
                .DistinctBy(problem => (problem.Property, problem.Sentence))
                .Where(problem =>
                    isAsked
                    || !(
                        (problem.Property is "label" or "code" && Input.Label.Trim().Length == 0)
                        || (problem.Property == "plural" && Input.Plural.Trim().Length == 0)
                        || (
                            problem.Property == "lines"
                            && Input.Lines.Exists(lines => lines.Label.Trim().Length == 0 != (lines.Plural.Trim().Length == 0))
                        )
                    )
                ),
        ];
        while (Input.Lines.Count < type.Lines.Count + SpareLines)
            Input.Lines.Add(new());
        Effects = [.. RecordTypeWords.Describe(type, Live is not null)];
        History = IsNew ? [] : await effects.HistoryAsync(typeId, request.Views);
    }
}
