using Pelto.Data.SigningIn;

namespace Pelto.Web;

/// <summary>
/// Asks somebody who is signed in to show again who they are, before what matters most: giving access, publishing, administering people,
/// and how they sign in.
/// </summary>
/// <remarks>
/// The input stands in the form itself, so that nothing typed is lost. Demo data, in which people are picked, asks nobody. What asks too
/// late, or not at all, is refused where it would be done (<see cref="Viewer.MustConfirm"/>).
/// </remarks>
public sealed class Confirming(CurrentRequest request, Sessions sessions, Credentials credentials, SignInTries tries)
{
    /// <summary>The name of the input.</summary>
    public const string Input = "confirm";

    private (string Form, string Sentence)? refusal;

    /// <summary>Why what was shown in a form was not right; null when nothing was, or all is well.</summary>
    public string? RefusalOf(string form) => refusal is { } said && said.Form == form ? said.Sentence : null;

    /// <summary>True when they have to show it.</summary>
    public Task<bool> IsRequiredAsync() => Task.FromResult(request.Viewer.MustConfirm);

    /// <summary>True when they are asked for a code, rather than for the password.</summary>
    public Task<bool> AsksForCodeAsync() => credentials.HasCodeAsync(request.Viewer.Id);

    /// <summary>True when they need not show it, or did just now; else <see cref="RefusalOf"/> says why not.</summary>
    /// <param name="sent">What was sent.</param>
    /// <param name="form">The name of the form, among those of the page.</param>
    public async Task<bool> IsDoneAsync(IFormCollection sent, string form)
    {
        var shown = sent[Input].ToString();
        if (!await IsRequiredAsync())
            return true;
        var (viewer, sender) = (request.Viewer, $"session {request.Who.Session}");
        if (shown.Length > 0 && await tries.TakeAsync(viewer.SignIn, sender, isKnown: true) is var wait && wait > TimeSpan.Zero)
        {
            refusal = (form, $"Too many tries. Wait {Math.Ceiling(wait.TotalMinutes):0} minutes.");
            return false;
        }

        if (shown.Length > 0 && await credentials.ConfirmAsync(viewer, shown))
        {
            await tries.SucceededAsync(viewer.SignIn, sender);
            await sessions.ConfirmAsync(request.Who.Session!.Value);
            request.Confirm();
            return true;
        }

        refusal = (form, shown.Length == 0 ? "Confirm that it is you." : "That is not right.");
        return false;
    }
}
