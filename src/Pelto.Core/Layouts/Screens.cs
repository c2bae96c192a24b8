using System.Collections.Concurrent;
using System.Text;
using Pelto.Core.Access;
using Pelto.Core.Formulas;

namespace Pelto.Core.Layouts;

/// <summary>
/// The screens of a record type, for all audiences. Each is resolved once: for the layers, the mode and the conditions that it follows
/// from.
/// </summary>
public sealed class Screens
{
    // More than any site has audiences, and few enough to be kept.
    private const int MaxCached = 1000;

    private readonly RecordType type;
    private readonly IReadOnlyDictionary<string, Formula> conditions;
    private readonly ConcurrentDictionary<string, Resolved> resolved = new(StringComparer.Ordinal);

    internal Screens(RecordType type, IReadOnlyList<Layer> layers, IReadOnlyDictionary<string, Formula> conditions)
    {
        (this.type, this.conditions) = (type, conditions);
        Layers = [.. LayoutResolver.InOrder(layers)];
        Standard = LayoutResolver.Resolve(type, Layers.Where(layer => layer.For!.Kind == AudienceKind.Everyone));
    }

    /// <summary>The conditions under which its layers do something, with the layer that says each.</summary>
    public IEnumerable<(Layer Layer, Formula Condition)> Conditions =>
        Layers
            .SelectMany(layer =>
                layer
                    .Operations.Select(operation => operation.When)
                    .OfType<string>()
                    .Distinct()
                    .Select(when => (layer, conditions.GetValueOrDefault(when)))
            )
            .Where(one => one.Item2 is not null)!;

    /// <summary>The lists that its layers shape: that of the type, and those of what points to its records.</summary>
    public IReadOnlyList<ListOf> Lists => lists ??= [.. ListOf.All(type)];

    private IReadOnlyList<ListOf>? lists;

    /// <summary>A list as a person gets it.</summary>
    /// <param name="viewer">The person.</param>
    /// <param name="by">For a list on this type's screen of what points to a record: the link; null for the list of the type.</param>
    public Resolved ListFor(Viewer viewer, Field? by = null) =>
        ListFor(by is null ? new(type) : new(by.Part.RecordType, by), LayersOf(viewer));

    /// <summary>The list that some layers make.</summary>
    /// <param name="list">The list.</param>
    /// <param name="layers">The layers.</param>
    public Resolved ListFor(ListOf list, IReadOnlyList<Layer> layers)
    {
        var key = $"{list.Id}|{string.Join('|', layers.Select(layer => layer.Id))}";
        if (resolved.TryGetValue(key, out var known))
            return known;
        if (resolved.Count > MaxCached)
            resolved.Clear();
        return resolved[key] = LayoutResolver.Resolve(list, layers) with { Key = key };
    }

    /// <summary>
    /// The layers that have something to say of this screen, in the order in which they are laid over each other, with what they say of it.
    /// </summary>
    public IReadOnlyList<Layer> Layers { get; }

    /// <summary>What everyone gets, with all that conditions can bring.</summary>
    public Resolved Standard { get; }

    /// <summary>What people of some audience get at most: everybody's layers, and one more.</summary>
    /// <param name="layer">That layer; null for what everybody gets.</param>
    /// <param name="mode">Whether a record is being added or changed.</param>
    public Resolved For(Layer? layer, RecordMode mode) =>
        For([.. Layers.Where(one => one.For!.Kind == AudienceKind.Everyone || one == layer)], mode, LayoutResolver.HoldsAtMost);

    /// <summary>The fields that stand on the screen for anybody, whatever the audience, and whether a record is added or changed.</summary>
    public IReadOnlySet<Field> Anywhere =>
        anywhere ??= Layers
            .Prepend(null)
            .SelectMany(layer => new[] { RecordMode.Adding, RecordMode.Changing }.SelectMany(mode => For(layer, mode).Layout.Fields))
            .ToHashSet();

    private HashSet<Field>? anywhere;

    /// <summary>The screen that a person gets of a record.</summary>
    /// <param name="viewer">The person.</param>
    /// <param name="state">The record, as it stands on the screen.</param>
    public Resolved For(Viewer viewer, RecordState state) => For(LayersOf(viewer), viewer, state);

    /// <summary>The screen that some layers make of a record, as a person may know it.</summary>
    /// <param name="layers">The layers.</param>
    /// <param name="viewer">The person.</param>
    /// <param name="state">The record, as it stands on the screen.</param>
    public Resolved For(IReadOnlyList<Layer> layers, Viewer viewer, RecordState state)
    {
        var frame = state.FrameAt(null);
        return For(layers, state.Id is null ? RecordMode.Adding : RecordMode.Changing, operation => Contains(operation, viewer, frame));
    }

    /// <summary>
    /// Why a part is as it is, for somebody: one sentence for each layer that has a say, the last of which counts; none when it is as the
    /// host delivers it.
    /// </summary>
    /// <param name="screen">The screen.</param>
    /// <param name="id">The id of the part.</param>
    /// <param name="isShown">Whether they are shown that there is a field; others are not named, nor is a condition over them told.</param>
    public IEnumerable<string> Why(Resolved screen, string id, Func<Field, bool> isShown)
    {
        foreach (var (layer, operation) in screen.Trace.GetValueOrDefault(id) ?? [])
        {
            // What could not be bound is not known to be harmless.
            var isTold =
                string.IsNullOrWhiteSpace(operation.When)
                || (conditions.TryGetValue(operation.When, out var condition) && condition.Names.All(isShown));
            var told = isTold ? operation : operation with { When = "something holds that you are not shown" };
            yield return $"{layer.Label} {LayerWords.Done(told, part => screen.NameOf(part, isShown))}.";
        }
    }

    /// <summary>
    /// The formula by which a button makes the web address that it opens, or by which a scratch field is calculated; null for others.
    /// </summary>
    public Formula? FormulaOf(NewPart button) =>
        button is { Does: "open", To: { } text } ? conditions.GetValueOrDefault(text)
        : button is { What: NewPart.Scratch, Formula: { } worked } ? conditions.GetValueOrDefault(worked)
        : null;

    /// <summary>The scratch fields of the screen, for all audiences, by their codes.</summary>
    public IReadOnlyDictionary<string, NewPart> Scratch =>
        scratch ??= ScratchFields
            .On(type, Layers)
            .DistinctBy(made => made.Code)
            .Where(made => made.Code is not null)
            .ToDictionary(made => made.Code!, StringComparer.Ordinal);

    private IReadOnlyDictionary<string, NewPart>? scratch;

    /// <summary>The screen that a person gets of a record, with all that conditions can bring.</summary>
    /// <param name="viewer">The person.</param>
    /// <param name="mode">Whether a record is being added or changed.</param>
    public Resolved AtMost(Viewer viewer, RecordMode mode) => For(LayersOf(viewer), mode, LayoutResolver.HoldsAtMost);

    /// <summary>
    /// The layers of the audiences that a person belongs to, and in the end what they arranged for themselves, where they may.
    /// </summary>
    public IReadOnlyList<Layer> LayersOf(Viewer viewer)
    {
        List<Layer> laid = [.. Layers.Where(layer => layer.For!.Holds(viewer, type.Companies))];
        if (
            viewer.PersonalLayer?.Invoke(type) is { } own
            && PersonalArrangement.Allowed(own, laid, type) is { Operations.Count: > 0 } allowed
        )
            laid.Add(allowed);
        return laid;
    }

    /// <summary>The screen that some layers make.</summary>
    /// <param name="layers">The layers.</param>
    /// <param name="mode">Whether a record is being added or changed.</param>
    /// <param name="holds">Whether the condition of an operation holds.</param>
    public Resolved For(IReadOnlyList<Layer> layers, RecordMode mode, Func<LayerOperation, bool> holds)
    {
        var key = new StringBuilder().Append((int)mode);
        var judged = new Dictionary<LayerOperation, bool>(ReferenceEqualityComparer.Instance);
        foreach (var layer in layers)
        {
            key.Append('|').Append(layer.Id);
            foreach (var operation in layer.Operations.Where(operation => !string.IsNullOrWhiteSpace(operation.When)))
                key.Append((judged[operation] = holds(operation)) ? '+' : '-');
        }

        if (resolved.TryGetValue(key.ToString(), out var known))
            return known;
        if (resolved.Count > MaxCached)
            resolved.Clear();
        return resolved[key.ToString()] = LayoutResolver.Resolve(type, layers, mode, operation => judged.GetValueOrDefault(operation)) with
        {
            Key = key.ToString(),
        };
    }

    // Who may not know what a condition reads is not told by what stands there.
    private bool Contains(LayerOperation operation, Viewer viewer, Frame frame) =>
        conditions.TryGetValue(operation.When!, out var condition) && viewer.MayKnow(condition)
            ? condition.Evaluate(frame) is { DataType: DataType.YesNo, Yes: true }
            : LayoutResolver.HoldsAtMost(operation);
}
