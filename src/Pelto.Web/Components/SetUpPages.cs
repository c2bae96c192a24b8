using Pelto.Core.Access;

namespace Pelto.Web.Components;

/// <summary>The pages of set-up, and who works there.</summary>
internal static class SetUpPages
{
    private static readonly string[] InSetUp = [Works.Define, Works.Query, Works.Grant, Works.Publish];

    private static readonly (string Title, string Page, string[] Works)[] All =
    [
        ("Fields", "fields", [Works.Define]),
        ("Arrange", "arrange", [Works.Arrange]),
        ("Shortcuts", "shortcuts", [Works.Arrange]),
        ("Access", "access", [Works.Grant]),
        ("People", "people", [Works.People]),
        ("Record types", "types", [Works.Define]),
        ("Choice lists", "lists", [Works.Define]),
        ("Queries", "queries", [Works.Query]),
        ("Map", "map", InSetUp),
        ("Register", "register", InSetUp),
        ("Draft", "draft", InSetUp),
        ("Releases", "releases", InSetUp),
        ("ERP version", "update", []),
        ("Audit", "audit", []),
        ("Jobs", "jobs", InSetUp),
    ];

    /// <summary>Those that somebody works on, in the order of the menu; a page without a work is for administrators.</summary>
    public static IEnumerable<(string Title, string Address, string Here)> Of(Viewer viewer) =>
        All.Where(page => WorkRights.All(viewer) || page.Works.Any(viewer.May))
            .Select(page => (page.Title, $"/setup/{page.Page}", page.Page));
}
