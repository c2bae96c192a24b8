using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>Turns a bound tree into SQL. Each rule here has its twin in <see cref="Compiler"/>; a test holds them against each other.</summary>
internal sealed class SqlEmitter(SqlNames names, Frame? atHand)
{
    public SqlPart Emit(Bound bound) => bound switch
    {
        BoundLiteral literal => new(names.Of(literal.Value, ColumnOf(literal.Type))),
        BoundField { Of: Place.AtHand } field => new(names.Of(atHand!.Header[field.Field.Slot], TypeOf(field.Field))),
        BoundField { Of: Place.AtHandLine } field => new(names.Of(atHand!.Line![field.Field.Slot], TypeOf(field.Field))),
        BoundField field => new(Number(field.Field, names.Column(field.Field))),
        BoundThrough through => new(Number(through.Field, names.Through(Emit(through.Link).Text, through.Field))),
        BoundNegate negate => Emit(negate.Operand) is var operand ? operand with { Text = $"(-{operand.Text})" } : default,
        BoundBinary { Operator: "+" or "-" or "*" or "/" } binary => Reckon(binary.Operator, Emit(binary.Left), Emit(binary.Right)),
        BoundBinary binary => Compare(binary.Operator, binary.Left.Type, Emit(binary.Left), Emit(binary.Right)),
        BoundCall { Arguments: [BoundLines lines] } call => call.Function.EmitOver(aggregate => names.Over(lines.Field, aggregate)),
        BoundCall call => call.Function.Emit([.. call.Arguments.Select(Emit)]),
        _ => throw new InvalidOperationException($"A node of type {bound.GetType().Name} cannot be written as SQL."),
    };

    public IEnumerable<string> Conditions(Bound bound)
    {
        if (bound is BoundCall { Function: And } all && !CanFail(bound)) return all.Arguments.SelectMany(Conditions);
        if (bound is BoundBinary { Operator: "=" or "<" or "<=" or ">" or ">=" } compared && !CanFail(bound) && (compared.Operator != "=" || IsFilled(compared.Left) || IsFilled(compared.Right)))
            return [$"{Key(compared.Left.Type, Emit(compared.Left).Text)} {compared.Operator} {Key(compared.Right.Type, Emit(compared.Right).Text)}"];
        var whole = Emit(bound);
        return whole.Fails is null ? [whole.Text] : [$"NOT {whole.Fails}", whole.Text];
    }

    // Only division gives errors.
    private static bool CanFail(Bound bound) => bound switch
    {
        BoundBinary binary => binary.Operator == "/" || CanFail(binary.Left) || CanFail(binary.Right),
        BoundNegate negate => CanFail(negate.Operand),
        BoundCall call => call.Arguments.Any(CanFail),
        _ => false,
    };

    // Where one side is never empty, a plain comparison says the same as the careful one, and an index can serve it.
    private bool IsFilled(Bound bound) => bound switch
    {
        BoundLiteral literal => !literal.Value.IsEmpty,
        BoundField { Of: Place.AtHand } field => !atHand!.Header[field.Field.Slot].IsEmpty,
        BoundField { Of: Place.AtHandLine } field => !atHand!.Line![field.Field.Slot].IsEmpty,
        _ => false,
    };

    private static SqlPart Reckon(string op, SqlPart left, SqlPart right)
    {
        var fails = SqlPart.Any(left.Fails, right.Fails);
        return op == "/"
            ? new($"round(round({left.Text}, 20) / nullif({right.Text}, 0), {Compiler.Divided})", SqlPart.Any(fails, $"coalesce({left.Text} IS NOT NULL AND {right.Text} = 0, false)"))
            : new($"({left.Text} {op} {right.Text})", fails);
    }

    private static SqlPart Compare(string op, ValueForm type, SqlPart left, SqlPart right)
    {
        var (a, b) = (Key(type, left.Text), Key(type, right.Text));
        return new(op switch
        {
            "=" => $"({a} IS NOT DISTINCT FROM {b})",
            "<>" => $"({a} IS DISTINCT FROM {b})",
            _ => $"coalesce({a} {op} {b}, false)",
        }, SqlPart.Any(left.Fails, right.Fails));
    }

    // Texts are compared without regard to case, letter by letter, and in the order of their code points.
    private static string Key(ValueForm type, string text) => type == ValueForm.Text ? $"(upper({text} COLLATE \"C.utf8\") COLLATE \"C\")" : text;

    private static string Number(Field field, string column) => field.Kind.Holds == ValueForm.Number && field.Columns[0].Type == ColumnType.Integer ? $"({column})::numeric" : column;

    private static ColumnType TypeOf(Field field) => field.Kind.Holds == ValueForm.Number ? ColumnType.Numeric : field.Columns[0].Type;

    private static ColumnType ColumnOf(ValueForm form) => form switch
    {
        ValueForm.Number => ColumnType.Numeric,
        ValueForm.Date => ColumnType.Date,
        ValueForm.YesNo => ColumnType.Boolean,
        _ => ColumnType.Text,
    };
}
