using Microsoft.AspNetCore.Mvc;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Records;
using Pelto.Data.Releases;
using Pelto.Data.Storage;
using Pelto.Web.Components;

namespace Pelto.Web.Pages;

/// <summary>Arranging a screen or a list for oneself: the same as for others, of what is live, kept at once.</summary>
public sealed class OwnArrangeModel(CurrentRequest request, Drafts drafts, Catalogues catalogues, RecordForms forms, RecordStore store, RecordLists lists, People people, FactsReader facts, OwnArrangements arrangements) : ArrangeModel(request, drafts, catalogues, forms, store, lists, people, facts)
{
    private Layer own = new();
    private RecordType? type;

    /// <inheritdoc/>
    public override bool IsOwn => true;

    /// <inheritdoc/>
    protected override bool MayArrange => Current.Viewer.May(Works.ArrangeOwn);

    /// <inheritdoc/>
    public override string Path => "/account/arrange";

    /// <summary>True when the administrator leaves this to people.</summary>
    public bool IsAllowed => OwnArrangement.MayArrange(Type.Screens.LayersOf(Current.Viewer), List?.Id ?? OwnArrangement.ScreenId(Type));

    /// <summary>Where one comes from: the list, or the record.</summary>
    public string Back => List is { By: null } || RecordId.Length == 0 ? $"/records/{Type.Code}" : $"/records/{Type.Code}/{RecordId}";

    /// <summary>
    /// Carries out one operation from the list or the record itself, or goes back to the standard; gives what was there before, to undo it.
    /// </summary>
    public async Task<IActionResult> OnPostSayAsync(string type, [FromForm] string? operation, [FromForm] string? operations)
    {
        if (Current.Find(type) is not { } found) return NotFound();
        var before = Current.Viewer.Own?.Invoke(found) ?? OwnArrangements.Nothing(Current.Viewer.Id);
        try
        {
            if (operation is not null)
            {
                var said = System.Text.Json.JsonSerializer.Deserialize<LayerOperation>(operation, SiteDefinition.Json);
                if (said is null || !OwnArrangement.Allows(said)) return BadRequest();
                await arrangements.SaveAsync(Current.Viewer, found, before.With(said).Operations, HttpContext.RequestAborted);
            }
            else
            {
                await arrangements.SaveAsync(Current.Viewer, found, System.Text.Json.JsonSerializer.Deserialize<List<LayerOperation>>(operations ?? "[]", SiteDefinition.Json) ?? [], HttpContext.RequestAborted);
            }
        }
        catch (System.Text.Json.JsonException)
        {
            return BadRequest();
        }

        return new JsonResult(new { before = SiteDefinition.Text(before.Operations) });
    }

    /// <summary>Goes back to the standard, of the screen or of the list that is shown.</summary>
    public Task<IActionResult> OnPostStandardAsync(string? type, string? layer, string? record, string? on) =>
        DoAsync(type, layer, record, on, now => now.With(own with { Operations = [.. own.Operations.Where(operation => !IsHere(operation))] }), "Own arrangement: back to standard");

    /// <inheritdoc/>
    protected override async Task<(SiteDefinition Site, long Version, int Drafted, Catalogue Catalogue)> ReadAsync()
    {
        var asked = Request.Query["type"].ToString();
        type = Current.Find(asked);
        own = (type is null ? null : (await arrangements.OfAsync(Current.Viewer.Id))(type)) ?? OwnArrangements.Nothing(Current.Viewer.Id);
        return (Current.Catalogue.Site.With(own), own.Operations.Count, 0, Current.Catalogue);
    }

    /// <inheritdoc/>
    protected override Task KeepAsync(Func<SiteDefinition, SiteDefinition> change, string what) =>
        type is null ? Task.CompletedTask : arrangements.SaveAsync(Current.Viewer, type, change(Current.Catalogue.Site.With(own)).FindLayer(own.Id)?.Operations ?? []);

    /// <inheritdoc/>
    protected override Layer? Choose(string? layer, Layer everyone) => type is null ? null : own;

    /// <inheritdoc/>
    protected override Task<IReadOnlyList<Layer>> LaidAsync() =>
        Task.FromResult(Type.Screens.LayersOf(Current.Viewer with { Own = _ => own }));
}
