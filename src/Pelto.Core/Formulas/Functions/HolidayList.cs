namespace Pelto.Core.Formulas;

/// <summary>
/// The holidays of a company's country, for functions that count working days. It gives many days, so it stands only where such a function
/// takes them.
/// </summary>
/// <param name="companies">The companies, whose days become part of the formula when it is bound.</param>
internal sealed class HolidayList(IReadOnlyList<CompanyDescription> companies) : Function
{
    public override string Name => "HOLIDAYS";

    public override FunctionGroup Group => FunctionGroup.Dates;

    public override string Summary =>
        "The days on which nobody works in a company's country, by the company's code or the country's; for NETWORKDAYS and WORKDAY.";

    public override string Example => "NETWORKDAYS(DATE(2026; 11; 23); DATE(2026; 11; 27); HOLIDAYS(\"\")) = 5";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("company", DataType.Text)];

    /// <summary>The same function with companies that are known.</summary>
    public static HolidayList Of(IReadOnlyList<CompanyDescription> companies) => new(companies);

    /// <summary>The days, for what the argument gives; an error for a company that is not there.</summary>
    public IEnumerable<Value> Days(Value company) =>
        company.IsEmpty ? []
        : company.IsError ? [company]
        : Find(company.Text) is { } found ? found.Holidays.Select(static day => Value.From(day))
        : [Value.Failed(Unknown)];

    internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Date;

    internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) => arguments[0];

    internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
    {
        var code = $"upper({arguments[0].Text})";
        if (companies.Count == 0)
            return new SqlPart("ARRAY[]::date[]").After(arguments, $"(({arguments[0].Text}) IS NOT NULL)");
        var whens = companies.Select(company =>
            $"WHEN {code} IN ({string.Join(", ", Names(company).Select(name => $"'{name.ToUpperInvariant().Replace("'", "''", StringComparison.Ordinal)}'"))}) THEN ARRAY[{string.Join(", ", company.Holidays.Select(day => $"'{day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}'"))}]::date[]"
        );
        var known = companies
            .SelectMany(Names)
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .Select(name => $"'{name.ToUpperInvariant().Replace("'", "''", StringComparison.Ordinal)}'");
        return new SqlPart($"(CASE {string.Join(" ", whens)} ELSE ARRAY[]::date[] END)").After(
            arguments,
            $"coalesce({code} NOT IN ({string.Join(", ", known)}), false)"
        );
    }

    private string Unknown =>
        companies.Count == 0
            ? "No company is known here."
            : $"There is no such company; there are {string.Join(", ", companies.Select(company => company.Code))}.";

    private CompanyDescription? Find(string name) =>
        companies.FirstOrDefault(company => Names(company).Contains(name, StringComparer.OrdinalIgnoreCase));

    private static IEnumerable<string> Names(CompanyDescription company) =>
        new[] { company.Code, company.Country }.Distinct(StringComparer.OrdinalIgnoreCase);
}
