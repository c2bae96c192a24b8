using Pelto.Core.Access;
using Pelto.Core.Formulas;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Record types of the site's own, with their lines and public forms.</summary>
public sealed class RecordTypeSort : ElementSort<RecordTypeDefinition>
{
    /// <inheritdoc/>
    public override string Name => "record type";

    internal override string OrderTakes => AdminWork.Define;

    /// <inheritdoc/>
    public override string PageOf(string id) => $"/setup/types/{id}";

    /// <inheritdoc/>
    protected override IReadOnlyList<RecordTypeDefinition> All(SiteDefinition site) => site.RecordTypes;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<RecordTypeDefinition> all) => site with { RecordTypes = all };

    /// <inheritdoc/>
    protected override bool IsShown(RecordTypeDefinition element, SiteDefinition site, SiteViews views) => views.SeesType(element.Code);

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change)
    {
        var codes = Both(id, change).Select(type => type.Code).Distinct().ToList();
        foreach (var code in codes)
            yield return new(AdminWork.Define, code);

        // Who may do what with its records, and what people outside may send and find, is access. A type that nobody has yet holds nothing.
        var isLive = change.Live.Site.FindType(id) is not null;
        if (GivenBy(change.Before.FindType(id), isLive) == GivenBy(change.After.FindType(id), isLive))
            yield break;
        foreach (var code in codes)
            yield return new(AdminWork.Grant, code);
    }

    private static string GivenBy(RecordTypeDefinition? type, bool isLive)
    {
        if (type is null || (!isLive && type.PublicForm is null))
            return "";
        var rights = new[]
        {
            SiteDefinition.Text(type.Read),
            SiteDefinition.Text(type.Write),
            SiteDefinition.Text(type.Create),
            SiteDefinition.Text(type.Delete),
        };
        return string.Join('\n', rights.Append(SiteDefinition.Text(type.PublicForm)));
    }

    internal override IEnumerable<Formula> Asks(SiteChange change, Catalogue next)
    {
        var changed = change.Changed(this).ToHashSet(StringComparer.Ordinal);
        return next.RecordTypes.Where(type => type.PublicForm is not null && changed.Contains(type.Definition!.Id)).SelectMany(Released);

        static IEnumerable<Formula> Released(RecordType type) =>
            type
                .Parts.SelectMany(part => part.Fields)
                .Where(type.PublicForm!.Asks)
                .Select(type.PublicForm!.ReleasedBy)
                .OfType<Narrowing>()
                .Select(released => released.Condition);
    }

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(RecordTypeDefinition? before, RecordTypeDefinition? after, SiteComparison of)
    {
        // One that is left out, instead of retired, is no change but a problem.
        if (after is null)
            yield break;
        var type = of.Draft.Find(after.Code) ?? of.Live.Find(after.Code) ?? of.AnyType;
        var name = string.IsNullOrWhiteSpace(after.Plural) ? "a record type without a label" : after.Plural;
        if (before is null || (before.Retired && !after.Retired))
        {
            var lines = string.Join(" and ", after.Lines.Select(lines => lines.Plural.ToLowerInvariant()));
            yield return new(
                after.Id,
                type,
                before is null
                    ? $"Adds the record type {name}{(lines.Length > 0 ? $" with {lines}" : "")}."
                    : $"Brings the record type {name} back.",
                "It has a list, a screen and a place in the programming interface at once. "
                    + $"{RecordTypeWords.Begins(after.Numbering, before is not null)}"
            );
        }
        else if (after.Retired && !before.Retired)
        {
            yield return new(
                after.Id,
                type,
                $"Retires the record type {name}.",
                "It leaves the menu, all lists and the programming interface. Its records stay on file, and it can be brought back."
            );
        }
        else if (!after.Retired)
        {
            foreach (var (sentence, effect) in Changed(after, before))
                yield return new(after.Id, type, sentence, effect);
        }
    }

    private static IEnumerable<(string Sentence, string Effect)> Changed(RecordTypeDefinition now, RecordTypeDefinition old)
    {
        if (old.Label != now.Label || old.Plural != now.Plural)
            yield return (
                $"Renames {old.Label} and {old.Plural} to {now.Label} and {now.Plural}.",
                "Wherever people read it; nothing else changes."
            );
        if (old.Numbering != now.Numbering)
            yield return (
                $"Changes how {now.Plural.ToLowerInvariant()} are numbered.",
                RecordTypeWords.Changes(now.Numbering, old.Numbering)
            );
        foreach (var lines in now.Lines.Where(lines => old.Lines.All(other => other.Code != lines.Code)))
            yield return ($"Gives {now.Plural.ToLowerInvariant()} lines: {lines.Plural}.", "Records on file have none yet.");
        if (now.Lines.Any(lines => old.Lines.Any(other => other.Code == lines.Code && other != lines)))
            yield return ($"Changes what people call lines of {now.Plural.ToLowerInvariant()}.", "Nothing else changes.");
        if (
            !old.Read.SequenceEqual(now.Read)
            || !old.Write.SequenceEqual(now.Write)
            || !SiteDefinition.Same(old.Create, now.Create)
            || !SiteDefinition.Same(old.Delete, now.Delete)
        )
            yield return ($"Changes who may read, create, change and delete {now.Plural.ToLowerInvariant()}.", "At once, everywhere.");
        if (!SiteDefinition.Same(old.PublicForm, now.PublicForm))
            yield return (now, old) switch
            {
                ({ PublicForm: null }, _) => (
                    $"Removes the public form of {now.Plural.ToLowerInvariant()}.",
                    "Its address no longer works; what was sent in stays."
                ),
                (_, { PublicForm: null }) => (
                    $"Gives {now.Plural.ToLowerInvariant()} a public form, {now.PublicForm.Title}.",
                    "Whoever has its address can send them in without signing in; each waits until somebody accepts it."
                ),
                _ when old.PublicForm.Address != now.PublicForm.Address => (
                    $"Gives the public form of {now.Plural.ToLowerInvariant()} another address.",
                    "The old one no longer works."
                ),
                _ when old.PublicForm.Closed != now.PublicForm.Closed => (
                    now.PublicForm.Closed
                        ? $"Closes the public form of {now.Plural.ToLowerInvariant()}."
                        : $"Opens the public form of {now.Plural.ToLowerInvariant()} again.",
                    "At once, for everyone who has its address."
                ),
                _ => ($"Changes the public form of {now.Plural.ToLowerInvariant()}.", "At once, for everyone who has its address."),
            };
    }
}
