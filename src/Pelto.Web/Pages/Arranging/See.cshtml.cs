using Microsoft.AspNetCore.Authorization;

namespace Pelto.Web.Pages;

/// <summary>A record's screen as somebody gets it, live or in the draft; nobody can type in it.</summary>
[Authorize(Policy = Policies.SetUp)]
public sealed class SeeModel(
    CurrentRequest request,
    Drafts drafts,
    RecordForms forms,
    PreviewRecords records,
    People people,
    PersonalArrangements arrangements
) : PageModel
{
    /// <summary>All people, for choosing.</summary>
    public IReadOnlyList<PersonToPick> People { get; private set; } = [];

    /// <summary>The person as whom it is seen.</summary>
    public PersonToPick Person { get; private set; } = default!;

    /// <summary>The record type.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>True for the draft, false for what is live.</summary>
    public bool IsDraft { get; private set; }

    /// <summary>True when a record is being added.</summary>
    public bool IsAdding { get; private set; }

    /// <summary>The record's id in addresses.</summary>
    public string RecordId { get; private set; } = "";

    /// <summary>The form, or null when this person gets none.</summary>
    public RecordForm? Form { get; private set; }

    /// <summary>Why this person gets none.</summary>
    public string? Nothing { get; private set; }

    /// <summary>The layers that this person gets, in the order in which they are laid over each other.</summary>
    public IEnumerable<string> LaidOver { get; private set; } = [];

    /// <summary>The address of this page as somebody, or under something, else.</summary>
    public string Address(string? of = null, string? on = null) =>
        $"/setup/see?person={Person.SignIn}&type={Type.Code}&record={RecordId}&of={of ?? (IsDraft ? "draft" : "live")}&on={on ?? (IsAdding ? "adding" : "changing")}";

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(string? person, string type, string? record, string? of, string? on)
    {
        People = await people.AllAsync();
        if (People.FirstOrDefault(one => one.SignIn == person) is not { } found || await people.ViewerAsync(found.Id) is not { } their)
            return NotFound();
        their = their with { PersonalLayer = await arrangements.OfAsync(found.Id) };
        (Person, IsDraft, IsAdding) = (found, of != "live", on == "adding");
        var catalogue = IsDraft ? await drafts.CatalogueAsync(HttpContext.RequestAborted) : request.Catalogue;
        if (catalogue.Find(type) is not { } known)
            return NotFound();
        Type = known;
        LaidOver = Type.Screens.LayersOf(their).Select(layer => layer.Label);
        if (Gains.Refuse(request.Viewer, null, their, request.Catalogue) is not null)
            Nothing = $"{Person.Name} sees what you do not: their screens are not for you.";
        else if (!their.MayRead(Type))
            Nothing = $"{Person.Name} does not see {Type.Plural.ToLowerInvariant()}.";
        else if (IsAdding && !their.MayCreate(Type))
            Nothing = $"{Person.Name} does not add {Type.Plural.ToLowerInvariant()}.";
        else if (await StateAsync(record, their) is { } state)
            Form = await forms.VisibleToAsync(state, their);
        else
            Nothing = $"There are no {Type.Plural.ToLowerInvariant()} that {Person.Name} sees.";
        return Page();
    }

    private async Task<RecordState?> StateAsync(string? asked, Viewer their)
    {
        var cancel = HttpContext.RequestAborted;
        if (IsAdding)
            return records.Fresh(Type);
        if (request.Catalogue.Find(Type.Code) is not { } live)
            return null;

        // What is only in the draft decides over the whole record, as far as whoever asks may see it.
        var reader = IsDraft ? request.Viewer : their;
        if (!reader.MayRead(live))
            return null;
        var record = long.TryParse(asked, out _)
            ? await records.AtAsync(live, asked, reader, cancel)
            : await records.NewestAsync(live, reader, cancel);
        if (record is null)
            return null;
        RecordId = record.Id!.Value.ToString(CultureInfo.InvariantCulture);
        if (!IsDraft)
            return record;
        var shown = await records.DraftedAsync(Type, record, their, cancel);
        return shown.Access?.MayRead == false ? null : shown;
    }
}
