namespace Pelto.Web.Pages;

/// <summary>The record on which a field is shown that is being defined.</summary>
/// <param name="Record">As it is on file; null when there is none.</param>
/// <param name="Shown">As the draft would hold it.</param>
/// <param name="Refusal">That the one that was asked for is not there.</param>
public sealed record FieldPreview(RecordState? Record, RecordState Shown, string? Refusal)
{
    /// <summary>What people call it; or what stands in for it.</summary>
    public string Title => Record?.Title ?? "no record on file yet";
}

/// <summary>Shows a field that is being defined on a real record, among those that stand beside it.</summary>
public sealed class FieldPreviews(CurrentRequest request, PreviewRecords records, RecordForms forms, OfferProofs offers)
{
    // Beside the definition there is room for few fields and few lines.
    private const int MaxPlaces = 9;
    private const int MaxColumns = 4;
    private const int MaxLines = 3;

    /// <summary>The sections in which a field stands, each with the places around it.</summary>
    public IReadOnlyList<LayoutSection> SectionsOf(Field field) =>
        [
            .. field
                .Part.RecordType.Screen.Layout.Sections.Where(section => section.Places.Any(place => place.Field == field))
                .Select(section => Near(section, field)),
        ];

    /// <summary>Finds the record on which it is shown.</summary>
    /// <param name="field">The field as it would be.</param>
    /// <param name="asked">What people call the record that is asked for; empty for the newest.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<FieldPreview> OpenAsync(Field field, string asked, CancellationToken cancel)
    {
        var (type, viewer) = (field.Part.RecordType, request.Viewer);
        var (record, refusal) = ((RecordState?)null, (string?)null);
        if (request.Catalogue.Find(type.Code) is { } live)
        {
            record = asked.Length == 0 ? null : await records.FindAsync(live, asked, viewer, cancel);
            if (record is null && asked.Length > 0)
                refusal = $"There is no {type.Label.ToLowerInvariant()} {asked}: it is shown on the newest.";
            record ??= await records.NewestAsync(live, viewer, cancel);
        }

        return new(record, await records.DraftedAsync(type, record, viewer, cancel), refusal);
    }

    /// <summary>Draws it, for nobody to type in. What is calculated over all lines has to be by then: few of them are left.</summary>
    public async Task<RecordForm> DrawAsync(Field field, FieldPreview preview)
    {
        foreach (var lines in preview.Shown.Lines.Where(lines => lines.Count > MaxLines))
            lines.RemoveRange(MaxLines, lines.Count - MaxLines);
        return await forms.PreviewAsync(preview.Shown, draftField: field.Id);
    }

    /// <summary>What a link with a condition would offer on real records.</summary>
    public async Task<IReadOnlyList<OfferProof>> OffersAsync(Field field, FieldPreview preview, CancellationToken cancel) =>
        field.Narrowing is null || request.Catalogue.Find(field.Part.RecordType.Code) is not { } live
            ? []
            : await offers.OfAsync(field, live, preview.Record, static (shown, record) => record.CopyTo(shown), request.Viewer, cancel);

    private LayoutSection Near(LayoutSection section, Field field)
    {
        var places = section.Places.Where(place => place.Field == field || request.Views.Sees(place.Field)).ToList();
        var most = section.Lines is null ? MaxPlaces : MaxColumns;
        var at = places.FindIndex(place => place.Field == field);
        return section with { Items = [.. places.Skip(Math.Clamp(at - (most / 2), 0, Math.Max(0, places.Count - most))).Take(most)] };
    }
}
