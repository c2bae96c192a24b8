using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>What a query takes of the rows that it finds.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<QueryTake>))]
public enum QueryTake
{
    /// <summary>The rows themselves, in order.</summary>
    [JsonStringEnumMemberName("rows")]
    Rows,

    /// <summary>How many there are.</summary>
    [JsonStringEnumMemberName("count")]
    Count,

    /// <summary>The total of one value.</summary>
    [JsonStringEnumMemberName("sum")]
    Sum,

    /// <summary>The mean of one value.</summary>
    [JsonStringEnumMemberName("average")]
    Average,

    /// <summary>The least of one value.</summary>
    [JsonStringEnumMemberName("smallest")]
    Smallest,

    /// <summary>The greatest of one value.</summary>
    [JsonStringEnumMemberName("largest")]
    Largest,
}

/// <summary>
/// A query that is put together on the page: which rows, in which order, and what of them. Every formula is one over a row of the part;
/// <c>:name</c> in it is a parameter.
/// </summary>
public sealed record QueryBuild
{
    /// <summary>The code of the record type.</summary>
    public string RecordType { get; init; } = "";

    /// <summary>The code of the part whose rows are read.</summary>
    public string Part { get; init; } = PartNames.Header;

    /// <summary>A condition that holds for the rows; all rows when not given.</summary>
    public string? Where { get; init; }

    /// <summary>What is taken of them.</summary>
    public QueryTake Take { get; init; }

    /// <summary>
    /// What is given of each row; for a total, a mean, the least and the greatest the first of these is what they are of.
    /// </summary>
    public IReadOnlyList<QueryValue> Values { get; init; } = [];

    /// <summary>A formula that the rows are put in order by; as they were made when not given.</summary>
    public string? Order { get; init; }

    /// <summary>True for the greatest or newest first.</summary>
    public bool Descending { get; init; }
}

/// <summary>A value that a query gives.</summary>
/// <param name="Name">What the column is called; may be left out where the formula is a field, which it is called like then.</param>
/// <param name="Formula">A formula over the row.</param>
public sealed record QueryValue(string? Name, string Formula);
