namespace Pelto.Web;

/// <summary>
/// Headers that tell browsers what a page may do: nothing from elsewhere, no inline script or style, no framing, no device; and that what
/// somebody saw is not kept for the next.
/// </summary>
internal sealed class SafetyHeaders(RequestDelegate next)
{
    private const string Policy =
        "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

    /// <summary>In the address of a page that another page of Pelto shows within itself.</summary>
    public const string Inside = "inside";

    public Task InvokeAsync(HttpContext context)
    {
        // At the last moment, since an error clears what was set before; a file may have set a stricter policy of its own.
        context.Response.OnStarting(() =>
        {
            var headers = context.Response.Headers;
            headers.TryAdd(
                "Content-Security-Policy",
                context.Request.Query.ContainsKey(Inside)
                    ? Policy.Replace("frame-ancestors 'none'", "frame-ancestors 'self'", StringComparison.Ordinal)
                    : Policy
            );
            headers.XContentTypeOptions = "nosniff";
            headers.TryAdd("Referrer-Policy", "same-origin");
            headers["Cross-Origin-Opener-Policy"] = "same-origin";
            headers["Cross-Origin-Resource-Policy"] = "same-origin";
            headers["Permissions-Policy"] = "camera=(), display-capture=(), geolocation=(), microphone=(), payment=(), usb=()";
            if (headers.CacheControl.Count == 0)
                headers.CacheControl = "no-store";
            return Task.CompletedTask;
        });
        return next(context);
    }
}
