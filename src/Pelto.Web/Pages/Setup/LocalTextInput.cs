namespace Pelto.Web.Pages;

/// <summary>What people of another language read, as typed.</summary>
public sealed class LocalTextInput
{
    /// <summary>Two letters (ISO 639-1).</summary>
    public string Language { get; set; } = "";

    /// <summary>The label.</summary>
    public string Label { get; set; } = "";

    /// <summary>The column heading.</summary>
    public string Heading { get; set; } = "";

    /// <summary>The help text.</summary>
    public string Help { get; set; } = "";
}
