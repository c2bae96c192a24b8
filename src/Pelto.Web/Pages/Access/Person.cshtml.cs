namespace Pelto.Web.Pages;

/// <summary>What one person may do with a record type.</summary>
/// <param name="Type">The record type.</param>
/// <param name="Rights">The rights at it, each with whether the record decides.</param>
/// <param name="Levels">Its fields by level, the highest first.</param>
public sealed record PersonAtType(
    RecordType Type,
    IReadOnlyList<(string Right, bool IsByRecord)> Rights,
    IReadOnlyList<(AccessLevel Level, IReadOnlyList<(Field Field, bool IsByRecord)> Fields)> Levels
);

/// <summary>The other way round: all that a person may, everywhere.</summary>
public sealed class PersonAccessModel(CurrentRequest request, Drafts drafts, People people) : PageModel
{
    /// <summary>Everybody.</summary>
    public IReadOnlyList<PersonToPick> Everybody { get; private set; } = [];

    /// <summary>About whom it is.</summary>
    public PersonToPick Person { get; private set; } = default!;

    /// <summary>True for what is in the draft, rather than live.</summary>
    public bool IsDraft { get; private set; }

    /// <summary>The record types of which they may do something.</summary>
    public IReadOnlyList<PersonAtType> Types { get; private set; } = [];

    /// <summary>The record types of which they may do nothing.</summary>
    public IReadOnlyList<RecordType> Unknown { get; private set; } = [];

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(string? person, string? of, CancellationToken cancel)
    {
        Everybody = await people.AllAsync(cancel);
        IsDraft = of == "draft";
        if (
            (person is null ? Everybody.FirstOrDefault() : Everybody.FirstOrDefault(one => one.SignIn == person)) is not { } found
            || await people.ViewerAsync(found.Id, cancel) is not { } viewer
        )
            return NotFound();
        Person = found;
        var catalogue = IsDraft ? await drafts.CatalogueAsync(cancel) : request.Catalogue;
        var mine = catalogue.RecordTypes.Where(type => request.Views.WorksAt(type.Code)).ToList();
        Unknown = [.. mine.Where(type => !viewer.MayRead(type))];
        Types = [.. mine.Where(viewer.MayRead).Select(type => Of(viewer, type))];
        return Page();
    }

    private static PersonAtType Of(Viewer viewer, RecordType type)
    {
        var access = viewer.AccessAt(type);
        var at = access.For(type);
        var rights = new[] { ("read", at.Read), ("create", at.Create), ("change", at.Change), ("delete", at.Delete) }
            .Where(right => right.Item2.IsPossible)
            .Select(right => (right.Item1, right.Item2.IsConditional))
            .ToList();
        var fields = type.Parts.SelectMany(part => part.Fields).Select(field => (Field: field, Of: access.For(field)));
        return new(
            type,
            rights,
            [
                .. fields
                    .GroupBy(field => field.Of.AtMost)
                    .OrderByDescending(group => group.Key)
                    .Select(group =>
                        (
                            group.Key,
                            (IReadOnlyList<(Field, bool)>)
                                [.. group.Select(one => (one.Field, one.Of.IsConditional && type.Guarding.IsAbout(one.Field)))]
                        )
                    ),
            ]
        );
    }
}
