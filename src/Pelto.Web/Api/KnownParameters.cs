using Microsoft.AspNetCore.Http.Metadata;

namespace Pelto.Web.Api;

/// <summary>
/// Refuses what stands behind the question mark of an address and is no parameter there: a filter whose name is misspelled would give all
/// that it was to leave out.
/// </summary>
internal sealed class KnownParameters : IEndpointFilter
{
    /// <inheritdoc/>
    public ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        if (http.Request.Query.Count == 0)
            return next(context);
        var known = For(http.GetEndpoint()!);
        return http.Request.Query.Keys.FirstOrDefault(name => !known.Contains(name)) is { } unknown
            ? ValueTask.FromResult<object?>(
                Problems.For(
                    StatusCodes.Status400BadRequest,
                    $"There is no parameter “{unknown}” here. "
                        + $"{(known.Count == 0 ? "There are none." : $"There {(known.Count == 1 ? "is" : "are")}: {string.Join(", ", known.Order(StringComparer.Ordinal))}.")}"
                )
            )
            : next(context);
    }

    /// <summary>The parameters of an address: what is read from it as text, and does not stand in its path.</summary>
    private static HashSet<string> For(Endpoint endpoint) =>
        endpoint
            .Metadata.GetOrderedMetadata<IParameterBindingMetadata>()
            .Where(parameter =>
                IsText(parameter.ParameterInfo.ParameterType)
                && (endpoint as RouteEndpoint)?.RoutePattern.GetParameter(parameter.Name) is null
            )
            .Select(parameter => parameter.Name)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);

    private static bool IsText(Type type)
    {
        var of = Nullable.GetUnderlyingType(type.IsArray ? type.GetElementType()! : type) ?? (type.IsArray ? type.GetElementType()! : type);
        return of == typeof(string) || of.IsPrimitive || of.IsEnum || of == typeof(Guid) || of == typeof(DateOnly) || of == typeof(decimal);
    }
}
