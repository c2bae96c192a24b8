namespace Pelto.Data.Definitions;

/// <summary>A person as the sign-in page of the demo data shows them.</summary>
public sealed record PersonToPick(Guid Id, string SignIn, string Name, string Roles);

/// <summary>Reads people, with their roles and rights. Whoever no longer works here is left out.</summary>
public sealed class People(IDbContextFactory<PeltoContext> contexts, NpgsqlDataSource source)
{
    /// <summary>True when people may be picked without a password, which only demo data allows.</summary>
    public async Task<bool> IsDemoAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Settings.AnyAsync(setting => setting.Name == SigningIn.DemoSetting.Setting && setting.Value == "yes", cancel);
    }

    /// <summary>All people with their roles.</summary>
    public async Task<IReadOnlyList<PersonToPick>> AllAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var people = await context
            .Users.AsNoTracking()
            .Where(person => !person.Disabled)
            .OrderBy(person => person.Position)
            .ThenBy(person => person.UserName)
            .ToListAsync(cancel);
        var roles = await (
            from link in context.UserRoles
            join role in context.Roles on link.RoleId equals role.Id
            select new { link.UserId, role.Label }
        ).ToListAsync(cancel);
        return
        [
            .. people.Select(person => new PersonToPick(
                person.Id,
                person.UserName!,
                person.FullName,
                string.Join(", ", roles.Where(role => role.UserId == person.Id).Select(role => role.Label))
            )),
        ];
    }

    /// <summary>All people as viewers.</summary>
    public Task<IReadOnlyList<Viewer>> ViewersAsync(CancellationToken cancel = default) =>
        ViewerRows.AllAsync(source, "NOT p.disabled", cancel);

    /// <summary>The viewer that a person is; null when there is no such person.</summary>
    public async Task<Viewer?> ViewerAsync(Guid personId, CancellationToken cancel = default) =>
        (await ViewerRows.AllAsync(source, "NOT p.disabled AND p.id = $1", cancel, personId)).FirstOrDefault();

    /// <summary>The viewer that a person is, named by sign-in name, or the first person in a role. Null when nobody is meant.</summary>
    public async Task<Viewer?> ViewerAsync(string name, CancellationToken cancel = default) =>
        (await ViewerRows.AllAsync(source, "NOT p.disabled AND (p.user_name = $1 OR $1 = ANY (m.roles))", cancel, name))
            .OrderBy(viewer => viewer.SignIn == name ? 0 : 1)
            .FirstOrDefault();

    /// <summary>The time zone that a person has chosen; empty where that of their company counts.</summary>
    public async Task<string> ZoneAsync(Viewer viewer, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Users.Where(person => person.Id == viewer.Id).Select(person => person.Zone).FirstAsync(cancel);
    }

    /// <summary>Puts down in which conventions a person reads and writes.</summary>
    public async Task SetLocaleAsync(Viewer viewer, string language, string zone, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context
            .Users.Where(person => person.Id == viewer.Id)
            .ExecuteUpdateAsync(
                set => set.SetProperty(person => person.Language, language).SetProperty(person => person.Zone, zone),
                cancel
            );
    }
}
