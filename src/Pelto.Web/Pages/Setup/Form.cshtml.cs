using Pelto.Core.Records;

namespace Pelto.Web.Pages;

/// <summary>Defines the public form of a record type, and shows it as people outside will see it.</summary>
public sealed class PublicFormModel(
    CurrentRequest request,
    Drafts drafts,
    Catalogues catalogues,
    RecordStore store,
    OfferProofs offers,
    Confirming confirming
) : PageModel
{
    private SiteDefinition site = SiteDefinition.Nothing;

    /// <summary>The record type as the draft has it.</summary>
    public RecordTypeDefinition Known { get; private set; } = new();

    /// <summary>What stands in the inputs.</summary>
    public PublicFormInput Input { get; private set; } = new();

    /// <summary>The record type with the form that the inputs make.</summary>
    public RecordType? Type { get; private set; }

    /// <summary>What is wrong with it, by property.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The form as people outside will see it; null while something is wrong.</summary>
    public RecordForm? Preview { get; private set; }

    /// <summary>For each link, how many records people outside will find, and the first of them.</summary>
    public IReadOnlyList<(string Label, string Says)> Released { get; private set; } = [];

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>True when the form is live with this address.</summary>
    public bool IsLive => request.Catalogue.FindForm(Input.Address) is not null;

    /// <summary>True when the draft has the form already.</summary>
    public bool IsSaved => Known.PublicForm is not null;

    /// <summary>The whole address, for handing out.</summary>
    public string WholeAddress => $"{Request.Scheme}://{Request.Host}/form/{Input.Address}";

    /// <summary>A field by the code that the form has for it.</summary>
    public Field? Find(string code) =>
        Type?.Parts.SelectMany(part => part.Fields).FirstOrDefault(field => PublicFormInput.CodeOf(field) == code);

    /// <summary>Opens the form, or begins one.</summary>
    public async Task<IActionResult> OnGetAsync(string id, bool saved)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = PublicFormInput.From(Known.PublicForm, Known.Label);
        await ShowAsync(isAsked: IsSaved);
        if (saved)
            Message = IsSaved ? "It is in the draft. The address works when you publish." : "The public form is removed, in the draft.";
        return Page();
    }

    /// <summary>Runs on every pause in typing: checks and shows, saves nothing.</summary>
    public async Task<IActionResult> OnPostTryAsync(string id, [FromForm] PublicFormInput input)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = input;
        await ShowAsync(isAsked: false);
        return Partial("Setup/_FormProof", this);
    }

    /// <summary>Puts the form in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string id, [FromForm] PublicFormInput input, [FromForm] string? then)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = input;
        if (then == "address")
            Input.Address = PublicFormDefinition.NewAddress();
        await ShowAsync(isAsked: true);
        if (Problems.Count > 0 || !await confirming.IsDoneAsync(Request.Form, "form"))
            return Page();
        await KeepAsync(id, Input.ToForm(), $"{(IsSaved ? "Changed" : "Added")} the public form of {Known.Plural}");
        return Redirect(then == "review" ? "/setup/draft" : $"/setup/types/{id}/form?saved=true");
    }

    /// <summary>Takes the form away, in the draft; what was sent in stays.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(string id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        await KeepAsync(id, null, $"Removed the public form of {Known.Plural}");
        return Redirect($"/setup/types/{id}/form?saved=true");
    }

    private Task KeepAsync(string id, PublicFormDefinition? form, string what) =>
        drafts.ChangeAsync(now => now.FindType(id) is { } type ? now.With(type with { PublicForm = form }) : now, what, request.Viewer);

    private async Task<bool> LoadAsync(string id)
    {
        site = (await drafts.ReadAsync()).Site;
        if (site.FindType(id) is not { Retired: false } type)
            return false;
        Known = type;
        return true;
    }

    private async Task ShowAsync(bool isAsked)
    {
        var catalogue = catalogues.Build(site.With(Known with { PublicForm = Input.ToForm() }));
        Type = catalogue.Find(Known.Code);
        Problems =
        [
            .. catalogue.Problems.Where(problem =>
                problem.Element == Known.Id && (isAsked || problem.Property != "publicForm.fields" || Input.Rows.Exists(row => row.Asked))
            ),
        ];
        if (Type is null)
            return;
        Input.Complete(
            Type.Screen.Layout.Fields.Concat(Type.Parts.SelectMany(part => part.Fields))
                .Distinct()
                .Where(field => PublicForm.RefusalOf(field) is null)
        );
        if (Type.PublicForm is not { } form)
            return;
        var outside = Viewer.Outside(form, request.Locale);
        var fresh = Pipeline.Fresh(Type, store.Today);
        Preview = new()
        {
            Release = catalogue.Release,
            State = fresh,
            OnFile = fresh,
            Opened = [],
            Viewer = outside,
            Targets = new Dictionary<(string, long), Target>(),
        };
        var said = new List<(string, string)>();
        foreach (var link in form.Layout.Fields.Where(field => field.Target is not null))
            said.Add((link.Label, await offers.SaysAsync(Offer.Released(outside, link), outside, HttpContext.RequestAborted)));
        Released = said;
    }
}
