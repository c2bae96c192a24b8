using System.Text.Json;
using System.Text.Json.Serialization;

namespace Pelto.Core.States;

/// <summary>Where the value of a field that is filled and may be changed comes from.</summary>
/// <param name="At">When it was filled, or typed.</param>
/// <param name="By">Who typed it; null while it is as it was filled.</param>
/// <param name="From">The record that it was carried from, such as <c>partner/17</c>; null for what was calculated.</param>
public sealed record Origin(DateTime At, string? By = null, string? From = null)
{
    /// <summary>
    /// Begins <c>From</c>, before the query's id, where it took longer than a save may wait: the value is that of before, until the query
    /// has answered beside.
    /// </summary>
    public const string BesidePrefix = "beside/";

    /// <summary>The same for a query that gave no answer then either.</summary>
    public const string UnansweredPrefix = "unanswered/";

    /// <summary>True when somebody typed over what filled it.</summary>
    [JsonIgnore]
    public bool IsTyped => By is not null;

    /// <summary>True while a query that a save did not wait for is asked beside.</summary>
    [JsonIgnore]
    public bool IsAwaited => From?.StartsWith(BesidePrefix, StringComparison.Ordinal) == true;

    /// <summary>True when it gave no answer then either.</summary>
    [JsonIgnore]
    public bool IsUnanswered => From?.StartsWith(UnansweredPrefix, StringComparison.Ordinal) == true;
}

/// <summary>Origins as they are kept beside the values: an object from lasting ids of fields.</summary>
public static class Origins
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    };

    /// <summary>Writes them; null when there are none.</summary>
    public static string? Write(IReadOnlyDictionary<Field, Origin> origins) =>
        origins.Count == 0
            ? null
            : JsonSerializer.Serialize(origins.OrderBy(pair => pair.Key.Slot).ToDictionary(pair => pair.Key.Id, pair => pair.Value), Json);

    /// <summary>Reads them; those of fields that are not there any more, or that nothing fills, are left out.</summary>
    public static Dictionary<Field, Origin> Read(string? stored, Part part)
    {
        if (string.IsNullOrEmpty(stored))
            return [];
        var origins = new Dictionary<Field, Origin>();
        foreach (var (id, origin) in JsonSerializer.Deserialize<Dictionary<string, Origin>>(stored, Json)!)
            if (part.Fields.FirstOrDefault(field => field.Id == id) is { IsFilled: true, IsComputed: false } field)
                origins[field] = origin;
        return origins;
    }
}
