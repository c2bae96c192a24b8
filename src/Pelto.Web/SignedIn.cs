using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Identity;
using Pelto.Data.SigningIn;

namespace Pelto.Web;

/// <summary>
/// Who a request is from, as it is at this moment: looked up by the session or the token that it carries, never by what a cookie says of
/// roles.
/// </summary>
/// <param name="Viewer">The person.</param>
/// <param name="Session">The session; null for a token.</param>
/// <param name="ConfirmedAt">When they last showed who they are.</param>
/// <param name="Token">What the token is called; null for a session.</param>
/// <param name="LacksFactor">True where a second factor is demanded that they have not set up.</param>
public sealed record SignedIn(Viewer Viewer, Guid? Session, DateTimeOffset ConfirmedAt, string? Token, bool LacksFactor = false)
{
    private const string SessionClaim = "session";
    private static readonly object Item = new();

    /// <summary>Who a request is from; null for nobody.</summary>
    public static SignedIn? In(HttpContext context) => context.Items[Item] as SignedIn;

    /// <summary>Puts down who a request is from.</summary>
    public static ClaimsPrincipal Enter(HttpContext context, SignedIn who, string scheme)
    {
        var from = From(context);
        context.Items[Item] = who with { Viewer = who.Viewer with { From = who.Token is null ? from : $"{who.Token}, {from}" } };
        return new(
            new ClaimsIdentity([new(ClaimTypes.NameIdentifier, who.Viewer.Id.ToString()), new(ClaimTypes.Name, who.Viewer.Name)], scheme)
        );
    }

    /// <summary>The address that a request was sent from.</summary>
    public static string From(HttpContext context) =>
        context.Connection.RemoteIpAddress is { } ip ? (ip.IsIPv4MappedToIPv6 ? ip.MapToIPv4() : ip).ToString() : "";

    /// <summary>Signs a browser in: begins a session, and gives a cookie that holds nothing but its id.</summary>
    public static async Task BeginAsync(HttpContext context, Sessions sessions, Viewer viewer, string how)
    {
        var session = await sessions.BeginAsync(
            viewer with
            {
                From = From(context),
            },
            context.Request.Headers.UserAgent.ToString(),
            how,
            context.RequestAborted
        );
        var identity = new ClaimsIdentity(
            [new(SessionClaim, session.ToString()), new(ClaimTypes.NameIdentifier, viewer.Id.ToString())],
            IdentityConstants.ApplicationScheme
        );
        await context.SignInAsync(IdentityConstants.ApplicationScheme, new ClaimsPrincipal(identity));
    }

    /// <summary>Where a second factor is demanded, nothing but setting it up is there for who has none.</summary>
    public static async Task DemandFactorAsync(HttpContext context, RequestDelegate next)
    {
        var path = context.Request.Path;
        if (
            In(context)?.LacksFactor != true
            || path.StartsWithSegments("/account/security")
            || path.StartsWithSegments("/account/sign-out")
            || path.StartsWithSegments("/account/confirm")
        )
            await next(context);
        else if (HttpMethods.IsGet(context.Request.Method) && !path.StartsWithSegments("/live"))
            context.Response.Redirect("/account/security");
        else
            throw new AccessRefusedException("You need a second factor: set it up first, under Signing in.");
    }

    /// <summary>Looks a cookie's session up; one that has ended is worth nothing.</summary>
    public static async Task ValidateAsync(CookieValidatePrincipalContext context)
    {
        var http = context.HttpContext;
        var listens = http.Request.Path.StartsWithSegments("/live");
        if (
            Guid.TryParse(context.Principal?.FindFirstValue(SessionClaim), out var session)
            && await http.RequestServices.GetRequiredService<Sessions>().FindAsync(session, !listens, http.RequestAborted) is { } found
        )
        {
            // For this request only: the cookie stays as it is.
            context.ReplacePrincipal(
                Enter(http, new(found.Viewer, session, found.ConfirmedAt, null, found.LacksFactor), IdentityConstants.ApplicationScheme)
            );
            return;
        }

        context.RejectPrincipal();
        await http.SignOutAsync(IdentityConstants.ApplicationScheme);
    }
}
