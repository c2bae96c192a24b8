namespace Pelto.Web.Pages.Account;

/// <summary>
/// Asks somebody who is signed in to show again who they are, where what they want has no form of its own; then it is done as before.
/// </summary>
public sealed class ConfirmModel(Confirming confirming) : PageModel
{
    /// <summary>Where to go afterwards.</summary>
    public string ReturnUrl { get; private set; } = "/";

    /// <summary>Asks.</summary>
    public async Task<IActionResult> OnGetAsync(string? returnUrl)
    {
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl : "/";
        return await confirming.IsRequiredAsync() ? Page() : LocalRedirect(ReturnUrl);
    }

    /// <summary>Goes on when it is right.</summary>
    public async Task<IActionResult> OnPostAsync(string? returnUrl)
    {
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl : "/";
        return await confirming.IsDoneAsync(Request.Form, "it") ? LocalRedirect(ReturnUrl) : Page();
    }
}
