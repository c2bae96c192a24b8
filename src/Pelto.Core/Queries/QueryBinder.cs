using Pelto.Core.Formulas;

namespace Pelto.Core.Queries;

/// <summary>Checks queries, and binds them to the fields that they fill.</summary>
/// <param name="site">The site.</param>
/// <param name="types">All record types, with their fields.</param>
/// <param name="problems">Takes what is wrong.</param>
public sealed class QueryBinder(SiteDefinition site, IReadOnlyList<RecordType> types, List<Problem> problems)
{
    /// <summary>The kinds that parameters have: their names, what formulas give for them, and their type in the database.</summary>
    public static IReadOnlyList<(string Kind, string Label, DataType Form, ColumnType Type)> ParameterKinds { get; } =
    [
        ("text", "Text", DataType.Text, ColumnType.Text),
        ("integer", "Whole number", DataType.Number, ColumnType.Integer),
        ("decimal", "Decimal", DataType.Number, ColumnType.Numeric),
        ("link", "Link", DataType.Link, ColumnType.Integer),
        ("date", "Date", DataType.Date, ColumnType.Date),
        ("time", "Time", DataType.Time, ColumnType.Time),
        ("date_time", "Date and time", DataType.Moment, ColumnType.Moment),
        ("yes_no", "Yes or no", DataType.YesNo, ColumnType.Boolean),
    ];

    /// <summary>What a parameter is where nobody says so: the clock's day and moment fill themselves. Null for all others.</summary>
    public static string? ArgumentFromRecord(QueryParameter parameter) =>
        (parameter.Name, parameter.Kind) switch
        {
            ("today", "date") => "TODAY()",
            ("now", "date_time") => "NOW()",
            _ => null,
        };

    /// <summary>All fields that a query reads.</summary>
    public static IReadOnlyList<Field> FieldsRead(QueryDefinition query, IReadOnlyList<RecordType> types) =>
        [.. query.Reads.SelectMany(id => FieldsAt(id, types)).Distinct()];

    /// <summary>
    /// True for what stands in the views that queries read: neither secrets nor files, nor what is seen through links or changes with the
    /// clock.
    /// </summary>
    public static bool IsReadable(Field field) =>
        field is { IsThroughLink: false, Kind.StaysWithRecord: false }
        && !(field.IsLive && (field.Formula is null or { IsVolatile: true }));

    private static IReadOnlyList<Field> FieldsAt(string id, IReadOnlyList<RecordType> types) =>
        id.EndsWith(QueryDefinition.WholeRows, StringComparison.Ordinal)
            ?
            [
                .. types
                    .SelectMany(type => type.Parts)
                    .Where(part => WholeRows.In(part) == id)
                    .SelectMany(part => part.Fields)
                    .Where(IsReadable),
            ]
            : [.. types.Select(type => type.TryFindField(id, out var found) ? found : null).OfType<Field>()];

    /// <summary>Checks the queries themselves, as far as their text goes.</summary>
    public void CheckQueries()
    {
        foreach (var query in site.Queries)
        {
            if (string.IsNullOrWhiteSpace(query.Label) || query.Label.Length > 80)
                Refuse(query.Id, "label", "Give the query a name of at most 80 characters.");
            if (query.Built is null && query.Sql.Length > 8000)
                Refuse(query.Id, "sql", "A query has at most 8 000 characters.");
            var text = QueryText.Read(query.Sql);
            foreach (var problem in text.Problems)
                Refuse(query.Id, "sql", $"At character {problem.At + 1}: {problem.Message}");
            if (text.Problems.Count == 0 && query.Columns.Count == 0)
                Refuse(query.Id, "sql", "The database cannot read it, or has not read it yet: put it in the draft again.");
            foreach (var gone in query.Reads.Where(id => FieldsAt(id, types).Count == 0))
                Refuse(query.Id, "sql", $"It reads a field that no longer exists ({gone}).");
            foreach (var name in text.Names.Where(name => query.Parameters.All(parameter => parameter.Name != name)))
                Refuse(query.Id, "parameters", $"The parameter :{name} has no kind.");
            foreach (var parameter in query.Parameters)
            {
                if (!text.Names.Contains(parameter.Name))
                    Refuse(query.Id, "parameters", $"The parameter {parameter.Name} does not stand in the query.");
                if (ParameterKinds.All(kind => kind.Kind != parameter.Kind))
                    Refuse(query.Id, "parameters", $"A parameter cannot be of the kind {parameter.Kind}.");
            }
        }

        foreach (
            var twice in site
                .Queries.GroupBy(query => query.Label.Trim(), StringComparer.OrdinalIgnoreCase)
                .Where(group => group.Count() > 1)
        )
            Refuse(twice.Last().Id, "label", $"Another query is called {twice.Key}.");
    }

    /// <summary>Binds the query that fills a field.</summary>
    public void Bind(Field field)
    {
        if (field.Definition is not { Query: { } use } definition)
            return;
        if (site.Queries.FirstOrDefault(query => query.Id == use.Id) is not { } query)
        {
            Refuse(definition.Id, "query", "Choose a query.");
            return;
        }

        if (definition.Formula is { Length: > 0 })
            Refuse(definition.Id, "query", "Either a formula fills it, or a query.");
        if (definition.CarriedAlong)
            Refuse(definition.Id, "carriedAlong", "A query fills it anew on each document.");
        if (field.Kind.StaysWithRecord || field.Kind.IsSeveral)
            Refuse(definition.Id, "query", $"A query gives no value of the kind {field.Kind.Label.ToLowerInvariant()}.");
        if (
            use.When == QueryWhen.Offer
            && (
                field.Kind.IsOneLink
                || field.Kind.IsChoice
                || field.Kind.IsLongText
                || field.Kind.IsAmount
                || field.Kind.DataType == DataType.YesNo
            )
        )
            Refuse(definition.Id, "query", $"For the kind {field.Kind.Label.ToLowerInvariant()} a query cannot offer choices.");
        if (use.When == QueryWhen.Offer && definition.Locked)
            Refuse(definition.Id, "query", "What is offered is chosen by people: it cannot be locked.");
        if (query.Columns.Count == 0)
            return;
        var count = problems.Count;
        var arguments = query
            .Parameters.Select(parameter =>
                Argument(
                    field,
                    definition.Id,
                    parameter,
                    use.With.GetValueOrDefault(parameter.Name) is { Length: > 0 } said ? said : ArgumentFromRecord(parameter)
                )
            )
            .ToList();
        var columns = field
            .Columns.Select(column => ColumnOf(definition.Id, query, (use.Column ?? query.Columns[0].Name) + column.Suffix, column.Type))
            .ToList();
        if (problems.Count > count)
            return;
        var read = FieldsRead(query, types);
        field.Asking = new(query, arguments!, columns, read, use.When);
    }

    private Formula? Argument(Field field, string id, QueryParameter parameter, string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            Refuse(id, "with", $"Say what the parameter {parameter.Name} is.");
            return null;
        }

        var found = new List<FormulaProblem>();
        var formula = Formula.Bind(text, field.Part, found);
        foreach (var problem in found)
            Refuse(id, "with", $"{parameter.Name}, at character {problem.At.From + 1}: {problem.Message}");
        var wanted = ParameterKinds.FirstOrDefault(kind => kind.Kind == parameter.Kind).Form;
        if (formula is not null && formula.DataType != wanted)
            Refuse(id, "with", $"{parameter.Name} is {Binder.NameOf(formula.DataType)}, and {Binder.NameOf(wanted)} is expected.");
        if (formula?.Reads.Contains(field) == true)
            Refuse(id, "with", $"{parameter.Name} cannot depend on the field that is filled.");
        return formula;
    }

    private int ColumnOf(string id, QueryDefinition query, string name, ColumnType type)
    {
        var at = query.Columns.ToList().FindIndex(column => column.Name == name);
        if (at < 0)
            Refuse(
                id,
                "query",
                $"{query.Label} gives no column “{name}”. It gives: {string.Join(", ", query.Columns.Select(column => column.Name))}."
            );
        else if (!Fits(query.Columns[at].Type, type))
            Refuse(id, "query", $"The column {name} holds {query.Columns[at].Type}, which the field does not take.");
        return at;
    }

    private static bool Fits(string given, ColumnType wanted) =>
        wanted switch
        {
            ColumnType.Text => given == "text",
            ColumnType.Integer or ColumnType.Numeric => given is "bigint" or "numeric",
            ColumnType.Date => given == "date",
            ColumnType.Boolean => given == "boolean",
            ColumnType.Time => given == "time without time zone",
            ColumnType.Moment => given == "timestamp with time zone",
            _ => false,
        };

    private void Refuse(string id, string property, string sentence) => problems.Add(new(id, property, sentence));
}
