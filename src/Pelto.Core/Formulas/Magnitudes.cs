using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>How large a number a formula can give at most, as far as that can be told from the sizes of the fields that it reads.</summary>
internal static class Magnitudes
{
    /// <summary>A bound for the absolute value; null where none can be told.</summary>
    public static double? Most(Bound bound) =>
        bound switch
        {
            BoundLiteral { Value.Type: ValueForm.Number } literal => (double)Math.Abs(literal.Value.Number),
            BoundLiteral { Value.IsEmpty: true } => 0,
            BoundField field => field.Field.IsLive ? (double)FieldKind.MostLive : field.Field.Kind.MostNumber,
            BoundThrough through => through.Field.IsLive ? (double)FieldKind.MostLive : through.Field.Kind.MostNumber,
            BoundNegate negate => Most(negate.Operand),
            BoundConvert { Type: ValueForm.Number, Operand.Type: ValueForm.YesNo } => 1,
            BoundBinary { Type: ValueForm.Number, Operator: "+" or "-" } sum => Most(sum.Left) + Most(sum.Right),
            BoundBinary { Type: ValueForm.Number, Operator: "*" } product => Most(product.Left) * Most(product.Right),
            BoundBinary
            {
                Type: ValueForm.Number,
                Operator: "/",
                Right: BoundLiteral { Value: { Type: ValueForm.Number, Number: not 0 } by }
            } share => Most(share.Left) / (double)Math.Abs(by.Number),
            BoundList list => Most(list.Item),
            BoundCall { Function.Name: "ABS" or "INT" } whole => Most(whole.Arguments[0]) + 1,
            BoundCall { Function.Name: "ROUND" } rounded
                when rounded.Arguments
                    is [_, BoundLiteral { Value: { Type: ValueForm.Empty } or { Type: ValueForm.Number, Number: >= 0 } }] => Most(
                rounded.Arguments[0]
            ) + 1,
            BoundCall { Function.Name: "MIN" or "MAX" or "AVERAGE", Type: ValueForm.Number } some => Largest(some.Arguments),
            BoundCall { Function.Name: "IF", Type: ValueForm.Number } either => Largest(either.Arguments.Skip(1)),
            _ => null,
        };

    private static double? Largest(IEnumerable<Bound> some) =>
        some.Aggregate((double?)0, static (most, one) => Most(one) is { } of && most is { } far ? Math.Max(of, far) : null);
}
