using Pelto.Core.Access;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Core.Elements;

/// <summary>
/// What of a site's definitions somebody is shown who has part of the work: what belongs to the record types that they work on, and what
/// they may read anyhow. And how what they send back is put among the rest.
/// </summary>
/// <param name="viewer">Who.</param>
/// <param name="live">What is live: it says what they may read.</param>
public sealed class SiteViews(Viewer viewer, Catalogue live)
{
    private bool All => AdminRights.All(viewer);

    /// <summary>True when they work on all record types.</summary>
    public bool WorksEverywhere =>
        All || AdminWork.InDraft.Any(work => viewer.Rights.Any(right => right.Work == work && right.Types.Count == 0));

    /// <summary>True when they arrange for others, somewhere.</summary>
    public bool Arranges => viewer.May(AdminWork.Arrange);

    /// <summary>True when they work on a record type, whatever the work.</summary>
    public bool WorksAt(string type) => All || AdminWork.InDraft.Any(work => viewer.MayAt(work, type));

    /// <summary>
    /// True when the definition of a field of the draft, of a release or out of use is shown to them:
    /// they work there, or it is as it is live, and they may read the field and know of all that it names.
    /// </summary>
    public bool Sees(FieldDefinition field) =>
        field.Places().Any(place => WorksAt(place.RecordType))
        || (
            live.Site.Find(field.Id) is { } same
            && (ReferenceEquals(same, field) || SiteDefinition.Same(same, field))
            && field.Places().Select(place => live.FindField(field.IdIn(place))).OfType<Field>().ToList() is var known
            && known.Exists(MayRead)
            && known.SelectMany(Named).All(Knows)
        );

    /// <summary>The same for a field of the catalogue; one that is built in has nothing to hide but itself.</summary>
    public bool SeesDefinition(Field field) => field.Definition is { } definition ? Sees(definition) : Sees(field);

    /// <summary>True when a field is shown to them, wherever it stands, to be named in what they write.</summary>
    public bool Sees(Field field) =>
        (field.Definition?.Places().Select(place => place.RecordType) ?? [field.Part.RecordType.Code]).Any(WorksAt)
        || MayRead(live.FindField(field.Id) ?? field);

    /// <summary>
    /// True when they are shown that there is a field, and what it is called: that a masked one is there is seen on the screen.
    /// </summary>
    public bool Knows(Field field) => Sees(field) || viewer.LevelAt(live.FindField(field.Id) ?? field) != AccessLevel.None;

    /// <summary>A formula or condition as it is written, for whoever knows of all that it names; null for others.</summary>
    public string? Told(Formula? formula) => formula is null || !formula.Names.All(Knows) ? null : formula.Text;

    /// <summary>What is read somewhere, in words, with no more of what they do not know of than that there is something.</summary>
    public string InWords(IReadOnlyList<Field> read) =>
        string.Join(
            ", ",
            read.Where(Knows)
                .Select(field => $"{field.Label} of {field.Part.Plural.ToLowerInvariant()}")
                .Distinct()
                .Concat(read.All(Knows) ? [] : ["what you are not shown"])
        );

    /// <summary>True when a record type is shown to them.</summary>
    public bool Sees(RecordType type) => SeesType(type.Code);

    /// <summary>The same, by its code.</summary>
    public bool SeesType(string code) => WorksAt(code) || (live.Find(code) is { } known && viewer.MayRead(known));

    /// <summary>True when a query is shown to them: it fills what they are shown, or reads nothing else.</summary>
    public bool Sees(QueryDefinition query, SiteDefinition site) =>
        site.Fields.Any(field => field.Query?.Id == query.Id && Sees(field))
        || query.Reads.All(id =>
            site.Find(id) is { } added ? Sees(added)
            : live.FindField(id) is { } field ? Sees(field)
            : TypeOf(id, site) is not { } type || SeesType(type)
        );

    /// <summary>True when a list of choices is shown to them: it is used where they look, or nowhere yet.</summary>
    public bool Sees(ChoiceList list, SiteDefinition site) =>
        site.Fields.Where(field => field.ChoiceList == list.Id).ToList() is var uses && (uses.Count == 0 || uses.Any(Sees));

    /// <summary>True when a gap of access is shown to them.</summary>
    public bool Sees(AccessGap gap, SiteDefinition site) =>
        All
        || (
            gap.Field is { } field ? WorksAt(field.Part.RecordType.Code)
            : site.FindQuery(gap.Element) is { } query ? Sees(query, site)
            : site.FindGrant(gap.Element) is not { } grant || grant.On.All(on => Gives(on, site))
        );

    /// <summary>What of a site they are shown.</summary>
    /// <param name="site">The whole site.</param>
    public SiteDefinition VisibleTo(SiteDefinition site) =>
        All ? site : ElementSorts.All.Aggregate(site, (seen, sort) => sort.ShownIn(seen, site, this));

    /// <summary>
    /// The whole site as it becomes when they send back what they were shown: what they were not shown stays, where it stood.
    /// </summary>
    /// <param name="whole">The site as it is.</param>
    /// <param name="sent">What they send.</param>
    public SiteDefinition Merged(SiteDefinition whole, SiteDefinition sent)
    {
        if (All)
            return sent;
        var seen = VisibleTo(whole);
        return ElementSorts.All.Aggregate(sent, (merged, sort) => sort.Merged(merged, whole, seen));
    }

    /// <summary>The site that is live, with those changes of a draft that they are shown.</summary>
    public SiteDefinition Drafted(SiteDefinition draft) => WorksEverywhere ? draft : Merged(live.Site, VisibleTo(draft));

    /// <summary>True when what a layer does is shown to them: at screens on which they work.</summary>
    internal bool Sees(LayerOperation operation, SiteDefinition site) =>
        (operation.Screen ?? TypeOf(operation.Part, site)) is not { } type || WorksAt(type);

    /// <summary>True when they are shown who has which access to something: whoever gives it there, or takes it live.</summary>
    internal bool Gives(string on, SiteDefinition site) =>
        TypeOf(on, site) is not { } type
            ? viewer.May(AdminWork.Grant) || viewer.May(AdminWork.Publish)
            : viewer.MayAt(AdminWork.Grant, type) || viewer.MayAt(AdminWork.Publish, type);

    private bool MayRead(Field field) => viewer.LevelAt(field) >= AccessLevel.Read;

    // All that a definition names, and so tells of.
    private IEnumerable<Field> Named(Field field) =>
        new[] { field.Formula, field.Rules.RequiredWhen, field.Rules.ShownWhen, field.Rules.Check, field.Narrowing?.Condition }
            .Concat(field.Asking?.Arguments ?? [])
            .OfType<Formula>()
            .SelectMany(formula => formula.Names)
            .Concat(field.Asking?.Reads ?? [])
            .Concat(field.Finds)
            .Concat(field.IsThroughLink ? field.Path : [])
            .Concat(field.Definition!.HeldFrom.Select(live.FindField).OfType<Field>());

    private string? TypeOf(string id, SiteDefinition site) => new SiteChange(site, site, live).TypeOf(id);
}
