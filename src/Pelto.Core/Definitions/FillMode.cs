using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>When what fills a field does so.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<FillMode>))]
public enum FillMode
{
    /// <summary>Each time that its record is calculated; nobody types it.</summary>
    [JsonStringEnumMemberName("always")]
    Always,

    /// <summary>Each time as well, until somebody types over it.</summary>
    [JsonStringEnumMemberName("untouched")]
    Untouched,

    /// <summary>
    /// When what it is read from is chosen: the link that it comes through, the field of the header, the document before.
    /// </summary>
    [JsonStringEnumMemberName("chosen")]
    Chosen,
}
