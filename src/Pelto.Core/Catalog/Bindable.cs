namespace Pelto.Core.Catalog;

/// <summary>
/// What stands in the catalogue, and what higher floors bind to it while it is built. Each keeps its own here, found by its type,
/// and shows it as a property of its own, so that the catalogue need not know of formulas, queries, guards and screens.
/// </summary>
public abstract class Bindable
{
    private object[] bound = [];

    /// <summary>What was bound of a type; null when nothing was.</summary>
    internal T? Bound<T>()
        where T : class
    {
        foreach (var one in bound)
            if (one is T found)
                return found;
        return null;
    }

    /// <summary>Binds something in place of what was bound of its type; null takes that away.</summary>
    internal void Bind<T>(T? value)
        where T : class => bound = [.. bound.Where(one => one is not T), .. value is null ? [] : new object[] { value }];
}
