namespace Pelto.Core.Layouts;

/// <summary>Puts operations into layers, so that each says a thing once.</summary>
public static class LayerEdits
{
    private const int MaxAlike = 99;

    /// <summary>
    /// The layer with one more operation at its end. What it said before of the same thing, in the same moments and under the same
    /// condition, goes: only the last word would count.
    /// </summary>
    public static Layer With(this Layer layer, LayerOperation operation)
    {
        // What was made here stays made: its first operation says what it is.
        var made = layer.Operations.FirstOrDefault(old => old.Part == operation.Part && old.New is not null);
        if (made is not null && operation is { Op: LayerOperation.Put or LayerOperation.Move, New: null, On: null, When: null })
            return layer with
            {
                Operations =
                [
                    .. layer.Operations.Where(old => old != made && !Replaces(operation, old)),
                    made with
                    {
                        After = operation.After,
                        Width = operation.Width ?? made.Width,
                    },
                ],
            };
        if (made is not null && operation is { Op: LayerOperation.Resize, On: null, When: null })
            return layer with
            {
                Operations = [.. layer.Operations.Select(old => old == made ? made with { Width = operation.Width } : old)],
            };
        if (made is not null && operation is { Op: LayerOperation.Relabel, On: null, When: null })
            return layer with
            {
                Operations =
                [
                    .. layer.Operations.Select(old => old == made ? made with { Label = operation.Label, Texts = operation.Texts } : old),
                ],
            };
        return layer with { Operations = [.. layer.Operations.Where(old => !Replaces(operation, old)), operation] };
    }

    /// <summary>The layer without an operation, and without what is said of a part that it made.</summary>
    /// <param name="layer">The layer.</param>
    /// <param name="index">Which of its operations.</param>
    public static Layer Without(this Layer layer, int index)
    {
        if (index < 0 || index >= layer.Operations.Count)
            return layer;
        var gone = layer.Operations[index];
        return layer with
        {
            Operations = [.. layer.Operations.Where((operation, i) => i != index && (gone.New is null || operation.Part != gone.Part))],
        };
    }

    /// <summary>What a layer says, for another one: parts that it made keep their ids only there, so the copy makes its own.</summary>
    public static IReadOnlyList<LayerOperation> Copied(this Layer layer)
    {
        var ids = layer
            .Operations.Where(operation => operation.New is not null)
            .Select(operation => operation.Part)
            .Distinct()
            .ToDictionary(id => id, _ => NewPart.NewId(), StringComparer.Ordinal);
        return
        [
            .. layer.Operations.Select(operation =>
                operation with
                {
                    Part = ids.GetValueOrDefault(operation.Part, operation.Part),
                    After = operation.After is { } after ? ids.GetValueOrDefault(after, after) : null,
                }
            ),
        ];
    }

    /// <summary>The site with a layer moved among those for the same kind of audience.</summary>
    /// <param name="site">The site.</param>
    /// <param name="id">Of the layer.</param>
    /// <param name="step">-1 for up, 1 for down.</param>
    public static SiteDefinition MovingLayer(this SiteDefinition site, string id, int step)
    {
        var all = site.Layers.ToList();
        var at = all.FindIndex(one => one.Id == id);
        if (at < 0)
            return site;
        var to = at + step;
        while (to >= 0 && to < all.Count && all[to].For?.Kind != all[at].For?.Kind)
            to += step;
        if (to < 0 || to >= all.Count)
            return site;
        (all[at], all[to]) = (all[to], all[at]);
        return site with { Layers = all };
    }

    /// <summary>
    /// The field that a place needs which shows what is seen through a link, and that is not defined yet; null where there is nothing to
    /// define.
    /// </summary>
    /// <param name="type">Whose screen or list it is put on.</param>
    /// <param name="path">The link and the field behind it: <c>customer.country</c>.</param>
    public static FieldDefinition? AddThroughLink(RecordType type, string path)
    {
        if (path.Split('.') is not [var link, var code] || type.Header.Find(link)?.Target?.Header.Find(code) is not { } seen)
            return null;
        var taken = type.Header.Fields.Select(field => field.Code).ToHashSet(StringComparer.Ordinal);
        var names = Enumerable.Range(2, MaxAlike).Select(number => $"{link}_{code}_{number}").Prepend($"{link}_{code}");
        return new()
        {
            Id = FieldDefinition.NewId(),
            RecordType = type.Code,
            Code = names.First(name => !taken.Contains(name)),
            Label = seen.Label,
            Kind = FieldKinds.ThroughLink,
            Path = path,
        };
    }

    private static bool Replaces(LayerOperation operation, LayerOperation old) =>
        old.New is null
        && old.Part == operation.Part
        && old.On == operation.On
        && old.When == operation.When
        && old.Aspect == operation.Aspect
        && !(operation.Op == LayerOperation.Move && old.Op is LayerOperation.Hide or LayerOperation.Show)
        && !(operation.Op is LayerOperation.Hide or LayerOperation.Show && old.Op == LayerOperation.Move);
}
