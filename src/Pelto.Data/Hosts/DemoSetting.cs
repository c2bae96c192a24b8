using Microsoft.EntityFrameworkCore;
using Pelto.Core.Access;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;
using Pelto.Data.Definitions;

namespace Pelto.Data.Hosts;

/// <summary>Whether people are picked on the sign-in page, as demo data begins, or sign in by password.</summary>
public sealed class DemoSetting(IDbContextFactory<PeltoContext> contexts, AuditTrail audit)
{
    /// <summary>Changes it.</summary>
    public async Task SetAsync(bool isDemo, Viewer by, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var value = isDemo ? "yes" : "no";
        if (await context.Settings.Where(setting => setting.Name == Installer.DemoSetting && setting.Value != value).ExecuteUpdateAsync(set => set.SetProperty(setting => setting.Value, value), cancel) == 0) return;
        await audit.WriteAsync(context, by, [new(AuditKinds.People, "signing in", isDemo ? "People are picked on the sign-in page from now on" : "People sign in by password from now on")], cancel);
        await transaction.CommitAsync(cancel);
    }
}
