using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Pelto.Data.Definitions;

namespace Pelto.Web.Pages.Account;

/// <summary>Signing in: by picking a person on demo data, by name and password elsewhere.</summary>
public sealed class SignInModel(People people, UserManager<Person> users, SignInManager<Person> signIn) : PageModel
{
    /// <summary>True when a person can be picked.</summary>
    public bool IsDemo { get; private set; }

    /// <summary>Whom one can be.</summary>
    public IReadOnlyList<PersonToPick> People { get; private set; } = [];

    /// <summary>Where to go afterwards.</summary>
    public string ReturnUrl { get; private set; } = "/";

    /// <summary>What was typed.</summary>
    public string SignInName { get; private set; } = "";

    /// <summary>Why it did not work.</summary>
    public string? Refusal { get; private set; }

    /// <summary>Shows the page.</summary>
    public Task OnGetAsync(string? returnUrl) => ShowAsync(returnUrl);

    /// <summary>Signs in. Whether somebody may be picked is decided here, not by what the page offered.</summary>
    public async Task<IActionResult> OnPostAsync(string? returnUrl, Guid? pick, string? name, string? password)
    {
        await ShowAsync(returnUrl);
        if (IsDemo && pick is { } id && await people.ViewerAsync(id) is { } picked) return await EnterAsync(picked.Id);
        if (!IsDemo && !string.IsNullOrEmpty(name) && await users.FindByNameAsync(name) is { } person
            && (await signIn.CheckPasswordSignInAsync(person, password ?? "", lockoutOnFailure: true)).Succeeded)
            return await EnterAsync(person.Id);
        (SignInName, Refusal) = (name ?? "", "Name and password do not belong together.");
        return Page();
    }

    private async Task<IActionResult> EnterAsync(Guid id)
    {
        var identity = CurrentRequest.ToIdentity((await people.ViewerAsync(id))!, IdentityConstants.ApplicationScheme);
        await HttpContext.SignInAsync(IdentityConstants.ApplicationScheme, new ClaimsPrincipal(identity), new AuthenticationProperties { IsPersistent = true });
        return LocalRedirect(ReturnUrl);
    }

    private async Task ShowAsync(string? returnUrl)
    {
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl : "/";
        IsDemo = await people.IsDemoAsync();
        if (IsDemo) People = await people.AllAsync();
    }
}
