namespace Pelto.Core.Records;

/// <summary>How far the values of a field are put together before they make groups.</summary>
public enum GroupStep
{
    /// <summary>Each value for itself.</summary>
    Value,

    /// <summary>Days of a month.</summary>
    Month,

    /// <summary>Days of a quarter.</summary>
    Quarter,

    /// <summary>Days of a year.</summary>
    Year,
}

/// <summary>What a list is grouped by.</summary>
/// <param name="Field">A field of the header.</param>
/// <param name="Step">For days: how far they are put together.</param>
public readonly record struct GroupKey(Field Field, GroupStep Step = GroupStep.Value)
{
    private const char Mark = ':';

    /// <summary>The ways in which a field makes groups; none for one that does not.</summary>
    public static IReadOnlyList<GroupStep> StepsOf(Field field) =>
        field.Part.IsLines ? []
        : field.Kind.DataType == DataType.Date ? [GroupStep.Month, GroupStep.Quarter, GroupStep.Year, GroupStep.Value]
        : field.Kind.IsLongText
        || field.Kind.IsAmount
        || field.Kind.IsSeveralChoices
        || field.Kind.DataType == DataType.Moment
        || !Filter.TestsOf(field).Contains(FilterTest.Is)
            ? []
        : [GroupStep.Value];

    /// <summary>The key as it stands in addresses and in the programming interface: <c>status</c>, <c>order_date:month</c>.</summary>
    public string Write() => Step == GroupStep.Value ? Field.Code : $"{Field.Code}{Mark}{Step.ToString().ToLowerInvariant()}";

    /// <summary>Reads what <see cref="Write"/> wrote; a sentence when it makes no sense.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="text">The text.</param>
    /// <param name="isKnown">False for fields of which whoever asks may not know; all are known when not given.</param>
    public static (GroupKey? Key, string? Refusal) Parse(RecordType type, string text, Func<Field, bool>? isKnown = null)
    {
        var (code, said) = text.Split(Mark, 2) is [var before, var after] ? (before, after) : (text, nameof(GroupStep.Value));
        if (type.Header.Find(code) is not { } field || isKnown?.Invoke(field) == false)
            return (null, $"There is no field “{code}” to group by.");
        var steps = StepsOf(field);
        if (steps.Count == 0)
            return (null, $"{field.Label} makes no groups.");
        if (said.Any(char.IsAsciiDigit) || !Enum.TryParse<GroupStep>(said, ignoreCase: true, out var step) || !steps.Contains(step))
            return (null, $"{field.Label} is grouped by: {string.Join(", ", steps.Select(one => new GroupKey(field, one).Write()))}.");
        return (new(field, step), null);
    }

    /// <summary>What people read: the field, with the step behind it.</summary>
    public string LabelIn(Locale locale) =>
        Field.TextIn(locale).Label
        + Step switch
        {
            GroupStep.Month => ", by month",
            GroupStep.Quarter => ", by quarter",
            GroupStep.Year => ", by year",
            _ => Field.Kind.DataType == DataType.Date ? ", by day" : "",
        };

    /// <summary>A group's value as people read it; of days, the first of the group.</summary>
    public string Format(Value value, Locale locale) =>
        value.IsEmpty
            ? ""
            : Step switch
            {
                GroupStep.Month when locale.IsInternational => value.Date.ToString("yyyy-MM", CultureInfo.InvariantCulture),
                GroupStep.Month => value.Date.ToString("MMMM yyyy", locale.Culture),
                GroupStep.Quarter => string.Create(
                    CultureInfo.InvariantCulture,
                    $"{value.Date.Year}, quarter {((value.Date.Month - 1) / 3) + 1}"
                ),
                GroupStep.Year => value.Date.Year.ToString("0000", CultureInfo.InvariantCulture),
                _ => Field.Kind.Format(value, locale),
            };

    /// <summary>What the records of a group are held to, and no others are.</summary>
    public Filter FilterFor(Value value) =>
        value.IsEmpty ? new(Field, FilterTest.Empty)
        : Step != GroupStep.Value ? new(Field, FilterTest.Between, value, Value.From(Last(value.Date)))
        : Field.Kind.IsOneLink ? Filter.Pointing(Field, value.Target)
        : new(Field, FilterTest.Is, value);

    // The last day of the month, quarter or year that begins with a day; the calendar ends with 9999.
    private DateOnly Last(DateOnly first) =>
        DateOnly.FromDayNumber(
            Step switch
            {
                GroupStep.Month => first.DayNumber + DateTime.DaysInMonth(first.Year, first.Month),
                GroupStep.Quarter => Enumerable.Range(first.Month, 3).Sum(month => DateTime.DaysInMonth(first.Year, month))
                    + first.DayNumber,
                _ => first.DayNumber + (DateTime.IsLeapYear(first.Year) ? 366 : 365),
            } - 1
        );
}
