namespace Pelto.Core.Formulas;

/// <summary>Turns a bound tree into one delegate.</summary>
internal static class Compiler
{
    /// <summary>Decimals of a quotient.</summary>
    public const int Divided = 16;

    public static Evaluator Compile(Bound bound)
    {
        switch (bound)
        {
            case BoundLiteral literal:
                return _ => literal.Value;
            case BoundParameter parameter:
                return frame =>
                    frame.Typed is { } typed
                        ? typed(parameter.Name)
                        : Value.Failed($"The parameter :{parameter.Name} is known in the database only.");
            case BoundField field:
                var slot = field.Field.Slot;
                return field.Of switch
                {
                    Place.Line => frame => frame.Line![slot],
                    Place.Item => frame => frame.Item![slot],
                    Place.AtHand => frame => frame.AtHand!.Header[slot],
                    Place.AtHandLine => frame => frame.AtHand!.Line![slot],
                    _ => frame => frame.Header[slot],
                };
            case BoundThrough through:
                var (link, reached) = (Compile(through.Link), through.Field);
                return frame =>
                    link(frame) is { DataType: DataType.Link } to
                        ? frame.FindRelated?.Invoke(reached.Part, to.Target)?[reached.Slot] ?? Value.Empty
                        : Value.Empty;
            case BoundNegate negate:
                var operand = Compile(negate.Operand);
                return frame =>
                    operand(frame) is var value && value.DataType == DataType.Number ? Value.From(-value.Number)
                    : value.IsEmpty || value.IsError ? value
                    : AmountFunctions.With(value, -value.Amount);
            case BoundConvert convert:
                var given = Compile(convert.Operand);
                return convert.Operand.DataType == DataType.Empty ? given
                    : convert.DataType == DataType.Text ? frame => ToText(given(frame))
                    : frame => Turn(given(frame), convert.DataType, frame.Clock);
            case BoundBinary binary:
                return Compile(binary);
            case BoundList list:
                return Compile(list.Item);
            case BoundCall call:
                return call.Function.Compile(call, [.. call.Arguments.Select(Compile)]);
            default:
                throw new InvalidOperationException($"A node of type {bound.GetType().Name} cannot be run.");
        }
    }

    private static Evaluator Compile(BoundBinary binary)
    {
        var (left, right, op) = (Compile(binary.Left), Compile(binary.Right), binary.Operator);
        if (op == "&")
            return frame => Join(left(frame), right(frame));
        if (op is not ("+" or "-" or "*" or "/" or "^"))
            return frame => Compare(op, left(frame), right(frame));
        if (binary is { Left.DataType: DataType.Number, Right.DataType: DataType.Number } && op != "^")
            return Numeric(op, left, right);
        Func<Value, Value, Value> reckon = (op, binary.Left.DataType, binary.Right.DataType) switch
        {
            ("+", DataType.Date, _) => static (day, days) => DateFunctions.AddDays(day.Date, days.Number),
            ("+", _, DataType.Date) => static (days, day) => DateFunctions.AddDays(day.Date, days.Number),
            ("-", DataType.Date, DataType.Date) => static (to, from) => Value.From((decimal)to.Date.DayNumber - from.Date.DayNumber),
            ("-", DataType.Date, _) => static (day, days) => DateFunctions.AddDays(day.Date, -days.Number),
            ("-", DataType.Moment, _) => static (to, from) =>
                Value.From(Numbers.Round((to.Moment.Ticks - from.Moment.Ticks) / TimeSpan.TicksPerSecond / 86_400m, Divided)),
            ("+", DataType.Money or DataType.Quantity, _) => AmountFunctions.Add,
            ("-", DataType.Money or DataType.Quantity, _) => static (from, less) =>
                AmountFunctions.Add(from, AmountFunctions.With(less, -less.Amount)),
            ("*", DataType.Money or DataType.Quantity, _) => static (amount, times) =>
                AmountFunctions.With(amount, amount.Amount * times.Number),
            ("*", _, DataType.Money or DataType.Quantity) => static (times, amount) =>
                AmountFunctions.With(amount, amount.Amount * times.Number),
            ("/", DataType.Money or DataType.Quantity, DataType.Number) => static (amount, by) =>
                Divide(amount.Amount, by.Number) is var share && share.IsError ? share : AmountFunctions.With(amount, share.Number),
            ("/", DataType.Money or DataType.Quantity, _) => static (amount, by) =>
                AmountFunctions.InUnitOf(amount, by) is var same && same.IsError ? same : Divide(amount.Amount, same.Amount),
            _ => static (a, b) => NumberFunctions.Power(a.Number, b.Number),
        };
        return frame => Reckon(reckon, left(frame), right(frame));
    }

    // What most formulas are made of, without a step in between.
    private static Evaluator Numeric(string op, Evaluator left, Evaluator right) =>
        op switch
        {
            "+" => frame =>
            {
                var (a, b) = (left(frame), right(frame));
                if (a.DataType != DataType.Number || b.DataType != DataType.Number)
                    return Without(a, b);
                try
                {
                    return Value.From(a.Number + b.Number);
                }
                catch (OverflowException)
                {
                    return TooLarge;
                }
            },
            "-" => frame =>
            {
                var (a, b) = (left(frame), right(frame));
                if (a.DataType != DataType.Number || b.DataType != DataType.Number)
                    return Without(a, b);
                try
                {
                    return Value.From(a.Number - b.Number);
                }
                catch (OverflowException)
                {
                    return TooLarge;
                }
            },
            "*" => frame =>
            {
                var (a, b) = (left(frame), right(frame));
                if (a.DataType != DataType.Number || b.DataType != DataType.Number)
                    return Without(a, b);
                try
                {
                    return Value.From(a.Number * b.Number);
                }
                catch (OverflowException)
                {
                    return TooLarge;
                }
            },
            _ => frame =>
            {
                var (a, b) = (left(frame), right(frame));
                if (a.DataType != DataType.Number || b.DataType != DataType.Number)
                    return Without(a, b);
                try
                {
                    return Divide(a.Number, b.Number);
                }
                catch (OverflowException)
                {
                    return TooLarge;
                }
            },
        };

    private static Value TooLarge => Value.Failed(Reasons.TooLarge);

    // Where one of them is no number: the first error, else nothing.
    private static Value Without(Value left, Value right) =>
        left.IsError ? left
        : right.IsError ? right
        : Value.Empty;

    // Carried to 16 decimals, so that the database and memory give the same.
    private static Value Divide(decimal number, decimal by) =>
        by == 0 ? Value.Failed(Reasons.ByZero) : Value.From(Numbers.Round(number / by, Divided));

    // Empty in, empty out: an order line without a price has no amount rather than an amount of 0.
    private static Value Reckon(Func<Value, Value, Value> operation, Value left, Value right)
    {
        if (left.IsError)
            return left;
        if (right.IsError)
            return right;
        if (left.IsEmpty || right.IsEmpty)
            return Value.Empty;
        try
        {
            return operation(left, right);
        }
        catch (OverflowException)
        {
            return Value.Failed(Reasons.TooLarge);
        }
    }

    private static Value Join(Value left, Value right) =>
        left.IsError ? left
        : right.IsError ? right
        : TextFunctions.Join(TextFunctions.Read(left), TextFunctions.Read(right));

    // As the database writes them too: numbers with a point and without zeros at the end, days as year-month-day.
    private static Value ToText(Value value) =>
        value.DataType switch
        {
            DataType.Number => Value.From(Numbers.Shortest(value.Number).ToString(CultureInfo.InvariantCulture)),
            DataType.Date => Value.From(value.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)),
            DataType.YesNo => Value.From(value.Yes ? "TRUE" : "FALSE"),
            DataType.Time => Value.From(value.Time.ToString("HH:mm:ss", CultureInfo.InvariantCulture)),
            _ => value,
        };

    // A moment has its day and its time of day where people work.
    private static Value Turn(Value value, DataType into, Clock clock) =>
        (value.IsEmpty || value.IsError, into) switch
        {
            (true, _) => value,
            (_, DataType.Number) => Value.From(value.Yes ? 1m : 0m),
            (_, DataType.Date) => Value.From(DateOnly.FromDateTime(There(value, clock))),
            (_, DataType.Time) => Value.From(
                TimeOnly.FromTimeSpan(TimeSpan.FromSeconds(Math.Floor(There(value, clock).TimeOfDay.TotalSeconds)))
            ),
            _ => Value.From(value.Number != 0),
        };

    private static DateTime There(Value moment, Clock clock) =>
        TimeZoneInfo.ConvertTimeFromUtc(DateTime.SpecifyKind(moment.Moment, DateTimeKind.Utc), clock.Zone);

    /// <summary>
    /// Compares two values. Empty equals only empty; an order comparison with empty is no. Texts compare without regard to case
    /// (OpenFormula 6.4.7).
    /// </summary>
    public static Value Compare(string op, Value left, Value right)
    {
        if (left.IsError)
            return left;
        if (right.IsError)
            return right;
        if (left.IsEmpty || right.IsEmpty)
            return Value.From(
                op switch
                {
                    "=" => left.IsEmpty == right.IsEmpty,
                    "<>" => left.IsEmpty != right.IsEmpty,
                    _ => false,
                }
            );
        if (left.DataType is DataType.Money or DataType.Quantity && (right = AmountFunctions.InUnitOf(left, right)).IsError)
            return right;
        var order = left.DataType switch
        {
            DataType.Text => string.Compare(left.Text, right.Text, StringComparison.OrdinalIgnoreCase),
            DataType.Number => left.Number.CompareTo(right.Number),
            DataType.Date => left.Date.CompareTo(right.Date),
            DataType.YesNo => left.Yes.CompareTo(right.Yes),
            DataType.Time => left.Time.CompareTo(right.Time),
            DataType.Moment => left.Moment.CompareTo(right.Moment),
            DataType.Money or DataType.Quantity => left.Amount.CompareTo(right.Amount),
            _ => left.Target.CompareTo(right.Target),
        };
        return Value.From(
            op switch
            {
                "=" => order == 0,
                "<>" => order != 0,
                "<" => order < 0,
                "<=" => order <= 0,
                ">" => order > 0,
                _ => order >= 0,
            }
        );
    }
}
