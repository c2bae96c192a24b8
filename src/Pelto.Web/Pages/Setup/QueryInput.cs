using Pelto.Core.Queries;

namespace Pelto.Web.Pages;

/// <summary>What stands in the inputs of the query page.</summary>
public sealed class QueryInput
{
    /// <summary>What administrators call it.</summary>
    public string Label { get; set; } = "";

    /// <summary>What it is for.</summary>
    public string About { get; set; } = "";

    /// <summary>True when it is written as SQL, false when it is put together here.</summary>
    public bool IsSql { get; set; }

    /// <summary>Whose rows are read: record type and part, such as <c>sales_order/lines</c>.</summary>
    public string Rows { get; set; } = "";

    /// <summary>Which of them.</summary>
    public string Condition { get; set; } = "";

    /// <summary>What is taken of them.</summary>
    public QueryTake Take { get; set; }

    /// <summary>What the values are called that it gives, in order.</summary>
    public List<string?> Names { get; set; } = [];

    /// <summary>The formulas of the values.</summary>
    public List<string?> Values { get; set; } = [];

    /// <summary>What the rows are put in order by.</summary>
    public string Order { get; set; } = "";

    /// <summary>True for the greatest or newest first.</summary>
    public bool Down { get; set; }

    /// <summary>Its text.</summary>
    public string Sql { get; set; } = "";

    /// <summary>
    /// The kinds of its parameters, by name; those of parameters that were taken out of the text meanwhile are remembered.
    /// </summary>
    public Dictionary<string, string?> Kinds { get; set; } = [];

    /// <summary>Where it finds nothing.</summary>
    public NoRow None { get; set; }

    /// <summary>Where it finds several rows.</summary>
    public ManyRows Many { get; set; }

    /// <summary>For trying: record type and part, such as <c>sales_order/lines</c>.</summary>
    public string Where { get; set; } = "";

    /// <summary>For trying: the number of the record.</summary>
    public string Record { get; set; } = "";

    /// <summary>For trying: what the parameters are, as formulas.</summary>
    public Dictionary<string, string> With { get; set; } = [];

    /// <summary>The inputs for a query.</summary>
    /// <param name="query">The query.</param>
    /// <param name="told">The kinds of parameters that follow from what they are compared with: nobody chose those.</param>
    public static QueryInput From(QueryDefinition query, IReadOnlyDictionary<string, string> told) =>
        new()
        {
            Label = query.Label,
            About = query.About ?? "",
            IsSql = query.Built is null,
            Rows = query.Built is { } built ? $"{built.RecordType}/{built.Part}" : "",
            Condition = query.Built?.Where ?? "",
            Take = query.Built?.Take ?? QueryTake.Rows,
            Names = [.. query.Built?.Values.Select(value => value.Name) ?? []],
            Values = [.. query.Built?.Values.Select(value => value.Formula) ?? []],
            Order = query.Built?.Order ?? "",
            Down = query.Built?.Descending ?? false,
            Sql = query.Built is null ? query.Sql : "",
            Kinds = query
                .Parameters.Where(parameter => told.GetValueOrDefault(parameter.Name) != parameter.Kind)
                .ToDictionary(parameter => parameter.Name, parameter => (string?)parameter.Kind),
            None = query.None,
            Many = query.Many,
        };

    /// <summary>The kind of a parameter: what was chosen, or what its name tells.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="isLink">Says whether some field of this name is a link.</param>
    public string KindOf(string name, Func<string, bool> isLink) =>
        Kinds.GetValueOrDefault(name) is { Length: > 0 } chosen ? chosen
        : isLink(name) ? "link"
        : "text";

    /// <summary>The definition that the inputs make.</summary>
    public QueryDefinition ToQuery(string id, Func<string, bool> isLink) =>
        new()
        {
            Id = id,
            Label = Label.Trim(),
            About = string.IsNullOrWhiteSpace(About) ? null : About.Trim(),
            Built = IsSql ? null : Build(),
            Sql = IsSql ? Sql.ReplaceLineEndings("\n").Trim() : "",
            Parameters = IsSql
                ? [.. QueryText.Read(Sql.Trim()).Names.Select(name => new QueryParameter(name, KindOf(name, isLink)))]
                : [.. Kinds.Where(kind => kind.Value is { Length: > 0 }).Select(kind => new QueryParameter(kind.Key, kind.Value!))],
            None = None,
            Many = Many,
        };

    private QueryBuild Build() =>
        new()
        {
            RecordType = Rows.Split('/')[0],
            Part = Rows.Split('/') is [_, var part] ? part : "header",
            Where = OrNull(Condition),
            Take = Take,
            Values =
                Take == QueryTake.Count
                    ? []
                    :
                    [
                        .. Values
                            .Select((formula, at) => new QueryValue(OrNull(Names.ElementAtOrDefault(at)), (formula ?? "").Trim()))
                            .Where(value => value.Formula.Length > 0)
                            .Take(Take == QueryTake.Rows ? int.MaxValue : 1),
                    ],
            Order = Take == QueryTake.Rows ? OrNull(Order) : null,
            Descending = Take == QueryTake.Rows && Down,
        };

    private static string? OrNull(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();
}
