namespace Pelto.Core.Formulas;

/// <summary>Looks names up, calculates types and says what does not fit, at its place.</summary>
/// <param name="part">Where names are looked up; null where there are no fields.</param>
/// <param name="atHand">
/// For the condition of a link: the part in which the link stands. Its record is named <c>record</c>, and in lines its line <c>line</c>.
/// </param>
/// <param name="problems">Takes what does not fit.</param>
/// <param name="parameters">For what stands in a query: its parameters, with the type of each.</param>
internal sealed class Binder(
    Part? part,
    Part? atHand,
    List<FormulaProblem> problems,
    IReadOnlyDictionary<string, DataType>? parameters = null
)
{
    /// <summary>Before the point: the record in which a link is being filled.</summary>
    public const string RecordName = "record";

    /// <summary>Before the point: the line in which a link is being filled.</summary>
    public const string LineName = "line";

    private readonly HashSet<Field> reads = [];
    private readonly HashSet<Field> relatedFields = [];
    private readonly HashSet<Field> watches = [];
    private readonly HashSet<Field> mayBeEmpty = [];
    private readonly List<(Span At, Field Field)> named = [];
    private bool isAskedIfBlank;

    // While an argument that may be a list is bound: whether one may stand here, and over which lines it turned out to go.
    private bool mayBeList;
    private RowsOver? over;

    /// <summary>The fields that the formula depends on, without those of the record at hand.</summary>
    public IReadOnlySet<Field> Reads => reads;

    /// <summary>The fields of other records that it reads through links.</summary>
    public IReadOnlySet<Field> RelatedFields => relatedFields;

    /// <summary>The fields of the record at hand that it depends on.</summary>
    public IReadOnlySet<Field> Watches => watches;

    /// <summary>Those of them that it asks whether they are filled: it has an answer for empty ones too.</summary>
    public IReadOnlySet<Field> MayBeEmpty => mayBeEmpty;

    /// <summary>Where in the text the code of which field stands.</summary>
    public IReadOnlyList<(Span At, Field Field)> Codes => named;

    /// <summary>True when what it gives changes by itself as time goes by.</summary>
    public bool IsVolatile { get; private set; }

    public Bound Bind(Syntax syntax) =>
        syntax switch
        {
            LiteralSyntax literal => new BoundLiteral(literal.Value, literal.Span),
            PathSyntax path => BindPath(path),
            NegateSyntax negate => BindNegate(negate),
            PercentSyntax percent => new BoundBinary(
                "/",
                Wanted(Bind(percent.Operand), DataType.Number),
                new BoundLiteral(Value.From(100m), percent.Span),
                DataType.Number,
                percent.Span
            ),
            BinarySyntax binary => BindBinary(binary),
            CallSyntax call => BindCall(call),
            _ => throw new InvalidOperationException($"A formula node of type {syntax.GetType().Name} cannot be bound."),
        };

    private Bound BindPath(PathSyntax path)
    {
        var names = path.Names;
        if (atHand is not null && names.Count > 1 && names[0].Text == RecordName)
            return BindRelated(names, 1, AtHand(atHand.RecordType.Header, Place.AtHand, names[1]), path);
        if (atHand is { IsLines: true } && names.Count > 1 && names[0].Text == LineName)
            return BindRelated(names, 1, AtHand(atHand, Place.AtHandLine, names[1]), path);
        var first = names[0].Text;
        if (first[0] == ':')
            return BindParameter(path, first[1..]);
        if (
            names.Count == 1
            && part?.Find(first) is null
            && part?.RecordType.Header.Find(first) is null
            && Functions.ByName.TryGetValue(first, out var constant)
            && constant.Parameters.Count == 0
        )
            return BindCall(new(names[0], [], path.Span));
        if (part is null)
            return Refuse(path.Span, "There is no record here, so there are no fields: only values and functions.");
        var lines = part.RecordType.LineParts.ToList().FindIndex(candidate => candidate.Code == first);
        if (names.Count > 1 && lines >= 0)
            return BindLines(path, lines);
        if (part.Find(first) is null && part.RecordType.Header.Find(first) is null && LinkAt(part.RecordType, names, 0) is { } rows)
            return BindLinking(path, rows, null);
        if (part.IsLines && part.Find(first) is { } own)
            return Begun(new BoundField(Name(names[0], own), Place.Line, names[0].Span), path);
        if (part.RecordType.Header.Find(first) is { } header)
            return Begun(new BoundField(Name(names[0], header), Place.Header, names[0].Span), path);
        var known = part.Fields.Concat(part.RecordType.Header.Fields).Select(field => field.Code);
        return Unknown(
            names[0],
            names.Count > 1
                ? known
                    .Concat(part.RecordType.LineParts.Select(candidate => candidate.Code))
                    .Concat(part.RecordType.PointedBy.Select(link => link.Part.RecordType.Code))
                : known
        );
    }

    private Bound BindParameter(PathSyntax path, string name)
    {
        if (parameters is null)
            return Refuse(path.Span, $"Parameters such as :{name} stand in queries only.");
        if (path.Names.Count > 1)
            return Refuse(path.Span, $"Nothing can be read through a parameter: let :{name} be what is compared in the end.");
        return parameters.TryGetValue(name, out var type)
            ? new BoundParameter(name, type, path.Span)
            : Refuse(path.Span, $"The parameter :{name} has no kind.");
    }

    private Bound AtHand(Part of, Place place, Token name)
    {
        if (of.Find(name.Text) is not { } field)
            return Unknown(name, of.Fields.Select(candidate => candidate.Code));
        if (field.IsThroughLink)
            return Refuse(name.Span, $"{field.Label} is seen through a link: write the way there, {RecordName}.{field.Content.Path}.");
        if (RefusesSeveral(field) is { } refusal)
            return Refuse(name.Span, refusal);
        watches.Add(field);
        if (isAskedIfBlank)
            mayBeEmpty.Add(field);
        return new BoundField(Name(name, field), place, name.Span);
    }

    // What a way of the record itself begins with: several links, and what follows is read of each, or one value.
    private Bound Begun(BoundField first, PathSyntax path)
    {
        if (!first.Field.Kind.IsSeveralLinks || path.Names.Count == 1)
            return BindRelated(path.Names, 0, Read(first), path);
        reads.Add(first.Field);
        return BindLinked(path, 0, first);
    }

    // What follows the points: each step leads through a link; and where it comes to what many rows have, over these.
    private Bound BindRelated(IReadOnlyList<Token> names, int at, Bound from, PathSyntax path)
    {
        for (var step = at + 1; step < names.Count; step++)
        {
            var link = from switch
            {
                BoundField own => own.Field,
                BoundThrough far => far.Field,
                _ => null,
            };
            if (link is null)
                return from;
            if (link.Target is not { } target)
                return Refuse(names[step].Span, $"{link.Label} is not a link, so nothing can be read through it.");
            if (target.Header.Find(names[step].Text) is not { } field)
                return LinkAt(target, names, step) is { } rows
                    ? BindLinking(path, rows, from)
                    : Unknown(
                        names[step],
                        target
                            .Header.Fields.Select(candidate => candidate.Code)
                            .Concat(step + 1 < names.Count ? target.PointedBy.Select(candidate => candidate.Part.RecordType.Code) : [])
                    );
            if (field.Kind.IsSeveralLinks && step + 1 < names.Count)
            {
                relatedFields.Add(field);
                return BindLinked(path, step, new BoundThrough(from, Name(names[step], field), Span.Over(path.Span, names[step].Span)));
            }

            if (RefusesSeveral(field) is { } refusal)
                return Refuse(names[step].Span, refusal);
            if (field.IsThroughLink)
                return Refuse(names[step].Span, $"{field.Label} is seen through a link itself: write the whole way there.");
            relatedFields.Add(field);
            from = new BoundThrough(from, Name(names[step], field), Span.Over(path.Span, names[step].Span));
        }

        return from;
    }

    private Bound BindLines(PathSyntax path, int lines)
    {
        var list = part!.RecordType.LineParts[lines];
        if (list.Find(path.Names[1].Text) is not { } field)
            return Unknown(path.Names[1], list.Fields.Select(candidate => candidate.Code));
        if (!mayBeList)
            return Refuse(path.Span, $"{list.Code}.{field.Code} is a list over all lines; a function such as SUM makes one value of it.");
        if (!GoesOver(new LinesOfRecord(list, lines)))
            return Refuse(path.Span, OneKind);
        return BindRelated(path.Names, 1, Read(new BoundField(Name(path.Names[1], field), Place.Item, path.Span)), path);
    }

    // What is named behind the way is a field of the rows; lines that end it are taken for one, which is not there.
    private static (Field Link, Part Rows, int After)? LinkAt(RecordType to, IReadOnlyList<Token> names, int at) =>
        LinkPaths.At(to, [.. names.Select(name => name.Text)], at) switch
        {
            { } way when way.After < names.Count => way,
            { } way when way.Rows != way.Link.Part => (way.Link, way.Link.Part, way.After - 1),
            _ => null,
        };

    // What points to a record, or the lines of that.
    private Bound BindLinking(PathSyntax path, (Field Link, Part Rows, int After) way, Bound? to)
    {
        var (link, rows, at) = way;
        if (
            Over(
                path,
                at,
                new LinkingRows(rows, WayTo(path, at), link, to),
                $"{rows.Plural.ToLowerInvariant()} that link {(to is null ? "here" : "there")}"
            )
            is not { } item
        )
            return Refused(path);
        relatedFields.Add(Name(path.Names[at - (rows == link.Part ? 1 : 2)], link));
        return BindRelated(path.Names, at, item, path);
    }

    // Of each record that several links point to.
    private Bound BindLinked(PathSyntax path, int at, Bound links)
    {
        var target = (links is BoundThrough far ? far.Field : ((BoundField)links).Field).Target!;
        return
            Over(
                path,
                at + 1,
                new LinkedRows(target.Header, WayTo(path, at + 1), links),
                $"{target.Plural.ToLowerInvariant()} that it points to"
            )
                is { } item
            ? BindRelated(path.Names, at + 1, item, path)
            : Refused(path);
    }

    // The field of each row; null where it cannot be, which is said then.
    private BoundField? Over(PathSyntax path, int at, RowsOver rows, string those)
    {
        BoundField? No(Span at, string why)
        {
            Refuse(at, why);
            return null;
        }

        if (atHand is not null)
            return No(path.Span, "What links to a candidate cannot be gone over here.");
        if (rows.Part.Find(path.Names[at].Text) is not { } field)
        {
            Unknown(path.Names[at], rows.Part.Fields.Select(candidate => candidate.Code));
            return null;
        }

        if (!mayBeList)
            return No(
                path.Span,
                $"{WayTo(path, path.Names.Count)} is a list over all {those}; a function such as SUM makes one value of it."
            );
        if (!GoesOver(rows))
            return No(path.Span, OneKind);
        if (field.IsThroughLink)
            return No(path.Names[at].Span, $"{field.Label} is seen through a link itself: write the whole way there.");
        if (RefusesSeveral(field) is { } refusal)
            return No(path.Names[at].Span, refusal);
        relatedFields.Add(field);
        return new(Name(path.Names[at], field), Place.Item, path.Span);
    }

    private static string WayTo(PathSyntax path, int count) => string.Join('.', path.Names.Take(count).Select(name => name.Text));

    private static BoundLiteral Refused(PathSyntax path) => new(Value.Empty, path.Span);

    private string OneKind => $"One list goes over one kind of rows: here it goes over {over!.InWords} already.";

    private Field Name(Token name, Field field)
    {
        named.Add((name.Span, field));
        return field;
    }

    private bool GoesOver(RowsOver rows)
    {
        over ??= rows;
        return over.Way == rows.Way;
    }

    private static string? RefusesSeveral(Field field) =>
        field.Kind.IsSeveralLinks
            ? $"{field.Label} can point to several records: "
                + $"go on to a field of them, {field.Code}.{field.Target?.Name.Code ?? "name"}, "
                + "and let a function such as COUNT or TEXTJOIN make one value of it."
            : null;

    private Bound Read(BoundField field)
    {
        if (field.Field.IsThroughLink)
            return Refuse(field.Span, $"{field.Field.Label} is seen through a link; formulas cannot read it so far.");
        if (RefusesSeveral(field.Field) is { } refusal)
            return Refuse(field.Span, refusal);
        reads.Add(field.Field);
        return field;
    }

    private BoundNegate BindNegate(NegateSyntax negate)
    {
        var operand = Bind(negate.Operand);
        return new(operand.DataType is DataType.Money or DataType.Quantity ? operand : Wanted(operand, DataType.Number), negate.Span);
    }

    private Bound BindBinary(BinarySyntax binary)
    {
        var (left, right) = (Bind(binary.Left), Bind(binary.Right));
        if (left is BoundCall { Function: HolidayList } || right is BoundCall { Function: HolidayList })
            return Refuse(binary.Span, ManyDays);
        switch (binary.Operator)
        {
            case "&":
                return new BoundBinary("&", Wanted(left, DataType.Text), Wanted(right, DataType.Text), DataType.Text, binary.Span);
            case "+" or "-" or "*" or "/" or "^":
                if (Reckoned(binary.Operator, left.DataType, right.DataType) is { } type)
                    return new BoundBinary(binary.Operator, left, right, type, binary.Span);
                if (IsAmount(left.DataType) || IsAmount(right.DataType))
                    return Refuse(
                        binary.Span,
                        $"{NameOf(left.DataType)} and {NameOf(right.DataType)} cannot be combined with “{binary.Operator}”."
                    );
                return new BoundBinary(
                    binary.Operator,
                    Wanted(left, DataType.Number),
                    Wanted(right, DataType.Number),
                    DataType.Number,
                    binary.Span
                );
        }

        (left, right) = (AsDay(left, right), AsDay(right, left));
        if ((RefuseChoice(left, right) ?? RefuseChoice(right, left)) is { } unknown)
            return Refuse((left as BoundLiteral ?? right).Span, unknown);
        if (RefuseComparison(left, right) is { } refusal)
            Refuse(
                Odd(left) ? left.Span
                    : Odd(right) ? right.Span
                    : binary.Span,
                refusal
            );
        return new BoundBinary(binary.Operator, left, right, DataType.YesNo, binary.Span);
    }

    private static bool IsAmount(DataType type) => type is DataType.Money or DataType.Quantity;

    // What reckoning with days, moments and amounts gives; null where only numbers go.
    private static DataType? Reckoned(string op, DataType left, DataType right) =>
        (op, left, right) switch
        {
            ("+", DataType.Date, DataType.Number) or ("-", DataType.Date, DataType.Number) or ("+", DataType.Number, DataType.Date) =>
                DataType.Date,
            ("-", DataType.Date, DataType.Date) or ("-", DataType.Moment, DataType.Moment) => DataType.Number,
            ("+" or "-", DataType.Money, DataType.Money) => DataType.Money,
            ("+" or "-", DataType.Quantity, DataType.Quantity) => DataType.Quantity,
            ("/", DataType.Money, DataType.Money) or ("/", DataType.Quantity, DataType.Quantity) => DataType.Number,
            ("*" or "/", DataType.Money or DataType.Quantity, DataType.Number) => left,
            ("*", DataType.Number, DataType.Money or DataType.Quantity) => right,
            _ => null,
        };

    // A day written as a text stands for the day where it meets one.
    private static Bound AsDay(Bound given, Bound other) =>
        given is BoundLiteral { Value.DataType: DataType.Text } literal
        && other.DataType == DataType.Date
        && DateFunctions.Read(literal.Value.Text) is { IsError: false } day
            ? new BoundLiteral(day, given.Span)
            : given;

    // A code that the field can never hold would only ever give no.
    private static string? RefuseChoice(Bound field, Bound code)
    {
        if (
            (field is BoundThrough through ? through.Field.Kind : (field as BoundField)?.Field.Kind)
            is not { IsOneChoice: true, Choices: { All.Count: > 0 } kind }
        )
            return null;
        if (
            code is not BoundLiteral { Value: { DataType: DataType.Text } text }
            || kind.All.Any(choice => string.Equals(choice.Code, text.Text, StringComparison.OrdinalIgnoreCase))
        )
            return null;
        var near = kind.All.FirstOrDefault(choice => string.Equals(choice.Label, text.Text, StringComparison.OrdinalIgnoreCase))?.Code
            ?? Nearest.To(text.Text, kind.All.Select(choice => choice.Code));
        return $"“{text.Text}” is not among the choices{(near is null ? $": they are {string.Join(", ", kind.All.Take(8).Select(choice => choice.Code))}{(kind.All.Count > 8 ? " …" : ".")}" : $". Did you mean {near}?")}";
    }

    private static bool Odd(Bound side) => side.DataType is DataType.Several or DataType.Links or DataType.File or DataType.Secret;

    /// <summary>Why two values cannot be compared, or null when they can.</summary>
    public static string? RefuseComparison(Bound left, Bound right)
    {
        if (Odd(left) || Odd(right))
            return $"{NameOf(Odd(left) ? left.DataType : right.DataType)} cannot be compared; ISBLANK tells whether there is one.".Capital();
        return left.DataType != right.DataType && left.DataType != DataType.Empty && right.DataType != DataType.Empty
            ? $"{NameOf(left.DataType)} cannot be compared with {NameOf(right.DataType)}.".Capital()
            : null;
    }

    private const string ManyDays = "HOLIDAYS gives many days: NETWORKDAYS and WORKDAY take them as their last.";

    private Bound BindCall(CallSyntax call)
    {
        if (!Functions.ByName.TryGetValue(call.Name.Text, out var function))
            return Unknown(call.Name, Functions.ByName.Keys, "function");
        if (!function.Takes(call.Arguments.Count))
            return Refuse(call.Span, $"{function.Name} is written {function.Signature}.");
        if (function is Conditionals conditional)
            return Bind(conditional.Lower(call));
        if (function is HolidayList)
            function = HolidayList.Of(part?.RecordType.Companies ?? []);
        if (function is Exchange)
        {
            function = Exchange.Of(part?.RecordType.Rates);
            relatedFields.UnionWith(part?.RecordType.Rates?.Fields ?? []);
        }

        if (function is HolidayList && !mayBeList)
            return Refuse(call.Span, ManyDays);
        IsVolatile |= function.IsVolatile;
        var arguments = new List<Bound>();
        for (var i = 0; i < call.Arguments.Count; i++)
            arguments.Add(BindArgument(function, call.Arguments[i], function.ParameterAt(i)));
        for (var i = arguments.Count; i < function.Parameters.Count; i++)
            if (!function.Parameters[i].IsRepeated || function.ParameterAt(i) is { IsOptional: true, IsList: false })
                arguments.Add(new BoundLiteral(function.Parameters[i].Default, new(call.Span.From + call.Span.Length, 0)));
        if (function is TextFormatting && arguments[0].DataType == DataType.Moment)
            arguments[0] = new BoundConvert(arguments[0], TextFormatting.PartOf(arguments[1]));
        if (
            !DateFunctions.TakesHolidays(function)
            && arguments.Find(argument => argument is BoundCall { Function: HolidayList }) is { } many
        )
            return Refuse(many.Span, ManyDays);
        if (problems.Count == 0 && function.Refuse(arguments) is { } refusal)
            return Refuse(refusal.At.Span.Length > 0 ? refusal.At.Span : call.Span, refusal.Message);
        var result = function.ResultType(arguments);

        // An argument that is always empty fits any type; the database wants to be told which.
        for (var i = 0; i < arguments.Count; i++)
            if (
                arguments[i] is { DataType: DataType.Empty } and not BoundLiteral
                && function.TypeAt(i, arguments, result) is var type
                && type != DataType.Empty
            )
                arguments[i] = new BoundConvert(arguments[i], type);
        return new BoundCall(function, arguments, result, call.Span);
    }

    private Bound BindArgument(Function function, Syntax syntax, Parameter parameter)
    {
        var (wasAsked, wasList, wasOver) = (isAskedIfBlank, mayBeList, over);
        isAskedIfBlank |= function is LogicFunctions.Told { AsksIfBlank: true };
        if (parameter.IsList)
            (mayBeList, over) = (true, null);
        var argument = Bind(syntax);
        if (parameter.Type is { } type)
            argument = Wanted(argument, type);
        if (parameter.IsList)
        {
            if (over is { } rows)
                argument = new BoundList(rows, argument, argument.Span);
            (mayBeList, over) = (wasList, wasOver);
        }

        isAskedIfBlank = wasAsked;
        return argument;
    }

    // The conversions that OpenFormula 6.3 has; a text becomes a number or a day only where somebody asks for it.
    private Bound Wanted(Bound given, DataType type)
    {
        if (given.DataType == type)
            return given;
        if (given.DataType == DataType.Empty)
            return new BoundConvert(given, type);
        switch (type, given.DataType)
        {
            case (DataType.Number, DataType.YesNo) or (DataType.YesNo, DataType.Number):
            case (DataType.Text, DataType.Number or DataType.Date or DataType.YesNo or DataType.Time):
            case (DataType.Date or DataType.Time, DataType.Moment):
                return new BoundConvert(given, type);
            case (DataType.Date, DataType.Text)
                when given is BoundLiteral literal && DateFunctions.Read(literal.Value.Text) is { IsError: false } day:
                return new BoundLiteral(day, given.Span);
            default:
                return Refuse(given.Span, $"{NameOf(type)} is expected here, not {NameOf(given.DataType)}.{Advice(type, given)}");
        }
    }

    private static string Advice(DataType wanted, Bound given) =>
        (wanted, given.DataType) switch
        {
            (DataType.Number, DataType.Text) => " VALUE makes a number of a text.",
            (DataType.Date, DataType.Text) => " DATEVALUE makes a day of a text.",
            (DataType.Date, DataType.Number) => " DATE makes a day of year, month and day.",
            (DataType.Number, DataType.Money or DataType.Quantity) => " AMOUNT gives its number.",
            (DataType.Text, DataType.Link) => " Go on to a field of what it points to, after a point.",
            _ => "",
        };

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

    /// <summary>A type in words.</summary>
    public static string NameOf(DataType type) =>
        type switch
        {
            DataType.Text => "a text",
            DataType.Number => "a number",
            DataType.Date => "a date",
            DataType.YesNo => "yes or no",
            DataType.Link => "a link",
            DataType.Links => "several links",
            DataType.Money => "an amount of money",
            DataType.Quantity => "a quantity",
            DataType.Time => "a time",
            DataType.Moment => "a date and time",
            DataType.Several => "a list of choices",
            DataType.File => "a file",
            DataType.Secret => "a secret",
            _ => "nothing",
        };
}
