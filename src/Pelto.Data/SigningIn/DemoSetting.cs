using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.SigningIn;

/// <summary>Whether people are picked on the sign-in page, as demo data begins, or sign in by password.</summary>
public sealed class DemoSetting(IDbContextFactory<PeltoContext> contexts, AuditTrail audit)
{
    /// <summary>The setting that holds it.</summary>
    public const string Setting = "demo";

    /// <summary>
    /// Changes it. While people were picked anybody could be anybody: so once they are not any more, only who turned that off keeps
    /// password, session and second factor, and all tokens and invitations end.
    /// </summary>
    public async Task SetAsync(bool isDemo, Viewer by, CancellationToken cancel = default)
    {
        Allowing.MustBeSure(by);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var value = isDemo ? "yes" : "no";
        if (
            await context
                .Settings.Where(row => row.Name == Setting && row.Value != value)
                .ExecuteUpdateAsync(set => set.SetProperty(setting => setting.Value, value), cancel) == 0
        )
            return;
        if (!isDemo)
        {
            await context
                .Users.Where(person => person.Id != by.Id)
                .ExecuteUpdateAsync(
                    set =>
                        set.SetProperty(person => person.PasswordSetAt, (DateTimeOffset?)null)
                            .SetProperty(person => person.PasswordHash, (string?)null)
                            .SetProperty(person => person.TotpKey, (string?)null),
                    cancel
                );
            await context.Sessions.Where(row => row.PersonId != by.Id).ExecuteDeleteAsync(cancel);
            await context.Tokens.ExecuteDeleteAsync(cancel);
            await context.Invitations.ExecuteDeleteAsync(cancel);
        }

        await audit.CommitAsync(
            context,
            by,
            new(
                AuditKinds.People,
                "signing in",
                isDemo ? "People are picked on the sign-in page from now on" : "People sign in by password from now on"
            ),
            cancel
        );
    }
}
