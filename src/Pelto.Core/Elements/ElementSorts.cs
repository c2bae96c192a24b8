namespace Pelto.Core.Elements;

/// <summary>The sorts of elements that a site defines, in the order in which a plan tells of them.</summary>
public static class ElementSorts
{
    /// <summary>Record types of the site's own.</summary>
    public static RecordTypeSort RecordTypes { get; } = new();

    /// <summary>Fields.</summary>
    public static FieldSort Fields { get; } = new();

    /// <summary>Queries.</summary>
    public static QuerySort Queries { get; } = new();

    /// <summary>Lists of choices.</summary>
    public static ChoiceListSort ChoiceLists { get; } = new();

    /// <summary>Those of which each has a page of its own, under its id: no two elements of them share one.</summary>
    public static IReadOnlyList<ElementSort> WithPage { get; } = [RecordTypes, Fields, ChoiceLists, Queries];

    /// <summary>All of them. A guard has the id of what it is on, so ids tell elements apart within a sort only.</summary>
    public static IReadOnlyList<ElementSort> All { get; } =
    [
        RecordTypes,
        Fields,
        new RemovedSort(),
        ChoiceLists,
        Queries,
        new LayerSort(),
        new GuardSort(),
        new GrantSort(),
        new RoleSort(),
        new ShortcutSort(),
    ];

    /// <summary>Whether somebody is shown the page of an element; null where the site has none of that id.</summary>
    /// <param name="site">The site.</param>
    /// <param name="id">Its id.</param>
    /// <param name="views">Who looks.</param>
    public static bool? IsShown(SiteDefinition site, string id, SiteViews views) =>
        WithPage.Select(sort => sort.IsShown(site, id, views)).FirstOrDefault(shown => shown is not null);
}
