using Microsoft.EntityFrameworkCore;
using Pelto.Core.Auditing;
using Pelto.Core.Elements;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Core.Releases;
using Pelto.Data.Auditing;
using Pelto.Data.Storage;

namespace Pelto.Web.Components;

/// <summary>What a changed definition makes of the values on file.</summary>
/// <param name="Sentence">In words.</param>
/// <param name="Records">Records with values that do not fit, some of them.</param>
/// <param name="RecordType">The code of their type.</param>
/// <param name="IsLoss">True when something would be lost or is in the way.</param>
public sealed record ValueEffects(
    string Sentence,
    IReadOnlyList<(long Record, string Text, string Why)> Records,
    string RecordType,
    bool IsLoss
);

/// <summary>What real values say about the size of a field.</summary>
/// <param name="Profile">The values.</param>
/// <param name="Misfits">How many would not fit as the definition stands.</param>
/// <param name="From">Where the values are from, in words.</param>
public sealed record ValueFacts(ValueProfile Profile, int Misfits, string From);

/// <summary>An entry of a field's history.</summary>
public sealed record HistoryEntry(string What, string ChangedBy, DateTimeOffset ChangedAt, IReadOnlyList<PropertyChange> Details);

/// <summary>What a definition does, did, and would do: for the page on which it is written.</summary>
public sealed class FieldEffects(FactsReader facts, RecordCounts counts, AuditReader audit, PeltoContext context, Catalogues catalogues)
{
    /// <summary>What follows from a definition, in words.</summary>
    /// <param name="field">The field as it is drafted.</param>
    /// <param name="live">The same as it is live; null for a new one.</param>
    /// <param name="catalogue">What is drafted.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="views">What they are shown.</param>
    public async Task<IReadOnlyList<string>> OfAsync(Field field, Field? live, Catalogue catalogue, Viewer viewer, SiteViews views)
    {
        var many = field.Part.RecordType.Plural.ToLowerInvariant();
        var sees = SeeingWords.For(field, catalogue);
        var programs = $"Programs read {(field.IsTyped ? "and write " : "")}it as {field.Code}.";
        if (field.IsThroughLink)
            return
            [
                $"It shows {field.Source.Label} of {string.Join(", of ", field.Path.SkipLast(1).Reverse().Select(link => link.Label))}, as it is now: nothing is stored, nothing gets out of date.",
                SeeingWords.InLists(field),
                $"It is changed where it belongs, in {field.Source.Part.RecordType.Plural.ToLowerInvariant()}.",
                sees,
                programs,
            ];
        if (field is { Formula: null, Content: FieldDefinition { Formula.Length: > 0 } })
            return ["It is shown here once the formula is valid."];
        var onFile = ValuesOnFile.IsConverted(field, live)
            ? "What becomes of values on file is shown above."
            : await OnFileAsync(field, catalogue);
        if (field.Asking is { } asking)
            return [.. OfQuery(field, asking, onFile, views), sees, programs];
        if (field is { Formula: not null, IsComputed: false })
            return [.. CarriedOver(field, onFile), sees, programs];
        if (field.Formula is { } formula)
            return
            [
                field.IsLive ? onFile : $"It is stored when its record is saved, as calculated then. {onFile}",
                .. field.GrowsOld
                    ? new[]
                    {
                        "The clock changes what it gives while nobody saves: "
                            + "what is stored is filled again each night, and can be a day old until then. Live, it would always be right.",
                    }
                    : [],
                "Nobody types it. On the screen it follows "
                    + $"as people type{(formula.RelatedFields.Count > 0 ? $", also what it reads of {string.Join(" and ", formula.RelatedFields.Select(reached => reached.Part.RecordType.Plural.ToLowerInvariant()).Distinct())}" : "")}.",
                SeeingWords.InLists(field),
                sees,
                programs,
            ];
        var said = new List<string>
        {
            $"{await CountedAsync(field, catalogue, viewer)} on file. {onFile}",
            $"New {(field.Part.IsLines ? "lines" : "records")} begin "
                + $"{(field.Content.DefaultValue is { Length: > 0 } text ? $"with {text}" : "empty")}.",
        };
        if (
            field.Definition is { CarriedAlong: true }
            && field
                .Part.RecordType.Next.Where(follow =>
                    follow.Next.FillOrder.Any(next => next.CarriedFrom.Any(carried => carried.From == field))
                )
                .Select(follow => follow.Next.Plural.ToLowerInvariant())
                .ToList()
                is { Count: > 0 } next
        )
            said.Add($"Made from one of the {many}, {string.Join(" and ", next)} take it over; it can be changed there.");
        if (field.Required)
            said.Add("A record without it is asked for it when it is next saved.");
        if (field.Rules.ShownWhen is { } shown)
            said.Add(
                $"It is shown where {shown.Text}, at once as people type; "
                    + "what it holds stays, and nobody is asked for it while it is not shown."
            );
        if (field.Rules.RequiredWhen is { } condition)
            said.Add($"Where {condition.Text}, a record without it is asked for it.");
        said.Add(sees);
        said.Add(SeeingWords.InLists(field));
        said.Add(programs);
        if (field.Target is { } target)
            said.Add(
                field.Content.ClearsWithTarget
                    ? $"When one of the {target.Plural.ToLowerInvariant()} is deleted, the field becomes empty where it pointed there."
                    : $"One of the {target.Plural.ToLowerInvariant()} cannot be deleted as long as a record points to it."
            );
        if (field.Narrowing is { } narrowing)
            said.Add(
                $"It offers only what meets {narrowing.Condition.Text}{(narrowing.Watches.Count > 0 ? $", asked anew whenever {string.Join(" or ", narrowing.Watches.Select(watched => watched.Label))} changes" : "")}. It applies to programs as well."
            );
        if (field.Finds.Count > 0)
            said.Add(
                $"Where one chooses, {string.Join(" and ", field.Finds.Select(found => found.Label))} "
                    + $"{(field.Finds.Count == 1 ? "stands" : "stand")} beside number "
                    + $"and name{(field.Finds.Where(found => found.IsFoundBy).Select(found => found.Label).ToList() is { Count: > 0 } by ? $", and it is found by {string.Join(" and ", by)} as well" : "")}. Who may not see {(field.Finds.Count == 1 ? "it" : "one of them")} does not see them."
            );
        if (field.Kind.IsSecret)
            said.Add("It is encrypted on file. Each time somebody looks at it is recorded.");
        return said;
    }

    // Said by the same as the plan says it, from the jobs that would begin.
    private async Task<string> OnFileAsync(Field field, Catalogue catalogue) =>
        new ValuesOnFile(catalogues.Live, PlannedJobs.For(catalogues.Live, catalogue), await facts.ReadTablesAsync()).Describe(
            field,
            catalogue
        );

    // A definition may stand on several record types, which all have it.
    private async Task<string> CountedAsync(Field field, Catalogue catalogue, Viewer viewer)
    {
        var all = new List<string>();
        var total = 0L;
        foreach (
            var type in (field.Definition?.Places().Select(place => catalogue.Find(place.RecordType)).OfType<RecordType>() ?? [])
                .DefaultIfEmpty(field.Part.RecordType)
                .Distinct()
        )
        {
            var count = await counts.OfAsync(type, viewer);
            total += count;
            all.Add($"{Numbers.Format(count)} {(count == 1 ? type.Label : type.Plural).ToLowerInvariant()}");
        }

        return $"{GrantWords.Listed(all)} {(total == 1 ? "is" : "are")}";
    }

    private static List<string> OfQuery(Field field, Core.Queries.Asking asking, string onFile, SiteViews views) =>
        asking.When == QueryWhen.Offer
            ?
            [
                $"Whoever enters the field is offered what {asking.Query.Label} finds then, "
                    + $"{Core.Values.Numbers.Format(Data.Queries.QueryRunner.MaxOffered)} rows "
                    + "at most, and chooses one or types something else.",
                asking.Reads.Count == 0
                    ? "It reads no record."
                    : $"It reads {views.InWords(asking.Reads)}. Who may not see one of these is offered nothing.",
                onFile,
            ]
            :
            [
                asking.When switch
                {
                    QueryWhen.New => "The database is asked in new records and lines, once its parameters are filled in.",
                    QueryWhen.Save => "The database is asked each time the record is saved.",
                    QueryWhen.Demand => "The database is asked when somebody presses Alt B in the field.",
                    _ =>
                        $"The database is asked when {string.Join(" or ", asking.Arguments.SelectMany(argument => argument.Reads).Select(read => read.Label).Distinct())} changes, at once on the screen; without all of these it is not asked.",
                },
                field.Content.Locked
                    ? "Nobody may change what it gave."
                    : "People may change what it gave; the record says who did, and Alt B asks again.",
                "A query only reads, and is stopped when it does not come to an end; then the field says so, and nobody is held up.",
                $"{onFile} This lasts until the query is asked.",
                asking.Reads.Count == 0 ? "It reads no record." : $"It reads {views.InWords(asking.Reads)}.",
            ];

    // What a formula fills and people may change, or what stays as it was when its source was chosen.
    private static List<string> CarriedOver(Field field, string onFile)
    {
        var sources = string.Join(" or ", field.Formula!.Reads.Select(read => read.Label).Distinct());
        var said = new List<string>
        {
            field.Mode == FillMode.Untouched
                ? "It is filled each time that its record is calculated, until somebody types over it: "
                    + "then the record says who did, and one key brings back what fills it."
                : $"It is filled when {(sources.Length > 0 ? sources : "its record")} is "
                    + $"{(sources.Length > 0 ? "chosen" : "new")}, and stays as it was then.",
            field.Content.Locked ? "Nobody may change it." : "People may change it; Alt B fills it again.",
            "The record shows where it came from, and says when it has changed there since.",
            field.Mode == FillMode.Untouched ? onFile : $"{onFile} They can be filled from this page once it is live.",
        };
        if (field.CarriedFrom.Count > 0)
            said.Add(
                $"Made from a {string.Join(" or a ", field.CarriedFrom.Select(carried => carried.Follow.Source.Label.ToLowerInvariant()).Distinct())}, it takes what stands there."
            );
        return said;
    }

    /// <summary>What a change of kind or of size makes of the values on file; null when nothing of the kind is asked for.</summary>
    public async Task<ValueEffects?> OnFileAsync(Field live, Field draft, Viewer viewer, CancellationToken cancel)
    {
        // Asked on every pause in typing: of very many values, a part tells enough. The plan looks at all of them.
        const int Most = 50_000;
        var type = live.Part.RecordType.Code;
        if (!live.IsStored || !draft.IsStored)
            return null;
        if (live.Columns[0].Name != draft.Columns[0].Name)
        {
            if (await facts.PreviewAsync(live, draft, viewer, Most, cancel) is not var (converts, fails, examples))
                return null;
            return new(
                converts + fails == 0
                    ? "No record holds a value yet: the kind can change freely."
                    : $"{Numbers.Format(converts)} of {(converts + fails == Most ? "the first " : "")}{Numbers.Format(converts + fails)} values on file become {draft.Kind.Description}.{(fails == 0 ? " None is lost." : $" {Numbers.Format(fails)} cannot be turned: those records get no value.")} The earlier values are kept until you drop them, so this can be undone.",
                examples,
                type,
                fails > 0
            );
        }

        var misfits = await facts.MisfitsAsync(draft, viewer, cancel);
        if (misfits.Count == 0)
            return null;
        return new(
            $"{Numbers.Format(misfits.Count)} {(misfits.Count == 1 ? "value" : "values")} on file would not "
                + $"fit. Change {(misfits.Count == 1 ? "it" : "them")} first, or leave room.",
            misfits.Examples,
            type,
            IsLoss: true
        );
    }

    /// <summary>What real values say about the size that a field needs.</summary>
    /// <param name="live">The field as it is live, whose values on file are looked at; null for a new one.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="definition">The definition as it stands in the inputs.</param>
    /// <param name="pasted">Values, one a line, or null for those on file.</param>
    /// <param name="locale">How the person writes numbers.</param>
    public async Task<ValueFacts> FactsAsync(Field? live, Viewer viewer, FieldDefinition definition, string? pasted, Locale locale)
    {
        var values =
            pasted is not null ? [.. pasted.Split('\n').SelectMany(line => line.Split('\t'))]
            : live is null ? []
            : await facts.TextsAsync(live, viewer);
        var kind = FieldKinds.Make(definition, static (_, _) => { });
        var misfits = values.Count(value => kind?.Parse(value, pasted is null ? null : locale).Refusal is not null);
        return new(ValueProfile.From(values, pasted is null ? null : locale), misfits, pasted is null ? "on file" : "pasted");
    }

    /// <summary>
    /// The different texts on file, one more than a list of choices holds at most, those that stand most often first; none for whoever may
    /// not read them.
    /// </summary>
    public Task<IReadOnlyList<string>> DifferentTextsAsync(Field live, Viewer viewer, CancellationToken cancel) =>
        facts.DifferentTextsAsync(live, ChoiceRules.MaxChoices + 1, viewer, cancel);

    /// <summary>The field's kinds before the live one whose columns are still there, newest first.</summary>
    public async Task<IReadOnlyList<FieldDefinition>> EarlierKindsAsync(FieldDefinition? live)
    {
        if (live is null || live.LastColumn == 0)
            return [];
        var stored = (await facts.ReadTablesAsync())
            .Added.Values.SelectMany(table => table.Columns)
            .Where(column => column.Value.FieldId == live.Id)
            .Select(column => column.Key)
            .ToHashSet();
        var earlier = new List<FieldDefinition>();
        await foreach (var text in context.Releases.OrderByDescending(row => row.Number).Select(row => row.Definition).AsAsyncEnumerable())
        {
            if (SiteDefinition.FromJson(text).Find(live.Id) is not { } then)
                continue;
            if (then.Column != live.Column && stored.Contains(then.ColumnName) && earlier.TrueForAll(known => known.Column != then.Column))
                earlier.Add(then);
        }

        return earlier;
    }

    /// <summary>A field with the kind and size of an earlier definition of it, over that one's column.</summary>
    public static FieldDefinition WithKindOf(FieldDefinition field, FieldDefinition earlier) =>
        (FieldDefinition)field.WithKindOf(earlier) with
        {
            Pattern = earlier.Pattern,
            PatternMessage = earlier.PatternMessage,
            Minimum = earlier.Minimum,
            Maximum = earlier.Maximum,
            DefaultValue = earlier.DefaultValue,
            Column = earlier.Column,
        };

    /// <summary>The columns on file, each with the id of the field that it was made for.</summary>
    public async Task<ILookup<string, string>> ColumnsAsync() =>
        (await facts.ReadTablesAsync())
            .Added.Values.SelectMany(table => table.Columns)
            .ToLookup(column => column.Value.FieldId, column => column.Key);

    /// <summary>The site without a field for good, its columns put down as to be dropped.</summary>
    public static SiteDefinition Removing(SiteDefinition site, FieldDefinition field, ILookup<string, string> columns)
    {
        var removed = field
            .Places()
            .Select(place => new RemovedField(
                field.IdIn(place),
                field.Label,
                place.RecordType,
                place.Part,
                field.Code,
                [.. columns[field.IdIn(place)]]
            ));
        var without = site.Without(field.Id);
        return without with
        {
            Removed =
            [
                .. without.Removed.Where(known => known.Id.Split('@')[0] != field.Id),
                .. removed.Where(one => one.Columns.Count > 0),
            ],
        };
    }

    /// <summary>
    /// All that uses a field, as far as whoever asks is shown it: rules and formulas that read it, places that stand after it, record types
    /// that share it.
    /// </summary>
    public static IReadOnlyList<string> UsesOf(Catalogue catalogue, FieldDefinition definition, SiteViews views) =>
        UsesOf(catalogue, definition.Places().Select(definition.IdIn).ToHashSet(), views);

    /// <summary>The same for a field that is built in, or that stands in one part.</summary>
    public static IReadOnlyList<string> UsesOf(Catalogue catalogue, Field field, SiteViews views) =>
        field.Definition is { } definition ? UsesOf(catalogue, definition, views) : UsesOf(catalogue, [field.Id], views);

    private static List<string> UsesOf(Catalogue catalogue, HashSet<string> ids, SiteViews views)
    {
        var uses = new List<string>();
        var fields = catalogue.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.Fields).Where(views.Sees).ToList();
        foreach (var field in fields.Where(field => !ids.Contains(field.Id)))
        {
            var read = new[]
            {
                (field.Formula, "is calculated from it"),
                (field.Rules.RequiredWhen, "is required by it"),
                (field.Rules.ShownWhen, "is shown by it"),
                (field.Rules.Check, "is checked by it"),
            }
                .Where(pair => pair.Item1?.Reads.Concat(pair.Item1.RelatedFields).Any(other => ids.Contains(other.Id)) == true)
                .Select(pair => pair.Item2);
            uses.AddRange(read.Select(how => $"{field.Label} on {field.Part.Plural.ToLowerInvariant()} {how}."));
        }

        uses.AddRange(
            fields
                .Where(field =>
                    field.Asking?.Arguments.Any(argument =>
                        argument.Reads.Concat(argument.RelatedFields).Any(other => ids.Contains(other.Id))
                    ) == true
                )
                .Select(field => $"{field.Label} on {field.Part.Plural.ToLowerInvariant()} is asked with it.")
        );
        uses.AddRange(
            catalogue
                .Site.Queries.Where(query =>
                    views.Sees(query, catalogue.Site)
                    && QueryBinder.FieldsRead(query, catalogue.RecordTypes).Any(read => ids.Contains(read.Id))
                )
                .Select(query => $"The query {query.Label} reads it.")
        );
        uses.AddRange(
            catalogue
                .Site.Layers.SelectMany(layer => layer.Operations)
                .Where(operation => operation.After is { } after && ids.Contains(after))
                .Select(operation => catalogue.FindField(operation.Part))
                .OfType<Field>()
                .Where(views.Sees)
                .Select(field => $"{field.Label} is placed after it.")
        );
        foreach (var id in ids)
            if (catalogue.FindField(id) is { } field && field.Part.RecordType.Screens.Anywhere.Contains(field))
                uses.Add($"It is on the screen of {field.Part.RecordType.Plural.ToLowerInvariant()}.");
        return uses;
    }

    /// <summary>Who had a secret shown, newest first.</summary>
    public Task<IReadOnlyList<AuditEntry>> ShowingsAsync(FieldDefinition field) =>
        audit.FindAsync(new(Kind: AuditKinds.Showing) { Subjects = [.. field.Places().Select(field.IdIn)] }, 50);

    /// <summary>Who changed what, newest first, property by property.</summary>
    public async Task<IReadOnlyList<HistoryEntry>> HistoryAsync(string element, SiteViews views) =>
        [
            .. (await audit.FindAsync(new() { Subjects = [element] }, 100))
                .Where(entry => entry.Note.Kind is AuditKinds.Definition or AuditKinds.Layer or AuditKinds.Access)
                .Select(entry => new HistoryEntry(
                    entry.Note.What,
                    entry.By,
                    entry.At,
                    new DefinitionDetails(catalogues.Live, views).For(entry.Note.Before, entry.Note.After)
                )),
        ];
}
