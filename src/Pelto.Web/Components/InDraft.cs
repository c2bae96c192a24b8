using Pelto.Core.Access;
using Pelto.Core.Records;
using Pelto.Data.Records;

namespace Pelto.Web.Components;

/// <summary>A record on file as a draft would hold it.</summary>
public static class InDraft
{
    /// <summary>
    /// Fills in what stands in other records: what is seen through links, and what live formulas read there. What the draft alone has is in
    /// no table yet; then it goes without.
    /// </summary>
    /// <param name="store">Reads it.</param>
    /// <param name="shown">The record in the draft.</param>
    /// <param name="viewer">For whom.</param>
    /// <param name="cancel">Stops it.</param>
    public static async Task SeeAsync(RecordStore store, RecordState shown, Viewer viewer, CancellationToken cancel)
    {
        try
        {
            await store.SeenAsync(shown, viewer, cancel);
        }
        catch (Npgsql.PostgresException unknown) when (unknown.SqlState is Npgsql.PostgresErrorCodes.UndefinedColumn or Npgsql.PostgresErrorCodes.UndefinedTable)
        {
            Pipeline.FillLive(shown);
            RecordAccess.Of(shown, viewer).Withhold(shown);
        }
    }
}
