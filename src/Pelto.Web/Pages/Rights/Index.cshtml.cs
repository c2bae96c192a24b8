using Pelto.Data.Rights;
using Pelto.Data.SigningIn;

namespace Pelto.Web.Pages;

/// <summary>People, their roles, and who may do which work on Pelto itself.</summary>
public sealed class PeopleModel(
    CurrentRequest request,
    PeopleAdmin admin,
    Data.Definitions.People people,
    PeopleSettings settings,
    Confirming confirming
) : PageModel
{
    /// <summary>Everybody, as viewers.</summary>
    public IReadOnlyList<Viewer> Everybody { get; private set; } = [];

    /// <summary>Who no longer works here.</summary>
    public IReadOnlyList<PersonToPick> Gone { get; private set; } = [];

    /// <summary>All rights, by who has them.</summary>
    public IReadOnlyList<(string Whom, IReadOnlyList<AdminRightRow> Rights)> Rights { get; private set; } = [];

    /// <summary>All roles, with how many people have each, and whether it is the site's own.</summary>
    public IReadOnlyList<(RoleDescription Role, int People, bool IsOwn)> Roles { get; private set; } = [];

    /// <summary>How publishing and signing in go.</summary>
    public PeopleSettingsRead Settings { get; private set; } = new(false, false, FactorDemand.Administrators);

    /// <summary>True for administrators, who also change how publishing and signing in go.</summary>
    public bool IsAdministrator => AdminRights.All(request.Viewer);

    /// <summary>True for those who administer the people of all companies, whom a role is for.</summary>
    public bool MayMakeRoles => request.Viewer.May(new AdminAction(AdminWork.People, AdminAction.AnyType));

    /// <summary>The host, which knows companies and roles.</summary>
    public HostDescription Host => request.Catalogue.Host;

    /// <summary>Record types to limit a right to.</summary>
    public IEnumerable<RecordType> Types => request.Catalogue.RecordTypes;

    /// <summary>What was done just now.</summary>
    public string? Message { get; private set; }

    /// <summary>What is refused, by the form that it belongs to.</summary>
    public Dictionary<string, string> Refusals { get; } = [];

    /// <summary>The right as it was asked for.</summary>
    public (string To, string Work, IReadOnlyList<string> Types, IReadOnlyList<string> Companies) Entered { get; private set; } =
        ("", "", [], []);

    /// <summary>What a role was to be called.</summary>
    public string RoleLabel { get; private set; } = "";

    /// <summary>Whom a right can be given to.</summary>
    public IEnumerable<(string Code, string Label)> Audiences =>
        [
            (Layer.Everyone, "Everyone"),
            .. Host.Roles.Where(role => role.Code != Viewer.Administrator).Select(role => ($"role:{role.Code}", $"Role {role.Label}")),
            .. Host.Companies.Select(company => ($"company:{company.Code}", $"Company {company.Label}")),
            .. Everybody.Where(person => !person.IsAdministrator).Select(person => ($"user:{person.SignIn}", person.Name)),
        ];

    /// <summary>What a right is limited to, in words; empty for nothing.</summary>
    public string Limits(AdminRightRow right) =>
        string.Join(
            ", ",
            new[]
            {
                string.Join(", ", right.Types.Select(type => request.Catalogue.Find(type)?.Plural.ToLowerInvariant() ?? type)),
                string.Join(
                    ", ",
                    right.Companies.Select(company => Host.Companies.FirstOrDefault(known => known.Code == company)?.Label ?? company)
                ),
            }.Where(text => text.Length > 0)
        );

    /// <summary>Shows all of it.</summary>
    public Task OnGetAsync(string? said)
    {
        Message = said;
        return ShowAsync();
    }

    /// <summary>Gives a right.</summary>
    public async Task<IActionResult> OnPostGiveAsync(string? to, string? work, string[]? types, string[]? companies)
    {
        Entered = (to ?? "", work ?? "", types ?? [], companies ?? []);
        if (!await ConfirmedAsync("right"))
            return await PageAsync();
        if (await admin.GiveAsync(Entered.To, new(Entered.Work, Entered.Types, Entered.Companies), request.Viewer) is { } refusal)
        {
            Refusals["right"] = refusal;
            return await PageAsync();
        }

        return Done("The right is given. It counts at once.");
    }

    /// <summary>Takes a right back.</summary>
    public async Task<IActionResult> OnPostTakeAsync(Guid right)
    {
        if (await confirming.IsRequiredAsync())
            return Redirect("/account/confirm?returnUrl=%2Fsetup%2Fpeople");
        if (await admin.TakeAsync(right, request.Viewer) is not { } refusal)
            return Done("The right is taken back. It counts at once.");
        Refusals["right"] = refusal;
        return await PageAsync();
    }

    /// <summary>Adds a role.</summary>
    public async Task<IActionResult> OnPostRoleAsync(string? label, [FromServices] RoleEditing roles)
    {
        if (!MayMakeRoles)
            return Forbid();
        RoleLabel = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        var role = new RoleDescription(Codes.From(RoleLabel, Host.Roles.Select(known => known.Code)), RoleLabel);
        var wrong = roles.RefuseNew(role);
        if (wrong is null && !await ConfirmedAsync("role"))
            return await PageAsync();
        var (done, refusal) = wrong is null ? await roles.AddAsync(role) : (null, wrong);
        return await DoneAsync(done, refusal);
    }

    /// <summary>Takes a role out that nobody has.</summary>
    public async Task<IActionResult> OnPostDropAsync(string? role, [FromServices] RoleEditing roles)
    {
        if (!MayMakeRoles)
            return Forbid();
        if (request.Catalogue.Site.Roles.FirstOrDefault(known => known.Code == role) is not { } known)
            return NotFound();
        if (await confirming.IsRequiredAsync())
            return Redirect("/account/confirm?returnUrl=%2Fsetup%2Fpeople");
        var (done, refusal) = await roles.DropAsync(known);
        return await DoneAsync(done, refusal);
    }

    private async Task<IActionResult> DoneAsync(string? done, string? refusal)
    {
        if (done is not null)
            return Done(done);
        Refusals["role"] = refusal!;
        return await PageAsync();
    }

    /// <summary>Says how many people publishing takes, and whether people are picked on the sign-in page.</summary>
    public async Task<IActionResult> OnPostSettingsAsync(bool takesTwo, bool isDemo, string? factor)
    {
        if (!IsAdministrator)
            return Forbid();
        if (!await ConfirmedAsync("settings"))
            return await AsTypedAsync();
        var (missing, refusal) = await settings.SetAsync(new(takesTwo, isDemo, factor ?? ""), request.Viewer);
        if (refusal is null)
            return Done(missing ?? "Saved.");
        Refusals["settings"] = refusal;
        return await AsTypedAsync();

        async Task<IActionResult> AsTypedAsync()
        {
            await ShowAsync();
            Settings = new(takesTwo, isDemo, factor ?? Settings.Factor);
            return Page();
        }
    }

    private bool IsOwn(RoleDescription role) => request.Catalogue.Site.Roles.Any(own => own.Code == role.Code);

    private RedirectResult Done(string said) => Redirect($"/setup/people?said={Uri.EscapeDataString(said)}");

    private Task<bool> ConfirmedAsync(string form) => confirming.IsDoneAsync(Request.Form, form);

    private async Task<IActionResult> PageAsync()
    {
        await ShowAsync();
        return Page();
    }

    private async Task ShowAsync()
    {
        (Everybody, Gone) = (await people.ViewersAsync(), await admin.GoneAsync());
        Settings = await settings.ReadAsync();
        Rights =
        [
            .. (await admin.RightsAsync())
                .GroupBy(row => row.Audience)
                .Select(group =>
                    (
                        Audience.TryParse(group.Key, out var whom)
                            ? whom is { Kind: AudienceKind.User }
                                ? Everybody.FirstOrDefault(person => person.SignIn == whom.Code)?.Name ?? whom.Code
                                : whom.InWords(Host)
                            : group.Key,
                        (IReadOnlyList<AdminRightRow>)[.. group]
                    )
                ),
        ];
        Roles = [.. Host.Roles.Select(role => (role, Everybody.Count(person => person.Roles.Contains(role.Code)), IsOwn(role)))];
    }
}
