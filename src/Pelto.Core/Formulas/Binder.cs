using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>Looks names up, works out types and says what does not fit, at its place.</summary>
internal sealed class Binder(Part part, List<FormulaProblem> problems)
{
    private readonly HashSet<Field> reads = [];

    public IReadOnlySet<Field> Reads => reads;

    public Bound Bind(Syntax syntax, bool listAllowed = false) => syntax switch
    {
        LiteralSyntax literal => new BoundLiteral(literal.Value, literal.Span),
        PathSyntax path => BindPath(path, listAllowed),
        NegateSyntax negate => new BoundNegate(Wanted(Bind(negate.Operand), ValueForm.Number), negate.Span),
        BinarySyntax binary => BindBinary(binary),
        CallSyntax call => BindCall(call),
        _ => throw new InvalidOperationException($"A formula node of type {syntax.GetType().Name} cannot be bound."),
    };

    private Bound BindPath(PathSyntax path, bool listAllowed)
    {
        var first = path.Names[0].Text;
        if (path.Names.Count == 1)
        {
            if (part.IsLines && part.Find(first) is { } own) return Read(new BoundField(own, OfLine: true, path.Span));
            if (part.RecordType.Header.Find(first) is { } header) return Read(new BoundField(header, OfLine: false, path.Span));
            return Unknown(path.Names[0], part.Fields.Concat(part.RecordType.Header.Fields).Select(field => field.Code));
        }

        var lines = part.RecordType.LineParts.ToList().FindIndex(candidate => candidate.Code == first);
        if (lines < 0) return Unknown(path.Names[0], part.RecordType.LineParts.Select(candidate => candidate.Code));
        var list = part.RecordType.LineParts[lines];
        if (path.Names.Count > 2) return Refuse(path.Span, "A path over lines ends with a field of the lines.");
        if (list.Find(path.Names[1].Text) is not { } field) return Unknown(path.Names[1], list.Fields.Select(candidate => candidate.Code));
        if (!listAllowed) return Refuse(path.Span, $"{first}.{field.Code} is a list over all lines; a function such as SUM makes one value of it.");
        reads.Add(field);
        return new BoundLines(field, lines, path.Span);
    }

    private BoundField Read(BoundField field)
    {
        reads.Add(field.Field);
        return field;
    }

    private BoundBinary BindBinary(BinarySyntax binary)
    {
        var (left, right) = (Bind(binary.Left), Bind(binary.Right));
        if (binary.Operator is "+" or "-" or "*" or "/")
            return new(binary.Operator, Wanted(left, ValueForm.Number), Wanted(right, ValueForm.Number), ValueForm.Number, binary.Span);
        if (left.Type != right.Type && left.Type != ValueForm.Empty && right.Type != ValueForm.Empty)
            Refuse(binary.Span, $"{Said(left.Type)} cannot be compared with {Said(right.Type)}.");
        return new(binary.Operator, left, right, ValueForm.YesNo, binary.Span);
    }

    private Bound BindCall(CallSyntax call)
    {
        if (!Functions.ByName.TryGetValue(call.Name.Text, out var function))
            return Unknown(call.Name, Functions.ByName.Keys, "function");
        var least = function.Parameters.Count(parameter => !parameter.IsOptional);
        if (call.Arguments.Count < least || (call.Arguments.Count > function.Parameters.Count && !function.Parameters[^1].IsRepeated))
            return Refuse(call.Span, $"{function.Name} is written {function.Name}({string.Join("; ", function.Parameters.Select(p => p.IsOptional ? $"[{p.Name}]" : p.IsRepeated ? p.Name + "; …" : p.Name))}).");
        var arguments = new List<Bound>();
        for (var i = 0; i < call.Arguments.Count; i++)
        {
            var parameter = function.Parameters[Math.Min(i, function.Parameters.Count - 1)];
            var argument = Bind(call.Arguments[i], parameter.IsList);
            arguments.Add(parameter.Type is { } type ? Wanted(argument, type) : argument);
        }

        var result = function.ResultType(arguments);
        if (function is If && arguments.Count == 3 && arguments[2].Type is var other && other != ValueForm.Empty && other != result)
            return Refuse(call.Arguments[2].Span, $"Both outcomes must be of one type: {Said(result)} here and {Said(other)} there.");
        return new BoundCall(function, arguments, result, call.Span);
    }

    private Bound Wanted(Bound given, ValueForm type)
    {
        if (given.Type != type && given.Type != ValueForm.Empty) Refuse(given.Span, $"{Said(type)} is needed here, not {Said(given.Type)}.".Capital());
        return given;
    }

    private BoundLiteral Unknown(Token name, IEnumerable<string> known, string what = "field")
    {
        var nearest = Nearest.To(name.Text, known);
        return Refuse(name.Span, $"There is no {what} “{name.Text}” here." + (nearest is null ? "" : $" Did you mean {nearest}?"));
    }

    private BoundLiteral Refuse(Span at, string message)
    {
        problems.Add(new(at, message.Capital()));
        return new(Value.Empty, at);
    }

    private static string Said(ValueForm type) => type switch
    {
        ValueForm.Text => "a text",
        ValueForm.Number => "a number",
        ValueForm.Date => "a date",
        ValueForm.YesNo => "yes or no",
        ValueForm.Link => "a link",
        _ => "nothing",
    };
}
