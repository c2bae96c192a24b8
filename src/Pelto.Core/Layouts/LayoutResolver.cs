namespace Pelto.Core.Layouts;

/// <summary>Folds layers into a base screen. Pure: the same input gives the same screen.</summary>
public static class LayoutResolver
{
    /// <summary>
    /// Resolves the screen of a record type. An added field that no layer places stands at the end of its part, so that nothing defined is
    /// lost from sight.
    /// </summary>
    /// <param name="type">The record type.</param>
    /// <param name="layers">The layers of the audiences that somebody belongs to, in their order; later ones win.</param>
    /// <param name="mode">Whether a record is being added or changed.</param>
    /// <param name="holds">Whether the condition of an operation holds; null for the screen with all that can be on it.</param>
    public static Resolved Resolve(
        RecordType type,
        IEnumerable<Layer> layers,
        RecordMode mode = RecordMode.Changing,
        Func<LayerOperation, bool>? holds = null
    )
    {
        var laid = layers.DistinctBy(layer => layer.Id).ToList();
        var screen = new ScreenTree(
            type,
            laid.SelectMany(layer => layer.Operations)
                .Where(operation => operation.New is not null)
                .Select(operation => operation.Part)
                .ToHashSet(StringComparer.Ordinal)
        );
        foreach (var layer in laid)
        foreach (var operation in layer.Operations)
            if (Applies(operation, mode, holds ?? HoldsAtMost))
                screen.Apply(operation, layer);
        return screen.Result();
    }

    /// <summary>Resolves a list, in the same way: its columns stand in the one section of its one page.</summary>
    /// <param name="list">The list.</param>
    /// <param name="layers">The layers of the audiences that somebody belongs to, in their order; later ones win.</param>
    public static Resolved Resolve(ListOf list, IEnumerable<Layer> layers)
    {
        var tree = new ScreenTree(list);
        foreach (var layer in layers.DistinctBy(layer => layer.Id))
        foreach (var operation in layer.Operations.Where(operation => list.Knows(operation.Part)))
            tree.Apply(operation, layer);
        return tree.Result();
    }

    /// <summary>Taken for a condition that nobody can judge: what it would show is shown, and what it would hide is not hidden.</summary>
    public static bool HoldsAtMost(LayerOperation operation) =>
        operation.Op is not (LayerOperation.Hide or LayerOperation.Lock or LayerOperation.Require);

    /// <summary>
    /// The layers in the order in which they are laid over each other: by kind of audience, and within one kind as they stand in the
    /// definition.
    /// </summary>
    public static IEnumerable<Layer> InOrder(IEnumerable<Layer> layers) =>
        layers.Where(layer => layer.For is not null).OrderBy(layer => layer.For!.Kind);

    private static bool Applies(LayerOperation operation, RecordMode mode, Func<LayerOperation, bool> holds) =>
        operation.On is not { } on || on == (mode == RecordMode.Adding ? "adding" : "changing")
            ? string.IsNullOrWhiteSpace(operation.When) || holds(operation)
            : false;
}
