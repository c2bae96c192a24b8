namespace Pelto.Core.Values;

/// <summary>What came of reading something that was typed or sent: a value, or a sentence that says what is wrong with it.</summary>
/// <param name="Value">The value; empty when refused.</param>
/// <param name="Refusal">Why it was refused, as a sentence, or null.</param>
public readonly record struct Parsed(Value Value, string? Refusal = null)
{
    /// <summary>Reading went well.</summary>
    public static implicit operator Parsed(Value value) => new(value);

    /// <summary>Reading failed for this reason.</summary>
    public static Parsed Refused(string sentence) => new(Value.Empty, sentence);
}
