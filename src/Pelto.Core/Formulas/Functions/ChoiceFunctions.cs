using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>What stands behind the codes of choices. A choice itself reads as its code.</summary>
internal static class ChoiceFunctions
{
    public static IReadOnlyList<Function> All { get; } = [new ChoiceLabel(), new HasChoice()];

    private static FieldKind? KindOf(Bound bound) =>
        bound switch
        {
            BoundField field => field.Field.Kind,
            BoundThrough through => through.Field.Kind,
            _ => null,
        };

    private static ChoiceSet ChoicesOf(Bound bound) => KindOf(bound)!.Choices!;

    private sealed class ChoiceLabel : Function
    {
        public override string Name => "CHOICELABEL";

        public override FunctionGroup Group => FunctionGroup.Choices;

        public override string Summary => "What people read for the choice in a field; the field by itself reads as the choice's code.";

        public override string Example => "";

        public override IReadOnlyList<Parameter> Parameters { get; } = [Text("field")];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Text;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            KindOf(arguments[0])?.IsOneChoice == true ? null : (arguments[0], "A field that holds a choice is expected here.");

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var (choices, given) = (ChoicesOf(call.Arguments[0]), arguments[0]);
            return frame => given(frame) is { DataType: DataType.Text } code ? Value.From(choices.LabelOf(code.Text)) : Value.Empty;
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var choices = ChoicesOf(call.Arguments[0]).All;
            return choices.Count == 0
                ? arguments[0]
                : arguments[0] with
                {
                    Text =
                        $"(CASE {arguments[0].Text} {string.Concat(choices.Select(choice => $"WHEN {Quoted(choice.Code)} THEN {Quoted(choice.Label)} "))}ELSE {arguments[0].Text} END)",
                };
        }

        private static string Quoted(string text) => $"'{text.Replace("'", "''", StringComparison.Ordinal)}'";
    }

    private sealed class HasChoice : Function
    {
        public override string Name => "HASCHOICE";

        public override FunctionGroup Group => FunctionGroup.Choices;

        public override string Summary => "Whether a field of several choices has the one with this code.";

        public override string Example => "";

        public override IReadOnlyList<Parameter> Parameters { get; } = [new("field", DataType.Several), Text("code")];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.YesNo;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            KindOf(arguments[0]) is not { IsSeveralChoices: true, Choices: { } choices }
                ? (arguments[0], "A field that holds several choices is expected here.")
            : arguments[1] is BoundLiteral { Value: { DataType: DataType.Text } code } && choices.Find(code.Text) is null
                ? (
                    arguments[1],
                    $"“{code.Text}” is not among the choices.{(Nearest.To(code.Text, choices.All.Select(choice => choice.Code)) is { } near ? $" Did you mean {near}?" : "")}"
                )
            : null;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var (chosen, code) = (arguments[0](frame), arguments[1](frame));
                if (code.IsError)
                    return code;
                return Value.From(chosen.DataType == DataType.Several && !code.IsEmpty && chosen.Codes.Contains(code.Text));
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) =>
            new SqlPart($"coalesce({arguments[1].Text} = ANY({arguments[0].Text}), false)").After(arguments);
    }
}
