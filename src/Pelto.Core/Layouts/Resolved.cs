namespace Pelto.Core.Layouts;

/// <summary>That an operation of a layer was carried out.</summary>
/// <param name="Layer">The layer.</param>
/// <param name="Operation">The operation.</param>
public sealed record TraceStep(Layer Layer, LayerOperation Operation);

/// <summary>An operation of a layer that could not be carried out as it is. The screen stands all the same.</summary>
/// <param name="Layer">The layer.</param>
/// <param name="Operation">The operation.</param>
/// <param name="Sentence">What is the matter, and what happens instead.</param>
/// <param name="Refused">True when it must be put right before it can go live, rather than having lost what it was anchored to.</param>
public sealed record LayerClash(Layer Layer, LayerOperation Operation, string Sentence, bool Refused = false);

/// <summary>What resolving gives: the screen, which operation decided what, and what went wrong.</summary>
/// <param name="Layout">The screen.</param>
/// <param name="Trace">For each part that a layer touched, by its id, what was done to it, in turn; the last word counts.</param>
/// <param name="Clashes">Operations that could not be carried out as they are.</param>
/// <param name="Names">What each part is called, by its id, hidden ones included.</param>
/// <param name="Hidden">
/// Ids of parts that a layer hides, with where they would stand: the id of what is before them, or in which they would be first.
/// </param>
public sealed record Resolved(
    Layout Layout,
    IReadOnlyDictionary<string, IReadOnlyList<TraceStep>> Trace,
    IReadOnlyList<LayerClash> Clashes,
    IReadOnlyDictionary<string, string> Names,
    IReadOnlyDictionary<string, string> Hidden
)
{
    /// <summary>What it follows from: two screens of one record type and release with the same key are the same.</summary>
    public string Key { get; init; } = "";

    /// <summary>For a list: the columns in whose order its rows begin, each upwards or downwards; none as the host has it.</summary>
    public IReadOnlyList<(Catalog.Field Column, bool Descending)> Sorted { get; init; } = [];

    /// <summary>What a part is called.</summary>
    public string NameOf(string id) => Names.GetValueOrDefault(id, id);

    /// <summary>The fields among the parts, by the ids of their places, hidden ones included.</summary>
    public IReadOnlyDictionary<string, Catalog.Field> Fields { get; init; } = new Dictionary<string, Catalog.Field>();

    /// <summary>What a part is called for somebody: of a field that they are not shown, no more than that it is one.</summary>
    /// <param name="id">The id of the part.</param>
    /// <param name="isShown">Whether they are shown that there is this field.</param>
    public string NameOf(string id, Func<Catalog.Field, bool> isShown) =>
        Fields.TryGetValue(id, out var field) && !isShown(field) ? "another field" : NameOf(id);
}
