using Pelto.Core.Access;
using Pelto.Core.Catalog;

namespace Pelto.Core.Elements;

/// <summary>What a change of definitions touches, and whether somebody may make it. The one check that all changes of a draft and all publishing go through.</summary>
/// <param name="before">The definitions as they were.</param>
/// <param name="after">The definitions as they became.</param>
/// <param name="live">What is live: it knows built-in fields, and what the person has.</param>
public sealed class WorkRules(SiteDefinition before, SiteDefinition after, Catalogue live)
{
    /// <summary>Why somebody may not make this change, as a sentence; null when they may.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="administrators">From whom only an administrator withholds anything.</param>
    public string? RefuseChange(Viewer viewer, IReadOnlyList<Viewer>? administrators = null)
    {
        if (WorkRights.All(viewer)) return null;
        if (Touches().FirstOrDefault(touch => !viewer.May(touch)) is { } touch) return Refusal(viewer, touch);
        return RefuseGiving(viewer) ?? new AuthorRules(before, after, live).Refuse(viewer, administrators ?? []);
    }

    /// <summary>Why somebody may not take this change live, as a sentence; null when they may.</summary>
    public string? RefusePublishing(Viewer viewer) =>
        WorkRights.All(viewer) ? null : Touches().Select(touch => touch.Work is WorkTouch.Administration ? touch : touch with { Work = Works.Publish }).FirstOrDefault(touch => !viewer.May(touch)) is { } touch ? Refusal(viewer, touch) : null;

    /// <summary>All that differs, by the work that it takes.</summary>
    public IEnumerable<WorkTouch> Touches()
    {
        foreach (var id in Changed(site => site.Fields, field => field.Id))
        {
            if (!SiteDefinition.Same(before.Find(id) is { } old ? old with { HeldFrom = [] } : null, after.Find(id) is { } now ? now with { HeldFrom = [] } : null))
                foreach (var type in Both(site => site.Find(id)).SelectMany(field => field.Places()).Select(place => place.RecordType).Distinct()) yield return new(Works.Define, type);
            foreach (var type in Freed(id).Count > 0 || IsHeldByHand(id) ? Both(site => site.Find(id)).SelectMany(field => field.Places()).Select(place => place.RecordType).Distinct() : []) yield return new(Works.Grant, type);
            if (after.Find(id)?.ReadBack == true && before.Find(id)?.ReadBack != true) yield return new(WorkTouch.Administration, null);
        }

        foreach (var id in Changed(site => site.ChoiceLists, list => list.Id))
        {
            var types = new[] { before, after }.SelectMany(site => site.Fields).Where(field => field.ChoiceList == id).SelectMany(field => field.Places()).Select(place => place.RecordType).Distinct().ToList();
            foreach (var type in types.DefaultIfEmpty(WorkTouch.AnyType)) yield return new(Works.Define, type);
        }

        foreach (var id in Changed(site => site.RecordTypes, type => type.Id))
        {
            foreach (var type in Both(site => site.FindType(id)).Select(type => type.Code).Distinct()) yield return new(Works.Define, type);

            // Who may do what with its records, and what people outside may send and find, is access. A type that nobody has yet holds nothing.
            var isLive = live.Site.FindType(id) is not null;
            if (GivenBy(before.FindType(id), isLive) != GivenBy(after.FindType(id), isLive))
                foreach (var type in Both(site => site.FindType(id)).Select(type => type.Code).Distinct()) yield return new(Works.Grant, type);
        }

        // What was removed stays removed: its entry is only taken away when the field comes back.
        foreach (var id in Changed(site => site.Removed, removed => removed.Id))
            foreach (var removed in new[] { before, after }.SelectMany(site => site.Removed).Where(removed => removed.Id == id).Select(removed => removed.RecordType).Distinct()) yield return new(Works.Define, removed);
        foreach (var work in Moved()) yield return new(work, null);
        foreach (var id in Changed(site => site.Queries, query => query.Id))
            foreach (var type in Both(site => site.FindQuery(id)).SelectMany(query => query.Reads).Select(TypeOf).Distinct().DefaultIfEmpty(WorkTouch.AnyType)) yield return new(Works.Query, type);
        foreach (var id in Changed(site => site.Layers, layer => layer.Id))
            foreach (var touch in OfLayer(before.FindLayer(id), after.FindLayer(id))) yield return touch;
        foreach (var on in Changed(site => site.Guards, guard => guard.On)) yield return new(Works.Grant, TypeOf(on));
        foreach (var id in Changed(site => site.Grants, grant => grant.Id))
            foreach (var grant in Both(site => site.FindGrant(id)))
                foreach (var on in grant.On) yield return new(Works.Grant, TypeOf(on), CompaniesOf(grant.To));
        foreach (var _ in Changed(site => site.Roles, role => role.Code)) yield return new(Works.People, WorkTouch.AnyType);
        if (before.Host != after.Host) yield return new(WorkTouch.Administration, null);
    }

    // What values on file came from, and a change says that it does not count any more.
    private List<string> Freed(string id) => before.Find(id) is { } old && after.Find(id) is { } now ? [.. old.HeldFrom.Except(now.HeldFrom)] : [];

    // To say by hand that a value came from somewhere keeps it from people; what it did come from is written down by itself.
    private bool IsHeldByHand(string id) => after.Find(id) is { HeldFrom: { Count: > 0 } held } now && held.Except(before.Find(id)?.HeldFrom ?? []).ToList() is { Count: > 0 } added
        && added.Except(Heritage.Keep(before, after.With(now with { HeldFrom = before.Find(id)?.HeldFrom ?? [] }), live).Find(id)?.HeldFrom ?? []).Any();

    private static string GivenBy(RecordTypeDefinition? type, bool isLive) => type is null || (!isLive && type.PublicForm is null) ? "" : string.Join('\n', SiteDefinition.Text(type.Read), SiteDefinition.Text(type.Write), SiteDefinition.Text(type.Create), SiteDefinition.Text(type.Delete), type.PublicForm is null ? "" : SiteDefinition.Text(type.PublicForm));

    // Where the order counts: of two layers the later wins, fields and record types stand in it.
    private IEnumerable<string> Moved()
    {
        if (IsMoved(site => site.Layers.Select(layer => layer.Id))) yield return Works.Arrange;
        if (IsMoved(site => site.Fields.Select(field => field.Id)) || IsMoved(site => site.RecordTypes.Select(type => type.Id))) yield return Works.Define;
    }

    private bool IsMoved(Func<SiteDefinition, IEnumerable<string>> ids)
    {
        var (old, now) = (ids(before).ToList(), ids(after).ToList());
        return !old.Where(now.ToHashSet().Contains).SequenceEqual(now.Where(old.ToHashSet().Contains));
    }

    // Nobody gives what they do not have, by a grant, or by taking away what keeps others from it.
    private string? RefuseGiving(Viewer viewer)
    {
        foreach (var id in Changed(site => site.Grants, grant => grant.Id))
        {
            if (after.FindGrant(id) is { } given && given.Does != Grant.Withhold && Lacks(viewer, given.On, AccessLevels.Read(given.Level) ?? AccessLevel.Write, given.May) is { } more) return more;
            if (before.FindGrant(id) is { Does: Grant.Withhold } taken && Lacks(viewer, taken.On, AccessLevel.Write, taken.May) is { } freed) return freed;
        }

        foreach (var on in Changed(site => site.Guards, guard => guard.On).Where(on => before.GuardOf(on) is not null))
            if (Lacks(viewer, [on], AccessLevel.Write, null) is { } opened) return opened;
        foreach (var id in Changed(site => site.Fields, field => field.Id))
            if (Lacks(viewer, Freed(id), AccessLevel.Read, null) is { } held) return held;
        return null;
    }

    private string? Lacks(Viewer viewer, IReadOnlyList<string> on, AccessLevel level, IReadOnlyList<string>? rights)
    {
        foreach (var one in on)
        {
            if (one.StartsWith(Grant.TypePrefix, StringComparison.Ordinal))
            {
                if (live.Find(one[Grant.TypePrefix.Length..]) is not { } type)
                {
                    if (IsOfOld(one)) return OutOfUse;
                    continue;
                }

                var of = viewer.StandingAt(type).Of(type);
                if ((rights ?? Grant.Rights).FirstOrDefault(right => !(right switch { "read" => of.Read, "create" => of.Create, "change" => of.Change, _ => of.Delete }).IsSure) is { } right) return $"You may not {right} all {type.Plural.ToLowerInvariant()} yourself, so you cannot let others.";
            }
            else if (live.FindField(one) is not { } field)
            {
                if (IsOfOld(one)) return OutOfUse;
            }
            else if (Most(viewer, field) < level)
            {
                return $"You may not {GrantWords.Verb(level)} {field.Label} of all {field.Part.Plural.ToLowerInvariant()} yourself, so you cannot let others.";
            }
        }

        return null;
    }

    private const string OutOfUse = "This is about what is out of use just now: only administrators open that.";

    // What is new holds nothing yet; what is retired or removed may come back with what it held.
    private bool IsOfOld(string on) => live.Site.Removed.Any(removed => removed.Id == on || removed.Id.Split('@')[0] == on) || live.Site.Fields.Any(field => field.Id == on || field.Places().Any(place => field.IdIn(place) == on)) || live.Site.RecordTypes.Any(type => Grant.OnType(type.Code) == on);

    // What nobody types is written by nobody: to read it is all that there is.
    private static AccessLevel Most(Viewer viewer, Field field) => viewer.SureAt(field) is var sure && sure == AccessLevel.Read && !field.IsTyped ? AccessLevel.Write : sure;

    private string Refusal(Viewer viewer, WorkTouch touch)
    {
        if (touch.Work == WorkTouch.Administration) return before.Host != after.Host ? "Only administrators change the version of the ERP." : "Only administrators bring saved data back.";
        if (!viewer.May(touch.Work)) return $"You may not {Works.InWords(touch.Work).Replace("themselves", "yourself", StringComparison.Ordinal)}.";
        var type = touch.Type is { Length: > 0 } code ? live.Find(code)?.Plural.ToLowerInvariant() ?? code : null;
        if (type is not null && !viewer.MayAt(touch.Work, touch.Type!)) return $"You may {Works.InWords(touch.Work)}, but not at {type}.";
        return touch.Type is null ? $"You may {Works.InWords(touch.Work)}, but not for all record types at once." : $"You may {Works.InWords(touch.Work)} for people of {GrantWords.Listed([.. viewer.Rights.Where(right => right.Work == touch.Work).SelectMany(right => right.Companies).Distinct().Select(company => live.Host.Companies.FirstOrDefault(known => known.Code == company)?.Label ?? company)])} only.";
    }

    private IEnumerable<WorkTouch> OfLayer(Layer? old, Layer? now)
    {
        var companies = Meet(old, now);
        if (old is null || now is null || old.Audience != now.Audience || old.Label != now.Label || old.Comment != now.Comment)
        {
            // A layer for everyone comes into being with the first field that is placed.
            var types = old is null || now is null ? [] : old.Operations.Concat(now.Operations).Select(operation => operation.Screen ?? TypeOf(operation.Part)).Distinct();
            if ((old ?? now)!.Audience != Layer.Everyone || (old is not null && now is not null))
                foreach (var type in types.DefaultIfEmpty(WorkTouch.AnyType)) yield return new(Works.Arrange, type, companies);
        }

        var (were, are) = (Texts(old), Texts(now));
        foreach (var operation in (old?.Operations ?? []).Where(operation => !are.Contains(SiteDefinition.Text(operation))).Concat((now?.Operations ?? []).Where(operation => !were.Contains(SiteDefinition.Text(operation)))))
        {
            // Where an added field stands for everyone is part of defining it.
            var places = (old ?? now)!.Audience == Layer.Everyone && operation.IsStanding && Both(site => site.Find(operation.Part)).Any();
            yield return new(places ? Works.Define : Works.Arrange, operation.Screen ?? TypeOf(operation.Part), companies);
        }
    }

    private static HashSet<string> Texts(Layer? layer) => [.. (layer?.Operations ?? []).Select(SiteDefinition.Text)];

    private static IReadOnlyList<string>? Meet(Layer? old, Layer? now) => CompaniesOf([.. new[] { old, now }.OfType<Layer>().Select(layer => layer.Audience)]);

    // The companies whose people alone are meant; null when others may be.
    private static List<string>? CompaniesOf(IReadOnlyList<string> audiences)
    {
        var companies = new List<string>();
        foreach (var text in audiences)
        {
            if (!Audience.TryParse(text, out var audience) || audience.Kind != AudienceKind.Company) return null;
            companies.Add(audience.Code);
        }

        return companies;
    }

    // The record type that an id belongs to: of a field, added or built in, a record type, a list, or a part of a screen.
    internal string? TypeOf(string id)
    {
        foreach (var prefix in new[] { Grant.TypePrefix, "screen:", PartNames.List })
            if (id.StartsWith(prefix, StringComparison.Ordinal)) id = id[prefix.Length..];
        if (live.FindField(id) is { } field) return field.Part.RecordType.Code;
        if (Both(site => site.Find(id)).FirstOrDefault() is { } added) return added.RecordType;
        var first = id.Split('.', 2)[0];
        if (live.Find(first) is not null || Both(site => site.RecordTypes.FirstOrDefault(type => type.Code == first)).Any()) return first;
        return new[] { before, after }.SelectMany(site => site.Layers).SelectMany(layer => layer.Operations).FirstOrDefault(operation => operation.Part == id && operation.Screen is not null)?.Screen;
    }

    private IEnumerable<string> Changed<T>(Func<SiteDefinition, IReadOnlyList<T>> all, Func<T, string> id) => Changed(all(before), all(after), id);

    /// <summary>The ids of elements that differ.</summary>
    internal static IEnumerable<string> Changed<T>(IReadOnlyList<T> before, IReadOnlyList<T> after, Func<T, string> id)
    {
        var (old, now) = (Written(before, id), Written(after, id));
        return old.Keys.Union(now.Keys).Where(key => old.GetValueOrDefault(key) != now.GetValueOrDefault(key));
    }

    private static Dictionary<string, string> Written<T>(IEnumerable<T> all, Func<T, string> id) => all.GroupBy(id, StringComparer.Ordinal).ToDictionary(group => group.Key, group => string.Join('\n', group.Select(SiteDefinition.Text)), StringComparer.Ordinal);

    private IEnumerable<T> Both<T>(Func<SiteDefinition, T?> of) where T : class => new[] { of(before), of(after) }.OfType<T>();
}
