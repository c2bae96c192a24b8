using System.Text.Json;
using Pelto.Data.Storage;

namespace Pelto.Web.Pages;

/// <summary>Arranging a screen or a list for oneself: the same as for others, of what is live, kept at once.</summary>
public sealed class PersonalArrangeModel(
    CurrentRequest request,
    ArrangedScreens screens,
    FactsReader facts,
    PersonalArrangements arrangements
) : ArrangePage(request, screens, facts)
{
    private Layer layer = new();
    private RecordType? type;

    /// <inheritdoc/>
    public override string Path => "/account/arrange";

    /// <inheritdoc/>
    public override bool IsOwn => true;

    /// <inheritdoc/>
    protected override bool MayArrange => Current.Viewer.May(AdminWork.ArrangeOwn);

    /// <inheritdoc/>
    public override IReadOnlyList<LayerOperation> Operations => Layer.Operations;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Refusals =>
        [.. Screen.Clashes.Where(clash => clash.Layer.Id == Layer.Id).Select(clash => clash.Sentence).Distinct()];

    /// <summary>True when the administrator leaves this to people.</summary>
    public bool IsAllowed =>
        PersonalArrangement.MayArrange(Type.Screens.LayersOf(Current.Viewer), List?.Id ?? PersonalArrangement.ScreenId(Type));

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
        var before = Current.Viewer.PersonalLayer?.Invoke(found) ?? PersonalArrangements.Nothing(Current.Viewer.Id);
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
            return said is null || !PersonalArrangement.Allows(said) ? null : before.With(said).Operations;
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
            now => now.With(layer with { Operations = [.. layer.Operations.Where(operation => !IsHere(operation))] }),
            "back to standard"
        );

    /// <inheritdoc/>
    protected override bool IsMine(RecordType type) => true;

    /// <inheritdoc/>
    protected override async Task<Arrangeable> ReadAsync(ArrangeAddress at)
    {
        type = Current.Find(at.Type ?? "");
        layer = (type is null ? null : (await arrangements.OfAsync(Current.Viewer.Id))(type))
            ?? PersonalArrangements.Nothing(Current.Viewer.Id);
        return new(Current.Catalogue.Site.With(layer), Current.Catalogue, layer.Operations.Count);
    }

    /// <inheritdoc/>
    protected override Layer? Choose(ArrangeAddress at) => type is null ? null : layer;

    /// <inheritdoc/>
    protected override Task<IReadOnlyList<Layer>> LaidAsync() =>
        Task.FromResult(Type.Screens.LayersOf(Current.Viewer with { PersonalLayer = _ => layer }));

    /// <inheritdoc/>
    /// <remarks>Of a screen: what people hid from themselves.</remarks>
    protected override IReadOnlyList<ShelfItem> FindShelf()
    {
        if (List is not null)
            return [.. Components.Shelf.For(List, Screen, Current.Viewer).Where(item => !item.IsMade)];
        return
        [
            .. Components
                .Shelf.For(Type, Screen, Current.Viewer)
                .Where(item => !item.Again && Screen.Hidden.ContainsKey(item.Id) && Hides(item.Id)),
        ];
    }

    /// <inheritdoc/>
    protected override Task KeepAsync(Func<SiteDefinition, SiteDefinition> change, string what) =>
        type is null
            ? Task.CompletedTask
            : arrangements.SaveAsync(
                Current.Viewer,
                type,
                change(Current.Catalogue.Site.With(layer)).FindLayer(layer.Id)?.Operations ?? []
            );

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
