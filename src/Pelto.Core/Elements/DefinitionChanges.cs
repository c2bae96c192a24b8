using Pelto.Core.Auditing;

namespace Pelto.Core.Elements;

/// <summary>What a change of definitions changed, element by element, for the record of changes.</summary>
public static class DefinitionChanges
{
    /// <summary>The subject of changes of the host's version.</summary>
    public const string Host = "host";

    /// <summary>All elements that differ.</summary>
    /// <param name="before">The definitions as they were.</param>
    /// <param name="after">The definitions as they became.</param>
    /// <param name="what">What was done, such as "Changed Leg angle".</param>
    public static IEnumerable<AuditNote> Between(SiteDefinition before, SiteDefinition after, string what)
    {
        foreach (var sort in ElementSorts.All)
        {
            foreach (var id in sort.In(before).Concat(sort.In(after)).Select(element => element.ElementId).Distinct())
            {
                var (old, now) = (sort.Text(before, id), sort.Text(after, id));
                if (old != now)
                    yield return new(sort.AuditKind, id, what) { Before = old, After = now };
            }
        }

        if (before.Host != after.Host)
            yield return new(AuditKinds.Definition, Host, what) { Before = before.Host, After = after.Host };
    }
}
