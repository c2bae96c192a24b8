using Pelto.Core.Access;
using Pelto.Core.Binding;
using Pelto.Core.Formulas;

namespace Pelto.Core.Elements;

/// <summary>
/// What whoever writes definitions must know themselves. A condition that asks what its author may not read would answer them,
/// a question at a time; so would a rule that values on file have to fit.
/// </summary>
/// <param name="change">What they write.</param>
internal sealed class AuthorRules(SiteChange change)
{
    private readonly Catalogue next = Catalogue.Build(change.Live.Release, change.Live.Host, change.After);

    /// <summary>Why somebody may not make this change, as a sentence; null when they may.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="administrators">From whom only an administrator withholds.</param>
    public string? Refuse(Viewer viewer, IReadOnlyList<Viewer> administrators)
    {
        var onFile = ElementSorts.All.SelectMany(sort => change.Changed(sort).SelectMany(id => sort.OnFile(id, change)));
        if (onFile.FirstOrDefault(field => viewer.SureAt(field) < AccessLevel.Read) is { } unread)
            return Unread(viewer, unread);
        if (
            ElementSorts.All.SelectMany(sort => sort.Asks(change, next)).FirstOrDefault(condition => !Knows(viewer, condition)) is { } asked
        )
            return $"“{asked.Text}” asks what you may not read of all records, so you cannot let it decide anything.";
        var withheld = change.After.Grants.Where(grant =>
            grant.Does == Grant.Withhold && !change.Before.Grants.Any(old => SiteDefinition.Same(old, grant))
        );
        return
            withheld
                .Select(grant => administrators.FirstOrDefault(person => IsFor(grant, person)))
                .FirstOrDefault(person => person is not null)
                is { } stored
            ? $"This would withhold something from {stored.Name}, who is an administrator: only administrators do that."
            : null;
    }

    private bool IsFor(Grant grant, Viewer person) =>
        grant.To.Any(text => Audience.TryParse(text, out var whom) && whom.Holds(person, change.Live.Host.Companies));

    private static string Unread(Viewer viewer, Field field) =>
        viewer.LevelAt(field) == AccessLevel.None
            ? "This is about a field that you may not see: somebody who may has to change it."
            : $"You may not read {field.Label} of all {field.Part.Plural.ToLowerInvariant()}, so you cannot change what it takes.";

    // By the draft, and by what is live: nobody opens something for themselves on the way.
    private bool Knows(Viewer viewer, Formula condition) =>
        condition
            .Reads.Concat(condition.Watches)
            .All(read => viewer.ReadsWhereRead(read) && (change.Live.FindField(read.Id) is not { } same || viewer.ReadsWhereRead(same)))
        && condition.RelatedFields.All(read => viewer.ReadsAll(read, change.Live));
}
