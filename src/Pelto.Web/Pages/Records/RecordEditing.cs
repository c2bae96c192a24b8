using Pelto.Core.Records;
using Pelto.Data.Queries;

namespace Pelto.Web.Pages;

/// <summary>What a form says that was sent, tried on its record.</summary>
/// <param name="Edit">The record that is edited.</param>
/// <param name="Posted">What the form says.</param>
/// <param name="Outcome">What the pipeline made of it.</param>
/// <param name="Off">Fields that a condition has taken off the screen while they were typed in.</param>
public sealed record EditRun(RecordEdit Edit, PostedForm Posted, Outcome Outcome, IReadOnlyList<Field> Off)
{
    /// <summary>The record type.</summary>
    public RecordType Type => Edit.Type;

    /// <summary>The record as it is on file, or a new one.</summary>
    public RecordState Current => Edit.Current;
}

/// <summary>Reads forms of records, tries what they say, and saves it.</summary>
public sealed class RecordEditing(
    CurrentRequest request,
    RecordStore store,
    RecordSaver saver,
    FormReader reader,
    RecordForms forms,
    Catalogues catalogues
)
{
    /// <summary>What addresses say instead of an id for a record that is being added.</summary>
    public const string New = "new";

    // A save asks the queries itself: what is tried before it only tells which conditions hold.
    private static readonly TimeSpan PatienceBeforeSaving = QueryRunner.OfASave / 4;

    /// <summary>Reads an id in an address.</summary>
    public static bool TryId(string text, out long id) => long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out id);

    /// <summary>Tries what a form says; null when its record is not there, or not for them.</summary>
    /// <param name="form">The form.</param>
    /// <param name="type">The code of the record's type.</param>
    /// <param name="id">Its id, or <see cref="New"/>.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<EditRun?> RunAsync(IFormCollection form, string type, string id, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found || await EditAsync(found, id, cancel) is not { } edit)
            return null;
        var posted = await reader.ReadAsync(form, found, edit.Current, keepsBlank: true);
        var (outcome, off) = await TriedAsync(form, edit, posted, null, cancel);
        return new(edit, posted, outcome, off);
    }

    /// <summary>Saves what a form says; null when its record is not there.</summary>
    /// <param name="form">The form.</param>
    /// <param name="type">The code of the record's type.</param>
    /// <param name="id">Its id, or <see cref="New"/>.</param>
    /// <param name="cancel">Stops it before it is committed.</param>
    /// <returns>How it ended, and the form as it is to be drawn when it was refused.</returns>
    /// <exception cref="AccessRefusedException">They may not change it.</exception>
    public async Task<(Saving Saving, Func<Task<RecordForm>> Refused)?> SaveAsync(
        IFormCollection form,
        string type,
        string id,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found || await EditAsync(found, id, cancel) is not { } edit)
            return null;
        var posted = await reader.ReadAsync(form, found, edit.Current, keepsBlank: false);
        var off = HasConditions(found) ? (await TriedAsync(form, edit, posted, PatienceBeforeSaving, cancel)).Off : [];
        var demanded = await DemandedAsync(posted);
        var saving = await saver.SaveAsync(found, edit.Current.Id, posted.Changes, request.Viewer, isDemanded: demanded, cancel: cancel);
        return (saving, async () =>
        {
            // As it is now: somebody else may have saved it meanwhile.
            var now = await EditAsync(found, id, cancel) ?? edit;
            return await forms.OfAsync(now.Current, saving.Outcome, posted, isJudged: true, off: off);
        });
    }

    /// <summary>The form as it was sent, with what is said of it.</summary>
    public Task<RecordForm> DrawAsync(EditRun run) =>
        forms.OfAsync(run.Current, run.Outcome, run.Posted, run.Posted.IsJudged, off: run.Off);

    private async Task<RecordEdit?> EditAsync(RecordType type, string id, CancellationToken cancel)
    {
        if (id == New)
            return request.Viewer.MayCreate(type) ? await store.EditAsync(type, null, request.Viewer, cancel) : null;
        return TryId(id, out var known) ? await store.EditAsync(type, known, request.Viewer, cancel) : null;
    }

    private bool HasConditions(RecordType type) =>
        type.Screens.LayersOf(request.Viewer).Any(layer => layer.Operations.Any(operation => !string.IsNullOrWhiteSpace(operation.When)));

    // What was typed in fields that a condition takes off the screen is not saved, which may take off others; each goes once.
    private async Task<(Outcome Outcome, IReadOnlyList<Field> Off)> TriedAsync(
        IFormCollection form,
        RecordEdit edit,
        PostedForm posted,
        TimeSpan? patience,
        CancellationToken cancel
    )
    {
        var (type, off, demanded) = (edit.Type, new List<Field>(), await DemandedAsync(posted));
        var outcome = await edit.TryAsync(posted.Changes, demanded, patience, cancel);
        if (!HasConditions(type))
            return (outcome, off);
        var all = type.Screens.AtMost(request.Viewer, edit.Current.Id is null ? RecordMode.Adding : RecordMode.Changing).Layout;
        var unseen = form[FormReader.UnseenInput].OfType<string>().ToHashSet(StringComparer.Ordinal);
        bool WasSeen(Field field) => !unseen.Contains(new FieldAddress(field.Part, null, field).ToString());
        while (true)
        {
            var layout = type.Screens.For(request.Viewer, outcome.State).Layout;
            var goes = ScreenRules.TakeOff(layout, all, posted.Changes, WasSeen).ToList();
            if (goes.Count == 0)
                return (outcome, off);
            off.AddRange(goes);
            outcome = await edit.TryAsync(posted.Changes, demanded, patience, cancel);
        }
    }

    // A form that was drawn before a release is not held to what it could not show.
    private async Task<Func<Field, bool>> DemandedAsync(PostedForm posted)
    {
        if (posted.Release == request.Catalogue.Release)
            return static _ => true;
        var drawn = await catalogues.AtAsync(posted.Release);
        return field => drawn.FindField(field.Id)?.Required == true;
    }
}
