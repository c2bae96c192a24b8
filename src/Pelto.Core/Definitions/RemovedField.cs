namespace Pelto.Core.Definitions;

/// <summary>A field that was removed for good.</summary>
/// <param name="Id">The lasting id that it had.</param>
/// <param name="Label">Its label.</param>
/// <param name="RecordType">The code of its record type.</param>
/// <param name="Part">The code of its part.</param>
/// <param name="Code">Its code.</param>
/// <param name="Columns">Names of the columns that it had. Which are dropped is said by the database: those that were made for it.</param>
/// <param name="HeldFrom">What its values came from, should it come back: see <see cref="FieldDefinition.HeldFrom"/>.</param>
public sealed record RemovedField(
    string Id,
    string Label,
    string RecordType,
    string Part,
    string Code,
    IReadOnlyList<string> Columns,
    IReadOnlyList<string>? HeldFrom = null
) : ISiteElement
{
    string ISiteElement.ElementId => Id;
}
