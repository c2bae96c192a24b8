using Pelto.Core.Access;
using Pelto.Core.Binding;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Layouts;

namespace Pelto.Core.Elements;

/// <summary>What whoever writes definitions must know themselves. A condition that asks what its author may not read would answer them, a question at a time; so would a rule that values on file have to fit.</summary>
/// <param name="before">The definitions as they were.</param>
/// <param name="after">The definitions as they became.</param>
/// <param name="live">What is live: what the author reads counts by that as well.</param>
internal sealed class AuthorRules(SiteDefinition before, SiteDefinition after, Catalogue live)
{
    private readonly Catalogue next = Catalogue.Build(live.Release, live.Host, after);

    /// <summary>Why somebody may not make this change, as a sentence; null when they may.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="administrators">From whom only an administrator withholds.</param>
    public string? Refuse(Viewer viewer, IReadOnlyList<Viewer> administrators)
    {
        foreach (var id in Changed(site => site.Fields, field => field.Id).Concat(Changed(site => site.Removed, removed => removed.Id)))
            if (Placed(id).FirstOrDefault(field => field.IsStored && viewer.SureAt(field) < AccessLevel.Read) is { } unread) return Unread(viewer, unread);
        foreach (var id in Changed(site => site.ChoiceLists, list => list.Id))
            if (before.Fields.Where(field => field.ChoiceList == id).SelectMany(field => Placed(field.Id)).FirstOrDefault(field => viewer.SureAt(field) < AccessLevel.Read) is { } unread) return Unread(viewer, unread);
        var changed = Changed(site => site.Fields.Select(Unworded).ToList(), field => field.Id).Concat(Changed(site => site.Grants, grant => grant.Id))
            .Concat(Changed(site => site.RecordTypes, type => type.Id)).Concat(Said()).ToHashSet(StringComparer.Ordinal);
        if (Conditions().FirstOrDefault(one => changed.Contains(one.Element) && !Knows(viewer, one.Condition)) is { Condition: { } asked }) return $"“{asked.Text}” asks what you may not read of all records, so you cannot let it decide anything.";
        foreach (var grant in Changed(site => site.Grants, grant => grant.Id).Select(after.FindGrant).Where(grant => grant?.Does == Grant.Withhold))
            if (administrators.FirstOrDefault(person => grant!.To.Any(text => Audience.TryParse(text, out var whom) && whom.Holds(person, live.Host.Companies))) is { } kept) return $"This would withhold something from {kept.Name}, who is an administrator: only administrators do that.";
        return null;
    }

    private string Unread(Viewer viewer, Field field) => viewer.LevelAt(field) == AccessLevel.None
        ? "This is about a field that you may not see: somebody who may has to change it." : $"You may not read {field.Label} of all {field.Part.Plural.ToLowerInvariant()}, so you cannot change what it takes.";

    // As they are live: what is only drafted holds nothing yet.
    private IEnumerable<Field> Placed(string id) => live.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.AddedFields).Where(field => field.Definition!.Id == id || field.Id == id);

    // By the draft, and by what is live: nobody opens something for themselves on the way.
    private bool Knows(Viewer viewer, Formula condition) =>
        condition.Reads.Concat(condition.Watches).All(read => viewer.ReadsWhereRead(read) && (live.FindField(read.Id) is not { } same || viewer.ReadsWhereRead(same))) && condition.Reaches.All(read => viewer.ReadsAll(read, live));

    // All that decides something, with the element that says it.
    private IEnumerable<(string Element, Formula Condition)> Conditions()
    {
        foreach (var type in next.RecordTypes)
        {
            foreach (var grant in type.Guarding.On(type).Concat(type.Parts.SelectMany(part => part.Fields).SelectMany(type.Guarding.On)))
                if (grant.When is { } when) yield return (grant.Grant.Id, when);
            foreach (var field in type.Parts.SelectMany(part => part.AddedFields))
                foreach (var condition in new[] { field.Rules.RequiredWhen, field.Rules.ShownWhen, field.Rules.Check, field.Narrowing?.Condition }.OfType<Formula>()) yield return (field.Definition!.Id, condition);
            foreach (var (layer, condition) in type.Screens.Conditions) yield return (Spoken(layer, condition.Text), condition);
            if (type.PublicForm is { } form)
                foreach (var released in type.Parts.SelectMany(part => part.Fields).Where(form.Asks).Select(form.ReleasedBy).OfType<Narrowing>()) yield return (type.Own!.Id, released.Condition);
        }
    }

    // How a field is called asks nothing.
    private static FieldDefinition Unworded(FieldDefinition field) => field with { Label = "", Heading = null, Help = null, Texts = null };

    // Layers are shared: of each, what is newly said counts, and not what others said in it before.
    private IEnumerable<string> Said()
    {
        foreach (var layer in after.Layers)
        {
            // To other people, all of it is newly said.
            var old = before.FindLayer(layer.Id) is { } same && same.Audience == layer.Audience ? same.Operations : [];
            var known = old.Select(SiteDefinition.Text).ToHashSet(StringComparer.Ordinal);
            foreach (var operation in layer.Operations)
                if (operation.When is { } when && !known.Contains(SiteDefinition.Text(operation))) yield return Spoken(layer, when);
        }
    }

    private static string Spoken(Layer layer, string condition) => $"{layer.Id} {condition}";

    private IEnumerable<string> Changed<T>(Func<SiteDefinition, IReadOnlyList<T>> all, Func<T, string> id) => WorkRules.Changed(all(before), all(after), id);
}
