namespace Pelto.Web.Pages;

/// <summary>A screen, or a list, that is being arranged, with what stands on it.</summary>
/// <param name="Screen">What is laid over each other.</param>
/// <param name="Title">The record that is shown, by its title; or what stands in for it.</param>
public sealed record ArrangedScreen(Resolved Screen, string Title)
{
    /// <summary>For a screen: the form of the record; null for a list.</summary>
    public RecordForm? Form { get; init; }

    /// <summary>The record's id in addresses; empty for a new one and for a list.</summary>
    public string RecordId => Form?.State.Id?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "";

    /// <summary>For a list: the columns that are shown.</summary>
    public IReadOnlyList<LayoutPlace> Columns { get; init; } = [];

    /// <summary>Its cells, row by row; null for what is in no table yet.</summary>
    public IReadOnlyList<IReadOnlyList<FieldView?>> Rows { get; init; } = [];
}

/// <summary>Shows what is arranged with what is on file.</summary>
public sealed class ArrangedScreens(CurrentRequest request, PreviewRecords records, RecordForms forms, RecordLists lists)
{
    private const int MaxRows = 12;

    // Enough to see how lines look.
    private const int MaxLines = 2;

    /// <summary>The screen of a record.</summary>
    /// <param name="type">Its type, with the layers that are arranged.</param>
    /// <param name="laid">The layers that make what is shown.</param>
    /// <param name="asked">The record that is asked for: its id, or what people call it; the newest where there is none such.</param>
    /// <param name="isAdding">True to show a new record.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<ArrangedScreen> OfRecordAsync(
        RecordType type,
        IReadOnlyList<Layer> laid,
        string? asked,
        bool isAdding,
        CancellationToken cancel
    )
    {
        var record = isAdding ? null : await FindAsync(type, asked, cancel);
        if (record is null)
        {
            var title = isAdding ? $"a new {type.Label.ToLowerInvariant()}" : "no record on file yet";
            return await DrawAsync(records.Fresh(type), laid, title, null);
        }

        var shown = await records.DraftedAsync(type, record, request.Viewer, cancel);

        // What is calculated over all lines is by now.
        IReadOnlyList<int> counts = [.. shown.Lines.Select(lines => lines.Count)];
        foreach (var lines in shown.Lines.Where(lines => lines.Count > MaxLines))
            lines.RemoveRange(MaxLines, lines.Count - MaxLines);
        return await DrawAsync(shown, laid, record.Title, counts);
    }

    /// <summary>A list, with rows as they are on file.</summary>
    /// <param name="type">The record type on whose screen, or for which, it is, with the layers that are arranged.</param>
    /// <param name="list">The list.</param>
    /// <param name="laid">The layers that make what is shown.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<ArrangedScreen> OfListAsync(RecordType type, ListOf list, IReadOnlyList<Layer> laid, CancellationToken cancel)
    {
        var screen = type.Screens.ListFor(list, laid);
        var columns = ListOrder.Visible(screen, request.Viewer);
        var shown = new ArrangedScreen(screen, "the first records of it") { Columns = columns };
        if (request.Catalogue.Find(list.Type.Code) is not { } live || !request.Viewer.MayRead(live))
            return shown;
        IReadOnlyList<Field?> fields = [.. columns.Select(place => live.TryFindField(place.Field.Id, out var field) ? field : null)];
        var asked = new ListQuery(live, OrderOf(screen, list, live), MaxRows) { Shown = fields.OfType<Field>() };
        var page = await lists.ReadAsync(asked, request.Viewer, cancel);
        FieldView? CellOf(ListRow row, Field? field) => field is null ? null : FieldView.InRow(row, field, request.Locale);
        return shown with
        {
            Rows = [.. page.Rows.Select(row => (IReadOnlyList<FieldView?>)[.. fields.Select(field => CellOf(row, field))])],
        };
    }

    private List<SortKey> OrderOf(Resolved screen, ListOf list, RecordType live)
    {
        var order = new List<SortKey>();
        foreach (var key in screen.Sorted)
            if (live.TryFindField(key.Column.Id, out var field) && request.Viewer.MayFind(field))
                order.Add(new(field, key.Descending));
        return order.Count > 0 ? order : [.. ListOrder.For(live, live.Screens.ListFor(list, []), request.Viewer)];
    }

    private async Task<ArrangedScreen> DrawAsync(RecordState shown, IReadOnlyList<Layer> laid, string title, IReadOnlyList<int>? counts)
    {
        var screen = shown.Type.Screens.For(laid, request.Viewer, shown);
        return new(screen, title) { Form = await forms.ArrangedAsync(shown, screen, counts) };
    }

    private async Task<RecordState?> FindAsync(RecordType type, string? asked, CancellationToken cancel)
    {
        if (request.Catalogue.Find(type.Code) is not { } live || !request.Viewer.MayRead(live))
            return null;
        if (await records.AtAsync(live, asked, request.Viewer, cancel) is { } at)
            return at;
        if (!string.IsNullOrWhiteSpace(asked) && await records.FindAsync(live, asked.Trim(), request.Viewer, cancel) is { } found)
            return found;
        return await records.NewestAsync(live, request.Viewer, cancel);
    }
}
