namespace Pelto.Core.Elements;

/// <summary>Access that somebody gains by a change.</summary>
/// <param name="On">To what: lasting ids of fields, or record types as a grant names them.</param>
/// <param name="Level">The level, at fields.</param>
/// <param name="Rights">The rights, at record types; null for all.</param>
internal sealed record AccessGiven(IReadOnlyList<string> On, AccessLevel Level, IReadOnlyList<string>? Rights);

/// <summary>A change of what a site defines, as those look at it who ask what it takes.</summary>
/// <param name="Before">The definitions as they were.</param>
/// <param name="After">The definitions as they became.</param>
/// <param name="Live">What is live: it knows built-in fields, and what people have.</param>
internal sealed record SiteChange(SiteDefinition Before, SiteDefinition After, Catalogue Live)
{
    private readonly Dictionary<ElementSort, IReadOnlyList<string>> changed = [];

    /// <summary>The ids of the elements of a sort that differ; asked several times, gone through once.</summary>
    /// <param name="sort">The sort.</param>
    public IReadOnlyList<string> Changed(ElementSort sort) =>
        changed.TryGetValue(sort, out var ids) ? ids : changed[sort] = [.. sort.Changed(this)];

    /// <summary>Both sites.</summary>
    public IEnumerable<SiteDefinition> Sites => [Before, After];

    /// <summary>What is found in one or both.</summary>
    /// <param name="find">Finds it in a site.</param>
    public IEnumerable<T> Both<T>(Func<SiteDefinition, T?> find)
        where T : class => Sites.Select(find).OfType<T>();

    /// <summary>
    /// The code of the record type that an id belongs to: of a field, added or built in, a record type, a list, or a part of a screen.
    /// </summary>
    /// <param name="id">The id.</param>
    public string? TypeOf(string id)
    {
        foreach (var prefix in new[] { Grant.TypePrefix, "screen:", PartNames.List })
            if (id.StartsWith(prefix, StringComparison.Ordinal))
                id = id[prefix.Length..];
        if (Live.FindField(id) is { } field)
            return field.Part.RecordType.Code;
        if (Both(site => site.Find(id)).FirstOrDefault() is { } added)
            return added.RecordType;
        var first = id.Split('.', 2)[0];
        if (Live.Find(first) is not null || Both(site => site.RecordTypes.FirstOrDefault(type => type.Code == first)).Any())
            return first;
        return Sites
            .SelectMany(site => site.Layers)
            .SelectMany(layer => layer.Operations)
            .FirstOrDefault(operation => operation.Part == id && operation.Screen is not null)
            ?.Screen;
    }

    /// <summary>The companies whose people alone are meant; null when others may be.</summary>
    /// <param name="audiences">To whom.</param>
    public static IReadOnlyList<string>? CompaniesOf(IReadOnlyList<string> audiences)
    {
        var companies = new List<string>();
        foreach (var text in audiences)
        {
            if (!Audience.TryParse(text, out var audience) || audience.Kind != AudienceKind.Company)
                return null;
            companies.Add(audience.Code);
        }

        return companies;
    }
}
