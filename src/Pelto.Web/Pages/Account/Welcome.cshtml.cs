using Pelto.Data.SigningIn;

namespace Pelto.Web.Pages.Account;

/// <summary>Where somebody who was invited chooses a password, once.</summary>
public sealed class WelcomeModel(Credentials credentials) : PageModel
{
    /// <summary>Whom the word in the address invites; null when it is worth nothing.</summary>
    public string? Name { get; private set; }

    /// <summary>The name by which they sign in.</summary>
    public string SignInName { get; private set; } = "";

    /// <summary>Why the password cannot be.</summary>
    public string? Refusal { get; private set; }

    /// <summary>Asks for it.</summary>
    public async Task OnGetAsync(string word, CancellationToken cancel) => await ShowAsync(word, cancel);

    /// <summary>Keeps it. Signing in is a step of its own, so that nobody gets in past a second factor.</summary>
    public async Task<IActionResult> OnPostAsync(string word, string? password, CancellationToken cancel)
    {
        await ShowAsync(word, cancel);
        if (Name is null)
            return Page();
        Refusal = await credentials.AcceptAsync(word, password ?? "", SignedIn.From(HttpContext), cancel);
        return Refusal is null ? Redirect("/account/sign-in") : Page();
    }

    private async Task ShowAsync(string word, CancellationToken cancel)
    {
        // Whoever follows a link from here does not take the word along.
        Response.Headers["Referrer-Policy"] = "no-referrer";
        if (await credentials.InvitedAsync(word, cancel) is { } viewer)
            (Name, SignInName) = (viewer.Name, viewer.SignIn);
    }
}
