namespace Pelto.Web.Components;

/// <summary>
/// Finds what a link points to by what somebody typed: who knows the number types it and goes on, without waiting for the list.
/// </summary>
public sealed class TargetFinder(RecordLists lists, CurrentRequest request)
{
    /// <summary>The record that is meant, or why it is not clear which.</summary>
    public async Task<Parsed> FindAsync(Field field, string written)
    {
        var target = field.Target!;
        if (!request.Viewer.MayChoose(field))
            return Parsed.Refused($"You may not see {target.Plural.ToLowerInvariant()}.");
        var released = request.Viewer.Form is null ? null : Offer.Released(request.Viewer, field);
        if (released is null && await lists.FindAsync(target, written, request.Viewer) is { } id)
            return Value.LinkTo(id);
        var found = await lists.PickAsync(target, written, request.Viewer, take: 2, released, field);
        if (released is not null && found.Count > 1 && found[0].Identifier == written)
            return Value.LinkTo(found[0].Id);
        return found.Count switch
        {
            1 => Value.LinkTo(found[0].Id),
            0 => Parsed.Refused(
                $"There is no {target.Label.ToLowerInvariant()} “{written}”. Choose from the list that opens while you type."
            ),
            _ => Parsed.Refused(
                $"More than one {target.Label.ToLowerInvariant()} fits “{written}”. Choose from the list that opens while you type."
            ),
        };
    }
}
