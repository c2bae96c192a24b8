using System.Text.Json;
using Microsoft.AspNetCore.Identity;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.Rights;

/// <summary>A person as those who administer people change them.</summary>
public sealed record PersonInput
{
    /// <summary>The name by which they sign in; lasting, once they are there.</summary>
    public string SignIn { get; init; } = "";

    /// <summary>As shown to others.</summary>
    public string Name { get; init; } = "";

    /// <summary>The code of their company; empty for none.</summary>
    public string Company { get; init; } = "";

    /// <summary>The codes of their roles.</summary>
    public IReadOnlyList<string> Roles { get; init; } = [];

    /// <summary>True for somebody who no longer works here.</summary>
    public bool Disabled { get; init; }
}

/// <summary>
/// Changes people, who has which role, and who may do which work. Every change is held to what its maker may give, keeps an administrator,
/// and is on record.
/// </summary>
public sealed class PeopleAdmin(
    IDbContextFactory<PeltoContext> contexts,
    Catalogues catalogues,
    People people,
    AuditTrail audit,
    ILookupNormalizer normalizer
)
{
    private const int MaxName = 120;

    /// <summary>The person as they stand, those who left included; null when there is none.</summary>
    public async Task<PersonInput?> FindAsync(Guid id, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Users.FindAsync([id], cancel) is { } person ? await SaidAsync(context, person, cancel) : null;
    }

    /// <summary>People who do not work here any more.</summary>
    public async Task<IReadOnlyList<PersonToPick>> GoneAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return
        [
            .. (
                await context.Users.AsNoTracking().Where(person => person.Disabled).OrderBy(person => person.UserName).ToListAsync(cancel)
            ).Select(person => new PersonToPick(person.Id, person.UserName!, person.FullName, "")),
        ];
    }

    /// <summary>All rights, as they are given.</summary>
    public async Task<IReadOnlyList<AdminRightRow>> RightsAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.AdminRights.AsNoTracking().OrderBy(row => row.Audience).ThenBy(row => row.Work).ToListAsync(cancel);
    }

    /// <summary>Adds a person (no id) or changes one. Gives the id, or where and why it is refused.</summary>
    public async Task<(Guid? Id, string At, string? Refusal)> SaveAsync(
        Guid? id,
        PersonInput input,
        Viewer by,
        CancellationToken cancel = default
    )
    {
        Must(by);
        Allowing.MustBeSure(by);
        input = input with
        {
            SignIn = input.SignIn.Trim().ToLowerInvariant(),
            Name = string.Join(' ', input.Name.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)),
        };
        if (Wrong(input) is var (at, sentence))
            return (null, at, sentence);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({DatabaseLocks.People})", cancel);
        var person = id is { } known ? await context.Users.FindAsync([known], cancel) : null;
        if (id is not null && person is null)
            return (null, "name", "There is no such person.");
        if (person is not null)
            input = input with { SignIn = person.UserName! };
        var (before, viewer) = (
            person is null ? null : await SaidAsync(context, person, cancel),
            person is null ? null : await people.ViewerAsync(person.Id, cancel)
        );
        if (person is null && await context.Users.AnyAsync(other => other.UserName == input.SignIn, cancel))
            return (null, "signIn", $"Somebody already signs in as {input.SignIn}.");
        if (!MayAdminister(by, input.Company) || (before is not null && !MayAdminister(by, before.Company)))
            return (null, "company", "You administer people of other companies.");
        if (before is not null && Gains.RefuseTouching(by, await ViewerOfAsync(context, person!.Id, before, cancel)) is { } above)
            return (null, "name", above);
        var after = await ViewerOfAsync(context, person?.Id ?? Guid.Empty, input, cancel);
        if (!input.Disabled && Gains.Refuse(by, viewer, after, catalogues.Live) is { } more)
            return (null, "roles", more);
        if (
            before is { Disabled: false }
            && before.Roles.Contains(Viewer.Administrator)
            && (input.Disabled || !input.Roles.Contains(Viewer.Administrator))
        )
        {
            // To take away is like giving back: only who has it.
            if (!AdminRights.All(by))
                return (null, "roles", $"{before.Name} is an administrator, which you are not.");
            if (await AdministratorsAsync(context, cancel) <= 1)
                return (null, "roles", $"{before.Name} is the only administrator: make somebody else one first.");
        }

        if (person is null)
        {
            person = new()
            {
                Id = Guid.CreateVersion7(),
                UserName = input.SignIn,
                NormalizedUserName = normalizer.NormalizeName(input.SignIn),
                Position = 1 + (await context.Users.MaxAsync(other => (int?)other.Position, cancel) ?? 0),
                SecurityStamp = Guid.NewGuid().ToString(),
            };
            context.Users.Add(person);
        }

        (person.FullName, person.Company, person.Disabled) = (input.Name, input.Company, input.Disabled);
        await context.SaveChangesAsync(cancel);
        await context.UserRoles.Where(link => link.UserId == person.Id).ExecuteDeleteAsync(cancel);
        foreach (var role in input.Roles.Distinct())
            context.UserRoles.Add(new() { UserId = person.Id, RoleId = await RoleIdAsync(context, role, cancel) });
        if (input.Disabled)
        {
            await context.Sessions.Where(row => row.PersonId == person.Id).ExecuteDeleteAsync(cancel);
            await context.Tokens.Where(row => row.PersonId == person.Id).ExecuteDeleteAsync(cancel);
            await context.Invitations.Where(row => row.PersonId == person.Id).ExecuteDeleteAsync(cancel);
        }

        await context.SaveChangesAsync(cancel);
        var (old, now) = (before is null ? null : Text(before), Text(await SaidAsync(context, person, cancel)));
        if (old != now)
            await audit.WriteAsync(
                context,
                by,
                [
                    new(
                        AuditKinds.People,
                        person.Id.ToString(),
                        before is null ? $"Added {input.Name}"
                            : input.Disabled && !before.Disabled ? $"{input.Name} no longer works here"
                            : $"Changed {input.Name}"
                    )
                    {
                        Before = old,
                        After = now,
                    },
                ],
                cancel
            );
        await transaction.CommitAsync(cancel);
        return (person.Id, "", null);
    }

    /// <summary>Gives an audience a right to work on Pelto, or changes its limits; null, or why not.</summary>
    public async Task<string?> GiveAsync(string audience, AdminRight right, Viewer by, CancellationToken cancel = default)
    {
        Must(by);
        Allowing.MustBeSure(by);
        if (AdminWork.All.All(one => one.Code != right.Work))
            return "There is no such work.";
        if (!Audience.TryParse(audience, out var whom) || !await IsThereAsync(whom, cancel))
            return $"There is nobody who is “{audience}”.";
        if (!by.May(new AdminAction(AdminWork.People, AdminAction.AnyType, await CompaniesOfAsync(whom, cancel))))
            return "You administer people of other companies.";
        if (right.Types.FirstOrDefault(type => catalogues.Live.Find(type) is null) is { } type)
            return $"There is no record type {type}.";
        if (right.Companies.FirstOrDefault(company => catalogues.Live.Host.Companies.All(known => known.Code != company)) is { } company)
            return $"There is no company {company}.";
        if (right.Types.Count > 0 && !AdminWork.HasTypes(right.Work))
            return $"To {AdminWork.InWords(right.Work)} is not limited to record types.";
        if (right.Companies.Count > 0 && !AdminWork.HasCompanies(right.Work))
            return $"To {AdminWork.InWords(right.Work)} is for everybody: it is not limited to companies.";
        if (!AdminRights.All(by) && !by.Rights.Any(mine => mine.Includes(right)))
            return $"You may not {AdminWork.InWords(right.Work).Replace("themselves", "yourself", StringComparison.Ordinal)} that far yourself, so you cannot let others.";
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({DatabaseLocks.People})", cancel);
        var row = await context.AdminRights.FirstOrDefaultAsync(known => known.Audience == audience && known.Work == right.Work, cancel);
        var before = row is null ? null : Text(row);
        var had = row is null ? null : new AdminRight(row.Work, row.Types, row.Companies);
        if (had is not null && had.Includes(right) && !right.Includes(had))
            return $"{whom.InWords(catalogues.Live.Host)} may "
                + $"{AdminWork.InWords(right.Work)} further than that already. Take that back first.";
        if (had is not null && !right.Includes(had) && !AdminRights.All(by) && !by.Rights.Any(mine => mine.Includes(had)))
            return "This right goes further than yours, so you cannot change it.";
        if (row is null)
            context.AdminRights.Add(
                row = new()
                {
                    Id = Guid.CreateVersion7(),
                    Audience = audience,
                    Work = right.Work,
                }
            );
        (row.Types, row.Companies) = ([.. right.Types], [.. right.Companies]);
        await context.SaveChangesAsync(cancel);
        if (before != Text(row))
            await audit.WriteAsync(
                context,
                by,
                [
                    new(
                        AuditKinds.People,
                        "right:" + audience,
                        $"Lets {whom.InWords(catalogues.Live.Host)} {AdminWork.InWords(right.Work)}"
                    )
                    {
                        Before = before,
                        After = Text(row),
                    },
                ],
                cancel
            );
        await transaction.CommitAsync(cancel);
        return null;
    }

    /// <summary>Takes a right back; null, or why not.</summary>
    public async Task<string?> TakeAsync(Guid right, Viewer by, CancellationToken cancel = default)
    {
        Must(by);
        Allowing.MustBeSure(by);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        if (await context.AdminRights.FindAsync([right], cancel) is not { } row)
            return null;
        if (!AdminRights.All(by) && !by.Rights.Any(mine => mine.Includes(new(row.Work, row.Types, row.Companies))))
            return "You do not have this right that far yourself, so you cannot take it from others.";
        if (
            !Audience.TryParse(row.Audience, out var whom)
            || !by.May(new AdminAction(AdminWork.People, AdminAction.AnyType, await CompaniesOfAsync(whom, cancel)))
        )
            return "You administer people of other companies.";
        context.AdminRights.Remove(row);
        await audit.CommitAsync(
            context,
            by,
            new(
                AuditKinds.People,
                "right:" + row.Audience,
                $"No longer lets {whom.InWords(catalogues.Live.Host)} {AdminWork.InWords(row.Work)}"
            )
            {
                Before = Text(row),
            },
            cancel
        );
        return null;
    }

    /// <summary>Why somebody may not act for a person, such as set how they sign in; null when they may.</summary>
    public async Task<string?> RefuseActingAsync(Guid person, Viewer by, CancellationToken cancel = default)
    {
        Must(by);
        if (await people.ViewerAsync(person, cancel) is not { } viewer)
            return "This person no longer works here.";
        return !MayAdminister(by, viewer.Company)
            ? "You administer people of other companies."
            : Gains.Refuse(by, null, viewer, catalogues.Live);
    }

    /// <summary>True when somebody administers the people of a company.</summary>
    public static bool MayAdminister(Viewer by, string company) =>
        by.May(new AdminAction(AdminWork.People, AdminAction.AnyType, company.Length == 0 ? null : [company]));

    /// <summary>How many people have a role.</summary>
    public async Task<int> CountOfRoleAsync(string role, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await (
            from link in context.UserRoles
            join known in context.Roles on link.RoleId equals known.Id
            where known.Name == role
            select link
        ).CountAsync(cancel);
    }

    /// <summary>Calls a role what it is called by now, for lists of people.</summary>
    public async Task LabelRoleAsync(string role, string label, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context
            .Roles.Where(known => known.Name == role)
            .ExecuteUpdateAsync(set => set.SetProperty(known => known.Label, label), cancel);
    }

    /// <summary>Clears away what a role that is gone had: who had it, and its rights.</summary>
    public async Task ForgetRoleAsync(string role, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.AdminRights.Where(row => row.Audience == "role:" + role).ExecuteDeleteAsync(cancel);
        await context.Roles.Where(known => known.Name == role).ExecuteDeleteAsync(cancel);
    }

    private static void Must(Viewer by)
    {
        if (!by.May(AdminWork.People))
            throw new AccessRefusedException("You may not administer people.");
    }

    private (string At, string Sentence)? Wrong(PersonInput input)
    {
        if (input.Name.Length is 0 or > MaxName || input.Name.Any(char.IsControl))
            return ("name", $"A person has a name of 1 to {MaxName} characters.");
        if (
            input.SignIn.Length is 0 or > 60
            || input.SignIn.Any(letter => !char.IsAsciiLetterOrDigit(letter) && letter is not ('.' or '-' or '_' or '@'))
        )
            return (
                "signIn",
                "The name to sign in by has 1 to 60 letters without accents, digits, full stops, hyphens, underscores and @."
            );
        if (input.Company.Length > 0 && catalogues.Live.Host.Companies.All(company => company.Code != input.Company))
            return ("company", "There is no such company.");
        return input.Roles.FirstOrDefault(role => catalogues.Live.Host.Roles.All(known => known.Code != role)) is { } role
            ? ("roles", $"There is no role {role}.")
            : null;
    }

    // The companies whose people alone an audience is; null when others may be of it.
    private async Task<IReadOnlyList<string>?> CompaniesOfAsync(Audience whom, CancellationToken cancel) =>
        whom.Kind switch
        {
            AudienceKind.Company => [whom.Code],
            AudienceKind.User
                when await people.ViewerAsync(whom.Code, cancel) is { Company.Length: > 0 } person && person.SignIn == whom.Code =>
            [
                person.Company,
            ],
            _ => null,
        };

    private async Task<bool> IsThereAsync(Audience whom, CancellationToken cancel) =>
        whom.Kind switch
        {
            AudienceKind.Everyone => true,
            AudienceKind.Role => catalogues.Live.Host.Roles.Any(role => role.Code == whom.Code),
            AudienceKind.Company => catalogues.Live.Host.Companies.Any(company => company.Code == whom.Code),
            AudienceKind.User => (await people.AllAsync(cancel)).Any(person => person.SignIn == whom.Code),
            _ => false,
        };

    // As they would be: with the rights that they would have.
    private async Task<Viewer> ViewerOfAsync(PeltoContext context, Guid id, PersonInput input, CancellationToken cancel)
    {
        var viewer = new Viewer(id, input.Name, [.. input.Roles]) { SignIn = input.SignIn, Company = input.Company };
        var rights = await context.AdminRights.AsNoTracking().ToListAsync(cancel);
        return viewer with
        {
            Rights =
            [
                .. rights
                    .Where(row => Audience.TryParse(row.Audience, out var whom) && whom.Holds(viewer, catalogues.Live.Host.Companies))
                    .Select(row => new AdminRight(row.Work, row.Types, row.Companies)),
            ],
        };
    }

    private static Task<int> AdministratorsAsync(PeltoContext context, CancellationToken cancel) =>
        (
            from link in context.UserRoles
            join role in context.Roles on link.RoleId equals role.Id
            join person in context.Users on link.UserId equals person.Id
            where role.Name == Viewer.Administrator && !person.Disabled
            select person.Id
        ).CountAsync(cancel);

    private async Task<Guid> RoleIdAsync(PeltoContext context, string code, CancellationToken cancel)
    {
        if (await context.Roles.FirstOrDefaultAsync(role => role.Name == code, cancel) is { } known)
            return known.Id;
        var made = new Role
        {
            Id = Guid.CreateVersion7(),
            Name = code,
            NormalizedName = normalizer.NormalizeName(code),
            Label = catalogues.Live.Host.Roles.First(role => role.Code == code).Label,
        };
        context.Roles.Add(made);
        await context.SaveChangesAsync(cancel);
        return made.Id;
    }

    private static async Task<PersonInput> SaidAsync(PeltoContext context, Person person, CancellationToken cancel) =>
        new()
        {
            SignIn = person.UserName!,
            Name = person.FullName,
            Company = person.Company,
            Disabled = person.Disabled,
            Roles = await (
                from link in context.UserRoles
                join role in context.Roles on link.RoleId equals role.Id
                where link.UserId == person.Id
                orderby role.Name
                select role.Name!
            ).ToListAsync(cancel),
        };

    private static string Text(PersonInput person) => JsonSerializer.Serialize(person, SiteDefinition.Json);

    private static string Text(AdminRightRow row) =>
        JsonSerializer.Serialize(new AdminRight(row.Work, row.Types, row.Companies), SiteDefinition.Json);
}
