using System.Globalization;

namespace Pelto.Core.Values;

/// <summary>What a value can be while Pelto works with it. Kinds of field map onto these few.</summary>
public enum ValueForm
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

    private Value(ValueForm type, decimal number = 0, string? text = null) => (Type, this.number, this.text) = (type, number, text);

    /// <summary>What this value is.</summary>
    public ValueForm Type { get; }

    /// <summary>Nothing.</summary>
    public static Value Empty => default;

    /// <summary>A text; an empty one is <see cref="Empty"/>, so that there is one way to say nothing.</summary>
    public static Value Of(string? text) => string.IsNullOrEmpty(text) ? Empty : new(ValueForm.Text, 0, text);

    /// <summary>A number.</summary>
    public static Value Of(decimal number) => new(ValueForm.Number, number);

    /// <summary>A day.</summary>
    public static Value Of(DateOnly date) => new(ValueForm.Date, date.DayNumber);

    /// <summary>Yes or no.</summary>
    public static Value Of(bool yes) => new(ValueForm.YesNo, yes ? 1 : 0);

    /// <summary>A reference to the record with this id.</summary>
    public static Value LinkTo(long id) => new(ValueForm.Link, id);

    /// <summary>References to several records, each once; none is <see cref="Empty"/>.</summary>
    public static Value LinksTo(IEnumerable<long> ids) =>
        string.Join(' ', ids.Distinct().Select(id => id.ToString(CultureInfo.InvariantCulture))) is { Length: > 0 } joined
            ? new(ValueForm.Links, 0, joined)
            : Empty;

    /// <summary>An amount of money.</summary>
    public static Value Money(decimal amount, string currency) => new(ValueForm.Money, amount, currency);

    /// <summary>An amount with a unit.</summary>
    public static Value Quantity(decimal amount, string unit) => new(ValueForm.Quantity, amount, unit);

    /// <summary>A time of day.</summary>
    public static Value Of(TimeOnly time) => new(ValueForm.Time, time.Ticks);

    /// <summary>A moment in UTC.</summary>
    public static Value Of(DateTime utc) => new(ValueForm.Moment, utc.Ticks);

    /// <summary>Several choices; none is <see cref="Empty"/>. Codes are plain identifiers, so a space keeps them apart.</summary>
    public static Value Of(IEnumerable<string> codes) =>
        string.Join(' ', codes) is { Length: > 0 } joined ? new(ValueForm.Several, 0, joined) : Empty;

    /// <summary>A file that is kept.</summary>
    public static Value FileOf(Guid id, string name) => new(ValueForm.File, 0, id.ToString("N") + name);

    /// <summary>A secret as it is kept.</summary>
    public static Value Sealed(string kept) => new(ValueForm.Secret, 0, kept);

    /// <summary>A computation that failed, with the reason as a sentence for people.</summary>
    public static Value Failed(string reason) => new(ValueForm.Error, 0, reason);

    /// <summary>A computation that found nothing to give, where IFNA has an answer.</summary>
    public static Value NotAvailable(string reason) => new(ValueForm.Error, 1, reason);

    /// <summary>True for a failed computation that found nothing to give.</summary>
    public bool IsNotAvailable => Type == ValueForm.Error && number == 1;

    /// <summary>True when nothing is filled in.</summary>
    public bool IsEmpty => Type == ValueForm.Empty;

    /// <summary>True for a failed computation.</summary>
    public bool IsError => Type == ValueForm.Error;

    /// <summary>The text of a text value.</summary>
    public string Text => Type == ValueForm.Text ? text! : throw Wrong(ValueForm.Text);

    /// <summary>The number of a number value.</summary>
    public decimal Number => Type == ValueForm.Number ? number : throw Wrong(ValueForm.Number);

    /// <summary>The day of a date value.</summary>
    public DateOnly Date => Type == ValueForm.Date ? DateOnly.FromDayNumber((int)number) : throw Wrong(ValueForm.Date);

    /// <summary>The answer of a yes-or-no value.</summary>
    public bool Yes => Type == ValueForm.YesNo ? number != 0 : throw Wrong(ValueForm.YesNo);

    /// <summary>The id of the record that a link points to.</summary>
    public long Target => Type == ValueForm.Link ? (long)number : throw Wrong(ValueForm.Link);

    /// <summary>The ids of all records that a link, or several, point to; none for any other value.</summary>
    public IReadOnlyList<long> Targets =>
        Type switch
        {
            ValueForm.Link => [(long)number],
            ValueForm.Links => [.. text!.Split(' ').Select(id => long.Parse(id, CultureInfo.InvariantCulture))],
            _ => [],
        };

    /// <summary>The amount of money or of a quantity.</summary>
    public decimal Amount => Type is ValueForm.Money or ValueForm.Quantity ? number : throw Wrong(ValueForm.Money);

    /// <summary>The currency of money, the unit of a quantity.</summary>
    public string Unit => Type is ValueForm.Money or ValueForm.Quantity ? text! : throw Wrong(ValueForm.Quantity);

    /// <summary>The time of a time value.</summary>
    public TimeOnly Time => Type == ValueForm.Time ? new((long)number) : throw Wrong(ValueForm.Time);

    /// <summary>The moment, in UTC.</summary>
    public DateTime Moment => Type == ValueForm.Moment ? new((long)number, DateTimeKind.Utc) : throw Wrong(ValueForm.Moment);

    /// <summary>The codes of several choices.</summary>
    public IReadOnlyList<string> Codes => Type == ValueForm.Several ? text!.Split(' ') : throw Wrong(ValueForm.Several);

    /// <summary>The id of a file.</summary>
    public Guid FileId => Type == ValueForm.File ? Guid.ParseExact(text![..32], "N") : throw Wrong(ValueForm.File);

    /// <summary>The name of a file.</summary>
    public string FileName => Type == ValueForm.File ? text![32..] : throw Wrong(ValueForm.File);

    /// <summary>A secret as it is kept, encrypted.</summary>
    public string Kept => Type == ValueForm.Secret ? text! : throw Wrong(ValueForm.Secret);

    /// <summary>Why a computation failed.</summary>
    public string Reason => Type == ValueForm.Error ? text! : throw Wrong(ValueForm.Error);

    /// <inheritdoc/>
    public bool Equals(Value other) =>
        Type == other.Type && number == other.number && string.Equals(text, other.text, StringComparison.Ordinal);

    /// <inheritdoc/>
    public override bool Equals(object? obj) => obj is Value other && Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Type, number, text);

    /// <summary>Same type and same content; 2.0 equals 2.00.</summary>
    public static bool operator ==(Value left, Value right) => left.Equals(right);

    /// <summary>Not equal.</summary>
    public static bool operator !=(Value left, Value right) => !left.Equals(right);

    /// <summary>For logs and test messages; people read what the field's kind formats.</summary>
    public override string ToString() =>
        Type switch
        {
            ValueForm.Empty => "(empty)",
            ValueForm.Text => text!,
            ValueForm.Date => Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            ValueForm.YesNo => Yes ? "yes" : "no",
            ValueForm.Error => $"(error: {text})",
            ValueForm.Money or ValueForm.Quantity => $"{number.ToString(CultureInfo.InvariantCulture)} {text}",
            ValueForm.Time => Time.ToString("HH:mm:ss", CultureInfo.InvariantCulture),
            ValueForm.Moment => Moment.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture),
            ValueForm.Several => text!,
            ValueForm.File => FileName,
            ValueForm.Secret => "(secret)",
            _ => number.ToString(CultureInfo.InvariantCulture),
        };

    private InvalidOperationException Wrong(ValueForm wanted) => new($"A value of type {Type} was read as {wanted}.");
}
