using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>Looks names up, works out types and says what does not fit, at its place.</summary>
/// <param name="part">Where names are looked up.</param>
/// <param name="atHand">For the condition of a link: the part in which the link stands. Its record is named <c>record</c>, and in lines its line <c>line</c>.</param>
/// <param name="problems">Takes what does not fit.</param>
internal sealed class Binder(Part part, Part? atHand, List<FormulaProblem> problems)
{
    /// <summary>Before the point: the record in which a link is being filled.</summary>
    public const string RecordName = "record";

    /// <summary>Before the point: the line in which a link is being filled.</summary>
    public const string LineName = "line";

    private readonly HashSet<Field> reads = [];
    private readonly HashSet<Field> watches = [];
    private readonly HashSet<Field> mayBeEmpty = [];
    private bool isAskedIfBlank;

    /// <summary>The fields that the formula depends on, without those of the record at hand.</summary>
    public IReadOnlySet<Field> Reads => reads;

    /// <summary>The fields of the record at hand that it depends on.</summary>
    public IReadOnlySet<Field> Watches => watches;

    /// <summary>Those of them that it asks whether they are filled: it has an answer for empty ones too.</summary>
    public IReadOnlySet<Field> MayBeEmpty => mayBeEmpty;

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
        var names = path.Names;
        if (atHand is not null && names.Count > 1 && names[0].Text == RecordName) return Reached(names, 1, AtHand(atHand.RecordType.Header, Place.AtHand, names[1]), path);
        if (atHand is { IsLines: true } && names.Count > 1 && names[0].Text == LineName) return Reached(names, 1, AtHand(atHand, Place.AtHandLine, names[1]), path);
        var first = names[0].Text;
        var lines = part.RecordType.LineParts.ToList().FindIndex(candidate => candidate.Code == first);
        if (names.Count > 1 && lines >= 0) return BindLines(path, lines, listAllowed);
        if (part.IsLines && part.Find(first) is { } own) return Reached(names, 0, Read(new BoundField(own, Place.Line, names[0].Span)), path);
        if (part.RecordType.Header.Find(first) is { } header) return Reached(names, 0, Read(new BoundField(header, Place.Header, names[0].Span)), path);
        var known = part.Fields.Concat(part.RecordType.Header.Fields).Select(field => field.Code);
        return Unknown(names[0], names.Count > 1 ? known.Concat(part.RecordType.LineParts.Select(candidate => candidate.Code)) : known);
    }

    private Bound AtHand(Part of, Place place, Token name)
    {
        if (of.Find(name.Text) is not { } field) return Unknown(name, of.Fields.Select(candidate => candidate.Code));
        if (field.IsSeen) return Refuse(name.Span, $"{field.Label} is seen through a link: write the way there, {RecordName}.{field.Content.Path}.");
        if (RefusesSeveral(field) is { } refusal) return Refuse(name.Span, refusal);
        watches.Add(field);
        if (isAskedIfBlank) mayBeEmpty.Add(field);
        return new BoundField(field, place, name.Span);
    }

    // What follows the points: each step leads through a link.
    private Bound Reached(IReadOnlyList<Token> names, int at, Bound from, PathSyntax path)
    {
        for (var step = at + 1; step < names.Count; step++)
        {
            var link = from switch { BoundField own => own.Field, BoundThrough far => far.Field, _ => null };
            if (link is null) return from;
            if (link.Target is not { } target) return Refuse(names[step].Span, $"{link.Label} is no link, so nothing can be read through it.");
            if (atHand is null) return Refuse(names[step].Span, "Only conditions of links can read through links so far.");
            if (target.Header.Find(names[step].Text) is not { } field) return Unknown(names[step], target.Header.Fields.Select(candidate => candidate.Code));
            if (RefusesSeveral(field) is { } refusal) return Refuse(names[step].Span, refusal);
            if (field.IsSeen) return Refuse(names[step].Span, $"{field.Label} is seen through a link itself: write the whole way there.");
            from = new BoundThrough(from, field, Span.Over(path.Span, names[step].Span));
        }

        return from;
    }

    private Bound BindLines(PathSyntax path, int lines, bool listAllowed)
    {
        var list = part.RecordType.LineParts[lines];
        if (path.Names.Count > 2) return Refuse(path.Span, "A path over lines ends with a field of the lines.");
        if (list.Find(path.Names[1].Text) is not { } field) return Unknown(path.Names[1], list.Fields.Select(candidate => candidate.Code));
        if (!listAllowed) return Refuse(path.Span, $"{list.Code}.{field.Code} is a list over all lines; a function such as SUM makes one value of it.");
        if (RefusesSeveral(field) is { } refusal) return Refuse(path.Names[1].Span, refusal);
        reads.Add(field);
        return new BoundLines(field, lines, path.Span);
    }

    private static string? RefusesSeveral(Field field) => field.Kind is LinksKind ? $"{field.Label} can point to several records; formulas read one." : null;

    private Bound Read(BoundField field)
    {
        if (field.Field.IsSeen) return Refuse(field.Span, $"{field.Field.Label} is seen through a link; formulas cannot read it so far.");
        if (RefusesSeveral(field.Field) is { } refusal) return Refuse(field.Span, refusal);
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
        else if (new[] { left, right }.FirstOrDefault(side => side.Type is ValueForm.Money or ValueForm.Quantity or ValueForm.Several or ValueForm.File or ValueForm.Secret) is { } odd)
            Refuse(odd.Span, $"{Said(odd.Type)} cannot be compared; ISBLANK tells whether there is one.");
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
            var was = isAskedIfBlank;
            isAskedIfBlank |= function is IsBlank;
            var argument = Bind(call.Arguments[i], parameter.IsList);
            isAskedIfBlank = was;
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
        ValueForm.Links => "several links",
        ValueForm.Money => "an amount of money",
        ValueForm.Quantity => "a quantity",
        ValueForm.Time => "a time",
        ValueForm.Moment => "a date and time",
        ValueForm.Several => "a list of choices",
        ValueForm.File => "a file",
        ValueForm.Secret => "a secret",
        _ => "nothing",
    };
}
