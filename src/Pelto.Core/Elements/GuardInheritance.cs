using Pelto.Core.Access;
using Pelto.Core.Binding;

namespace Pelto.Core.Elements;

/// <summary>
/// A stored value keeps its guard, whatever becomes of definitions: where a field no longer reads what its values on file came from, it
/// goes on being kept from whoever may not read that. What it came from stands in <see cref="FieldDefinition.HeldFrom"/>.
/// </summary>
/// <remarks>
/// It is calculated with every change of the draft, from what is live, whatever the change says of it. It is taken out again only by
/// itself: an entry that the draft had and the change leaves out, which <see cref="AdminRules"/> lets those do who may give access.
/// </remarks>
public static class GuardInheritance
{
    /// <summary>The definitions as they became, with what has to be kept.</summary>
    /// <param name="before">The draft as it was.</param>
    /// <param name="after">The draft as somebody wants it.</param>
    /// <param name="live">What is live.</param>
    public static SiteDefinition Keep(SiteDefinition before, SiteDefinition after, Catalogue live)
    {
        if (SiteDefinition.Same(before.Fields, after.Fields) && SiteDefinition.Same(before.Removed, after.Removed))
            return after;
        var (filled, now) = (Whole(live, live.Site), Whole(live, after));
        var was = SiteDefinition.Same(before, live.Site) ? filled : Whole(live, before);
        var stored = after with { Fields = [.. after.Fields.Select(field => Kept(field))] };

        // What leaves keeps its guard for when it comes back, and so does what was removed before.
        foreach (var gone in live.Site.Fields.Where(field => before.Find(field.Id) is not null && after.Find(field.Id) is null))
        {
            var ids = gone.Places().Select(gone.IdIn).Append(gone.Id).ToHashSet(StringComparer.Ordinal);
            var held = Behind(filled, gone.Id).Concat(gone.HeldFrom).Distinct().ToList();
            stored = stored with
            {
                Guards = [.. stored.Guards, .. before.Guards.Where(guard => ids.Contains(guard.On) && stored.GuardOf(guard.On) is null)],
                Removed = [.. stored.Removed.Select(removed => ids.Contains(removed.Id) ? removed with { HeldFrom = held } : removed)],
            };
        }

        var lost = live.Site.Removed.Where(removed =>
            stored.Removed.All(other => other.Id != removed.Id) && stored.Fields.All(field => field.Id != removed.Id.Split('@')[0])
        );
        return stored with
        {
            Removed =
            [
                .. lost,
                .. stored.Removed.Select(removed =>
                    live.Site.Removed.FirstOrDefault(known => known.Id == removed.Id) is { } known
                        ? removed with
                        {
                            HeldFrom = known.HeldFrom,
                        }
                        : removed
                ),
            ],
        };

        FieldDefinition Kept(FieldDefinition field)
        {
            IEnumerable<string> came = before.Find(field.Id) is { } old
                ? Behind(was, field.Id).Intersect(Behind(filled, field.Id)).Except(old.HeldFrom).Except(Behind(now, field.Id))
                : live
                    .Site.Removed.Where(removed => removed.Id.Split('@')[0] == field.Id)
                    .SelectMany(removed => removed.HeldFrom ?? [])
                    .Concat(Behind(filled, field.Id).Except(Behind(now, field.Id)))
                    .Concat(live.Site.Find(field.Id)?.HeldFrom ?? []);
            var held = field.HeldFrom.Concat(came).Distinct().ToList();
            return held.SequenceEqual(field.HeldFrom) ? field : field with { HeldFrom = held };
        }
    }

    /// <summary>
    /// True when what a value came from is kept from anybody just now; what nothing guards holds nothing back until something does.
    /// </summary>
    public static bool Holds(Catalogue catalogue, string id) =>
        catalogue.FindField(id) is not { } field
        || catalogue.Guarding.Restrains(field)
        || catalogue.Guarding.GuardOf(field.Part.RecordType) is not null;

    // Retired fields are brought back for this: what they hold is there.
    private static ILookup<string, Field> Whole(Catalogue live, SiteDefinition site) =>
        Catalogue
            .Build(live.Release, live.Host, site with { Fields = [.. site.Fields.Select(field => field with { Retired = false })] })
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.AddedFields)
            .Where(field => field.IsStored)
            .ToLookup(field => field.Definition!.Id, StringComparer.Ordinal);

    // All that the stored values of a field are calculated from, however far back; nothing for what is calculated when it is read.
    private static HashSet<string> Behind(ILookup<string, Field> stored, string id)
    {
        var (behind, own) = (new HashSet<Field>(), stored[id]);
        foreach (var field in own)
            Look(field);
        return [.. behind.Except(own).Select(field => field.Id)];

        void Look(Field field)
        {
            foreach (var input in field.GuardedBy.Concat(field.IsThroughLink ? field.Path : []))
                if (behind.Add(input))
                    Look(input);
        }
    }
}
