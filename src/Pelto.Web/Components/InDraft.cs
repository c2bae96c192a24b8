using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Records;
using Pelto.Core.Values;
using Pelto.Data.Records;

namespace Pelto.Web.Components;

/// <summary>A record on file as a draft would hold it.</summary>
public static class InDraft
{
    /// <summary>From the live type to the draft's: the same fields may stand at other slots, and a value may become one of another kind.</summary>
    /// <param name="shown">The record in the draft.</param>
    /// <param name="record">The record on file.</param>
    public static void CopyTo(RecordState shown, RecordState record)
    {
        Copy(record.Type.Header, record.Header, shown.Type.Header, shown.Header);
        foreach (var part in shown.Type.LineParts)
        {
            if (record.Type.FindPart(part.Code) is not { } from) continue;
            foreach (var line in record.LinesOf(from))
            {
                var values = new Value[part.Fields.Count];
                Copy(from, line.Values, part, values);
                shown.LinesOf(part).Add(new(line.Key, line.Id, values));
            }
        }
    }

    /// <summary>Fills in what stands in other records: what is seen through links, and what live formulas read there. What the draft alone has is in no table yet; then it goes without.</summary>
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

    private static void Copy(Part from, Value[] values, Part to, Value[] into)
    {
        foreach (var field in to.Fields.Where(field => field.IsStored))
        {
            if (from.Find(field.Code) is not { } same || same.Id != field.Id) continue;
            into[field.Slot] = field.Kind.Name == same.Kind.Name ? values[same.Slot] : field.Kind.Convert(values[same.Slot], same.Kind) is { Refusal: null } turned ? turned.Value : Value.Empty;
        }
    }
}
