namespace Pelto.Core.Catalog;

/// <summary>
/// Everything that one release defines, built in and added, bound and ready to use. Immutable; a request uses one from start to end.
/// </summary>
public sealed class Catalogue : Bindable
{
    private readonly Dictionary<string, RecordType> byCode;
    private Dictionary<string, Field>? byId;

    internal Catalogue(
        int release,
        HostDescription host,
        SiteDefinition site,
        IReadOnlyList<RecordType> types,
        IReadOnlyList<Problem> problems
    )
    {
        (Release, Host, Site, RecordTypes, Problems) = (release, host, site, types, problems);
        byCode = types.ToDictionary(type => type.Code, StringComparer.Ordinal);
    }

    /// <summary>The number of the release; that of the live one for a draft.</summary>
    public int Release { get; }

    /// <summary>What is built in.</summary>
    public HostDescription Host { get; }

    /// <summary>What is added.</summary>
    public SiteDefinition Site { get; }

    /// <summary>All record types, in the order of the menu.</summary>
    public IReadOnlyList<RecordType> RecordTypes { get; }

    /// <summary>What is wrong with the definitions. A catalogue that is live has none.</summary>
    public IReadOnlyList<Problem> Problems { get; }

    /// <summary>Finds a record type.</summary>
    public RecordType? Find(string code) => byCode.GetValueOrDefault(code);

    /// <summary>Finds a field of any record type by its lasting id.</summary>
    public Field? FindField(string id)
    {
        byId ??= RecordTypes
            .SelectMany(type => type.Parts)
            .SelectMany(part => part.Fields)
            .DistinctBy(field => field.Id)
            .ToDictionary(field => field.Id, StringComparer.Ordinal);
        return byId.GetValueOrDefault(id);
    }
}
