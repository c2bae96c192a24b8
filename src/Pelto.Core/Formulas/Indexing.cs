namespace Pelto.Core.Formulas;

/// <summary>Which fields the database can keep an index of, for lists that are held to them or put in their order.</summary>
public static class Indexing
{
    /// <summary>Why there can be no index of a field; null when there can.</summary>
    public static string? Refuse(Field field)
    {
        if (field.IsThroughLink)
            return "It is seen through a link: an index is kept where it is filled in.";
        if (field.Kind.IsLink)
            return "Links have an index anyway.";
        if (!field.Kind.HasIndex)
            return $"Values of the kind {field.Kind.Label.ToLowerInvariant()} have no index.";
        if (!field.IsLive)
            return null;
        if (field.Part.IsLines)
            return "Of live fields, only those of the record itself can have an index.";
        if (field.Formula is not { } formula)
            return "Its formula does not work yet.";
        if (formula.IsVolatile)
            return "It changes by itself as time goes by: an index holds what was true when the record was saved.";
        if (formula.Reads.Any(static read => read.IsLive))
            return "It reads a live field. An index holds only what is calculated from values that are stored beside one another.";
        if (Nodes(formula.Bound).Any(static node => node is BoundThrough or BoundList or BoundCall { Function: Exchange }))
            return "It reads lines or other records, which change without this one. "
                + "Let it be kept instead of live, and it can have an index.";
        if (
            Nodes(formula.Bound)
                .Any(static node =>
                    node is BoundConvert { DataType: DataType.Text, Operand.DataType: not DataType.Number and not DataType.YesNo }
                    || (node is BoundCall call && Unsteady.Contains(call.Function.Name))
                )
        )
            return "It writes days or times as text, which the database does not put in an "
                + "index. Let it be kept instead of live, and it can have one.";
        if (formula.Reads.Where(static read => read.IsAdded).Select(static read => read.Table).Distinct().Count() > 1)
            return "It reads fields that are stored apart, since there are so many. "
                + "Let it be kept instead of live, and it can have an index.";
        return formula.Reads.Select(static read => read.IsAdded).Distinct().Count() > 1
            ? "It reads built-in and added fields, which are stored apart. Let it be kept instead of live, and it can have an index."
            : null;
    }

    // What their SQL gives depends on settings of the database, or so it says.
    private static readonly HashSet<string> Unsteady = ["TEXT"];

    private static IEnumerable<Bound> Nodes(Bound bound) => bound.Parts.SelectMany(Nodes).Prepend(bound);
}
