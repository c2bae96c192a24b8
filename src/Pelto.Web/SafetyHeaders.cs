namespace Pelto.Web;

/// <summary>Headers that tell browsers what a page may do: nothing from elsewhere, no inline script or style, no framing.</summary>
internal sealed class SafetyHeaders(RequestDelegate next)
{
    private const string Policy = "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

    public Task InvokeAsync(HttpContext context)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        return next(context);
    }
}
