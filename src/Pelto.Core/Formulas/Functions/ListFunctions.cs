using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>Over lines, and over single values beside them. OpenFormula 6.16 and 6.18. Empty values count as nothing.</summary>
/// <remarks>
/// Those with a condition (SUMIF, COUNTIFS …) are turned into these by <see cref="Conditionals"/>: a row that does not fit gives an empty
/// value.
/// </remarks>
internal static class ListFunctions
{
    public static IReadOnlyList<Function> All { get; } =
    [
        new Sum(),
        new Aggregate(
            "COUNT",
            DataType.Number,
            "How many are numbers, days or other values that are filled in.",
            "COUNT(1; 5; 7) = 3",
            null,
            static values => Value.From((decimal)values.Count(static value => !value.IsEmpty && value.DataType != DataType.Text)),
            "count",
            "+",
            textCounts: false
        ),
        new Aggregate(
            "COUNTA",
            DataType.Number,
            "How many are filled in.",
            "COUNTA(1; \"a\") = 2",
            null,
            static values => Value.From((decimal)values.Count(static value => !value.IsEmpty)),
            "count",
            "+",
            textCounts: true
        ),
        new Average(),
        new Aggregate(
            "MIN",
            null,
            "The smallest of them; nothing when there is none.",
            "MIN(3; 1; 2) = 1",
            null,
            static values => Extreme(values, "<"),
            "min",
            "least",
            textCounts: false
        ),
        new Aggregate(
            "MAX",
            null,
            "The largest of them; nothing when there is none.",
            "MAX(3; 1; 2) = 3",
            null,
            static values => Extreme(values, ">"),
            "max",
            "greatest",
            textCounts: false
        ),
        new Ordered("FIRST", isLast: false),
        new Ordered("LAST", isLast: true),
        new TextJoin(),
        new Concat(),
        .. Spread.All,
        .. Conditionals.All,
    ];

    /// <summary>The values of an argument: one, or one for each row.</summary>
    public static IEnumerable<Value> Rows(Bound argument, Evaluator evaluate, Frame frame)
    {
        if (argument is BoundCall { Function: HolidayList holidays })
            return holidays.Days(evaluate(frame));
        if (argument is not BoundList list)
            return [evaluate(frame)];
        var rows = list.Over.In(frame);
        if (list.Item is BoundField { Of: Place.Item } field)
            return rows.Select(row => row[field.Field.Slot]);
        return rows.Select(row => evaluate(frame with { Item = row }));
    }

    private static IEnumerable<Value> Rows(BoundCall call, IReadOnlyList<Evaluator> arguments, Frame frame) =>
        arguments.Count == 1
            ? Rows(call.Arguments[0], arguments[0], frame)
            : arguments.SelectMany((argument, at) => Rows(call.Arguments[at], argument, frame));

    private static Value Extreme(IEnumerable<Value> values, string beyond)
    {
        var best = Value.Empty;
        foreach (var value in values)
            if (!value.IsEmpty && (best.IsEmpty || LogicFunctions.IsYes(Compiler.Compare(beyond, value, best))))
                best = value;
        return best;
    }

    /// <summary>Any function over lists. Errors among the values come before all else.</summary>
    internal abstract class OverList(string name, string summary, string example) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Lists;

        public override string Summary => summary;

        public override string Example => example;

        protected abstract Value Over(List<Value> values);

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var values = new List<Value>();
                foreach (var value in Rows(call, arguments, frame))
                {
                    if (value.IsError)
                        return value;
                    values.Add(value);
                }

                try
                {
                    return Over(values);
                }
                catch (OverflowException)
                {
                    return Value.Failed("The sum is too large.");
                }
            };
    }

    /// <summary>The total of numbers, or of amounts of one currency or dimension.</summary>
    private sealed class Sum()
        : OverList(
            "SUM",
            "The total of numbers; of amounts of money in one currency; of quantities, in the unit of the first.",
            "SUM(1; 2; 3) = 6"
        )
    {
        public override IReadOnlyList<Parameter> Parameters { get; } = [new("values") { IsList = true, IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) =>
            arguments[0].DataType == DataType.Empty ? DataType.Number : arguments[0].DataType;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            arguments.FirstOrDefault(argument =>
                argument.DataType is not (DataType.Number or DataType.Money or DataType.Quantity or DataType.Empty)
            )
                is { } odd
                ? (odd, $"{Name} takes numbers, money or quantities, not {Binder.NameOf(odd.DataType)}.")
            : arguments.FirstOrDefault(argument => argument.DataType != ResultType(arguments)) is { } mixed
                ? (mixed, $"{Binder.NameOf(ResultType(arguments)).Capital()} and {Binder.NameOf(mixed.DataType)} do not add.")
            : null;

        protected override Value Over(List<Value> values)
        {
            if (values.Exists(value => value.DataType is DataType.Money or DataType.Quantity))
                return values.Where(value => !value.IsEmpty).Aggregate(AmountFunctions.Add);
            var sum = 0m;
            foreach (var value in values)
                if (!value.IsEmpty)
                    sum += value.Number;
            return Value.From(sum);
        }

        // Amounts over no rows at all have no currency, so there is no total either.
        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var over = base.Compile(call, arguments);
            return call.DataType is DataType.Number
                ? over
                : frame => over(frame) is { DataType: DataType.Number } ? Value.Empty : over(frame);
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) =>
            call.DataType is DataType.Number
                ? new SqlPart($"({string.Join(" + ", arguments.Select(argument => $"coalesce({argument.Text}, 0)"))})").After(arguments)
                : arguments.Aggregate((left, right) => AmountFunctions.EmitAdd(left, right, call.DataType == DataType.Money));
    }

    /// <summary>An aggregate that the database has too, and that joins what it gives for several lists.</summary>
    private sealed class Aggregate(
        string name,
        DataType? result,
        string summary,
        string example,
        DataType? takes,
        Func<List<Value>, Value> over,
        string aggregate,
        string join,
        bool textCounts
    ) : OverList(name, summary, example)
    {
        public string OfDatabase => aggregate;

        public override IReadOnlyList<Parameter> Parameters { get; } = [new("values", takes) { IsList = true, IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result ?? LogicFunctions.OneOf(arguments);

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            result is not null ? null
            : arguments.FirstOrDefault(argument =>
                argument.DataType is not (DataType.Number or DataType.Date or DataType.Time or DataType.Moment or DataType.Empty)
            )
                is { } odd
                ? (odd, $"{Name} takes numbers, days or times, not {Binder.NameOf(odd.DataType)}.")
            : LogicFunctions.RefuseMixed(arguments);

        protected override Value Over(List<Value> values) => over(values);

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var parts = arguments
                .Select(
                    (argument, at) =>
                        result is null ? argument.Text
                        : !textCounts && call.Arguments[at].DataType == DataType.Text ? "0"
                        : call.Arguments[at] is BoundList ? argument.Text
                        : $"CASE WHEN ({argument.Text}) IS NULL THEN 0 ELSE 1 END"
                )
                .ToList();
            return new SqlPart(
                result == DataType.Number ? $"({string.Join(" + ", parts)})::numeric"
                : parts.Count == 1 ? $"({parts[0]})"
                : $"{join}({string.Join(", ", parts)})"
            ).After(arguments);
        }
    }

    /// <summary>The mean.</summary>
    private sealed class Average() : OverList("AVERAGE", "The mean of the numbers; an error when there is none.", "AVERAGE(1; 2; 6) = 3")
    {
        internal override bool IsMean => true;

        public override IReadOnlyList<Parameter> Parameters { get; } = [Number("values") with { IsList = true, IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Number;

        protected override Value Over(List<Value> values)
        {
            var (sum, count) = (0m, 0);
            foreach (var value in values)
            {
                if (value.IsEmpty)
                    continue;
                sum += value.Number;
                count++;
            }

            return count == 0
                ? Value.Failed("There are no numbers to take the mean of.")
                : Value.From(Numbers.Round(sum / count, Compiler.Divided));
        }

        // A list comes as a pair: its total, and in Unit how many there are.
        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var sum = string.Join(" + ", arguments.Select(argument => $"coalesce({argument.Text}, 0)"));
            var count = string.Join(
                " + ",
                arguments.Select(argument => argument.Unit ?? $"CASE WHEN ({argument.Text}) IS NULL THEN 0 ELSE 1 END")
            );
            return new SqlPart($"round(round({sum}, 20) / nullif({count}, 0), {Compiler.Divided})").After(
                [.. arguments.Select(argument => argument with { Unit = null })],
                $"(({count}) = 0)"
            );
        }
    }

    /// <summary>The value of the row that comes first or last.</summary>
    private sealed class Ordered(string name, bool isLast) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Lists;

        public override string Summary =>
            $"The value of the {(isLast ? "last" : "first")} line that has one: "
            + "in the order of the lines, or by another value of each line.";

        public override string Example => isLast ? "LAST(7) = 7" : "FIRST(7) = 7";

        public override IReadOnlyList<Parameter> Parameters { get; } =
        [new("values") { IsList = true }, new("by") { IsList = true, IsOptional = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => arguments[0].DataType;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            arguments[1] switch
            {
                BoundLiteral { Span.Length: 0 } => null,
                BoundList by when arguments[0] is BoundList of && by.Over.Way == of.Over.Way => by.DataType
                    is DataType.Number
                        or DataType.Date
                        or DataType.Moment
                        or DataType.Time
                        or DataType.Text
                    ? null
                    : (by, $"Lines are put in order by numbers, texts, days or times, not by {Binder.NameOf(by.DataType)}."),
                var other => (other, "What puts the lines in order must be a value of the same lines."),
            };

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var (best, by) = (Value.Empty, Value.Empty);
                var keys = call.Arguments[1] is BoundList list ? Rows(list, arguments[1], frame) : null;
                var pairs = keys is null
                    ? Rows(call.Arguments[0], arguments[0], frame).Select(static value => (value, Value.Empty))
                    : Rows(call.Arguments[0], arguments[0], frame).Zip(keys);
                foreach (var (value, key) in pairs)
                {
                    if (value.IsError)
                        return value;
                    if (key.IsError)
                        return key;
                    if (value.IsEmpty || (keys is not null && key.IsEmpty))
                        continue;
                    if (best.IsEmpty || (keys is null ? isLast : LogicFunctions.IsYes(Compiler.Compare(isLast ? ">=" : "<", key, by))))
                        (best, by) = (value, key);
                }

                return best;
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) => arguments[0];

        public bool IsLast => isLast;
    }

    /// <summary>For FIRST and LAST: whether it is the last; null for any other function.</summary>
    public static bool? TakesLast(Function function) => (function as Ordered)?.IsLast;

    /// <summary>The aggregate of the database that gives what this function takes from a list.</summary>
    public static string? AggregateOf(Function function) =>
        function switch
        {
            Aggregate aggregate => aggregate.OfDatabase,
            Average or Sum => "sum",
            _ => null,
        };

    /// <summary>True when the function needs to know how many there are beside their total.</summary>
    public static bool NeedsCount(Function function) => function is Average;

    /// <summary>True when the function joins texts.</summary>
    public static bool JoinsTexts(Function function) => function is TextJoin;

    /// <summary>Texts with a mark between.</summary>
    private sealed class TextJoin() : Function
    {
        public override string Name => "TEXTJOIN";

        public override FunctionGroup Group => FunctionGroup.Texts;

        public override string Summary => "The texts with a mark between; empty ones are left out where the second says so.";

        public override string Example => "TEXTJOIN(\", \"; TRUE(); \"a\"; \"b\") = \"a, b\"";

        public override IReadOnlyList<Parameter> Parameters { get; } =
        [Text("mark"), YesNo("leave_out_empty"), Text("texts") with { IsList = true, IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Text;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var (mark, leaves) = (arguments[0](frame), arguments[1](frame));
                if (mark.IsError)
                    return mark;
                if (leaves.IsError)
                    return leaves;
                var texts = new List<string>();
                for (var i = 2; i < arguments.Count; i++)
                {
                    foreach (var value in Rows(call.Arguments[i], arguments[i], frame))
                    {
                        if (value.IsError)
                            return value;
                        if (!value.IsEmpty || !LogicFunctions.IsYes(leaves))
                            texts.Add(TextFunctions.Read(value));
                    }
                }

                return TextFunctions.Join(string.Join(TextFunctions.Read(mark), texts), "");
            };

        // A list comes as an array, in the order of its lines.
        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var arrays = arguments
                .Skip(2)
                .Select(
                    (argument, at) =>
                        call.Arguments[at + 2] is BoundList
                            ? $"coalesce({argument.Text}, ARRAY[]::text[])"
                            : $"ARRAY[{argument.Text}]::text[]"
                );
            return new SqlPart(
                $"nullif(formulas.textjoin(coalesce({arguments[0].Text}, ''), {arguments[1].DataType}, {string.Join(" || ", arrays)}), '')"
            ).After(arguments);
        }

        internal override string Helper =>
            """
                CREATE OR REPLACE FUNCTION formulas.textjoin(a text, b boolean, c text[]) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
                SELECT CASE WHEN b THEN array_to_string(array_remove(c, ''), a) ELSE array_to_string(c, a, '') END
                $$;
                """;
    }

    /// <summary>Texts one after the other, of lists too.</summary>
    private sealed class Concat() : Function
    {
        public override string Name => "CONCAT";

        public override FunctionGroup Group => FunctionGroup.Texts;

        public override string Summary => "The texts one after the other, those of lists in the order of their lines.";

        public override string Example => "CONCAT(\"a\"; \"b\") = \"ab\"";

        public override IReadOnlyList<Parameter> Parameters { get; } =
        [Text("texts") with { IsList = true, IsRepeated = true, ReadsEmpty = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Text;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var texts = new List<string>();
                foreach (var value in Rows(call, arguments, frame))
                {
                    if (value.IsError)
                        return value;
                    texts.Add(TextFunctions.Read(value));
                }

                return TextFunctions.Join(string.Concat(texts), "");
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var texts = arguments.Select(
                (argument, at) =>
                    call.Arguments[at] is BoundList
                        ? $"coalesce(array_to_string({argument.Text}, ''), '')"
                        : $"coalesce({argument.Text}, '')"
            );
            return new SqlPart($"nullif({string.Join(" || ", texts)}, '')").After(arguments);
        }
    }
}
