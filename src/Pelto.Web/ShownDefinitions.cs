using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Pelto.Core.Access;
using Pelto.Core.Elements;
using Pelto.Data.Releases;

namespace Pelto.Web;

/// <summary>The page of a definition is not there for whoever has part of the work, when it is not in their part.</summary>
internal sealed class ShownDefinitions(CurrentRequest request, Drafts drafts) : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var isOfSetUp = context.ActionDescriptor.ViewEnginePath.StartsWith("/Setup/", StringComparison.Ordinal);
        if (isOfSetUp && context.RouteData.Values.GetValueOrDefault("id") is string id && request.Views is var views && !WorkRights.All(request.Viewer)
            && !(IsShown(views, id.Split('@')[0], (await drafts.ReadAsync()).Site) ?? IsShown(views, id.Split('@')[0], request.Catalogue.Site) ?? true)) context.Result = new NotFoundResult();
        else await next();
    }

    // Null for what the site does not hold: the page says that itself.
    private static bool? IsShown(SiteViews views, string id, SiteDefinition site) =>
        site.Find(id) is { } field ? views.Sees(field)
        : site.FindList(id) is { } list ? views.Sees(list, site)
        : site.FindQuery(id) is { } query ? views.Sees(query, site)
        : site.FindType(id) is { } type ? views.SeesType(type.Code) : null;
}
