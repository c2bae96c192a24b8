namespace Pelto.Core.Formulas;

/// <summary>SUMIF and its kin: aggregates over the rows that fit. OpenFormula 6.16 and 6.18.</summary>
/// <remarks>
/// A criterion is a value, which rows must equal, or a comparison as a text: <c>"&gt;=10"</c>, or <c>"&gt;" &amp; limit</c>. Each is turned
/// into an aggregate over IF, so that there is nothing to keep in step.
/// </remarks>
internal sealed class Conditionals : Function
{
    private static readonly string[] Comparisons = ["<=", ">=", "<>", "<", ">", "="];

    private readonly string aggregate;
    private readonly bool isPlural;

    private Conditionals(string name, string aggregate, string summary)
    {
        (Name, this.aggregate, isPlural, Summary) = (name, aggregate, name.EndsWith('S'), summary);
        Parameters = (isPlural, aggregate) switch
        {
            (true, "COUNTA") => [List("list") with { IsRepeated = true }, new("criterion") { IsRepeated = true }],
            (true, _) => [List("values"), List("list") with { IsRepeated = true }, new("criterion") { IsRepeated = true }],
            (false, "COUNTA") => [List("list"), new("criterion")],
            _ => [List("list"), new("criterion"), List("values") with { IsOptional = true }],
        };
    }

    public static IReadOnlyList<Function> All { get; } =
    [
        new Conditionals("SUMIF", "SUM", "The total of the values in the lines that fit."),
        new Conditionals("SUMIFS", "SUM", "The total of the values in the lines that fit all criteria."),
        new Conditionals("COUNTIF", "COUNTA", "How many lines fit."),
        new Conditionals("COUNTIFS", "COUNTA", "How many lines fit all criteria."),
        new Conditionals("AVERAGEIF", "AVERAGE", "The mean of the values in the lines that fit."),
        new Conditionals("AVERAGEIFS", "AVERAGE", "The mean of the values in the lines that fit all criteria."),
        new Conditionals("MINIFS", "MIN", "The smallest of the values in the lines that fit all criteria."),
        new Conditionals("MAXIFS", "MAX", "The largest of the values in the lines that fit all criteria."),
    ];

    public override string Name { get; }

    public override FunctionGroup Group => FunctionGroup.Lists;

    public override string Summary { get; }

    public override string Example => "";

    public override IReadOnlyList<Parameter> Parameters { get; }

    /// <summary>The same without a function of this kind: an aggregate over IF.</summary>
    public Syntax Lower(CallSyntax call)
    {
        var given = call.Arguments;
        var isCount = aggregate == "COUNTA";
        var criteria =
            isPlural && !isCount ? given.Skip(1).ToList()
            : isPlural || isCount ? [.. given]
            : [.. given.Take(2)];
        var value =
            isCount ? new LiteralSyntax(Value.From(1m), call.Span)
            : isPlural ? given[0]
            : given.Count > 2 ? given[2]
            : given[0];
        var conditions = criteria.Chunk(2).Select(pair => Compared(pair[0], pair[1])).ToList();
        Syntax condition = conditions.Count == 1 ? conditions[0] : Call("AND", call, [.. conditions]);
        return Call(aggregate, call, [Call("IF", call, [condition, value])]);
    }

    // What is compared with a text stays a comparison of texts; anything else that reads as a number or a day is one.
    private static BinarySyntax Compared(Syntax list, Syntax criterion)
    {
        var (prefix, rest) = criterion switch
        {
            LiteralSyntax { Value.DataType: DataType.Text } literal => (literal.Value.Text, (Syntax?)null),
            BinarySyntax { Operator: "&", Left: LiteralSyntax { Value.DataType: DataType.Text } literal } joined
                when Comparisons.Contains(literal.Value.Text) => (literal.Value.Text, joined.Right),
            _ => ("", criterion),
        };
        var op = Comparisons.FirstOrDefault(candidate => prefix.StartsWith(candidate, StringComparison.Ordinal));
        rest ??= Read(op is null ? prefix : prefix[op.Length..], criterion);
        return new(op ?? "=", list, rest, criterion.Span);
    }

    private static LiteralSyntax Read(string text, Syntax at) =>
        new(
            decimal.TryParse(
                    text,
                    System.Globalization.NumberStyles.AllowLeadingSign | System.Globalization.NumberStyles.AllowDecimalPoint,
                    System.Globalization.CultureInfo.InvariantCulture,
                    out var number
                )
                    ? Value.From(number)
                : DateFunctions.Read(text) is { IsError: false } day ? day
                : Value.From(text),
            at.Span
        );

    private static CallSyntax Call(string name, CallSyntax of, IReadOnlyList<Syntax> arguments) =>
        new(new(TokenType.Name, name, of.Name.Span), arguments, of.Span);

    private static Parameter List(string name) => new(name) { IsList = true };

    internal override DataType ResultType(IReadOnlyList<Bound> arguments) => throw Lowered();

    internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) => throw Lowered();

    internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) => throw Lowered();

    private InvalidOperationException Lowered() => new($"{Name} is turned into {aggregate} when it is bound.");
}
