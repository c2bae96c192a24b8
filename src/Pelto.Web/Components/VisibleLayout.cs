namespace Pelto.Web.Components;

/// <summary>A layout as one person sees it on one record.</summary>
public static class VisibleLayout
{
    /// <summary>
    /// Without the places of what the person may not even know of, nor the sections and pages on which nothing else stands.
    /// </summary>
    /// <param name="layout">The layout of everyone with the same layers.</param>
    /// <param name="viewer">The person.</param>
    /// <param name="state">The record.</param>
    public static Layout VisibleTo(this Layout layout, Viewer viewer, RecordState state)
    {
        bool IsThere(LayoutItem item) => item is not LayoutPlace place || IsVisible(place, viewer, state);
        if (layout.Places.All(IsThere))
            return layout;
        return layout with
        {
            Pages =
            [
                .. from page in layout.Pages
                let sections = page
                    .Sections.Select(section => section with { Items = [.. section.Items.Where(IsThere)] })
                    .Where(section => section.Pointing is not null || section.Items.Count > 0)
                    .ToList()
                where sections.Count > 0 || page.Sections.Count == 0
                select page with
                {
                    Sections = sections,
                },
            ],
        };
    }

    private static bool IsVisible(LayoutPlace place, Viewer viewer, RecordState state)
    {
        if (!place.Field.Part.IsLines)
            return viewer.LevelAt(place.Field, state, null) > AccessLevel.None;
        if (viewer.LevelAt(place.Field) == AccessLevel.None)
            return false;
        var lines = state.LinesOf(place.Field.Part);
        return lines.Count == 0 || lines.Exists(line => viewer.LevelAt(place.Field, state, line) > AccessLevel.None);
    }
}
