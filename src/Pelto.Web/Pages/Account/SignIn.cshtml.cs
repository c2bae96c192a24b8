using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Pages.Account;

/// <summary>
/// Signing in: by picking a person on demo data; by name and password elsewhere, and a code where the person has a second factor.
/// </summary>
public sealed class SignInModel(
    People people,
    Credentials credentials,
    SignInTries tries,
    Sessions sessions,
    IDataProtectionProvider protection
) : PageModel
{
    private const string KnownCookie = "pelto_known";
    private const string Wrong = "Name and password do not match.";
    private static readonly TimeSpan Lasts = TimeSpan.FromMinutes(5);
    private readonly ITimeLimitedDataProtector tickets = protection.CreateProtector("sign-in, second step").ToTimeLimitedDataProtector();
    private readonly ITimeLimitedDataProtector known = protection.CreateProtector("browsers known to people").ToTimeLimitedDataProtector();

    /// <summary>True when a person can be picked.</summary>
    public bool IsDemo { get; private set; }

    /// <summary>Whom one can be.</summary>
    public IReadOnlyList<PersonToPick> People { get; private set; } = [];

    /// <summary>Where to go afterwards.</summary>
    public string ReturnUrl { get; private set; } = "/";

    /// <summary>What was typed.</summary>
    public string SignInName { get; private set; } = "";

    /// <summary>For the second step: who showed a password just now, sealed.</summary>
    public string? Ticket { get; private set; }

    /// <summary>Why it did not work.</summary>
    public string? Refusal { get; private set; }

    /// <summary>Shows the page.</summary>
    public Task OnGetAsync(string? returnUrl) => ShowAsync(returnUrl);

    /// <summary>Signs in. Whether somebody may be picked is decided here, not by what the page offered.</summary>
    public async Task<IActionResult> OnPostAsync(string? returnUrl, Guid? pick, string? name, string? password)
    {
        await ShowAsync(returnUrl);
        if (IsDemo)
            return pick is { } id && await people.ViewerAsync(id) is { } picked ? await EnterAsync(picked.Id, "by being picked") : Page();
        SignInName = name ?? "";
        if (string.IsNullOrWhiteSpace(name) || await MustWaitAsync(name))
            return Page();
        if (await credentials.CheckAsync(name, password ?? "", HttpContext.RequestAborted) is not { } found)
        {
            await FailedAsync(name, Wrong);
            return Page();
        }

        if (!found.NeedsCode)
            return await EnterAsync(found.Id, "by password");
        Ticket = tickets.Protect($"{found.Id}\n{name}", Lasts);
        return Page();
    }

    /// <summary>The second step: the code.</summary>
    public async Task<IActionResult> OnPostCodeAsync(string? returnUrl, string? ticket, string? code)
    {
        await ShowAsync(returnUrl);
        if (IsDemo || Opened(ticket) is not var (id, name))
        {
            Refusal = "That took too long. Begin again.";
            return Page();
        }

        Ticket = ticket;
        if (await MustWaitAsync(name))
            return Page();
        if (await credentials.CheckCodeAsync(id, code ?? "", HttpContext.RequestAborted))
            return await EnterAsync(id, "by password and second factor");
        await FailedAsync(name, "This is not the current code, or it was used already.");
        return Page();
    }

    // Counted before it is looked at: thirty at once are thirty tries.
    private async Task<bool> MustWaitAsync(string name)
    {
        var (sender, isKnown) = await SenderAsync(name);
        if (await tries.TakeAsync(name, sender, isKnown, HttpContext.RequestAborted) is var wait && wait <= TimeSpan.Zero)
            return false;
        (Refusal, Response.StatusCode) = (
            $"Too many tries. Wait {Math.Ceiling(wait.TotalMinutes):0} minutes, then try again.",
            StatusCodes.Status429TooManyRequests
        );
        return true;
    }

    private async Task FailedAsync(string name, string refusal)
    {
        await credentials.NoteFailureAsync(name, SignedIn.From(HttpContext), HttpContext.RequestAborted);
        Refusal = refusal;
    }

    private async Task<IActionResult> EnterAsync(Guid id, string how)
    {
        if (await people.ViewerAsync(id) is not { } viewer)
            return Page();
        await tries.SucceededAsync(viewer.SignIn, (await SenderAsync(viewer.SignIn)).Sender);
        await SignedIn.BeginAsync(HttpContext, sessions, viewer, how);

        // So that strangers who guess at this name do not lock this browser out; until the password is another.
        var (browser, names) = Known();
        var marks = names
            .Where(pair => pair.Key != viewer.SignIn)
            .Append(new(viewer.SignIn, await credentials.StampAsync(viewer.SignIn) ?? ""))
            .TakeLast(5)
            .Select(pair => $"{pair.Key}|{pair.Value}")
            .Prepend(browser ?? Guid.NewGuid().ToString("N"));
        Response.Cookies.Append(
            KnownCookie,
            known.Protect(string.Join('\n', marks), TimeSpan.FromDays(180)),
            new()
            {
                HttpOnly = true,
                SameSite = SameSiteMode.Strict,
                Secure = Request.IsHttps,
                MaxAge = TimeSpan.FromDays(180),
                Path = "/account",
            }
        );
        return LocalRedirect(ReturnUrl);
    }

    // Each browser that is known to a person counts by itself, so that what is typed in one holds up no other.
    private async Task<(string Sender, bool IsKnown)> SenderAsync(string name)
    {
        var (browser, names) = Known();
        return
            browser is not null
            && names.TryGetValue(SignInNames.Normal(name), out var stamp)
            && stamp.Length > 0
            && await credentials.StampAsync(name, HttpContext.RequestAborted) == stamp
            ? ("browser " + browser, true)
            : (new Sender(HttpContext.Connection.RemoteIpAddress, "").Network, false);
    }

    // The mark of this browser, and the people who signed in here before.
    private (string? Browser, IReadOnlyDictionary<string, string> Names) Known()
    {
        try
        {
            var lines = Request.Cookies[KnownCookie] is { Length: > 0 } cookie ? known.Unprotect(cookie).Split('\n') : [];
            return (
                lines.FirstOrDefault(),
                lines
                    .Skip(1)
                    .Select(line => line.Split('|'))
                    .Where(pair => pair.Length == 2)
                    .DistinctBy(pair => pair[0])
                    .ToDictionary(pair => pair[0], pair => pair[1])
            );
        }
        catch (CryptographicException)
        {
            return (null, new Dictionary<string, string>());
        }
    }

    private (Guid Id, string Name)? Opened(string? ticket)
    {
        try
        {
            return ticket is { Length: > 0 } && tickets.Unprotect(ticket).Split('\n') is [var id, var name] ? (Guid.Parse(id), name) : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    private async Task ShowAsync(string? returnUrl)
    {
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl : "/";
        IsDemo = await people.IsDemoAsync();
        if (IsDemo)
            People = await people.AllAsync();
    }
}
