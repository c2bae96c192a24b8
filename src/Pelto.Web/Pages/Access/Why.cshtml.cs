namespace Pelto.Web.Pages;

/// <summary>
/// Why a person has the access that they have at a field of a record: the level, the sentence, and every guard and grant that took part.
/// </summary>
public sealed class WhyModel(CurrentRequest request, Drafts drafts, People people, RecordStore store, RecordLists lists) : PageModel
{
    /// <summary>The record type.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>All record types.</summary>
    public IReadOnlyList<RecordType> Types { get; private set; } = [];

    /// <summary>Everybody.</summary>
    public IReadOnlyList<PersonToPick> Everybody { get; private set; } = [];

    /// <summary>About whom it is asked.</summary>
    public string Person { get; private set; } = "";

    /// <summary>The lasting id of the field.</summary>
    public string FieldId { get; private set; } = "";

    /// <summary>The record's number, as typed.</summary>
    public string Record { get; private set; } = "";

    /// <summary>The line of it, counted from one.</summary>
    public int Line { get; private set; } = 1;

    /// <summary>True for what is in the draft, rather than live.</summary>
    public bool IsDraft { get; private set; }

    /// <summary>The answer.</summary>
    public AccessExplanation? Why { get; private set; }

    /// <summary>Why there is none.</summary>
    public string? Refusal { get; private set; }

    /// <summary>Why the answer is not about the record that was asked for.</summary>
    public string? Untold { get; private set; }

    private bool Knows(Core.Formulas.Formula condition) =>
        condition
            .Reads.Concat(condition.RelatedFields)
            .All(read =>
                request.Viewer.ReadsWhereRead(read)
                && (request.Catalogue.FindField(read.Id) is not { } live || request.Viewer.ReadsWhereRead(live))
            ) && condition.RelatedFields.All(read => request.Viewer.ReadsAll(read, request.Catalogue));

    /// <summary>The field that is asked about.</summary>
    public Field? Field { get; private set; }

    /// <summary>Explains.</summary>
    public async Task<IActionResult> OnGetAsync(
        string? type,
        string? field,
        string? person,
        string? record,
        int? line,
        string? of,
        CancellationToken cancel
    )
    {
        IsDraft = of == "draft";
        var catalogue = IsDraft ? await drafts.CatalogueAsync(cancel) : request.Catalogue;
        Types = [.. catalogue.RecordTypes.Where(one => request.Views.WorksAt(one.Code))];
        if ((type is null ? Types.FirstOrDefault() : Types.FirstOrDefault(one => one.Code == type)) is not { } found)
            return NotFound();
        (Type, Person, FieldId, Record, Line) = (found, person ?? "", field ?? "", record?.Trim() ?? "", Math.Max(1, line ?? 1));
        Everybody = await people.AllAsync(cancel);
        Field = found.Parts.SelectMany(part => part.Fields).FirstOrDefault(one => one.Id == FieldId);
        if (Field is not { } asked || Person.Length == 0)
            return Page();
        if (await people.ViewerAsync(Person, cancel) is not { } viewer)
            return NotFound();
        var (state, at) = await RecordAsync(catalogue, asked, cancel);

        // Whether a condition holds on a record tells something of what it reads.
        if (state is not null && !found.Guarding.ConditionsAt(found).All(Knows))
            (state, at, Untold) = (
                null,
                null,
                "Conditions here read what you may not read of all records, so it is not told whether they hold on this one."
            );
        if (Refusal is null)
            Why = viewer.Explain(asked, state, at, catalogue, viewer.LocksOf(asked, state));
        return Page();
    }

    // Read whole by whoever may see all of it; what conditions ask is answered, not shown.
    private async Task<(RecordState? State, LineState? Line)> RecordAsync(Catalogue catalogue, Field asked, CancellationToken cancel)
    {
        if (Record.Length == 0)
            return (null, null);
        var live = request.Catalogue.Find(Type.Code);
        var id = live is null
            ? null
            : await lists.FindAsync(live, Record, request.Viewer, cancel)
                ?? (long.TryParse(Record, NumberStyles.None, CultureInfo.InvariantCulture, out var known) ? known : null);
        var state =
            live is not null && id is { } one
                ? await store.AskedAsync(catalogue.Find(Type.Code)!, live, one, request.Viewer, cancel)
                : null;
        if (state is null)
        {
            Refusal = $"There is no {Type.Label.ToLowerInvariant()} “{Record}” that you may read.";
            return (null, null);
        }

        var lines = asked.Part.IsLines ? state.LinesOf(asked.Part) : [];
        if (asked.Part.IsLines && lines.Count < Line)
            Refusal = $"{state.Title} has {lines.Count} {(lines.Count == 1 ? asked.Part.Label : asked.Part.Plural).ToLowerInvariant()}.";
        return (state, Refusal is null && asked.Part.IsLines ? lines[Line - 1] : null);
    }
}
