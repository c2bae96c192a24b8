using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.SigningIn;

/// <summary>
/// Of whom a second factor is demanded: whoever has none goes nowhere but to where it is set up. Of administrators, where nobody said
/// otherwise; on demo data, in which people are picked, of nobody.
/// </summary>
public sealed class FactorDemand(IDbContextFactory<PeltoContext> contexts, AuditTrail audit)
{
    /// <summary>The setting that holds it.</summary>
    public const string Setting = "second_factor";

    /// <summary>It is offered to all and demanded of nobody.</summary>
    public const string Nobody = "nobody";

    /// <summary>It is demanded of administrators.</summary>
    public const string Administrators = "administrators";

    /// <summary>It is demanded of everybody.</summary>
    public const string Everyone = "everyone";

    /// <summary>All of them, as people read them.</summary>
    public static IReadOnlyList<(string Code, string Words)> All { get; } =
    [(Nobody, "Nobody: it is offered"), (Administrators, "Administrators"), (Everyone, "Everybody")];

    /// <summary>True when it is demanded of a person.</summary>
    public static bool IsOf(Viewer viewer, string demand) => demand == Everyone || (demand == Administrators && viewer.IsAdministrator);

    /// <summary>Of whom it is demanded.</summary>
    public async Task<string> ReadAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Settings.Where(setting => setting.Name == Setting).Select(setting => setting.Value).FirstOrDefaultAsync(cancel)
            ?? Administrators;
    }

    /// <summary>Demands it of others.</summary>
    public async Task SetAsync(string demand, Viewer by, CancellationToken cancel = default)
    {
        if (!AdminRights.All(by))
            throw new AccessRefusedException("Only administrators decide who needs a second factor.");
        Allowing.MustBeSure(by);
        if (All.All(one => one.Code != demand))
            throw new ArgumentException($"There is no demand {demand}.", nameof(demand));
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var row = await context.Settings.FirstOrDefaultAsync(setting => setting.Name == Setting, cancel);
        if ((row?.Value ?? Administrators) == demand)
            return;
        if (row is null)
            context.Settings.Add(row = new() { Name = Setting });
        row.Value = demand;
        await audit.CommitAsync(
            context,
            by,
            new(
                AuditKinds.People,
                "signing in",
                $"A second factor is required of: {All.First(one => one.Code == demand).Words.ToLowerInvariant()}"
            ),
            cancel
        );
    }
}
