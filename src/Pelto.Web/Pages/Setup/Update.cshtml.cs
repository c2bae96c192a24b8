using Pelto.Core.Updates;
using Pelto.Data.Hosts;

namespace Pelto.Web.Pages;

/// <summary>
/// The versions of the ERP: what going to another one would do to all that was added and arranged, before anybody does it.
/// </summary>
public sealed class UpdateModel(CurrentRequest request, Catalogues catalogues, HostVersions hosts, Drafts drafts) : PageModel
{
    /// <summary>The version that is live.</summary>
    public HostDescription Live => request.Catalogue.Host;

    /// <summary>The version of the draft.</summary>
    public string Drafted { get; private set; } = "";

    /// <summary>How many changes the draft holds.</summary>
    public int Count { get; private set; }

    /// <summary>All versions, the earliest first.</summary>
    public IReadOnlyList<HostDescription> Versions => hosts.All;

    /// <summary>Versions that cannot be used.</summary>
    public IReadOnlyList<UnusableVersion> Unusable => hosts.Unusable;

    /// <summary>What going to the chosen version does; null when it is live and nothing else is there.</summary>
    public HostUpdate? Update { get; private set; }

    /// <summary>What becomes of layers, layer by layer.</summary>
    public IEnumerable<IGrouping<string, LayerFate>> Layers => (Update?.Fates ?? []).GroupBy(fate => fate.Layer.Id);

    /// <summary>What a record type is called.</summary>
    public string PluralOf(string type) =>
        Update?.To.RecordTypes.FirstOrDefault(known => known.Code == type)?.Plural ?? request.Catalogue.Find(type)?.Plural ?? type;

    /// <summary>A fate in words, after a number.</summary>
    public static string InWords(Fate fate, int count) =>
        fate switch
        {
            Fate.Stays => count == 1 ? "stays as it is" : "stay as they are",
            Fate.Follows => count == 1 ? "follows along" : "follow along",
            Fate.LosesAnchor => count == 1 ? "loses its anchor" : "lose their anchor",
            _ => count == 1 ? "no longer has anything to do" : "no longer have anything to do",
        };

    /// <summary>Shows a version: the one asked for, or the next one that is not live.</summary>
    public async Task<IActionResult> OnGetAsync(string? to) => await ShowAsync(to) ? Page() : NotFound();

    /// <summary>Puts the version in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string? to)
    {
        if (to is null || hosts.Find(to) is not { } host)
            return NotFound();
        if (!await ShowAsync(to))
            return NotFound();
        if (Update is not { IsPossible: true })
            return Page();

        // Somebody may have changed the draft since: then it stays as it is, and the page shows what stands in the way.
        var draft = await drafts.ChangeAsync(
            site => HostUpdate.Make(catalogues.Build(site), host) is { IsPossible: true } update ? update.Site : site,
            $"{host.Label} {host.Version}",
            request.Viewer
        );
        return Redirect(draft.Site.Host == host.Version ? "/setup/draft" : $"/setup/update?to={host.Version}");
    }

    private async Task<bool> ShowAsync(string? to)
    {
        var draft = await drafts.CatalogueAsync();
        (Drafted, Count) = (draft.Host.Version, await drafts.CountAsync());
        var chosen = to is null
            ? hosts.All.FirstOrDefault(host => host.Follows == Live.Version)
                ?? hosts.All.LastOrDefault(host => host.Version != Live.Version)
            : hosts.Find(to);
        if (to is not null && chosen is null)
            return false;
        if (chosen is not null && chosen.Version != Live.Version)
            Update = HostUpdate.Make(draft.Host.Version == chosen.Version ? request.Catalogue : draft, chosen);
        return true;
    }
}
