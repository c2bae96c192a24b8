using Pelto.Core.Elements;

namespace Pelto.Web.Pages;

/// <summary>Defines many fields in one go, from a pasted table that is checked as a whole.</summary>
public sealed class SetModel(CurrentRequest request, Drafts drafts, Catalogues catalogues) : PageModel
{
    private SiteDefinition site = SiteDefinition.Nothing;

    /// <summary>All record types.</summary>
    public IReadOnlyList<RecordType> Types { get; private set; } = [];

    /// <summary>The one that the fields are for.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>What was pasted.</summary>
    public string Pasted { get; private set; } = "";

    /// <summary>What was read from it.</summary>
    public IReadOnlyList<ReadField> Read { get; private set; } = [];

    /// <summary>True once somebody asked to look.</summary>
    public bool IsAsked { get; private set; }

    /// <summary>Where a quotation mark is opened and not closed.</summary>
    public int? Unclosed { get; private set; }

    /// <summary>True when all of it can be taken.</summary>
    public bool IsGood => Read.Count > 0 && Unclosed is null && Read.All(row => row.Problems.Count == 0);

    /// <summary>What was done.</summary>
    public string? Message { get; private set; }

    /// <summary>Shows the page.</summary>
    public Task OnGetAsync(string? type) => LoadAsync(type, "");

    /// <summary>Reads the table and says what is wrong, taking nothing.</summary>
    public async Task OnPostLookAsync(string? type, string? pasted)
    {
        IsAsked = true;
        await LoadAsync(type, pasted);
    }

    /// <summary>Puts all of it in the draft; nothing of it when one row is wrong.</summary>
    public async Task<IActionResult> OnPostAsync(string? type, string? pasted)
    {
        IsAsked = true;
        await LoadAsync(type, pasted);
        if (!IsGood)
            return Page();
        await drafts.ChangeAsync(
            now => Read.Aggregate(now, (all, row) => all.With(row.Field)),
            $"Added a set of {Read.Count} fields to {Type.Plural.ToLowerInvariant()}",
            request.Viewer
        );
        return Redirect($"/setup/fields?type={Type.Code}&added={Read.Count}");
    }

    /// <summary>A kind with its size, in words.</summary>
    public string KindOf(FieldDefinition field) => FieldKinds.Make(site.Resolve(field), static (_, _) => { })?.Description ?? field.Kind;

    private async Task LoadAsync(string? type, string? pasted)
    {
        site = (await drafts.ReadAsync()).Site;
        var draft = catalogues.Build(site);
        Types = [.. draft.RecordTypes.Where(one => request.Views.WorksAt(one.Code)).DefaultIfEmpty(draft.RecordTypes[0])];
        Type = Types.FirstOrDefault(one => one.Code == type) ?? Types[0];
        Pasted = pasted ?? "";
        Unclosed = PastedTable.Unclosed(Pasted);
        Read = Unclosed is not null
            ? []
            : FieldSetReading.Read(PastedTable.Read(Pasted), Type, site, request.Catalogue.Host, request.Views);
    }
}
