namespace Pelto.Core.Layouts;

/// <summary>What stands in a section.</summary>
/// <param name="Width">Columns of twelve that it takes.</param>
public abstract record LayoutItem(int Width)
{
    /// <summary>Lasting id.</summary>
    public abstract string Id { get; init; }

    /// <summary>What it is called here; null as it is defined.</summary>
    public Caption? Caption { get; init; }

    /// <summary>True when it begins a row, though there were room beside what is before it.</summary>
    public bool StartsRow { get; init; }
}

/// <summary>What a part of a screen is called, in several languages.</summary>
/// <param name="Label">What people read; null as it is defined.</param>
/// <param name="Texts">The same in other languages, by their code of two letters.</param>
public sealed record Caption(string? Label, IReadOnlyDictionary<string, string>? Texts)
{
    /// <summary>What people of a language read; null as it is defined.</summary>
    public string? In(Locale locale) => Texts?.GetValueOrDefault(locale.Language) is { Length: > 0 } text ? text : Label;
}

/// <summary>A field at its place on a screen.</summary>
/// <param name="Field">The field.</param>
/// <param name="Width">Columns of twelve that it takes.</param>
public sealed record LayoutPlace(Field Field, int Width) : LayoutItem(Width)
{
    private readonly string? id;

    /// <summary>Lasting id: that of the field, or for one more place of a field an id of its own.</summary>
    public override string Id
    {
        get => id ?? Field.Id;
        init => id = value;
    }

    /// <summary>True when nobody types in it here.</summary>
    public bool IsLocked { get; init; }

    /// <summary>True when a record is not saved from here without it.</summary>
    public bool IsRequired { get; init; }

    /// <summary>True when the field stands at an earlier place as well, which holds its input.</summary>
    public bool IsAgain { get; init; }

    /// <summary>What people of a language read: label, column heading and help text.</summary>
    public (string Label, string Heading, string? Help) TextIn(Locale locale)
    {
        var texts = Field.TextIn(locale);
        return Caption?.In(locale) is { } called ? (called, called, texts.Help) : texts;
    }
}

/// <summary>Guidance, or a button, as a layer made it.</summary>
/// <param name="Made">What was made.</param>
/// <param name="Width">Columns of twelve that it takes.</param>
public sealed record LayoutExtra(NewPart Made, int Width) : LayoutItem(Width)
{
    /// <inheritdoc/>
    public override required string Id { get; init; }

    /// <summary>For guidance: the text that people of a language read.</summary>
    public string TextIn(Locale locale) => Made.Texts?.GetValueOrDefault(locale.Language) is { Length: > 0 } text ? text : Made.Text ?? "";
}

/// <summary>A section: fields side by side, or the columns of lines.</summary>
/// <param name="Id">Lasting id.</param>
/// <param name="Label">Its heading.</param>
/// <param name="Lines">The part whose lines stand here, or null for fields of the header.</param>
/// <param name="Items">What stands there, in reading order.</param>
/// <param name="Pointing">For a list of what points to the record: by which link.</param>
public sealed record LayoutSection(string Id, string Label, Part? Lines, IReadOnlyList<LayoutItem> Items, Field? Pointing = null)
{
    private readonly IReadOnlyList<LayoutItem> items = Items;
    private readonly IReadOnlyList<LayoutPlace> places = [.. Items.OfType<LayoutPlace>()];

    /// <summary>What stands there, in reading order.</summary>
    public IReadOnlyList<LayoutItem> Items
    {
        get => items;
        init => (items, places) = (value, [.. value.OfType<LayoutPlace>()]);
    }

    /// <summary>Its fields, in reading order.</summary>
    public IReadOnlyList<LayoutPlace> Places => places;

    /// <summary>What it is called here; null as the host calls it.</summary>
    public Caption? Caption { get; init; }

    /// <summary>True when only its heading is shown until somebody unfolds it.</summary>
    public bool IsFolded { get; init; }

    /// <summary>How it looks, by the names of the operations of layers that say so: a value of a few for each.</summary>
    public IReadOnlyDictionary<string, string> Looks { get; init; } = Plain;

    /// <summary>As nothing says how it looks.</summary>
    public static IReadOnlyDictionary<string, string> Plain { get; } = new Dictionary<string, string>();

    /// <summary>What people of a language read.</summary>
    public string LabelIn(Locale locale) => Caption?.In(locale) ?? Label;

    /// <summary>True when fields of this part stand here.</summary>
    public bool Contains(Part part) => Pointing is null && Lines == (part.IsLines ? part : null);

    /// <summary>The id of the list of what points to a record by a link, in operations of layers.</summary>
    public static string IdOf(Field link) => Lists + link.Id;

    /// <summary>What such ids begin with.</summary>
    public const string Lists = PartNames.Pointing;
}

/// <summary>A page of a screen.</summary>
public sealed record LayoutPage(string Id, string Label, IReadOnlyList<LayoutSection> Sections)
{
    /// <summary>What it is called here; null as the host calls it.</summary>
    public Caption? Caption { get; init; }

    /// <summary>What people of a language read.</summary>
    public string LabelIn(Locale locale) => Caption?.In(locale) ?? Label;
}

/// <summary>A whole screen, resolved.</summary>
public sealed record Layout(IReadOnlyList<LayoutPage> Pages)
{
    private readonly IReadOnlyList<LayoutPage> pages = Pages;
    private readonly Lazy<ILookup<Field, LayoutPlace>> byField = ByField(Pages);

    /// <summary>Its pages, in reading order.</summary>
    public IReadOnlyList<LayoutPage> Pages
    {
        get => pages;
        init => (pages, byField) = (value, ByField(value));
    }

    private static Lazy<ILookup<Field, LayoutPlace>> ByField(IReadOnlyList<LayoutPage> pages) =>
        new(() => pages.SelectMany(page => page.Sections).SelectMany(section => section.Places).ToLookup(place => place.Field));

    /// <summary>The places of a field, in reading order.</summary>
    public IEnumerable<LayoutPlace> PlacesOf(Field field) => byField.Value[field];

    /// <summary>Links whose list of what points here stands on no place, nor below the screen as lists do by themselves.</summary>
    public IReadOnlySet<Field> HiddenLists { get; init; } = new HashSet<Field>();

    /// <summary>Where Tab goes.</summary>
    public TabOrder Tabs { get; init; } = TabOrder.AsRead;

    /// <summary>All sections.</summary>
    public IEnumerable<LayoutSection> Sections => Pages.SelectMany(page => page.Sections);

    /// <summary>All places of fields, in reading order, those of lines included.</summary>
    public IEnumerable<LayoutPlace> Places => Sections.SelectMany(section => section.Places);

    /// <summary>All fields on the screen, in reading order, those of lines included; each once.</summary>
    public IEnumerable<Field> Fields => Places.Where(place => !place.IsAgain).Select(place => place.Field);
}
