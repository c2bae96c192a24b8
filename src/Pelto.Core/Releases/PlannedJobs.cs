using Pelto.Core.Fills;
using Pelto.Core.Formulas;

namespace Pelto.Core.Releases;

/// <summary>
/// The work on records that begins once a draft is live, in the order in which it is done. What is said of records on file anywhere is said
/// from this: see <see cref="ValuesOnFile"/>.
/// </summary>
public static class PlannedJobs
{
    private static readonly DateOnly AnyDay = new(2000, 1, 1);

    /// <summary>What will be done.</summary>
    /// <param name="live">What is live.</param>
    /// <param name="draft">What is wanted.</param>
    public static IReadOnlyList<PlannedJob> For(Catalogue live, Catalogue draft)
    {
        var jobs = new List<PlannedJob>();
        foreach (
            var field in draft
                .Site.Fields.SelectMany(definition => definition.Places().Select(definition.IdIn))
                .Select(draft.FindField)
                .OfType<Field>()
                .Where(field => field.IsStored)
        )
            jobs.AddRange(For(field, live.FindField(field.Id), live.Site.Find(field.Definition!.Id)));

        // What is stored follows its formula when that changes, or anything that it is calculated from; after that, if it is stored as
        // well.
        // It follows what is changed on file all at once, too, which no save does.
        var changed = jobs.Select(job => job.Field).ToHashSet(StringComparer.Ordinal);
        bool IsChanged(Field input) =>
            IsNewlyFilled(input, live) || changed.Contains(input.Id) || ValuesOnFile.IsConverted(input, live.FindField(input.Id));
        foreach (
            var field in FillOrders.Across(
                draft
                    .RecordTypes.SelectMany(type => type.FillOrder)
                    .Where(field => field is { IsAdded: true, IsStored: true, Formula: not null, Mode: not FillMode.Chosen })
            )
        )
            if (Inputs(field, []).Any(IsChanged))
                jobs.Add(
                    new(
                        PlannedJob.Refill,
                        field.Id,
                        null,
                        null,
                        $"Stores in {field.Label} what its formula gives, where that is something else."
                    )
                );
        return jobs;
    }

    // What was saved comes first: the default is for those that have nothing.
    private static IEnumerable<PlannedJob> For(Field field, Field? was, FieldDefinition? old)
    {
        var (definition, many) = (field.Definition!, field.Part.Plural.ToLowerInvariant());
        if (definition.ReadBack && old is null)
            yield return new(PlannedJob.ReadBack, field.Id, null, null, $"Reads the saved data of {field.Label} back.");
        if (
            definition.FillExisting
            && (old?.FillExisting != true || IsNewPlace(field, old))
            && field.StartsWith(AnyDay) is { IsEmpty: false }
        )
            yield return new(
                PlannedJob.FillStart,
                field.Id,
                null,
                definition.DefaultValue,
                $"Gives {many} that have no {field.Label} the default."
            );
        if (field.Kind.Choices is not { } choices || was?.Kind.Choices is not { } were)
            yield break;
        foreach (
            var merged in choices.All.Where(choice =>
                choice.MergedInto is not null && were.Find(choice.Code)?.MergedInto != choice.MergedInto
            )
        )
            yield return new(
                PlannedJob.MergeChoice,
                field.Id,
                merged.Code,
                merged.MergedInto,
                $"Gives {many} with {merged.Label} in {field.Label} {choices.LabelOf(merged.MergedInto!)} instead."
            );
    }

    // A record type that the definition comes to later on has the same before it as the first one had.
    private static bool IsNewPlace(Field field, FieldDefinition old) => old.Places().All(place => old.IdIn(place) != field.Id);

    private static HashSet<Field> Inputs(Field field, HashSet<Field> known)
    {
        if (known.Add(field) && field.Formula is { } formula)
            foreach (var read in formula.Reads.Concat(formula.RelatedFields))
                Inputs(read, known);
        return known;
    }

    private static bool IsNewlyFilled(Field field, Catalogue live) =>
        field.IsAdded
        && field.Formula is not null
        && (
            live.FindField(field.Id) is not { } old
            || old.Content.Formula != field.Content.Formula
            || old.Mode != field.Mode
            || (old.IsLive && field.IsStored)
            || old.Kind.Name != field.Kind.Name
            || old.Kind.Description != field.Kind.Description
        );
}
