namespace Pelto.Core.Records;

/// <summary>How a list's filter compares.</summary>
public enum FilterTest
{
    /// <summary>Equal to a value.</summary>
    Is,

    /// <summary>Anything but a value, nothing included; for lines, in none of them that value.</summary>
    Not,

    /// <summary>From one value to another, both included.</summary>
    Between,

    /// <summary>A value or more.</summary>
    From,

    /// <summary>A value or less.</summary>
    To,

    /// <summary>A text somewhere within, of a choice in what people read for it; for several choices, one of them.</summary>
    Contains,

    /// <summary>Nothing is filled in; for lines, in one of them.</summary>
    Empty,

    /// <summary>Something is filled in.</summary>
    Filled,
}

/// <summary>One condition of a list.</summary>
/// <param name="Field">What is compared.</param>
/// <param name="Test">How.</param>
/// <param name="Value">With what; empty for tests that need nothing, or that look for a text.</param>
/// <param name="Until">For between: the other end.</param>
/// <param name="Text">For contains: the text.</param>
public sealed record Filter(Field Field, FilterTest Test, Value Value = default, Value Until = default, string Text = "")
{
    private const char Mark = '~';

    /// <summary>Records that point to one record by a link.</summary>
    public static Filter Pointing(Field link, long target) =>
        new(link, FilterTest.Is, link.Kind.IsSeveralLinks ? Value.LinksTo([target]) : Value.LinkTo(target));

    /// <summary>The tests that a field can be put to.</summary>
    public static IReadOnlyList<FilterTest> TestsOf(Field field)
    {
        if (field is { IsThroughLink: true, Part.IsLines: true })
            return [];
        var kind = field.Kind;

        // Of lines, one that fits is enough, and "is not" holds where none does. What a line points to is looked for as a record, not by a
        // part of its name.
        return field.Part.IsLines && kind.IsLink ? [.. TestsOf(kind).Where(test => test != FilterTest.Contains)] : TestsOf(kind);
    }

    private static List<FilterTest> TestsOf(FieldKind kind)
    {
        var tests = new List<FilterTest>();
        if (kind.IsCompared && !kind.IsSeveralChoices)
            tests.AddRange([FilterTest.Is, FilterTest.Not]);
        if (kind.IsSeveralLinks)
            tests.AddRange([FilterTest.Is, FilterTest.Not]);
        if (kind.IsOrdered && !kind.IsChoice && !kind.IsOneLink && kind.DataType != DataType.YesNo)
            tests.AddRange([FilterTest.Between, FilterTest.From, FilterTest.To]);
        if (kind.IsSearched || kind.IsChoice || kind.IsLink)
            tests.Add(FilterTest.Contains);
        tests.AddRange([FilterTest.Empty, FilterTest.Filled]);
        return tests;
    }

    /// <summary>A test in words.</summary>
    /// <param name="test">The test.</param>
    /// <param name="ofLines">True where it is said of lines.</param>
    public static string Say(FilterTest test, bool ofLines = false) =>
        test switch
        {
            FilterTest.Not when ofLines => "is in no line",
            FilterTest.Empty when ofLines => "is empty in a line",
            FilterTest.Filled when ofLines => "is filled in a line",
            FilterTest.Is => "is",
            FilterTest.Not => "is not",
            FilterTest.Between => "between",
            FilterTest.From => "at least",
            FilterTest.To => "at most",
            FilterTest.Contains => "contains",
            FilterTest.Empty => "is empty",
            _ => "is filled",
        };

    /// <summary>Reads a filter from what somebody typed. Gives a sentence when it makes no sense.</summary>
    public static (Filter? Filter, string? Refusal) Read(Field field, FilterTest test, string? value, string? until, Locale? locale = null)
    {
        if (!TestsOf(field).Contains(test))
            return (null, $"{field.Label} cannot be searched by “{Say(test, field.Part.IsLines)}”.");
        if (test is FilterTest.Empty or FilterTest.Filled)
            return (new(field, test), null);
        if (string.IsNullOrWhiteSpace(value) && test != FilterTest.Between)
            return (null, "Say what to look for.");
        if (test == FilterTest.Contains && !field.Kind.IsSeveralChoices)
            return (new(field, test, Text: string.Concat(value!.Where(c => !char.IsControl(c))).Trim()), null);
        var (from, to) = (field.Kind.Parse(value, locale), test == FilterTest.Between ? field.Kind.Parse(until, locale) : Value.Empty);
        if ((from.Refusal ?? to.Refusal) is { } refusal)
            return (null, refusal);
        if (test == FilterTest.Between && (from.Value.IsEmpty || to.Value.IsEmpty))
            return (null, "Say both ends, or look for what is at least or at most one of them.");
        if (field.Kind.Common is not null && test == FilterTest.Between && from.Value.Unit != to.Value.Unit)
            return (null, "Both ends are in one currency.");
        return (new(field, test, from.Value, to.Value), null);
    }

    /// <summary>
    /// The filter as it stands in addresses and in the programming interface, the same in every language: <c>weight~between~10~20</c>.
    /// </summary>
    public string Write() =>
        string.Join(
            Mark,
            new[] { PathOf(Field), Test.ToString().ToLowerInvariant() }.Concat(
                Test switch
                {
                    FilterTest.Empty or FilterTest.Filled => [],
                    FilterTest.Between => [Plain(Value), Plain(Until)],
                    FilterTest.Contains when Text.Length > 0 => [Text],
                    _ => new[] { Plain(Value) },
                }
            )
        );

    /// <summary>Reads what <see cref="Write"/> wrote.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="text">The text.</param>
    /// <param name="isKnown">False for fields of which whoever asks may not know; all are known when not given.</param>
    public static (Filter? Filter, string? Refusal) Parse(RecordType type, string text, Func<Field, bool>? isKnown = null)
    {
        var parts = text.Split(Mark, 3);
        if (parts.Length < 2 || FieldOf(type, parts[0]) is not { } field || isKnown?.Invoke(field) == false)
            return (
                null,
                $"There is no field “{parts[0]}” to search. "
                    + $"A filter is written code~test~value, such as {type.Identifier.Code}~contains~12."
            );
        if (
            !Enum.TryParse<FilterTest>(parts[1], ignoreCase: true, out var test)
            || !Enum.IsDefined(test)
            || parts[1].Any(char.IsAsciiDigit)
        )
            return (
                null,
                $"There is no test “{parts[1]}”. There are: "
                    + $"{string.Join(", ", Enum.GetNames<FilterTest>().Select(name => name.ToLowerInvariant()))}."
            );
        var values = test == FilterTest.Between && parts.Length == 3 ? parts[2].Split(Mark, 2) : parts.Skip(2).ToArray();
        return Read(field, test, values.ElementAtOrDefault(0), values.ElementAtOrDefault(1));
    }

    /// <summary>The filter in words.</summary>
    /// <param name="locale">For whom.</param>
    /// <param name="target">What a link points to, in words, when the filter is about one.</param>
    public string InWords(Locale locale, string? target = null) =>
        LabelOf(Field, locale)
        + " "
        + Test switch
        {
            FilterTest.Empty or FilterTest.Filled => Say(Test, Field.Part.IsLines),
            FilterTest.Between => $"{Say(Test)} {Field.Kind.Format(Value, locale)} and {Field.Kind.Format(Until, locale)}",
            FilterTest.Contains when Text.Length > 0 => $"{Say(Test)} “{Text}”",
            _ => $"{Say(Test, Field.Part.IsLines)} {target ?? Field.Kind.Format(Value, locale)}",
        };

    /// <summary>What people read for a field that lists can be filtered by: of lines, with a word for them.</summary>
    public static string LabelOf(Field field, Locale locale) =>
        field.Part.IsLines ? $"{field.Part.Label}: {field.TextIn(locale).Label}" : field.TextIn(locale).Label;

    /// <summary>How a field is named in a filter: by its code, of lines after that of their part.</summary>
    public static string PathOf(Field field) => field.Part.IsLines ? $"{field.Part.Code}.{field.Code}" : field.Code;

    private static Field? FieldOf(RecordType type, string path) =>
        path.Split('.', 2) is [var lines, var code]
            ? type.LineParts.FirstOrDefault(part => part.Code == lines)?.Find(code)
            : type.Header.Find(path);

    private string Plain(Value value) =>
        Field.Kind.IsChoice
            ? value.DataType == DataType.Several
                ? string.Join(';', value.Codes)
                : value.Text
            : Field.Kind.Format(value);
}
