namespace Pelto.Core.Definitions;

/// <summary>
/// Keeps a field or a record type from everybody but administrators, until grants give it: it no longer starts with what its record type,
/// or the ERP, gives.
/// </summary>
public sealed record Guard : ISiteElement
{
    /// <summary>The lasting id of a field, or a record type such as <c>type:partner</c>.</summary>
    public string On { get; init; } = "";

    /// <summary>For texts: true when whoever sees it masked sees the last four characters.</summary>
    public bool Ending { get; init; }

    /// <summary>Why, for whoever asks later.</summary>
    public string Comment { get; init; } = "";

    string ISiteElement.ElementId => On;
}
