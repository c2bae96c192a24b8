namespace Pelto.Core.States;

/// <summary>A place in a record: a field of the header or of a line, or a line as a whole.</summary>
/// <param name="Part">Where.</param>
/// <param name="Line">The line's key; null in the header.</param>
/// <param name="Field">The field; null for the line as a whole.</param>
public readonly record struct FieldAddress(Part Part, string? Line, Field? Field)
{
    /// <summary>The name of the input that stands there: <c>header.customer</c>, <c>lines.17.quantity</c>.</summary>
    public override string ToString() => string.Join('.', new[] { Part.Code, Line, Field?.Code }.Where(step => step is not null));
}

/// <summary>Something that keeps a record from being saved, at its place.</summary>
/// <param name="At">Where.</param>
/// <param name="Sentence">What is wrong and what would help.</param>
public sealed record Message(FieldAddress At, string Sentence)
{
    /// <summary>
    /// True for what only a save can tell, such as what follows for other records: trying it says nothing of it, neither that it is wrong
    /// nor that it is mended.
    /// </summary>
    public bool IsOnlyBySaving { get; init; }
}

/// <summary>Two people changed the same thing.</summary>
/// <param name="At">Where.</param>
/// <param name="Theirs">What is kept now.</param>
/// <param name="Mine">What this person wants instead.</param>
/// <param name="Sentence">For whole lines: what happened. Null for a field, where both values say it.</param>
public sealed record Clash(FieldAddress At, Value Theirs, Value Mine, string? Sentence = null);
