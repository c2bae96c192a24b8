using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Pages.Account;

/// <summary>How a person signs in: the password, a second factor, the sessions that are open, the tokens of their programs.</summary>
public sealed class SecurityModel(
    CurrentRequest request,
    Credentials credentials,
    WaysInReader ways,
    People people,
    Confirming confirming,
    IDataProtectionProvider protection
) : PageModel
{
    private readonly ITimeLimitedDataProtector keys = protection
        .CreateProtector("second factor to begin with")
        .ToTimeLimitedDataProtector();

    /// <summary>How long tokens can last, in days, with what people call it.</summary>
    public static IReadOnlyList<(int Days, string Label)> Lengths { get; } =
    [(7, "a week"), (30, "a month"), (90, "three months"), (365, "a year")];

    /// <summary>True where a second factor is demanded of this person, who has none.</summary>
    public bool IsDemanded => request.Who.LacksFactor && !Ways.HasCode;

    /// <summary>True on demo data, where nobody signs in by password.</summary>
    public bool IsDemo { get; private set; }

    /// <summary>How they get in.</summary>
    public WaysIn Ways { get; private set; } = WaysIn.None;

    /// <summary>The session of this browser.</summary>
    public Guid? Here => request.Who.Session;

    /// <summary>A token that was made just now, shown once.</summary>
    public string? Made { get; private set; }

    /// <summary>The key of a second factor that is being begun, as people type it.</summary>
    public string? Key { get; private set; }

    /// <summary>The same, sealed.</summary>
    public string? Ticket { get; private set; }

    /// <summary>The same as a picture.</summary>
    public string? Picture { get; private set; }

    /// <summary>The codes for when the second factor is lost, shown once.</summary>
    public IReadOnlyList<string>? Codes { get; private set; }

    /// <summary>What was done just now.</summary>
    public string? Message { get; private set; }

    /// <summary>What is refused, by the form that it belongs to.</summary>
    public Dictionary<string, string> Refusals { get; } = [];

    /// <summary>Record types that a token can be limited to.</summary>
    public IEnumerable<RecordType> Types => request.ReadableTypes();

    /// <summary>True for somebody whose tokens can also set up.</summary>
    public bool MaySetUp => request.Viewer.MaySetUp();

    /// <summary>What the token that was asked for is called.</summary>
    public string TokenName { get; private set; } = "";

    /// <summary>What else a token was asked for with, so that a refusal loses nothing of it.</summary>
    public (int Days, bool Writes, bool SetsUp, IReadOnlyList<string> Types) TokenAsked { get; private set; } = (30, false, false, []);

    /// <summary>Their conventions.</summary>
    public Core.Values.Locale Locale => request.Locale;

    /// <summary>Shows it.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <summary>Changes the password.</summary>
    public async Task<IActionResult> OnPostPasswordAsync(string? password)
    {
        if (await ConfirmedAsync("password") && await credentials.SetPasswordAsync(request.Viewer, password ?? "", Here) is var refusal)
        {
            if (refusal is null)
                Message = "The password is changed. All your other sessions and your tokens are ended.";
            else
                Refusals["password"] = refusal;
        }

        return await PageAsync();
    }

    /// <summary>Begins a second factor: shows its key.</summary>
    public async Task<IActionResult> OnPostBeginAsync()
    {
        if (await ConfirmedAsync("code"))
            Show(SecondFactor.NewKey());
        return await PageAsync();
    }

    /// <summary>Goes over to the second factor, once a code of it is right.</summary>
    public async Task<IActionResult> OnPostStartAsync(string? ticket, string? code)
    {
        try
        {
            // Of this person, in this browser: a ticket of anybody else's is worth nothing.
            if (keys.Unprotect(ticket ?? "").Split('|') is not [var whose, var hex] || whose != Whose)
                throw new CryptographicException();
            var key = Convert.FromHexString(hex);
            if (!await ConfirmedAsync("start"))
            {
                Show(key);
                return await PageAsync();
            }

            Codes = await credentials.StartCodeAsync(request.Viewer, key, code ?? "", Here);
            if (Codes is null)
            {
                Refusals["start"] = "This is not the current code. Check that the clock of the phone is right.";
                Show(key);
            }
        }
        catch (CryptographicException)
        {
            Refusals["code"] = "That took too long. Begin again.";
        }

        return await PageAsync();
    }

    /// <summary>Ends the second factor.</summary>
    public async Task<IActionResult> OnPostEndCodeAsync()
    {
        if (await ConfirmedAsync("code"))
        {
            await credentials.EndCodeAsync(request.Viewer, request.Viewer);
            Message = "The second factor is ended.";
        }

        return await PageAsync();
    }

    /// <summary>Ends a session, or all others.</summary>
    public async Task<IActionResult> OnPostEndAsync(Guid? session, [FromServices] Sessions sessions)
    {
        if (session is null && !await ConfirmedAsync("end"))
            return await PageAsync();
        var ended = await sessions.EndAsync(request.Viewer, session, session is null ? Here : null, request.Viewer);
        Message = session is null
            ? $"{ended} other {(ended == 1 ? "session is" : "sessions are")} ended, and so are all tokens."
            : "The session is ended.";
        return await PageAsync();
    }

    /// <summary>Makes a token.</summary>
    public async Task<IActionResult> OnPostTokenAsync(
        string? name,
        string[]? types,
        bool writes,
        bool setsUp,
        int days,
        [FromServices] Tokens tokens
    )
    {
        TokenName = (name ?? "").Trim();
        TokenAsked = (days, writes, setsUp, types ?? []);
        if (request.Who.LacksFactor)
            Refusals["token"] = "Set up the second factor first.";
        else if (TokenName.Length is 0 or > 60 || TokenName.Any(char.IsControl))
            Refusals["token"] = "A token has a name of 1 to 60 characters: what it is for.";
        else if (Lengths.All(length => length.Days != days))
            Refusals["token"] = "Say how long it lasts.";
        else if ((types ?? []).FirstOrDefault(type => request.Find(type) is null) is { } unknown)
            Refusals["token"] = $"There is no record type {unknown}.";
        else if (await ConfirmedAsync("token"))
        {
            Made = await tokens.MakeAsync(
                request.Viewer,
                TokenName,
                new(types ?? [], writes, setsUp && MaySetUp),
                TimeSpan.FromDays(days),
                request.Viewer
            );
            TokenName = "";
            TokenAsked = (30, false, false, []);
        }

        return await PageAsync();
    }

    /// <summary>Ends a token.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(string? token, [FromServices] Tokens tokens)
    {
        if (await tokens.RevokeAsync(request.Viewer, token ?? "", request.Viewer))
            Message = "The token is ended. Whatever used it is refused from now on.";
        return await PageAsync();
    }

    private Task<bool> ConfirmedAsync(string form) => confirming.IsDoneAsync(Request.Form, form);

    private string Whose => $"{request.Viewer.Id:N} {Here:N}";

    private void Show(byte[] key)
    {
        (Key, Ticket) = (SecondFactor.Typed(key), keys.Protect($"{Whose}|{Convert.ToHexString(key)}", TimeSpan.FromMinutes(15)));
        using var made = QRCoder.QRCodeGenerator.GenerateQrCode(
            SecondFactor.Address(key, request.Viewer.SignIn),
            QRCoder.QRCodeGenerator.ECCLevel.M
        );
        using var picture = new QRCoder.PngByteQRCode(made);
        Picture = "data:image/png;base64," + Convert.ToBase64String(picture.GetGraphic(5));
    }

    private async Task<IActionResult> PageAsync()
    {
        await ShowAsync();
        return Page();
    }

    private async Task ShowAsync()
    {
        (IsDemo, Ways) = (await people.IsDemoAsync(), await ways.ReadAsync(request.Viewer.Id));
    }
}
