using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>What a query gives where it finds no row.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<NoRow>))]
public enum NoRow
{
    /// <summary>The field becomes empty.</summary>
    [JsonStringEnumMemberName("empty")]
    Empty,

    /// <summary>The field stays as it is.</summary>
    [JsonStringEnumMemberName("keep")]
    Keep,

    /// <summary>The field stays as it is, and the form says that nothing was found.</summary>
    [JsonStringEnumMemberName("say")]
    Say,
}

/// <summary>What a query gives where it finds several rows.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ManyRows>))]
public enum ManyRows
{
    /// <summary>The first of them.</summary>
    [JsonStringEnumMemberName("first")]
    First,

    /// <summary>The field becomes empty.</summary>
    [JsonStringEnumMemberName("empty")]
    Empty,

    /// <summary>The field stays as it is, and the form says that several were found.</summary>
    [JsonStringEnumMemberName("say")]
    Say,
}

/// <summary>When a query is asked for a field.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<QueryWhen>))]
public enum QueryWhen
{
    /// <summary>When something changes that its parameters are calculated from; in a new record or line, at once.</summary>
    [JsonStringEnumMemberName("change")]
    Change,

    /// <summary>In a new record or line.</summary>
    [JsonStringEnumMemberName("new")]
    New,

    /// <summary>Each time that the record is saved.</summary>
    [JsonStringEnumMemberName("save")]
    Save,

    /// <summary>When somebody asks for it, by a key.</summary>
    [JsonStringEnumMemberName("demand")]
    Demand,

    /// <summary>
    /// While somebody enters the field: all that it finds is offered, and the person chooses one or types something else.
    /// </summary>
    [JsonStringEnumMemberName("offer")]
    Offer,
}

/// <summary>A saved question to the database.</summary>
public sealed record QueryDefinition : ISiteElement
{
    /// <summary>Lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What administrators call it.</summary>
    public string Label { get; init; } = "";

    /// <summary>What it is for.</summary>
    public string? About { get; init; }

    /// <summary>
    /// One SELECT over the views of schema <c>readable</c>; parameters are written <c>:name</c>, as host variables in the SQL standard.
    /// </summary>
    public string Sql { get; init; } = "";

    /// <summary>
    /// How it was put together on the page; null for one that is written as SQL. Its SQL is written anew from this whenever it is put in a
    /// draft or published.
    /// </summary>
    public QueryBuild? Built { get; init; }

    /// <summary>Its parameters.</summary>
    public IReadOnlyList<QueryParameter> Parameters { get; init; } = [];

    /// <summary>What it gives where it finds nothing.</summary>
    public NoRow None { get; init; }

    /// <summary>What it gives where it finds more than one row.</summary>
    public ManyRows Many { get; init; }

    /// <summary>What it gives, column by column; found out by the database when the query is put in the draft.</summary>
    public IReadOnlyList<QueryColumn> Columns { get; init; } = [];

    /// <summary>
    /// Lasting ids of all fields that it reads, found out the same way: who may not see one of them sees nothing that comes of it. Where it
    /// reads rows whole, their part with <see cref="WholeRows"/> behind it.
    /// </summary>
    public IReadOnlyList<string> Reads { get; init; } = [];

    /// <summary>Behind a part in <see cref="Reads"/>: all fields that it has, those included that are added later.</summary>
    public const string WholeRows = ".*";

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "q-" + Guid.NewGuid().ToString("N")[..12];

    string ISiteElement.ElementId => Id;
}

/// <summary>A parameter of a query.</summary>
/// <param name="Name">As it stands in the SQL, without the colon.</param>
/// <param name="Kind">One of <see cref="Queries.QueryBinder.ParameterKinds"/>.</param>
public sealed record QueryParameter(string Name, string Kind);

/// <summary>A column that a query gives.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Type">Its type in the database, such as <c>numeric</c>.</param>
public sealed record QueryColumn(string Name, string Type);

/// <summary>How a field is filled by a query.</summary>
public sealed record QueryUse
{
    /// <summary>The lasting id of the query.</summary>
    public string Id { get; init; } = "";

    /// <summary>The column whose value it takes; the first when not given.</summary>
    public string? Column { get; init; }

    /// <summary>What its parameters are, each as a formula over the record.</summary>
    public IReadOnlyDictionary<string, string> With { get; init; } = new Dictionary<string, string>();

    /// <summary>When it is asked.</summary>
    public QueryWhen When { get; init; }
}
