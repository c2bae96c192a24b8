using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Data.Definitions;
using Pelto.Data.Storage;
using Pelto.Web.Components;

namespace Pelto.Web.Pages;

/// <summary>Arranging a screen or a list for oneself: the same as for others, of what is live, kept at once.</summary>
public sealed class OwnArrangeModel(CurrentRequest request, ArrangedScreens screens, FactsReader facts, OwnArrangements arrangements)
    : ArrangePage(request, screens, facts)
{
    private Layer own = new();
    private RecordType? type;

    /// <inheritdoc/>
    public override string Path => "/account/arrange";

    /// <inheritdoc/>
    public override bool IsOwn => true;

    /// <inheritdoc/>
    protected override bool MayArrange => Current.Viewer.May(Works.ArrangeOwn);

    /// <inheritdoc/>
    public override IReadOnlyList<LayerOperation> Operations => Layer.Operations;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Refusals =>
        [.. Screen.Clashes.Where(clash => clash.Layer.Id == Layer.Id).Select(clash => clash.Sentence).Distinct()];

    /// <summary>True when the administrator leaves this to people.</summary>
    public bool IsAllowed => OwnArrangement.MayArrange(Type.Screens.LayersOf(Current.Viewer), List?.Id ?? OwnArrangement.ScreenId(Type));

    /// <summary>Where one comes from: the list, or the record.</summary>
    public string Back =>
        List is { By: null } || Shown.RecordId.Length == 0 ? $"/records/{Type.Code}" : $"/records/{Type.Code}/{Shown.RecordId}";

    /// <summary>
    /// Carries out one operation from the list or the record itself, or goes back to the standard; gives what was there before, to undo it.
    /// </summary>
    public async Task<IActionResult> OnPostSayAsync(string type, [FromForm] string? operation, [FromForm] string? operations)
    {
        if (Current.Find(type) is not { } found)
            return NotFound();
        var before = Current.Viewer.Own?.Invoke(found) ?? OwnArrangements.Nothing(Current.Viewer.Id);
        if (Wanted(before, operation, operations) is not { } said)
            return BadRequest();
        await arrangements.SaveAsync(Current.Viewer, found, said, HttpContext.RequestAborted);
        return new JsonResult(new { before = SiteDefinition.Text(before.Operations) });
    }

    // What is said from then on: what was, with one operation more; or all of it.
    private static IReadOnlyList<LayerOperation>? Wanted(Layer before, string? operation, string? operations)
    {
        try
        {
            if (operation is null)
                return JsonSerializer.Deserialize<List<LayerOperation>>(operations ?? "[]", SiteDefinition.Json) ?? [];
            var said = JsonSerializer.Deserialize<LayerOperation>(operation, SiteDefinition.Json);
            return said is null || !OwnArrangement.Allows(said) ? null : before.With(said).Operations;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>Goes back to the standard, of the screen or of the list that is shown.</summary>
    public Task<IActionResult> OnPostStandardAsync([FromQuery] ArrangeAddress at) =>
        DoAsync(
            at,
            now => now.With(own with { Operations = [.. own.Operations.Where(operation => !IsHere(operation))] }),
            "back to standard"
        );

    /// <inheritdoc/>
    protected override bool IsMine(RecordType type) => true;

    /// <inheritdoc/>
    protected override async Task<Arrangeable> ReadAsync(ArrangeAddress at)
    {
        type = Current.Find(at.Type ?? "");
        own = (type is null ? null : (await arrangements.OfAsync(Current.Viewer.Id))(type)) ?? OwnArrangements.Nothing(Current.Viewer.Id);
        return new(Current.Catalogue.Site.With(own), Current.Catalogue, own.Operations.Count);
    }

    /// <inheritdoc/>
    protected override Layer? Choose(ArrangeAddress at) => type is null ? null : own;

    /// <inheritdoc/>
    protected override Task<IReadOnlyList<Layer>> LaidAsync() =>
        Task.FromResult(Type.Screens.LayersOf(Current.Viewer with { Own = _ => own }));

    /// <inheritdoc/>
    /// <remarks>Of a screen: what people hid from themselves.</remarks>
    protected override IReadOnlyList<ShelfItem> FindShelf()
    {
        if (List is not null)
            return [.. Components.Shelf.Of(List, Screen, Current.Viewer).Where(item => !item.IsMade)];
        return
        [
            .. Components
                .Shelf.Of(Type, Screen, Current.Viewer)
                .Where(item => !item.Again && Screen.Hidden.ContainsKey(item.Id) && Hides(item.Id)),
        ];
    }

    /// <inheritdoc/>
    protected override Task KeepAsync(Func<SiteDefinition, SiteDefinition> change, string what) =>
        type is null
            ? Task.CompletedTask
            : arrangements.SaveAsync(Current.Viewer, type, change(Current.Catalogue.Site.With(own)).FindLayer(own.Id)?.Operations ?? []);

    /// <inheritdoc/>
    /// <remarks>What somebody hid from themselves is there again, and stands where they put it.</remarks>
    protected override SiteDefinition Put(SiteDefinition now, LayerOperation operation, ref string part)
    {
        var mine = LayerIn(now);
        if (List is not null || operation.Op != LayerOperation.Put)
            return now.With(mine.With(operation));
        var shown = mine with
        {
            Operations = [.. mine.Operations.Where(old => old.Part != operation.Part || old.Op != LayerOperation.Hide)],
        };
        return now.With(shown.With(operation with { Op = LayerOperation.Move }));
    }

    /// <inheritdoc/>
    protected override SiteDefinition Saying(SiteDefinition now, IReadOnlyList<LayerOperation> operations) =>
        now.With(LayerIn(now) with { Operations = operations });

    /// <inheritdoc/>
    protected override IEnumerable<LayerOperation> OfType() => Layer.Operations;

    private bool Hides(string part) => Layer.Operations.Any(operation => operation.Op == LayerOperation.Hide && operation.Part == part);
}
