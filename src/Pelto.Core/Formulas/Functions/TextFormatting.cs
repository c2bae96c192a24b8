using System.Text.RegularExpressions;

namespace Pelto.Core.Formulas;

/// <summary>TEXT(value; format): OpenFormula 6.20, with the few formats that memory and database write alike.</summary>
internal sealed partial class TextFormatting : Function
{
    public override string Name => "TEXT";

    public override FunctionGroup Group => FunctionGroup.Texts;

    public override string Summary =>
        "A number or a day as a text: 0, 0.00, 000, #,##0.00 or 0.0% for numbers; "
        + "yyyy, mm, dd with marks between for days, "
        + "mmmm and dddd for the names of months and days in English (mmm and ddd for short); hh:mm for times.";

    public override string Example => "TEXT(1234.5; \"#,##0.00\") = \"1,234.50\"";

    public override IReadOnlyList<Parameter> Parameters { get; } = [new("value"), Declare.Text("format")];

    internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Text;

    internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments)
    {
        if (arguments[0].DataType is not (DataType.Number or DataType.Date or DataType.Time or DataType.Empty))
            return (arguments[0], $"TEXT writes numbers, days and times, not {Binder.NameOf(arguments[0].DataType)}.");
        if (arguments[1] is not BoundLiteral { Value.DataType: DataType.Text } literal)
            return (arguments[1], "The format must be written here itself, in quotes.");
        return (arguments[0].DataType, literal.Value.Text) switch
        {
            (DataType.Number or DataType.Empty, var format) when NumberFormat().IsMatch(format) => null,
            (DataType.Date or DataType.Empty, var format) when DayFormat().IsMatch(format) => null,
            (DataType.Time or DataType.Empty, "hh:mm" or "hh:mm:ss") => null,
            (DataType.Date, _) => (
                arguments[1],
                "Days are written with yyyy or yy, mm or m, dd or d, mmmm, mmm, dddd or ddd for names, and . , - / or a space between."
            ),
            (DataType.Time, _) => (arguments[1], "Times are written as hh:mm or hh:mm:ss."),
            _ => (arguments[1], "Numbers are written as 0, 000, 0.00, #,##0, #,##0.00 or 0.0%."),
        };
    }

    /// <summary>What a format writes of a moment: its time of day, or its day.</summary>
    public static DataType PartOf(Bound format) =>
        format is BoundLiteral { Value: { DataType: DataType.Text, Text: "hh:mm" or "hh:mm:ss" } } ? DataType.Time : DataType.Date;

    internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
    {
        var (given, format) = (arguments[0], ((BoundLiteral)call.Arguments[1]).Value.Text);
        var pattern = format.Replace('m', 'M').Replace("/", "'/'", StringComparison.Ordinal);
        return frame =>
            given(frame) switch
            {
                { DataType: DataType.Number } number => Value.From(Written(number.Number, format)),
                // A single letter would stand for a whole pattern of .NET.
                { DataType: DataType.Date } date => Value.From(
                    date.Date.ToString(pattern.Length == 1 ? "%" + pattern : pattern, CultureInfo.InvariantCulture)
                ),
                { DataType: DataType.Time } time => Value.From(
                    time.Time.ToString(format == "hh:mm" ? "HH:mm" : "HH:mm:ss", CultureInfo.InvariantCulture)
                ),
                var other => other,
            };
    }

    internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
    {
        var format = ((BoundLiteral)call.Arguments[1]).Value.Text;
        var text = call.Arguments[0].DataType switch
        {
            DataType.Number => $"formulas.written({arguments[0].Text}, {Decimals(format)}, {Digits(format)}, "
                + $"{(format.Contains(',') ? "true" : "false")}, {(format.EndsWith('%') ? "true" : "false")})",
            DataType.Date => $"to_char({arguments[0].Text}, '{DayPart().Replace(format, static part => InDatabase(part.Value))}')",
            DataType.Time => $"to_char(DATE '2000-01-01' + {arguments[0].Text}, '{(format == "hh:mm" ? "HH24:MI" : "HH24:MI:SS")}')",
            _ => "NULL",
        };
        return new SqlPart(text).After(arguments);
    }

    // Names are English in both: the database writes others only where TM stands before them.
    private static string InDatabase(string part) =>
        part switch
        {
            "yyyy" => "YYYY",
            "yy" => "YY",
            "mmmm" => "FMMonth",
            "mmm" => "FMMon",
            "mm" => "MM",
            "m" => "FMMM",
            "dddd" => "FMDay",
            "ddd" => "FMDy",
            "dd" => "DD",
            _ => "FMDD",
        };

    // Digits in groups of three, at least so many before the point and just so many after it.
    internal override string Helper =>
        """
            CREATE OR REPLACE FUNCTION formulas.written(a numeric, decimals int, digits int, grouped boolean, hundredths boolean) RETURNS text LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
            DECLARE r numeric; whole text; rest text;
            BEGIN
              IF a IS NULL THEN RETURN NULL; END IF;
              r := round(CASE WHEN hundredths THEN a * 100 ELSE a END, decimals);
              whole := split_part(abs(r)::text, '.', 1);
              rest := split_part(abs(r)::text, '.', 2);
              whole := lpad(whole, greatest(digits, length(whole)), '0');
              IF grouped THEN whole := reverse(regexp_replace(reverse(whole), '(\d{3})(?=\d)', '\1,', 'g')); END IF;
              RETURN CASE WHEN r < 0 THEN '-' ELSE '' END || whole || CASE WHEN decimals > 0 THEN '.' || rest ELSE '' END || CASE WHEN hundredths THEN '%' ELSE '' END;
            END
            $$;
            """;

    private static string Written(decimal number, string format)
    {
        var (decimals, hundredths) = (Decimals(format), format.EndsWith('%'));
        decimal rounded;
        try
        {
            rounded = Numbers.Round(hundredths ? number * 100 : number, decimals);
        }
        catch (OverflowException)
        {
            rounded = number;
        }

        var plain = Math.Abs(rounded).ToString("F" + decimals.ToString(CultureInfo.InvariantCulture), CultureInfo.InvariantCulture);
        var (whole, rest) = plain.Split('.') is [var before, var after] ? (before, "." + after) : (plain, "");
        whole = whole.PadLeft(Digits(format), '0');
        if (format.Contains(',', StringComparison.Ordinal))
            whole = Groups().Replace(whole, ",");
        return $"{(rounded < 0 ? "-" : "")}{whole}{rest}{(hundredths ? "%" : "")}";
    }

    private static int Decimals(string format) =>
        format.IndexOf('.', StringComparison.Ordinal) is >= 0 and var point ? format[point..].Count(static c => c == '0') : 0;

    private static int Digits(string format) => format.Split('.')[0].Count(static c => c == '0');

    [GeneratedRegex(@"^(#,##)?0{1,15}(\.0{1,10})?%?$")]
    private static partial Regex NumberFormat();

    [GeneratedRegex("^(yyyy|yy|m{1,4}|d{1,4})([./, -]{1,2}(yyyy|yy|m{1,4}|d{1,4})){0,3}$")]
    private static partial Regex DayFormat();

    [GeneratedRegex("yyyy|yy|m{1,4}|d{1,4}")]
    private static partial Regex DayPart();

    [GeneratedRegex(@"(?<=\d)(?=(\d{3})+$)")]
    private static partial Regex Groups();
}
