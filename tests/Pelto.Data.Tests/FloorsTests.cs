using System.Reflection;
using ArchUnitNET.Loader;

namespace Pelto.Data.Tests;

/// <summary>Which folders may use which: each only those below it. The lists of what goes upward still only get shorter.</summary>
public sealed class FloorsTests
{
    // From the lowest to the highest.
    private static readonly string[] Core =
    [
        "Values",
        "Definitions",
        "Catalog",
        "Formulas",
        "Queries",
        "Rules",
        "States",
        "Fills",
        "Access",
        "Layouts",
        "Binding",
        "Maps",
        "Records",
        "Updates",
        "Releases",
        "Auditing",
        "Elements",
    ];

    private static readonly string[] CoreStill = [];

    private static readonly string[] Data =
    [
        "Database",
        "Definitions",
        "Auditing",
        "SigningIn",
        "Expressions",
        "Queries",
        "Records",
        "Storage",
        "Releases",
        "Rights",
        "Hosts",
        "Jobs",
    ];

    private static readonly string[] DataStill = [];

    [Fact(DisplayName = "In the core, each folder uses only those below it, but for what is listed, and nothing is listed that is not so")]
    public void Core_has_floors() => Holds(typeof(Catalogue).Assembly, Core, CoreStill);

    [Fact(DisplayName = "So it is where data is kept")]
    public void Data_has_floors() => Holds(typeof(Catalogues).Assembly, Data, DataStill);

    private static void Holds(Assembly assembly, string[] order, string[] still)
    {
        var upward = Upward(assembly, order).ToDictionary();
        Assert.True(
            still.SequenceEqual(upward.Keys.Order(StringComparer.Ordinal)),
            "These go upward, with some of what does: "
                + $"{string.Join("; ", upward.Select(use => $"{use.Key} ({use.Value})"))}. Listed: {string.Join(", ", still)}."
        );
    }

    // By what types and their bodies name.
    private static IEnumerable<(string Use, string Examples)> Upward(Assembly assembly, string[] order)
    {
        var root = assembly.GetName().Name!;
        var uses = new ArchLoader()
            .LoadAssembly(assembly)
            .Build()
            .Types.SelectMany(type => type.Dependencies)
            .Select(use =>
                (From: FolderOf(use.Origin.FullName), To: FolderOf(use.Target.FullName), What: $"{use.Origin.Name} of {use.Target.Name}")
            )
            .Where(use => use is { From: not null, To: not null } && use.From != use.To)
            .ToList();
        Assert.Empty(uses.Select(use => use.From!).Except(order));
        return uses.Where(use => Array.IndexOf(order, use.From) < Array.IndexOf(order, use.To))
            .GroupBy(use => $"{use.From} on {use.To}")
            .Select(group =>
                (group.Key, string.Join(", ", group.Select(use => use.What).Distinct().Order(StringComparer.Ordinal).Take(5)))
            );

        // Types that stand in no folder belong to all.
        string? FolderOf(string name) =>
            name.StartsWith(root + ".", StringComparison.Ordinal) && name[(root.Length + 1)..].Split('.') is [var folder, _, ..]
                ? folder
                : null;
    }
}
