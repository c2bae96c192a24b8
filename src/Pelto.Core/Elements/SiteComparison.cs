using Pelto.Core.Layouts;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Two sites that a plan compares, with what is told of what they hold.</summary>
/// <param name="live">What is live.</param>
/// <param name="draft">What is wanted.</param>
/// <param name="facts">What the database holds.</param>
/// <param name="jobs">What will be done to records.</param>
public sealed class SiteComparison(Catalogue live, Catalogue draft, StorageFacts facts, IReadOnlyList<PlannedJob> jobs)
{
    private readonly ValuesOnFile onFile = new(live, jobs, facts);

    /// <summary>What is live.</summary>
    public Catalogue Live => live;

    /// <summary>What is wanted.</summary>
    public Catalogue Draft => draft;

    /// <summary>What the database holds.</summary>
    public StorageFacts Facts => facts;

    /// <summary>What will be done to records.</summary>
    public IReadOnlyList<PlannedJob> Jobs => jobs;

    /// <summary>The first record type, for what belongs to none.</summary>
    public RecordType AnyType => draft.RecordTypes[0];

    /// <summary>What becomes of the values of a field on file.</summary>
    /// <param name="field">The field, as it is wanted.</param>
    public string OnFile(Field field) => onFile.Describe(field, draft);

    /// <summary>What a new field finds on file.</summary>
    /// <param name="field">The field.</param>
    /// <param name="known">The records on file, in words.</param>
    public string OnFile(Field field, string known) => onFile.Describe(field, known);

    /// <summary>Of several fields, what is the same for all of them.</summary>
    /// <param name="fields">The fields.</param>
    public string OnFile(IReadOnlyList<FieldDefinition> fields) =>
        fields.Select(definition => draft.FindField(definition.Id)).OfType<Field>().Select(OnFile).Distinct().ToList() is [var only] ? only
        : fields.Count == 0 ? ""
        : "All other values on file stay as they are.";

    /// <summary>What merging choices does to records on file.</summary>
    /// <param name="fields">The fields that offer them.</param>
    /// <param name="were">The choices as they were.</param>
    /// <param name="now">The choices as they are wanted.</param>
    public string Merges(IReadOnlyList<FieldDefinition> fields, IReadOnlyList<Choice> were, IReadOnlyList<Choice> now)
    {
        var ids = fields.SelectMany(field => field.Places().Select(field.IdIn)).ToList();
        var what = fields.Any(field => draft.FindField(field.Id) is { Part.IsLines: true }) ? "line" : "record";
        var said = "";
        foreach (var choice in now.Where(IsNewlyMerged))
        {
            var count = ids.Sum(id => facts.Merged.GetValueOrDefault((id, choice.Code)));
            var into = now.FirstOrDefault(other => other.Code == choice.MergedInto)?.Label;
            said += $"{Plan.Count(count, what)} with {choice.Label} {(count == 1 ? "gets" : "get")} {into}; it can be undone. ";
        }

        return said;

        bool IsNewlyMerged(Choice choice) =>
            choice.MergedInto is not null && were.FirstOrDefault(other => other.Code == choice.Code)?.MergedInto != choice.MergedInto;
    }

    /// <summary>Where a field stands for everyone, such as “after Name”.</summary>
    /// <param name="field">The field.</param>
    public static string Where(Field field)
    {
        foreach (var section in field.Part.RecordType.Screen.Layout.Sections)
        {
            var at = section.Places.ToList().FindIndex(place => place.Field == field);
            if (at >= 0)
                return at == 0 ? $"first in {section.Label}" : $"after {section.Places[at - 1].Field.Label}";
        }

        return "on no screen";
    }
}
