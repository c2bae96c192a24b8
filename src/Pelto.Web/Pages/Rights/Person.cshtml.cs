using Pelto.Data.Rights;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Pages;

/// <summary>One person: who they are, their roles, and how they get in.</summary>
public sealed class OnePersonModel(
    CurrentRequest request,
    PeopleAdmin admin,
    Data.Definitions.People people,
    WaysInReader ways,
    Confirming confirming
) : PageModel
{
    /// <summary>The person's id; null for a new one.</summary>
    public Guid? Id { get; private set; }

    /// <summary>The person as they stand in the inputs.</summary>
    public PersonInput Input { get; private set; } = new();

    /// <summary>The person as they work here; null for a new one and for one who left.</summary>
    public Viewer? Viewer { get; private set; }

    /// <summary>Why the one who asks may only look.</summary>
    public string? Closed { get; private set; }

    /// <summary>How they get in.</summary>
    public WaysIn Ways { get; private set; } = WaysIn.None;

    /// <summary>The address at which they choose a password, made just now.</summary>
    public string? Invitation { get; private set; }

    /// <summary>What was done just now.</summary>
    public string? Message { get; private set; }

    /// <summary>Where something is refused, and why.</summary>
    public (string At, string Sentence)? Refusal { get; private set; }

    /// <summary>The host, which knows companies and roles.</summary>
    public HostDescription Host => request.Catalogue.Host;

    /// <summary>The conventions of who looks.</summary>
    public Core.Values.Locale Locale => request.Locale;

    /// <summary>What is refused at an input.</summary>
    public string? Of(string at) => Refusal is { } refusal && refusal.At == at ? refusal.Sentence : null;

    /// <summary>Shows a person, or the inputs for a new one.</summary>
    public async Task<IActionResult> OnGetAsync(string id, string? said)
    {
        Message = said;
        return await LoadAsync(id) ? Page() : NotFound();
    }

    /// <summary>Keeps it.</summary>
    public async Task<IActionResult> OnPostAsync(string id, string? signIn, string? name, string? company, string[]? roles, bool disabled)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Input = new()
        {
            SignIn = signIn ?? Input.SignIn,
            Name = name ?? "",
            Company = company ?? "",
            Roles = roles ?? [],
            Disabled = disabled,
        };
        if (!await confirming.IsDoneAsync(Request.Form, "person"))
            return Page();
        var (saved, at, refusal) = await admin.SaveAsync(Id, Input, request.Viewer);
        if (refusal is null)
            return Redirect(
                $"/setup/people/{saved}?said={Uri.EscapeDataString(Id is null ? $"{Input.Name} is there. Let them choose a password." : "Saved.")}"
            );
        Refusal = (at, refusal);
        return Page();
    }

    /// <summary>Makes an address at which they choose a password.</summary>
    public Task<IActionResult> OnPostInviteAsync(string id, [FromServices] Credentials credentials) =>
        ActAsync(id, "invite", async viewer =>
            Invitation = $"{Request.Scheme}://{Request.Host}/account/welcome/{await credentials.InviteAsync(viewer, request.Viewer)}"
        );

    /// <summary>Takes the second factor from them, when they have lost it.</summary>
    public Task<IActionResult> OnPostEndCodeAsync(string id, [FromServices] Credentials credentials) =>
        ActAsync(id, "factor", async viewer =>
        {
            await credentials.EndCodeAsync(viewer, request.Viewer);
            Message = $"{viewer.Name} signs in by password alone.";
        });

    /// <summary>Ends their sessions.</summary>
    public Task<IActionResult> OnPostEndAsync(string id, Guid? session, [FromServices] Sessions sessions) =>
        ActAsync(id, null, async viewer =>
        {
            var ended = await sessions.EndAsync(viewer, session, null, request.Viewer);
            Message = ended == 1 ? "One session is ended." : $"{ended} sessions are ended.";
        });

    /// <summary>Ends a token.</summary>
    public Task<IActionResult> OnPostRevokeAsync(string id, string? token, [FromServices] Tokens tokens) =>
        ActAsync(id, null, async viewer =>
        {
            if (await tokens.RevokeAsync(viewer, token ?? "", request.Viewer))
                Message = "The token is ended.";
        });

    // What only takes something away is not asked for again.
    private async Task<IActionResult> ActAsync(string id, string? form, Func<Viewer, Task> act)
    {
        if (!await LoadAsync(id) || Viewer is null)
            return NotFound();
        if (Closed is not null)
            Refusal = ("act", Closed);
        else if (form is null || await confirming.IsDoneAsync(Request.Form, form))
            await act(Viewer);
        var (refusal, said, invitation) = (Refusal, Message, Invitation);
        await LoadAsync(id);
        (Refusal, Message, Invitation) = (refusal, said, invitation);
        return Page();
    }

    private async Task<bool> LoadAsync(string id)
    {
        if (id == "new")
            return true;
        if (!Guid.TryParse(id, out var known) || await admin.FindAsync(known) is not { } found)
            return false;
        (Id, Input, Viewer) = (known, found, await people.ViewerAsync(known));
        if (Viewer is not null)
            Closed = await admin.RefuseActingAsync(known, request.Viewer);
        Ways = await ways.ReadAsync(known);
        return true;
    }
}
