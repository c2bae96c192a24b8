using Pelto.Core.Access;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>What people will notice of a field that differs.</summary>
internal sealed class FieldDifferences(SiteComparison of)
{
    private readonly Catalogue live = of.Live;
    private readonly Catalogue draft = of.Draft;

    public IEnumerable<PlannedChange> Between(FieldDefinition now, FieldDefinition? old)
    {
        if ((draft.Find(now.RecordType) ?? draft.RecordTypes.FirstOrDefault()) is not { } type)
            return [];
        var field = draft.FindField(now.Id);
        if (now.Retired && old?.Retired == true)
            return [];
        if (now.Retired)
            return
            [
                new(
                    now.Id,
                    type,
                    $"Retires {now.Label}.",
                    "It leaves all screens, lists and the programming interface. What was entered stays, and it can be brought back."
                )
                {
                    Alike = ("Retires", Between(now), now.Label),
                },
            ];
        if (field is null)
            return [];
        if (old is null)
            return
            [
                new(
                    now.Id,
                    type,
                    $"Adds {field.Label} ({(field.Target is null ? field.Kind.Label.ToLowerInvariant() : field.KindInWords)}) to "
                        + $"{string.Join(" and ", now.Places().Select(PluralOf))}, {SiteComparison.Where(field)}.",
                    EffectOfNew(field)
                )
                {
                    Alike = ("Adds", $" to {string.Join(" and ", now.Places().Select(PluralOf))}", field.Label),
                },
            ];
        if (old.Retired)
            return Changed(field, type, now, old)
                .Select(said => new PlannedChange(now.Id, type, said.Sentence, said.Effect))
                .Prepend(
                    new(now.Id, type, $"Brings {now.Label} back.", of.OnFile(field)) { Alike = ("Brings back", Between(now), now.Label) }
                );
        var changed = Changed(field, type, now, old).ToList();
        if (changed is [var only] && old.Label != now.Label)
            return [new(now.Id, type, only.Sentence, only.Effect) { Alike = ("Renames", Between(now), $"{old.Label} to {now.Label}") }];
        return changed.Select(said => new PlannedChange(now.Id, type, said.Sentence, said.Effect));
    }

    private string Between(FieldDefinition definition) => $" of {string.Join(" and ", definition.Places().Select(PluralOf))}";

    public IEnumerable<PlannedChange> TakenOff(FieldDefinition gone)
    {
        if (live.FindField(gone.Id) is { } field)
            yield return new(
                gone.Id,
                field.Part.RecordType,
                $"Takes {gone.Label} out of use.",
                "It leaves all screens, lists and the programming interface. What was entered stays in the database."
            )
            {
                Alike = ("Takes", Between(gone) + " out of use", gone.Label),
            };
    }

    private IEnumerable<(string Sentence, string Effect)> Changed(Field field, RecordType type, FieldDefinition now, FieldDefinition old)
    {
        var onFile = of.OnFile(field);
        if (old.Label != now.Label)
            yield return ($"Renames {old.Label} to {now.Label}.", "Wherever people read it; nothing else changes.");
        if (old.Heading != now.Heading)
            yield return ($"The column heading of {now.Label} becomes “{field.Heading}”.", "In lists and lines.");
        if (old.Help != now.Help)
            yield return ($"Changes the help text of {now.Label}.", "Shown beside the field.");
        if (!SiteDefinition.Same(old.Texts, now.Texts))
            yield return ($"Changes the texts of {now.Label} in other languages.", "Nothing else changes.");
        if (old.Kind != now.Kind || old.Column != now.Column)
            yield return ($"{now.Label} becomes {field.Kind.Description}{(now.Column < old.Column ? " again" : "")}.", onFile);
        else
            foreach (var said in Sizes(field, now, old, onFile))
                yield return said;
        if (old.DefaultValue != now.DefaultValue)
            yield return ($"New records begin with {Shown(field, now.DefaultValue)} in {now.Label}.", onFile);
        if (now.FillExisting && of.Jobs.Any(job => job.Work == PlannedJob.FillStart && job.Field == field.Id))
            yield return (
                $"{(field.Part.IsLines ? "Lines" : "Records")} on file without {now.Label} get {Shown(field, now.DefaultValue)}.",
                "In the background, while everyone works; it can be stopped and undone."
            );
        else if (now.FillExisting != old.FillExisting)
            yield return (
                $"What is on file without {now.Label} is {(now.FillExisting ? "" : "no longer ")}meant to get the default.",
                onFile
            );
        if (old.Required != now.Required)
            yield return (
                now.Required ? $"{now.Label} is required from now on." : $"{now.Label} may be left empty.",
                now.Required ? "A record without it is asked for it when it is next saved." : "It is no longer asked for."
            );
        if (old.RequiredWhen != now.RequiredWhen)
            yield return (
                now.RequiredWhen is null
                    ? $"{now.Label} is no longer required under a condition."
                    : $"{now.Label} is required where {now.RequiredWhen}.",
                "Records are asked for it when they are next saved."
            );
        if (old.ShownWhen != now.ShownWhen)
            yield return (
                now.ShownWhen is null ? $"{now.Label} is always shown." : $"{now.Label} is shown where {now.ShownWhen}.",
                "On the screen; what it holds stays, and lists and programs still have it."
            );
        if (old.Minimum != now.Minimum || old.Maximum != now.Maximum)
            yield return ($"{now.Label} takes {Range(now)}.", onFile + " They are checked when their record is next saved.");
        if (old.Pattern != now.Pattern || old.PatternMessage != now.PatternMessage)
            yield return (
                now.Pattern is null
                    ? $"{now.Label} no longer has to match a pattern."
                    : $"{now.Label} must match the pattern {now.Pattern}.",
                onFile
            );
        if (old.ClearsWithTarget != now.ClearsWithTarget)
            yield return (
                now.ClearsWithTarget
                    ? $"{now.Label} becomes empty when what it points to is deleted."
                    : $"What {now.Label} points to can no longer be deleted while it does.",
                "The database enforces it."
            );
        if (old.CarriedAlong != now.CarriedAlong)
            yield return (
                now.CarriedAlong
                    ? $"{now.Label} is carried along to the next document."
                    : $"{now.Label} is no longer carried along to the next document.",
                "Documents that are made from now on, by people and by programs; it can be changed there."
            );
        if (old.Formula != now.Formula)
            yield return (
                now.Formula is null ? $"People fill {now.Label} from now on." : $"A formula fills {now.Label}: {now.Formula}.",
                now.Formula is null || now.Live ? onFile : $"When a record is saved. {onFile}"
            );
        if ((old.Fills != now.Fills || old.Locked != now.Locked) && now.Formula is not null)
            yield return ($"{now.Label} is filled {InWords(now)}.", onFile);
        if (!SiteDefinition.Same(old.Query, now.Query))
            yield return (
                now.Query is null
                    ? $"No query fills {now.Label} any longer."
                    : $"{now.Label} is filled by the query {draft.Site.FindQuery(now.Query.Id)?.Label}.",
                now.Query is null ? onFile : $"{onFile} This lasts until the query is asked."
            );
        if (
            old.Live != now.Live
            && now.Fills == FillMode.Always
            && old.Fills == FillMode.Always
            && now.Formula is not null
            && old.Formula is not null
        )
            yield return (
                now.Live ? $"{now.Label} is calculated live." : $"{now.Label} is kept: stored when its record is saved.",
                now.Live ? $"{onFile} The column stays until the field is removed." : onFile
            );
        if (old.Path != now.Path)
            yield return ($"{now.Label} shows {now.Path} instead of {old.Path}.", "Read live; nothing is stored.");
        if (old.Offers != now.Offers || old.OffersMessage != now.OffersMessage)
            yield return (
                now.Offers is null
                    ? $"{now.Label} offers everything that it can point to."
                    : $"{now.Label} offers only what meets {now.Offers}.",
                onFile + " They are checked when they, or what the condition reads, change."
            );
        if (!SiteDefinition.Same(old.Finds, now.Finds))
            yield return (
                now.Finds is null
                    ? $"Where {now.Label} is chosen, only number and name are shown."
                    : $"Where {now.Label} is chosen, {string.Join(" and ", field.Finds.Select(found => found.Label))} "
                        + $"{(field.Finds.Count == 1 ? "stands" : "stand")} beside number and name.",
                "Texts among them are searched as well, once the index is made."
            );
        if (old.Check != now.Check || old.CheckMessage != now.CheckMessage)
            yield return (
                now.Check is null ? $"{now.Label} is no longer checked by a formula." : $"A record is saved only where {now.Check}.",
                onFile
            );
        if (old.Unique != now.Unique)
            yield return (
                now.Unique
                    ? $"No two {field.Part.Plural.ToLowerInvariant()} can have the same {now.Label}."
                    : $"Several {field.Part.Plural.ToLowerInvariant()} can have the same {now.Label}.",
                "The database enforces it."
            );
        if (old.NoTotals != now.NoTotals)
            yield return (
                now.NoTotals ? $"Grouped lists no longer give totals of {now.Label}." : $"Grouped lists give totals of {now.Label}.",
                onFile
            );
        if (old.Indexed != now.Indexed)
            yield return (
                now.Indexed ? $"Lists find and sort by {now.Label} at once." : $"{now.Label} no longer has an index.",
                now.Indexed
                    ? "The database keeps an index, which is made while people work on."
                    : "Lists still find and sort by it, more slowly."
            );
        if (!SiteDefinition.Same(old.Places(), now.Places()))
            yield return (
                $"{now.Label} stands on {string.Join(" and ", now.Places().Select(PluralOf))}{(now.Places().Any(place => place.Printed) ? $", printed on {string.Join(" and ", now.Places().Where(place => place.Printed).Select(PluralOf))}" : "")}.",
                $"One definition for all of them. {onFile}"
            );
        if (now.DropsEarlier && !old.DropsEarlier)
            yield return (
                $"Drops what {now.Label} held under its earlier kind.",
                "Its data is saved to a file first. After that, going back to that kind is not possible."
            );
        if (live.Site.PlacementOf(now.Id) != draft.Site.PlacementOf(now.Id))
            yield return ($"{now.Label} is placed {SiteComparison.Where(field)}.", SeeingWords.OnScreens(field, draft));
    }

    private IEnumerable<(string Sentence, string Effect)> Sizes(Field field, FieldDefinition now, FieldDefinition old, string onFile)
    {
        if (field.Kind.Options.Any(option => option.IsSize && option.Text(old) != option.Text(now)))
            yield return (
                $"{now.Label} {field.Kind.Resized(FieldKinds.Make(live.Site.Resolve(old), static (_, _) => { }) ?? field.Kind)}.",
                onFile
            );
        if (old.ChoiceList != now.ChoiceList)
            yield return (
                $"{now.Label} offers {(draft.Site.FindList(now.ChoiceList) is { } list ? $"the choice list {list.Label}" : "choices of its own")}.",
                onFile
            );
        else if (!(old.Choices ?? []).SequenceEqual(now.Choices ?? []))
            yield return (
                $"Changes the choices of {now.Label}: {ChoiceWords.Changes(old.Choices ?? [], now.Choices ?? [])}.",
                of.Merges([now], old.Choices ?? [], now.Choices ?? []) + onFile
            );
        if (old.MayAdd != now.MayAdd)
            yield return (
                now.MayAdd
                    ? $"People may add choices to {now.Label} while they enter records."
                    : $"People may no longer add choices to {now.Label}.",
                "At once."
            );
    }

    private static string InWords(FieldDefinition field) =>
        field.Fills switch
        {
            FillMode.Untouched => "until somebody types over it",
            FillMode.Chosen => field.Locked
                ? "when what it is read from is chosen, and locked"
                : "when what it is read from is chosen; it can be changed",
            _ => "always",
        };

    private string EffectOfNew(Field field)
    {
        var sees = SeeingWords.For(field, draft);
        var types = field.Definition!.Places().Select(place => draft.Find(place.RecordType)).OfType<RecordType>().Distinct().ToList();
        var known =
            types.TrueForAll(one => of.Facts.Records.ContainsKey(one.Code))
                ? $"The {(field.Part.IsLines ? "lines of the " : "")}{GrantWords.Listed([.. types.Select(one => $"{Numbers.Format(of.Facts.Records[one.Code])} {one.Plural.ToLowerInvariant()}")])} on file"
            : field.Part.IsLines ? "Lines on file"
            : "Records on file";
        var records = of.OnFile(field, known);
        if (field.Asking is { } asking)
            return $"Filled by the query {asking.Query.Label}{(field.Content.Locked ? ", and locked" : "; people may change it")}. {records} This lasts until the query is asked. {sees}";
        if (field is { Formula: { } carried, IsComputed: false })
            return $"Filled by {carried.Text} {InWords(field.Definition!)}. {records} {sees}";
        if (field.Formula is { } formula)
            return $"{(field.IsLive ? "Calculated" : "Filled when a record is saved,")} by {formula.Text}. {records} {sees}";
        if (field.IsThroughLink)
            return $"{records} {sees}";
        var start = string.IsNullOrWhiteSpace(field.Content.DefaultValue)
            ? "new ones begin empty"
            : $"new ones begin with {Shown(field, field.Content.DefaultValue)}";
        var needed = field.Required ? " It is required: a record without it is asked for it when it is next saved." : "";
        return $"{records[..^1]}; {start}.{needed} {sees}";
    }

    private string PluralOf(AlsoOn place) =>
        (draft.Find(place.RecordType)?.FindPart(place.Part)?.Plural ?? place.RecordType).ToLowerInvariant();

    private static string Range(FieldDefinition now) =>
        (now.Minimum, now.Maximum) switch
        {
            (null, null) => "any value again",
            (var minimum, null) => $"{minimum} or more",
            (null, var maximum) => $"{maximum} or less",
            var (minimum, maximum) => $"{minimum} to {maximum}",
        };

    private static string Shown(Field field, string? start) =>
        string.IsNullOrWhiteSpace(start) ? "nothing"
        : field.Kind.Parse(start) is { Refusal: null } parsed ? field.Kind.Format(parsed.Value)
        : start;
}
