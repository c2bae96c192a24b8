using Pelto.Core.Records;

namespace Pelto.Web.Pages;

/// <summary>A record's screen: open, try while typing, save, draw anew under a newer release, delete.</summary>
public sealed class RecordModel(
    CurrentRequest request,
    RecordStore store,
    RecordForms forms,
    RecordEditing editing,
    NewRecords fresh,
    RelatedRecords related
) : PageModel
{
    /// <summary>True when people may arrange the screen for themselves.</summary>
    public bool MayArrange =>
        !IsInside
        && request.Viewer.May(AdminWork.ArrangeOwn)
        && PersonalArrangement.MayArrange(Form.Type.Screens.LayersOf(request.Viewer), PersonalArrangement.ScreenId(Form.Type));

    /// <summary>The form.</summary>
    public RecordForm Form { get; private set; } = default!;

    /// <summary>True for administrators, who can say "a field here".</summary>
    public bool MaySetUp => request.Viewer.MayAt(AdminWork.Define, Form.Type.Code);

    /// <summary>True when this person may delete this record, and the record may go.</summary>
    public bool MayDelete =>
        Form.State.Id is not null
        && request.Viewer.MayDelete(Form.Type)
        && Form.OnFile.Access?.MayDelete != false
        && Form.Type.IsDeletable
        && DocumentRules.RefuseDeletion(Form.OnFile) is null;

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>True when the page is shown within a form, for a record to be made there.</summary>
    public bool IsInside => Request.Query.ContainsKey(SafetyHeaders.Inside);

    /// <summary>What stands around it; nothing for one that is not on file.</summary>
    public Related Related { get; private set; } = Related.Nothing;

    /// <summary>The entry from outside that the record came from, or that would become it.</summary>
    public EntryRow? Entry { get; private set; }

    /// <summary>Opens a record, or a new one.</summary>
    /// <param name="type">The code of its type.</param>
    /// <param name="id">Its id, or <c>new</c>.</param>
    /// <param name="from">For a new document: the one that it follows, as <c>sales_order/17</c>.</param>
    /// <param name="with">For a new record: what it begins with, each written <c>code~value</c>.</param>
    /// <param name="entry">For a new record: the entry from outside that it accepts.</param>
    /// <param name="saved">True when it was saved just now.</param>
    /// <param name="stays">Why it was not deleted.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IActionResult> OnGetAsync(
        string type,
        string id,
        string? from,
        string[]? with,
        Guid? entry,
        bool saved,
        string? stays,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found)
            return NotFound();
        if (id == RecordEditing.New)
            return await BeginAsync(found, from, with, entry, cancel);
        if (!RecordEditing.TryId(id, out var known) || await store.FindAsync(found, known, request.Viewer) is not { } state)
            return NotFound();
        Form = await forms.OfAsync(state);
        Related = await related.OfAsync(Form, cancel);
        Entry = Related.Entry;
        Message = stays ?? (saved ? await related.SavedAsync(state, cancel) : null);
        return Page();
    }

    private async Task<IActionResult> BeginAsync(RecordType type, string? from, string[]? with, Guid? entry, CancellationToken cancel)
    {
        if (!request.Viewer.MayCreate(type))
            return NotFound();
        if (entry is not { } sent)
        {
            Form = await fresh.OfAsync(type, from, with, cancel);
            return Page();
        }

        // What was decided on meanwhile is told by the page of entries.
        if (await fresh.FromOutsideAsync(type, sent, cancel) is not var (form, row))
            return Redirect($"/records/{type.Code}/entries?late=true");
        (Form, Entry) = (form, row);
        return Page();
    }

    /// <summary>The first of the records that point to this one by a field, as a list opened in place.</summary>
    public async Task<IActionResult> OnGetPointingAsync(string type, string id, string field, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || !RecordEditing.TryId(id, out var known))
            return NotFound();
        if (request.Catalogue.FindField(field) is not { } link || link.Target != found || !request.Viewer.MayRead(link.Part.RecordType))
            return NotFound();
        return Partial("Records/_Pointing", await related.RowsAsync(link, known, cancel));
    }

    /// <summary>Runs on every pause in typing: fills and checks, saves nothing, and answers with what computed fields hold now.</summary>
    public async Task<IActionResult> OnPostTryAsync(
        string type,
        string id,
        [FromServices] TypingAnswers answers,
        CancellationToken cancel
    ) =>
        await editing.RunAsync(Request.Form, type, id, cancel) is { } run ? new JsonResult(await answers.OfAsync(run, cancel)) : NotFound();

    /// <summary>Saves. Answers with where to go, or with the form and what is wrong.</summary>
    public async Task<IActionResult> OnPostAsync(string type, string id, [FromServices] RecordLists lists, CancellationToken cancel)
    {
        try
        {
            if (await editing.SaveAsync(Request.Form, type, id, cancel) is not var (saving, refused) || saving.Result == SaveResult.Gone)
                return Gone(type);
            if (saving.Result != SaveResult.Saved)
                return Partial("Records/_Form", await refused());

            // Saved so that they may not see it any more, it leads to the list.
            var (found, saved) = (saving.Outcome.State.Type, saving.Outcome.State.Id!.Value);
            if ((await lists.TargetsAsync(found, [saved], request.Viewer, cancel)).Values.FirstOrDefault() is not { } target)
                return new JsonResult(new { saved = $"/records/{type}" });
            var address = $"/records/{type}/{target.Id}?saved=true";
            return new JsonResult(
                new
                {
                    saved = address,
                    target = LookUps.Shown(target),
                    keys = saving.NewKeys,
                }
            );
        }
        catch (AccessRefusedException refusal)
        {
            // It could be changed when it was opened.
            var why = char.ToLowerInvariant(refusal.Message[0]) + refusal.Message[1..];
            return new JsonResult(new { gone = $"Not saved: {why} What you typed is still on this page." });
        }
    }

    /// <summary>What a link offers, by what was typed and by all that stands in the form.</summary>
    public async Task<IActionResult> OnPostPickAsync(
        string type,
        string id,
        string field,
        string? line,
        string? text,
        [FromServices] LinkOffers offers,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var link) || !offers.MayPick(link))
            return NotFound();
        if (await editing.RunAsync(Request.Form, type, id, cancel) is not { } run)
            return NotFound();
        return await offers.PickAsync(link, run, line, text ?? "", cancel) is { } offer ? new JsonResult(offer) : NotFound();
    }

    /// <summary>What a field's query offers to choose from, with all that stands in the form.</summary>
    public async Task<IActionResult> OnPostAskedAsync(
        string type,
        string id,
        string field,
        string? line,
        [FromServices] LinkOffers offers,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var asked))
            return NotFound();
        if (await editing.RunAsync(Request.Form, type, id, cancel) is not { } run)
            return NotFound();
        return await offers.AskAsync(asked, run, line, cancel) is { } offer ? new JsonResult(offer) : NotFound();
    }

    /// <summary>The main facts of a record, for the card that a link shows.</summary>
    public async Task<IActionResult> OnGetCardAsync(string type, string id)
    {
        if (request.Find(type) is not { } found || !RecordEditing.TryId(id, out var known))
            return NotFound();
        return await store.FindAsync(found, known, request.Viewer) is { } state
            ? Partial("Records/_Card", await forms.OfAsync(state))
            : NotFound();
    }

    /// <summary>Draws the form under the live release, with all that was entered.</summary>
    public async Task<IActionResult> OnPostDrawAsync(string type, string id, CancellationToken cancel) =>
        await editing.RunAsync(Request.Form, type, id, cancel) is { } run
            ? Partial("Records/_Form", await editing.DrawAsync(run))
            : Gone(type);

    /// <summary>Draws the inputs of lines that were only read so far, with all that was entered.</summary>
    /// <param name="type">The code of the record's type.</param>
    /// <param name="id">Its id, or <c>new</c>.</param>
    /// <param name="wake">The lines, each as its part and key: <c>lines.17</c>.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IActionResult> OnPostWakeAsync(string type, string id, string[]? wake, CancellationToken cancel)
    {
        if (await editing.RunAsync(Request.Form, type, id, cancel) is not { } run)
            return Gone(type);
        return Partial("Records/_Woken", (await editing.DrawAsync(run), (wake ?? []).ToHashSet(StringComparer.Ordinal)));
    }

    /// <summary>Shows a secret, once, and puts down that it was shown.</summary>
    public async Task<IActionResult> OnPostRevealAsync(
        string type,
        string id,
        string field,
        long? line,
        [FromServices] SecretShowing secrets,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found || !RecordEditing.TryId(id, out var known))
            return NotFound();
        if (!found.TryFindField(field, out var secret) || !secret.Kind.IsSecret)
            return NotFound();
        Response.Headers.CacheControl = "no-store";
        var text = await secrets.RevealAsync(found, known, secret, line, request.Viewer, cancel);
        return new JsonResult(new { text = text ?? "It cannot be read: the key that it was encrypted with is not here." });
    }

    /// <summary>Adds a choice that somebody needs while entering a record; it is live at once.</summary>
    public async Task<IActionResult> OnPostAddChoiceAsync(string type, string field, string label, [FromServices] ChoiceAdder adder)
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var asked) || !asked.Kind.IsChoice)
            return NotFound();
        var (choice, refusal) = await adder.AddAsync(asked, label, request.Viewer);
        return choice is null
            ? new JsonResult(new { refusal })
            : new JsonResult(new { code = choice.Code, label = choice.LabelIn(request.Locale) });
    }

    /// <summary>Deletes; the list offers to undo it.</summary>
    public async Task<IActionResult> OnPostDeleteAsync(
        string type,
        string id,
        [FromServices] RecordDeleter deleter,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found || !RecordEditing.TryId(id, out var known))
            return NotFound();
        var deletion = await deleter.DeleteAsync(request.Catalogue, found, known, request.Viewer, cancel: cancel);
        return deletion.Result switch
        {
            SaveResult.Saved => Redirect($"/records/{type}?deleted={Uri.EscapeDataString(deletion.Title!)}&undo={deletion.Undo}"),
            SaveResult.Refused => Redirect($"/records/{type}/{known}?stays={Uri.EscapeDataString(deletion.Refusal!)}"),
            _ => NotFound(),
        };
    }

    private static JsonResult Gone(string type) =>
        new(
            new
            {
                gone = "This record no longer exists: somebody deleted it. What you typed is still on this page.",
                list = $"/records/{type}",
            }
        );
}
