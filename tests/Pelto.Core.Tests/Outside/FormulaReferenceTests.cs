using System.Text.Json;
using Pelto.Core.Formulas;

namespace Pelto.Core.Tests.Outside;

/// <summary>
/// Functions against two libraries that others made: formulajs, call by call, and hyperformula, formula by formula. Where they differ from
/// us, the reason is beside the function; each was decided by the text of OpenFormula.
/// </summary>
public sealed class FormulaReferenceTests
{
    private const int CallsOfEach = 160;

    private static readonly decimal[] Numbers = [0, 1, -1, 2, 3, 0.5m, -0.5m, 2.5m, -2.5m, 10, 12, 100, -7, 1234.567m, 0.001m, 99999.995m];

    private static readonly string[] Texts =
    [
        "shackle",
        "a",
        "Bow SHACKLE",
        " two  words ",
        "køye",
        "ÅÄÖ åäö",
        "日本語の文",
        "12.5",
        "-3",
        "x",
        "a-b-c-a",
        "o'hara 2nd",
        "ABBA",
    ];

    private static readonly DateOnly[] Days =
    [
        new(2024, 2, 29),
        new(2023, 2, 28),
        new(2024, 1, 31),
        new(2023, 12, 31),
        new(2024, 8, 30),
        new(2000, 1, 1),
        new(1999, 12, 31),
        new(2020, 2, 29),
        new(2026, 11, 25),
        new(1960, 6, 30),
        new(2100, 3, 1),
    ];

    // Arguments by letter: n number, s small whole number, p positive number, t text, f short text to find, d day, b yes or no, u unit of
    // DATEDIF, e basis, w type of week.
    private static readonly (string Name, string Takes)[] Functions =
    [
        ("ABS", "n"),
        ("SIGN", "n"),
        ("INT", "n"),
        ("EVEN", "n"),
        ("ODD", "n"),
        ("ROUND", "ns"),
        ("ROUNDUP", "ns"),
        ("ROUNDDOWN", "ns"),
        ("TRUNC", "ns"),
        ("CEILING", "np"),
        ("FLOOR", "np"),
        ("MROUND", "pp"),
        ("MOD", "nn"),
        ("QUOTIENT", "nn"),
        ("POWER", "ns"),
        ("SQRT", "n"),
        ("EXP", "s"),
        ("LN", "n"),
        ("LOG", "np"),
        ("LOG10", "n"),
        ("PI", ""),
        ("SIN", "n"),
        ("COS", "n"),
        ("TAN", "n"),
        ("ASIN", "n"),
        ("ACOS", "n"),
        ("ATAN", "n"),
        ("ATAN2", "nn"),
        ("DEGREES", "n"),
        ("RADIANS", "n"),
        ("FACT", "s"),
        ("COMBIN", "ss"),
        ("GCD", "qq"),
        ("LCM", "qq"),
        ("MIN", "nnn"),
        ("MAX", "nnn"),
        ("SUM", "nnn"),
        ("AVERAGE", "nnn"),
        ("LEN", "t"),
        ("LEFT", "ts"),
        ("RIGHT", "ts"),
        ("MID", "tss"),
        ("UPPER", "t"),
        ("LOWER", "t"),
        ("PROPER", "t"),
        ("TRIM", "t"),
        ("SUBSTITUTE", "tff"),
        ("REPLACE", "tsst"),
        ("FIND", "ft"),
        ("SEARCH", "ft"),
        ("CONCATENATE", "tnt"),
        ("REPT", "ts"),
        ("EXACT", "tt"),
        ("UNICHAR", "c"),
        ("UNICODE", "t"),
        ("DATE", "ymm"),
        ("YEAR", "d"),
        ("MONTH", "d"),
        ("DAY", "d"),
        ("WEEKDAY", "dw"),
        ("ISOWEEKNUM", "d"),
        ("WEEKNUM", "dw"),
        ("EDATE", "ds"),
        ("EOMONTH", "ds"),
        ("DATEDIF", "ddu"),
        ("DAYS", "dd"),
        ("DAYS360", "ddb"),
        ("YEARFRAC", "dde"),
        ("NETWORKDAYS", "dd"),
        ("WORKDAY", "ds"),
        ("AND", "bb"),
        ("OR", "bb"),
        ("XOR", "bb"),
        ("NOT", "b"),
        ("IF", "bnn"),
        ("MEDIAN", "nnn"),
        ("MEDIAN", "nnnn"),
        ("STDEV", "nnn"),
        ("CHOOSE", "snnn"),
    ];

    [Fact(
        DisplayName = "Each function gives what formulajs and hyperformula give, "
            + "apart from the differences that are listed with their reasons"
    )]
    public void Libraries_agree()
    {
        var random = new Random(20_261_125);
        var calls = Functions
            .SelectMany(function =>
                Enumerable
                    .Range(0, function.Takes.Length == 0 ? 1 : CallsOfEach)
                    .Select(_ => (function.Name, Given: function.Takes.Select(letter => Argument(letter, random)).ToArray()))
            )
            .DistinctBy(call => Written(call.Name, call.Given))
            .ToList();
        var questions = calls.SelectMany(call =>
            new[]
            {
                ("sheet", Written(call.Name, call.Given)),
                ("call", JsonSerializer.Serialize(new { name = call.Name, given = call.Given.Select(ForLibrary) })),
            }
        );
        var answers = Reference.Ask(questions);
        var differences = new List<string>();
        for (var i = 0; i < calls.Count; i++)
        {
            var text = Written(calls[i].Name, calls[i].Given);
            var ours = Run(text);
            foreach (var (library, answer) in new[] { ("hyperformula", answers[2 * i]), ("formulajs", answers[2 * i + 1]) })
                if (!Same(ours, answer) && Known(library, calls[i].Name, calls[i].Given, ours) is null)
                    differences.Add($"{text} is {ours} here and {answer.GetRawText()} in {library}.");
        }

        Assert.True(
            differences.Count == 0,
            $"{differences.Count} of {calls.Count}:\n{string.Join("\n", differences.GroupBy(one => one[..one.IndexOf('(', StringComparison.Ordinal)] + (one.Contains("formulajs") ? "J" : "H")).SelectMany(group => group.Take(4)))}"
        );
        Assert.True(calls.Count > 5000, $"{calls.Count} calls");
    }

    /// <summary>Why a library gives something else there, or null when there is no reason.</summary>
    private static string? Known(string library, string name, object[] given, Value ours) =>
        (library, name) switch
        {
            (_, "POWER") when ours is { IsError: true, Reason: "The result is too large." } =>
                "Numbers have 28 digits here (the range is the implementation's).",
            (_, "MOD" or "QUOTIENT") when given.Any(one => one is 0.001m or 99999.995m) => "Binary fractions do not hold these decimals.",
            ("formulajs", "MOD")
                when given[0] is decimal number && given[1] is decimal divisor && number * divisor < 0 || given[1] is < 0m =>
                "The result has the sign of the divisor (6.16).",
            ("hyperformula", "INT") when given[0] is < 0m => "INT rounds down to minus infinity (6.17).",
            ("formulajs", "ATAN2") => "x comes before y (6.16).",
            ("formulajs", "LEFT" or "RIGHT" or "MID" or "REPLACE" or "REPT") when given.Skip(1).Any(one => one is <= 0m) =>
                "Counts below 0 and places below 1 are errors; MID of no characters is an empty text (6.20).",
            ("formulajs", "PROPER") => "Every letter after a sign that is none begins a word (6.20).",
            ("formulajs", "UNICHAR") => "All of Unicode, not only its first plane (6.20).",
            ("formulajs", "WEEKNUM" or "WEEKDAY") when given[1] is > 1m =>
                "Weeks begin on the day that the type says, 11 to 17 too (6.10).",
            ("hyperformula", "EDATE") when ours is { DataType: DataType.Date, Date: { Month: 2, Day: 29 } } =>
                "A leap year has 29 February (6.10).",
            ("formulajs", "DATEDIF") when ours.IsError => "The first day must not come after the second (6.10).",
            ("formulajs", "DATEDIF") when given[2] is "YD" or "MD" =>
                "Days are counted from the last full year or month (6.10); that library forgets the length of months.",
            ("formulajs" or "hyperformula", "DAYS360" or "YEARFRAC")
                when given.Any(one => one is DateOnly { Month: 2, Day: 28 or 29 }) && given[2] is not (1m or 2m or 3m) =>
                "The last day of February counts as the 30th where the first day is one (4.11).",
            ("formulajs", "YEARFRAC" or "DAYS360") =>
                "The part of a year is never below 0 (6.10), and the 31st counts as the 30th in both methods (4.11).",
            ("formulajs", "NETWORKDAYS") when given[0] is DateOnly from && given[1] is DateOnly to && from > to =>
                "From a later to an earlier day the count is below 0 (6.10), weekends left out as well.",
            _ => null,
        };

    private static object Argument(char letter, Random random)
    {
        T One<T>(params T[] from) => from[random.Next(from.Length)];
        return letter switch
        {
            'n' => One(Numbers),
            's' => (decimal)random.Next(-3, 15),
            'p' => One(0.5m, 1m, 2m, 3m, 10m, 0.1m, 7.25m),
            'q' => (decimal)random.Next(0, 200),
            'c' => (decimal)One(65, 228, 8364, 128512, 20013),
            'y' => (decimal)random.Next(1950, 2100),
            'm' => (decimal)random.Next(-20, 40),
            't' => One(Texts),
            'f' => One("a", "b", "SH", "k", "-", "ä", " "),
            'd' => One(Days),
            'b' => One(true, false),
            'u' => One("Y", "M", "D", "YM", "MD", "YD"),
            'e' => (decimal)random.Next(0, 5),
            _ => One(1m, 2m, 3m, 11m, 13m, 17m, 21m),
        };
    }

    private static string Written(string name, object[] given) =>
        $"{name}({string.Join(";", given.Select(one => one switch
    {
        string text => $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"",
        DateOnly day => $"DATE({day.Year};{day.Month};{day.Day})",
        bool yes => yes ? "TRUE()" : "FALSE()",
        decimal number => number.ToString(CultureInfo.InvariantCulture),
        _ => throw new InvalidOperationException(),
    }))})";

    private static object ForLibrary(object given) => given is DateOnly day ? new { day = new[] { day.Year, day.Month, day.Day } } : given;

    private static Value Run(string text)
    {
        var problems = new List<FormulaProblem>();
        var formula = Formula.Bind(text, null, problems);
        Assert.True(formula is not null, $"{text}: {string.Join(" ", problems.Select(problem => problem.Message))}");
        return formula.Evaluate(new([], null, []));
    }

    private static bool Same(Value ours, JsonElement theirs) =>
        theirs.ValueKind switch
        {
            JsonValueKind.Object => ours.IsError,
            JsonValueKind.Number when ours.DataType == DataType.Date => theirs.GetDouble()
                == ours.Date.DayNumber - new DateOnly(1899, 12, 30).DayNumber,
            JsonValueKind.Number => ours.DataType == DataType.Number
                && Math.Abs((double)ours.Number - theirs.GetDouble()) <= 1e-9 * Math.Max(1, Math.Abs(theirs.GetDouble())),
            JsonValueKind.String => theirs.GetString()
                == (
                    ours.IsEmpty ? ""
                    : ours.DataType == DataType.Text ? ours.Text
                    : null
                ),
            JsonValueKind.True or JsonValueKind.False => ours.DataType == DataType.YesNo && ours.Yes == theirs.GetBoolean(),
            _ => false,
        };
}
