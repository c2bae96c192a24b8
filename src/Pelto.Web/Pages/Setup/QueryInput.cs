using Pelto.Core.Queries;

namespace Pelto.Web.Pages;

/// <summary>What stands in the inputs of the query page.</summary>
public sealed class QueryInput
{
    /// <summary>What administrators call it.</summary>
    public string Label { get; set => field = value ?? ""; } = "";

    /// <summary>What it is for.</summary>
    public string About { get; set => field = value ?? ""; } = "";

    /// <summary>Its text.</summary>
    public string Sql { get; set => field = value ?? ""; } = "";

    /// <summary>The kinds of its parameters, by name; those of parameters that were taken out of the text meanwhile are remembered.</summary>
    public Dictionary<string, string> Kinds { get; set; } = [];

    /// <summary>Where it finds nothing.</summary>
    public NoRow None { get; set; }

    /// <summary>Where it finds several rows.</summary>
    public ManyRows Many { get; set; }

    /// <summary>For trying: record type and part, such as <c>sales_order/lines</c>.</summary>
    public string Where { get; set => field = value ?? ""; } = "";

    /// <summary>For trying: the number of the record.</summary>
    public string Record { get; set => field = value ?? ""; } = "";

    /// <summary>For trying: what the parameters are, as formulas.</summary>
    public Dictionary<string, string> With { get; set; } = [];

    /// <summary>The inputs for a query.</summary>
    public static QueryInput Of(QueryDefinition query) => new()
    {
        Label = query.Label,
        About = query.About ?? "",
        Sql = query.Sql,
        Kinds = query.Parameters.ToDictionary(parameter => parameter.Name, parameter => parameter.Kind),
        None = query.None,
        Many = query.Many,
    };

    /// <summary>The kind of a parameter: what was chosen, or what its name tells.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="isLink">Says whether some field of this name is a link.</param>
    public string KindOf(string name, Func<string, bool> isLink) => Kinds.GetValueOrDefault(name) is { Length: > 0 } chosen ? chosen : isLink(name) ? "link" : "text";

    /// <summary>The definition that the inputs make.</summary>
    public QueryDefinition ToQuery(string id, Func<string, bool> isLink) => new()
    {
        Id = id,
        Label = Label.Trim(),
        About = string.IsNullOrWhiteSpace(About) ? null : About.Trim(),
        Sql = Sql.ReplaceLineEndings("\n").Trim(),
        Parameters = [.. QueryText.Read(Sql.Trim()).Names.Select(name => new QueryParameter(name, KindOf(name, isLink)))],
        None = None,
        Many = Many,
    };
}
