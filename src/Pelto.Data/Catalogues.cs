using Pelto.Core.Binding;
using Pelto.Data.Hosts;
using Pelto.Data.Records;

namespace Pelto.Data;

/// <summary>The catalogues of this node: the live one, and earlier ones for forms that were drawn under them.</summary>
public sealed class Catalogues(HostVersions hosts, RecordModels models, IDbContextFactory<PeltoContext> contexts)
{
    private readonly SemaphoreSlim switching = new(1, 1);
    private volatile Catalogue? live;
    private Catalogue? before;

    // Of drafts: as they are, and as they would be with what somebody types just now.
    private readonly CatalogueCache drafts = new(4);

    // For forms that stay open while others publish.
    private readonly CatalogueCache earlier = new(4);

    /// <summary>The catalogue that is live. A request takes it once and keeps it.</summary>
    public Catalogue Live => live ?? throw new InvalidOperationException("No release has been loaded yet.");

    /// <summary>Raised after this node has switched.</summary>
    public event Action<Catalogue>? WentLive;

    /// <summary>Builds the catalogue of a definition; that of a draft carries the number of the live release.</summary>
    public Catalogue Build(SiteDefinition site, int? release = null)
    {
        if (release is not null)
            return Catalogue.Build(release.Value, hosts.For(site), site);

        // A page reads the draft several times while it stays as it is, and tries the same while one types on.
        var (text, now) = (site.ToJson(), Live.Release);
        return drafts.Find(now, text) ?? drafts.Keep(Catalogue.Build(now, hosts.For(site), site), text);
    }

    /// <summary>
    /// The catalogue of an earlier release, for a form that was drawn under it; the live one when that release is not known.
    /// </summary>
    public async Task<Catalogue> AtAsync(int release, CancellationToken cancel = default)
    {
        var (now, last) = (Live, before);
        if (release == now.Release)
            return now;
        if (release == last?.Release)
            return last;
        if (earlier.Find(release) is { } known)
            return known;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var row = await context.Releases.FindAsync([release], cancel);
        return row is null ? now : earlier.Keep(Build(SiteDefinition.FromJson(row.Definition), release));
    }

    /// <summary>Goes to the newest release in the database, if this node is not there yet.</summary>
    public async Task CatchUpAsync(CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var number = await context.Releases.MaxAsync(row => row.Number, cancel);
        if (live?.Release >= number)
            return;
        var newest = await context.Releases.AsNoTracking().FirstAsync(row => row.Number == number, cancel);
        var site = SiteDefinition.FromJson(newest.Definition);
        if (site.Host is { } version && hosts.Find(version) is null)
            throw new HostException(
                $"Release {number} is for {hosts.Installed.Label} {version}, whose description is not in the folder of its versions."
            );
        await GoToAsync(Build(site, number), cancel);
    }

    /// <summary>Goes to a release that is in the database, unless this node is there or further already.</summary>
    public async Task GoToAsync(Catalogue next, CancellationToken cancel = default)
    {
        await switching.WaitAsync(cancel);
        try
        {
            if (live?.Release >= next.Release)
                return;
            (before, live) = (live, next);
            models.Keep(before is null ? [next] : [before, next]);
            WentLive?.Invoke(next);
        }
        finally
        {
            switching.Release();
        }
    }
}
