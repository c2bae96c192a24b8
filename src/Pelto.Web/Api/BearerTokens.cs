using System.Security.Claims;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;
using Pelto.Data.Definitions;

namespace Pelto.Web.Api;

/// <summary>Signs the programming interface in by a bearer token (RFC 6750).</summary>
internal sealed class BearerTokens(IOptionsMonitor<AuthenticationSchemeOptions> options, ILoggerFactory logger, UrlEncoder encoder, People people)
    : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public new const string Scheme = "Bearer";

    /// <summary>Holds what the token is called.</summary>
    public const string NameClaim = "token";

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var header = Request.Headers.Authorization.ToString();
        if (!header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)) return AuthenticateResult.NoResult();
        return await people.FindByTokenAsync(header["Bearer ".Length..].Trim(), Context.RequestAborted) is { } viewer
            ? AuthenticateResult.Success(new(new ClaimsPrincipal(CurrentRequest.ToIdentity(viewer, Scheme)), Scheme))
            : AuthenticateResult.Fail("The token is not known.");
    }

    protected override Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        Response.Headers.WWWAuthenticate = "Bearer";
        return Problems.Of(StatusCodes.Status401Unauthorized, "Send a bearer token: Authorization: Bearer pelto_… ./pelto token PERSON makes one.").ExecuteAsync(Context);
    }

    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) =>
        Problems.Of(StatusCodes.Status403Forbidden, "This token's person may not do that.").ExecuteAsync(Context);
}
