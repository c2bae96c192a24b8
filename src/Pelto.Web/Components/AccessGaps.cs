using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Data.Definitions;

namespace Pelto.Web.Components;

/// <summary>The gaps in the guards and grants of a catalogue, for the roles of the host and the people who are here.</summary>
public sealed class AccessGaps(People people)
{
    /// <summary>All of them.</summary>
    public async Task<IReadOnlyList<AccessGap>> OfAsync(Catalogue catalogue, CancellationToken cancel = default) =>
        catalogue.Guarding.IsPlain ? [] : new Gaps(catalogue, [.. Gaps.OfRoles(catalogue.Host), .. await people.ViewersAsync(cancel)]).All();
}
