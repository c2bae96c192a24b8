namespace Pelto.Core.Formulas;

/// <summary>How large a number a formula can give at most, as far as that can be told from the sizes of the fields that it reads.</summary>
internal static class Magnitudes
{
    /// <summary>A bound for the absolute value; null where none can be told.</summary>
    public static double? Most(Bound bound) =>
        bound switch
        {
            BoundLiteral { Value.DataType: DataType.Number } literal => (double)Math.Abs(literal.Value.Number),
            BoundLiteral { Value.IsEmpty: true } => 0,
            BoundField field => field.Field.IsLive ? (double)FieldKind.MaxLive : field.Field.Kind.MaxNumber,
            BoundThrough through => through.Field.IsLive ? (double)FieldKind.MaxLive : through.Field.Kind.MaxNumber,
            BoundNegate negate => Most(negate.Operand),
            BoundConvert { DataType: DataType.Number, Operand.DataType: DataType.YesNo } => 1,
            BoundBinary { DataType: DataType.Number, Operator: "+" or "-" } sum => Most(sum.Left) + Most(sum.Right),
            BoundBinary { DataType: DataType.Number, Operator: "*" } product => Most(product.Left) * Most(product.Right),
            BoundBinary
            {
                DataType: DataType.Number,
                Operator: "/",
                Right: BoundLiteral { Value: { DataType: DataType.Number, Number: not 0 } by }
            } share => Most(share.Left) / (double)Math.Abs(by.Number),
            BoundList list => Most(list.Item),
            BoundCall { Function.Name: "ABS" or "INT" } whole => Most(whole.Arguments[0]) + 1,
            BoundCall { Function.Name: "ROUND" } rounded
                when rounded.Arguments
                    is [_, BoundLiteral { Value: { DataType: DataType.Empty } or { DataType: DataType.Number, Number: >= 0 } }] => Most(
                rounded.Arguments[0]
            ) + 1,
            BoundCall { Function.Name: "MIN" or "MAX" or "AVERAGE", DataType: DataType.Number } some => Largest(some.Arguments),
            BoundCall { Function.Name: "IF", DataType: DataType.Number } either => Largest(either.Arguments.Skip(1)),
            _ => null,
        };

    private static double? Largest(IEnumerable<Bound> some) =>
        some.Aggregate((double?)0, static (most, one) => Most(one) is { } of && most is { } far ? Math.Max(of, far) : null);
}
