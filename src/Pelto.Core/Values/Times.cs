using System.Text;

namespace Pelto.Core.Values;

/// <summary>Days, times of day and moments as people read and type them.</summary>
public static class Times
{
    /// <summary>
    /// Reads a day. ISO 8601 always, else the order of the locale (day, month, year internationally) with any mark between; years of two
    /// digits are 1950 to 2049.
    /// </summary>
    public static bool TryDay(string text, out DateOnly day, Locale? locale = null)
    {
        day = default;
        text = text.Trim();
        if (text.Length == 8 && text.All(char.IsAsciiDigit))
            return DateOnly.TryParseExact(text, "yyyyMMdd", CultureInfo.InvariantCulture, DateTimeStyles.None, out day);
        var parts = Figures(text, out var marks);
        if (
            parts.Count != 3
            || parts.Any(part => part.Length > 4)
            || marks.Any(mark => !mark.All(static c => c is '.' or '-' or '/' or ' ' or '\u00a0'))
        )
            return false;
        var order =
            parts[0].Length == 4 ? "yMd"
            : locale is null or { IsInternational: true } ? "dMy"
            : locale.DayOrder;
        var year = int.Parse(parts[order.IndexOf('y', StringComparison.Ordinal)], CultureInfo.InvariantCulture);
        if (parts[order.IndexOf('y', StringComparison.Ordinal)].Length <= 2)
            year += year < 50 ? 2000 : 1900;
        var (month, date) = (
            int.Parse(parts[order.IndexOf('M', StringComparison.Ordinal)], CultureInfo.InvariantCulture),
            int.Parse(parts[order.IndexOf('d', StringComparison.Ordinal)], CultureInfo.InvariantCulture)
        );
        if (year is < 1 or > 9999 || month is < 1 or > 12 || date < 1 || date > DateTime.DaysInMonth(year, month))
            return false;
        day = new(year, month, date);
        return true;
    }

    /// <summary>Writes a day.</summary>
    public static string Format(DateOnly day, Locale? locale = null) =>
        day.ToString(locale?.DayPattern ?? "yyyy-MM-dd", locale?.Culture ?? CultureInfo.InvariantCulture);

    /// <summary>Reads a time of day: 14:30, 14.30, 1430, 2:30 pm, with or without seconds.</summary>
    public static bool TryTime(string text, out TimeOnly time, Locale? locale = null)
    {
        time = default;
        text = text.Trim();
        var half = Half(ref text, locale);
        List<string> marks = [];
        var parts = text.Length is 3 or 4 && text.All(char.IsAsciiDigit) ? [text[..^2], text[^2..]] : Figures(text, out marks);
        if (marks.Any(static mark => mark is not (":" or ".")))
            return false;
        if (parts.Count == 0 || parts.Count > 3 || (parts.Count == 1 && half is null) || parts.Any(part => part.Length > 2))
            return false;
        var numbers = parts.ConvertAll(part => int.Parse(part, CultureInfo.InvariantCulture));
        var (hour, minute, second) = (numbers[0], numbers.ElementAtOrDefault(1), numbers.ElementAtOrDefault(2));
        if (half is { } afternoon)
        {
            if (hour is < 1 or > 12)
                return false;
            hour = (hour % 12) + (afternoon ? 12 : 0);
        }

        if (hour > 23 || minute > 59 || second > 59)
            return false;
        time = new(hour, minute, second);
        return true;
    }

    /// <summary>Writes a time of day; seconds only when there are some.</summary>
    public static string Format(TimeOnly time, Locale? locale = null) =>
        locale is null or { IsInternational: true }
            ? time.ToString(time.Second == 0 ? "HH:mm" : "HH:mm:ss", CultureInfo.InvariantCulture)
            : time.ToString(
                time.Second == 0 ? locale.Culture.DateTimeFormat.ShortTimePattern : locale.Culture.DateTimeFormat.LongTimePattern,
                locale.Culture
            );

    /// <summary>
    /// Reads a moment on the locale's clock: a day, then a time. Null with a sentence when it is none, or when clocks skipped that time.
    /// </summary>
    public static (DateTime? Utc, string? Refusal) Moment(string text, Locale locale)
    {
        if (
            DateTimeOffset.TryParseExact(
                text,
                ["yyyy-MM-dd'T'HH:mm:ssK", "yyyy-MM-dd'T'HH:mm:ss.FFFFFFFK", "yyyy-MM-dd'T'HH:mmK"],
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var iso
            )
            && text.Contains('T', StringComparison.Ordinal)
            && (text.EndsWith('Z') || text.LastIndexOfAny(['+', '-']) > 9)
        )
            return (ToSecond(iso.UtcDateTime), null);
        TimeSpan? offset = null;
        var sign = text.LastIndexOf(" +", StringComparison.Ordinal) is >= 0 and var plus
            ? plus
            : text.LastIndexOf(" -", StringComparison.Ordinal);
        if (sign > 0 && TimeSpan.TryParseExact(text[(sign + 2)..], @"hh\:mm", CultureInfo.InvariantCulture, out var ahead))
        {
            offset = text[sign + 1] == '-' ? -ahead : ahead;
            text = text[..sign];
        }

        var cut = text.IndexOfAny([' ', 'T', '\u00a0'], Math.Min(text.Length, 6));
        for (; cut > 0; cut = text.IndexOfAny([' ', 'T', '\u00a0'], cut + 1))
        {
            if (!TryDay(text[..cut].TrimEnd(','), out var day, locale) || !TryTime(text[(cut + 1)..], out var time, locale))
                continue;
            var local = day.ToDateTime(time);
            if (offset is { } given)
                return local.Ticks - given.Ticks is < 0 or > 3155378975999999999
                    ? (null, "This moment is out of range.")
                    : (DateTime.SpecifyKind(local - given, DateTimeKind.Utc), null);
            if (locale.Zone.IsInvalidTime(local))
                return (null, $"On that day clocks went forward: there was no {Format(time, locale)} in {locale.Zone.Id}.");
            return locale.Zone.GetUtcOffset(local) is var usual && local.Ticks - usual.Ticks is < 0 or > 3155378975999999999
                ? (null, "This moment is out of range.")
                : (TimeZoneInfo.ConvertTimeToUtc(local, locale.Zone), null);
        }

        return (null, null);
    }

    /// <summary>Writes a moment on the locale's clock; where clocks show that time twice, with the offset that tells which.</summary>
    public static string Format(DateTime utc, Locale? locale = null)
    {
        locale ??= Locale.International;
        var local = TimeZoneInfo.ConvertTimeFromUtc(utc, locale.Zone);
        var written = $"{Format(DateOnly.FromDateTime(local), locale)} {Format(TimeOnly.FromDateTime(local), locale)}";
        if (!locale.Zone.IsAmbiguousTime(local))
            return written;
        var offset = locale.Zone.GetUtcOffset(utc);
        return string.Create(CultureInfo.InvariantCulture, $"{written} {(offset < TimeSpan.Zero ? '-' : '+')}{offset:hh\\:mm}");
    }

    /// <summary>Writes when something happened, to the minute.</summary>
    public static string Stamp(DateTimeOffset at, Locale locale) =>
        Format(new DateTime(at.UtcTicks - (at.UtcTicks % TimeSpan.TicksPerMinute), DateTimeKind.Utc), locale);

    /// <summary>The moment without what is shorter than a second.</summary>
    public static DateTime ToSecond(DateTime utc) => new(utc.Ticks - (utc.Ticks % TimeSpan.TicksPerSecond), DateTimeKind.Utc);

    private static bool? Half(ref string text, Locale? locale)
    {
        var format = locale?.Culture.DateTimeFormat ?? CultureInfo.InvariantCulture.DateTimeFormat;
        foreach (
            var (mark, afternoon) in new[]
            {
                ("am", false),
                ("pm", true),
                ("a.m.", false),
                ("p.m.", true),
                (format.AMDesignator, false),
                (format.PMDesignator, true),
            }
        )
        {
            if (mark.Length == 0 || !text.EndsWith(mark, StringComparison.OrdinalIgnoreCase))
                continue;
            text = text[..^mark.Length].Trim();
            return afternoon;
        }

        return null;
    }

    // The runs of digits, and what stands between them; nothing when something stands before or after.
    private static List<string> Figures(string text, out List<string> marks)
    {
        var (figures, between) = (new List<string>(), new List<string>());
        marks = between;
        var run = new StringBuilder();
        for (var i = 0; i <= text.Length; i++)
        {
            var digit = i < text.Length && char.IsAsciiDigit(text[i]);
            if (run.Length > 0 && (i == text.Length || digit != char.IsAsciiDigit(run[0])))
            {
                (char.IsAsciiDigit(run[0]) ? figures : between).Add(run.ToString());
                run.Clear();
            }

            if (i < text.Length)
                run.Append(text[i]);
        }

        if (between.Count == figures.Count && between.Count > 0 && between[^1].Trim() is "." or "")
            between.RemoveAt(between.Count - 1);
        return between.Count == figures.Count - 1 ? figures : [];
    }
}
