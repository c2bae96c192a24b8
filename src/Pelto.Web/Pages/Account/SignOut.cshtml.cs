using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Pelto.Web.Pages.Account;

/// <summary>Signing out.</summary>
public sealed class SignOutModel : PageModel
{
    /// <summary>Somebody came here by hand: nothing to show.</summary>
    public IActionResult OnGet() => Redirect("/");

    /// <summary>Signs out.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        await HttpContext.SignOutAsync(IdentityConstants.ApplicationScheme);
        return Redirect("/account/sign-in");
    }
}
