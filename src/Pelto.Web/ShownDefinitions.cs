using Microsoft.AspNetCore.Mvc.Filters;
using Pelto.Core.Elements;

namespace Pelto.Web;

/// <summary>The page of a definition is not there for whoever has part of the work, when it is not in their part.</summary>
internal sealed class ShownDefinitions(CurrentRequest request, Drafts drafts) : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var isOfSetUp = context.ActionDescriptor.ViewEnginePath.StartsWith("/Setup/", StringComparison.Ordinal);
        if (
            isOfSetUp
            && context.RouteData.Values.GetValueOrDefault("id") is string id
            && !AdminRights.All(request.Viewer)
            && !await IsShownAsync(id.Split('@')[0])
        )
            context.Result = new NotFoundResult();
        else
            await next();
    }

    // What the site does not hold, the page says itself.
    private async Task<bool> IsShownAsync(string id) =>
        ElementSorts.IsShown((await drafts.ReadAsync()).Site, id, request.Views)
        ?? ElementSorts.IsShown(request.Catalogue.Site, id, request.Views)
        ?? true;
}
