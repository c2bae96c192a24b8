using System.Text.RegularExpressions;
using Microsoft.AspNetCore.RateLimiting;

namespace Pelto.Web.Pages;

/// <summary>A public form: shows what it asks for, finds what was released, and takes entries in. Nobody is signed in here.</summary>
[EnableRateLimiting(Policies.Outside)]
[RequestSizeLimit(MaxBytes)]
[RequestFormLimits(ValueCountLimit = 2000, MultipartBodyLengthLimit = MaxBytes)]
public sealed partial class OutsideFormModel(
    CurrentRequest request,
    RecordStore store,
    FormReader reader,
    RecordForms forms,
    Entries entries,
    RecordLists lists,
    ILogger<OutsideFormModel> log
) : PageModel
{
    /// <summary>An input that no person sees; what fills it is a program, and what it sends goes nowhere.</summary>
    public const string Trap = "website";

    private const int MaxBytes = 4 * Entries.LargestEntry;

    /// <summary>The form.</summary>
    public RecordForm Form { get; private set; } = default!;

    /// <summary>What to quote, once it is sent.</summary>
    public string? Reference { get; private set; }

    /// <summary>Shows the form, or that it was sent.</summary>
    public async Task<IActionResult> OnGetAsync(string address, string? sent)
    {
        if (Open(address) is not { } form)
            return NotFound();
        Form = await forms.OfAsync(store.Fresh(form.Type, request.Viewer));
        if (sent is not null && ReferencePattern().IsMatch(sent))
            Reference = sent;
        return Page();
    }

    /// <summary>Takes an entry in, or shows what is wrong with it.</summary>
    public async Task<IActionResult> OnPostAsync(string address, CancellationToken cancel)
    {
        if (Open(address) is not { } form)
            return NotFound();
        if (Request.Form[Trap].ToString().Length > 0)
        {
            Trapped(log, form.Type.Code);
            return Sent(address, "XXXX-XXXX");
        }

        var fresh = store.Fresh(form.Type, request.Viewer);
        var posted = await reader.ReadAsync(Request.Form, form.Type, fresh, keepsBlank: false);
        var agent = Request.Headers.UserAgent.ToString();
        var submission = await entries.SubmitAsync(
            form,
            posted.Changes,
            request.Viewer,
            request.Catalogue.Release,
            new(HttpContext.Connection.RemoteIpAddress, agent),
            cancel
        );
        if (submission.Reference is { } reference)
            return Sent(address, reference);
        var outcome = submission.Outcome ?? new(fresh, [], []);

        // What was sent and is not asked for comes from a form that was drawn before it changed; the new one goes without.
        List<Message> here = [.. outcome.Messages.Where(message => message.At.Field is not { } at || form.Asks(at))];
        var note = submission.Refusal
            ?? (here.Count < outcome.Messages.Count ? "The form has changed meanwhile. Please look through it and send it again." : null);
        Form = await forms.OfAsync(fresh, outcome with { Messages = here }, posted, isJudged: true, note);
        if (submission.Outcome is { IsGood: true })
            Response.StatusCode = StatusCodes.Status429TooManyRequests;
        return IsFetched ? Partial("Outside/_Body", Form) : Page();
    }

    /// <summary>What a link offers to people outside, by what was typed and by what stands in the form.</summary>
    public async Task<IActionResult> OnPostPickAsync(string address, string field, string? line, string? text, CancellationToken cancel)
    {
        if (
            Open(address) is not { Definition.Closed: false } form
            || !form.Type.TryFindField(field, out var link)
            || !request.Viewer.MayChoose(link)
        )
            return NotFound();
        var posted = await reader.ReadAsync(Request.Form, form.Type, store.Fresh(form.Type, request.Viewer), keepsBlank: true);
        var outcome = await store.TryAsync(form.Type, null, posted.Changes, request.Viewer, form.Asks, cancel);
        var offer = Offer.To(
            request.Viewer,
            link,
            outcome!.State,
            link.Part.IsLines ? outcome.State.LinesOf(link.Part).FirstOrDefault(row => row.Key == line) : null
        );
        if (link.Part.IsLines && offer.Line is null)
            return NotFound();
        if (offer.Missing is { } missing)
            return new JsonResult(
                new
                {
                    first = $"Fill {missing.TextIn(request.Locale).Label} first: what can be chosen here depends on it.",
                    found = Array.Empty<object>(),
                }
            );
        return new JsonResult(
            new
            {
                found = (await lists.PickAsync(link.Target!, text ?? "", request.Viewer, offer: offer, cancel: cancel)).Select(
                    LookUps.Shown
                ),
            }
        );
    }

    private bool IsFetched => Request.Headers.XRequestedWith == "pelto";

    private PublicForm? Open(string address)
    {
        if (request.Catalogue.FindForm(address) is not { } form)
            return null;
        request.StayOutside(form);
        return form;
    }

    private IActionResult Sent(string address, string reference)
    {
        var there = $"/form/{address}?sent={reference}";
        return IsFetched ? new JsonResult(new { sent = there }) : Redirect(there);
    }

    [GeneratedRegex("^[A-Z0-9]{4}-[A-Z0-9]{4}$")]
    private static partial Regex ReferencePattern();

    [LoggerMessage(
        LogLevel.Information,
        "An entry for {Type} was discarded: it came from a program that filled the input that no person sees."
    )]
    private static partial void Trapped(ILogger log, string type);
}
