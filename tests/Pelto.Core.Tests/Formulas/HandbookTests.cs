using Pelto.Core.Formulas;

namespace Pelto.Core.Tests.Formulas;

/// <summary>Dates worked by hand, and the formulas of the sample company's trade against handbook values.</summary>
public sealed class HandbookTests
{
    private static string Run(string text)
    {
        var problems = new List<FormulaProblem>();
        var formula = Formula.Bind(text, null, problems);
        Assert.True(formula is not null, $"{text}: {string.Join(" ", problems.Select(problem => problem.Message))}");
        return formula.Evaluate(new([], null, [])).ToString();
    }

    [Theory(
        DisplayName = "Full years on 28 and 29 February: born on the 29th, one is a year older on 1 March of a common year (worked by hand)"
    )]
    [
        InlineData("2000-02-29", "2001-02-28", "0"),
        InlineData("2000-02-29", "2001-03-01", "1"),
        InlineData("2000-02-29", "2004-02-28", "3"),
        InlineData("2000-02-29", "2004-02-29", "4"),
        InlineData("2001-02-28", "2004-02-28", "3"),
        InlineData("2001-02-28", "2004-02-27", "2"),
        InlineData("1999-12-31", "2000-01-01", "0")
    ]
    public void Age(string born, string on, string years) => Assert.Equal(years, Run($"DATEDIF(\"{born}\"; \"{on}\"; \"y\")"));

    // Common practice, no source: a year of 365.2425 days is a rough age. Full years taken from it come out wrong on birthdays.
    [Fact(DisplayName = "Days divided by 365.2425 are a rough age, from which full years must not be taken")]
    public void Rough_age()
    {
        Assert.Equal("25", Run("DATEDIF(DATE(2001; 3; 1); DATE(2026; 3; 1); \"y\")"));
        Assert.Equal("24", Run("INT((DATE(2026; 3; 1) - DATE(2001; 3; 1)) / 365.2425)"));
    }

    [Theory(DisplayName = "Leap years and month ends (worked by hand)")]
    [
        InlineData("EDATE(\"2024-02-29\"; 12)", "2025-02-28"),
        InlineData("EDATE(\"2023-11-30\"; 3)", "2024-02-29"),
        InlineData("EDATE(\"2024-03-31\"; -1)", "2024-02-29"),
        InlineData("EDATE(\"2024-01-31\"; 6)", "2024-07-31")
    ]
    [
        InlineData("EOMONTH(\"2100-02-01\"; 0)", "2100-02-28"),
        InlineData("EOMONTH(\"2000-02-01\"; 0)", "2000-02-29"),
        InlineData("DATE(2023; 14; 31)", "2024-03-02"),
        InlineData("DATE(2024; 3; 0)", "2024-02-29")
    ]
    [
        InlineData("DATEDIF(\"2024-01-31\"; \"2024-02-29\"; \"m\")", "0"),
        InlineData("DATEDIF(\"2024-01-31\"; \"2024-02-29\"; \"md\")", "29"),
        InlineData("DATEDIF(\"2023-12-15\"; \"2024-03-14\"; \"ym\")", "2")
    ]
    [
        InlineData("YEARFRAC(\"2024-01-01\"; \"2025-01-01\"; 1)", "1"),
        InlineData("ROUND(YEARFRAC(\"2023-02-28\"; \"2024-02-29\"; 1); 6)", "1.001368"),
        InlineData("YEARFRAC(\"2024-02-29\"; \"2025-02-28\"; 0)", "1"),
        InlineData("YEARFRAC(\"2023-01-31\"; \"2023-03-31\"; 4)", "0.1666666666666667")
    ]
    [
        InlineData("NETWORKDAYS(\"2024-02-28\"; \"2024-03-04\")", "4"),
        InlineData("NETWORKDAYS(\"2024-12-23\"; \"2024-12-27\"; \"2024-12-25\"; \"2024-12-26\")", "3"),
        InlineData("WORKDAY(\"2024-02-28\"; 2)", "2024-03-01"),
        InlineData("WORKDAY(\"2024-12-24\"; 1; \"2024-12-25\"; \"2024-12-26\")", "2024-12-27")
    ]
    public void Month_ends(string text, string expected) => Assert.Equal(expected, Run(text));

    // EN 818-4 and EN 13414-1, from memory: mode factors of multi-leg slings by the angle of a leg to the vertical.
    [Theory(
        DisplayName = "Mode factors of slings: two legs to 45 degrees 1.4, to 60 degrees 1.0; "
            + "three and four legs 2.1 and 1.5 (EN 818-4, EN 13414-1, from memory)"
    )]
    [
        InlineData(1, 0, "1"),
        InlineData(2, 45, "1.4"),
        InlineData(2, 60, "1"),
        InlineData(3, 45, "2.1"),
        InlineData(4, 60, "1.5"),
        InlineData(4, 30, "2.1")
    ]
    public void Mode_factors(int legs, int angle, string factor) =>
        Assert.Equal(
            factor,
            Run(
                $"IFS({legs} = 1; 1; AND({legs} = 2; {angle} <= 45); 1.4; AND({legs} = 2; "
                    + $"{angle} <= 60); 1; {angle} <= 45; 2.1; {angle} <= 60; 1.5)"
            )
        );

    [Theory(
        DisplayName = "Leg tension follows from the angle by trigonometry: "
            + "half the load over the cosine; at 60 degrees as much as the whole load"
    )]
    [InlineData(0, "0.500"), InlineData(30, "0.577"), InlineData(45, "0.707"), InlineData(60, "1.000")]
    public void Leg_tension(int angle, string share) => Assert.Equal(share, Run($"TEXT(1 / 2 / COS(RADIANS({angle})); \"0.000\")"));

    // The factors of two legs are twice the cosine, rounded down to what is safe to remember: 2 cos 45 = 1.41, 2 cos 60 = 1.00; of four,
    // three of which are reckoned with: 3 cos 45 = 2.12, 3 cos 60 = 1.50.
    [Theory(DisplayName = "The handbook's mode factors are what trigonometry allows, cut to one decimal")]
    [InlineData(2, 45, "1.4"), InlineData(2, 60, "1"), InlineData(3, 45, "2.1"), InlineData(3, 60, "1.5")]
    public void Factors_follow(int legs, int angle, string factor) =>
        Assert.Equal(factor, Run($"ROUNDDOWN({legs} * COS(RADIANS({angle})) + 0.0000001; 1) & \"\""));

    // Working load limit = breaking load / design factor; a chain sling of grade 8 has 4, a textile sling 7 (EN 818-4, EN 1492, from
    // memory).
    [Theory(DisplayName = "Working load limit from breaking load and design factor, in tonnes (EN 818-4 and EN 1492-1, from memory)")]
    [
        InlineData("10 mm chain, grade 8", 126, 4, "3.2"),
        InlineData("8 mm chain, grade 8", 80.4, 4, "2"),
        InlineData("2 t webbing sling", 137.3, 7, "2")
    ]
    public void Working_load(string what, double breaking, int factor, string limit) =>
        Assert.True(Run(System.FormattableString.Invariant($"ROUND({breaking} / {factor} / 9.80665; 1) & \"\"")) == limit, what);

    // EN 1492-1 and -2, from memory: violet 1 t, green 2 t, yellow 3 t, grey 4 t, red 5 t, brown 6 t, blue 8 t, orange from 10 t.
    [Theory(DisplayName = "Colours of textile slings by their working load (EN 1492-1 and -2, from memory)")]
    [
        InlineData(1, "violet"),
        InlineData(2, "green"),
        InlineData(3, "yellow"),
        InlineData(4, "grey"),
        InlineData(5, "red"),
        InlineData(6, "brown"),
        InlineData(8, "blue"),
        InlineData(12, "orange")
    ]
    public void Colours(int tonnes, string colour) =>
        Assert.Equal(
            colour,
            Run(
                $"IF({tonnes} >= 10; \"orange\"; SWITCH({tonnes}; 1; \"violet\"; 2; \"green\"; 3; "
                    + "\"yellow\"; 4; \"grey\"; 5; \"red\"; 6; \"brown\"; 8; \"blue\"))"
            )
        );

    [Theory(
        DisplayName = "The next thorough examination: 12 months for slings and hoists, "
            + "6 for accessories that lift people (common practice, no source)"
    )]
    [InlineData(false, "2025-02-28"), InlineData(true, "2024-08-29")]
    public void Examinations(bool people, string due) =>
        Assert.Equal(due, Run($"EDATE(\"2024-02-29\"; IF({(people ? "TRUE()" : "FALSE()")}; 6; 12))"));
}
