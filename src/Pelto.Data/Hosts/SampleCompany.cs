using Microsoft.AspNetCore.Identity;
using Pelto.Core.Binding;
using Pelto.Data.Storage;

namespace Pelto.Data.Hosts;

/// <summary>The host's tables with their sample data, and the sample company's people, in a database that has none yet.</summary>
public sealed class SampleCompany(HostReader reader, HostVersions hosts, ILookupNormalizer normalizer, TimeProvider clock)
{
    private HostDescription Host => hosts.Installed;

    /// <summary>Installs it: tables with their rows, people, and release 1.</summary>
    /// <remarks>
    /// Release 1 is written last and with all the rest in one transaction: an installation that was cut short begins again from nothing.
    /// </remarks>
    public async Task InstallAsync(PeltoContext context, CancellationToken cancel)
    {
        var catalogue = Catalogue.Build(1, Host, SiteDefinition.Nothing);
        await context.Database.OpenConnectionAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var connection = (NpgsqlConnection)context.Database.GetDbConnection();
        await BaseTables.CreateAsync(catalogue, connection, cancel);
        await new SampleData(reader, catalogue, connection).LoadAsync(cancel);
        AddPeople(context);
        context.Settings.Add(new() { Name = SigningIn.DemoSetting.Setting, Value = "yes" });
        context.Releases.Add(
            new()
            {
                Number = 1,
                Definition = SiteDefinition.Nothing.ToJson(),
                Comment = "As delivered.",
                Summary = $"{Host.Label} {Host.Version}",
                PublishedBy = "Pelto",
                PublishedAt = clock.GetUtcNow(),
            }
        );
        await context.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        await connection.Command("ANALYZE").Unhurried(Installer.Patience).RunAsync(cancel);
    }

    private void AddPeople(PeltoContext context)
    {
        var roles = Host.Roles.ToDictionary(
            role => role.Code,
            role => new Role
            {
                Id = Guid.CreateVersion7(),
                Name = role.Code,
                NormalizedName = normalizer.NormalizeName(role.Code),
                Label = role.Label,
            }
        );
        context.Roles.AddRange(roles.Values);
        foreach (var (sample, position) in reader.People().Select((person, index) => (person, index)))
        {
            var person = new Person
            {
                Id = Guid.CreateVersion7(),
                UserName = sample.SignIn,
                NormalizedUserName = normalizer.NormalizeName(sample.SignIn),
                FullName = sample.Name,
                Position = position,
                Language = sample.Language,
                Zone = sample.Zone,
                Company = sample.Company,
                SecurityStamp = Guid.NewGuid().ToString(),
            };
            context.Users.Add(person);
            context.UserRoles.AddRange(
                sample.Roles.Select(role => new IdentityUserRole<Guid> { UserId = person.Id, RoleId = roles[role].Id })
            );
        }
    }
}
