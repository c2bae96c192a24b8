using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Data.Storage;

namespace Pelto.Web.Components;

/// <summary>Where a part of a screen comes from, in words: a row for each thing that can be told.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="IsAdded">True when the site added it.</param>
/// <param name="Facts">What is known, by name.</param>
/// <param name="Uses">What uses it.</param>
/// <param name="Definition">Where its definition is, for those who may see it.</param>
public sealed record OriginCard(
    string Title,
    bool IsAdded,
    IReadOnlyList<(string Name, string Text)> Facts,
    IReadOnlyList<string> Uses,
    string? Definition
)
{
    /// <summary>Where access to it is explained and changed, for those who may.</summary>
    public string? Access { get; init; }
}

/// <summary>Tells of any part of a screen where it comes from.</summary>
public sealed class Origins(CurrentRequest request, ReleaseHistory history, FactsReader facts, RecordCounts counts)
{
    /// <summary>The field of this id, or that stands once more at the place of this id.</summary>
    public Field? FieldAt(RecordType type, string id) =>
        type.TryFindField(id, out var field) ? field : ScreenOf(type).Layout.Places.FirstOrDefault(place => place.Id == id)?.Field;

    /// <summary>The card of a field.</summary>
    public async Task<OriginCard> OfAsync(Field field)
    {
        var viewer = request.Viewer;
        var type = field.Part.RecordType;
        var said = new List<(string, string)>();
        if (field.Definition is { } definition)
        {
            if ((await history.AllAsync()).TryGetValue(definition.Id, out var known))
            {
                said.Add(("Added by", $"{known.Since.By}, {Times.Stamp(known.Since.At, viewer.Locale)}"));
                said.Add(("In release", $"{known.Since.Release}: {known.Since.Comment}"));
                if (known.Changed.Release != known.Since.Release)
                    said.Add(("Last changed", $"release {known.Changed.Release}, {known.Changed.By}: {known.Changed.Comment}"));
            }
        }
        else
        {
            said.Add(("Comes with", HostName));
        }

        said.Add(
            (
                "Belongs to",
                field.Part.IsLines
                    ? $"{field.Part.Plural.ToLowerInvariant()} of a {type.Label.ToLowerInvariant()}"
                    : $"the {type.Label.ToLowerInvariant()}"
            )
        );
        said.Add(
            field.IsThroughLink
                ? (
                    "Read live from",
                    $"{field.Source.Part.RecordType.Plural}, {field.Source.Label}, "
                        + $"through {string.Join(" and ", field.Path.SkipLast(1).Select(link => link.Label))}"
                )
            : field.IsLive ? ("Kept", "nowhere: calculated whenever it is read")
            : (
                "Kept in",
                $"{(field.IsAdded ? "added" : field.Part.RecordType.Definition is null ? "erp" : "own")}.{field.Part.Table}, column {string.Join(" and ", field.Columns.Select(column => column.Name))}"
            )
        );
        said.Add(("Kind", field.KindInWords));
        said.Add(
            (
                "Filled by",
                field.Formula is { } formula
                    ? $"formula: {request.Views.Told(formula) ?? "over what you are not shown"}{(field.Mode switch { FillMode.Untouched => ", until somebody types over it", FillMode.Chosen => field.Content.Locked ? ", when that is chosen; locked" : ", when that is chosen", _ => "" })}"
                : field.Asking is { } asking
                    ? request.Views.Sees(asking.Query, request.Catalogue.Site) ? $"query: {asking.Query.Label}"
                        : "a query over what you are not shown"
                : field.CarriedFrom.Count > 0 ? "the document before"
                : field.Numbering is not null ? "numbering"
                : field.IsThroughLink ? "the link"
                : field.IsMaintained ? "the ERP"
                : "hand"
            )
        );
        if (
            field.IsStored
            && await facts.CountRowsAsync(field.Part, viewer) is { } rows
            && await facts.CountFilledAsync(field, viewer) is { } filled
        )
            said.Add(("Holds a value in", $"{Numbers.Format(filled)} of {Numbers.Format(rows)} {field.Part.Plural.ToLowerInvariant()}"));

        said.AddRange(
            WhyHere(
                field.Part.RecordType,
                [field.Id, .. ScreenOf(type).Layout.PlacesOf(field).Where(place => place.Id != field.Id).Select(place => place.Id)]
            )
        );
        said.Add(
            (
                "You may",
                viewer.LevelAt(field) switch
                {
                    AccessLevel.Write => "read and change it",
                    AccessLevel.Read when !field.IsTyped => "read it; it is filled by itself",
                    AccessLevel.Read => "read it",
                    AccessLevel.Masked => "see that it exists, not what it contains",
                    _ => "not see it",
                }
            )
        );
        return new(
            field.TextIn(viewer.Locale).Label,
            field.IsAdded,
            said,
            FieldEffects.UsesOf(request.Catalogue, field, request.Views),
            viewer.MayAt(AdminWork.Define, field.Part.RecordType.Code) && field.Definition is { } own ? $"/setup/fields/{own.Id}" : null
        )
        {
            Access = viewer.MayAt(AdminWork.Grant, type.Code)
                ? $"/setup/access?type={type.Code}&field={Uri.EscapeDataString(field.Definition?.Id ?? field.Id)}"
                : null,
        };
    }

    /// <summary>The card of a section or a page; null when the screen has none of that id.</summary>
    public async Task<OriginCard?> OfPartAsync(RecordType type, string id)
    {
        var layout = ScreenOf(type).Layout;
        var section = layout.Sections.FirstOrDefault(candidate => candidate.Id == id);
        var page = layout.Pages.FirstOrDefault(candidate => candidate.Id == id);
        if (layout.Sections.SelectMany(each => each.Items).OfType<LayoutExtra>().FirstOrDefault(made => made.Id == id) is { } extra)
            return OfExtra(type, extra);
        if (section is null && page is null)
            return null;
        var fields = (section is not null ? [section] : page!.Sections)
            .SelectMany(each => each.Places)
            .Select(place => place.Field)
            .Where(request.Views.Knows)
            .ToList();
        var added = fields.Where(field => field.IsAdded).ToList();
        var said = new List<(string, string)>
        {
            (
                "Comes with",
                ScreenOf(type).Trace.GetValueOrDefault(id)?.FirstOrDefault(step => step.Operation.New is not null) is { } made
                    ? $"the layer {made.Layer.Label}"
                    : HostName
            ),
            (
                "What it is",
                section is null ? $"a page with {page!.Sections.Count} sections"
                : section.Lines is { } lines ? $"a section with {lines.Plural.ToLowerInvariant()}"
                : "a section with fields"
            ),
            ("Fields", $"{fields.Count}, {added.Count} of them added"),
            ("Records", Numbers.Format(await counts.OfAsync(type, request.Viewer))),
        };
        said.AddRange(WhyHere(type, [id]));
        return new(
            section?.Label ?? page!.Label,
            false,
            said,
            [.. added.Select(field => $"{field.TextIn(request.Locale).Label} was added to it.")],
            request.Viewer.MayAt(AdminWork.Define, type.Code) ? $"/setup/fields?type={type.Code}" : null
        );
    }

    // What a layer made: guidance, a button, a scratch field.
    private OriginCard OfExtra(RecordType type, LayoutExtra extra)
    {
        var (what, called) = extra.Made.What switch
        {
            NewPart.Guidance => ("text that tells how to do the work", "Guidance"),
            NewPart.Button => ("a button", "Button"),
            _ => ("a scratch field: typed or calculated here, stored nowhere", "Scratch field"),
        };
        var layer = ScreenOf(type).Trace.GetValueOrDefault(extra.Id)?.FirstOrDefault(step => step.Operation.New is not null)?.Layer.Label;
        return new(
            extra.Caption?.In(request.Locale) ?? called,
            true,
            [("Comes with", $"the layer {layer}"), ("What it is", what), .. WhyHere(type, [extra.Id])],
            [],
            request.Viewer.MayAt(AdminWork.Arrange, type.Code)
                ? $"/setup/arrange?type={type.Code}&part={Uri.EscapeDataString(extra.Id)}"
                : null
        );
    }

    private Resolved ScreenOf(RecordType type) => type.Screens.AtMost(request.Viewer, RecordMode.Changing);

    // Which layers have a say in where a part stands and how, for the person who looks; the last word counts.
    private IEnumerable<(string Name, string Text)> WhyHere(RecordType type, IEnumerable<string> ids)
    {
        var why = ids.SelectMany(id => type.Screens.Why(ScreenOf(type), id, request.Views.Knows)).ToList();
        yield return (
            "Why you see it so",
            why.Count == 0 ? "No layer says anything of it: it is as it was delivered or defined." : string.Join(" ", why)
        );
    }

    private string HostName => $"{request.Catalogue.Host.Label} {request.Catalogue.Host.Version}";
}

/// <summary>The route of cards.</summary>
internal static class OriginRoutes
{
    public static void MapOrigins(this WebApplication app) =>
        app.MapGet("/origins/{type}/{element}", async (string type, string element, CurrentRequest request, Origins origins) =>
            {
                if (request.Find(type) is not { } found)
                    return Results.NotFound();
                if (origins.FieldAt(found, element) is { } field)
                    return request.Viewer.LevelAt(field) == AccessLevel.None
                        ? Results.NotFound()
                        : Results.Json(Shown(await origins.OfAsync(field)));
                return await origins.OfPartAsync(found, element) is { } card ? Results.Json(Shown(card)) : Results.NotFound();
            })
            .RequireAuthorization();

    private static object Shown(OriginCard card) =>
        new
        {
            title = card.Title,
            added = card.IsAdded,
            facts = card.Facts.Select(fact => new[] { fact.Name, fact.Text }),
            uses = card.Uses,
            definition = card.Definition,
            access = card.Access,
        };
}
