namespace Pelto.Core.Access;

/// <summary>The kinds of work on Pelto itself.</summary>
public static class AdminWork
{
    /// <summary>Define fields, choice lists and record types.</summary>
    public const string Define = "define";

    /// <summary>Write queries.</summary>
    public const string Query = "query";

    /// <summary>Arrange screens and lists for others.</summary>
    public const string Arrange = "arrange";

    /// <summary>Arrange screens and lists for oneself.</summary>
    public const string ArrangeOwn = "arrange_own";

    /// <summary>Guard fields and give access.</summary>
    public const string Grant = "grant";

    /// <summary>Publish the draft.</summary>
    public const string Publish = "publish";

    /// <summary>Administer people, roles and rights.</summary>
    public const string People = "people";

    /// <summary>All of them, as people read them: somebody may ....</summary>
    public static IReadOnlyList<(string Code, string Words)> All { get; } =
    [
        (Define, "define fields"),
        (Query, "write queries"),
        (Arrange, "arrange for others"),
        (ArrangeOwn, "arrange for themselves"),
        (Grant, "give access"),
        (Publish, "publish"),
        (People, "administer people"),
    ];

    /// <summary>The work in the draft, which is one place for all.</summary>
    public static IReadOnlyList<string> InDraft { get; } = [Define, Query, Arrange, Grant, Publish];

    /// <summary>As people read it.</summary>
    public static string InWords(string work) => All.FirstOrDefault(one => one.Code == work).Words ?? work;

    /// <summary>True for work that can be limited to record types.</summary>
    public static bool HasTypes(string work) => work != People;

    /// <summary>
    /// True for work that can be limited to companies: for whom one arranges, to whom one gives access, whose people one administers. A
    /// definition is for everybody.
    /// </summary>
    public static bool HasCompanies(string work) => work is Arrange or Grant or Publish or People;
}

/// <summary>A right to work on Pelto itself.</summary>
/// <param name="Work">One of <see cref="AdminWork"/>.</param>
/// <param name="Types">The codes of the record types that it is limited to; none for all.</param>
/// <param name="Companies">The codes of the companies that it is limited to; none for all.</param>
public sealed record AdminRight(string Work, IReadOnlyList<string> Types, IReadOnlyList<string> Companies)
{
    /// <summary>A right without limits.</summary>
    public static AdminRight To(string work) => new(work, [], []);

    /// <summary>True when somebody with this right may touch this.</summary>
    public bool Covers(AdminAction touch) =>
        Work == touch.Work
        && (Types.Count == 0 || touch.Type == AdminAction.AnyType || (touch.Type is { } type && Types.Contains(type)))
        && (Companies.Count == 0 || touch.Companies?.All(Companies.Contains) == true);

    /// <summary>True when all that another right allows is allowed by this one.</summary>
    public bool Includes(AdminRight other) =>
        Work == other.Work
        && (Types.Count == 0 || (other.Types.Count > 0 && other.Types.All(Types.Contains)))
        && (Companies.Count == 0 || (other.Companies.Count > 0 && other.Companies.All(Companies.Contains)));
}

/// <summary>What a piece of work touches.</summary>
/// <param name="Work">One of <see cref="AdminWork"/>.</param>
/// <param name="Type">
/// The code of a record type; null where it is about all of them, <see cref="AnyType"/> where it does not matter which.
/// </param>
/// <param name="Companies">The companies whose people alone it is for; null for everybody.</param>
public sealed record AdminAction(string Work, string? Type, IReadOnlyList<string>? Companies = null)
{
    /// <summary>Stands for whichever record type somebody has the right for.</summary>
    public const string AnyType = "";

    /// <summary>What nobody but administrators does.</summary>
    public const string Administration = "administration";
}

/// <summary>Who may do which work on Pelto itself.</summary>
public static class AdminRights
{
    /// <summary>True when somebody may do this work somewhere.</summary>
    public static bool May(this Viewer viewer, string work) =>
        All(viewer) || (MayWork(viewer) && viewer.Rights.Any(right => right.Work == work));

    /// <summary>True when somebody may do this work at a record type, for everybody or for some.</summary>
    public static bool MayAt(this Viewer viewer, string work, string type) =>
        All(viewer)
        || (MayWork(viewer) && viewer.Rights.Any(right => right.Work == work && (right.Types.Count == 0 || right.Types.Contains(type))));

    /// <summary>True when somebody may touch this.</summary>
    public static bool May(this Viewer viewer, AdminAction touch) =>
        All(viewer) || (MayWork(viewer) && viewer.Rights.Any(right => right.Covers(touch)));

    /// <summary>True when somebody works in set-up at all.</summary>
    public static bool MaySetUp(this Viewer viewer) => AdminWork.InDraft.Append(AdminWork.People).Any(viewer.May);

    /// <summary>True when somebody may do all work: an administrator, not by a token that is limited.</summary>
    public static bool All(Viewer viewer) => viewer.IsAdministrator && MayWork(viewer);

    // Nobody outside works on Pelto, and no token that was not made for it.
    private static bool MayWork(Viewer viewer) => viewer.Form is null && viewer.Limits?.SetsUp != false;
}
