using Pelto.Core.Binding;
using Pelto.Core.Layouts;

namespace Pelto.Core.Updates;

/// <summary>What another version of the host changes of its own.</summary>
/// <param name="RecordType">The code of the record type.</param>
/// <param name="Part">The lasting id of the field, section or page.</param>
/// <param name="Sentence">What changes, for people.</param>
public sealed record HostChange(string RecordType, string Part, string Sentence);

/// <summary>Holds two versions of the host against each other: what is built in, and where it stands before any layer.</summary>
internal sealed class HostChanges
{
    private readonly List<HostChange> changes = [];
    private readonly List<string> refusals = [];

    public HostChanges(HostDescription from, HostDescription to)
    {
        var (before, after) = (Bare(from), Bare(to));
        foreach (var old in before.RecordTypes.Where(old => after.Find(old.Code) is null))
            refusals.Add($"{old.Plural} are not in {to.Version}: what was added to them would be lost.");
        foreach (var type in after.RecordTypes)
        {
            if (before.Find(type.Code) is not { } old)
                refusals.Add(
                    $"{type.Plural} are new in {to.Version}: tables of the ERP are made by its own set-up, which Pelto does not do."
                );
            else
                Compare(old, type);
        }
    }

    public IReadOnlyList<HostChange> All => changes;

    /// <summary>Why the version cannot be gone to.</summary>
    public IReadOnlyList<string> Refusals => refusals;

    private static Catalogue Bare(HostDescription host) => Catalogue.Build(0, host, SiteDefinition.Nothing);

    private void Compare(RecordType old, RecordType type)
    {
        if (old.Label != type.Label || old.Plural != type.Plural)
            Say(type, type.Code, $"{old.Plural} are called {type.Plural}.");
        foreach (var gone in old.LineParts.Where(part => type.FindPart(part.Code) is null))
            refusals.Add(
                $"{gone.Plural} of {old.Plural.ToLowerInvariant()} are not in the other version: what was added to them would be lost."
            );
        foreach (var made in type.LineParts.Where(part => old.FindPart(part.Code) is null))
            refusals.Add(
                $"{made.Plural} of {type.Plural.ToLowerInvariant()} are new: "
                    + "tables of the ERP are made by its own set-up, which Pelto does not do."
            );
        var (were, are) = (PlacesOf(old), PlacesOf(type));
        foreach (var field in type.Parts.SelectMany(part => part.Fields))
            Compare(old, field, were.GetValueOrDefault(field.Id), are.GetValueOrDefault(field.Id));
        foreach (var gone in old.Parts.SelectMany(part => part.Fields).Where(field => !type.TryFindField(field.Id, out _)))
            Say(
                type,
                gone.Id,
                $"{gone.Label} is removed. What records hold in it stays in the ERP's table, and comes back with the field."
            );
        Compare(
            type,
            old.Description.Screen.Pages.Select(page => (page.Id, page.Label)),
            type.Description.Screen.Pages.Select(page => (page.Id, page.Label)),
            "page"
        );
        Compare(
            type,
            old.Description.Screen.Pages.SelectMany(page => page.Sections).Select(section => (section.Id, section.Label)),
            type.Description.Screen.Pages.SelectMany(page => page.Sections).Select(section => (section.Id, section.Label)),
            "section"
        );
    }

    private void Compare(
        RecordType old,
        Field field,
        (LayoutPage Page, LayoutSection Section) was,
        (LayoutPage Page, LayoutSection Section) stands
    )
    {
        var type = field.Part.RecordType;
        if (!old.TryFindField(field.Id, out var before))
        {
            if (field.Kind.IsOneLink)
                refusals.Add($"{field.Label} is a new link: the ERP's own set-up has to make it.");
            Say(
                type,
                field.Id,
                $"{field.Label} is new ({field.KindInWords}){(stands.Section is { } section ? $", in {section.Label} on the page {stands.Page.Label}" : "")}."
            );
            return;
        }

        if (before.Content.Kind != field.Content.Kind || before.Target?.Code != field.Target?.Code)
            refusals.Add($"{field.Label} becomes {field.KindInWords}: the ERP's own set-up has to change it.");
        if (before.Code != field.Code)
            Say(
                type,
                field.Id,
                $"{field.Label} has the code {field.Code} instead of {before.Code}; who still sends the old one is understood."
            );
        if (before.Label != field.Label)
            Say(type, field.Id, $"{before.Label} is called {field.Label}.");
        if (was.Page is null || stands.Page is null || was.Section.Id == stands.Section.Id)
            return;
        Say(
            type,
            field.Id,
            was.Page.Id == stands.Page.Id
                ? $"{field.Label} moves to the section {stands.Section.Label}."
                : $"{field.Label} moves from the page {was.Page.Label} to the page {stands.Page.Label}, section {stands.Section.Label}."
        );
    }

    private void Compare(
        RecordType type,
        IEnumerable<(string Id, string Label)> before,
        IEnumerable<(string Id, string Label)> after,
        string what
    )
    {
        var (were, are) = (
            before.ToDictionary(part => part.Id, part => part.Label, StringComparer.Ordinal),
            after.ToDictionary(part => part.Id, part => part.Label, StringComparer.Ordinal)
        );
        foreach (var (id, label) in are)
        {
            if (!were.TryGetValue(id, out var old))
                Say(type, id, $"The {what} {label} is new.");
            else if (old != label)
                Say(type, id, $"The {what} {old} is called {label}.");
        }

        foreach (var (id, label) in were.Where(part => !are.ContainsKey(part.Key)))
            Say(type, id, $"The {what} {label} is removed.");
    }

    // Where each field stands on the base screen.
    private static Dictionary<string, (LayoutPage Page, LayoutSection Section)> PlacesOf(RecordType type) =>
        type
            .Screen.Layout.Pages.SelectMany(page =>
                page.Sections.SelectMany(section => section.Places.Select(place => (place.Id, page, section)))
            )
            .DistinctBy(place => place.Id)
            .ToDictionary(place => place.Id, place => (place.page, place.section), StringComparer.Ordinal);

    private void Say(RecordType type, string part, string sentence) => changes.Add(new(type.Code, part, sentence));
}
