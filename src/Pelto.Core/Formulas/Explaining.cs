namespace Pelto.Core.Formulas;

/// <summary>A part of a formula with what it gives on a record.</summary>
/// <param name="Text">The part as it is written.</param>
/// <param name="Value">What it gives; for a list, how many values.</param>
public sealed record FormulaStep(string Text, Value Value);

/// <summary>Says in words what a formula does, and shows its parts at work.</summary>
internal static class Explaining
{
    /// <summary>The formula as a sentence.</summary>
    public static string Sentence(Bound bound) => (Say(bound) + ".").Capital();

    /// <summary>The parts of a formula from the innermost to the whole, each with its value.</summary>
    public static IEnumerable<FormulaStep> Steps(Bound bound, string text, Frame frame)
    {
        var told = new HashSet<string>(StringComparer.Ordinal);
        foreach (var part in InnermostFirst(bound))
        {
            if (part is BoundList list)
            {
                foreach (var step in Rows(list, text, frame))
                    yield return step;
                continue;
            }

            if (
                part is BoundLiteral
                || part.DataType == DataType.Link
                || part.Span.Length == 0
                || text.Substring(part.Span.From, part.Span.Length) is not { } written
                || !told.Add(written)
            )
                continue;
            yield return new(written, Compiler.Compile(part)(frame));
        }
    }

    // Line by line, for the first of them. Of rows of other records only the function's one value is shown: they may be nobody's to see one
    // by one.
    private static IEnumerable<FormulaStep> Rows(BoundList list, string text, Frame frame)
    {
        if (list.IsFar)
            yield break;
        var written = text.Substring(list.Span.From, list.Span.Length);
        var rows = ListFunctions.Rows(list, Compiler.Compile(list), frame).ToList();
        for (var i = 0; i < Math.Min(rows.Count, MaxRows); i++)
            yield return new(
                string.Create(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"{written}, {list.Over.Part.Label.ToLowerInvariant()} {i + 1}"
                ),
                rows[i]
            );
    }

    private const int MaxRows = 5;

    private static IEnumerable<Bound> InnermostFirst(Bound bound) =>
        bound is BoundList
            ? [bound]
            : bound.Parts.SelectMany(InnermostFirst).Append(bound is BoundConvert convert ? convert.Operand : bound);

    private static string Say(Bound bound) =>
        bound switch
        {
            BoundLiteral { Value.DataType: DataType.Text } text => $"“{text.Value.Text}”",
            BoundLiteral { Value.IsEmpty: true } => "nothing",
            BoundLiteral literal => literal.Value.ToString(),
            BoundParameter parameter => $":{parameter.Name}",
            BoundField { Of: Place.AtHand or Place.AtHandLine } field => $"{field.Field.Label} at hand",
            BoundField field => field.Field.Label,
            BoundThrough through => $"{through.Field.Label} of {Say(through.Link)}",
            BoundList { Over: LinkingRows { Link: var link, To: var to } over } list =>
                $"{Say(list.Item)} of each {over.Part.Label.ToLowerInvariant()}{(over.Part == link.Part ? "" : $" of each {link.Part.RecordType.Label.ToLowerInvariant()}")} whose {link.Label} is {(to is null ? "" : $"{Say(to)} of ")}this {(to is null ? link.Target! : RootOf(to)).Label.ToLowerInvariant()}",
            BoundList { Over: LinkedRows { Links: var links } over } list =>
                $"{Say(list.Item)} of each {over.Part.Label.ToLowerInvariant()} in {Say(links)}",
            BoundList list => $"{Say(list.Item)} of each {list.Over.Part.Label.ToLowerInvariant()}",
            BoundNegate negate => $"minus {Inner(negate.Operand)}",
            BoundConvert convert => Say(convert.Operand),
            BoundBinary { Operator: "/", Right: BoundLiteral { Value: { DataType: DataType.Number, Number: 100 } } } percent =>
                $"{Inner(percent.Left)} hundredths",
            BoundBinary binary => $"{Inner(binary.Left)} {Word(binary.Operator)} {Inner(binary.Right)}",
            BoundCall call => Say(call),
            _ => "",
        };

    // Whose way it is: that of the record that the formula is about.
    private static Catalog.RecordType RootOf(Bound way) =>
        way is BoundThrough through ? RootOf(through.Link) : ((BoundField)way).Field.Part.RecordType;

    // Brackets where reading aloud would not tell what belongs together.
    private static string Inner(Bound bound) =>
        bound is BoundBinary or BoundCall { Function.Name: "IF" or "AND" or "OR" or "IFERROR" } ? $"({Say(bound)})" : Say(bound);

    private static string Say(BoundCall call)
    {
        var given = call.Arguments.Where(argument => argument.Span.Length > 0).ToList();
        string All(string joined) => string.Join(joined, given.Select(Inner));
        return call.Function.Name switch
        {
            "IF" when given.Count == 3 => $"{Inner(given[1])} where {Inner(given[0])}, otherwise {Inner(given[2])}",
            "IF" => $"{Inner(given[1])} where {Inner(given[0])}, otherwise nothing",
            "AND" => All(" and "),
            "OR" => All(" or "),
            "NOT" => $"not {Inner(given[0])}",
            "ISBLANK" => $"{Inner(given[0])} is empty",
            "IFERROR" => $"{Inner(given[0])}, or {Inner(given[1])} where that cannot be calculated",
            "SUM" => $"the total of {All(" and ")}",
            "AVERAGE" => $"the mean of {All(" and ")}",
            "MIN" => $"the smallest of {All(" and ")}",
            "MAX" => $"the largest of {All(" and ")}",
            "COUNT" or "COUNTA" => $"how many there are of {All(" and ")}",
            "FIRST" => $"the first of {Inner(given[0])}",
            "LAST" => $"the last of {Inner(given[0])}",
            "ROUND" => $"{Inner(given[0])}, rounded to {(given.Count > 1 ? Say(given[1]) : "0")} decimals",
            "TODAY" => "today",
            "NOW" => "now",
            "EDATE" => $"{Inner(given[1])} months after {Inner(given[0])}",
            "EXCHANGE" when given.Count == 3 => $"{Inner(given[0])} in {Inner(given[1])} at the rate of {Inner(given[2])}",
            "CHOICELABEL" => $"the label of {Inner(given[0])}",
            var name => given.Count == 0 ? name : $"{name} of {All(" and ")}",
        };
    }

    private static string Word(string op) =>
        op switch
        {
            "+" => "plus",
            "-" => "minus",
            "*" => "times",
            "/" => "divided by",
            "^" => "to the power of",
            "&" => "followed by",
            "=" => "is",
            "<>" => "is not",
            "<" => "is less than",
            "<=" => "is at most",
            ">" => "is more than",
            _ => "is at least",
        };
}
