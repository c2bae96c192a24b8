using Pelto.Core.Layouts;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>What people will notice of a layer that differs.</summary>
internal sealed class LayerDifferences(Catalogue live, Catalogue draft)
{
    public IEnumerable<PlannedChange> Between(Layer? old, Layer now)
    {
        var effect = now.Audience == Layer.Everyone ? "For everyone." : $"For {(now.For?.InWords(draft.Host) ?? now.Audience)}.";
        if (old is not null && old.Audience != now.Audience)
            yield return Change(
                now.Id,
                null,
                now,
                $"{now.Label} is for {now.For?.InWords(draft.Host)} instead of {old.For?.InWords(draft.Host)}.",
                "The others get what they would without it."
            );
        if (old is not null && (old.Label != now.Label || old.Comment != now.Comment))
            yield return Change(now.Id, null, now, $"The layer {now.Label} gets another name or comment.", "Nothing else changes.");
        var before = (old?.Operations ?? []).Select(SiteDefinition.Text).ToHashSet(StringComparer.Ordinal);
        var after = now.Operations.Select(SiteDefinition.Text).ToHashSet(StringComparer.Ordinal);
        var said = false;
        foreach (
            var operation in now.Operations.Where(operation =>
                !IsNamedElsewhere(now, operation) && !before.Contains(SiteDefinition.Text(operation))
            )
        )
        {
            said = true;
            var (type, where, name) = Find(draft, operation);
            yield return Change(operation.Part, type, now, $"{now.Label}{where}: {LayerWords.Coming(operation, name)}.", effect);
        }

        foreach (
            var operation in (old?.Operations ?? []).Where(operation =>
                !IsNamedElsewhere(now, operation) && !after.Contains(SiteDefinition.Text(operation))
            )
        )
        {
            said = true;
            var (type, where, name) = Find(live, operation);
            yield return Change(
                operation.Part,
                type,
                now,
                $"{now.Label} no longer does this{where}: {LayerWords.Coming(operation, name)}.",
                effect
            );
        }

        if (old is null && !said && now.Operations.All(operation => !IsNamedElsewhere(now, operation)))
            yield return Change(now.Id, null, now, $"Adds the layer {now.Label}, which changes nothing yet.", effect);
        else if (
            old is not null
            && !said
            && before.SetEquals(after)
            && !old.Operations.Select(SiteDefinition.Text).SequenceEqual(now.Operations.Select(SiteDefinition.Text))
        )
            yield return Change(now.Id, null, now, $"{now.Label} does what it does in another order.", effect);
    }

    public PlannedChange Gone(Layer layer) =>
        Change(
            layer.Id,
            null,
            layer,
            $"Deletes the layer {layer.Label}.",
            $"{(layer.For?.InWords(live.Host) is { } whom ? whom[..1].ToUpperInvariant() + whom[1..] : layer.Audience)} gets what there is without it."
        );

    private PlannedChange Change(string element, RecordType? type, Layer layer, string sentence, string effect) =>
        new(element, type ?? TypeOf(layer), sentence, effect)
        {
            Layer = layer,
            Page = $"/setup/arrange?type={(type ?? TypeOf(layer)).Code}&layer={layer.Id}&part={Uri.EscapeDataString(element)}",
        };

    private RecordType TypeOf(Layer layer) =>
        draft.RecordTypes.FirstOrDefault(one => one.Screens.Layers.Any(known => known.Id == layer.Id)) ?? draft.RecordTypes[0];

    // Where fields and lists stand for everyone is said with the fields.
    private bool IsNamedElsewhere(Layer layer, LayerOperation operation) =>
        layer.Audience == Layer.Everyone
        && operation.IsStanding
        && (
            operation.Part.StartsWith(LayoutSection.Lists, StringComparison.Ordinal)
            || draft.FindField(operation.Part) is not null
            || live.FindField(operation.Part) is not null
        );

    // The screen or the list on which an operation is carried out, and what it calls its parts.
    private static (RecordType? Type, string Where, Func<string, string> NameOf) Find(Catalogue catalogue, LayerOperation operation)
    {
        foreach (var type in catalogue.RecordTypes)
        {
            foreach (var layer in type.Screens.Layers.Where(layer => layer.Operations.Any(known => SiteDefinition.Same(known, operation))))
            {
                List<Layer> laid = [.. type.Screens.Layers.TakeWhile(one => one != layer), layer];
                if (operation.IsOfList && type.Screens.Lists.FirstOrDefault(list => list.Knows(operation.Part)) is { } shown)
                    return (type, $", in the {shown.InWords}", type.Screens.ListFor(shown, laid).NameOf);
                return (
                    type,
                    "",
                    type.Screens.For(
                        laid,
                        operation.On == "adding" ? RecordMode.Adding : RecordMode.Changing,
                        LayoutResolver.HoldsAtMost
                    ).NameOf
                );
            }
        }

        return (null, "", static id => id);
    }
}
