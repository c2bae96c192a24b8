namespace Pelto.Core.Formulas;

/// <summary>The rows that a list in a formula goes over.</summary>
/// <param name="Part">The part that they are of.</param>
/// <param name="Way">As the formula names them. Two lists that name the same go over the same rows.</param>
internal abstract record RowsOver(Part Part, string Way)
{
    /// <summary>The rows for a record; those that were not read yet are left out, and asked for.</summary>
    public abstract IEnumerable<Value[]> In(Frame frame);

    /// <summary>In words, such as “sales orders by Customer”.</summary>
    public virtual string InWords => Way;
}

/// <summary>The lines of the record itself.</summary>
/// <param name="Part">The lines.</param>
/// <param name="At">Their place among the parts with lines.</param>
internal sealed record LinesOfRecord(Part Part, int At) : RowsOver(Part, Part.Code)
{
    public override IEnumerable<Value[]> In(Frame frame) => frame.Lines[At];
}

/// <summary>What points to a record: records or lines by a link of their own, or the lines of such records.</summary>
/// <param name="Part">The part of the rows: that of the link, or lines of its record type.</param>
/// <param name="Way">As the formula names them.</param>
/// <param name="Link">The link.</param>
/// <param name="To">The link to the record that it points to; null for the record that the formula is about.</param>
internal sealed record LinkingRows(Part Part, string Way, Field Link, Bound? To) : RowsOver(Part, Way)
{
    private readonly Evaluator? to = To is null ? null : Compiler.Compile(To);

    public override string InWords => $"{Part.Plural.ToLowerInvariant()} by {Link.Label}";

    public override IEnumerable<Value[]> In(Frame frame) =>
        (
            to is null ? frame.Id
            : to(frame) is { DataType: DataType.Link } found ? found.Target
            : null
        )
            is { } id
            ? frame.Linking?.Invoke(Part, Link, id) ?? []
            : [];
}

/// <summary>What a field with several links points to, in its order.</summary>
/// <param name="Part">The header of what it points to.</param>
/// <param name="Way">As the formula names them.</param>
/// <param name="Links">The field.</param>
internal sealed record LinkedRows(Part Part, string Way, Bound Links) : RowsOver(Part, Way)
{
    private readonly Evaluator links = Compiler.Compile(Links);

    public override IEnumerable<Value[]> In(Frame frame) =>
        links(frame) is { DataType: DataType.Links } found
            ? [.. found.Targets.Select(id => frame.FindRelated?.Invoke(Part, id)).OfType<Value[]>()]
            : [];
}

/// <summary>
/// How formulas name what points to a record: the record type, its lines where the link stands there, then the link; and behind a link of
/// the header, the lines of what points there.
/// </summary>
internal static class LinkPaths
{
    /// <summary>The links by which records of other types point to one of this type, as far as formulas go over them.</summary>
    public static IEnumerable<Field> To(RecordType type) => type.PointedBy.Where(static link => link.Kind.IsOneLink);

    /// <summary>The names of the way by a link.</summary>
    public static IReadOnlyList<string> From(Field link) =>
        link.Part.IsLines ? [link.Part.RecordType.Code, link.Part.Code, link.Code] : [link.Part.RecordType.Code, link.Code];

    /// <summary>The rows that names lead to from a record of a type; null where they lead to none.</summary>
    /// <param name="to">The type.</param>
    /// <param name="names">The names.</param>
    /// <param name="at">Where the way begins among them; <c>After</c> is where it has ended.</param>
    public static (Field Link, Part Rows, int After)? At(RecordType to, IReadOnlyList<string> names, int at)
    {
        foreach (var link in To(to))
        {
            var way = From(link);
            if (!names.Skip(at).Take(way.Count).SequenceEqual(way))
                continue;
            var after = at + way.Count;
            var lines = link.Part.IsLines
                ? null
                : link.Part.RecordType.LineParts.FirstOrDefault(lines => lines.Code == names.ElementAtOrDefault(after));
            return lines is null ? (link, link.Part, after) : (link, lines, after + 1);
        }

        return null;
    }
}
