using CsCheck;
using Pelto.Core.Formulas;

namespace Pelto.Core.Tests.Formulas;

public sealed class FormulaTests
{
    [Theory(DisplayName = "HOLIDAYS stands only where working days are counted, and knows the host's companies")]
    [InlineData("HOLIDAYS(\"\")", "HOLIDAYS gives many days: NETWORKDAYS and WORKDAY take them as their last.")]
    [InlineData("COUNT(HOLIDAYS(\"fi\"))", "HOLIDAYS gives many days: NETWORKDAYS and WORKDAY take them as their last.")]
    [InlineData(
        "NETWORKDAYS(TODAY(); TODAY(); HOLIDAYS(\"fi\") + 1)",
        "HOLIDAYS gives many days: NETWORKDAYS and WORKDAY take them as their last."
    )]
    public void Holidays_stand_with_working_days(string text, string message)
    {
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(text, null, problems));
        Assert.Equal(message, problems[0].Message);
        Assert.Equal(
            "No company is known here.",
            Formula.Bind("NETWORKDAYS(DATE(2026; 1; 1); DATE(2026; 1; 9); HOLIDAYS(\"xx\"))", null, [])!.Evaluate(new([], null, [])).Reason
        );
    }

    [Theory(DisplayName = "Operators bind as OpenFormula 5.5 has it")]
    [InlineData("2 + 3 * 4", "14"), InlineData("(2 + 3) * 4", "20"), InlineData("10 - 4 - 3", "3"), InlineData("24 / 4 / 2", "3")]
    [
        InlineData("-2 + 5", "3"),
        InlineData("2 * -3", "-6"),
        InlineData("1 + 2 = 3", "yes"),
        InlineData("2 < 1 + 2", "yes"),
        InlineData("\"a\" <> \"b\"", "yes")
    ]
    public void Operators_bind(string formula, string expected) => Assert.Equal(expected, Run(formula).ToString());

    [Theory(DisplayName = "Halves round away from zero, negative digits round to tens (OpenFormula 6.17.5)")]
    [
        InlineData("ROUND(2.5; 0)", "3"),
        InlineData("ROUND(-2.5; 0)", "-3"),
        InlineData("ROUND(1250; -2)", "1300"),
        InlineData("ROUND(2.345, 2)", "2.35"),
        InlineData("ROUND(0.5)", "1")
    ]
    [InlineData("ROUND(-1.475; 2)", "-1.48"), InlineData("ROUND(1; 40)", "1"), InlineData("ROUND(1; -40)", "0")]
    public void Round_rounds(string formula, string expected) => Assert.Equal(expected, Run(formula).ToString());

    [Theory(DisplayName = "IF takes the branch that its condition says, and an empty condition as no (OpenFormula 6.15.4)")]
    [InlineData("IF(1 < 2; \"yes\"; \"no\")", "yes"), InlineData("IF(1 > 2; 10)", "(empty)"), InlineData("IF(note = \"\"; 1; 2)", "1")]
    public void If_branches(string formula, string expected) => Assert.Equal(expected, Run(formula).ToString());

    [Fact(DisplayName = "Empty in, empty out: a line without a price has no amount")]
    public void Empty_stays_empty()
    {
        Assert.True(Run("discount * 3", line: true).IsEmpty);
        Assert.Equal(Value.From(10m), Run("SUM(lines.discount)"));
    }

    [Fact(DisplayName = "Division by zero is a value with a reason, and passes through what reads it")]
    public void Errors_are_values()
    {
        var result = Run("ROUND(1 / 0; 2) + 5");
        Assert.True(result.IsError);
        Assert.Equal("Division by zero.", result.Reason);
        Assert.True(Run("79228162514264337593543950335 * 10").IsError);
    }

    [Theory(DisplayName = "What is wrong is said at its place, with the nearest name")]
    [InlineData("quantitty * 2", 0, 9, "Did you mean quantity?")]
    [InlineData("SUM(lines.amuont)", 10, 6, "Did you mean amount?")]
    [InlineData("ROUMD(1)", 0, 5, "Did you mean ROUND?")]
    [InlineData("1 + \"a\"", 4, 3, "A number is expected here, not a text.")]
    [InlineData("lines.amount + 1", 0, 12, "is a list over all lines")]
    [InlineData("ROUND(1; 2; 3)", 0, 14, "ROUND is written ROUND(number; [digits]).")]
    [InlineData("(1 + 2", 0, 1, "This bracket is not closed.")]
    [InlineData("1 +", 3, 0, "Something is missing at the end.")]
    [InlineData("1 ~ 2", 2, 1, "has no meaning")]
    [InlineData("IF(1 < 2; 1; \"a\")", 13, 3, "All outcomes must be of one type: a number before and a text here.")]
    public void Problems_point(string formula, int from, int length, string said)
    {
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(formula, Sample.OrderType().LineParts[0], problems));
        Assert.Contains(problems, problem =>
            problem.At == new Span(from, length) && problem.Message.Contains(said, StringComparison.Ordinal)
        );
    }

    [Fact(DisplayName = "No text, however odd, throws")]
    public void Nothing_throws() =>
        Gen.Char["() ;,.+-*/<>=\"19aSUMIF_lines"]
            .Array[0, 40]
            .Sample(chars =>
            {
                var problems = new List<FormulaProblem>();
                var type = Sample.OrderType();
                Formula
                    .Bind(new string(chars), type.LineParts[0], problems)
                    ?.Evaluate(Sample.Order(type).FrameAt(Sample.Order(type).Lines[0][0]));
            });

    [Fact(DisplayName = "Deep nesting is refused, not a stack overflow")]
    public void Deep_nesting_is_refused()
    {
        var problems = new List<FormulaProblem>();
        Assert.Null(Formula.Bind(new string('(', Formula.LongestText - 1) + "1", Sample.OrderType().Header, problems));
        Assert.Contains("nested too deeply", problems[0].Message, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "Arithmetic agrees with the decimal arithmetic of .NET, whatever the numbers")]
    public void Arithmetic_agrees() =>
        Gen.Select(Gen.Int[-99999, 99999], Gen.Int[1, 99999], Gen.Int[-999, 999])
            .Sample(
                (a, b, c) =>
                {
                    var (x, y, z) = (a / 100m, b / 100m, c / 10m);
                    FormattableString text = $"{x} + {y} * ({z} - 1) / {y}";
                    return Run(
                            text.ToString(System.Globalization.CultureInfo.InvariantCulture).Replace("+ -", "+ -", StringComparison.Ordinal)
                        ) == Value.From(x + y * (z - 1) / y);
                }
            );

    private static Value Run(string formula, bool line = false)
    {
        var type = Sample.OrderType();
        var problems = new List<FormulaProblem>();
        var bound = Formula.Bind(formula, line ? type.LineParts[0] : type.Header, problems);
        Assert.True(bound is not null, string.Join(" ", problems.Select(problem => problem.Message)));
        var state = Sample.Order(type);
        if (!line)
            Sample.Set(state, "note", Value.Empty);
        return bound.Evaluate(state.FrameAt(line ? state.Lines[0][0] : null));
    }
}
