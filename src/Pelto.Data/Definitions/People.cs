using System.Security.Cryptography;
using System.Text;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Values;

namespace Pelto.Data.Definitions;

/// <summary>A person as the sign-in page of the demo data shows them.</summary>
public sealed record PersonToPick(Guid Id, string SignIn, string Name, string Roles);

/// <summary>People, their roles and their tokens.</summary>
public sealed class People(IDbContextFactory<PeltoContext> contexts, NpgsqlDataSource source, TimeProvider clock)
{
    private const string TokenPrefix = "pelto_";

    /// <summary>True when people may be picked without a password, which only demo data allows.</summary>
    public async Task<bool> IsDemoAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Settings.AnyAsync(setting => setting.Name == Hosts.Installer.DemoSetting && setting.Value == "yes", cancel);
    }

    /// <summary>All people with their roles.</summary>
    public async Task<IReadOnlyList<PersonToPick>> AllAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var people = await context.Users.AsNoTracking().OrderBy(person => person.Position).ToListAsync(cancel);
        var roles = await (from link in context.UserRoles join role in context.Roles on link.RoleId equals role.Id select new { link.UserId, role.Label }).ToListAsync(cancel);
        return [.. people.Select(person => new PersonToPick(person.Id, person.UserName!, person.FullName, string.Join(", ", roles.Where(role => role.UserId == person.Id).Select(role => role.Label))))];
    }

    /// <summary>All people as viewers.</summary>
    public async Task<IReadOnlyList<Viewer>> ViewersAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var roles = (await (from link in context.UserRoles join role in context.Roles on link.RoleId equals role.Id select new { link.UserId, role.Name }).ToListAsync(cancel)).ToLookup(link => link.UserId, link => link.Name!);
        return [.. (await context.Users.AsNoTracking().OrderBy(person => person.Position).ToListAsync(cancel)).Select(person => new Viewer(person.Id, person.FullName, [.. roles[person.Id]]) { SignIn = person.UserName!, Company = person.Company, Locale = Locale.Of(person.Language, person.Zone) })];
    }

    /// <summary>The viewer that a person is; null when there is no such person.</summary>
    public async Task<Viewer?> ViewerAsync(Guid personId, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await ViewerAsync(context, personId, cancel);
    }

    /// <summary>Puts down in which conventions a person reads and writes.</summary>
    public async Task SetLocaleAsync(Viewer viewer, string language, string zone, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Users.Where(person => person.Id == viewer.Id).ExecuteUpdateAsync(set => set.SetProperty(person => person.Language, language).SetProperty(person => person.Zone, zone), cancel);
    }

    /// <summary>Makes a bearer token for a person, named by sign-in name, or for the first person in a role. Null when nobody is meant. It is told once; only its digest is kept.</summary>
    public async Task<string?> MakeTokenAsync(string name, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (await NamedAsync(context, name, cancel) is not { } person) return null;
        var token = TokenPrefix + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        context.Tokens.Add(new() { Digest = Digest(token), PersonId = person.Id, MadeAt = clock.GetUtcNow() });
        await context.SaveChangesAsync(cancel);
        return token;
    }

    /// <summary>Whose token this is; null when it is none. One look-up, since every call of the programming interface begins with it.</summary>
    public async Task<Viewer?> FindByTokenAsync(string token, CancellationToken cancel = default)
    {
        if (!token.StartsWith(TokenPrefix, StringComparison.Ordinal)) return null;
        await using var command = source.CreateCommand(
            """
            SELECT p.id, p.full_name, array_remove(array_agg(r.name), NULL), p.user_name, p.company
            FROM pelto.token t JOIN pelto.person p ON p.id = t.person_id
            LEFT JOIN pelto.person_role l ON l.user_id = p.id LEFT JOIN pelto.role r ON r.id = l.role_id
            WHERE t.digest = $1 GROUP BY p.id
            """);
        command.Parameters.Add(new() { Value = Digest(token) });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel) ? new(reader.GetGuid(0), reader.GetString(1), reader.GetFieldValue<string[]>(2)) { SignIn = reader.GetString(3), Company = reader.GetString(4) } : null;
    }

    /// <summary>The viewer that a person is, named by sign-in name, or the first person in a role. Null when nobody is meant.</summary>
    public async Task<Viewer?> ViewerAsync(string name, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await NamedAsync(context, name, cancel) is { } person ? await ViewerAsync(context, person.Id, cancel) : null;
    }

    private static async Task<Person?> NamedAsync(PeltoContext context, string name, CancellationToken cancel) =>
        await context.Users.FirstOrDefaultAsync(candidate => candidate.UserName == name, cancel)
            ?? await (from link in context.UserRoles
                      join role in context.Roles on link.RoleId equals role.Id
                      join candidate in context.Users on link.UserId equals candidate.Id
                      where role.Name == name
                      orderby candidate.Position
                      select candidate).FirstOrDefaultAsync(cancel);

    private static async Task<Viewer?> ViewerAsync(PeltoContext context, Guid personId, CancellationToken cancel)
    {
        var rows = await (from person in context.Users
                          where person.Id == personId
                          join link in context.UserRoles on person.Id equals link.UserId into links
                          from link in links.DefaultIfEmpty()
                          join role in context.Roles on link!.RoleId equals role.Id into roles
                          from role in roles.DefaultIfEmpty()
                          select new { person.FullName, person.UserName, person.Company, person.Language, person.Zone, Role = role!.Name }).ToListAsync(cancel);
        return rows.Count == 0 ? null : new(personId, rows[0].FullName, [.. rows.Select(row => row.Role).OfType<string>()]) { SignIn = rows[0].UserName!, Company = rows[0].Company, Locale = Locale.Of(rows[0].Language, rows[0].Zone) };
    }

    private static string Digest(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
