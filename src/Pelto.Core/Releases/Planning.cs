using System.Globalization;
using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Releases;

/// <summary>Works a plan out, field by field.</summary>
internal sealed class Planning(Catalogue live, Catalogue draft, StorageFacts facts)
{
    private readonly List<PlannedChange> changes = [];
    private readonly List<PlanStep> before = [];
    private readonly List<PlanStep> after = [];
    private readonly List<Problem> problems = [.. draft.Problems];

    public Plan Make()
    {
        foreach (var definition in draft.Site.Fields)
        {
            var old = live.Site.Find(definition.Id);
            if (old is not null) RefuseWhatLasts(old, definition);
            if (draft.FindField(definition.Id) is not { } field) ShowBroken(old, definition);
            else Plan(field, definition, old);
        }

        foreach (var gone in live.Site.Fields.Where(old => draft.Site.Find(old.Id) is null)) TakeOff(gone);
        MoveBuiltIn();
        return new(changes, before, after, problems);
    }

    private void RefuseWhatLasts(FieldDefinition old, FieldDefinition now)
    {
        if (old.Code != now.Code) problems.Add(new(now.Id, "code", $"The code of a live field stays: it was {old.Code}. The label can be changed at any time."));
        if (old.Kind != now.Kind) problems.Add(new(now.Id, "kind", $"The kind of a live field stays: it was {old.Kind}. Define another field for another kind of value."));
        if (old.RecordType != now.RecordType || old.Part != now.Part) problems.Add(new(now.Id, "part", "A live field stays with the record type and the part that it was made for."));
    }

    // Left out of the draft's catalogue because of a problem: still listed, so that the plan is not taken for empty.
    private void ShowBroken(FieldDefinition? old, FieldDefinition definition)
    {
        if (old == definition || (draft.Find(definition.RecordType) ?? draft.RecordTypes.FirstOrDefault()) is not { } type) return;
        changes.Add(new(definition.Id, type, $"{(old is null ? "Adds" : "Changes")} {Named(definition)}.", "Cannot go live as it is."));
    }

    private void Plan(Field field, FieldDefinition definition, FieldDefinition? old)
    {
        var type = field.Part.RecordType;
        if (old is null) changes.Add(new(definition.Id, type, $"Adds {field.Label} ({field.Kind.Label.ToLowerInvariant()}) to {field.Part.Plural.ToLowerInvariant()}, {Where(field)}.", EffectOfNew(field)));
        else DescribeChanges(field, definition, old);

        if (facts.Column(field) is { } column && column.FieldId != definition.Id)
        {
            problems.Add(new(definition.Id, "code", $"The code {field.Code} belonged to a field that was taken out, and its data is still kept. Choose another code."));
            return;
        }

        if (facts.Column(field) is { } kept && kept.Type != field.Kind.Column)
        {
            problems.Add(new(definition.Id, "kind", "Data of another kind is still kept for this field. Bring it back with the kind that it had, or define another field."));
            return;
        }

        if (facts.Misfits.GetValueOrDefault(definition.Id) is > 0 and var misfits)
            problems.Add(new(definition.Id, RuleProperty(field.Kind), $"{Count(misfits, "value")} on file would not fit. Change them first, or leave room for them."));
        PlanStorage(field);
    }

    private void PlanStorage(Field field)
    {
        var isNew = facts.Column(field) is null;
        if (facts.Table(field.Part) is null && !before.OfType<CreateTable>().Any(step => step.Part == field.Part)) before.Add(new CreateTable(field.Part));
        if (isNew) before.Add(new AddColumn(field));

        var wanted = AddCheck.For(field).ToList();
        before.AddRange(facts.ChecksOf(field).Where(check => wanted.TrueForAll(step => step.Name != check.Name)).Select(check => new DropCheck(field, check.Name)));

        // A tightened rule waits until the new release is live: under the old one, people may still enter what it allowed.
        // So does looking through the rows on file, which nobody has to wait for.
        foreach (var check in wanted)
        {
            if (!check.IsDone(facts)) (isNew ? before : after).Add(check);
            var validate = new ValidateCheck(field, check.Name);
            if (!validate.IsDone(facts)) after.Add(validate);
        }
    }

    private string EffectOfNew(Field field)
    {
        var type = field.Part.RecordType;
        var known = facts.Records.TryGetValue(type.Code, out var records) ? $"The {Numbers.Format(records)} {type.Plural.ToLowerInvariant()} on file get no value" : "Records on file get no value";
        var start = string.IsNullOrWhiteSpace(field.Content.StartingValue) ? "new ones begin empty" : $"new ones begin with {Shown(field, field.Content.StartingValue)}";
        var needed = field.Required ? " It is needed: a record without it is asked for it when it is next saved." : "";
        return $"{known}; {start}.{needed} Everyone who sees {type.Plural.ToLowerInvariant()} sees it.";
    }

    private void DescribeChanges(Field field, FieldDefinition now, FieldDefinition old)
    {
        var type = field.Part.RecordType;
        void Say(string sentence, string effect) => changes.Add(new(now.Id, type, sentence, effect));

        if (old.Label != now.Label) Say($"Renames {old.Label} to {now.Label}.", "Wherever people read it; nothing else changes.");
        if (old.Heading != now.Heading) Say($"The column heading of {now.Label} becomes “{field.Heading}”.", "In lists and lines.");
        if (old.Help != now.Help) Say($"Changes the help text of {now.Label}.", "Shown beside the field.");
        if (old.Length != now.Length) Say($"{now.Label} takes {now.Length ?? 30} characters instead of {old.Length ?? 30}.", "Values on file stay as they are.");
        if (old.Digits != now.Digits || old.Decimals != now.Decimals)
            Say($"{now.Label} takes {now.Digits ?? 10} digits, {now.Decimals ?? 2} of them after the point.", "Values on file stay as they are.");
        if (!(old.Choices ?? []).SequenceEqual(now.Choices ?? [])) Say($"Changes the choices of {now.Label}: {ChoiceChanges(old, now)}.", "Values on file stay as they are.");
        if (old.StartingValue != now.StartingValue) Say($"New records begin with {Shown(field, now.StartingValue)} in {now.Label}.", "Records on file stay as they are.");
        if (old.Required != now.Required) Say(now.Required ? $"{now.Label} is needed from now on." : $"{now.Label} may be left empty.", now.Required ? "A record without it is asked for it when it is next saved." : "Nobody is asked for it any more.");
        if (live.Site.PlacementOf(now.Id) != draft.Site.PlacementOf(now.Id)) Say($"{now.Label} stands {Where(field)}.", $"On the screen of everyone who sees {type.Plural.ToLowerInvariant()}.");
    }

    private void TakeOff(FieldDefinition gone)
    {
        if (live.FindField(gone.Id) is { } field)
            changes.Add(new(gone.Id, field.Part.RecordType, $"Takes {gone.Label} out of use.", "It leaves all screens, lists and the programming interface. What was entered stays in the database."));
    }

    private void MoveBuiltIn()
    {
        foreach (var type in draft.RecordTypes)
            foreach (var field in type.Parts.SelectMany(part => part.Fields).Where(field => !field.IsAdded))
                if (live.Site.PlacementOf(field.Id) != draft.Site.PlacementOf(field.Id))
                    changes.Add(new(field.Id, type, $"{field.Label} stands {Where(field)}.", $"On the screen of everyone who sees {type.Plural.ToLowerInvariant()}."));
    }

    private static string Where(Field field)
    {
        foreach (var section in field.Part.RecordType.Screen.Layout.Sections)
        {
            var at = section.Places.ToList().FindIndex(place => place.Field == field);
            if (at >= 0) return at == 0 ? $"first in {section.Label}" : $"after {section.Places[at - 1].Field.Label}";
        }

        return "on no screen";
    }

    private static string ChoiceChanges(FieldDefinition old, FieldDefinition now)
    {
        var (was, becomes) = (old.Choices ?? [], now.Choices ?? []);
        var said = new List<string>();
        var added = becomes.Where(choice => was.All(other => other.Code != choice.Code)).Select(choice => choice.Label).ToList();
        var gone = was.Where(choice => becomes.All(other => other.Code != choice.Code)).Select(choice => choice.Label).ToList();
        var renamed = becomes.Where(choice => was.Any(other => other.Code == choice.Code && other.Label != choice.Label)).Select(choice => choice.Label).ToList();
        if (added.Count > 0) said.Add("adds " + string.Join(", ", added));
        if (gone.Count > 0) said.Add("takes away " + string.Join(", ", gone));
        if (renamed.Count > 0) said.Add("renames to " + string.Join(", ", renamed));
        return said.Count == 0 ? "another order" : string.Join("; ", said);
    }

    private static string Shown(Field field, string? start) => string.IsNullOrWhiteSpace(start) ? "nothing" : field.Kind.Parse(start) is { Refusal: null } parsed ? field.Kind.Format(parsed.Value) : start;

    private static string Named(FieldDefinition definition) => string.IsNullOrWhiteSpace(definition.Label) ? "a field without a label" : definition.Label;

    private static string RuleProperty(FieldKind kind) => kind switch { TextKind => "length", DecimalKind => "digits", ChoiceKind => "choices", _ => "kind" };

    private static string Count(long count, string one) => string.Create(CultureInfo.InvariantCulture, $"{Numbers.Format(count)} {one}{(count == 1 ? "" : "s")}");
}
