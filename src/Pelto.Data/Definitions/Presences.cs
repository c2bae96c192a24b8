namespace Pelto.Data.Definitions;

/// <summary>Somebody at work now.</summary>
public sealed record AtWork(string PersonName, string RecordType, string Title);

/// <summary>Who is working now and on what, told by open pages. A page that has not been heard of for a while is closed.</summary>
public sealed class Presences(IDbContextFactory<PeltoContext> contexts, TimeProvider clock)
{
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(50);

    /// <summary>How often a page says that it is still open.</summary>
    public static readonly TimeSpan Pulse = TimeSpan.FromSeconds(20);

    /// <summary>Puts down that a page is open, or still open.</summary>
    public async Task SeenAsync(Guid page, Viewer viewer, string recordType, string title, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var row = new PresenceRow
        {
            Id = page,
            PersonId = viewer.Id,
            PersonName = viewer.Name,
            RecordType = recordType,
            Title = title,
            SeenAt = clock.GetUtcNow(),
        };
        await context.UpsertAsync([row], cancel);
    }

    /// <summary>Puts down that a page was closed.</summary>
    public async Task GoneAsync(Guid page)
    {
        await using var context = await contexts.CreateDbContextAsync();
        var longAgo = clock.GetUtcNow() - TimeSpan.FromHours(1);
        await context.Presences.Where(row => row.Id == page || row.SeenAt < longAgo).ExecuteDeleteAsync();
    }

    /// <summary>
    /// All who are at work, as somebody may know it: what they are on is called by its name only for whoever reads all records of its type.
    /// </summary>
    public async Task<IReadOnlyList<AtWork>> NowAsync(Viewer viewer, Catalogue live, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var since = clock.GetUtcNow() - Silence;
        var rows = await context
            .Presences.AsNoTracking()
            .Where(row => row.SeenAt > since)
            .Select(row => new AtWork(row.PersonName, row.RecordType, row.Title))
            .ToListAsync(cancel);
        return
        [
            .. rows.Select(row =>
                    live.Find(row.RecordType) is not { } type || !viewer.MayRead(type) ? row with { RecordType = "", Title = "" }
                    : viewer.ReadsAll(type, live) ? row
                    : row with { Title = "" }
                )
                .Distinct()
                .OrderBy(row => row.PersonName, StringComparer.Ordinal)
                .ThenBy(row => row.Title, StringComparer.Ordinal),
        ];
    }
}
