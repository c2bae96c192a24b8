using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>
/// Reckoning (OpenFormula 6.16) and rounding (6.17). Whatever needs a root, a logarithm or an angle is reckoned in double precision and
/// given with 15 digits.
/// </summary>
internal static class NumberFunctions
{
    // As many digits as make the double that is nearest to pi.
    private const string Pi = "3.141592653589793";

    public static IReadOnlyList<Function> All { get; } =
    [
        Of("ABS", "The number without its sign.", "ABS(-3) = 3", [Number("number")], static x => Math.Abs(x), "abs({0})"),
        Of(
            "SIGN",
            "1, 0 or -1, as the number is above, at or below zero.",
            "SIGN(-3) = -1",
            [Number("number")],
            static x => Math.Sign(x),
            "sign({0})"
        ),
        Of("INT", "The whole number at or below.", "INT(-2.5) = -3", [Number("number")], decimal.Floor, "floor({0})"),
        Of(
            "EVEN",
            "The even number at or further from zero.",
            "EVEN(3) = 4",
            [Number("number")],
            static x => Away(x / 2) * 2,
            "formulas.even({0})",
            "SELECT sign(a) * ceil(abs(a) * 0.5) * 2"
        ),
        Of(
            "ODD",
            "The odd number at or further from zero.",
            "ODD(-2) = -3",
            [Number("number")],
            static x => x == 0 ? 1 : Math.Sign(x) * (decimal.Ceiling(Math.Max(0, (Math.Abs(x) - 1) / 2)) * 2 + 1),
            "formulas.odd({0})",
            "SELECT CASE WHEN a = 0 THEN 1 ELSE sign(a) * (ceil(greatest((abs(a) - 1) * 0.5, 0)) * 2 + 1) END"
        ),
        Rounding(
            "ROUND",
            "Rounded to that many decimals, halves away from zero; digits below 0 round to tens, hundreds and so on.",
            "ROUND(2.345; 2) = 2.35",
            Numbers.Round,
            "round(a, greatest(least(trunc(b), 30), -30)::int)"
        ),
        Rounding(
            "ROUNDUP",
            "Rounded away from zero to that many decimals.",
            "ROUNDUP(2.341; 2) = 2.35",
            Up,
            "CASE WHEN trunc(a, greatest(least(trunc(b), 30), -30)::int) = a THEN a ELSE trunc(a, greatest(least(trunc(b), "
                + "30), -30)::int) + sign(a) * ('1e' || -greatest(least(trunc(b), 30), -30))::numeric END"
        ),
        Rounding(
            "ROUNDDOWN",
            "Rounded towards zero to that many decimals.",
            "ROUNDDOWN(2.349; 2) = 2.34",
            Down,
            "trunc(a, greatest(least(trunc(b), 30), -30)::int)"
        ),
        Rounding(
            "TRUNC",
            "Cut off after that many decimals.",
            "TRUNC(-2.9) = -2",
            Down,
            "trunc(a, greatest(least(trunc(b), 30), -30)::int)"
        ),
        Of(
            "CEILING",
            "The multiple of the step at or above; with a mode other than 0, at or further from zero.",
            "CEILING(2.1; 0.5) = 2.5",
            [Number("number"), Number("step", 1), Number("mode", 0)],
            static given => Step(given, static (x, step) => -(-x - Modulo(-x, step))),
            "formulas.ceiling({0}, {1}, {2})",
            StepSql("-(-x - m)", "-x")
        ),
        Of(
            "FLOOR",
            "The multiple of the step at or below; with a mode other than 0, at or nearer to zero.",
            "FLOOR(2.9; 0.5) = 2.5",
            [Number("number"), Number("step", 1), Number("mode", 0)],
            static given => Step(given, static (x, step) => x - Modulo(x, step)),
            "formulas.floor({0}, {1}, {2})",
            StepSql("x - m", "x")
        ),
        Of(
            "MROUND",
            "The nearest multiple of the step, halves away from zero.",
            "MROUND(7; 5) = 5",
            [Number("number"), Number("step")],
            static given => Of(given, static (x, step) => step == 0 ? 0 : Math.Sign(x) * Multiple(Math.Abs(x), Math.Abs(step))),
            "formulas.mround({0}, {1})",
            "SELECT CASE WHEN a IS NULL THEN NULL WHEN b = 0 THEN 0 ELSE sign(a) * (abs(a) "
                + "+ abs(b) * 0.5 - mod(abs(a) + abs(b) * 0.5, abs(b))) END"
        ),
        Of(
            "MOD",
            "What is left over by dividing, with the sign of the divisor.",
            "MOD(-7; 3) = 2",
            [Number("number"), Number("divisor")],
            static given => given[1].Number == 0 ? Value.Failed(Reasons.ByZero) : Value.From(Modulo(given[0].Number, given[1].Number)),
            "formulas.mod({0}, {1})",
            "SELECT CASE WHEN b <> 0 THEN mod(mod(a, b) + b, b) END"
        ),
        Of(
            "QUOTIENT",
            "How many times the divisor goes in, without decimals.",
            "QUOTIENT(-7; 3) = -2",
            [Number("number"), Number("divisor")],
            static given =>
                given[1].Number == 0
                    ? Value.Failed(Reasons.ByZero)
                    : Value.From((given[0].Number - given[0].Number % given[1].Number) / given[1].Number),
            "div({0}, nullif({1}, 0))",
            fails: true
        ),
        Of(
            "POWER",
            "The number raised to a power, as ^ does.",
            "POWER(2; 10) = 1024",
            [Number("number"), Number("power")],
            static given => Power(given[0].Number, given[1].Number),
            "formulas.power({0}, {1})",
            fails: true
        ),
        Of(
            "SQRT",
            "The square root.",
            "SQRT(16) = 4",
            [Number("number")],
            static given => Root(given[0].Number),
            "round(formulas.sqrt({0})::numeric, 28)",
            "SELECT CASE WHEN a >= 0 THEN sqrt(formulas.real(a)) END"
        ),
        Of(
            "EXP",
            "e raised to a power.",
            "EXP(0) = 1",
            [Number("power")],
            static given => Real(Math.Exp(Double(given[0].Number))),
            "round(formulas.exp({0})::numeric, 28)",
            "SELECT CASE WHEN a < 66.5 THEN exp(greatest(a, -80)::float8) END"
        ),
        Of(
            "LN",
            "The natural logarithm.",
            "LN(1) = 0",
            [Number("number")],
            static given => given[0].Number <= 0 ? NoLogarithm : Real(Math.Log(Double(given[0].Number))),
            "round(formulas.ln({0})::numeric, 28)",
            "SELECT CASE WHEN round(a, 30) > 0 THEN ln(formulas.real(a)) END"
        ),
        Of(
            "LOG",
            "The logarithm to a base, 10 when none is given.",
            "LOG(8; 2) = 3",
            [Number("number"), Number("base", 10)],
            static given =>
                given[0].Number <= 0 || given[1].Number <= 0 ? NoLogarithm
                : given[1].Number == 1 ? Value.Failed("There is no logarithm to the base 1.")
                : Real(Math.Log(Double(given[0].Number)) / Math.Log(Double(given[1].Number))),
            "round(formulas.log({0}, {1})::numeric, 28)",
            "SELECT CASE WHEN round(a, 30) > 0 AND round(b, 30) > 0 "
                + "AND b <> 1 THEN ln(formulas.real(a)) / nullif(ln(formulas.real(b)), 0) END"
        ),
        Of(
            "LOG10",
            "The logarithm to the base 10.",
            "LOG10(1000) = 3",
            [Number("number")],
            static given => given[0].Number <= 0 ? NoLogarithm : Real(Math.Log10(Double(given[0].Number))),
            "round(formulas.log10({0})::numeric, 28)",
            "SELECT CASE WHEN round(a, 30) > 0 THEN log(formulas.real(a)) END"
        ),
        new SimpleFunction(
            "PI",
            FunctionGroup.Numbers,
            DataType.Number,
            "The ratio of a circle's circumference to its diameter.",
            "ROUND(PI(); 4) = 3.1416",
            [],
            static _ => Value.From(decimal.Parse(Pi, CultureInfo.InvariantCulture)),
            Pi
        ),
        Angle("SIN", "The sine of an angle in radians.", "SIN(0) = 0", Math.Sin, "sin(x)"),
        Angle("COS", "The cosine of an angle in radians.", "COS(0) = 1", Math.Cos, "cos(x)"),
        Angle("TAN", "The tangent of an angle in radians.", "ROUND(TAN(PI() / 4); 6) = 1", Math.Tan, "tan(x)"),
        Angle(
            "ASIN",
            "The angle in radians that has this sine.",
            "ASIN(0) = 0",
            Math.Asin,
            "CASE WHEN x BETWEEN -1 AND 1 THEN asin(x) END"
        ),
        Angle(
            "ACOS",
            "The angle in radians that has this cosine.",
            "ACOS(1) = 0",
            Math.Acos,
            "CASE WHEN x BETWEEN -1 AND 1 THEN acos(x) END"
        ),
        Angle("ATAN", "The angle in radians that has this tangent.", "ATAN(0) = 0", Math.Atan, "atan(x)"),
        Of(
            "ATAN2",
            "The angle in radians from the x-axis to a point.",
            "ROUND(ATAN2(1; 1); 4) = 0.7854",
            [Number("x"), Number("y")],
            static given =>
                given[0].Number == 0 && given[1].Number == 0
                    ? Value.Failed("The point at 0, 0 lies in no direction.")
                    : Real(Math.Atan2(Double(given[1].Number), Double(given[0].Number))),
            "round(formulas.atan2({0}, {1})::numeric, 28)",
            "SELECT CASE WHEN round(a, 30) <> 0 OR round(b, 30) <> 0 THEN atan2(formulas.real(b), formulas.real(a)) END"
        ),
        Angle(
            "DEGREES",
            "An angle in degrees, from radians.",
            "ROUND(DEGREES(PI()); 6) = 180",
            static x => x * (180 / Math.PI),
            "x * (180 / pi())"
        ),
        Angle(
            "RADIANS",
            "An angle in radians, from degrees.",
            "ROUND(RADIANS(180); 4) = 3.1416",
            static x => x * (Math.PI / 180),
            "x * (pi() / 180)"
        ),
        Of(
            "FACT",
            "The product of all whole numbers up to this one.",
            "FACT(5) = 120",
            [Number("number")],
            static given =>
                decimal.Truncate(given[0].Number) is >= 0 and <= 27 and var n
                    ? Value.From(Factorial((int)n))
                    : Value.Failed("FACT takes a number from 0 to 27."),
            "formulas.fact({0})",
            "SELECT CASE WHEN a > -1 AND a < 28 THEN factorial(trunc(a)::bigint) END"
        ),
        Of(
            "COMBIN",
            "In how many ways so many can be chosen among that many.",
            "COMBIN(5; 2) = 10",
            [Number("among"), Number("chosen")],
            static given => Combinations(decimal.Truncate(given[0].Number), decimal.Truncate(given[1].Number)),
            "formulas.combin({0}, {1})",
            """
            DECLARE r numeric := 1; n numeric := trunc(a); k numeric := trunc(b);
            BEGIN
              IF n IS NULL OR k IS NULL OR n < 0 OR k < 0 OR k > n OR n > 90 THEN RETURN NULL; END IF;
              FOR i IN 1..least(k, n - k)::int LOOP r := div(r * (n - least(k, n - k) + i), i); END LOOP;
              RETURN r;
            END
            """
        ),
        Common("GCD", "The largest whole number that divides all of them.", "GCD(12; 18) = 6", static (a, b) => Gcd(a, b), "gcd"),
        Common(
            "LCM",
            "The smallest whole number that all of them divide.",
            "LCM(4; 6) = 12",
            static (a, b) => a == 0 || b == 0 ? 0 : checked(a / Gcd(a, b) * b),
            "lcm"
        ),
    ];

    private static Value NoLogarithm => Value.Failed("Only numbers above 0 have a logarithm.");

    /// <summary>A number raised to a power; an error where there is none, or none that can be reckoned with.</summary>
    public static Value Power(decimal number, decimal power) =>
        number == 0 && power < 0 ? Value.Failed(Reasons.ByZero)
        : number < 0 && power != decimal.Truncate(power) ? Value.Failed("A number below 0 can be raised to whole powers only.")
        : Real(Math.Pow(Double(number), Double(power)));

    // The nearest double, as the database takes it. A cast gives that for short numbers only.
    /// <summary>The square root, to 15 digits.</summary>
    public static Value Root(decimal number) =>
        number < 0 ? Value.Failed("A number below 0 has no square root.") : Real(Math.Sqrt(Double(number)));

    private static double Double(decimal number)
    {
        if (number == 0)
            return 0; // Never below zero by its sign alone.
        var shortest = Numbers.Shortest(number);
        return shortest.Scale <= 12 && Math.Abs(shortest) < 9000
            ? (double)shortest
            : double.Parse(shortest.ToString(CultureInfo.InvariantCulture), CultureInfo.InvariantCulture);
    }

    /// <summary>A result in double precision, with 15 digits.</summary>
    public static Value Real(double result) =>
        double.IsNaN(result) ? Value.Failed("There is no such number.")
        : Math.Abs(result) >= 7.9e28 ? Value.Failed(Reasons.TooLarge)
        : Value.From(decimal.Parse(result.ToString("E14", CultureInfo.InvariantCulture), NumberStyles.Float, CultureInfo.InvariantCulture));

    private static decimal Modulo(decimal number, decimal divisor) =>
        number % divisor is var left && left != 0 && left < 0 != divisor < 0 ? left + divisor : left;

    private static decimal Away(decimal x) => x < 0 ? decimal.Floor(x) : decimal.Ceiling(x);

    private static decimal Up(decimal x, int digits)
    {
        var down = Down(x, digits);
        return down == x ? x
            : digits > 28 ? x
            : down
                + Math.Sign(x)
                    * (
                        digits >= 0 ? new decimal(1, 0, 0, false, (byte)digits)
                        : digits < -28 ? throw new OverflowException()
                        : Numbers.PowerOfTen(-digits)
                    );
    }

    private static decimal Down(decimal x, int digits)
    {
        if (digits >= 28)
            return x;
        if (digits < -28)
            return 0;
        if (digits <= 0)
            return x - x % Numbers.PowerOfTen(-digits);
        return x - x % new decimal(1, 0, 0, false, (byte)digits);
    }

    private static decimal Multiple(decimal x, decimal step) => x + step / 2 is var half ? half - half % step : 0;

    private static Value Step(ReadOnlySpan<Value> given, Func<decimal, decimal, decimal> round)
    {
        var (x, step, mode) = (given[0].Number, given[1].Number, given[2].Number);
        if (x == 0 || step == 0)
            return Value.From(0m);
        if (x > 0 && step < 0)
            return Value.Failed("Number and step must have the same sign.");
        return Value.From(mode == 0 ? round(x, Math.Abs(step)) : Math.Sign(x) * round(Math.Abs(x), Math.Abs(step)));
    }

    // Over x, the number or without its sign, and m, what is left over by the step.
    private static string StepSql(string rounded, string of)
    {
        string Rounded(string x) =>
            rounded
                .Replace("m", $"mod(mod({of}, abs(b)) + abs(b), abs(b))", StringComparison.Ordinal)
                .Replace("x", x, StringComparison.Ordinal);
        return "SELECT CASE WHEN a IS NULL OR b IS NULL THEN NULL WHEN a = 0 OR b = 0 THEN 0 WHEN a > 0 "
            + $"AND b < 0 THEN NULL WHEN c = 0 THEN {Rounded("a")} ELSE sign(a) * ({Rounded("abs(a)")}) END";
    }

    private static decimal Factorial(int n)
    {
        var product = 1m;
        for (var i = 2; i <= n; i++)
            product *= i;
        return product;
    }

    private static Value Combinations(decimal n, decimal k)
    {
        if (n < 0 || k < 0 || k > n || n > 90)
            return Value.Failed("COMBIN chooses among 0 to 90, and no more than there are.");
        var (ways, few) = (1m, Math.Min(k, n - k));
        for (var i = 1; i <= few; i++)
            ways = ways * (n - few + i) / i;
        return Value.From(ways);
    }

    private static decimal Gcd(decimal a, decimal b)
    {
        while (b != 0)
            (a, b) = (b, a % b);
        return a;
    }

    private static Value Of(ReadOnlySpan<Value> given, Func<decimal, decimal, decimal> reckon) =>
        Value.From(reckon(given[0].Number, given[1].Number));

    // Given as a function of one number that never fails.
    private static SimpleFunction Of(
        string name,
        string summary,
        string example,
        IReadOnlyList<Parameter> takes,
        Func<decimal, decimal> reckon,
        string sql,
        string? helper = null
    ) =>
        new(name, FunctionGroup.Numbers, DataType.Number, summary, example, takes, given => Value.From(reckon(given[0].Number)), sql)
        {
            HelperBody = helper,
        };

    // Fails where its SQL gives NULL.
    private static SimpleFunction Of(
        string name,
        string summary,
        string example,
        IReadOnlyList<Parameter> takes,
        Body body,
        string sql,
        string? helperBody = null,
        bool fails = false
    ) =>
        new(name, FunctionGroup.Numbers, DataType.Number, summary, example, takes, body, sql)
        {
            HelperBody = helperBody,
            FailsOnNull = helperBody is not null || fails,
        };

    private static SimpleFunction Rounding(string name, string summary, string example, Func<decimal, int, decimal> round, string sql) =>
        new(
            name,
            FunctionGroup.Numbers,
            DataType.Number,
            summary,
            example,
            [Number("number"), Number("digits", 0)],
            given => Value.From(round(given[0].Number, decimal.ToInt32(Math.Clamp(decimal.Truncate(given[1].Number), -30, 30)))),
            $"formulas.{name.ToLowerInvariant()}({{0}}, {{1}})"
        )
        {
            HelperBody = "SELECT " + sql,
        };

    private static SimpleFunction Angle(string name, string summary, string example, Func<double, double> reckon, string sql) =>
        new(
            name,
            FunctionGroup.Numbers,
            DataType.Number,
            summary,
            example,
            [Number(name is "ASIN" or "ACOS" or "ATAN" ? "number" : "angle")],
            given => Real(reckon(Double(given[0].Number))),
            $"formulas.{name.ToLowerInvariant()}({{0}})"
        )
        {
            HelperBody = $"SELECT round(({sql.Replace("x", "formulas.real(a)", StringComparison.Ordinal)})::numeric, 28)",
            FailsOnNull = true,
        };

    private static Fold Common(string name, string summary, string example, Func<decimal, decimal, decimal> join, string sql) =>
        new(
            name,
            FunctionGroup.Numbers,
            DataType.Number,
            summary,
            example,
            Number("number"),
            static value =>
                value.Number <= -1
                    ? Value.Failed("Only numbers from 0 on have common divisors and multiples.")
                    : Value.From(decimal.Truncate(value.Number)),
            (a, b) => Value.From(join(a.Number, b.Number)),
            "(CASE WHEN {0} > -1 THEN trunc({0}) END)",
            $"{sql}({{0}}, {{1}})"
        );
}
