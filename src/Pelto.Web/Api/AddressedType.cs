namespace Pelto.Web.Api;

/// <summary>
/// Finds the record type that an address names by <c>{type}</c>, for all below it: whoever may not see it is told that there is none.
/// </summary>
internal sealed class AddressedType : IEndpointFilter
{
    /// <inheritdoc/>
    public ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var code = (string)context.HttpContext.GetRouteValue("type")!;
        return context.HttpContext.RequestServices.GetRequiredService<CurrentRequest>().TryAddress(code)
            ? next(context)
            : ValueTask.FromResult<object?>(NotFound(code));
    }

    /// <summary>The answer where there is no such record type.</summary>
    public static IResult NotFound(string code) => Problems.NotFound($"There is no record type “{code}”.");
}
