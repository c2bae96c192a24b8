using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>AND(condition; …): yes when all are. OpenFormula 6.15.2.</summary>
/// <remarks>An empty condition counts as no, as in IF.</remarks>
internal sealed class And : Function
{
    public override string Name => "AND";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("condition", ValueForm.YesNo, IsRepeated: true)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.YesNo;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments) => Logic.Until(arguments, ends: false);

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments) => Logic.Emit(arguments, ends: false);
}

/// <summary>OR(condition; …): yes when one is. OpenFormula 6.15.9.</summary>
internal sealed class Or : Function
{
    public override string Name => "OR";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("condition", ValueForm.YesNo, IsRepeated: true)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.YesNo;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments) => Logic.Until(arguments, ends: true);

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments) => Logic.Emit(arguments, ends: true);
}

/// <summary>NOT(condition): the other answer; empty counts as no. OpenFormula 6.15.8.</summary>
internal sealed class Not : Function
{
    public override string Name => "NOT";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("condition", ValueForm.YesNo)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.YesNo;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments)
    {
        var condition = arguments[0];
        return frame => condition(frame) is var value && value.IsError ? value : Value.Of(!Logic.IsYes(value));
    }

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments) => arguments[0] with { Text = $"(NOT {arguments[0].Holds})" };
}

/// <summary>ISBLANK(field): yes when nothing is filled in. OpenFormula 6.13.14.</summary>
internal sealed class IsBlank : Function
{
    public override string Name => "ISBLANK";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("field", null)];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.YesNo;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments)
    {
        var field = arguments[0];
        return frame => Value.Of(field(frame).IsEmpty);
    }

    // An error is not nothing.
    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments) =>
        new(arguments[0].Fails is { } fails ? $"(({arguments[0].Text}) IS NULL AND NOT {fails})" : $"(({arguments[0].Text}) IS NULL)");
}

/// <summary>TRUE(): yes, and FALSE(): no. OpenFormula 6.15.</summary>
internal sealed class Constant(string name, bool value) : Function
{
    public override string Name => name;

    public override IReadOnlyList<Parameter> Parameters => [];

    public override ValueForm ResultType(IReadOnlyList<Bound> arguments) => ValueForm.YesNo;

    public override Evaluator Compile(IReadOnlyList<Evaluator> arguments) => _ => Value.Of(value);

    public override SqlPart Emit(IReadOnlyList<SqlPart> arguments) => new(value ? "true" : "false");
}

internal static class Logic
{
    public static bool IsYes(Value value) => value.Type == ValueForm.YesNo && value.Yes;

    public static SqlPart Emit(IReadOnlyList<SqlPart> conditions, bool ends)
    {
        var text = string.Join(ends ? " OR " : " AND ", conditions.Select(condition => condition.Holds));
        string? fails = null;
        foreach (var condition in conditions.Reverse())
        {
            var later = fails is null ? null : $"({(ends ? "NOT " : "")}{condition.Holds} AND {fails})";
            fails = SqlPart.Any(condition.Fails, later);
        }

        return new($"({text})", fails);
    }

    // Goes through the conditions until one decides; an error decides too.
    public static Evaluator Until(IReadOnlyList<Evaluator> conditions, bool ends) => frame =>
    {
        foreach (var condition in conditions)
        {
            var value = condition(frame);
            if (value.IsError) return value;
            if (IsYes(value) == ends) return Value.Of(ends);
        }

        return Value.Of(!ends);
    };
}
