using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>Gives the value of a part of a formula in a frame.</summary>
internal delegate Value Evaluator(Frame frame);

/// <summary>What a function takes at one place.</summary>
/// <param name="Name">As the help writes it.</param>
/// <param name="Type">The type wanted, or null for any.</param>
/// <param name="IsList">True when a field over lines may stand here.</param>
/// <param name="IsOptional">True when it may be left out.</param>
/// <param name="IsRepeated">True for the last one when more of it may follow.</param>
internal sealed record Parameter(string Name, ValueForm? Type, bool IsList = false, bool IsOptional = false, bool IsRepeated = false);

/// <summary>A function of the formula language: signature, type and meaning in one place. One more is one more class and a line in <see cref="Functions"/>.</summary>
internal abstract class Function
{
    public abstract string Name { get; }

    public abstract IReadOnlyList<Parameter> Parameters { get; }

    /// <summary>The type of the result, once those of the arguments are known.</summary>
    public abstract ValueForm ResultType(IReadOnlyList<Bound> arguments);

    /// <summary>Turns evaluated arguments into an evaluator of the call.</summary>
    public abstract Evaluator Compile(IReadOnlyList<Evaluator> arguments);

    /// <summary>The call as SQL, from its arguments'.</summary>
    public abstract SqlPart Emit(IReadOnlyList<SqlPart> arguments);

    /// <summary>Over a list, as SQL: the function gives the subquery with an aggregate over all lines. Only for functions with a list parameter.</summary>
    public virtual SqlPart EmitOver(Func<string, string> over) => throw new InvalidOperationException($"{Name} takes no list.");

    /// <summary>Over a list: the evaluator gets the values of all lines. Only for functions with a list parameter.</summary>
    public virtual Value Over(IEnumerable<Value> values) => throw new InvalidOperationException($"{Name} takes no list.");
}

/// <summary>All functions, found by name in any case.</summary>
internal static class Functions
{
    public static IReadOnlyDictionary<string, Function> ByName { get; } =
        new Function[] { new If(), new And(), new Or(), new Not(), new Constant("TRUE", true), new Constant("FALSE", false), new IsBlank(), new Round(), new Sum() }.ToDictionary(function => function.Name, StringComparer.OrdinalIgnoreCase);
}

/// <summary>IF(condition; then; else): the second or the third, by the condition. OpenFormula 6.15.4.</summary>
/// <remarks>An empty condition counts as no. Without else the result is empty.</remarks>
internal sealed class If : Function
{
    public override string Name => "IF";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("condition", ValueForm.YesNo), new("then", null), new("else", null, IsOptional: true)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) =>
        arguments.Skip(1).Select(argument => argument.Type).FirstOrDefault(type => type != ValueForm.Empty);

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments)
    {
        var (condition, then) = (arguments[0], arguments[1]);
        var otherwise = arguments.Count > 2 ? arguments[2] : static _ => Value.Empty;
        return frame => condition(frame) switch
        {
            { IsError: true } error => error,
            { IsEmpty: true } => otherwise(frame),
            var answer => answer.Yes ? then(frame) : otherwise(frame),
        };
    }

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments)
    {
        var (condition, then) = (arguments[0], arguments[1]);
        var otherwise = arguments.Count > 2 ? arguments[2] : new("NULL");
        var chosen = then.Fails is null && otherwise.Fails is null ? null : $"CASE WHEN {condition.Holds} THEN {then.Fails ?? "false"} ELSE {otherwise.Fails ?? "false"} END";
        return new($"CASE WHEN {condition.Holds} THEN {then.Text} ELSE {otherwise.Text} END", SqlPart.Any(condition.Fails, chosen));
    }
}

/// <summary>ROUND(number; digits): to that many decimals, halves away from zero. OpenFormula 6.17.5.</summary>
/// <remarks>Digits may be negative (tens, hundreds) and default to 0. Empty in, empty out.</remarks>
internal sealed class Round : Function
{
    public override string Name => "ROUND";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("number", ValueForm.Number), new("digits", ValueForm.Number, IsOptional: true)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.Number;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments)
    {
        var number = arguments[0];
        var digits = arguments.Count > 1 ? arguments[1] : static _ => Value.Of(0m);
        return frame =>
        {
            var (given, to) = (number(frame), digits(frame));
            if (given.Type != ValueForm.Number) return given;
            if (to.IsError) return to;
            var places = to.IsEmpty ? 0 : decimal.ToInt32(Math.Clamp(decimal.Truncate(to.Number), -30, 30));
            return Value.Of(Numbers.Round(given.Number, places));
        };
    }

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments)
    {
        var number = arguments[0];
        if (arguments.Count == 1) return number with { Text = $"round({number.Text}, 0)" };
        var digits = arguments[1];
        return new($"round({number.Text}, least(greatest(trunc(coalesce({digits.Text}, 0)), -30), 30)::int)", SqlPart.Any(number.Fails, digits.Fails is null ? null : $"({number.Text} IS NOT NULL AND {digits.Fails})"));
    }
}

/// <summary>SUM(list): the total over lines. OpenFormula 6.16.61.</summary>
/// <remarks>Empty values count as nothing; the sum over no lines is 0.</remarks>
internal sealed class Sum : Function
{
    public override string Name => "SUM";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("list", ValueForm.Number, IsList: true)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.Number;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments) => frame => Over([arguments[0](frame)]);

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments) => arguments[0] with { Text = $"coalesce({arguments[0].Text}, 0)" };

    public override SqlPart EmitOver(Func<string, string> over) => new($"coalesce({over("sum")}, 0)");

    public override Value Over(IEnumerable<Value> values)
    {
        var sum = 0m;
        foreach (var value in values)
        {
            if (value.IsError) return value;
            if (value.IsEmpty) continue;
            try
            {
                sum += value.Number;
            }
            catch (OverflowException)
            {
                return Value.Failed("The sum is larger than can be reckoned with.");
            }
        }

        return Value.Of(sum);
    }
}
