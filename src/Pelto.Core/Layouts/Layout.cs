using Pelto.Core.Catalog;

namespace Pelto.Core.Layouts;

/// <summary>A field at its place on a screen.</summary>
/// <param name="Field">The field.</param>
/// <param name="Width">Columns of twelve that it takes.</param>
public sealed record LayoutPlace(Field Field, int Width);

/// <summary>A section: fields side by side, or the columns of lines.</summary>
/// <param name="Id">Lasting id.</param>
/// <param name="Label">Its heading.</param>
/// <param name="Lines">The part whose lines stand here, or null for fields of the header.</param>
/// <param name="Places">Fields in reading order.</param>
/// <param name="Pointing">For a list of what points to the record: by which link.</param>
public sealed record LayoutSection(string Id, string Label, Part? Lines, IReadOnlyList<LayoutPlace> Places, Field? Pointing = null)
{
    /// <summary>True when fields of this part stand here.</summary>
    public bool Holds(Part part) => Pointing is null && Lines == (part.IsLines ? part : null);

    /// <summary>The id of the list of what points to a record by a link, in operations of layers.</summary>
    public static string IdOf(Field link) => "pointing:" + link.Id;
}

/// <summary>A page of a screen.</summary>
public sealed record LayoutPage(string Id, string Label, IReadOnlyList<LayoutSection> Sections);

/// <summary>A whole screen, resolved.</summary>
public sealed record Layout(IReadOnlyList<LayoutPage> Pages)
{
    /// <summary>Links whose list of what points here stands on no place, nor below the screen as lists do by themselves.</summary>
    public IReadOnlySet<Field> HiddenLists { get; init; } = new HashSet<Field>();

    /// <summary>All sections.</summary>
    public IEnumerable<LayoutSection> Sections => Pages.SelectMany(page => page.Sections);

    /// <summary>All fields on the screen, in reading order, those of lines included.</summary>
    public IEnumerable<Field> Fields => Sections.SelectMany(section => section.Places).Select(place => place.Field);
}

/// <summary>What resolving gives: the screen, which operation decided what, and what went wrong.</summary>
/// <param name="Layout">The screen.</param>
/// <param name="Trace">For each part that a layer touched, by its id, who decided and how, as a sentence.</param>
/// <param name="Clashes">Operations that could not be carried out as they are.</param>
public sealed record Resolved(Layout Layout, IReadOnlyDictionary<string, string> Trace, IReadOnlyList<Problem> Clashes);
