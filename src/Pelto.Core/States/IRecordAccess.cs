namespace Pelto.Core.States;

/// <summary>What somebody may do with one record, and see of it.</summary>
public interface IRecordAccess
{
    /// <summary>True when it may be read.</summary>
    bool MayRead { get; }

    /// <summary>True when what is not given field by field may be changed: its lines added, moved and removed too.</summary>
    bool MayChange { get; }

    /// <summary>True when it may be deleted.</summary>
    bool MayDelete { get; }

    /// <summary>The level at a field of the record; in a line that was not there yet, the highest that some record gives.</summary>
    /// <param name="field">The field.</param>
    /// <param name="line">The key of the line; null for the header.</param>
    AccessLevel LevelAt(Field field, string? line);

    /// <summary>True when they are shown what stands in a field of the record.</summary>
    /// <inheritdoc cref="LevelAt"/>
    bool IsShown(Field field, string? line);

    /// <summary>The last characters of a masked value, where the administrator lets them be seen; null where not.</summary>
    /// <inheritdoc cref="LevelAt"/>
    string? EndingAt(Field field, string? line);
}
