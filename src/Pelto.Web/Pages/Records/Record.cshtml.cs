using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Queries;
using Pelto.Data.Records;
using Pelto.Web.Components;

namespace Pelto.Web.Pages;

/// <summary>A record's screen: open, try while typing, save, draw anew under a newer release, delete.</summary>
public sealed class RecordModel(StockNotes stock, CurrentRequest request, RecordStore store, RecordForms forms, FormReader reader, Catalogues catalogues, ChoiceAdder adder, Pointers pointers, RecordLists lists, Chains chains, OfferTokens tokens, Entries entries) : PageModel
{
    /// <summary>True when people may arrange the screen for themselves.</summary>
    public bool MayArrange =>
        !IsInside
            && request.Viewer.May(Works.ArrangeOwn)
            && OwnArrangement.MayArrange(Form.Type.Screens.LayersOf(request.Viewer), OwnArrangement.ScreenId(Form.Type));

    /// <summary>The form.</summary>
    public RecordForm Form { get; private set; } = default!;

    /// <summary>True for administrators, who can say "a field here".</summary>
    public bool MaySetUp => request.Viewer.MayAt(Works.Define, Form.Type.Code);

    /// <summary>True when this person may delete this record, and the record may go.</summary>
    public bool MayDelete =>
        Form.State.Id is not null
            && request.Viewer.MayDelete(Form.Type)
            && Form.OnFile.Access?.MayDelete != false
            && Form.Type.IsDeletable
            && DocumentRules.RefuseDeletion(Form.OnFile) is null;

    /// <summary>What to tell on arrival.</summary>
    public string? Said { get; private set; }

    /// <summary>What points to this record, by record type and field.</summary>
    public IReadOnlyList<Pointing> Pointing { get; private set; } = [];

    /// <summary>True when the page is shown within a form, for a record to be made there.</summary>
    public bool IsInside => Request.Query.ContainsKey(SafetyHeaders.Inside);

    /// <summary>The documents that this one follows and that follow it.</summary>
    public IReadOnlyList<ChainStep> Chain { get; private set; } = [];

    /// <summary>The entry from outside that the record came from, or that would become it.</summary>
    public EntryRow? Entry { get; private set; }

    /// <summary>The documents that can be made from this one now.</summary>
    public IReadOnlyList<Follow> Next { get; private set; } = [];

    /// <summary>Opens a record, or a new one.</summary>
    /// <param name="type">The code of its type.</param>
    /// <param name="id">Its id, or <c>new</c>.</param>
    /// <param name="from">For a new document: the one that it follows, as <c>sales_order/17</c>.</param>
    /// <param name="with">For a new record: what it begins with, each written <c>code~value</c>.</param>
    /// <param name="entry">For a new record: the entry from outside that it accepts.</param>
    /// <param name="saved">True when it was saved just now.</param>
    /// <param name="stays">Why it was not deleted.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IActionResult> OnGetAsync(string type, string id, string? from, string[]? with, Guid? entry, bool saved, string? stays, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || await CurrentAsync(found, id) is not { } state) return NotFound();
        if (entry is { } sent && id == "new") return await FromOutsideAsync(found, sent, state, cancel);
        Form = id != "new" ? await forms.OfAsync(state)
            : await FollowingAsync(found, from, cancel) is { } next ? await forms.OfAsync(next, state)
            : With(found, state, with) is { } begun ? await forms.OfAsync(await store.SeenAsync(begun, request.Viewer, cancel), state) : await forms.OfAsync(state);
        if (state.Id is { } known)
        {
            var placed = Form.Layout.Sections.Select(section => section.Pointing).ToHashSet();
            Pointing = [.. (Form.Pointing.Count > 0 ? Form.Pointing : await pointers.ReadAsync(request.Catalogue, found, known, request.Viewer, cancel)).Where(one => !placed.Contains(one.Field) && !Form.Layout.HiddenLists.Contains(one.Field))];
            Entry = await entries.OriginAsync(state, request.Viewer, cancel);
            Chain = await chains.ReadAsync(state, request.Viewer, cancel);
            Next = [.. found.Next.Where(follow => request.Viewer.MayCreate(follow.Next) && NextDocument.Refuse(follow, state) is null)];
        }

        Said = stays ?? (saved ? string.Join(' ', new[] { "Saved.", await stock.OfAsync(state, request.Viewer, cancel) }.OfType<string>()) : null);
        return Page();
    }

    // What was decided on meanwhile is told by the page of entries.
    private async Task<IActionResult> FromOutsideAsync(RecordType type, Guid id, RecordState fresh, CancellationToken cancel)
    {
        if (await entries.FindAsync(type, id, request.Viewer, cancel) is not { Row: { State: EntryState.Waiting } row } entry)
            return Redirect($"/records/{type.Code}/entries?late=true");
        Entry = row;
        Form = await forms.OfAsync(await store.SeenAsync(entry.Begun, request.Viewer, cancel), fresh, row.Id);
        return Page();
    }

    private static RecordState? With(RecordType type, RecordState fresh, string[]? with)
    {
        if (with is not { Length: > 0 }) return null;
        var state = fresh.Copy();
        foreach (var entry in with.Select(text => text.Split('~', 2)).Where(entry => entry.Length == 2))
        {
            if (type.Header.Find(entry[0]) is not { IsTyped: true } field || field.Kind.Parse(entry[1]) is not { Refusal: null } read)
                continue;
            state.Header[field.Slot] = read.Value;
            if (field.IsChangeable) state.Origins[field] = new(DateTime.UtcNow, "the page before");
        }

        return state;
    }

    private async Task<RecordState?> FollowingAsync(RecordType type, string? from, CancellationToken cancel)
    {
        if (from is null) return null;
        if (from.Split('/') is not [var code, var number] || !TryId(number, out var id) || type.Follows.FirstOrDefault(follow => follow.Source.Code == code) is not { } follow || !request.Viewer.MayRead(follow.Source)) return null;
        return (await store.FollowAsync(follow, id, request.Viewer, cancel)).Begun;
    }

    /// <summary>The first of the records that point to this one by a field, as a list opened in place.</summary>
    public async Task<IActionResult> OnGetPointingAsync(string type, string id, string field, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || !TryId(id, out var known) || request.Catalogue.FindField(field) is not { } link || link.Target != found || !request.Viewer.MayRead(link.Part.RecordType)) return NotFound();
        return Partial("Records/_Pointing", await PointingRows.OfAsync(link, known, lists, request.Viewer, cancel));
    }

    /// <summary>Runs on every pause in typing: fills and checks, saves nothing, and answers with what computed fields hold now.</summary>
    public async Task<IActionResult> OnPostTryAsync(string type, string id, CancellationToken cancel)
    {
        if (await RunAsync(type, id, cancel) is not { } run) return NotFound();
        var (values, refusals) = (new Dictionary<string, object>(), new List<object>());
        foreach (var field in run.Type.FillOrder.Where(field => !field.IsChangeable).Concat(run.Type.Parts.SelectMany(part => part.SeenFields)).Where(field => request.Viewer.LevelAt(field) >= AccessLevel.Read))
        {
            var lines = (field.Part.IsLines ? run.Outcome.State.LinesOf(field.Part).Select(line => (Key: (string?)line.Key, Value: line.Values[field.Slot])) : [(null, run.Outcome.State.Header[field.Slot])]).ToList();
            var targets = field.Target is null ? null : await lists.TargetsAsync(field.Target, [.. lines.Where(line => line.Value.Type == ValueForm.Link).Select(line => line.Value.Target).Distinct()], request.Viewer, cancel);
            foreach (var (line, value) in lines.Where(one => run.Outcome.State.Access?.LevelAt(field, one.Key) is not < AccessLevel.Read))
                values[new Spot(field.Part, line, field).ToString()] = new { text = value.Type == ValueForm.Link ? targets!.GetValueOrDefault(value.Target)?.Text ?? "" : field.Kind.Format(value, request.Locale), failed = value.IsError };
        }

        var scratch = run.Type.Screens.Scratch.Select(pair => (Name: FormReader.ScratchPrefix + pair.Key, Made: pair.Value)).ToList();
        if (scratch.Count > 0)
        {
            var form = await forms.OfAsync(run.Current, run.Outcome, run.Posted, isJudged: false);
            foreach (var (name, made) in scratch.Where(one => !string.IsNullOrWhiteSpace(one.Made.Formula)))
                if (form.ScratchOf(made) is var (text, failed, _)) values[name] = new { text, failed };
            refusals.AddRange(scratch.Select(one => (one.Name, form.ScratchOf(one.Made).Refusal)).Where(one => one.Refusal is not null && run.Posted.Texts.ContainsKey(one.Name)).Select(one => new { at = one.Name, text = one.Refusal! }));
        }

        var filled = await FilledAsync(run.Current, run.Outcome.State, run.Posted);
        var messages = RecordForms.Told(run.Outcome, run.Posted, run.Posted.IsJudged)
            .Where(message => request.Viewer.LevelAt(message.At.Field!) > AccessLevel.None);
        return new JsonResult(new { values, filled, shown = Shown(run.Outcome.State), screen = run.Type.Screens.For(request.Viewer, run.Outcome.State).Key, messages = messages.Select(message => (object)new { at = message.At.ToString(), text = message.Sentence }).Concat(refusals) });
    }

    // What fills inputs while one types, and what is said of it; a person's own typing stays.
    private async Task<Dictionary<string, object>> FilledAsync(RecordState current, RecordState state, PostedForm posted)
    {
        var filled = new Dictionary<string, object>();
        var fields = state.Type.FillOrder.Where(field => !field.IsComputed && request.Viewer.ReadsWhereRead(field)).ToList();
        if (fields.Count == 0) return filled;
        var form = await forms.WhileTypingAsync(current, state, posted);
        foreach (var field in fields)
            foreach (var line in field.Part.IsLines ? state.LinesOf(field.Part) : Enumerable.Repeat<LineState?>(null, 1))
                if (form.At(new(field, 1), line) is { Filled: { } note } view)
                    filled[view.Name] = new { id = view.Id, value = Kept(view), text = view.InWords, unit = view.Unit, note = note.Text, again = note.MayFill, off = note.IsOff, byHand = view.By == FormReader.ByHand };
        return filled;
    }

    // Which of the fields that are shown under a condition are shown now.
    private Dictionary<string, bool> Shown(RecordState state)
    {
        var conditional = state.Type.Parts.SelectMany(part => part.Fields).Where(field => field.Rules.ShownWhen is not null && request.Viewer.LevelAt(field) >= AccessLevel.Read);
        return conditional.SelectMany(field => field.Part.IsLines ? state.LinesOf(field.Part).Select(line => (field, line: (LineState?)line)) : [(field, line: null)])
            .ToDictionary(one => new Spot(one.field.Part, one.line?.Key, one.field).ToString(), one => request.Viewer.IsShown(one.field, state.FrameAt(one.line)));
    }

    // As the input holds it, and as people read it where there is none: a screen may have it locked.
    private static string Kept(FieldView view) =>
        view.Value.Type is ValueForm.Link or ValueForm.YesNo || (view.Value.Type == ValueForm.Text && view.Field.Kind.IsChoice)
            ? view.Field.Kind.Input(view.Value) : view.Text;

    /// <summary>Saves. Answers with where to go, or with the form and what is wrong.</summary>
    public async Task<IActionResult> OnPostAsync(string type, string id, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || await EditAsync(found, id, cancel) is not { } edit) return Gone(type);
        var posted = await reader.ReadAsync(Request.Form, found, edit.Current, keepsBlank: false);
        var off = HasConditions(found) ? (await TriedAsync(edit, posted, QueryRunner.OfASave / 4, cancel)).Off : [];
        Saving saving;
        try
        {
            saving = await store.SaveAsync(found, edit.Current.Id, posted.Changes, request.Viewer, isDemanded: await DemandedAsync(posted), cancel: cancel);
        }
        catch (AccessRefusedException refused)
        {
            // It could be changed when it was opened.
            return new JsonResult(new { gone = $"Not saved: {char.ToLowerInvariant(refused.Message[0])}{refused.Message[1..]} What you typed is still on this page." });
        }

        if (saving.Result == SaveResult.Gone) return Gone(type);
        if (saving.Result == SaveResult.Saved)
        {
            // Saved so that they may not see it any more, it leads to the list.
            if ((await lists.TargetsAsync(found, [saving.Outcome.State.Id!.Value], request.Viewer, cancel)).Values.FirstOrDefault() is not { } target) return new JsonResult(new { saved = $"/records/{type}" });
            return new JsonResult(new { saved = $"/records/{type}/{target.Id}?saved=true", target = LookUps.Shown(target), keys = saving.NewKeys });
        }

        return Partial("Records/_Form", await forms.OfAsync((await CurrentAsync(found, id))!, saving.Outcome, posted, isJudged: true, off: off));
    }

    /// <summary>What a link offers, by what was typed and by all that stands in the form.</summary>
    public async Task<IActionResult> OnPostPickAsync(string type, string id, string field, string? line, string? text, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var link) || link.Target is not { } target || !request.Viewer.MayRead(target) || request.Viewer.LevelAt(link) < AccessLevel.Write || !request.Viewer.MayBeOffered(link) || await RunAsync(type, id, cancel) is not { } run) return NotFound();
        var offer = Offer.To(request.Viewer, link, run.Outcome.State, link.Part.IsLines ? run.Outcome.State.LinesOf(link.Part).FirstOrDefault(row => row.Key == line) : null);
        if (link.Part.IsLines && offer.Line is null) return NotFound();
        if (offer.Missing is { } missing) return new JsonResult(new { first = $"Fill {missing.TextIn(request.Locale).Label} first: what can be chosen here depends on it.", found = Array.Empty<object>() });
        var demands = link.Narrowing?.Condition.Demands(offer.Record.FrameAt(offer.Line)).Where(demand => demand.Field.IsTyped) ?? [];
        return new JsonResult(new
        {
            found = (await lists.PickAsync(target, text ?? "", request.Viewer, offer: offer, cancel: cancel)).Select(LookUps.Shown),
            offer = tokens.Write(offer),
            with = string.Concat(demands.Select(demand => $"&with={Uri.EscapeDataString($"{demand.Field.Code}~{(demand.Field.Kind.IsChoice ? demand.Value.Text : demand.Field.Kind.Format(demand.Value))}")}")),
        });
    }

    /// <summary>What a field's query offers to choose from, with all that stands in the form.</summary>
    public async Task<IActionResult> OnPostAskedAsync(string type, string id, string field, string? line, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var asked) || await RunAsync(type, id, cancel) is not { } run) return NotFound();
        var at = asked.Part.IsLines ? run.Outcome.State.LinesOf(asked.Part).FirstOrDefault(row => row.Key == line) : null;
        if (asked.Part.IsLines && at is null) return NotFound();
        var (offered, failure) = await store.OfferedAsync(asked, run.Outcome.State, at, request.Viewer, cancel);
        return new JsonResult(new { offered = offered.Select(value => asked.Kind.Format(value, request.Locale)), failure });
    }

    /// <summary>The main facts of a record, for the card that a link shows.</summary>
    public async Task<IActionResult> OnGetCardAsync(string type, string id) =>
        request.Find(type) is { } found && TryId(id, out var known) && await store.FindAsync(found, known, request.Viewer) is { } state ? Partial("Records/_Card", await forms.OfAsync(state)) : NotFound();

    /// <summary>Draws the form under the live release, with all that was entered.</summary>
    public async Task<IActionResult> OnPostDrawAsync(string type, string id, CancellationToken cancel) =>
        await RunAsync(type, id, cancel) is { } run ? Partial("Records/_Form", await forms.OfAsync(run.Current, run.Outcome, run.Posted, run.Posted.IsJudged, off: run.Off)) : Gone(type);

    /// <summary>Draws the inputs of lines that were only read so far, with all that was entered.</summary>
    /// <param name="type">The code of the record's type.</param>
    /// <param name="id">Its id, or <c>new</c>.</param>
    /// <param name="wake">The lines, each as its part and key: <c>lines.17</c>.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IActionResult> OnPostWakeAsync(string type, string id, string[]? wake, CancellationToken cancel)
    {
        if (await RunAsync(type, id, cancel) is not { } run) return Gone(type);
        var form = await forms.OfAsync(run.Current, run.Outcome, run.Posted, run.Posted.IsJudged, off: run.Off);
        return Partial("Records/_Woken", (form, (wake ?? []).ToHashSet(StringComparer.Ordinal)));
    }

    /// <summary>Shows a secret, once, and puts down that it was shown.</summary>
    public async Task<IActionResult> OnPostRevealAsync(string type, string id, string field, long? line, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || !TryId(id, out var known) || !found.TryFindField(field, out var secret) || !secret.Kind.IsSecret) return NotFound();
        Response.Headers.CacheControl = "no-store";
        return new JsonResult(new { text = await store.RevealAsync(found, known, secret, line, request.Viewer, cancel) ?? "It cannot be read: the key that it was kept under is not here." });
    }

    /// <summary>Adds a choice that somebody needs while entering a record; it is live at once.</summary>
    public async Task<IActionResult> OnPostAddChoiceAsync(string type, string field, string label)
    {
        if (request.Find(type) is not { } found || !found.TryFindField(field, out var asked) || !asked.Kind.IsChoice) return NotFound();
        var (choice, refusal) = await adder.AddAsync(asked, label, request.Viewer);
        return choice is null ? new JsonResult(new { refusal }) : new JsonResult(new { code = choice.Code, label = choice.LabelIn(request.Locale) });
    }

    /// <summary>Deletes; the list offers to undo it.</summary>
    public async Task<IActionResult> OnPostDeleteAsync(string type, string id, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || !TryId(id, out var known)) return NotFound();
        var deletion = await store.DeleteAsync(request.Catalogue, found, known, request.Viewer, cancel: cancel);
        return deletion.Result switch
        {
            SaveResult.Saved => Redirect($"/records/{type}?deleted={Uri.EscapeDataString(deletion.Title!)}&undo={deletion.Undo}"),
            SaveResult.Refused => Redirect($"/records/{type}/{known}?stays={Uri.EscapeDataString(deletion.Refusal!)}"),
            _ => NotFound(),
        };
    }

    private async Task<(RecordType Type, RecordState Current, Outcome Outcome, PostedForm Posted, IReadOnlyList<Field> Off)?> RunAsync(string type, string id, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || await EditAsync(found, id, cancel) is not { } edit) return null;
        var posted = await reader.ReadAsync(Request.Form, found, edit.Current, keepsBlank: true);
        var (outcome, off) = await TriedAsync(edit, posted, null, cancel);
        return (found, edit.Current, outcome, posted, off);
    }

    private bool HasConditions(RecordType type) =>
        type.Screens.LayersOf(request.Viewer).Any(layer => layer.Operations.Any(operation => !string.IsNullOrWhiteSpace(operation.When)));

    // What was typed in fields that a condition takes off the screen is not saved, which may take off others; each goes once.
    private async Task<(Outcome Outcome, IReadOnlyList<Field> Off)> TriedAsync(RecordEdit edit, PostedForm posted, TimeSpan? patience, CancellationToken cancel)
    {
        var (type, off, demanded) = (edit.Type, new List<Field>(), await DemandedAsync(posted));
        var outcome = await edit.TryAsync(posted.Changes, demanded, patience, cancel);
        if (!HasConditions(type)) return (outcome, off);
        var all = type.Screens.AtMost(request.Viewer, edit.Current.Id is null ? RecordMode.Adding : RecordMode.Changing).Layout;
        var unseen = Request.Form[FormReader.UnseenInput].OfType<string>().ToHashSet(StringComparer.Ordinal);
        while (true)
        {
            var layout = type.Screens.For(request.Viewer, outcome.State).Layout;
            var goes = ScreenRules.TakeOff(layout, all, posted.Changes, field => !unseen.Contains(new Spot(field.Part, null, field).ToString())).ToList();
            if (goes.Count == 0) return (outcome, off);
            off.AddRange(goes);
            outcome = await edit.TryAsync(posted.Changes, demanded, patience, cancel);
        }
    }

    // A form that was drawn before a release is not held to what it could not show.
    private async Task<Func<Field, bool>> DemandedAsync(PostedForm posted)
    {
        if (posted.Release == request.Catalogue.Release) return static _ => true;
        var drawn = await catalogues.AtAsync(posted.Release);
        return field => drawn.FindField(field.Id)?.Required == true;
    }

    private async Task<RecordEdit?> EditAsync(RecordType type, string id, CancellationToken cancel)
    {
        if (id == "new") return request.Viewer.MayCreate(type) ? await store.EditAsync(type, null, request.Viewer, cancel) : null;
        return TryId(id, out var known) ? await store.EditAsync(type, known, request.Viewer, cancel) : null;
    }

    private async Task<RecordState?> CurrentAsync(RecordType type, string id)
    {
        if (id == "new") return request.Viewer.MayCreate(type) ? store.Fresh(type, request.Viewer) : null;
        return TryId(id, out var known) ? await store.FindAsync(type, known, request.Viewer) : null;
    }

    private static bool TryId(string text, out long id) => long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out id);

    private static JsonResult Gone(string type) => new(new { gone = "This record is not there any more: somebody deleted it. What you typed is still on this page.", list = $"/records/{type}" });
}
