namespace Pelto.Web.Components;

/// <summary>
/// Takes a small change live by itself, beside the draft: it is a release of its own, so that it is on record, live for everybody, and in
/// the draft too.
/// </summary>
public sealed class SmallReleases(Publisher publisher, PublishingQueue queue, Drafts drafts, Catalogues catalogues)
{
    // Two people may do so at the same moment: then one of them begins again on top of the other's release.
    private const int Attempts = 4;

    /// <summary>Does so; null, or why not.</summary>
    public async Task<string?> PublishAsync(
        Func<SiteDefinition, SiteDefinition> change,
        string comment,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        // The draft has it first, so that a draft that is published just now does not take it away again.
        await drafts.RebaseAsync(change, cancel);
        try
        {
            for (var attempt = 0; attempt < Attempts; attempt++)
            {
                var id = await publisher.StartSmallAsync(change(catalogues.Live.Site), comment, viewer, cancel);
                var row = await queue.RunAsync(id, CancellationToken.None);
                if (row.State == PublishingState.Done)
                    return null;
            }
        }
        catch (PublishRefusedException refused)
        {
            return refused.Message;
        }

        return "It could not be done just now; please try again.";
    }
}
