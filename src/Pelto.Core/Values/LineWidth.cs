namespace Pelto.Core.Values;

/// <summary>How wide a column of lines is until somebody arranges it.</summary>
public enum LineWidth
{
    /// <summary>A short figure.</summary>
    Figure,

    /// <summary>A word.</summary>
    Word,

    /// <summary>A date.</summary>
    Date,

    /// <summary>What is neither short nor long.</summary>
    Usual,

    /// <summary>A number and a name.</summary>
    Record,

    /// <summary>A line of text, or an amount with what it is in.</summary>
    Text,

    /// <summary>An address, or a date with its time.</summary>
    Address,

    /// <summary>Several of something, or what is taller than a line.</summary>
    Block,
}
