namespace Pelto.Core.Layouts;

/// <summary>Where the layers of two roles say different things of one part: somebody may have both.</summary>
public static class RoleConflicts
{
    /// <summary>What other roles' layers say otherwise than this one.</summary>
    /// <param name="screens">The screens that the layers are laid over.</param>
    /// <param name="layer">The layer of a role; of another audience there are none.</param>
    /// <returns>
    /// The other layer, the id of the part, and which of both wins for people with both roles: the one that stands later.
    /// </returns>
    public static IEnumerable<(Layer Other, string Part, Layer Wins)> In(Screens screens, Layer layer)
    {
        var roles = screens.Layers.Where(one => one.For!.Kind == AudienceKind.Role).ToList();
        var own = roles.FindIndex(one => one.Id == layer.Id);
        if (own < 0)
            yield break;
        foreach (var (other, index) in roles.Select((other, index) => (other, index)).Where(pair => pair.index != own))
        foreach (
            var part in roles[own]
                .Operations.Where(operation => other.Operations.Any(theirs => Differs(operation, theirs)))
                .Select(operation => operation.Part)
                .Distinct()
        )
            yield return (other, part, index > own ? other : roles[own]);
    }

    /// <summary>
    /// What this layer makes and another one makes in the same words, such as a copy of it: whoever gets both has it twice.
    /// </summary>
    /// <param name="screens">The screens that the layers are laid over.</param>
    /// <param name="layer">The layer.</param>
    /// <returns>The other layer, and the id of the part as this one makes it.</returns>
    public static IEnumerable<(Layer Other, string Part)> MadeTwice(Screens screens, Layer layer)
    {
        if (screens.Layers.FirstOrDefault(one => one.Id == layer.Id) is not { } own)
            yield break;

        // Nobody is two people, nor works in two companies.
        foreach (
            var other in screens.Layers.Where(other =>
                other != own && (other.For!.Kind != own.For!.Kind || own.For.Kind == AudienceKind.Role)
            )
        )
        foreach (
            var made in own.Operations.Where(made =>
                made.New is not null
                && other.Operations.Any(theirs =>
                    theirs.Op == made.Op && SiteDefinition.Same(theirs.New, made.New) && theirs.Label == made.Label
                )
            )
        )
            yield return (other, made.Part);
    }

    private static bool Differs(LayerOperation one, LayerOperation other) =>
        one.Part == other.Part
        && one.Aspect == other.Aspect
        && (one.On is null || other.On is null || one.On == other.On)
        && !SiteDefinition.Same(one, other);
}
