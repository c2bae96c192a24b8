using Pelto.Core.Elements;
using Pelto.Core.Formulas;

namespace Pelto.Web.Pages;

/// <summary>What the page of a field offers to choose from, by what stands in its inputs and as far as one is shown it.</summary>
/// <param name="input">What stands in the inputs.</param>
/// <param name="fieldId">The field.</param>
/// <param name="catalogue">What is drafted.</param>
/// <param name="views">What the person is shown.</param>
public sealed class FieldChoices(FieldInput input, string fieldId, Catalogue catalogue, SiteViews views)
{
    private const int MaxFinds = 6;

    /// <summary>The part that the field belongs to; null while none is chosen.</summary>
    public Part? Part { get; } = PartOf(input.Part, catalogue, views);

    /// <summary>The part, in words.</summary>
    public string PartLabel => Part is null ? "" : LabelOf(Part);

    /// <summary>Where a field can belong.</summary>
    public IEnumerable<(string Value, string Label)> Parts =>
        catalogue
            .RecordTypes.Where(views.Sees)
            .SelectMany(type => type.Parts)
            .Select(part => ($"{part.RecordType.Code}/{part.Code}", LabelOf(part)));

    /// <summary>What belonging to this part means.</summary>
    public string WhatFollows =>
        Part switch
        {
            null => "",
            { IsLines: true } part => $"Every {part.Label.ToLowerInvariant()} has a value of its own, in a column.",
            var part => $"Each {part.Label.ToLowerInvariant()} has one value.",
        };

    /// <summary>Where the field can stand.</summary>
    public IEnumerable<(string Value, string Label)> Places
    {
        get
        {
            yield return ("", "at the end");
            if (Part is null)
                yield break;
            foreach (var section in Part.RecordType.Screen.Layout.Sections.Where(section => section.Contains(Part)))
            {
                yield return (section.Id, $"first in {section.Label}");
                foreach (var place in section.Places.Where(place => place.Field.Id != fieldId && views.Sees(place.Field)))
                    yield return (place.Field.Id, $"{section.Label}: after {place.Field.Label}");
            }

            yield return (FieldInput.Nowhere, "on no screen");
        }
    }

    /// <summary>The choice lists that it can take.</summary>
    public IReadOnlyList<ChoiceList> ChoiceLists => [.. catalogue.Site.ChoiceLists.Where(list => views.Sees(list, catalogue.Site))];

    /// <summary>The saved queries, of the draft too.</summary>
    public IReadOnlyList<QueryDefinition> Queries =>
        [
            .. catalogue
                .Site.Queries.Where(query => views.Sees(query, catalogue.Site))
                .OrderBy(query => query.Label, StringComparer.OrdinalIgnoreCase),
        ];

    /// <summary>What a link can point to.</summary>
    public IEnumerable<(string Code, string Label)> Targets =>
        catalogue.RecordTypes.Where(views.Sees).Select(type => (type.Code, type.Plural));

    /// <summary>What can be seen through one link of the part.</summary>
    public IEnumerable<(string Path, string Label)> Paths =>
        from link in Part?.Fields ?? []
        where link is { Target: not null, IsThroughLink: false }
        from far in link.Target!.Header.Fields
        where !far.IsThroughLink && !far.Kind.StaysWithRecord && views.Sees(far)
        select ($"{link.Code}.{far.Code}", $"{link.Label}: {far.Label}");

    /// <summary>Codes that other fields of the part have.</summary>
    public IEnumerable<string> TakenCodes => Part?.Fields.Where(other => other.Id != fieldId).Select(other => other.Code) ?? [];

    /// <summary>
    /// Conditions that come to mind for what a link offers: both sides point to the same record, and open documents only.
    /// </summary>
    public IEnumerable<string> SuggestedOffers
    {
        get
        {
            if (Part is null || catalogue.Find(input.Target) is not { } target)
                yield break;
            foreach (var own in Part.RecordType.Header.Fields.Where(own => own.Target is not null && own.Id != fieldId))
            foreach (var theirs in target.Header.Fields.Where(theirs => theirs.Target == own.Target && views.Sees(theirs)))
                yield return $"{theirs.Code} = {Formula.RecordName}.{own.Code}";
            if (target.Document is { } document)
                yield return $"{document.Status.Code} = \"{document.Description.Open}\"";
        }
    }

    /// <summary>Fields that may stand beside number and name and do not yet; each with what the input would say then.</summary>
    public IEnumerable<(string Label, string Finds)> SuggestedFinds
    {
        get
        {
            if (catalogue.Find(input.Target) is not { } target)
                return [];
            var written = input.Finds.Trim().TrimEnd(',');
            var taken = written.Split(',', StringSplitOptions.TrimEntries);
            return target
                .ListColumns.Where(column =>
                    column != target.Identifier && column != target.Name && column is { IsThroughLink: false, Kind.IsShort: true }
                )
                .Where(column => views.Sees(column) && !taken.Contains(column.Code))
                .Take(MaxFinds)
                .Select(column => (column.Label, written.Length == 0 ? column.Code : $"{written}, {column.Code}"));
        }
    }

    private static Part? PartOf(string text, Catalogue catalogue, SiteViews views) =>
        text.Split('/', 2) is [var type, var part] && views.SeesType(type) ? catalogue.Find(type)?.FindPart(part) : null;

    private static string LabelOf(Part part) =>
        part.IsLines ? $"{part.RecordType.Label}, {part.Plural.ToLowerInvariant()}" : part.RecordType.Label;
}
