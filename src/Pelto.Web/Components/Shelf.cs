using Pelto.Core.Formulas;

namespace Pelto.Web.Components;

/// <summary>Something that could be put on a screen.</summary>
/// <param name="Id">What an operation of a layer calls it: the id of a field, a section or a list.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Code">Its code, which it is found by too.</param>
/// <param name="From">Where it is now, or comes from, in a word or two.</param>
/// <param name="Kind">One of <c>field</c>, <c>column</c>, <c>section</c>, <c>page</c>, <c>list</c>, <c>seen</c>.</param>
/// <param name="Again">True when it stands on the screen already, and would stand there once more.</param>
/// <param name="Note">What is to be known before it is put somewhere, such as that the ERP locks it.</param>
/// <param name="IsAdded">True for what the site added.</param>
public sealed record ShelfItem(string Id, string Label, string Code, string From, string Kind, bool Again, string? Note, bool IsAdded)
{
    /// <summary>How wide it would stand.</summary>
    public int Width { get; init; } = 3;

    /// <summary>True for what becomes a field when it is put somewhere.</summary>
    public bool IsMade { get; init; }
}

/// <summary>All that could be put on a screen, and does not stand there; and what stands on another page.</summary>
public static class Shelf
{
    // A link shows much through it; the search finds the rest by its path.
    private const int MaxThroughLinks = 60;

    /// <summary>What is on the shelf.</summary>
    /// <param name="type">The record type, as the draft has it.</param>
    /// <param name="screen">Its screen.</param>
    /// <param name="viewer">Who looks.</param>
    public static IReadOnlyList<ShelfItem> For(RecordType type, Resolved screen, Viewer viewer)
    {
        var items = new List<ShelfItem>();
        var shown = screen.Layout.Places.Select(place => place.Field).ToHashSet();
        foreach (var page in type.Description.Screen.Pages)
        {
            if (screen.Hidden.ContainsKey(page.Id))
                items.Add(new(page.Id, screen.NameOf(page.Id), page.Id, "hidden page", "page", false, null, false));
            items.AddRange(
                page.Sections.Where(section => screen.Hidden.ContainsKey(section.Id))
                    .Select(section => new ShelfItem(
                        section.Id,
                        screen.NameOf(section.Id),
                        section.Id,
                        "hidden section",
                        "section",
                        false,
                        null,
                        false
                    ))
            );
        }

        foreach (
            var field in type
                .Parts.SelectMany(part => part.Fields)
                .Where(field => !shown.Contains(field) && viewer.LevelAt(field) >= AccessLevel.Read)
        )
            items.Add(
                Item(
                    field,
                    screen.Hidden.ContainsKey(field.Id) ? "hidden here"
                        : field.IsAdded ? "added"
                        : "built in",
                    viewer,
                    again: false
                )
            );
        foreach (var link in type.PointedBy.Where(link => screen.Layout.Sections.All(section => section.Pointing != link)))
            items.Add(
                new(
                    LayoutSection.IdOf(link),
                    $"{link.Part.RecordType.Plural} by {link.Label}",
                    link.Code,
                    screen.Layout.HiddenLists.Contains(link) ? "hidden list" : "list below",
                    "list",
                    false,
                    null,
                    link.IsAdded
                )
                {
                    Width = 12,
                }
            );

        // The same field may stand once more, on another page or further up.
        foreach (
            var (page, place) in screen
                .Layout.Pages.SelectMany(page => page.Sections.SelectMany(section => section.Places.Select(place => (page, place))))
                .Where(pair =>
                    !pair.place.IsAgain && !pair.place.Field.Part.IsLines && viewer.LevelAt(pair.place.Field) >= AccessLevel.Read
                )
        )
            items.Add(Item(place.Field, $"on {page.LabelIn(viewer.Locale)}", viewer, again: true));
        items.AddRange(ThroughLinks(type, viewer).Take(MaxThroughLinks));
        return items;
    }

    /// <summary>What could be a column of a list, and is none.</summary>
    /// <param name="list">The list, as the draft has it.</param>
    /// <param name="shown">What it shows.</param>
    /// <param name="viewer">Who looks.</param>
    public static IReadOnlyList<ShelfItem> For(ListOf list, Resolved shown, Viewer viewer)
    {
        var columns = shown.Layout.Places.Select(place => place.Field).ToHashSet();
        return
        [
            .. list
                .Type.Header.Fields.Where(field =>
                    !columns.Contains(field) && !field.Kind.IsSecret && viewer.LevelAt(field) >= AccessLevel.Read
                )
                .Select(field => new ShelfItem(
                    list.IdOf(field),
                    field.TextIn(viewer.Locale).Heading,
                    field.Code,
                    shown.Hidden.ContainsKey(list.IdOf(field)) ? "hidden here"
                        : field.IsThroughLink ? "seen"
                        : field.IsComputed ? "computed"
                        : field.IsAdded ? "added"
                        : "built in",
                    "column",
                    false,
                    null,
                    field.IsAdded
                )),
            .. ThroughLinks(list.Type, viewer)
                .Take(MaxThroughLinks)
                .Select(seen =>
                    seen with
                    {
                        Id = (list.By is null ? ListOf.Prefix : list.Id) + seen.Id,
                        Kind = "column",
                        Note = null,
                        IsMade = true,
                    }
                ),
        ];
    }

    private static ShelfItem Item(Field field, string from, Viewer viewer, bool again) =>
        new(
            field.Id,
            field.TextIn(viewer.Locale).Label,
            field.Code,
            from,
            field.Part.IsLines ? "column" : "field",
            again,
            LockedBy(field),
            field.IsAdded
        )
        {
            Width = field.Kind.Width,
        };

    /// <summary>Why nobody can type in a field wherever it stands; null when people can.</summary>
    public static string? LockedBy(Field field) =>
        field.Numbering is not null ? "The ERP numbers it: it is shown, not typed."
        : field.IsMaintained ? "The ERP maintains it: it is shown, not typed."
        : field.IsThroughLink ? "It is seen through a link: it is shown, not typed."
        : field.IsTyped ? null
        : $"{(field.Formula is null ? "A query" : "A formula")} fills it: it is shown, not typed.";

    private static IEnumerable<ShelfItem> ThroughLinks(RecordType type, Viewer viewer) =>
        from link in type.Header.Fields
        where link is { Kind.IsOneLink: true, IsThroughLink: false, Target: not null } && viewer.MayRead(link.Target)
        from field in link.Target!.Header.Fields
        where
            field is { IsStored: true, IsThroughLink: false, Kind: { StaysWithRecord: false, IsSeveralLinks: false } }
            && field != link.Target!.Identifier
            && viewer.LevelAt(field) >= AccessLevel.Read
            && type.Header.FieldsThroughLinks.All(seen => !seen.Path.SequenceEqual([link, field]))
        select new ShelfItem(
            $"{link.Code}.{field.Code}",
            field.TextIn(viewer.Locale).Label,
            $"{link.Code}.{field.Code}",
            $"through {link.TextIn(viewer.Locale).Label}",
            "seen",
            false,
            "It is seen through a link: it is shown, not typed.",
            field.IsAdded
        )
        {
            Width = field.Kind.Width,
        };
}
