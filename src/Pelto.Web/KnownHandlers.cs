using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc.Filters;

namespace Pelto.Web;

/// <summary>A page that is asked for something that it does not have is not there, rather than drawn without what it shows.</summary>
internal sealed class KnownHandlers : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var request = context.HttpContext.Request;

        // The page that says what went wrong is drawn whatever was asked of the page that it went wrong on.
        var isAnswer =
            context.HttpContext.Features.Get<IStatusCodeReExecuteFeature>() is not null
            || context.HttpContext.Features.Get<IExceptionHandlerFeature>() is not null;
        var isAsked =
            request.Query.ContainsKey("handler")
            || context.RouteData.Values.ContainsKey("handler")
            || !(HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method));
        var name = request.Query["handler"].ToString();
        var isKnown =
            context.HandlerMethod is { } found && (name.Length == 0 || string.Equals(found.Name, name, StringComparison.OrdinalIgnoreCase));
        if (!isKnown && isAsked && !isAnswer)
            context.Result = new NotFoundResult();
        else
            await next();
    }
}
