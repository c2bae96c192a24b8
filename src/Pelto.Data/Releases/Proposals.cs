using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.Releases;

/// <summary>Publishing by two: whether it takes two people, and who asks for the draft to be published.</summary>
public sealed class Proposals(IDbContextFactory<PeltoContext> contexts, Drafts drafts, AuditTrail audit, TimeProvider clock)
{
    /// <summary>The setting that says that publishing takes two people.</summary>
    public const string TwoPeopleSetting = "publish_by_two";

    /// <summary>True when whoever publishes must be another than who asked for it.</summary>
    public async Task<bool> TakesTwoAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Settings.AnyAsync(setting => setting.Name == TwoPeopleSetting && setting.Value == "yes", cancel);
    }

    /// <summary>
    /// Lets publishing take two people from now on; or one, once two administrators have said so. Gives what is still missing, as a
    /// sentence, or null.
    /// </summary>
    public async Task<string?> SetTakesTwoAsync(bool takesTwo, Viewer viewer, CancellationToken cancel = default)
    {
        if (!AdminRights.All(viewer))
            throw new AccessRefusedException("Only administrators say how many people publishing takes.");
        Allowing.MustBeSure(viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var row = await context.Settings.FirstOrDefaultAsync(setting => setting.Name == TwoPeopleSetting, cancel);
        var asked = await context.Settings.FirstOrDefaultAsync(setting => setting.Name == OnePersonSetting, cancel);
        if ((row?.Value == "yes") == takesTwo)
        {
            // Whoever keeps it as it is takes back that somebody asked for the other.
            if (asked is not null)
                await context.Settings.Where(setting => setting.Name == OnePersonSetting).ExecuteDeleteAsync(cancel);
            await transaction.CommitAsync(cancel);
            return null;
        }

        // What takes two is turned off by two.
        if (!takesTwo && (asked is null || asked.Value == viewer.Id.ToString()))
        {
            if (asked is null)
                context.Settings.Add(new() { Name = OnePersonSetting, Value = viewer.Id.ToString() });
            await context.SaveChangesAsync(cancel);
            if (asked is null)
                await audit.WriteAsync(
                    context,
                    viewer,
                    [new(AuditKinds.People, "publishing", "Asked for publishing to take one person")],
                    cancel
                );
            await transaction.CommitAsync(cancel);
            return "It is asked for. Publishing goes on taking two people until another administrator turns that off here as well.";
        }

        if (asked is not null)
            context.Settings.Remove(asked);
        if (row is null)
            context.Settings.Add(row = new() { Name = TwoPeopleSetting });
        row.Value = takesTwo ? "yes" : "no";
        await audit.CommitAsync(
            context,
            viewer,
            new(
                AuditKinds.People,
                "publishing",
                takesTwo ? "Publishing takes two people from now on" : "Publishing takes one person from now on"
            ),
            cancel
        );
        return null;
    }

    // Who asked for publishing to take one person again.
    private const string OnePersonSetting = "publish_by_one_asked_by";

    /// <summary>Who asks for the draft as it stands to be published; null when nobody does.</summary>
    public async Task<ProposalRow?> FindAsync(CancellationToken cancel = default)
    {
        var draft = await drafts.ReadAsync(cancel);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Proposals.AsNoTracking().FirstOrDefaultAsync(row => row.DraftVersion == draft.Version, cancel);
    }

    internal async Task PutDownAsync(long version, string comment, Viewer viewer, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Proposals.ExecuteDeleteAsync(cancel);
        context.Proposals.Add(
            new()
            {
                DraftVersion = version,
                Comment = comment,
                PersonId = viewer.Id,
                By = viewer.Name,
                At = clock.GetUtcNow(),
            }
        );
        await audit.CommitAsync(
            context,
            viewer,
            new(AuditKinds.Release, "release", $"Asked for the draft to be published: {comment}"),
            cancel
        );
    }

    /// <summary>Takes back that somebody asks for the draft to be published.</summary>
    public async Task WithdrawAsync(Viewer viewer, CancellationToken cancel = default)
    {
        if (!viewer.May(AdminWork.Publish))
            throw new AccessRefusedException("You may not publish.");
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        if (await context.Proposals.ExecuteDeleteAsync(cancel) > 0)
            await audit.WriteAsync(
                context,
                viewer,
                [new(AuditKinds.Release, "release", "Sent the draft back that was to be published")],
                cancel
            );
        await transaction.CommitAsync(cancel);
    }
}
