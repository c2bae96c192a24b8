using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>Days and times. OpenFormula 6.10; a day is a type of its own here, not a count of days from somewhere.</summary>
internal static class DateFunctions
{
    private const int MaxWorkdays = 100_000;

    public static IReadOnlyList<Function> All { get; } =
    [
        new ClockFunction("TODAY", DataType.Date, "Today's date.", "TODAY() - TODAY() = 0", static clock => Value.From(clock.Today)),
        new ClockFunction("NOW", DataType.Moment, "The date and time now.", "NOW() - NOW() = 0", static clock => Value.From(clock.Now)),
        Of(
            "DATE",
            DataType.Date,
            "The day with this year, month and day; months and days beyond the end count on.",
            "DATE(2024; 2; 30) = DATE(2024; 3; 1)",
            [Number("year"), Number("month"), Number("day")],
            static given => Day(given[0].Number, given[1].Number, given[2].Number),
            "formulas.date({0}, {1}, {2})",
            "SELECT CASE WHEN trunc(a) BETWEEN 1 AND 9999 AND abs(b) < 1000000 AND abs(c) < 10000000 "
                + "AND floor((trunc(a) * 12 + trunc(b) - 1) / 12) BETWEEN 1 "
                + "AND 9999 THEN formulas.add_days(make_date(floor((trunc(a) * 12 + trunc(b) - 1) / 12)::int, "
                + "mod(trunc(a) * 12 + trunc(b) - 1, 12)::int + 1, 1), trunc(c) - 1) END"
        ),
        Of(
            "TIME",
            DataType.Time,
            "The time of day with this hour, minute and second.",
            "TIME(14; 30; 0) > TIME(9; 0; 0)",
            [Number("hour"), Number("minute"), Number("second", 0)],
            static given => Clockwise(given[0].Number * 3600 + given[1].Number * 60 + given[2].Number),
            "formulas.time({0}, {1}, {2})",
            "SELECT CASE WHEN trunc(a * 3600 + b * 60 + c) BETWEEN 0 "
                + "AND 86399 THEN TIME '00:00' + trunc(a * 3600 + b * 60 + c)::int * INTERVAL '1 second' END"
        ),
        Of(
            "DATEVALUE",
            DataType.Date,
            "The day that a text says as year-month-day.",
            "DATEVALUE(\"2024-02-29\") = DATE(2024; 2; 29)",
            [Text("text")],
            static given => Read(given[0].Text),
            "formulas.datevalue({0})",
            @"SELECT CASE WHEN a ~ '^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$' AND left(a, 4) <> '0000' AND right(a, 2)::int <= extract(day FROM make_date(left(a, 4)::int, substr(a, 6, 2)::int, 1) + INTERVAL '1 month - 1 day') THEN make_date(left(a, 4)::int, substr(a, 6, 2)::int, right(a, 2)::int) END"
        ),
        Part("YEAR", "The year of a day.", "YEAR(DATE(2024; 2; 29)) = 2024", static date => date.Year, "extract(year FROM {0})"),
        Part(
            "MONTH",
            "The month of a day, from 1 to 12.",
            "MONTH(DATE(2024; 2; 29)) = 2",
            static date => date.Month,
            "extract(month FROM {0})"
        ),
        Part("DAY", "The day of the month.", "DAY(DATE(2024; 2; 29)) = 29", static date => date.Day, "extract(day FROM {0})"),
        Part(
            "ISOWEEKNUM",
            "The number of the week, as ISO 8601 counts them.",
            "ISOWEEKNUM(DATE(2021; 1; 3)) = 53",
            static date => ISOWeek.GetWeekOfYear(date.ToDateTime(default)),
            "extract(week FROM {0})"
        ),
        OfTime("HOUR", "The hour of a time.", "HOUR(TIME(14; 30; 0)) = 14", static time => time.Hour, "hour"),
        OfTime("MINUTE", "The minute of a time.", "MINUTE(TIME(14; 30; 0)) = 30", static time => time.Minute, "minute"),
        OfTime("SECOND", "The second of a time.", "SECOND(TIME(14; 30; 5)) = 5", static time => time.Second, "second"),
        Of(
            "WEEKDAY",
            DataType.Number,
            "The day of the week as a number. Type 1 counts from Sunday as 1, "
                + "2 from Monday as 1, 3 from Monday as 0, 11 to 17 from Monday to Sunday as 1.",
            "WEEKDAY(DATE(2024; 2; 29); 2) = 4",
            [Date("day"), Number("type", 1)],
            static given => Weekday(given[0].Date, decimal.Truncate(given[1].Number)),
            "formulas.weekday({0}, {1})",
            "SELECT CASE trunc(b) WHEN 1 THEN extract(dow FROM a) + 1 WHEN 2 THEN extract(isodow "
                + "FROM a) WHEN 3 THEN extract(isodow FROM a) - 1 ELSE CASE WHEN trunc(b) BETWEEN 11 "
                + "AND 17 THEN mod(extract(isodow FROM a) - (trunc(b) - 10) + 7, 7) + 1 END END"
        ),
        Of(
            "WEEKNUM",
            DataType.Number,
            "The number of the week; week 1 has 1 January in it. "
                + "Type 1 begins weeks on Sunday, 2 on Monday, 11 to 17 on Monday to Sunday, 21 counts as ISO 8601.",
            "WEEKNUM(DATE(2024; 1; 7)) = 2",
            [Date("day"), Number("type", 1)],
            static given => Weeknum(given[0].Date, decimal.Truncate(given[1].Number)),
            "formulas.weeknum({0}, {1})",
            """
            SELECT CASE WHEN trunc(b) = 21 THEN extract(week FROM a) WHEN trunc(b) IN (1, 2) OR trunc(b) BETWEEN 11 AND 17 THEN
              div(extract(doy FROM a) - 1 + mod(extract(isodow FROM make_date(extract(year FROM a)::int, 1, 1)) - CASE trunc(b) WHEN 1 THEN 7 WHEN 2 THEN 1 ELSE trunc(b) - 10 END + 7, 7), 7) + 1 END
            """
        ),
        Of(
            "EDATE",
            DataType.Date,
            "The same day so many months later, or the last of that month where it has no such day.",
            "EDATE(DATE(2024; 1; 31); 1) = DATE(2024; 2; 29)",
            [Date("day"), Number("months")],
            static given => Months(given[0].Date, given[1].Number, toEnd: false),
            "formulas.edate({0}, {1})",
            "SELECT CASE WHEN extract(year FROM a) * 12 + extract(month FROM a) - 1 + trunc(b) BETWEEN 12 "
                + "AND 119999 THEN (a + make_interval(months => trunc(b)::int))::date END"
        ),
        Of(
            "EOMONTH",
            DataType.Date,
            "The last day of the month so many months later.",
            "EOMONTH(DATE(2023; 1; 15); 1) = DATE(2023; 2; 28)",
            [Date("day"), Number("months")],
            static given => Months(given[0].Date, given[1].Number, toEnd: true),
            "formulas.eomonth({0}, {1})",
            "SELECT CASE WHEN extract(year FROM a) * 12 + extract(month FROM a) - 1 + trunc(b) BETWEEN 12 "
                + "AND 119999 THEN (date_trunc('month', (a + make_interval(months => "
                + "trunc(b)::int))::timestamp) + INTERVAL '1 month - 1 day')::date END"
        ),
        Of(
            "DATEDIF",
            DataType.Number,
            "Full years \"y\", months \"m\" or days \"d\" between two days; "
                + "\"ym\" months beyond full years, \"md\" days beyond full months, \"yd\" days beyond full years.",
            "DATEDIF(DATE(2000; 2; 29); DATE(2001; 2; 28); \"y\") = 0",
            [Date("from"), Date("to"), Text("unit")],
            static given => Between(given[0].Date, given[1].Date, given[2].Text),
            "formulas.datedif({0}, {1}, {2})",
            """
            DECLARE m int;
            BEGIN
              IF a > b THEN RETURN NULL; END IF;
              m := (extract(year FROM b) - extract(year FROM a)) * 12 + extract(month FROM b) - extract(month FROM a) - CASE WHEN extract(day FROM b) < extract(day FROM a) THEN 1 ELSE 0 END;
              RETURN CASE lower(c) WHEN 'y' THEN div(m, 12) WHEN 'm' THEN m WHEN 'd' THEN b - a WHEN 'ym' THEN mod(m, 12)
                WHEN 'md' THEN b - (a + make_interval(months => m))::date WHEN 'yd' THEN b - (a + make_interval(months => m / 12 * 12))::date END;
            END
            """
        ),
        Of(
            "DAYS",
            DataType.Number,
            "How many days one day is after another.",
            "DAYS(DATE(2024; 3; 1); DATE(2024; 2; 28)) = 2",
            [Date("to"), Date("from")],
            static given => Value.From((decimal)given[0].Date.DayNumber - given[1].Date.DayNumber),
            "({0} - {1})::numeric"
        ),
        Of(
            "DAYS360",
            DataType.Number,
            "How many days lie between in a year of twelve months of 30 days; European where the third is yes.",
            "DAYS360(DATE(2024; 1; 30); DATE(2024; 3; 31)) = 60",
            [Date("from"), Date("to"), YesNo("european") with { IsOptional = true, Default = Value.From(false) }],
            static given => Value.From((decimal)Days360(given[0].Date, given[1].Date, given[2].Yes)),
            "formulas.days360({0}, {1}, {2})",
            Days360Sql("c")
        ),
        Of(
            "YEARFRAC",
            DataType.Number,
            "The part of a year that lies between. Basis 0: months of 30 days as in the USA; 1: "
                + "actual days; 2: actual days of 360; 3: of 365; 4: months of 30 days as in Europe.",
            "YEARFRAC(DATE(2024; 1; 1); DATE(2024; 7; 1)) = 0.5",
            [Date("from"), Date("to"), Number("basis", 0)],
            static given => YearFraction(given[0].Date, given[1].Date, decimal.Truncate(given[2].Number)),
            "formulas.yearfrac({0}, {1}, {2})",
            """
            DECLARE d date := least(a, b); e date := greatest(a, b); y int := extract(year FROM least(a, b)); z int := extract(year FROM greatest(a, b)); days numeric := abs(b - a); leap boolean;
            BEGIN
              IF a IS NULL OR b IS NULL OR c IS NULL THEN RETURN NULL; END IF;
              CASE trunc(c)
                WHEN 0 THEN RETURN round(round(abs(formulas.days360(d, e, false)), 20) / 360, 16);
                WHEN 2 THEN RETURN round(round(days, 20) / 360, 16);
                WHEN 3 THEN RETURN round(round(days, 20) / 365, 16);
                WHEN 4 THEN RETURN round(round(abs(formulas.days360(d, e, true)), 20) / 360, 16);
                WHEN 1 THEN
                  IF e <= (d + INTERVAL '1 year')::date THEN
                    leap := (y = z AND (make_date(y, 12, 31) - make_date(y, 1, 1)) = 365)
                      OR (y <> z AND ((make_date(y, 12, 31) - make_date(y, 1, 1) = 365 AND d <= make_date(y, 2, 28) + 1) OR (make_date(z, 12, 31) - make_date(z, 1, 1) = 365 AND e >= make_date(z, 2, 28) + 1)));
                    RETURN round(round(days, 20) / CASE WHEN leap THEN 366 ELSE 365 END, 16);
                  END IF;
                  RETURN round(round(days, 20) * (z - y + 1) / (make_date(z, 12, 31) - make_date(y, 1, 1) + 1), 16);
                ELSE RETURN NULL;
              END CASE;
            END
            """
        ),
        new Workdays(
            "NETWORKDAYS",
            DataType.Number,
            "How many days from one to another, both counted, are neither Saturday or Sunday nor among the holidays.",
            "NETWORKDAYS(DATE(2024; 2; 26); DATE(2024; 3; 3)) = 5",
            [Date("from"), Date("to"), Holidays],
            static (given, holidays) => Value.From((decimal)Net(given[0].Date, given[1].Date, holidays))
        ),
        new Workdays(
            "WORKDAY",
            DataType.Date,
            "The day so many working days after another, or before it.",
            "WORKDAY(DATE(2024; 3; 1); 1) = DATE(2024; 3; 4)",
            [Date("from"), Number("days"), Holidays],
            static (given, holidays) => After(given[0].Date, decimal.Truncate(given[1].Number), holidays)
        ),
    ];

    private static Parameter Holidays =>
        new("holidays", DataType.Date)
        {
            IsOptional = true,
            IsList = true,
            IsRepeated = true,
            ReadsEmpty = true,
        };

    /// <summary>So many days after another; an error beyond the calendar.</summary>
    public static Value AddDays(DateOnly day, decimal days)
    {
        var to = day.DayNumber + decimal.Truncate(days);
        return to >= 0 && to <= DateOnly.MaxValue.DayNumber ? Value.From(DateOnly.FromDayNumber((int)to)) : Value.Failed(Reasons.NoDate);
    }

    /// <summary>The day that a text says as year-month-day.</summary>
    public static Value Read(string text) =>
        DateOnly.TryParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day)
            ? Value.From(day)
            : Value.Failed($"“{Letters.Slice(text, 0, 40)}” is not a day written as year-month-day.");

    private static Value Day(decimal year, decimal month, decimal day)
    {
        (year, month, day) = (decimal.Truncate(year), decimal.Truncate(month), decimal.Truncate(day));
        if (year is < 1 or > 9999 || Math.Abs(month) >= 1_000_000 || Math.Abs(day) >= 10_000_000)
            return Value.Failed(Reasons.NoDate);
        var months = (int)(year * 12 + month - 1);
        return months is < 12 or > 119_999 ? Value.Failed(Reasons.NoDate) : AddDays(new(months / 12, months % 12 + 1, 1), day - 1);
    }

    private static Value Clockwise(decimal seconds) =>
        decimal.Truncate(seconds) is >= 0 and < 86_400 and var whole
            ? Value.From(new TimeOnly(0).Add(TimeSpan.FromSeconds((double)whole)))
            : Value.Failed("There is no such time of day.");

    // Monday is 1, Sunday 7.
    private static int IsoDay(DateOnly day) => ((int)day.DayOfWeek + 6) % 7 + 1;

    private static Value Weekday(DateOnly day, decimal type) =>
        type switch
        {
            1 => Value.From((decimal)IsoDay(day) % 7 + 1),
            2 => Value.From((decimal)IsoDay(day)),
            3 => Value.From((decimal)IsoDay(day) - 1),
            >= 11 and <= 17 => Value.From((decimal)((IsoDay(day) - (int)(type - 10) + 7) % 7 + 1)),
            _ => Value.Failed("The type is 1, 2, 3 or from 11 to 17."),
        };

    private static Value Weeknum(DateOnly day, decimal type)
    {
        if (type == 21)
            return Value.From((decimal)ISOWeek.GetWeekOfYear(day.ToDateTime(default)));
        var first = type switch
        {
            1 => 7,
            2 => 1,
            >= 11 and <= 17 => (int)type - 10,
            _ => 0,
        };
        return first == 0
            ? Value.Failed("The type is 1, 2, 21 or from 11 to 17.")
            : Value.From((decimal)((day.DayOfYear - 1 + (IsoDay(new(day.Year, 1, 1)) - first + 7) % 7) / 7 + 1));
    }

    private static Value Months(DateOnly day, decimal months, bool toEnd)
    {
        var to = day.Year * 12 + day.Month - 1 + decimal.Truncate(months);
        if (to is < 12 or > 119_999)
            return Value.Failed(Reasons.NoDate);
        var (year, month) = ((int)to / 12, (int)to % 12 + 1);
        var last = DateTime.DaysInMonth(year, month);
        return Value.From(new DateOnly(year, month, toEnd ? last : Math.Min(day.Day, last)));
    }

    private static Value Between(DateOnly from, DateOnly to, string unit)
    {
        if (from > to)
            return Value.Failed("The first day is after the second.");
        var months = (to.Year - from.Year) * 12 + to.Month - from.Month - (to.Day < from.Day ? 1 : 0);
        return unit.ToUpperInvariant() switch
        {
            "Y" => Value.From(Math.Floor(months / 12m)),
            "M" => Value.From((decimal)months),
            "D" => Value.From((decimal)to.DayNumber - from.DayNumber),
            "YM" => Value.From((decimal)(months % 12)),
            "MD" => Value.From((decimal)to.DayNumber - from.AddMonths(months).DayNumber),
            "YD" => Value.From((decimal)to.DayNumber - from.AddMonths(months / 12 * 12).DayNumber),
            _ => Value.Failed("The unit is \"y\", \"m\", \"d\", \"ym\", \"md\" or \"yd\"."),
        };
    }

    // In the USA the last day of February counts as the 30th when the first day is one; in Europe only the 31st becomes the 30th.
    private static int Days360(DateOnly from, DateOnly to, bool isEuropean)
    {
        var (first, last) = (from.Day, to.Day);
        if (isEuropean)
        {
            (first, last) = (Math.Min(first, 30), Math.Min(last, 30));
        }
        else
        {
            if (IsEndOfFebruary(from) && IsEndOfFebruary(to))
                last = 30;
            if (IsEndOfFebruary(from))
                first = 30;
            if (last == 31 && first >= 30)
                last = 30;
            if (first == 31)
                first = 30;
        }

        return (to.Year - from.Year) * 360 + (to.Month - from.Month) * 30 + last - first;
    }

    private static string Days360Sql(string isEuropean) =>
        $"""
            DECLARE f int := extract(day FROM a); l int := extract(day FROM b); fe boolean := extract(month FROM a) = 2 AND extract(day FROM a + 1) = 1; le boolean := extract(month FROM b) = 2 AND extract(day FROM b + 1) = 1;
            BEGIN
              IF {isEuropean} THEN f := least(f, 30); l := least(l, 30);
              ELSE
                IF fe AND le THEN l := 30; END IF;
                IF fe THEN f := 30; END IF;
                IF l = 31 AND f >= 30 THEN l := 30; END IF;
                IF f = 31 THEN f := 30; END IF;
              END IF;
              RETURN (extract(year FROM b) - extract(year FROM a)) * 360 + (extract(month FROM b) - extract(month FROM a)) * 30 + l - f;
            END
            """;

    private static bool IsEndOfFebruary(DateOnly day) => day.Month == 2 && day.Day == DateTime.DaysInMonth(day.Year, 2);

    private static Value YearFraction(DateOnly from, DateOnly to, decimal basis)
    {
        var (first, last) = from <= to ? (from, to) : (to, from);
        decimal days = last.DayNumber - first.DayNumber;
        return basis switch
        {
            0 => Part(Math.Abs(Days360(first, last, isEuropean: false)), 360),
            1 => Actual(first, last, days),
            2 => Part(days, 360),
            3 => Part(days, 365),
            4 => Part(Math.Abs(Days360(first, last, isEuropean: true)), 360),
            _ => Value.Failed("The basis is from 0 to 4."),
        };
    }

    // Up to a year: of 366 days when 29 February lies between. Longer: of the average year of those touched.
    private static Value Actual(DateOnly first, DateOnly last, decimal days)
    {
        if (last > (first.Year == 9999 ? DateOnly.MaxValue : first.AddYears(1)))
            return Part(
                days * (last.Year - first.Year + 1),
                new DateOnly(last.Year, 12, 31).DayNumber - new DateOnly(first.Year, 1, 1).DayNumber + 1
            );
        var leap =
            first.Year == last.Year
                ? DateTime.IsLeapYear(first.Year)
                : (DateTime.IsLeapYear(first.Year) && first <= new DateOnly(first.Year, 2, 29))
                    || (DateTime.IsLeapYear(last.Year) && last >= new DateOnly(last.Year, 2, 29));
        return Part(days, leap ? 366 : 365);
    }

    private static Value Part(decimal of, decimal whole) => Value.From(Numbers.Round(of / whole, Compiler.Divided));

    private static int Net(DateOnly from, DateOnly to, HashSet<DateOnly> holidays)
    {
        var (first, last) = from <= to ? (from, to) : (to, from);
        var free = holidays.Count(day => day >= first && day <= last && IsoDay(day) < 6);
        var count = WeekdaysUntil(last.DayNumber + 1) - WeekdaysUntil(first.DayNumber) - free;
        return from <= to ? count : -count;
    }

    // Day 0 is a Monday.
    private static int WeekdaysUntil(int day) => day / 7 * 5 + Math.Min(day % 7, 5);

    private static Value After(DateOnly from, decimal days, HashSet<DateOnly> holidays)
    {
        if (Math.Abs(days) > MaxWorkdays)
            return Value.Failed($"WORKDAY counts {MaxWorkdays} days at most.");
        var (day, step) = (from.DayNumber, Math.Sign(days));
        for (var left = Math.Abs(days); left > 0; )
        {
            day += step;
            if (day < 0 || day > DateOnly.MaxValue.DayNumber)
                return Value.Failed(Reasons.NoDate);
            if (day % 7 < 5 && !holidays.Contains(DateOnly.FromDayNumber(day)))
                left--;
        }

        return Value.From(DateOnly.FromDayNumber(day));
    }

    private static SimpleFunction Of(
        string name,
        DataType result,
        string summary,
        string example,
        IReadOnlyList<Parameter> takes,
        Body body,
        string sql,
        string? helper = null
    ) =>
        new(name, FunctionGroup.Dates, result, summary, example, takes, body, sql)
        {
            HelperBody = helper,
            FailsOnNull = helper is not null,
        };

    private static SimpleFunction Part(string name, string summary, string example, Func<DateOnly, int> part, string sql) =>
        Of(name, DataType.Number, summary, example, [Date("day")], given => Value.From((decimal)part(given[0].Date)), sql);

    private static SimpleFunction OfTime(string name, string summary, string example, Func<TimeOnly, int> part, string field) =>
        Of(
            name,
            DataType.Number,
            summary,
            example,
            [new("time", DataType.Time)],
            given => Value.From((decimal)part(given[0].Time)),
            $"trunc(extract({field} FROM {{0}}))"
        );

    /// <summary>What the clock says.</summary>
    private sealed class ClockFunction(string name, DataType result, string summary, string example, Func<Clock, Value> reads) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Dates;

        public override string Summary => summary;

        public override string Example => example;

        public override IReadOnlyList<Parameter> Parameters => [];

        public override bool IsVolatile => true;

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) => frame => reads(frame.Clock);

        // The emitter names the moment at which the query is asked.
        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) =>
            throw new InvalidOperationException($"{Name} is written by the emitter.");

        public Value At(Clock clock) => reads(clock);
    }

    /// <summary>What a function of the clock gives at that moment, or null for any other function.</summary>
    public static Value? AtMoment(Function function, Clock clock) => (function as ClockFunction)?.At(clock);

    /// <summary>True for a function that takes holidays.</summary>
    public static bool TakesHolidays(Function function) => function is Workdays;

    /// <summary>Counts working days; the holidays are single days or lists of them.</summary>
    private sealed class Workdays(
        string name,
        DataType result,
        string summary,
        string example,
        IReadOnlyList<Parameter> takes,
        Func<Value[], HashSet<DateOnly>, Value> count
    ) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Dates;

        public override string Summary => summary;

        public override string Example => example;

        public override IReadOnlyList<Parameter> Parameters => takes;

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                Value[] given = [arguments[0](frame), arguments[1](frame)];
                if (given[0].IsError)
                    return given[0];
                if (given[1].IsError)
                    return given[1];
                var holidays = new HashSet<DateOnly>();
                for (var i = 2; i < arguments.Count; i++)
                {
                    foreach (var day in ListFunctions.Rows(call.Arguments[i], arguments[i], frame))
                    {
                        if (day.IsError)
                            return day;
                        if (!day.IsEmpty)
                            holidays.Add(day.Date);
                    }
                }

                return given[0].IsEmpty || given[1].IsEmpty ? Value.Empty : count(given, holidays);
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var days = arguments
                .Skip(2)
                .Select(
                    (part, at) =>
                        call.Arguments[at + 2] is BoundList or BoundCall { Function: HolidayList }
                            ? part.Text
                            : $"ARRAY[{part.Text}]::date[]"
                );
            var text =
                $"formulas.{name.ToLowerInvariant()}({arguments[0].Text}, {arguments[1].Text}, "
                + $"{string.Join(" || ", days.DefaultIfEmpty("ARRAY[]::date[]"))})";
            return new SqlPart(text).After(
                arguments,
                result == DataType.Date
                    ? $"(({arguments[0].Text}) IS NOT NULL AND ({arguments[1].Text}) IS NOT NULL AND {text} IS NULL)"
                    : null
            );
        }

        internal override string Helper =>
            name == "NETWORKDAYS"
                ? """
                    CREATE OR REPLACE FUNCTION formulas.networkdays(a date, b date, h date[]) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
                    SELECT CASE WHEN a IS NULL OR b IS NULL THEN NULL WHEN a <= b THEN 1 ELSE -1 END * (
                      (SELECT sum(CASE s WHEN 1 THEN 1 ELSE -1 END * (div(d, 7) * 5 + least(mod(d, 7), 5))) FROM (VALUES (1, (greatest(a, b) + 1 - DATE '0001-01-01')::numeric), (2, (least(a, b) - DATE '0001-01-01')::numeric)) AS v(s, d))
                      - (SELECT count(DISTINCT x) FROM unnest(h) x WHERE x BETWEEN least(a, b) AND greatest(a, b) AND extract(isodow FROM x) < 6))
                    $$;
                    """
                : $"""
                    CREATE OR REPLACE FUNCTION formulas.workday(a date, b numeric, h date[]) RETURNS date LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
                    DECLARE d date := a; l int; s int := sign(trunc(b));
                    BEGIN
                      IF a IS NULL OR b IS NULL OR abs(trunc(b)) > {MaxWorkdays} THEN RETURN NULL; END IF;
                      l := abs(trunc(b));
                      WHILE l > 0 LOOP
                        d := formulas.add_days(d, s);
                        IF d IS NULL THEN RETURN NULL; END IF;
                        IF extract(isodow FROM d) < 6 AND NOT coalesce(d = ANY(h), false) THEN l := l - 1; END IF;
                      END LOOP;
                      RETURN d;
                    END
                    $$;
                    """;
    }
}
