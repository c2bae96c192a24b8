namespace Pelto.Web.Pages;

/// <summary>What a layer says, in words.</summary>
/// <param name="layer">The layer.</param>
/// <param name="screen">The screen, or the list, that it makes.</param>
/// <param name="nameOf">What a part is called there.</param>
public sealed class LayerReport(Layer layer, Resolved screen, Func<string, string> nameOf)
{
    private const int MaxNamed = 4;

    /// <summary>What the layer says of what is arranged, each with its place among its operations.</summary>
    /// <param name="here">Those of its operations that are about what is arranged.</param>
    /// <param name="live">The layer as it is live; null for one that is not.</param>
    public IReadOnlyList<(int Index, string Sentence, string Part, bool IsDraft)> Describe(IReadOnlySet<LayerOperation> here, Layer? live)
    {
        var known = (live?.Operations ?? []).Select(SiteDefinition.Text).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. from pair in layer.Operations.Select((operation, index) => (operation, index))
            where here.Contains(pair.operation)
            select (pair.index, Sentence(pair.operation), pair.operation.Part, !known.Contains(SiteDefinition.Text(pair.operation))),
        ];
    }

    /// <summary>What could not be carried out as it is, or goes against another layer.</summary>
    /// <param name="type">The record type, as the draft has it.</param>
    /// <param name="catalogue">The draft.</param>
    /// <param name="isHere">True for an operation that is about what is arranged.</param>
    public IReadOnlyList<string> Clashes(RecordType type, Catalogue catalogue, Func<LayerOperation, bool> isHere) =>
        [
            .. ClashesIn(catalogue, refused: false)
                .Where(clash => clash.Type == type && isHere(clash.Clash.Operation))
                .Select(clash => clash.Clash.Sentence)
                .Distinct(),
            .. RoleConflicts.In(type.Screens, layer).Where(conflict => screen.Names.ContainsKey(conflict.Part)).Select(Against),
            .. RoleConflicts
                .MadeTwice(type.Screens, layer)
                .GroupBy(twice => twice.Other)
                .Select(twice =>
                    $"{twice.Key.Label} makes the same: whoever gets both layers has {Named(twice.Select(made => made.Part))} twice."
                ),
        ];

    /// <summary>What keeps a draft from being published, of this layer.</summary>
    /// <param name="catalogue">The draft.</param>
    public IReadOnlyList<string> Refusals(Catalogue catalogue) =>
        [
            .. catalogue
                .Problems.Where(problem => problem.Element == layer.Id)
                .Select(problem => problem.Sentence)
                .Concat(ClashesIn(catalogue, refused: true).Select(clash => clash.Clash.Sentence))
                .Distinct(),
        ];

    private string Against((Layer Other, string Part, Layer Wins) conflict) =>
        $"{conflict.Other.Label} says otherwise about {nameOf(conflict.Part)}: for people with both roles, {conflict.Wins.Label} wins.";

    private string Named(IEnumerable<string> parts) => string.Join(" and ", parts.Select(nameOf).Distinct().Take(MaxNamed));

    private IEnumerable<(RecordType Type, LayerClash Clash)> ClashesIn(Catalogue catalogue, bool refused) =>
        catalogue.Clashes.Where(clash => clash.Clash.Layer.Id == layer.Id && clash.Clash.Refused == refused);

    private string Sentence(LayerOperation operation)
    {
        var said = LayerWords.Whole(operation, nameOf);
        return said[..1].ToUpperInvariant() + said[1..];
    }
}
