using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace Pelto.Web;

/// <summary>A page that is asked for something that it does not have is not there, rather than drawn without what it shows.</summary>
internal sealed class KnownHandlers : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var request = context.HttpContext.Request;
        var isAsked = request.Query.ContainsKey("handler") || context.RouteData.Values.ContainsKey("handler") || !(HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method));
        var name = request.Query["handler"].ToString();
        var isKnown = context.HandlerMethod is { } found && (name.Length == 0 || string.Equals(found.Name, name, StringComparison.OrdinalIgnoreCase));
        if (!isKnown && isAsked) context.Result = new NotFoundResult();
        else await next();
    }
}
