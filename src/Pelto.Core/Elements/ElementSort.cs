using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Core.Formulas;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>
/// All that Pelto has to know of one sort of element that a site defines, but for how it is bound, which is the binder's.
/// Listed once, in <see cref="ElementSorts"/>; nobody asks for the sort elsewhere.
/// </summary>
public abstract class ElementSort
{
    /// <summary>One of them, as people read it, such as “choice list”.</summary>
    public abstract string Name { get; }

    /// <summary>As what a change of one stands on record: see <see cref="AuditKinds"/>.</summary>
    public virtual string AuditKind => AuditKinds.Definition;

    /// <summary>The work that moving them takes, where their order counts; null where it does not.</summary>
    internal virtual string? OrderTakes => null;

    /// <summary>All that a site has of them, in their order.</summary>
    /// <param name="site">The site.</param>
    public abstract IEnumerable<ISiteElement> In(SiteDefinition site);

    /// <summary>What a site says of one, as text; null where it has none.</summary>
    /// <param name="site">The site.</param>
    /// <param name="id">Its id.</param>
    public abstract string? Text(SiteDefinition site, string id);

    /// <summary>The address of the page on which one is defined.</summary>
    /// <param name="id">Its id.</param>
    public abstract string PageOf(string id);

    /// <summary>Whether somebody is shown one; null where the site has none.</summary>
    /// <param name="site">The site.</param>
    /// <param name="id">Its id.</param>
    /// <param name="views">Who looks.</param>
    public abstract bool? IsShown(SiteDefinition site, string id, SiteViews views);

    /// <summary>The ids of those that differ.</summary>
    /// <param name="change">The change.</param>
    internal abstract IEnumerable<string> Changed(SiteChange change);

    /// <summary>The work that a change of one takes.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="change">The change.</param>
    internal abstract IEnumerable<AdminAction> Touches(string id, SiteChange change);

    /// <summary>What people gain by a change of one, which nobody lets others who lacks it.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="change">The change.</param>
    internal virtual IEnumerable<AccessGiven> Gives(string id, SiteChange change) => [];

    /// <summary>The live fields whose values a change of one is about, which its author has to know.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="change">The change.</param>
    internal virtual IEnumerable<Field> OnFile(string id, SiteChange change) => [];

    /// <summary>The conditions that a change makes decide something, and which its author has to be told the answers of.</summary>
    /// <param name="change">The change.</param>
    /// <param name="next">What is wanted, bound.</param>
    internal virtual IEnumerable<Formula> Asks(SiteChange change, Catalogue next) => [];

    /// <summary>A site that holds, of these, only what somebody is shown.</summary>
    /// <param name="into">The site that is put together.</param>
    /// <param name="whole">The whole site.</param>
    /// <param name="views">Who looks.</param>
    internal abstract SiteDefinition ShownIn(SiteDefinition into, SiteDefinition whole, SiteViews views);

    /// <summary>What somebody sent back, with what of these they were not shown where it stood.</summary>
    /// <param name="sent">What they send.</param>
    /// <param name="whole">The site as it is.</param>
    /// <param name="seen">What they were shown of it.</param>
    internal abstract SiteDefinition Merged(SiteDefinition sent, SiteDefinition whole, SiteDefinition seen);

    /// <summary>What people will notice of all that differs, in plain words, each with its page.</summary>
    /// <param name="of">The two sites.</param>
    internal IEnumerable<PlannedChange> Differences(SiteComparison of) =>
        Compare(of).Select(change => change.Page.Length == 0 ? change with { Page = PageOf(change.Element) } : change);

    /// <summary>The same, each with its page where that is not the element's.</summary>
    /// <param name="of">The two sites.</param>
    protected abstract IEnumerable<PlannedChange> Compare(SiteComparison of);
}

/// <summary>A sort of element, by the record that says one.</summary>
/// <typeparam name="T">What is said of one.</typeparam>
public abstract class ElementSort<T> : ElementSort
    where T : class, ISiteElement
{
    /// <summary>All that a site has of them.</summary>
    /// <param name="site">The site.</param>
    protected abstract IReadOnlyList<T> All(SiteDefinition site);

    /// <summary>The site with these in place of those that it has.</summary>
    /// <param name="site">The site.</param>
    /// <param name="all">All of them.</param>
    protected abstract SiteDefinition With(SiteDefinition site, IReadOnlyList<T> all);

    /// <summary>True when somebody is shown one.</summary>
    /// <param name="element">The element.</param>
    /// <param name="site">The site that it stands in.</param>
    /// <param name="views">Who looks.</param>
    protected abstract bool IsShown(T element, SiteDefinition site, SiteViews views);

    /// <summary>What people will notice of one that differs; null for before where it is new, for after where it is gone.</summary>
    /// <param name="before">What is live.</param>
    /// <param name="after">What is wanted.</param>
    /// <param name="of">The two sites.</param>
    protected virtual IEnumerable<PlannedChange> Compare(T? before, T? after, SiteComparison of) => [];

    /// <inheritdoc/>
    public override IEnumerable<ISiteElement> In(SiteDefinition site) => All(site);

    /// <inheritdoc/>
    public override string? Text(SiteDefinition site, string id) => Find(site, id) is { } element ? SiteDefinition.Text(element) : null;

    /// <inheritdoc/>
    public override bool? IsShown(SiteDefinition site, string id, SiteViews views) =>
        Find(site, id) is { } element ? IsShown(element, site, views) : null;

    internal override IEnumerable<string> Changed(SiteChange change) => Changed(All(change.Before), All(change.After));

    internal override SiteDefinition ShownIn(SiteDefinition into, SiteDefinition whole, SiteViews views) =>
        With(into, [.. All(whole).Where(element => IsShown(element, whole, views))]);

    internal override SiteDefinition Merged(SiteDefinition sent, SiteDefinition whole, SiteDefinition seen) =>
        With(sent, SiteMerging.Of(All(whole), All(seen), All(sent), Id));

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(SiteComparison of)
    {
        foreach (var after in All(of.Draft.Site))
        {
            var before = Find(of.Live.Site, Id(after));
            if (before is not null && SiteDefinition.Same(before, after))
                continue;
            foreach (var change in Compare(before, after, of))
                yield return change;
        }

        foreach (var gone in All(of.Live.Site).Where(before => Find(of.Draft.Site, Id(before)) is null))
        foreach (var change in Compare(gone, null, of))
            yield return change;
    }

    /// <summary>Finds one.</summary>
    /// <param name="site">The site.</param>
    /// <param name="id">Its id.</param>
    protected virtual T? Find(SiteDefinition site, string id) => All(site).FirstOrDefault(element => Id(element) == id);

    /// <summary>All of one id, before and after.</summary>
    /// <param name="id">The id.</param>
    /// <param name="change">The change.</param>
    private protected IEnumerable<T> Both(string id, SiteChange change) =>
        new[] { Find(change.Before, id), Find(change.After, id) }.OfType<T>();

    /// <summary>The ids of elements that differ.</summary>
    /// <param name="before">The elements as they were.</param>
    /// <param name="after">The elements as they became.</param>
    private protected static IEnumerable<string> Changed(IEnumerable<T> before, IEnumerable<T> after)
    {
        var (old, now) = (Written(before), Written(after));
        return old.Keys.Union(now.Keys).Where(key => old.GetValueOrDefault(key) != now.GetValueOrDefault(key));
    }

    private static Dictionary<string, string> Written(IEnumerable<T> all) =>
        all.GroupBy(Id, StringComparer.Ordinal)
            .ToDictionary(group => group.Key, group => string.Join('\n', group.Select(SiteDefinition.Text)), StringComparer.Ordinal);

    /// <summary>The id of one.</summary>
    /// <param name="element">The element.</param>
    private protected static string Id(T element) => element.ElementId;
}
