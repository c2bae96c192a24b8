namespace Pelto.Core.Formulas;

/// <summary>A formula that is bound to the fields of a part and ready to run, in memory and in the database.</summary>
/// <remarks>
/// Text, tokens, syntax, bound tree, then a delegate or SQL: each step is a function of the one before, and each node knows its place in
/// the text.
/// </remarks>
public sealed class Formula
{
    /// <summary>In the condition of a link, stands for the record at hand.</summary>
    public const string RecordName = Binder.RecordName;

    private readonly Bound bound;
    private readonly Evaluator evaluator;
    private readonly IReadOnlyList<(Span At, Field Field)> named;

    private Formula(string text, Bound bound, Binder binder)
    {
        (Text, this.bound, evaluator, named) = (text, bound, Compiler.Compile(bound), binder.Codes);
        (Reads, RelatedFields, Watches, MayBeEmpty, IsVolatile) = (
            binder.Reads,
            binder.RelatedFields,
            binder.Watches,
            binder.MayBeEmpty,
            binder.IsVolatile
        );
    }

    /// <summary>As written.</summary>
    public string Text { get; }

    /// <summary>The type of what it gives.</summary>
    public DataType DataType => bound.DataType;

    /// <summary>The fields that it depends on, of the header and of lines.</summary>
    public IReadOnlySet<Field> Reads { get; }

    /// <summary>The fields of other records that it reads through links.</summary>
    public IReadOnlySet<Field> RelatedFields { get; }

    /// <summary>For the condition of a link: the fields of the record at hand that it depends on.</summary>
    public IReadOnlySet<Field> Watches { get; }

    /// <summary>All fields that it names, and so tells of to whoever reads it.</summary>
    public IEnumerable<Field> Names => Reads.Concat(RelatedFields).Concat(Watches);

    /// <summary>Those of them that it asks whether they are filled, so that it has an answer for empty ones too.</summary>
    public IReadOnlySet<Field> MayBeEmpty { get; }

    /// <summary>For a formula that is nothing but a way through links: the first of them.</summary>
    public Field? Through
    {
        get
        {
            var at = bound;
            while (at is BoundThrough through)
                at = through.Link;
            return bound is BoundThrough && at is BoundField link ? link.Field : null;
        }
    }

    /// <summary>For a formula that is a field, or nothing but a way through links: the field at its end.</summary>
    public Field? Source =>
        bound switch
        {
            BoundThrough { Field: var end } => end,
            BoundField { Field: var own } => own,
            _ => null,
        };

    /// <summary>True when what it gives changes by itself as time goes by.</summary>
    public bool IsVolatile { get; }

    /// <summary>
    /// True for what is divided by something of the record, or averaged: the sum of several says nothing. A part of something, such as a
    /// tenth of it, adds.
    /// </summary>
    public bool IsRatio => IsShare(bound);

    private static bool IsShare(Bound bound) =>
        bound switch
        {
            BoundBinary { Operator: "/", Right: not BoundLiteral } => true,
            BoundBinary { Operator: "*", Left: BoundLiteral } times => IsShare(times.Right),
            BoundBinary { Operator: "*" or "/", Right: BoundLiteral } times => IsShare(times.Left),
            BoundBinary { Operator: "+" or "-" } sum => IsShare(sum.Left) || IsShare(sum.Right),
            BoundNegate negate => IsShare(negate.Operand),
            BoundCall { Function.IsMean: true } => true,
            BoundCall { Function.Name: "ROUND" or "ROUNDUP" or "ROUNDDOWN" or "INT" or "ABS" or "IFERROR" or "TRUNC" } call => IsShare(
                call.Arguments[0]
            ),
            BoundCall { Function.Name: "IF" or "CHOOSE" } call => call.Arguments.Skip(1).Any(IsShare),
            _ => false,
        };

    /// <summary>How many characters a formula has at most.</summary>
    public const int LongestText = 4000;

    /// <summary>Binds a formula to a part of a record type. Gives null and problems when it makes no sense there.</summary>
    /// <param name="text">The formula.</param>
    /// <param name="part">
    /// Where its value stands: names are looked up there first, then in the header. Null for a formula that reads no fields.
    /// </param>
    /// <param name="problems">Takes what is wrong, at its place in the text.</param>
    /// <param name="atHand">
    /// For the condition of a link, whose <paramref name="part"/> is the candidate's header: the part in which the link stands.
    /// </param>
    /// <param name="parameters">For what stands in a query: its parameters, with the type of each.</param>
    public static Formula? Bind(
        string text,
        Part? part,
        List<FormulaProblem> problems,
        Part? atHand = null,
        IReadOnlyDictionary<string, DataType>? parameters = null
    )
    {
        if (text.Length > LongestText)
        {
            problems.Add(
                new(
                    new(LongestText, text.Length - LongestText),
                    $"A formula has at most {Numbers.Format(LongestText)} characters; "
                        + $"this one has {Numbers.Format(text.Length)}. Divide it over several fields."
                )
            );
            return null;
        }

        var syntax = Parser.Parse(text, problems);
        if (problems.Count > 0)
            return null;
        var binder = new Binder(part, atHand, problems, parameters);
        var bound = binder.Bind(syntax);
        if (problems.Count == 0 && !SqlProbe.Fits(bound, atHand))
            problems.Add(
                new(
                    new(0, text.Length),
                    "The formula repeats itself so often that the database could not read it. Divide it over several fields."
                )
            );
        return problems.Count > 0 ? null : new(text, bound, binder);
    }

    /// <summary>Its text with the codes of some fields replaced.</summary>
    /// <param name="codeOf">The new code of a field; null for one whose code stays.</param>
    public string Renamed(Func<Field, string?> codeOf)
    {
        var text = Text;
        foreach (var (at, field) in named.DistinctBy(name => name.At).OrderByDescending(name => name.At.From))
            if (codeOf(field) is { } code)
                text = string.Concat(text.AsSpan(0, at.From), code, text.AsSpan(at.From + at.Length));
        return text;
    }

    /// <summary>
    /// The parameters in a text, each once in their order, with the type of what it is compared with; empty where that is not told.
    /// </summary>
    /// <param name="text">The formula, right or wrong.</param>
    /// <param name="part">Where names are looked up.</param>
    public static IEnumerable<(string Name, DataType Type)> ParametersOf(string text, Part part) =>
        Parameters
            .In(Parser.Parse(text, []), part)
            .GroupBy(one => one.Name)
            .Select(group => (group.Key, group.Select(one => one.Type).FirstOrDefault(type => type != DataType.Empty)));

    internal Bound Bound => bound;

    /// <summary>What it does, as a sentence.</summary>
    public string Sentence => Explaining.Sentence(bound);

    /// <summary>Its parts from the innermost to the whole, each with what it gives in this frame.</summary>
    public IEnumerable<FormulaStep> Steps(Frame frame) => Explaining.Steps(bound, Text, frame);

    /// <summary>The value in this frame. Never throws: what cannot be computed is an error value with its reason.</summary>
    public Value Evaluate(Frame frame) => evaluator(frame);

    /// <summary>
    /// For the condition of a link: what a candidate's fields must hold for sure, such as the customer of the record at hand; a candidate
    /// made in place begins with it.
    /// </summary>
    public IEnumerable<(Field Field, Value Value)> Demands(Frame atHand) => Demands(bound, atHand);

    private static IEnumerable<(Field Field, Value Value)> Demands(Bound bound, Frame atHand) =>
        bound switch
        {
            BoundCall { Function: LogicFunctions.AndOr { IsAnd: true } } all => all.Arguments.SelectMany(argument =>
                Demands(argument, atHand)
            ),
            BoundBinary
            {
                Operator: "=",
                Left: BoundField { Of: Place.Header } own,
                Right: BoundField { Of: Place.AtHand or Place.AtHandLine } or BoundLiteral
            } equal => [(own.Field, Compiler.Compile(equal.Right)(new([], null, []) { AtHand = atHand }))],
            BoundBinary
            {
                Operator: "=",
                Right: BoundField { Of: Place.Header } own,
                Left: BoundField { Of: Place.AtHand or Place.AtHandLine } or BoundLiteral
            } equal => [(own.Field, Compiler.Compile(equal.Left)(new([], null, []) { AtHand = atHand }))],
            _ => [],
        };

    /// <summary>
    /// As conditions in SQL for PostgreSQL that all hold where the formula gives yes, written so that indexes on the compared columns are
    /// of use.
    /// </summary>
    /// <param name="names">How fields and values are named there.</param>
    /// <param name="atHand">For the condition of a link: the record in which it is being filled.</param>
    public IEnumerable<string> ToConditions(SqlNames names, Frame? atHand = null) => new SqlEmitter(names, atHand).Conditions(bound);

    /// <summary>As SQL for PostgreSQL.</summary>
    /// <param name="names">How fields and values are named there.</param>
    public SqlPart ToSql(SqlNames names) => new SqlEmitter(names, null).Emit(bound);

    /// <summary>What a live field gives as SQL: its formula's value as the field takes it.</summary>
    /// <param name="field">The field.</param>
    /// <param name="names">How fields and values are named for a formula of its part.</param>
    public static SqlPart ToSql(Field field, SqlNames names) => SqlEmitter.EmitFitting(field, names);
}
