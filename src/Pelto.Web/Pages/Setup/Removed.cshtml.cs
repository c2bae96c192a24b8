using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Pelto.Web.Pages;

/// <summary>What removed fields held: to download, and to bring back with the field.</summary>
public sealed class RemovedModel(CurrentRequest request, PeltoContext context, Drafts drafts) : PageModel
{
    private SiteDefinition site = SiteDefinition.Nothing;

    /// <summary>The saved data, newest first, without what it holds.</summary>
    public IReadOnlyList<SavedDataRow> Rows { get; private set; } = [];

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>True when a field can be brought back: its definition is kept, and no field has its id or code again.</summary>
    public bool MayComeBack(SavedDataRow row) => row.Definition.Length > 0 && site.Find(row.Field.Split('@')[0]) is null;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        site = (await drafts.ReadAsync()).Site;
        Rows = await context
            .SavedData.AsNoTracking()
            .OrderByDescending(row => row.SavedAt)
            .Select(row => new SavedDataRow
            {
                Id = row.Id,
                Field = row.Field,
                Label = row.Label,
                RecordType = row.RecordType,
                Part = row.Part,
                Definition = row.Definition,
                Count = row.Count,
                SavedAt = row.SavedAt,
            })
            .ToListAsync();
    }

    /// <summary>Gives the file.</summary>
    public async Task<IActionResult> OnGetFileAsync(Guid id) =>
        await context.SavedData.FindAsync(id) is { } row
            ? File(
                Encoding.UTF8.GetBytes(row.Csv),
                "text/csv",
                $"{row.Field.Split('@')[0]}-{row.RecordType}-{row.SavedAt:yyyyMMdd-HHmm}.csv"
            )
            : NotFound();

    /// <summary>Brings the field back in the draft; its data is read back once it is live.</summary>
    public async Task<IActionResult> OnPostBackAsync(Guid id)
    {
        site = (await drafts.ReadAsync()).Site;
        if (await context.SavedData.FindAsync(id) is not { } row || !MayComeBack(row))
            return NotFound();
        var field = JsonSerializer.Deserialize<FieldDefinition>(row.Definition, SiteDefinition.Json)! with
        {
            Retired = false,
            ReadBack = true,
            FillExisting = false,
            DropsEarlier = false,
        };
        await drafts.ChangeAsync(
            now => now.With(field) with { Removed = [.. now.Removed.Where(removed => removed.Id.Split('@')[0] != field.Id)] },
            $"Brought back {field.Label}",
            request.Viewer
        );
        return Redirect("/setup/draft");
    }
}
