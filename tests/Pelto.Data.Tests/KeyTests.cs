using OtpNet;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;
using Pelto.Data.Hosts;
using Pelto.Data.SigningIn;
using Pelto.Tests;

namespace Pelto.Data.Tests;

/// <summary>The key of secrets: which one a database belongs to, and going on when it is lost.</summary>
public sealed class KeyTests(Site site) : IClassFixture<Site>
{
    private ServiceProvider NodeWith(string keyFile) =>
        new ServiceCollection().AddLogging().AddPeltoData(site.Connection, TemplateDatabase.HostFolder, keyFile).BuildServiceProvider();

    private static async Task WithKeyAsync(Func<string, Task> use)
    {
        var file = Path.Combine(Path.GetTempPath(), $"pelto-test-{Guid.NewGuid():N}.key");
        try
        {
            await use(file);
        }
        finally
        {
            File.Delete(file);
        }
    }

    [Fact(DisplayName = "With another key a node does not start and locks nobody out; when the key is lost, it goes on with a new one")]
    public Task Is_lost() =>
        WithKeyAsync(async file =>
        {
            await site.PublishAsync(Site.Field("door", "secret"));
            var order = site.Type("sales_order");
            var door = order.Header.Find("door")!;
            Assert.Equal(
                SaveResult.Saved,
                (await site.Saver.SaveAsync(order, 60, site.Changes("sales_order", ("door", Value.From("sesame"))), Site.Desk)).Result
            );
            var people = site.Services.GetRequiredService<People>();
            var person = (await people.ViewerAsync("otto.hietakari"))!;
            var totp = SecondFactor.NewKey();
            var recovery = (
                await site
                    .Services.GetRequiredService<Credentials>()
                    .StartCodeAsync(person, totp, new Totp(totp).ComputeTotp(), session: null)
            )!;
            var before = await site.Audit.CheckAsync();

            await using (var stranger = NodeWith(file))
            {
                var refused = await Assert.ThrowsAsync<KeyException>(() => stranger.GetRequiredService<Installer>().EnsureAsync());
                Assert.Contains("./pelto newkey", refused.Message, StringComparison.Ordinal);
            }

            // The one with the right key still gets in, for which the database asks a password that follows from it.
            await using (var right = await site.AnotherNodeAsync())
            {
                await right.GetRequiredService<Installer>().EnsureAsync();
                Assert.Equal("sesame", await right.GetRequiredService<SecretShowing>().RevealAsync(order, 60, door, null, Site.Desk));
                Assert.False(await right.GetRequiredService<Installer>().TakeKeyAsync());
            }

            await using var next = NodeWith(file);
            Assert.True(await next.GetRequiredService<Installer>().TakeKeyAsync());
            await next.GetRequiredService<Catalogues>().CatchUpAsync();
            Assert.Null(await next.GetRequiredService<SecretShowing>().RevealAsync(order, 60, door, null, Site.Desk));
            await next.GetRequiredService<RecordSaver>()
                .SaveAsync(order, 60, site.Changes("sales_order", ("door", Value.From("open"))), Site.Desk);
            Assert.Equal("open", await next.GetRequiredService<SecretShowing>().RevealAsync(order, 60, door, null, Site.Desk));

            var credentials = next.GetRequiredService<Credentials>();
            Assert.False(await credentials.CheckCodeAsync(person.Id, new Totp(totp).ComputeTotp()));
            Assert.True(await credentials.CheckCodeAsync(person.Id, recovery[0]));
            Assert.False(await credentials.CheckCodeAsync(person.Id, recovery[0]));

            var audit = next.GetRequiredService<AuditReader>();
            var check = await audit.CheckAsync();
            var took = Assert.Single(await audit.FindAsync(new(Kind: AuditKinds.Key), 5));
            Assert.Equal((null, took.Number - 1), (check.Broken, check.Unsealed));
            Assert.True(check.Unsealed > before.Entries && check.Entries > took.Number);

            // Whoever has the database and no key cannot make such an entry: without it, what is sealed by another key is not ours.
            await site.ScalarAsync(
                $"ALTER TABLE pelto.audit DISABLE TRIGGER only_grows; DELETE FROM pelto.audit WHERE number >= {took.Number}"
            );
            Assert.Equal(1, (await audit.CheckAsync()).Broken);
        });

    [Fact(DisplayName = "A file that holds no key is refused, by its name")]
    public Task Is_broken() =>
        WithKeyAsync(async file =>
        {
            foreach (var text in new[] { "", "no key", "0123456789abcdef" })
            {
                await File.WriteAllTextAsync(file, text);
                Assert.Contains(
                    Path.GetFileName(file),
                    Assert.Throws<KeyException>(() => new Secrets(file)).Message,
                    StringComparison.Ordinal
                );
            }
        });
}
