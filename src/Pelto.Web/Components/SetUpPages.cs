namespace Pelto.Web.Components;

/// <summary>The pages of set-up, and who works there.</summary>
internal static class SetUpPages
{
    private static readonly string[] InSetUp = [AdminWork.Define, AdminWork.Query, AdminWork.Grant, AdminWork.Publish];

    private static readonly (string Title, string Page, string[] Work)[] All =
    [
        ("Fields", "fields", [AdminWork.Define]),
        ("Arrange", "arrange", [AdminWork.Arrange]),
        ("Shortcuts", "shortcuts", [AdminWork.Arrange]),
        ("Access", "access", [AdminWork.Grant]),
        ("People", "people", [AdminWork.People]),
        ("Record types", "types", [AdminWork.Define]),
        ("Choice lists", "lists", [AdminWork.Define]),
        ("Queries", "queries", [AdminWork.Query]),
        ("Map", "map", InSetUp),
        ("Register", "register", InSetUp),
        ("Draft", "draft", InSetUp),
        ("Releases", "releases", InSetUp),
        ("ERP version", "update", []),
        ("Audit", "audit", []),
        ("Jobs", "jobs", InSetUp),
    ];

    /// <summary>Those that somebody works on, in the order of the menu; a page without a work is for administrators.</summary>
    public static IEnumerable<(string Title, string Address, string Here)> For(Viewer viewer) =>
        All.Where(page => AdminRights.All(viewer) || page.Work.Any(viewer.May))
            .Select(page => (page.Title, $"/setup/{page.Page}", page.Page));
}
