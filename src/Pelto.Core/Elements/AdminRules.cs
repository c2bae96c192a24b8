using Pelto.Core.Access;

namespace Pelto.Core.Elements;

/// <summary>
/// What a change of definitions touches, and whether somebody may make it. The one check that all changes of a draft and all
/// publishing go through. What each sort of element takes is said by its <see cref="ElementSort"/>.
/// </summary>
public sealed class AdminRules
{
    private readonly SiteChange change;
    private readonly SiteDefinition before;
    private readonly SiteDefinition after;
    private readonly Catalogue live;

    /// <summary>The rules for a change.</summary>
    /// <param name="before">The definitions as they were.</param>
    /// <param name="after">The definitions as they became.</param>
    /// <param name="live">What is live: it knows built-in fields, and what the person has.</param>
    public AdminRules(SiteDefinition before, SiteDefinition after, Catalogue live) =>
        (this.before, this.after, this.live, change) = (before, after, live, new(before, after, live));

    /// <summary>Why somebody may not make this change, as a sentence; null when they may.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="administrators">From whom only an administrator withholds anything.</param>
    public string? RefuseChange(Viewer viewer, IReadOnlyList<Viewer>? administrators = null)
    {
        if (AdminRights.All(viewer))
            return null;
        if (Touches().FirstOrDefault(touch => !viewer.May(touch)) is { } touch)
            return Refusal(viewer, touch);
        return RefuseGiving(viewer) ?? new AuthorRules(change).Refuse(viewer, administrators ?? []);
    }

    /// <summary>Why somebody may not take this change live, as a sentence; null when they may.</summary>
    /// <param name="viewer">Who.</param>
    public string? RefusePublishing(Viewer viewer)
    {
        if (AdminRights.All(viewer))
            return null;
        var touches = Touches().Select(touch => touch.Work is AdminAction.Administration ? touch : touch with { Work = AdminWork.Publish });
        return touches.FirstOrDefault(touch => !viewer.May(touch)) is { } touch ? Refusal(viewer, touch) : null;
    }

    /// <summary>All that differs, by the work that it takes.</summary>
    public IEnumerable<AdminAction> Touches()
    {
        foreach (var sort in ElementSorts.All)
        {
            foreach (var touch in change.Changed(sort).SelectMany(id => sort.Touches(id, change)))
                yield return touch;
            if (sort.OrderTakes is { } work && IsMoved(sort))
                yield return new(work, null);
        }

        if (before.Host != after.Host)
            yield return new(AdminAction.Administration, null);
    }

    private bool IsMoved(ElementSort sort)
    {
        var (old, now) = (Ids(before), Ids(after));
        return !old.Where(now.ToHashSet().Contains).SequenceEqual(now.Where(old.ToHashSet().Contains));

        List<string> Ids(SiteDefinition site) => [.. sort.In(site).Select(element => element.ElementId)];
    }

    // Nobody gives what they do not have.
    private string? RefuseGiving(Viewer viewer) =>
        ElementSorts
            .All.SelectMany(sort => change.Changed(sort).SelectMany(id => sort.Gives(id, change)))
            .Select(given => Missing(viewer, given.On, given.Level, given.Rights))
            .FirstOrDefault(missing => missing is not null);

    private string? Missing(Viewer viewer, IReadOnlyList<string> on, AccessLevel level, IReadOnlyList<string>? rights)
    {
        foreach (var one in on)
        {
            if (one.StartsWith(Grant.TypePrefix, StringComparison.Ordinal))
            {
                if (live.Find(one[Grant.TypePrefix.Length..]) is not { } type)
                {
                    if (IsOfOld(one))
                        return OutOfUse;
                    continue;
                }

                var of = viewer.AccessAt(type).For(type);
                if (
                    (rights ?? Grant.Rights).FirstOrDefault(right =>
                        !(
                            right switch
                            {
                                "read" => of.Read,
                                "create" => of.Create,
                                "change" => of.Change,
                                _ => of.Delete,
                            }
                        ).IsSure
                    ) is
                    { } right
                )
                    return $"You may not {right} all {type.Plural.ToLowerInvariant()} yourself, so you cannot let others.";
            }
            else if (live.FindField(one) is not { } field)
            {
                if (IsOfOld(one))
                    return OutOfUse;
            }
            else if (Most(viewer, field) < level)
            {
                return $"You may not {GrantWords.Verb(level)} {field.Label} of all "
                    + $"{field.Part.Plural.ToLowerInvariant()} yourself, so you cannot let others.";
            }
        }

        return null;
    }

    private const string OutOfUse = "This is about what is out of use just now: only administrators open that.";

    // What is new holds nothing yet; what is retired or removed may come back with what it held.
    private bool IsOfOld(string on) =>
        live.Site.Removed.Any(removed => removed.Id == on || removed.Id.Split('@')[0] == on)
        || live.Site.Fields.Any(field => field.Id == on || field.Places().Any(place => field.IdIn(place) == on))
        || live.Site.RecordTypes.Any(type => Grant.OnType(type.Code) == on);

    // What nobody types is written by nobody: to read it is all that there is.
    private static AccessLevel Most(Viewer viewer, Field field) =>
        viewer.SureAt(field) is var sure && sure == AccessLevel.Read && !field.IsTyped ? AccessLevel.Write : sure;

    private string Refusal(Viewer viewer, AdminAction touch)
    {
        if (touch.Work == AdminAction.Administration)
            return before.Host != after.Host
                ? "Only administrators change the version of the ERP."
                : "Only administrators bring saved data back.";
        if (!viewer.May(touch.Work))
            return $"You may not {AdminWork.InWords(touch.Work).Replace("themselves", "yourself", StringComparison.Ordinal)}.";
        var type = touch.Type is { Length: > 0 } code ? live.Find(code)?.Plural.ToLowerInvariant() ?? code : null;
        if (type is not null && !viewer.MayAt(touch.Work, touch.Type!))
            return $"You may {AdminWork.InWords(touch.Work)}, but not at {type}.";
        return touch.Type is null
            ? $"You may {AdminWork.InWords(touch.Work)}, but not for all record types at once."
            : $"You may {AdminWork.InWords(touch.Work)} for people of "
                + $"{GrantWords.Listed([.. viewer.Rights.Where(right => right.Work == touch.Work).SelectMany(right => right.Companies).Distinct().Select(company => live.Host.Companies.FirstOrDefault(known => known.Code == company)?.Label ?? company)])} only.";
    }
}
