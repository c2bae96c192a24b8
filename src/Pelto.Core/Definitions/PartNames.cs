namespace Pelto.Core.Definitions;

/// <summary>How definitions name parts of records and of screens that nobody defined.</summary>
public static class PartNames
{
    /// <summary>The part of a record that it has once.</summary>
    public const string Header = "header";

    /// <summary>Stands before the record type or the link whose list is arranged.</summary>
    public const string List = "list:";

    /// <summary>Stands before the link whose records are listed on the screen of what it points to.</summary>
    public const string Pointing = "pointing:";
}
