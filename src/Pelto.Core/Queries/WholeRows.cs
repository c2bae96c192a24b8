namespace Pelto.Core.Queries;

/// <summary>Parts whose rows a query reads whole.</summary>
public static class WholeRows
{
    /// <summary>A part as <see cref="QueryDefinition.Reads"/> has it, where its rows are read whole.</summary>
    public static string In(Part part) =>
        (part.IsLines ? $"{part.RecordType.Code}.{part.Code}" : part.RecordType.Code) + QueryDefinition.WholeRows;
}
