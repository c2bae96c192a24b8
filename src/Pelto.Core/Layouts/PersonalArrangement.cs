namespace Pelto.Core.Layouts;

/// <summary>
/// What people arrange for themselves: one more layer, laid over all others, that says only what takes nothing from anybody else.
/// </summary>
public static class PersonalArrangement
{
    /// <summary>
    /// What the id of such a layer begins with; what follows changes with each change, since screens are kept by the ids of their layers.
    /// </summary>
    public const string IdPrefix = "own:";

    private const int MaxLabel = 80;
    private const int MaxId = 250;

    /// <summary>True for what people may say for themselves.</summary>
    public static bool Allows(LayerOperation operation) =>
        operation
            is {
                New: null,
                On: null,
                When: null,
                Texts: null,
                Width: null or (>= 1 and <= 12),
                Label: null or { Length: <= MaxLabel },
                Part.Length: <= MaxId,
                After: null or { Length: <= MaxId }
            }
        && OperationKinds.Find(operation.Op) is { } kind
        && (operation.IsOfList ? kind.IsOwnInLists : kind.IsOwnOnScreens);

    /// <summary>What the layers under it leave of somebody's own arrangement.</summary>
    /// <param name="own">The arrangement.</param>
    /// <param name="laid">The layers under it, in their order.</param>
    /// <param name="type">The record type.</param>
    public static Layer Allowed(Layer own, IReadOnlyList<Layer> laid, RecordType type) =>
        own with
        {
            Operations =
            [
                .. own.Operations.Where(operation =>
                    Allows(operation) && MayArrange(laid, operation.IsOfList ? ListIdOf(type, operation.Part) : ScreenId(type))
                ),
            ],
        };

    /// <summary>
    /// True when people may arrange a screen or a list for themselves: unless the last layer that says so keeps them from it.
    /// </summary>
    /// <param name="laid">The layers that they get.</param>
    /// <param name="id">The id of the screen or the list.</param>
    public static bool MayArrange(IReadOnlyList<Layer> laid, string id) =>
        laid.SelectMany(layer => layer.Operations).LastOrDefault(operation => operation.Op == LayerOperation.Own && operation.Part == id)
            is not { Off: true };

    /// <summary>The id of the screen of a record type, as a whole.</summary>
    public static string ScreenId(RecordType type) => "screen:" + type.Code;

    private static string ListIdOf(RecordType type, string part) => type.Screens.Lists.FirstOrDefault(list => list.Knows(part))?.Id ?? part;
}
