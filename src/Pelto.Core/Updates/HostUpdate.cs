using Pelto.Core.Binding;

namespace Pelto.Core.Updates;

/// <summary>What another version of the host does to a site: to a later one, or back to an earlier one.</summary>
/// <param name="From">The version that it is.</param>
/// <param name="To">The version that it becomes.</param>
/// <param name="Site">The site for that version: codes that become others are written anew.</param>
/// <param name="Changes">What the host changes of its own.</param>
/// <param name="Fates">What becomes of each operation of each layer.</param>
/// <param name="Rewritings">Texts of the site in which codes are replaced, the codes of fields themselves among them.</param>
/// <param name="Problems">What keeps it from being done.</param>
public sealed record HostUpdate(
    HostDescription From,
    HostDescription To,
    SiteDefinition Site,
    IReadOnlyList<HostChange> Changes,
    IReadOnlyList<LayerFate> Fates,
    IReadOnlyList<Rewriting> Rewritings,
    IReadOnlyList<Problem> Problems
)
{
    /// <summary>The element that problems and planned changes of an update belong to.</summary>
    public const string Element = "host";

    /// <summary>Calculates it. Nothing is written.</summary>
    /// <param name="now">What is live, or drafted.</param>
    /// <param name="to">The version to go to.</param>
    public static HostUpdate Make(Catalogue now, HostDescription to)
    {
        var (host, codes) = (new HostChanges(now.Host, to), new CodeChanges(now, to));
        var rewriting = new CodeRewriting(now, codes);
        var site = rewriting.Rewrite(now.Site) with { Host = to.Version };
        var next = Catalogue.Build(now.Release, to, site);
        var taken =
            from definition in now.Site.Fields
            let code = codes.CodeOf(definition)
            where code is not null
            select new Rewriting(
                definition.Id,
                $"{definition.Label}, {(code == definition.StoredAs ? "whose code is free again" : "since the ERP has a field with its code")}",
                definition.Code,
                code
            );
        var said = rewriting.Problems.Select(problem => problem.Element).ToHashSet(StringComparer.Ordinal);
        var known = now.Problems.Select(problem => problem.Sentence).ToHashSet(StringComparer.Ordinal);
        return new(
            now.Host,
            to,
            site,
            host.All,
            [.. new LayerFates(now, next).All()],
            [.. taken, .. rewriting.Done],
            [
                .. host.Refusals.Select(refusal => new Problem(Element, "host", refusal)),
                .. rewriting.Problems.Distinct(),
                .. next.Problems.Where(problem => !known.Contains(problem.Sentence) && !said.Contains(problem.Element)),
            ]
        );
    }

    /// <summary>What is live, as it would be in another version of the host.</summary>
    public static Catalogue Moved(Catalogue live, HostDescription to) =>
        live.Host.Version == to.Version
            ? live
            : Catalogue.Build(
                live.Release,
                to,
                new CodeRewriting(live, new CodeChanges(live, to)).Rewrite(live.Site) with
                {
                    Host = to.Version,
                }
            );

    /// <summary>True when it can be done.</summary>
    public bool IsPossible => Problems.Count == 0;
}
