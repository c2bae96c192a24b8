namespace Pelto.Core.Values;

/// <summary>What a value can be while Pelto works with it. Kinds of field map onto these few.</summary>
public enum DataType
{
    /// <summary>Nothing is filled in.</summary>
    Empty,

    /// <summary>A text of at least one character.</summary>
    Text,

    /// <summary>A decimal number; integers are numbers without decimals.</summary>
    Number,

    /// <summary>A day of the calendar.</summary>
    Date,

    /// <summary>Yes or no.</summary>
    YesNo,

    /// <summary>A reference to a record.</summary>
    Link,

    /// <summary>An amount with its ISO 4217 currency.</summary>
    Money,

    /// <summary>An amount with its unit, a code of UN/ECE Recommendation 20.</summary>
    Quantity,

    /// <summary>A time of day, to the second.</summary>
    Time,

    /// <summary>A moment, to the second, in UTC.</summary>
    Moment,

    /// <summary>Codes of several choices, in the order in which they were chosen.</summary>
    Several,

    /// <summary>References to several records, in order.</summary>
    Links,

    /// <summary>A file that is kept, with its name.</summary>
    File,

    /// <summary>A secret, encrypted; what it says is never in a value.</summary>
    Secret,

    /// <summary>A computation that could not give a value; carries the reason.</summary>
    Error,
}

/// <summary>One value of a field or a formula. Immutable, compared by content, never null.</summary>
public readonly struct Value : IEquatable<Value>
{
    private readonly decimal number;
    private readonly string? text;

    private Value(DataType type, decimal number = 0, string? text = null) => (DataType, this.number, this.text) = (type, number, text);

    /// <summary>What this value is.</summary>
    public DataType DataType { get; }

    /// <summary>Nothing.</summary>
    public static Value Empty => default;

    /// <summary>A text; an empty one is <see cref="Empty"/>, so that there is one way to say nothing.</summary>
    public static Value From(string? text) => string.IsNullOrEmpty(text) ? Empty : new(DataType.Text, 0, text);

    /// <summary>A number.</summary>
    public static Value From(decimal number) => new(DataType.Number, number);

    /// <summary>A day.</summary>
    public static Value From(DateOnly date) => new(DataType.Date, date.DayNumber);

    /// <summary>Yes or no.</summary>
    public static Value From(bool yes) => new(DataType.YesNo, yes ? 1 : 0);

    /// <summary>A reference to the record with this id.</summary>
    public static Value LinkTo(long id) => new(DataType.Link, id);

    /// <summary>References to several records, each once; none is <see cref="Empty"/>.</summary>
    public static Value LinksTo(IEnumerable<long> ids) =>
        string.Join(' ', ids.Distinct().Select(id => id.ToString(CultureInfo.InvariantCulture))) is { Length: > 0 } joined
            ? new(DataType.Links, 0, joined)
            : Empty;

    /// <summary>An amount of money.</summary>
    public static Value Money(decimal amount, string currency) => new(DataType.Money, amount, currency);

    /// <summary>An amount with a unit.</summary>
    public static Value Quantity(decimal amount, string unit) => new(DataType.Quantity, amount, unit);

    /// <summary>A time of day.</summary>
    public static Value From(TimeOnly time) => new(DataType.Time, time.Ticks);

    /// <summary>A moment in UTC.</summary>
    public static Value From(DateTime utc) => new(DataType.Moment, utc.Ticks);

    /// <summary>Several choices; none is <see cref="Empty"/>. Codes are plain identifiers, so a space keeps them apart.</summary>
    public static Value From(IEnumerable<string> codes) =>
        string.Join(' ', codes) is { Length: > 0 } joined ? new(DataType.Several, 0, joined) : Empty;

    /// <summary>A file that is kept.</summary>
    public static Value FileOf(Guid id, string name) => new(DataType.File, 0, id.ToString("N") + name);

    /// <summary>A secret as it is kept.</summary>
    public static Value Sealed(string stored) => new(DataType.Secret, 0, stored);

    /// <summary>A computation that failed, with the reason as a sentence for people.</summary>
    public static Value Failed(string reason) => new(DataType.Error, 0, reason);

    /// <summary>A computation that found nothing to give, where IFNA has an answer.</summary>
    public static Value NotAvailable(string reason) => new(DataType.Error, 1, reason);

    /// <summary>True for a failed computation that found nothing to give.</summary>
    public bool IsNotAvailable => DataType == DataType.Error && number == 1;

    /// <summary>True when nothing is filled in.</summary>
    public bool IsEmpty => DataType == DataType.Empty;

    /// <summary>True for a failed computation.</summary>
    public bool IsError => DataType == DataType.Error;

    /// <summary>The text of a text value.</summary>
    public string Text => DataType == DataType.Text ? text! : throw Error(DataType.Text);

    /// <summary>The number of a number value.</summary>
    public decimal Number => DataType == DataType.Number ? number : throw Error(DataType.Number);

    /// <summary>The day of a date value.</summary>
    public DateOnly Date => DataType == DataType.Date ? DateOnly.FromDayNumber((int)number) : throw Error(DataType.Date);

    /// <summary>The answer of a yes-or-no value.</summary>
    public bool Yes => DataType == DataType.YesNo ? number != 0 : throw Error(DataType.YesNo);

    /// <summary>The id of the record that a link points to.</summary>
    public long Target => DataType == DataType.Link ? (long)number : throw Error(DataType.Link);

    /// <summary>The ids of all records that a link, or several, point to; none for any other value.</summary>
    public IReadOnlyList<long> Targets =>
        DataType switch
        {
            DataType.Link => [(long)number],
            DataType.Links => [.. text!.Split(' ').Select(id => long.Parse(id, CultureInfo.InvariantCulture))],
            _ => [],
        };

    /// <summary>The amount of money or of a quantity.</summary>
    public decimal Amount => DataType is DataType.Money or DataType.Quantity ? number : throw Error(DataType.Money);

    /// <summary>The currency of money, the unit of a quantity.</summary>
    public string Unit => DataType is DataType.Money or DataType.Quantity ? text! : throw Error(DataType.Quantity);

    /// <summary>The time of a time value.</summary>
    public TimeOnly Time => DataType == DataType.Time ? new((long)number) : throw Error(DataType.Time);

    /// <summary>The moment, in UTC.</summary>
    public DateTime Moment => DataType == DataType.Moment ? new((long)number, DateTimeKind.Utc) : throw Error(DataType.Moment);

    /// <summary>The codes of several choices.</summary>
    public IReadOnlyList<string> Codes => DataType == DataType.Several ? text!.Split(' ') : throw Error(DataType.Several);

    /// <summary>The id of a file.</summary>
    public Guid FileId => DataType == DataType.File ? Guid.ParseExact(text![..32], "N") : throw Error(DataType.File);

    /// <summary>The name of a file.</summary>
    public string FileName => DataType == DataType.File ? text![32..] : throw Error(DataType.File);

    /// <summary>A secret as it is kept, encrypted.</summary>
    public string Stored => DataType == DataType.Secret ? text! : throw Error(DataType.Secret);

    /// <summary>Why a computation failed.</summary>
    public string Reason => DataType == DataType.Error ? text! : throw Error(DataType.Error);

    /// <inheritdoc/>
    public bool Equals(Value other) =>
        DataType == other.DataType && number == other.number && string.Equals(text, other.text, StringComparison.Ordinal);

    /// <inheritdoc/>
    public override bool Equals(object? obj) => obj is Value other && Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(DataType, number, text);

    /// <summary>Same type and same content; 2.0 equals 2.00.</summary>
    public static bool operator ==(Value left, Value right) => left.Equals(right);

    /// <summary>Not equal.</summary>
    public static bool operator !=(Value left, Value right) => !left.Equals(right);

    /// <summary>For logs and test messages; people read what the field's kind formats.</summary>
    public override string ToString() =>
        DataType switch
        {
            DataType.Empty => "(empty)",
            DataType.Text => text!,
            DataType.Date => Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            DataType.YesNo => Yes ? "yes" : "no",
            DataType.Error => $"(error: {text})",
            DataType.Money or DataType.Quantity => $"{number.ToString(CultureInfo.InvariantCulture)} {text}",
            DataType.Time => Time.ToString("HH:mm:ss", CultureInfo.InvariantCulture),
            DataType.Moment => Moment.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture),
            DataType.Several => text!,
            DataType.File => FileName,
            DataType.Secret => "(secret)",
            _ => number.ToString(CultureInfo.InvariantCulture),
        };

    private InvalidOperationException Error(DataType wanted) => new($"A value of type {DataType} was read as {wanted}.");
}
