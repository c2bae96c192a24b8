using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Api;

/// <summary>Signs the programming interface in by a bearer token (RFC 6750).</summary>
internal sealed class BearerTokens(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory logger,
    UrlEncoder encoder,
    Tokens tokens
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public new const string Scheme = "Bearer";

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (TokenOf(Request) is not { } token)
            return AuthenticateResult.NoResult();
        return await tokens.FindAsync(token, Context.RequestAborted) is { } found
            ? AuthenticateResult.Success(new(SignedIn.Enter(Context, new(found.Viewer, null, default, found.Name), Scheme), Scheme))
            : AuthenticateResult.Fail("The token is not known, or has expired.");
    }

    /// <summary>The token that a request carries, however its scheme is written; null for none.</summary>
    public static string? TokenOf(HttpRequest request) =>
        request.Headers.Authorization.ToString() is var header && header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)
            ? header["Bearer ".Length..].Trim()
            : null;

    protected override Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        Response.Headers.WWWAuthenticate = "Bearer";
        return Problems
            .For(
                StatusCodes.Status401Unauthorized,
                "Send a bearer token that has not expired: Authorization: "
                    + "Bearer pelto_… People make theirs under Your settings, Signing in."
            )
            .ExecuteAsync(Context);
    }

    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) =>
        Problems.For(StatusCodes.Status403Forbidden, "This token's person may not do that.").ExecuteAsync(Context);
}
