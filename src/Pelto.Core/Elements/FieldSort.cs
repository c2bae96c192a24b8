using System.Text.Json;
using Pelto.Core.Access;
using Pelto.Core.Formulas;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Added fields. Where the layer for everyone places one counts as part of it.</summary>
public sealed class FieldSort : ElementSort<FieldDefinition>
{
    /// <inheritdoc/>
    public override string Name => "field";

    internal override string OrderTakes => AdminWork.Define;

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/fields/{id}";

    /// <summary>The live fields that a definition, or one of its places, stands for.</summary>
    /// <param name="id">The id of the definition, or of the field in one place.</param>
    /// <param name="live">What is live.</param>
    internal static IEnumerable<Field> Placed(string id, Catalogue live) =>
        live
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.AddedFields)
            .Where(field => field.Definition!.Id == id || field.Id == id);

    /// <inheritdoc/>
    public override string? Text(SiteDefinition site, string id)
    {
        if (site.Find(id) is not { } field)
            return null;
        if (site.PlacementOf(id) is not { } placement)
            return SiteDefinition.Text(field);
        var place = placement.Op == LayerOperation.Hide ? "on no screen" : $"after {placement.After}";

        // Written behind the rest: the history of a thousand releases asks this of each field in each.
        return $"{SiteDefinition.Text(field)[..^2]},\n  \"place\": {JsonSerializer.Serialize(place, SiteDefinition.Json)}\n}}";
    }

    /// <inheritdoc/>
    protected override FieldDefinition? Find(SiteDefinition site, string id) => site.Find(id);

    /// <inheritdoc/>
    protected override IReadOnlyList<FieldDefinition> All(SiteDefinition site) => site.Fields;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<FieldDefinition> all) => site with { Fields = all };

    /// <inheritdoc/>
    protected override bool IsShown(FieldDefinition element, SiteDefinition site, SiteViews views) => views.Sees(element);

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change)
    {
        var (old, now) = (change.Before.Find(id), change.After.Find(id));
        var types = Both(id, change).SelectMany(field => field.Places()).Select(place => place.RecordType).Distinct().ToList();
        if (!SiteDefinition.Same(Unheld(old), Unheld(now)))
            foreach (var type in types)
                yield return new(AdminWork.Define, type);
        if (Freed(id, change).Count > 0 || IsHeldByHand(id, change))
            foreach (var type in types)
                yield return new(AdminWork.Grant, type);
        if (now?.ReadBack == true && old?.ReadBack != true)
            yield return new(AdminAction.Administration, null);
    }

    internal override IEnumerable<AccessGiven> Gives(string id, SiteChange change) => [new(Freed(id, change), AccessLevel.Read, null)];

    internal override IEnumerable<Field> OnFile(string id, SiteChange change) => Placed(id, change.Live).Where(field => field.IsStored);

    internal override IEnumerable<Formula> Asks(SiteChange change, Catalogue next)
    {
        var changed = Changed(change.Before.Fields.Select(Unworded), change.After.Fields.Select(Unworded))
            .ToHashSet(StringComparer.Ordinal);
        return next
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.AddedFields)
            .Where(field => changed.Contains(field.Definition!.Id))
            .SelectMany(field => new[] { field.Rules.RequiredWhen, field.Rules.ShownWhen, field.Rules.Check, field.Narrowing?.Condition })
            .OfType<Formula>();
    }

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(SiteComparison of)
    {
        var words = new FieldDifferences(of);
        foreach (var now in of.Draft.Site.Fields)
        {
            var old = of.Live.Site.Find(now.Id);
            var isBroken = !now.Retired && now.Places().All(place => of.Draft.FindField(now.IdIn(place)) is null);
            foreach (var change in isBroken ? Broken(old, now, of) : words.Between(now, old))
                yield return change;
        }

        foreach (var gone in of.Live.Site.Fields.Where(IsTakenOff))
        foreach (var change in words.TakenOff(gone))
            yield return change;

        bool IsTakenOff(FieldDefinition old) =>
            of.Draft.Site.Find(old.Id) is null && of.Draft.Site.Removed.All(removed => removed.Id != old.Id);
    }

    // Left out of the draft's catalogue because of a problem: still listed, so that the plan is not taken for empty.
    private static IEnumerable<PlannedChange> Broken(FieldDefinition? old, FieldDefinition now, SiteComparison of)
    {
        if (old is not null && SiteDefinition.Same(old, now))
            return [];
        if ((of.Draft.Find(now.RecordType) ?? of.Draft.RecordTypes.FirstOrDefault()) is not { } type)
            return [];
        var label = string.IsNullOrWhiteSpace(now.Label) ? "a field without a label" : now.Label;
        return [new(now.Id, type, $"{(old is null ? "Adds" : "Changes")} {label}.", "Cannot go live as it is.")];
    }

    // How a field is called asks nothing.
    private static FieldDefinition Unworded(FieldDefinition field) => field with { Label = "", Heading = null, Help = null, Texts = null };

    private static FieldDefinition? Unheld(FieldDefinition? field) => field is null ? null : field with { HeldFrom = [] };

    // What values on file came from, and a change says that it does not count any more.
    private static List<string> Freed(string id, SiteChange change) =>
        change.Before.Find(id) is { } old && change.After.Find(id) is { } now ? [.. old.HeldFrom.Except(now.HeldFrom)] : [];

    // To say by hand that a value came from somewhere keeps it from people; what it did come from is written down by itself.
    private static bool IsHeldByHand(string id, SiteChange change)
    {
        var held = change.Before.Find(id)?.HeldFrom ?? [];
        if (change.After.Find(id) is not { } now || now.HeldFrom.Except(held).ToList() is not { Count: > 0 } added)
            return false;
        var byItself = GuardInheritance.Keep(change.Before, change.After.With(now with { HeldFrom = held }), change.Live).Find(id)?.HeldFrom
            ?? [];
        return added.Except(byItself).Any();
    }
}
