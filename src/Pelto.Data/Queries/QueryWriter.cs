using System.Text.RegularExpressions;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Data.Queries;

/// <summary>
/// Writes the SQL of queries that were put together on the page, over the views that queries read. From there on they are like those that
/// somebody wrote.
/// </summary>
internal sealed partial class QueryWriter
{
    private const int MaxValues = 12;

    private readonly QueryBuild built;
    private readonly Part part;
    private readonly List<QueryProblem> problems;
    private readonly Dictionary<string, DataType> forms = [];
    private readonly ViewRow row;
    private readonly ViewRow header;
    private readonly ViewNames names;

    private QueryWriter(QueryBuild built, Part part, List<QueryProblem> problems)
    {
        (this.built, this.part, this.problems) = (built, part, problems);
        row = new(part, "r");
        header = part.IsLines ? new(part.RecordType.Header, "h") : row;
        names = new(header, part.IsLines ? row : null) { Clock = Core.Formulas.Clock.From(TimeProvider.System) };
    }

    /// <summary>
    /// A query with its SQL and its parameters, from what it was put together from. Where that makes no sense the SQL is empty and
    /// <paramref name="problems"/> say why.
    /// </summary>
    /// <param name="query">The query; its parameters may have kinds, the others get those that what they meet tells.</param>
    /// <param name="catalogue">The live catalogue, whose views it reads.</param>
    /// <param name="problems">
    /// Takes what is wrong, with the property <c>recordType</c>, <c>where</c>, <c>values</c> or <c>order</c>.
    /// </param>
    public static QueryDefinition Write(QueryDefinition query, Catalogue catalogue, List<QueryProblem> problems)
    {
        var built = query.Built!;
        if (catalogue.Find(built.RecordType)?.FindPart(built.Part) is not { } part)
        {
            problems.Add(new(0, "Choose whose records it reads.", "recordType"));
            return query with { Sql = "", Parameters = [] };
        }

        var parameters = ParametersOf(query, part);
        var writer = new QueryWriter(built, part, problems);
        foreach (var parameter in parameters)
            writer.forms[parameter.Name] = QueryBinder.ParameterKinds.FirstOrDefault(kind => kind.Kind == parameter.Kind)
                is { Kind: not null } known
                ? known.Form
                : DataType.Text;
        var before = problems.Count;
        var sql = writer.Write();
        if (problems.Count > before)
            return query with { Sql = "", Parameters = parameters };
        var clock = QueryText
            .Read(sql)
            .Names.Where(name => name is "today" or "now" && parameters.All(parameter => parameter.Name != name))
            .Select(name => new QueryParameter(name, name == "today" ? "date" : "date_time"));
        return query with { Sql = sql, Parameters = [.. parameters, .. clock] };
    }

    private static List<QueryParameter> ParametersOf(QueryDefinition query, Part part)
    {
        var built = query.Built!;
        var texts = built
            .Values.Select(value => value.Formula)
            .Prepend(built.Where)
            .Append(built.Take == QueryTake.Rows ? built.Order : null)
            .OfType<string>();
        return
        [
            .. texts
                .SelectMany(text => Formula.ParametersOf(text, part))
                .GroupBy(one => one.Name, StringComparer.Ordinal)
                .Select(group =>
                {
                    var form = group.Select(one => one.Type).FirstOrDefault(type => type != DataType.Empty, DataType.Text);
                    return query.Parameters.FirstOrDefault(known => known.Name == group.Key)
                        ?? new(
                            group.Key,
                            form == DataType.Number
                                ? "decimal"
                                : QueryBinder.ParameterKinds.FirstOrDefault(kind => kind.Form == form).Kind ?? "text"
                        );
                }),
        ];
    }

    private string Write()
    {
        var conditions = new List<string>();
        if (Bind(built.Where, "where") is { } where)
        {
            if (where.DataType == DataType.YesNo)
                conditions.AddRange(where.ToConditions(names));
            else
                problems.Add(new(0, "A condition gives yes or no, such as customer = :customer.", "where"));
        }

        var values = built.Take == QueryTake.Count ? [] : Values();
        var order = built.Take == QueryTake.Rows ? Bind(built.Order, "order") : null;
        if (order is { DataType: DataType.Money or DataType.Quantity or DataType.Links or DataType.Several or DataType.Link })
            problems.Add(new(0, "Rows are put in order by a number, a text, a day or a time.", "order"));
        if (problems.Count > 0)
            return "";
        var from =
            $"{row.From}{(part.IsLines ? $" JOIN {header.From} ON {header.Id} = {row.Parent}" : "")}{(conditions.Count == 0 ? "" : $"\nWHERE {string.Join("\n  AND ", conditions.Select(condition => condition[0] == '(' ? condition : $"({condition})"))}")}";
        return built.Take switch
        {
            QueryTake.Count => $"SELECT count(*) AS count\nFROM {from}",
            QueryTake.Rows =>
                $"SELECT {string.Join(",\n  ", values.SelectMany(value => Columns(value.Name, value.Formula.DataType, value.Formula.ToSql(names).Unfailing)))}\nFROM {from}\nORDER BY {Order(order)}",
            _ => Aggregate(values[0].Name, values[0].Formula, from),
        };
    }

    private List<(string Name, Formula Formula)> Values()
    {
        var values = new List<(string Name, Formula Formula)>();
        if (built.Values.Count == 0)
            problems.Add(
                new(
                    0,
                    built.Take == QueryTake.Rows
                        ? "Say what it gives of each row: a field, or a formula over the row."
                        : "Say of what: a field, or a formula over the row.",
                    "values"
                )
            );
        if (built.Values.Count > MaxValues)
            problems.Add(new(0, $"A query gives at most {MaxValues} values.", "values"));
        foreach (var value in built.Values)
        {
            if (Bind(value.Formula, "values") is not { } formula)
                continue;
            var name = value.Name is { Length: > 0 } said
                ? said
                : formula.Source?.Code ?? (values.Count == 0 ? "value" : Invariant($"value_{values.Count + 1}"));
            if (!NamePattern().IsMatch(name))
                problems.Add(
                    new(0, $"“{name}” cannot be the name of a value: small letters, digits and underscores, a letter first.", "values")
                );
            if (formula.DataType is DataType.Links or DataType.Several or DataType.File or DataType.Secret or DataType.Empty)
                problems.Add(new(0, $"A query does not give {formula.Text}: one value of a row is expected.", "values"));
            else if (built.Take is not (QueryTake.Rows or QueryTake.Count) && !IsFit(formula.DataType))
                problems.Add(
                    new(
                        0,
                        built.Take is QueryTake.Sum or QueryTake.Average
                            ? "Only numbers, money and quantities have a total or a mean."
                            : "The smallest and the largest go over numbers, money, quantities, days and times.",
                        "values"
                    )
                );
            if (values.Any(other => other.Name == name))
                problems.Add(new(0, $"Two values are called {name}: give one of them another name.", "values"));
            values.Add((name, formula));
        }

        return values;
    }

    private bool IsFit(DataType type) =>
        type is DataType.Number or DataType.Money or DataType.Quantity
        || (built.Take is QueryTake.Smallest or QueryTake.Largest && type is DataType.Date or DataType.Time or DataType.Moment);

    private Formula? Bind(string? text, string property)
    {
        if (string.IsNullOrWhiteSpace(text))
            return null;
        var found = new List<FormulaProblem>();
        var formula = Formula.Bind(text, part, found, parameters: forms);
        problems.AddRange(found.Select(problem => new QueryProblem(problem.At.From, problem.Message, property)));
        foreach (
            var field in (formula?.Reads ?? new HashSet<Field>())
                .Concat(formula?.RelatedFields ?? new HashSet<Field>())
                .Where(field => !ReadableViews.ColumnsOf(field).Any())
        )
            problems.Add(
                new(
                    0,
                    $"Queries cannot read {field.Label}: {(field.IsLive ? "it changes by itself as time goes by" : "it is a file, a secret or seen through a link")}.",
                    property
                )
            );
        return formula;
    }

    private string Order(Formula? order)
    {
        var down = built.Descending ? " DESC" : "";
        var ids = string.Join(", ", (part.IsLines ? (string[])[header.Id, row.Order[0], row.Id] : [row.Id]).Select(id => id + down));
        return order is null ? ids : $"{order.ToSql(names).Unfailing.Text}{down} NULLS LAST, {ids}";
    }

    private static IEnumerable<string> Columns(string name, DataType type, (string Text, string? Unit) value)
    {
        yield return $"{value.Text} AS {Sql.Name(name)}";
        if (value.Unit is { } unit)
            yield return $"{unit} AS {Sql.Name(name + Suffix(type))}";
    }

    private static string Suffix(DataType type) => type == DataType.Money ? "_currency" : "_unit";

    // A value that cannot be calculated makes the whole unknown, and so do amounts that do not add.
    private string Aggregate(string name, Formula formula, string from)
    {
        var each = formula.ToSql(names);
        var known = each.Fails is null ? "true" : "NOT coalesce(bool_or(f), false)";
        var one = each.Unit is null ? "true" : "count(DISTINCT u) <= 1";
        var value = Taken("v");
        var (factor, alike) = ("v * formulas.unit_factor(u)", "count(DISTINCT formulas.unit_dimension(u)) = 1");
        var mixed =
            formula.DataType == DataType.Quantity
                ? $" WHEN {known} AND {alike} THEN round({Taken(factor)} / formulas.unit_factor(min(u)), 16)"
                : "";
        var inner =
            $"(SELECT {each.Text} AS v{(each.Unit is null ? "" : $", CASE WHEN {each.Text} IS NOT NULL THEN {each.Unit} END AS u")}{(each.Fails is null ? "" : $", {each.Fails} AS f")}\nFROM {from}) AS q";
        var unit = each.Unit is null
            ? ""
            : $",\n  CASE WHEN {known} AND ({one}{(formula.DataType == DataType.Quantity ? $" OR {alike}" : "")}) THEN min(u) END AS {Sql.Name(name + Suffix(formula.DataType))}";
        return $"SELECT CASE WHEN {known} AND {one} THEN {value}{mixed} END AS {Sql.Name(name)}{unit}\nFROM {inner}";
    }

    private string Taken(string of) =>
        built.Take switch
        {
            QueryTake.Sum => $"sum({of})",
            QueryTake.Average => $"round(avg({of}), 16)",
            QueryTake.Smallest => $"min({of})",
            _ => $"max({of})",
        };

    [GeneratedRegex("^[a-z][a-z0-9_]{0,39}$")]
    private static partial Regex NamePattern();
}
