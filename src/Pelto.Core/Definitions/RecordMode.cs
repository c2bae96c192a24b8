namespace Pelto.Core.Definitions;

/// <summary>Whether a record is being added or changed.</summary>
public enum RecordMode
{
    /// <summary>It is on file already.</summary>
    Changing,

    /// <summary>It is new.</summary>
    Adding,
}
