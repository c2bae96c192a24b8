using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>Over numbers that the database has to have all at once. OpenFormula 6.18 and 6.16.</summary>
internal static class Spread
{
    public static IReadOnlyList<Function> All { get; } =
    [
        new OverNumbers(
            "MEDIAN",
            "The median: the number in the middle, or halfway between the two in the middle; an error when there is none.",
            "MEDIAN(1; 2; 6) = 2",
            1,
            "There are no numbers to take the median of.",
            Median,
            $"""
            SELECT CASE WHEN count(*) = 1 THEN max(v) ELSE round(round(sum(v), 20) / 2, {Compiler.Divided}) END
            FROM (SELECT v, row_number() OVER (ORDER BY v) n, count(*) OVER () c FROM unnest(a) v WHERE v IS NOT NULL) q WHERE n IN ((c + 1) / 2, (c + 2) / 2)
            """
        ),
        new OverNumbers(
            "STDEV",
            "The standard deviation of a sample; an error for fewer than two numbers.",
            "STDEV(1; 2; 3) = 1",
            2,
            "At least two numbers are required.",
            Deviation,
            $"""
            SELECT round(sqrt(formulas.real(round(round(sum((v - m) * (v - m)), 20) / nullif(count(*) - 1, 0), {Compiler.Divided})))::numeric, 28)
            FROM unnest(a) v, (SELECT round(round(sum(w), 20) / nullif(count(w), 0), {Compiler.Divided}) AS m FROM unnest(a) w) q WHERE v IS NOT NULL
            """
        ),
        new SumProduct(),
    ];

    private static Value Median(List<decimal> numbers)
    {
        numbers.Sort();
        var (below, above) = (numbers[(numbers.Count - 1) / 2], numbers[numbers.Count / 2]);
        return Value.From(numbers.Count % 2 == 1 ? below : Numbers.Round((below + above) / 2, Compiler.Divided));
    }

    private static Value Deviation(List<decimal> numbers)
    {
        var mean = Numbers.Round(numbers.Sum() / numbers.Count, Compiler.Divided);
        var squares = numbers.Sum(number => (number - mean) * (number - mean));
        return NumberFunctions.Root(Numbers.Round(squares / (numbers.Count - 1), Compiler.Divided));
    }

    // Lists come as arrays, in the order of their lines; an empty value is there as one.
    private static string ArrayOf(Bound argument, SqlPart part) =>
        argument is BoundList ? $"coalesce(({part.Text})::numeric[], ARRAY[]::numeric[])" : $"ARRAY[{part.Text}]::numeric[]";

    /// <summary>One number made of all of them.</summary>
    private sealed class OverNumbers(
        string name,
        string summary,
        string example,
        int minimum,
        string failure,
        Func<List<decimal>, Value> over,
        string body
    ) : ListFunctions.OverList(name, summary, example)
    {
        public override IReadOnlyList<Parameter> Parameters { get; } = [Number("values") with { IsList = true, IsRepeated = true }];

        internal override bool IsMean => true;

        internal override string Helper =>
            $"""
                CREATE OR REPLACE FUNCTION formulas.{Name.ToLowerInvariant()}(a numeric[]) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
                {body}
                $$;
                """;

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Number;

        protected override Value Over(List<Value> values)
        {
            var numbers = values.Where(value => !value.IsEmpty).Select(value => value.Number).ToList();
            return numbers.Count < minimum ? Value.Failed(failure) : over(numbers);
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var all = string.Join(" || ", arguments.Select((argument, at) => ArrayOf(call.Arguments[at], argument)));
            var given = $"formulas.{Name.ToLowerInvariant()}({all})";
            return new SqlPart(given).After(arguments, $"({given} IS NULL)");
        }
    }

    /// <summary>The total of the products of what stands on the same lines.</summary>
    private sealed class SumProduct() : Function
    {
        public override string Name => "SUMPRODUCT";

        public override FunctionGroup Group => FunctionGroup.Lists;

        public override string Summary =>
            "Multiplies what stands on the same line, line by line, and gives the total; a line on which one is empty counts as nothing.";

        public override string Example => "SUMPRODUCT(2; 3) = 6";

        public override IReadOnlyList<Parameter> Parameters { get; } = [Number("values") with { IsList = true, IsRepeated = true }];

        internal override string Helper =>
            """
                CREATE OR REPLACE FUNCTION formulas.times(a numeric[], b numeric[]) RETURNS numeric[] LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
                SELECT array_agg(x * y ORDER BY n) FROM unnest(a, b) WITH ORDINALITY AS t(x, y, n)
                $$;
                CREATE OR REPLACE FUNCTION formulas.total(a numeric[]) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
                SELECT coalesce(sum(v), 0) FROM unnest(a) v
                $$;
                """;

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Number;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            arguments.FirstOrDefault(argument => (argument as BoundList)?.Over.Way != (arguments[0] as BoundList)?.Over.Way) is { } other
                ? (other, "What is multiplied line by line must be values of the same lines.")
                : null;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var lists = arguments.Select((argument, at) => ListFunctions.Rows(call.Arguments[at], argument, frame).ToList()).ToList();
                foreach (var value in lists.SelectMany(list => list))
                    if (value.IsError)
                        return value;
                try
                {
                    return Value.From(
                        Enumerable
                            .Range(0, lists[0].Count)
                            .Where(row => lists.TrueForAll(list => !list[row].IsEmpty))
                            .Sum(row => lists.Aggregate(1m, (product, list) => product * list[row].Number))
                    );
                }
                catch (OverflowException)
                {
                    return Value.Failed(Reasons.TooLarge);
                }
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var arrays = arguments.Select((argument, at) => ArrayOf(call.Arguments[at], argument));
            return new SqlPart($"formulas.total({arrays.Aggregate((left, right) => $"formulas.times({left}, {right})")})").After(arguments);
        }
    }
}
