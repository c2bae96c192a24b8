using Npgsql;

namespace Pelto.Web.Components;

/// <summary>What a link offers on one real record.</summary>
/// <param name="Record">The record's id.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Says">How many, and which come first; or what must be filled first.</param>
public sealed record OfferProof(long Record, string Title, string Says);

/// <summary>Shows on real records what the condition of a link would offer, before anybody is held to it.</summary>
public sealed class OfferProofs(RecordLists lists, RecordStore store)
{
    private const int Most = 5;

    /// <summary>Asks for the record that is shown, and for the newest others.</summary>
    /// <param name="field">The link, of the draft.</param>
    /// <param name="live">Its record type as it is live.</param>
    /// <param name="shown">The record that is shown.</param>
    /// <param name="copy">Takes a record over to the draft's type.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<OfferProof>> OfAsync(
        Field field,
        RecordType live,
        RecordState? shown,
        Action<RecordState, RecordState> copy,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        RecordLists.TryOrder(live, null, viewer, out var order);
        var ids = (await lists.ReadAsync(new(live, order, Most) { Shown = [] }, viewer, cancel)).Rows.Select(row => row.Id);
        var proofs = new List<OfferProof>();
        foreach (var id in (shown?.Id is { } first ? ids.Prepend(first) : ids).Distinct().Take(Most))
        {
            if (await store.FindAsync(live, id, viewer, cancel) is not { } record)
                continue;
            var drafted = new RecordState(field.Part.RecordType) { Id = id };
            copy(drafted, record);
            var line = field.Part.IsLines ? drafted.LinesOf(field.Part).FirstOrDefault() : null;
            if (field.Part.IsLines && line is null)
                continue;
            proofs.Add(new(id, record.Title, await SaysAsync(Offer.To(viewer, field, drafted, line), viewer, cancel)));
        }

        return proofs;
    }

    /// <summary>How many records are offered, and which come first; or what must be filled first.</summary>
    public async Task<string> SaysAsync(Offer offer, Viewer viewer, CancellationToken cancel)
    {
        if (!offer.IsFor(viewer))
            return "not for you to see: it depends on what you may not read";
        if (offer.Missing is { } missing)
            return $"nothing until {missing.Label} is filled";
        try
        {
            var count = await lists.CountAsync(offer, viewer, cancel);
            if (count == 0)
                return "nothing";
            var some = await lists.PickAsync(offer.Field.Target!, "", viewer, 3, offer, cancel: cancel);
            return $"{Numbers.Format(count, locale: viewer.Locale)}: "
                + $"{string.Join(", ", some.Select(target => target.Identifier))}{(count > some.Count ? " …" : "")}";
        }
        catch (PostgresException unknown) when (unknown.SqlState is PostgresErrorCodes.UndefinedColumn or PostgresErrorCodes.UndefinedTable)
        {
            return "shown once what it reads is live";
        }
    }
}
