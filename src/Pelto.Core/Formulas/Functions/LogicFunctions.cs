using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>
/// Conditions, and what to do where a value is missing or an error. OpenFormula 6.13 and 6.15. An empty condition counts as no.
/// </summary>
internal static class LogicFunctions
{
    public static IReadOnlyList<Function> All { get; } =
    [
        new If(),
        new Ifs(),
        new Switch(),
        new Numbered(),
        new AndOr("AND", ends: false),
        new AndOr("OR", ends: true),
        new Xor(),
        new SimpleFunction(
            "NOT",
            FunctionGroup.Logic,
            DataType.YesNo,
            "The opposite; an empty condition counts as no.",
            "NOT(1 > 2) = TRUE()",
            [YesNo("condition") with { ReadsEmpty = true }],
            static given => Value.From(!IsYes(given[0])),
            "(NOT coalesce({0}, false))"
        ),
        new Constant("TRUE", true),
        new Constant("FALSE", false),
        new IfError("IFERROR", onlyMissing: false),
        new IfError("IFNA", onlyMissing: true),
        new NotAvailable(),
        new Told(
            "ISBLANK",
            "Whether nothing is filled in.",
            "ISBLANK(\"\") = TRUE()",
            static value => value.IsEmpty,
            static (given, _) => given.Fails is { } fails ? $"(({given.Text}) IS NULL AND NOT {fails})" : $"(({given.Text}) IS NULL)"
        ),
        new Told(
            "ISERROR",
            "Whether it could not be calculated.",
            "ISERROR(1 / 0) = TRUE()",
            static value => value.IsError,
            static (given, _) => given.Fails ?? "false"
        ),
        new Told(
            "ISERR",
            "Whether it could not be calculated, other than by finding nothing.",
            "ISERR(NA()) = FALSE()",
            static value => value is { IsError: true, IsNotAvailable: false },
            static (given, _) =>
                given switch
                {
                    { Fails: null } => "false",
                    { Lacks: { } missing } => $"({given.Fails} AND NOT {missing})",
                    _ => given.Fails,
                }
        ),
        new Told(
            "ISNA",
            "Whether nothing was found.",
            "ISNA(NA()) = TRUE()",
            static value => value.IsNotAvailable,
            static (given, _) => given.Lacks ?? "false"
        ),
        new Told(
            "ISNUMBER",
            "Whether it is a number, and filled in.",
            "ISNUMBER(3) = TRUE()",
            static value => value.DataType == DataType.Number,
            static (given, type) => Filled(given, type == DataType.Number)
        ),
        new Told(
            "ISTEXT",
            "Whether it is a text, and filled in.",
            "ISTEXT(\"a\") = TRUE()",
            static value => value.DataType == DataType.Text,
            static (given, type) => Filled(given, type == DataType.Text)
        ),
        new Told(
            "ISNONTEXT",
            "Whether it is not a text: empty or of another type.",
            "ISNONTEXT(3) = TRUE()",
            static value => value.DataType != DataType.Text,
            static (given, type) => $"(NOT {Filled(given, type == DataType.Text)})"
        ),
        new Told(
            "ISLOGICAL",
            "Whether it is yes or no, and filled in.",
            "ISLOGICAL(1 = 1) = TRUE()",
            static value => value.DataType == DataType.YesNo,
            static (given, type) => Filled(given, type == DataType.YesNo)
        ),
    ];

    public static bool IsYes(Value value) => value.DataType == DataType.YesNo && value.Yes;

    /// <summary>The one type that all outcomes have; empty ones fit any.</summary>
    public static DataType OneOf(IEnumerable<Bound> outcomes) =>
        outcomes.Select(outcome => outcome.DataType).FirstOrDefault(type => type != DataType.Empty);

    /// <summary>The outcome of another type than those before, with a sentence.</summary>
    public static (Bound, string)? RefuseMixed(IEnumerable<Bound> outcomes)
    {
        var list = outcomes.ToList();
        var type = OneOf(list);
        return list.Find(outcome => outcome.DataType != type && outcome.DataType != DataType.Empty) is { } odd
            ? (odd, $"All outcomes must be of one type: {Binder.NameOf(type)} before and {Binder.NameOf(odd.DataType)} here.")
            : null;
    }

    /// <summary>The first of several outcomes whose condition holds, else the last; conditions are NULL-safe.</summary>
    public static SqlPart Choose(IReadOnlyList<(string When, SqlPart Then)> cases, SqlPart otherwise)
    {
        string? Pick(Func<SqlPart, string?> of) =>
            cases.All(one => of(one.Then) is null) && of(otherwise) is null
                ? null
                : $"(CASE {string.Concat(cases.Select(one => $"WHEN {one.When} THEN {of(one.Then) ?? "false"} "))}ELSE {of(otherwise) ?? "false"} END)";
        var unit =
            cases.All(one => one.Then.Unit is null) && otherwise.Unit is null
                ? null
                : $"CASE {string.Concat(cases.Select(one => $"WHEN {one.When} THEN {one.Then.Unit ?? "NULL"} "))}ELSE {otherwise.Unit ?? "NULL"} END";
        return new(
            $"CASE {string.Concat(cases.Select(one => $"WHEN {one.When} THEN {one.Then.Text} "))}ELSE {otherwise.Text} END",
            Pick(static part => part.Fails),
            Pick(static part => part.Lacks),
            unit
        );
    }

    private static string Filled(SqlPart given, bool isOfType) =>
        !isOfType ? "false"
        : given.Fails is { } fails ? $"(({given.Text}) IS NOT NULL AND NOT {fails})"
        : $"(({given.Text}) IS NOT NULL)";

    /// <summary>One outcome or another.</summary>
    private sealed class If : Function
    {
        public override string Name => "IF";

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => "The second where the condition holds, else the third, or nothing.";

        public override string Example => "IF(2 > 1; \"more\"; \"less\") = \"more\"";

        public override IReadOnlyList<Parameter> Parameters { get; } = [YesNo("condition"), new("then"), new("else") { IsOptional = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => OneOf(arguments.Skip(1));

        internal override (Bound, string)? Refuse(IReadOnlyList<Bound> arguments) => RefuseMixed(arguments.Skip(1));

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var (condition, then, otherwise) = (arguments[0], arguments[1], arguments[2]);
            return frame =>
                condition(frame) is var answer && answer.IsError ? answer
                : IsYes(answer) ? then(frame)
                : otherwise(frame);
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var chosen = Choose([(arguments[0].DataType, arguments[1])], arguments[2]);
            return chosen.Fails is null && arguments[0].Fails is null ? chosen : Guarded(arguments[0], chosen);
        }
    }

    // What a condition that fails decides is an error, whatever the outcomes are.
    private static SqlPart Guarded(SqlPart condition, SqlPart chosen) =>
        chosen with
        {
            Fails = SqlPart.Any(
                condition.Fails,
                chosen.Fails is not null && condition.Fails is not null ? $"(NOT {condition.Fails} AND {chosen.Fails})" : chosen.Fails
            ),
            Lacks = SqlPart.Any(
                condition.Lacks,
                chosen.Lacks is not null && condition.Fails is not null ? $"(NOT {condition.Fails} AND {chosen.Lacks})" : chosen.Lacks
            ),
        };

    /// <summary>The outcome of the first condition that holds.</summary>
    private sealed class Ifs : Function
    {
        public override string Name => "IFS";

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => "The outcome behind the first condition that holds; not available when none does.";

        public override string Example => "IFS(1 > 2; \"a\"; 2 > 1; \"b\") = \"b\"";

        public override IReadOnlyList<Parameter> Parameters { get; } =
        [YesNo("condition") with { IsRepeated = true }, new("outcome") { IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => OneOf(Outcomes(arguments));

        internal override (Bound, string)? Refuse(IReadOnlyList<Bound> arguments) => RefuseMixed(Outcomes(arguments));

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                for (var i = 0; i < arguments.Count; i += 2)
                {
                    var answer = arguments[i](frame);
                    if (answer.IsError)
                        return answer;
                    if (IsYes(answer))
                        return arguments[i + 1](frame);
                }

                return Value.NotAvailable("No condition holds.");
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var rest = new SqlPart("NULL", "true", "true");
            for (var i = arguments.Count - 2; i >= 0; i -= 2)
                rest = Guarded(arguments[i], Choose([(arguments[i].DataType, arguments[i + 1])], rest));
            return rest;
        }

        private static IEnumerable<Bound> Outcomes(IReadOnlyList<Bound> arguments) => arguments.Where((_, at) => at % 2 == 1);
    }

    /// <summary>The outcome behind the value that is met.</summary>
    private sealed class Switch : Function
    {
        public override string Name => "SWITCH";

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary =>
            "Compares the first with value after value and gives the outcome behind the one "
            + "that is equal; a single one at the end stands for all else.";

        public override string Example => "SWITCH(2; 1; \"one\"; 2; \"two\"; \"more\") = \"two\"";

        public override IReadOnlyList<Parameter> Parameters { get; } =
        [new("given") { ReadsEmpty = true }, new("value"), new("outcome"), new("more") { IsOptional = true, IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => OneOf(Outcomes(arguments));

        internal override DataType TypeAt(int at, IReadOnlyList<Bound> arguments, DataType result) =>
            Outcomes(arguments).Contains(arguments[at]) ? result : OneOf(arguments.Take(Count(arguments)).Except(Outcomes(arguments)));

        internal override (Bound, string)? Refuse(IReadOnlyList<Bound> arguments)
        {
            for (var i = 1; i + 1 < Count(arguments); i += 2)
                if (Binder.RefuseComparison(arguments[0], arguments[i]) is { } refusal)
                    return (arguments[i], refusal);
            return RefuseMixed(Outcomes(arguments));
        }

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var count = Count(call.Arguments);
            return frame =>
            {
                var given = arguments[0](frame);
                if (given.IsError)
                    return given;
                for (var i = 1; i + 1 < count; i += 2)
                {
                    var same = Compiler.Compare("=", given, arguments[i](frame));
                    if (same.IsError)
                        return same;
                    if (IsYes(same))
                        return arguments[i + 1](frame);
                }

                return count % 2 == 0 ? arguments[count - 1](frame) : Value.NotAvailable("None of the values is met.");
            };
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var count = Count(call.Arguments);
            var rest = count % 2 == 0 ? arguments[count - 1] : new("NULL", "true", "true");
            for (var i = count % 2 == 0 ? count - 3 : count - 2; i >= 1; i -= 2)
            {
                var same = SqlEmitter.Compare(
                    "=",
                    call.Arguments[0].DataType == DataType.Empty ? call.Arguments[i].DataType : call.Arguments[0].DataType,
                    arguments[0],
                    arguments[i]
                );
                rest = Guarded(same, Choose([(same.Text, arguments[i + 1])], rest));
            }

            return Guarded(new("NULL", arguments[0].Fails, arguments[0].Lacks), rest);
        }

        private static IEnumerable<Bound> Outcomes(IReadOnlyList<Bound> arguments) =>
            arguments
                .Take(Count(arguments))
                .Where((_, at) => at > 0 && (at % 2 == 0 || (at == Count(arguments) - 1 && Count(arguments) % 2 == 0)));

        // The optional one at the end is there as an empty literal when it was left out.
        private static int Count(IReadOnlyList<Bound> arguments) =>
            arguments is [_, _, _, BoundLiteral { Span.Length: 0 }] ? 3 : arguments.Count;
    }

    /// <summary>The outcome with a number.</summary>
    private sealed class Numbered : Function
    {
        public override string Name => "CHOOSE";

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => "The outcome with that number, counted from 1; an error where there is none.";

        public override string Example => "CHOOSE(2; \"a\"; \"b\") = \"b\"";

        public override IReadOnlyList<Parameter> Parameters { get; } = [Number("number"), new("outcome") { IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => OneOf(arguments.Skip(1));

        internal override (Bound, string)? Refuse(IReadOnlyList<Bound> arguments) => RefuseMixed(arguments.Skip(1));

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var number = arguments[0](frame);
                if (number.IsError || number.IsEmpty)
                    return number;
                var at = decimal.Truncate(number.Number);
                return at >= 1 && at < arguments.Count
                    ? arguments[(int)at](frame)
                    : Value.Failed($"There are {arguments.Count - 1} to choose from.");
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var number = arguments[0].Text;
            List<(string, SqlPart)> cases =
            [
                ($"({number}) IS NULL", new("NULL")),
                .. arguments.Skip(1).Select((outcome, at) => (Invariant($"trunc({number}) = {at + 1}"), outcome)),
            ];
            return Guarded(arguments[0], Choose(cases, new("NULL", "true")));
        }
    }

    /// <summary>All of the conditions, or one of them.</summary>
    internal sealed class AndOr(string name, bool ends) : Function
    {
        public bool IsAnd => !ends;

        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => ends ? "Yes when one of the conditions holds." : "Yes when all conditions hold.";

        public override string Example => ends ? "OR(1 > 2; 2 > 1) = TRUE()" : "AND(1 > 2; 2 > 1) = FALSE()";

        public override IReadOnlyList<Parameter> Parameters { get; } = [YesNo("condition") with { IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.YesNo;

        // Goes through the conditions until one decides; an error decides too.
        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                foreach (var condition in arguments)
                {
                    var value = condition(frame);
                    if (value.IsError)
                        return value;
                    if (IsYes(value) == ends)
                        return Value.From(ends);
                }

                return Value.From(!ends);
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var whole = new SqlPart($"({string.Join(ends ? " OR " : " AND ", arguments.Select(condition => condition.DataType))})");
            foreach (var condition in arguments.Reverse())
            {
                string? Later(string? of) =>
                    of is null
                        ? null
                        : $"({(condition.Fails is null ? "" : $"NOT {condition.Fails} AND ")}{(ends ? "NOT " : "")}{condition.DataType} AND {of})";
                whole = whole with
                {
                    Fails = SqlPart.Any(condition.Fails, Later(whole.Fails)),
                    Lacks = SqlPart.Any(condition.Lacks, Later(whole.Lacks)),
                };
            }

            return whole;
        }
    }

    /// <summary>An odd number of the conditions.</summary>
    private sealed class Xor : Function
    {
        public override string Name => "XOR";

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => "Yes when an odd number of the conditions hold: of two, exactly one.";

        public override string Example => "XOR(1 > 2; 2 > 1) = TRUE()";

        public override IReadOnlyList<Parameter> Parameters { get; } = [YesNo("condition") with { IsRepeated = true }];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.YesNo;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var odd = false;
                foreach (var condition in arguments)
                {
                    var value = condition(frame);
                    if (value.IsError)
                        return value;
                    odd ^= IsYes(value);
                }

                return Value.From(odd);
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) =>
            new SqlPart(arguments.Select(condition => condition.DataType).Aggregate(static (odd, next) => $"({odd} <> {next})")).After(
                arguments
            );
    }

    private sealed class Constant(string name, bool value) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => value ? "Yes." : "No.";

        public override string Example => value ? "TRUE() = (1 = 1)" : "FALSE() = (1 = 2)";

        public override IReadOnlyList<Parameter> Parameters => [];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.YesNo;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) => _ => Value.From(value);

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) => new(value ? "true" : "false");
    }

    /// <summary>Another value in the place of an error.</summary>
    private sealed class IfError(string name, bool onlyMissing) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary =>
            onlyMissing
                ? "The first, or the second where the first found nothing."
                : "The first, or the second where the first could not be calculated.";

        public override string Example => onlyMissing ? "IFNA(NA(); 0) = 0" : "IFERROR(1 / 0; 0) = 0";

        public override IReadOnlyList<Parameter> Parameters { get; } = [new("value"), new("instead")];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => OneOf(arguments);

        internal override (Bound, string)? Refuse(IReadOnlyList<Bound> arguments) => RefuseMixed(arguments);

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var (first, instead) = (arguments[0], arguments[1]);
            return frame => first(frame) is var value && (onlyMissing ? value.IsNotAvailable : value.IsError) ? instead(frame) : value;
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var (first, instead) = (arguments[0], arguments[1]);
            if ((onlyMissing ? first.Lacks : first.Fails) is not { } caught)
                return first;
            var rest = onlyMissing
                ? first with
                {
                    Lacks = null,
                    Fails = $"({first.Fails} AND NOT {first.Lacks})",
                }
                : first with
                {
                    Fails = null,
                    Lacks = null,
                };
            return Choose([(caught, instead)], rest);
        }
    }

    private sealed class NotAvailable : Function
    {
        public override string Name => "NA";

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => "The error that says that nothing was found.";

        public override string Example => "ISNA(NA()) = TRUE()";

        public override IReadOnlyList<Parameter> Parameters => [];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Empty;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            static _ => Value.NotAvailable("Not available.");

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) => new("NULL", "true", "true");
    }

    /// <summary>Tells something about any value, errors too.</summary>
    internal sealed class Told(string name, string summary, string example, Func<Value, bool> tells, Func<SqlPart, DataType, string> sql)
        : Function
    {
        public bool AsksIfBlank => name == "ISBLANK";

        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Logic;

        public override string Summary => summary;

        public override string Example => example;

        public override IReadOnlyList<Parameter> Parameters { get; } = [new("value")];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.YesNo;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var given = arguments[0];
            return frame => Value.From(tells(given(frame)));
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) =>
            new(sql(arguments[0], call.Arguments[0].DataType));
    }
}
