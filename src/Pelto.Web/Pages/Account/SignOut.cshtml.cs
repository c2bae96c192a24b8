using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Pages.Account;

/// <summary>Signing out.</summary>
public sealed class SignOutModel(Sessions sessions) : PageModel
{
    /// <summary>Somebody came here by hand: nothing to show.</summary>
    public IActionResult OnGet() => Redirect("/");

    /// <summary>Signs out: the session ends, and with it the cookie is worth nothing, wherever it was copied to.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        if (SignedIn.In(HttpContext) is { Session: { } session, Viewer: var viewer })
            await sessions.EndAsync(viewer, session, null, viewer);
        await HttpContext.SignOutAsync(IdentityConstants.ApplicationScheme);
        return Redirect("/account/sign-in");
    }
}
