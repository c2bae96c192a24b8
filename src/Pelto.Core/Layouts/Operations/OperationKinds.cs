namespace Pelto.Core.Layouts;

/// <summary>All kinds of operations of layers.</summary>
public static class OperationKinds
{
    /// <summary>All of them, in the order in which people read of them.</summary>
    public static IReadOnlyList<OperationKind> All { get; } =
    [
        new PutOperation(),
        new MoveOperation(),
        new HideOperation(),
        new ShowOperation(),
        new RelabelOperation(),
        new ResizeOperation(),
        new LockOperation(),
        new RequireOperation(),
        new TabOperation(),
        new SortOperation(),
        new FoldOperation(),
        new PersonalOperation(),
        new RowOperation(),
        new TintOperation(),
    ];

    private static readonly Dictionary<string, OperationKind> ByName = All.ToDictionary(kind => kind.Name, StringComparer.Ordinal);

    /// <summary>The kind that definitions call so; null when there is none.</summary>
    public static OperationKind? Find(string name) => ByName.GetValueOrDefault(name);

    /// <summary>That there is no such kind, as a sentence.</summary>
    public static string Unknown(string name) =>
        $"There is no placement “{name}”; there are {string.Join(", ", All.Select(kind => kind.Name))}.";
}
