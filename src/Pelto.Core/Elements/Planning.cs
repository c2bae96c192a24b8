using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Core.Releases;
using Pelto.Core.Updates;

namespace Pelto.Core.Elements;

/// <summary>Makes a plan. What each difference means for people is said by the sorts of elements.</summary>
public sealed class Planning
{
    private readonly List<PlannedChange> changes = [];
    private readonly List<PlanStep> before = [];
    private readonly List<PlanStep> after = [];
    private readonly List<Problem> problems;
    private readonly IReadOnlyList<PlannedJob> jobs;
    private readonly Catalogue installed;
    private readonly Catalogue draft;
    private readonly StorageFacts facts;

    // What is live as it would be in the draft's version of the host, so that what an update writes anew is no change of anybody's.
    private readonly Catalogue live;

    private Planning(Catalogue installed, Catalogue live, Catalogue draft, StorageFacts facts) =>
        (this.installed, this.live, this.draft, this.facts, problems, jobs) = (
            installed,
            live,
            draft,
            facts,
            [.. draft.Problems],
            PlannedJobs.For(live, draft)
        );

    /// <summary>Determines what takes the live release to the draft.</summary>
    /// <param name="live">What is live.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="facts">What the database holds.</param>
    public static Plan Make(Catalogue live, Catalogue draft, StorageFacts facts) =>
        new Planning(live, HostUpdate.Moved(live, draft.Host), draft, facts).Make();

    private Plan Make()
    {
        PlanHost();
        foreach (var type in draft.Site.RecordTypes)
            PlanType(type);
        foreach (var definition in draft.Site.Fields)
        {
            var old = live.Site.Find(definition.Id);
            if (old is not null)
                RefuseWhatLasts(old, definition);
            var fields = PlanFor(draft, definition);
            foreach (var field in fields)
                PlanStorage(field, definition, old);
            if (definition.DropsEarlier)
                DropEarlier(definition, fields);
        }

        foreach (var removed in draft.Site.Removed)
            Remove(removed);
        RefuseTooMany();
        PlanFinding();
        foreach (var gone in live.Site.RecordTypes.Where(old => draft.Site.FindType(old.Id) is null))
            problems.Add(new(gone.Id, "id", $"{gone.Plural} are live: retire the record type instead of leaving it out."));
        var comparison = new SiteComparison(live, draft, facts, jobs);
        changes.AddRange(ElementSorts.All.SelectMany(sort => sort.Differences(comparison)));
        return new(changes, before, after, problems) { Jobs = jobs };
    }

    private static List<Field> PlanFor(Catalogue catalogue, FieldDefinition definition) =>
        [.. definition.Places().Select(definition.IdIn).Select(catalogue.FindField).OfType<Field>()];

    private void RefuseWhatLasts(FieldDefinition old, FieldDefinition now)
    {
        if (old.Code != now.Code)
            problems.Add(new(now.Id, "code", $"The code of a live field stays: it was {old.Code}. The label can be changed at any time."));
        if (old.RecordType != now.RecordType || old.Part != now.Part)
            problems.Add(new(now.Id, "part", "A live field stays with the record type and the part that it was made for."));
        if (old.Kind != now.Kind && (IsLink(old) || IsLink(now)))
            problems.Add(
                new(
                    now.Id,
                    "kind",
                    "A link is never turned into another kind, nor another kind into a link, nor one link into several: "
                        + "what one says is not what the other says. Define another field, and retire this one."
                )
            );
        if (old.Kind != now.Kind && (old.Kind == FieldKinds.ThroughLink || now.Kind == FieldKinds.ThroughLink))
            problems.Add(
                new(
                    now.Id,
                    "kind",
                    "What is seen through a link is kept nowhere, "
                        + "so it is never turned into a field of its own, or the other way round. Define another field, and retire this one."
                )
            );
        else if (IsLink(now) && old.Target != now.Target)
            problems.Add(
                new(
                    now.Id,
                    "target",
                    "A live link goes on pointing to records of the same type. Define another field, and retire this one."
                )
            );
    }

    private void PlanHost()
    {
        if (installed.Host.Version == draft.Host.Version)
            return;
        var page = $"/setup/update?to={Uri.EscapeDataString(draft.Host.Version)}";
        var host = new HostChanges(installed.Host, draft.Host);
        problems.AddRange(host.Refusals.Select(refusal => new Problem(HostUpdate.Element, "host", refusal)));
        var types = host
            .All.Select(change => draft.Find(change.RecordType))
            .OfType<RecordType>()
            .DefaultIfEmpty(draft.RecordTypes[0])
            .ToList();
        var goesOn = Version.Parse(installed.Host.Version) < Version.Parse(draft.Host.Version);
        changes.Add(
            new(
                HostUpdate.Element,
                types[0],
                $"{draft.Host.Label} {(goesOn ? "is updated" : "goes back")} from {installed.Host.Version} to {draft.Host.Version}.",
                "The ERP's own screens; what is added stays, and so do layers. Going back is the same step the other way."
            )
            {
                Page = page,
            }
        );
        changes.AddRange(
            host.All.Select(change => new PlannedChange(
                HostUpdate.Element,
                draft.Find(change.RecordType)!,
                change.Sentence,
                "Of the ERP's own."
            )
            {
                Page = page,
            })
        );
        foreach (
            var now in draft.Site.Fields.Where(now =>
                installed.Site.Find(now.Id) is { } old && old.Code != now.Code && draft.Find(now.RecordType) is not null
            )
        )
            changes.Add(
                new(
                    now.Id,
                    draft.Find(now.RecordType)!,
                    $"{now.Label} has the code {now.Code} instead of {installed.Site.Find(now.Id)!.Code}.",
                    "The ERP has a field with that code in one of both versions. Formulas are rewritten; programs use the new code."
                )
                {
                    Page = ElementSorts.Fields.PageOf(now.Id),
                }
            );
        before.AddRange(LeaveHostColumn.Between(installed, draft));
    }

    private void PlanType(RecordTypeDefinition definition)
    {
        if (live.Site.FindType(definition.Id) is { } old)
        {
            if (old.Code != definition.Code)
                problems.Add(
                    new(
                        definition.Id,
                        "code",
                        $"The code of a live record type stays: it was {old.Code}. The label can be changed at any time."
                    )
                );
            if (old.Numbering.Gapless != definition.Numbering.Gapless)
                problems.Add(
                    new(
                        definition.Id,
                        "numbering",
                        "Whether numbers have gaps is decided before the first record: a live type stays as it is."
                    )
                );
            if (old.Numbering.PerCompany != definition.Numbering.PerCompany)
                problems.Add(
                    new(
                        definition.Id,
                        "numbering",
                        "Whether each company has its own count is decided before the first record: a live type stays as it is."
                    )
                );
            if (old.Confirmed != definition.Confirmed)
                problems.Add(
                    new(
                        definition.Id,
                        "confirmed",
                        "Whether records are confirmed is decided before the first record: a live type stays as it is."
                    )
                );
            foreach (var gone in old.Lines.Where(lines => definition.Lines.All(other => other.Code != lines.Code)))
                problems.Add(new(definition.Id, "lines", $"{gone.Plural} are live and stay; their label can be changed at any time."));
        }

        if (draft.Find(definition.Code) is not { Definition: not null } type)
            return;
        before.AddRange(type.Parts.Select(part => new CreateOwnTable(part)).Where(step => !step.IsDone(facts)));
    }

    private static bool IsLink(FieldDefinition definition) => FieldKinds.Find(definition.Kind)?.IsLink == true;

    private void PlanStorage(Field field, FieldDefinition definition, FieldDefinition? old)
    {
        if (!field.IsStored)
            return;
        foreach (var column in field.Columns)
        {
            // What one record has is read from all tables as one: a name stands in one of them.
            var inOther = facts
                .Added.Where(table => table.Key != field.Table && AddedTables.IsOf(table.Key, field.Part))
                .Any(table => table.Value.Columns.ContainsKey(column.Name));
            if ((inOther ? new("", null) : facts.Column(field.Table, column.Name)) is not { } stored)
                continue;
            if (stored.FieldId != field.Id)
            {
                problems.Add(
                    new(
                        definition.Id,
                        "code",
                        $"The code {field.Code} belonged to a field that was taken out, and its data is still kept. Choose another code."
                    )
                );
                return;
            }

            if (stored.Type != column.Type)
            {
                problems.Add(
                    new(
                        definition.Id,
                        "kind",
                        "Data of another kind is still kept for this field. Bring it back with the kind that it had, or define another field."
                    )
                );
                return;
            }
        }

        if (facts.Misfits.GetValueOrDefault(field.Id) is > 0 and var misfits)
            problems.Add(
                new(
                    definition.Id,
                    field.Kind.SizeProperty,
                    $"{Plan.Count(misfits, "value")} on file would not fit. Change them first, or leave room for them."
                )
            );
        if (facts.Doubles.GetValueOrDefault(field.Id) is > 0 and var doubles)
            problems.Add(
                new(
                    definition.Id,
                    "unique",
                    $"{Plan.Count(doubles, "value")} on file {(doubles == 1 ? "stands" : "stand")} in more than "
                        + $"one of the {field.Part.Plural.ToLowerInvariant()}. Change them first."
                )
            );
        PlanColumns(field);
        PlanUnique(field);
        if (field.Kind.IsOneLink)
            PlanReference(field);
        if (field.Kind.IsSeveralLinks)
            PlanLinkTable(field);
        if (old is not null && live.FindField(field.Id) is { } earlier && earlier.Columns[0].Name != field.Columns[0].Name)
            PlanConversion(earlier, field);
    }

    private void PlanColumns(Field field)
    {
        var isNew = !facts.Has(field);
        foreach (var table in new[] { field.Part.Table, field.Table }.Distinct())
            if (!facts.Added.ContainsKey(table) && !before.OfType<CreateTable>().Any(step => step.Table == table))
                before.Add(new CreateTable(field.Part, table));
        before.AddRange(
            field.Columns.Where(column => facts.Column(field.Table, column.Name) is null).Select(column => new AddColumn(field, column))
        );

        var wanted = AddCheck.For(field).ToList();
        before.AddRange(
            facts
                .ChecksOf(field)
                .Where(check => wanted.TrueForAll(step => step.Name != check.Name))
                .Select(check => new DropCheck(field, check.Name))
        );

        // A tightened rule waits until the new release is live: under the old one, people may still enter what it allowed.
        // So does looking through the rows on file, which nobody has to wait for.
        foreach (var check in wanted)
        {
            if (!check.IsDone(facts))
                (isNew ? before : after).Add(check);
            var validate = new ValidateCheck(field, check.Name);
            if (!validate.IsDone(facts))
                after.Add(validate);
        }
    }

    // New fields go on in a further table before this one is full: but each kind that a field had has its column beside it, and dropped
    // ones count.
    private void RefuseTooMany()
    {
        foreach (var part in draft.RecordTypes.SelectMany(type => type.Parts))
        {
            var adds = before.OfType<AddColumn>().Where(step => step.Field.Part == part).ToList();
            if (adds.Count == 0)
                continue;
            var full = adds.GroupBy(step => step.Field.Table)
                .FirstOrDefault(table => (facts.Added.GetValueOrDefault(table.Key)?.Used ?? 0) + table.Count() > AddedTables.Most);
            if (full is not null || QueryViews.ColumnsIn(part) > AddedTables.Most)
                problems.Add(
                    new(
                        (full?.Last() ?? adds[^1]).Field.Definition!.Id,
                        "kind",
                        $"The database keeps {Numbers.Format(AddedTables.Most)} columns of a table "
                            + "and of a view at most, and there is no room for this one. "
                            + "Leave its kind as it is, and define a new field: that goes on in a further table."
                    )
                );
        }
    }

    // Before the switch, so that a release whose rule cannot be kept never goes live.
    private void PlanUnique(Field field)
    {
        var unique = new AddUnique(field);
        if (field.Content.Unique && !unique.IsDone(facts))
            before.Add(unique);
        before.AddRange(
            facts.UniquesOf(field).Where(name => !field.Content.Unique || name != unique.Name).Select(name => new DropUnique(field, name))
        );
    }

    // The reference comes before anybody writes a link. Looking through what is on file, and the index, keep nobody from working.
    private void PlanReference(Field field)
    {
        var reference = new AddReference(field);
        var there = facts.ReferencesOf(field).ToLookup(reference.Keeps);
        before.AddRange(there[false].Select(other => new DropReference(field, other.Name)));
        if (!reference.IsDone(facts))
            before.Add(reference);
        var validate = new ValidateReference(field, there[true].FirstOrDefault()?.Name ?? reference.Name);
        if (!validate.IsDone(facts))
            after.Add(validate);
        var index = new AddLinkIndex(field);
        if (!index.IsDone(facts))
            after.Add(index);
    }

    // The table comes before anybody writes links, and its foreign key says what deleting a target does.
    private void PlanLinkTable(Field field)
    {
        var table = new KeepLinks(field);
        if (!table.IsDone(facts))
            before.Add(table);
        var validate = new ValidateLinks(field, table.IsDone(facts) ? facts.LinkTables[table.Table].Name : table.Name);
        if (!validate.IsDone(facts))
            after.Add(validate);
    }

    // Several links may find by the same columns, so this is asked for all of them together.
    private void PlanFinding()
    {
        var fields = draft.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.AddedFields).ToList();
        var finding = fields.SelectMany(AddFindIndex.For).DistinctBy(step => step.Name).ToList();
        var listing = fields
            .Where(field => field.Content.Indexed && Indexing.Refuse(field) is null)
            .Select(field => new AddListIndex(field))
            .ToList();
        after.AddRange(finding.Cast<PlanStep>().Concat(listing).Where(step => !step.IsDone(facts)));
        var wanted = finding.Select(step => step.Name).Concat(listing.Select(step => step.Name)).ToHashSet(StringComparer.Ordinal);
        after.AddRange(
            facts.FindIndexes.Where(index => !wanted.Contains(index.Key)).Select(index => new DropFindIndex(index.Value, index.Key))
        );
    }

    private void PlanConversion(Field from, Field to)
    {
        before.Add(new TrackColumn(from, to));
        before.Add(new ConvertValues(from, to));
        after.Insert(0, new FinishConversion(from, to));
    }

    // Columns that the field had under earlier kinds, by the comment that ties them to it.
    private void DropEarlier(FieldDefinition definition, IReadOnlyList<Field> fields)
    {
        foreach (var field in fields)
        {
            var names = facts
                .Table(field)
                ?.Columns.Where(column => column.Value.FieldId == field.Id && field.Columns.All(own => own.Name != column.Key))
                .Select(column => column.Key)
                .ToList()
                ?? [];
            if (names.Count == 0 || live.FindField(field.Id)?.Columns.Any(column => names.Contains(column.Name)) == true)
                continue;
            after.Add(
                new SaveData(field.Part, field.Table, field.Id, definition.Label + ", earlier kind", names, SiteDefinition.Text(definition))
            );
            after.Add(new DropColumns(field.Part, field.Table, field.Id, definition.Label, names));
        }
    }

    private void Remove(RemovedField removed)
    {
        if (draft.Find(removed.RecordType)?.FindPart(removed.Part) is not { } part)
            return;
        // Only what was made for that field, and never what a field has that is there: whatever an entry says.
        if (draft.Site.Fields.Any(field => field.Places().Any(place => field.IdIn(place) == removed.Id)))
            return;
        var definition = SiteDefinition.Text(
            live.Site.Fields.FirstOrDefault(field => field.Places().Any(place => field.IdIn(place) == removed.Id))
        );
        foreach (var (table, columns) in facts.MadeFor(removed.Id, part))
        {
            after.Add(new SaveData(part, table, removed.Id, removed.Label, columns, definition));
            after.Add(new DropColumns(part, table, removed.Id, removed.Label, columns));
        }
    }
}
