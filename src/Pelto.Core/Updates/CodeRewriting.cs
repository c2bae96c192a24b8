using Pelto.Core.Formulas;
using Pelto.Core.Layouts;
using Pelto.Core.Queries;

namespace Pelto.Core.Updates;

/// <summary>A text of a site in which codes were replaced.</summary>
/// <param name="Element">The lasting id of what it belongs to.</param>
/// <param name="What">What it belongs to, for people.</param>
/// <param name="Before">As it was.</param>
/// <param name="After">As it becomes.</param>
public sealed record Rewriting(string Element, string What, string Before, string After);

/// <summary>Rewrites all that a site says by codes, where these become others. What is said by lasting ids stays as it is.</summary>
internal sealed class CodeRewriting(Catalogue now, CodeChanges codes)
{
    private readonly List<Rewriting> done = [];
    private readonly List<Problem> problems = [];
    private (string Element, string What) at;

    /// <summary>What was rewritten.</summary>
    public IReadOnlyList<Rewriting> Done => done;

    /// <summary>What reads a field that is not there any more.</summary>
    public IReadOnlyList<Problem> Problems => problems;

    /// <summary>The site with the new codes.</summary>
    public SiteDefinition Rewrite(SiteDefinition site) =>
        site with
        {
            Fields = [.. site.Fields.Select(Rewrite)],
            Queries = [.. site.Queries.Select(Rewrite)],
            RecordTypes = [.. site.RecordTypes.Select(Rewrite)],
            Layers = [.. site.Layers.Select(Rewrite)],
        };

    private FieldDefinition Rewrite(FieldDefinition definition)
    {
        at = (definition.Id, definition.Label);
        var parts = definition.Places().Select(place => now.Find(place.RecordType)?.FindPart(place.Part)).OfType<Part>().ToList();
        var target = definition.Target is { } type ? now.Find(type)?.Header : null;
        var code = codes.CodeOf(definition);
        return definition with
        {
            Code = code ?? definition.Code,
            StoredAs =
                code is null ? definition.StoredAs
                : code == (definition.StoredAs ?? definition.Code) ? null
                : definition.StoredAs ?? definition.Code,
            Formula = Text(definition.Formula, parts),
            RequiredWhen = Text(definition.RequiredWhen, parts),
            ShownWhen = Text(definition.ShownWhen, parts),
            Check = Text(definition.Check, parts),
            Offers = target is null ? definition.Offers : Text(definition.Offers, [target], parts.FirstOrDefault()),
            Path = Way(definition.Path, parts),
            Finds = target is null ? definition.Finds : definition.Finds?.Select(found => Named(target, found)).ToList(),
            Query = definition.Query is { } use
                ? use with
                {
                    With = use.With.ToDictionary(pair => pair.Key, pair => Text(pair.Value, parts)!, StringComparer.Ordinal),
                }
                : null,
        };
    }

    private QueryDefinition Rewrite(QueryDefinition query)
    {
        at = (query.Id, query.Label);
        if (query.Built is not { } built || now.Find(built.RecordType)?.FindPart(built.Part) is not { } part)
            return query;
        var parameters = query.Parameters.ToDictionary(
            parameter => parameter.Name,
            parameter => QueryBinder.ParameterKinds.FirstOrDefault(kind => kind.Kind == parameter.Kind).Form,
            StringComparer.Ordinal
        );
        return query with
        {
            Built = built with
            {
                Where = Text(built.Where, [part], null, parameters),
                Order = Text(built.Order, [part], null, parameters),

                // A column that is named after its field goes on being called so: fields name it.
                Values =
                [
                    .. built.Values.Select(value =>
                        Text(value.Formula, [part], null, parameters) is { } formula && formula != value.Formula
                            ? new QueryValue(value.Name ?? value.Formula.Trim().Split('.')[^1], formula)
                            : value
                    ),
                ],
            },
        };
    }

    private RecordTypeDefinition Rewrite(RecordTypeDefinition definition)
    {
        if (definition.PublicForm is not { } form || now.Find(definition.Code) is not { } type)
            return definition;
        at = (definition.Id, definition.Plural);
        return definition with { PublicForm = form with { Fields = [.. form.Fields.Select(field => Rewrite(field, type))] } };
    }

    private FormField Rewrite(FormField chosen, RecordType type)
    {
        var dot = chosen.Field.IndexOf('.', StringComparison.Ordinal);
        var (part, prefix, code) =
            dot < 0
                ? (type.Header, "", chosen.Field)
                : (type.FindPart(chosen.Field[..dot]), chosen.Field[..(dot + 1)], chosen.Field[(dot + 1)..]);
        if (part?.Find(code) is not { } field)
            return chosen;
        return new(prefix + Named(part, code), field.Target is { } target ? Text(chosen.Released, [target.Header], part) : chosen.Released);
    }

    private Layer Rewrite(Layer layer)
    {
        at = (layer.Id, layer.Label);
        return layer with { Operations = [.. layer.Operations.Select(operation => Rewrite(layer, operation))] };
    }

    private LayerOperation Rewrite(Layer layer, LayerOperation operation)
    {
        if (
            string.IsNullOrWhiteSpace(operation.When)
            && operation.New is not ({ Does: "open", To.Length: > 0 } or { What: NewPart.Scratch, Formula.Length: > 0 })
        )
            return operation;
        List<RecordType> types =
        [
            .. now.RecordTypes.Where(type =>
                type.Screens.Layers.Any(known =>
                    known.Id == layer.Id && known.Operations.Any(other => SiteDefinition.Same(other, operation))
                )
            ),
        ];
        List<Part> headers = [.. types.Select(type => type.Header)];
        var scratch = ScratchFields.Names(types.SelectMany(type => ScratchFields.On(type, now.Site.Layers)));
        return operation with
        {
            When = Text(operation.When, headers, null, scratch),
            New = operation.New switch
            {
                { Does: "open", To: { } to } button => button with { To = Text(to, headers, null, scratch) },
                { What: NewPart.Scratch, Formula: { } formula } field => field with { Formula = Text(formula, headers, null, scratch) },
                var other => other,
            },
        };
    }

    private string Named(Part part, string code) =>
        Known(part.Find(code)) is { } field && codes.CodeOf(field) is { } other ? Put(code, other) : code;

    private string? Way(string? path, List<Part> parts)
    {
        if (string.IsNullOrWhiteSpace(path))
            return path;
        var (steps, part) = (path.Split('.', StringSplitOptions.TrimEntries), parts.FirstOrDefault());
        for (var step = 0; step < steps.Length && Known(part?.Find(steps[step])) is { } field; step++)
        {
            steps[step] = codes.CodeOf(field) ?? steps[step];
            part = field.Target?.Header;
        }

        return Put(path, string.Join('.', steps));
    }

    // A text that makes no sense now stays as it is: somebody is at it.
    private string? Text(
        string? text,
        IReadOnlyList<Part> parts,
        Part? atHand = null,
        IReadOnlyDictionary<string, DataType>? parameters = null
    )
    {
        if (string.IsNullOrWhiteSpace(text))
            return text;
        var formula = parts.Select(part => Formula.Bind(text, part, [], atHand, parameters)).FirstOrDefault(bound => bound is not null);
        if (formula is null)
            return text;
        foreach (var field in formula.Names)
            Known(field);
        return Put(text, formula.Renamed(codes.CodeOf));
    }

    private Field? Known(Field? field)
    {
        if (field is not null && codes.IsGone(field))
            problems.Add(
                new(at.Element, "formula", $"{at.What} reads {field.Label}, which no longer exists. Let it read something else first.")
            );
        return field;
    }

    private string Put(string before, string after)
    {
        if (before != after)
            done.Add(new(at.Element, at.What, before, after));
        return after;
    }
}
