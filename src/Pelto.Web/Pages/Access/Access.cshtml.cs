using Pelto.Core.Elements;
using Pelto.Core.Formulas;

namespace Pelto.Web.Pages;

/// <summary>A cell of the table of fields by roles.</summary>
/// <param name="Role">The role.</param>
/// <param name="Word">The level in a word.</param>
/// <param name="IsByRecord">True when the record decides.</param>
/// <param name="Differs">True when it is not what there would be without guards and grants.</param>
public sealed record AccessCell(RoleDescription Role, string Word, bool IsByRecord, bool Differs);

/// <summary>Access: who has which level at what, as a table of fields by roles, and the guards and grants that make it so.</summary>
public sealed class AccessModel(
    CurrentRequest request,
    Drafts drafts,
    Catalogues catalogues,
    People people,
    AccessGaps gaps,
    Confirming confirming
) : PageModel
{
    private static readonly string[] Shows = ["all", "guarded", "differs"];

    private Catalogue catalogue = default!;
    private Guarding start = default!;
    private SiteDefinition site = SiteDefinition.Nothing;

    /// <summary>The record type, as the draft has it.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>All record types.</summary>
    public IReadOnlyList<RecordType> Types => [.. catalogue.RecordTypes.Where(type => request.Views.WorksAt(type.Code))];

    /// <summary>The roles, each a column.</summary>
    public IReadOnlyList<RoleDescription> Roles => catalogue.Host.Roles;

    /// <summary>The companies, to which something can be granted too.</summary>
    public IReadOnlyList<CompanyDescription> Companies => catalogue.Host.Companies;

    /// <summary>Everybody.</summary>
    public IReadOnlyList<PersonToPick> Everybody { get; private set; } = [];

    /// <summary>Which rows are shown: <c>all</c>, <c>guarded</c> or <c>differs</c>.</summary>
    public string Show { get; private set; } = "all";

    /// <summary>What stands in the inputs.</summary>
    public GrantInput Input { get; private set; } = new();

    /// <summary>What is wrong with it.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>Why a role has the level that it has, where a cell was chosen.</summary>
    public AccessExplanation? Why { get; private set; }

    /// <summary>The field of that cell.</summary>
    public Field? Highlighted { get; private set; }

    /// <summary>Gaps in all guards and grants of the draft.</summary>
    public IReadOnlyList<AccessGap> Gaps { get; private set; } = [];

    /// <summary>The draft's version.</summary>
    public long Version { get; private set; }

    /// <summary>What was done just now.</summary>
    public string? Message { get; private set; }

    /// <summary>The guards of this record type and its fields.</summary>
    public IEnumerable<Guard> Guards => site.Guards.Where(guard => IsHere(guard.On));

    /// <summary>The grants about this record type and its fields.</summary>
    public IEnumerable<Grant> Grants => site.Grants.Where(grant => grant.On.Any(IsHere));

    /// <summary>True when the draft says something else of a guard or grant than what is live.</summary>
    public bool IsInDraft(object element) =>
        element switch
        {
            Guard guard => !SiteDefinition.Same(request.Catalogue.Site.GuardOf(guard.On), guard),
            Grant grant => !SiteDefinition.Same(request.Catalogue.Site.FindGrant(grant.Id), grant),
            _ => false,
        };

    /// <summary>A grant in words.</summary>
    public string Words(Grant grant) => GrantWords.Sentence(catalogue, grant);

    /// <summary>What something is called.</summary>
    public string Named(string on) => GrantWords.Named(catalogue, on);

    /// <summary>The address of this page with something else chosen.</summary>
    public string Address(string? show = null, string? field = null, string? role = null, string? grant = null, string? type = null) =>
        "/setup/access?"
        + string.Join(
            '&',
            new[] { ("type", type ?? Type.Code), ("show", show ?? Show), ("field", field), ("role", role), ("grant", grant) }
                .Where(pair => !string.IsNullOrEmpty(pair.Item2) && pair != ("show", "all"))
                .Select(pair => $"{pair.Item1}={Uri.EscapeDataString(pair.Item2!)}")
        )
        + (grant is not null ? "#grant" : "");

    /// <summary>What is chosen, as <see cref="Grant.On"/> names a field: an added one by its definition.</summary>
    public static string OnField(Field field) => field.Definition?.Id ?? field.Id;

    /// <summary>The parts of the record type with their fields, each field with its cells.</summary>
    public IEnumerable<(
        Part Part,
        IReadOnlyList<(string Section, IReadOnlyList<(Field Field, IReadOnlyList<AccessCell> Cells)> Rows)> Sections
    )> Parts()
    {
        foreach (var part in Type.Parts)
        {
            var sectionOf = Type
                .Screen.Layout.Sections.Where(section => section.Contains(part))
                .SelectMany(section => section.Places.Where(place => !place.IsAgain).Select(place => (place.Field, section.Label)))
                .DistinctBy(pair => pair.Field)
                .ToDictionary(pair => pair.Field, pair => pair.Label);
            var rows = part
                .Fields.Select(field => (Field: field, Cells: (IReadOnlyList<AccessCell>)[.. Roles.Select(role => Cell(role, field))]))
                .Where(row =>
                    Show switch
                    {
                        "guarded" => Type.Guarding.Restrains(row.Field),
                        "differs" => row.Cells.Any(cell => cell.Differs),
                        _ => true,
                    }
                );
            yield return (
                part,
                [
                    .. rows.GroupBy(row => sectionOf.GetValueOrDefault(row.Field, "On no screen"))
                        .Select(group => (group.Key, (IReadOnlyList<(Field, IReadOnlyList<AccessCell>)>)[.. group])),
                ]
            );
        }
    }

    /// <summary>The rights at the record type, each with its cells.</summary>
    public IEnumerable<(string Right, IReadOnlyList<AccessCell> Cells)> Rights() =>
        Grant.Rights.Select(right => (right, (IReadOnlyList<AccessCell>)[.. Roles.Select(role => Cell(role, right))]));

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(string? type, string? show, string? field, string? role, string? grant, string? said)
    {
        if (!await LoadAsync(type, show))
            return NotFound();
        Message = said;
        if (site.FindGrant(grant) is { } known)
            Input = GrantInput.From(known);
        else if (field is not null)
            Input.On.Add(field);
        if (role is not null && Input.Id.Length == 0)
            Input.To.Add($"role:{role}");
        Highlighted = field is null ? null : Type.Parts.SelectMany(part => part.Fields).FirstOrDefault(one => OnField(one) == field);
        if (Highlighted is { } asked && Roles.FirstOrDefault(one => one.Code == role) is { } asking)
            Why = WhyOf(Viewer.For(asking), asked, catalogue);
        return await ShownAsync();
    }

    /// <summary>Puts a guard or a grant in the draft; what makes no sense comes back with its reason, and nothing typed is lost.</summary>
    public async Task<IActionResult> OnPostAsync(string? type, string? show, [FromForm] GrantInput input)
    {
        if (!await LoadAsync(type, show))
            return NotFound();
        Input = input;
        if (input.Does == GrantInput.Guarding)
        {
            var guards = input
                .On.Select(on => new Guard
                {
                    On = on,
                    Ending = input.Ending && !on.StartsWith(Grant.TypePrefix, StringComparison.Ordinal),
                    Comment = input.Comment.Trim(),
                })
                .ToList();
            return await PutAsync(
                now => guards.Aggregate(now, static (now, guard) => now.With(guard)),
                guards.Select(guard => guard.On),
                guards.Count == 0
                    ? ""
                    : $"Guarded {GrantWords.Named(catalogue, guards[0].On)}{(guards.Count > 1 ? $" and {guards.Count - 1} more" : "")}"
            );
        }

        var grants = input.ToGrants().ToList();
        return await PutAsync(
            now => grants.Aggregate(now, static (now, grant) => now.With(grant)),
            grants.Select(grant => grant.Id),
            grants.Count == 0 ? "" : GrantWords.Sentence(catalogue, grants[0])
        );
    }

    /// <summary>Takes a guard or a grant out of the draft.</summary>
    public async Task<IActionResult> OnPostBackAsync(string? type, string? show, [FromForm] string? guard, [FromForm] string? grant)
    {
        if (!await LoadAsync(type, show))
            return NotFound();
        var what =
            site.FindGrant(grant) is { } known ? $"Took back: {Words(known)}"
            : guard is not null ? $"No longer guards {Named(guard)}"
            : null;
        if (what is null)
            return Redirect(Address());
        if (await confirming.IsRequiredAsync())
            return Redirect($"/account/confirm?returnUrl={Uri.EscapeDataString(Address())}");
        await drafts.ChangeAsync(
            now =>
                now with
                {
                    Guards = [.. now.Guards.Where(one => one.On != guard)],
                    Grants = [.. now.Grants.Where(one => one.Id != grant)],
                },
            what,
            request.Viewer
        );
        return Redirect($"{Address()}&said={Uri.EscapeDataString(what + ".")}");
    }

    /// <summary>Fields of this record type whose values on file came from what they do not read any more, with what that was.</summary>
    public IEnumerable<(FieldDefinition Field, string From)> Held =>
        site
            .Fields.Where(definition => definition.Places().Any(place => place.RecordType == Type.Code))
            .SelectMany(definition =>
                definition.HeldFrom.Where(from => GuardInheritance.Holds(catalogue, from)).Select(from => (definition, from))
            );

    /// <summary>Lets what the values of a field came from count no more.</summary>
    public async Task<IActionResult> OnPostFreeAsync(
        string? type,
        string? show,
        [FromForm] string? field,
        [FromForm] string? from,
        [FromForm] string? why
    )
    {
        if (!await LoadAsync(type, show))
            return NotFound();
        if (field is null || from is null || site.Find(field) is not { } known || !known.HeldFrom.Contains(from))
            return NotFound();
        if (string.IsNullOrWhiteSpace(why))
            Problems = [new(field, "why", "Say why it is opened: whoever reads it may learn what it came from.")];
        else if (await drafts.RefuseAsync(request.Viewer, site, Freed(site)) is { } refusal)
            Problems = [new(field, "why", refusal)];
        if (Problems.Count > 0 || !await confirming.IsDoneAsync(Request.Form, "free"))
            return await ShownAsync();
        await drafts.ChangeAsync(Freed, $"No longer kept by what it came from: {known.Label} ({why!.Trim()})", request.Viewer);
        return Redirect(
            $"{Address()}&said={Uri.EscapeDataString($"In the draft: {known.Label} is no longer kept from whoever may not read {Named(from)}.")}"
        );

        SiteDefinition Freed(SiteDefinition now) =>
            now.Find(field) is { } held ? now.With(held with { HeldFrom = [.. held.HeldFrom.Where(one => one != from)] }) : now;
    }

    /// <summary>Names that can stand in a condition.</summary>
    public async Task<IActionResult> OnPostNamesAsync(string? type, [FromForm] GrantInput input, [FromForm] string? text, [FromForm] int at)
    {
        if (!await LoadAsync(type, null))
            return NotFound();
        var part = input
            .On.Select(on => Type.Parts.SelectMany(one => one.Fields).FirstOrDefault(field => OnField(field) == on)?.Part)
            .OfType<Part>()
            .FirstOrDefault()
            ?? Type.Header;
        return NamesFound.Answer(Completions.For(text ?? "", at, part, isShown: request.Views.Sees));
    }

    private async Task<IActionResult> PutAsync(Func<SiteDefinition, SiteDefinition> change, IEnumerable<string> elements, string what)
    {
        var mine = elements.ToHashSet(StringComparer.Ordinal);
        if (mine.Count == 0)
            Problems = [new("", "on", "Choose in the table what it is about: fields, sections or the record type.")];
        else
            Problems =
            [
                .. catalogues
                    .Build(change(site))
                    .Problems.Where(problem =>
                        mine.Contains(problem.Element)
                        && problem.Property is "on" or "to" or "level" or "may" or "when" or "comment" or "does" or "guards" or "ending"
                    ),
            ];
        if (Problems.Count == 0 && await drafts.RefuseAsync(request.Viewer, site, change(site)) is { } refusal)
            Problems = [new("", "on", refusal)];
        if (Problems.Count > 0 || !await confirming.IsDoneAsync(Request.Form, "grant"))
            return await ShownAsync();
        await drafts.ChangeAsync(change, what, request.Viewer);
        return Redirect($"{Address()}&said={Uri.EscapeDataString($"In the draft: {what}.")}");
    }

    private async Task<bool> LoadAsync(string? type, string? show)
    {
        var draft = await drafts.ReadAsync();
        (site, Version) = (draft.Site, draft.Version);
        catalogue = catalogues.Build(site);
        if ((type is null ? Types.FirstOrDefault() : Types.FirstOrDefault(one => one.Code == type)) is not { } found)
            return false;
        (Type, Show) = (found, Shows.Contains(show) ? show! : "all");
        start = catalogue.Guarding.Start();
        return true;
    }

    private async Task<IActionResult> ShownAsync()
    {
        Everybody = await people.AllAsync();
        Gaps = [.. (await gaps.OfAsync(catalogue)).Where(gap => request.Views.Sees(gap, site))];
        return Page();
    }

    private bool IsHere(string on) =>
        on == Grant.OnType(Type.Code) || Type.Parts.SelectMany(part => part.Fields).Any(field => OnField(field) == on || field.Id == on);

    private AccessCell Cell(RoleDescription role, Field field)
    {
        var viewer = Viewer.For(role);
        var of = viewer.AccessAt(Type).For(field);
        var isOwn = Type.Guarding.IsAbout(field);

        // What only follows the record type is said there.
        return new(
            role,
            of.AtMost.Word(),
            of.IsConditional && isOwn,
            of.AtMost != start.For(viewer).For(field).AtMost || (of.IsConditional && isOwn)
        );
    }

    private AccessCell Cell(RoleDescription role, string right)
    {
        var viewer = Viewer.For(role);
        static Decision Of(TypeAccess access, string right) =>
            right switch
            {
                "read" => access.Read,
                "create" => access.Create,
                "change" => access.Change,
                _ => access.Delete,
            };
        var of = Of(viewer.AccessAt(Type).For(Type), right);
        return new(
            role,
            of.IsPossible ? "yes" : "no",
            of.IsConditional,
            of.IsPossible != Of(start.For(viewer).For(Type), right).IsPossible || of.IsConditional
        );
    }

    private static AccessExplanation WhyOf(Viewer viewer, Field field, Catalogue catalogue) =>
        viewer.Explain(field, null, null, catalogue, viewer.LocksOf(field, null));
}
