using System.Runtime.CompilerServices;

namespace Pelto.Core.Formulas;

/// <summary>Calculates a value from arguments of which none is an error, and none empty unless the function reads empty ones.</summary>
internal delegate Value Body(ReadOnlySpan<Value> given);

/// <summary>
/// A function that works a value out from values. The first argument that is an error is the result, and an empty one makes the result
/// empty, except where the parameter reads empty values.
/// </summary>
internal sealed class SimpleFunction(
    string name,
    FunctionGroup group,
    DataType result,
    string summary,
    string example,
    IReadOnlyList<Parameter> parameters,
    Body body,
    string sql
) : Function
{
    private const int MaxArguments = 6;

    /// <summary>A condition over the arguments under which it fails; {0} stands for the first.</summary>
    public string? Fails { get; init; }

    /// <summary>True when it fails where SQL gives NULL though no argument that must be filled is.</summary>
    public bool FailsOnNull { get; init; }

    /// <summary>The body of a function of the database over a, b, c …; <c>sql</c> calls it.</summary>
    public string? HelperBody { get; init; }

    public override string Name => name;

    public override FunctionGroup Group => group;

    public override string Summary => summary;

    public override string Example => example;

    public override IReadOnlyList<Parameter> Parameters => parameters;

    internal override string? Helper =>
        HelperBody is null
            ? null
            : SqlHelpers.Function(
                name.ToLowerInvariant(),
                result,
                [.. parameters.Select(parameter => parameter.Type ?? DataType.Text)],
                HelperBody
            );

    internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result;

    internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
    {
        if (arguments.Count == 1)
        {
            var (only, readsEmpty) = (arguments[0], parameters[0].ReadsEmpty);
            return frame =>
            {
                var value = only(frame);
                return value.IsError || (value.IsEmpty && !readsEmpty) ? value : Run(new ReadOnlySpan<Value>(in value));
            };
        }

        Evaluator[] list = [.. arguments];
        var filled = list.Select((_, at) => !ParameterAt(at).ReadsEmpty).ToArray();
        return frame =>
        {
            Given given = default;
            var isEmpty = false;
            for (var i = 0; i < list.Length; i++)
            {
                given[i] = list[i](frame);
                if (given[i].IsError)
                    return given[i];
                isEmpty |= filled[i] && given[i].IsEmpty;
            }

            return isEmpty ? Value.Empty : Run(((ReadOnlySpan<Value>)given)[..list.Length]);
        };
    }

    internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
    {
        var texts = arguments.Select(argument => (object)argument.Text).ToArray();
        var raw = string.Format(CultureInfo.InvariantCulture, sql, texts);
        string? own = null;
        if (Fails is not null)
            own = $"coalesce({string.Format(CultureInfo.InvariantCulture, Fails, texts)}, false)";
        else if (FailsOnNull)
            own =
                $"({string.Concat(arguments.Where((_, at) => !ParameterAt(at).ReadsEmpty).Select(argument => $"({argument.Text}) IS NOT NULL AND "))}{raw} IS NULL)";
        return new SqlPart(result == DataType.Text ? $"nullif({raw}, '')" : raw).After(arguments, own);
    }

    private Value Run(ReadOnlySpan<Value> given)
    {
        try
        {
            return body(given);
        }
        catch (OverflowException)
        {
            return Value.Failed(Reasons.TooLarge);
        }
    }

    [InlineArray(MaxArguments)]
    private struct Given
    {
        private Value first;
    }
}

/// <summary>A function that joins any number of values, two by two.</summary>
internal sealed class Fold(
    string name,
    FunctionGroup group,
    DataType result,
    string summary,
    string example,
    Parameter parameter,
    Func<Value, Value> take,
    Func<Value, Value, Value> join,
    string sqlTake,
    string sqlJoin
) : Function
{
    public override string Name => name;

    public override FunctionGroup Group => group;

    public override string Summary => summary;

    public override string Example => example;

    public override IReadOnlyList<Parameter> Parameters { get; } = [parameter with { IsRepeated = true }];

    internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result;

    internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
        frame =>
        {
            var (joined, failed, isEmpty) = (Value.Empty, Value.Empty, false);
            for (var i = 0; i < arguments.Count; i++)
            {
                var value = arguments[i](frame);
                if (value.IsError)
                    return value;
                if (value.IsEmpty && !parameter.ReadsEmpty)
                {
                    isEmpty = true;
                    continue;
                }

                value = take(value);
                if (value.IsError && failed.IsEmpty)
                    failed = value;
                if (value.IsError || isEmpty || !failed.IsEmpty)
                    continue;
                joined = i == 0 ? value : Joined(joined, value);
                if (joined.IsError)
                    failed = joined;
            }

            return isEmpty ? Value.Empty
                : failed.IsEmpty ? joined
                : failed;
        };

    internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
    {
        var each = arguments.Select(argument => string.Format(CultureInfo.InvariantCulture, sqlTake, argument.Text)).ToList();
        var joined = each.Aggregate((whole, next) => string.Format(CultureInfo.InvariantCulture, sqlJoin, whole, next));
        var own = parameter.ReadsEmpty
            ? null
            : $"({string.Concat(arguments.Select(argument => $"({argument.Text}) IS NOT NULL AND "))}{joined} IS NULL)";
        return new SqlPart(result == DataType.Text ? $"nullif({joined}, '')" : joined).After(arguments, own);
    }

    private Value Joined(Value left, Value right)
    {
        try
        {
            return join(left, right);
        }
        catch (OverflowException)
        {
            return Value.Failed(Reasons.TooLarge);
        }
    }
}

/// <summary>Sentences that several functions give as their reason.</summary>
internal static class Reasons
{
    public const string TooLarge = "The result is too large.";
    public const string ByZero = "Division by zero.";
    public const string NoDate = "The date would lie before the year 1 or after the year 9999.";

    /// <summary>The longest text that a formula makes.</summary>
    public const int LongestText = 100_000;
}

/// <summary>Shorthand for declaring functions.</summary>
internal static class Declare
{
    public static Parameter Number(string name) => new(name, DataType.Number);

    public static Parameter Number(string name, decimal standard) =>
        new(name, DataType.Number) { IsOptional = true, Default = Value.From(standard) };

    public static Parameter Text(string name) => new(name, DataType.Text);

    public static Parameter Date(string name) => new(name, DataType.Date);

    public static Parameter YesNo(string name) => new(name, DataType.YesNo);
}

/// <summary>Functions of the database that formulas use there.</summary>
internal static class SqlHelpers
{
    /// <summary>Those that no function of the language has for itself.</summary>
    public static IReadOnlyList<string> All { get; } =
    [
        // Roots, logarithms and angles are reckoned in double precision and given with 15 digits, in memory and here.
        """CREATE OR REPLACE FUNCTION formulas.real(a numeric) RETURNS float8 LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT CASE WHEN abs(a) < 1e29 THEN round(a, 30)::float8 END $$;""",
        Function(
            "add_days",
            DataType.Date,
            [DataType.Date, DataType.Number],
            "SELECT CASE WHEN trunc(b) BETWEEN DATE '0001-01-01' - a AND DATE '9999-12-31' - a THEN a + trunc(b)::int END"
        ),
        Function(
            "power",
            DataType.Number,
            [DataType.Number, DataType.Number],
            """
            SELECT CASE WHEN abs(a) >= 1e29 OR abs(b) >= 1e29 THEN NULL
              WHEN round(a, 30) = 0 THEN CASE WHEN b > 0 THEN 0 WHEN b = 0 THEN 1 END
              WHEN a < 0 AND b <> trunc(b) THEN NULL
              WHEN b * ln(abs(round(a, 30))::float8)::numeric > 66.5 THEN NULL
              WHEN b * ln(abs(round(a, 30))::float8)::numeric < -70 THEN 0
              ELSE round(power(round(a, 30)::float8, b::float8)::numeric, 28) END
            """
        ),
        .. AmountFunctions.Helpers,
    ];

    /// <summary>A statement that makes a function over a, b, c …, or replaces it.</summary>
    public static string Function(string name, DataType result, IReadOnlyList<DataType> takes, string body) =>
        $"""
            CREATE OR REPLACE FUNCTION formulas.{name}({string.Join(
                ", ",
                takes.Select((type, at) => $"{(char)('a' + at)} {TypeOf(type)}")
            )}) RETURNS {TypeOf(result)} LANGUAGE {(
                body.StartsWith("SELECT", StringComparison.Ordinal) ? "sql" : "plpgsql"
            )} IMMUTABLE PARALLEL SAFE AS $$
            {body}
            $$;
            """;

    /// <summary>What the database calls the type of the values of a formula.</summary>
    public static string TypeOf(DataType type) =>
        type switch
        {
            DataType.Number or DataType.Money or DataType.Quantity => "numeric",
            DataType.Date => "date",
            DataType.YesNo => "boolean",
            DataType.Time => "time",
            DataType.Moment => "timestamptz",
            _ => "text",
        };
}
