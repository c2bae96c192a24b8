namespace Pelto.Core.Formulas;

/// <summary>What a formula reads while it runs: the record's header, the line at hand (if any), and all lines.</summary>
/// <param name="Header">Values of the header, by slot.</param>
/// <param name="Line">Values of the line at hand, by slot; null in a formula of the header.</param>
/// <param name="Lines">For each part with lines, in the order of the record type, the values of each line.</param>
public sealed record Frame(Value[] Header, Value[]? Line, IReadOnlyList<IReadOnlyList<Value[]>> Lines)
{
    /// <summary>
    /// For the condition of a link, whose header and lines are those of a candidate: the record in which the link is being filled.
    /// </summary>
    public Frame? AtHand { get; init; }

    /// <summary>
    /// Finds a row beside the record, by its part and id; null when it is not there. For formulas that read through links.
    /// </summary>
    public Func<Part, long, Value[]?>? FindRelated { get; init; }

    /// <summary>The id of the record, once it is kept.</summary>
    public long? Id { get; init; }

    /// <summary>
    /// Finds the rows of a part whose link, or whose record's link, points to a record, in order; null when they were not read yet. For
    /// formulas over what links to a record.
    /// </summary>
    public Func<Part, Field, long, IReadOnlyList<Value[]>?>? Linking { get; init; }

    /// <summary>The rate of a currency on a day: a number, an error where there is none, empty when it was not read yet.</summary>
    public Func<string, DateOnly, Value>? Rate { get; init; }

    /// <summary>On a screen: what people typed in its scratch fields, by their codes. Null elsewhere.</summary>
    public Func<string, Value>? Typed { get; init; }

    /// <summary>What the clock says, for TODAY and NOW.</summary>
    public Clock Clock { get; init; } = Clock.Utc;

    /// <summary>While a function goes over a list: the values of the row that it is at.</summary>
    internal Value[]? Item { get; init; }
}

/// <summary>What the clock says.</summary>
/// <param name="Now">The moment, in UTC.</param>
/// <param name="Today">The day where people work.</param>
public sealed record Clock(DateTime Now, DateOnly Today)
{
    /// <summary>The time zone where people work: in it a moment has its day and its time of day.</summary>
    public TimeZoneInfo Zone { get; init; } = TimeZoneInfo.Utc;

    /// <summary>The clock of this machine, in UTC.</summary>
    public static Clock Utc => At(DateTime.UtcNow);

    /// <summary>What a clock says, with the day of this machine's time zone.</summary>
    public static Clock From(TimeProvider clock) =>
        new(clock.GetUtcNow().UtcDateTime, DateOnly.FromDateTime(clock.GetLocalNow().DateTime))
        {
            Zone = clock.LocalTimeZone.HasIanaId ? clock.LocalTimeZone : TimeZoneInfo.Utc,
        };

    /// <summary>A moment in UTC, and its day there.</summary>
    public static Clock At(DateTime now) => new(now, DateOnly.FromDateTime(now));
}

/// <summary>Whose field a name stands for.</summary>
internal enum Place
{
    /// <summary>The header's.</summary>
    Header,

    /// <summary>The line's at hand.</summary>
    Line,

    /// <summary>That of the row of a list that a function is at.</summary>
    Item,

    /// <summary>That of the header of the record in which a link is being filled.</summary>
    AtHand,

    /// <summary>That of the line in which a link is being filled.</summary>
    AtHandLine,
}

/// <summary>A formula's node with its type known and its names resolved.</summary>
internal abstract record Bound(DataType DataType, Span Span)
{
    /// <summary>The nodes that it is made of.</summary>
    public virtual IReadOnlyList<Bound> Parts => [];
}

internal sealed record BoundLiteral(Value Value, Span Span) : Bound(Value.DataType, Span);

/// <summary>A parameter of the query in which it stands.</summary>
internal sealed record BoundParameter(string Name, DataType DataType, Span Span) : Bound(DataType, Span);

/// <summary>A field of a header or of a line.</summary>
internal sealed record BoundField(Field Field, Place Of, Span Span) : Bound(Field.Kind.DataType, Span);

/// <summary>A field of the record that a link points to.</summary>
internal sealed record BoundThrough(Bound Link, Field Field, Span Span) : Bound(Field.Kind.DataType, Span)
{
    public override IReadOnlyList<Bound> Parts => [Link];
}

/// <summary>A value for each of some rows; stands only where a function takes a list.</summary>
/// <param name="Over">The rows.</param>
/// <param name="Item">What is calculated for each.</param>
/// <param name="Span">Where it stands.</param>
internal sealed record BoundList(RowsOver Over, Bound Item, Span Span) : Bound(Item.DataType, Span)
{
    /// <summary>True for rows of other records.</summary>
    public bool IsFar => Over is not LinesOfRecord;

    public override IReadOnlyList<Bound> Parts => [Item];
}

internal sealed record BoundNegate(Bound Operand, Span Span) : Bound(Operand.DataType, Span)
{
    public override IReadOnlyList<Bound> Parts => [Operand];
}

internal sealed record BoundBinary(string Operator, Bound Left, Bound Right, DataType DataType, Span Span) : Bound(DataType, Span)
{
    public override IReadOnlyList<Bound> Parts => [Left, Right];
}

/// <summary>
/// A value turned into another type where the language does that by itself: a number into a text where texts are joined, yes into 1 where
/// one reckons.
/// </summary>
internal sealed record BoundConvert(Bound Operand, DataType DataType) : Bound(DataType, Operand.Span)
{
    public override IReadOnlyList<Bound> Parts => [Operand];
}

internal sealed record BoundCall(Function Function, IReadOnlyList<Bound> Arguments, DataType DataType, Span Span) : Bound(DataType, Span)
{
    public override IReadOnlyList<Bound> Parts => Arguments;
}
