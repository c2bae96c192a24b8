namespace Pelto.Core.Definitions;

/// <summary>A part of a screen that a layer makes.</summary>
public sealed record NewPart
{
    /// <summary>A page.</summary>
    public const string Page = "page";

    /// <summary>A section for fields of the header.</summary>
    public const string Section = "section";

    /// <summary>One more place of a field that stands elsewhere as well.</summary>
    public const string Again = "again";

    /// <summary>Text that tells people how to do the work.</summary>
    public const string Guidance = "guidance";

    /// <summary>A button.</summary>
    public const string Button = "button";

    /// <summary>A field that is typed on the screen, or calculated there, and stored nowhere.</summary>
    public const string Scratch = "scratch";

    /// <summary>All of them.</summary>
    public static IReadOnlyList<string> All { get; } = [Page, Section, Again, Guidance, Button, Scratch];

    /// <summary>What is made: one of <see cref="All"/>.</summary>
    public string What { get; init; } = "";

    /// <summary>For again: the lasting id of the field.</summary>
    public string? Field { get; init; }

    /// <summary>For guidance: the text, formatted as formatted text is.</summary>
    public string? Text { get; init; }

    /// <summary>The same in other languages, by their code of two letters.</summary>
    public IReadOnlyDictionary<string, string>? Texts { get; init; }

    /// <summary>For a button: <c>fill</c>, <c>next</c>, <c>open</c> or <c>print</c>.</summary>
    public string? Does { get; init; }

    /// <summary>
    /// For a button that opens: the web address, as a formula over the header; for one that makes the next document: the code of its record
    /// type.
    /// </summary>
    public string? To { get; init; }

    /// <summary>For scratch: the name by which formulas of the screen read it, after a colon.</summary>
    public string? Code { get; init; }

    /// <summary>For scratch: one of <see cref="Layouts.ScratchFields.Kinds"/>.</summary>
    public string? Kind { get; init; }

    /// <summary>For scratch: digits after the point.</summary>
    public int? Decimals { get; init; }

    /// <summary>
    /// For scratch: what calculates it, over the header and the scratch fields that people type; people type it when not given.
    /// </summary>
    public string? Formula { get; init; }

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "p-" + Guid.NewGuid().ToString("N")[..12];
}
