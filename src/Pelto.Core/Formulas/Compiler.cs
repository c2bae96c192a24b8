using Pelto.Core.Values;

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
            case BoundField field:
                var slot = field.Field.Slot;
                return field.Of switch
                {
                    Place.Line => frame => frame.Line![slot],
                    Place.AtHand => frame => frame.AtHand!.Header[slot],
                    Place.AtHandLine => frame => frame.AtHand!.Line![slot],
                    _ => frame => frame.Header[slot],
                };
            case BoundThrough through:
                var (link, reached) = (Compile(through.Link), through.Field);
                return frame => link(frame) is { Type: ValueForm.Link } to ? frame.Reach?.Invoke(reached.Part.RecordType, to.Target)?[reached.Slot] ?? Value.Empty : Value.Empty;
            case BoundNegate negate:
                var operand = Compile(negate.Operand);
                return frame =>
                {
                    var value = operand(frame);
                    return value.Type == ValueForm.Number ? Value.Of(-value.Number) : value;
                };
            case BoundBinary binary:
                return Compile(binary);
            case BoundCall { Function: var function, Arguments: [BoundLines lines] }:
                return frame => function.Over(frame.Lines[lines.Part].Select(line => line[lines.Field.Slot]));
            case BoundCall call:
                return call.Function.Compile([.. call.Arguments.Select(Compile)]);
            default:
                throw new InvalidOperationException($"A node of type {bound.GetType().Name} cannot be run.");
        }
    }

    private static Evaluator Compile(BoundBinary binary)
    {
        var (left, right) = (Compile(binary.Left), Compile(binary.Right));
        Func<decimal, decimal, Value>? arithmetic = binary.Operator switch
        {
            "+" => static (a, b) => Value.Of(a + b),
            "-" => static (a, b) => Value.Of(a - b),
            "*" => static (a, b) => Value.Of(a * b),
            // Carried to 16 decimals, so that the database and memory give the same.
            "/" => static (a, b) => b == 0 ? Value.Failed("Division by zero.") : Value.Of(Numbers.Round(a / b, Divided)),
            _ => null,
        };
        return arithmetic is not null
            ? frame => Reckon(arithmetic, left(frame), right(frame))
            : frame => Compare(binary.Operator, left(frame), right(frame));
    }

    // Empty in, empty out: an order line without a price has no amount rather than an amount of 0.
    private static Value Reckon(Func<decimal, decimal, Value> operation, Value left, Value right)
    {
        if (left.IsError) return left;
        if (right.IsError) return right;
        if (left.IsEmpty || right.IsEmpty) return Value.Empty;
        try
        {
            return operation(left.Number, right.Number);
        }
        catch (OverflowException)
        {
            return Value.Failed("The result is larger than can be reckoned with.");
        }
    }

    // Empty equals only empty; an order comparison with empty is no. Texts compare without regard to case (OpenFormula 6.4.7).
    private static Value Compare(string op, Value left, Value right)
    {
        if (left.IsError) return left;
        if (right.IsError) return right;
        if (left.IsEmpty || right.IsEmpty)
            return Value.Of(op switch { "=" => left.IsEmpty == right.IsEmpty, "<>" => left.IsEmpty != right.IsEmpty, _ => false });
        var order = left.Type switch
        {
            ValueForm.Text => string.Compare(left.Text, right.Text, StringComparison.OrdinalIgnoreCase),
            ValueForm.Number => left.Number.CompareTo(right.Number),
            ValueForm.Date => left.Date.CompareTo(right.Date),
            ValueForm.YesNo => left.Yes.CompareTo(right.Yes),
            ValueForm.Time => left.Time.CompareTo(right.Time),
            ValueForm.Moment => left.Moment.CompareTo(right.Moment),
            _ => left.Target.CompareTo(right.Target),
        };
        return Value.Of(op switch { "=" => order == 0, "<>" => order != 0, "<" => order < 0, "<=" => order <= 0, ">" => order > 0, _ => order >= 0 });
    }
}
