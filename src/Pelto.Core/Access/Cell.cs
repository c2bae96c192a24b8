using System.Text.Json.Nodes;

namespace Pelto.Core.Access;

/// <summary>
/// A value as one person gets it: what they may not read of it is not in it. What withholds and masks is here alone; screens, files and
/// programs only draw it, and nothing is never taken for what is theirs and empty.
/// </summary>
public readonly record struct Cell
{
    private Cell(Field field, Value value, AccessLevel level, string? ending, string label)
    {
        var isRead = level >= AccessLevel.Read;
        (Field, Value, Level) = (field, isRead ? value : Value.Empty, level);
        (Ending, Label) = (level == AccessLevel.Masked ? ending : null, isRead ? label : "");
    }

    /// <summary>Of which field.</summary>
    public Field Field { get; }

    /// <summary>What they read of it; empty also where they may not, as <see cref="Level"/> tells.</summary>
    public Value Value { get; }

    /// <summary>What they may do with it.</summary>
    public AccessLevel Level { get; }

    /// <summary>The last characters of a masked value, where the administrator lets them be seen; null where not.</summary>
    public string? Ending { get; }

    /// <summary>For links: what people read of what it points to.</summary>
    public string Label { get; }

    /// <summary>What stands for a value that they see only masked; null for others.</summary>
    public string? Mask => Level == AccessLevel.Masked ? Masks.With(Ending) : null;

    /// <summary>True where they may read it.</summary>
    public bool IsRead => Level >= AccessLevel.Read;

    /// <summary>A value that was read whole, with an ending where its guard leaves one.</summary>
    /// <param name="field">Of which field.</param>
    /// <param name="whole">The value as it is on file.</param>
    /// <param name="level">What they may do with it.</param>
    /// <param name="label">For links: what people read of what it points to.</param>
    public static Cell From(Field field, Value whole, AccessLevel level, string label = "") =>
        new(field, whole, level, level == AccessLevel.Masked ? Masks.EndingOf(field, whole) : null, label);

    /// <summary>A value out of a record from which was taken already what they may not read.</summary>
    /// <param name="field">Of which field.</param>
    /// <param name="given">What the record gives them.</param>
    /// <param name="level">What they may do with it.</param>
    /// <param name="ending">The last characters, where they may be seen.</param>
    public static Cell Given(Field field, Value given, AccessLevel level, string? ending) => new(field, given, level, ending, "");

    /// <summary>What was not asked for.</summary>
    public static Cell Nothing(Field field) => new(field, Value.Empty, AccessLevel.None, null, "");

    /// <summary>The text that people read: the value, what stands for it, or nothing.</summary>
    public string Text(Locale? locale = null) => Mask ?? (Field.Kind.IsLink ? Label : Field.Kind.Format(Value, locale));

    /// <summary>The value for a program; null also where it may not be read.</summary>
    public JsonNode? ToJson() => IsRead ? Field.Kind.ToJson(Value) : null;
}

/// <summary>Values of a record as somebody gets them.</summary>
public static class Cells
{
    extension(RecordState state)
    {
        /// <summary>A value of the record, or of one of its lines.</summary>
        /// <param name="field">The field.</param>
        /// <param name="line">The line; null for the header.</param>
        /// <param name="viewer">Who gets it.</param>
        public Cell CellAt(Field field, LineState? line, Viewer viewer) =>
            Cell.Given(
                field,
                (line?.Values ?? state.Header)[field.Slot],
                viewer.LevelAt(field, state, line),
                state.Access?.EndingAt(field, line?.Key)
            );
    }
}
