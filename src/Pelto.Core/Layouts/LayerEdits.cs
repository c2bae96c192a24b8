namespace Pelto.Core.Layouts;

/// <summary>Puts operations into layers, so that each says a thing once.</summary>
public static class LayerEdits
{
    /// <summary>
    /// The layer with one more operation at its end. What it said before of the same thing, in the same moments and under the same
    /// condition, goes: only the last word would count.
    /// </summary>
    public static Layer With(this Layer layer, LayerOperation operation)
    {
        // What was made here stays made: its first operation says what it is.
        var made = layer.Operations.FirstOrDefault(old => old.Part == operation.Part && old.New is not null);
        if (made is not null && operation is { Op: LayerOperation.Put or LayerOperation.Move, New: null, On: null, When: null })
            return layer with { Operations = [.. layer.Operations.Where(old => old != made && !Replaces(operation, old)), made with { After = operation.After, Width = operation.Width ?? made.Width }] };
        if (made is not null && operation is { Op: LayerOperation.Resize, On: null, When: null }) return layer with { Operations = [.. layer.Operations.Select(old => old == made ? made with { Width = operation.Width } : old)] };
        if (made is not null && operation is { Op: LayerOperation.Relabel, On: null, When: null }) return layer with { Operations = [.. layer.Operations.Select(old => old == made ? made with { Label = operation.Label, Texts = operation.Texts } : old)] };
        return layer with { Operations = [.. layer.Operations.Where(old => !Replaces(operation, old)), operation] };
    }

    /// <summary>The layer without an operation, and without what is said of a part that it made.</summary>
    /// <param name="layer">The layer.</param>
    /// <param name="index">Which of its operations.</param>
    public static Layer Without(this Layer layer, int index)
    {
        if (index < 0 || index >= layer.Operations.Count) return layer;
        var gone = layer.Operations[index];
        return layer with { Operations = [.. layer.Operations.Where((operation, i) => i != index && (gone.New is null || operation.Part != gone.Part))] };
    }

    private static bool Replaces(LayerOperation operation, LayerOperation old) =>
        old.New is null && old.Part == operation.Part && old.On == operation.On && old.When == operation.When && old.Aspect == operation.Aspect && !(operation.Op == LayerOperation.Move && old.Op is LayerOperation.Hide or LayerOperation.Show) && !(operation.Op is LayerOperation.Hide or LayerOperation.Show && old.Op == LayerOperation.Move);
}
