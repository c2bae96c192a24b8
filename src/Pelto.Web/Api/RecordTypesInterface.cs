using Pelto.Core.Elements;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Web.Api;

/// <summary>What record types and fields there are.</summary>
internal static class RecordTypesInterface
{
    public static IResult All(CurrentRequest request) =>
        Results.Json(
            new
            {
                release = request.Catalogue.Release,
                recordTypes = request
                    .ReadableTypes()
                    .Select(type => new
                    {
                        code = type.Code,
                        label = type.Label,
                        plural = type.Plural,
                        href = $"{Interface.Root}/record-types/{type.Code}",
                    }),
            }
        );

    public static IResult One(CurrentRequest request)
    {
        var type = request.Type;
        return Results.Json(
            new
            {
                code = type.Code,
                label = type.Label,
                plural = type.Plural,
                parts = type.Parts.Select(part => new { code = part.Code, label = part.Label }),
                fields = type
                    .Parts.SelectMany(part => part.Fields)
                    .Where(field => request.Viewer.LevelAt(field) >= AccessLevel.Read)
                    .Select(field => Described(field, request.Views)),
            }
        );
    }

    // What a rule names is told to whoever knows of that.
    private static object Described(Field field, SiteViews views) =>
        new
        {
            id = field.Id,
            code = field.Code,
            label = field.Label,
            heading = field.Heading,
            help = field.Content.Help,
            part = field.Part.Code,
            kind = field.Kind.Name,
            description = field.KindInWords,
            length = field.Kind.Longest,
            digits = field.Content.Digits,
            decimals = field.Content.Decimals,
            currencies = field.Kind.Takes(KindOption.Currencies) ? field.Kind.UnitChoices.Select(one => one.Code) : null,
            units = field.Kind.Takes(KindOption.Units)
                ? field.Kind.UnitChoices.Select(unit => new { code = unit.Code, symbol = unit.Symbol })
                : null,
            scheme = field.Kind.SchemeCode,
            choices = field.Kind.Choices?.All.Select(choice => new
            {
                code = choice.Code,
                label = choice.Label,
                texts = choice.Texts,
                retired = !choice.IsOffered,
            }),
            target = field.Kind.IsOneLink ? field.Kind.TargetCode : null,
            added = field.IsAdded,
            origin = field.IsAdded ? "added" : "built in",
            required = field.Required,
            requiredWhen = views.Told(field.Rules.RequiredWhen),
            minimum = field.Content.Minimum,
            maximum = field.Content.Maximum,
            pattern = field.Content.Pattern,
            unique = field.Content.Unique,
            check = views.Told(field.Rules.Check),
            texts = field.Content.Texts,
            defaultValue = field.Content.DefaultValue,
            filledBy = field.IsFilled
                ? field.Asking is not null
                    ? "query"
                    : field.Formula is null
                        ? "document"
                        : "formula"
                : field.Numbering is not null
                    ? "numbering"
                    : field.IsMaintained
                        ? "erp"
                        : field.IsThroughLink
                            ? "link"
                            : "hand",
            path = field.Content.Path,
            offers = views.Told(field.Narrowing?.Condition),
            finds = field.Content.Finds is null ? null : field.Finds.Where(views.Knows).Select(found => found.Code),
            formula = views.Told(field.Formula),
        };
}
