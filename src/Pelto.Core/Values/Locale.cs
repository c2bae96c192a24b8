namespace Pelto.Core.Values;

/// <summary>The language and country conventions in which somebody reads and writes, and the time zone that their clock shows.</summary>
/// <param name="Culture">
/// Conventions for numbers, dates and times; the invariant culture stands for the international ones (SI and ISO 8601).
/// </param>
/// <param name="Zone">The time zone.</param>
public sealed record Locale(CultureInfo Culture, TimeZoneInfo Zone)
{
    /// <summary>
    /// ISO dates, numbers as the SI brochure has them, and UTC: how definitions, files and the programming interface write.
    /// </summary>
    public static Locale International { get; } = new(CultureInfo.InvariantCulture, TimeZoneInfo.Utc);

    /// <summary>The languages that a person can choose, by their code (BCP 47); the empty one is international.</summary>
    public static IReadOnlyList<string> Languages { get; } =
    [
        "",
        "en-GB",
        "en-US",
        "en-IE",
        "fi-FI",
        "sv-SE",
        "sv-FI",
        "nb-NO",
        "da-DK",
        "de-DE",
        "de-CH",
        "fr-FR",
        "nl-NL",
        "et-EE",
        "pl-PL",
        "es-ES",
        "it-IT",
    ];

    /// <summary>
    /// The locale of a person's settings. What is not known falls back to international, so that a setting never keeps anybody out.
    /// </summary>
    /// <param name="language">A code of <see cref="Languages"/>.</param>
    /// <param name="zone">An IANA time zone such as Europe/Helsinki.</param>
    public static Locale For(string? language, string? zone) =>
        new(
            language is { Length: > 0 } && Languages.Contains(language)
                ? CultureInfo.GetCultureInfo(language)
                : CultureInfo.InvariantCulture,
            zone is { Length: > 0 } && TimeZoneInfo.TryFindSystemTimeZoneById(zone, out var found) ? found : TimeZoneInfo.Utc
        );

    /// <summary>What people call the time of a zone: Helsinki time, or UTC.</summary>
    public static string NameOf(TimeZoneInfo zone) =>
        zone.Equals(TimeZoneInfo.Utc) ? "UTC" : $"{zone.Id[(zone.Id.LastIndexOf('/') + 1)..].Replace('_', ' ')} time";

    /// <summary>True for SI numbers and ISO dates.</summary>
    public bool IsInternational => Culture.Equals(CultureInfo.InvariantCulture);

    /// <summary>The two-letter language of labels; empty for the language that they were defined in.</summary>
    public string Language => IsInternational ? "" : Culture.TwoLetterISOLanguageName;

    /// <summary>How a day is written, as a pattern of .NET: <c>d.M.yyyy</c>. The year always has four digits.</summary>
    public string DayPattern
    {
        get
        {
            if (IsInternational)
                return "yyyy-MM-dd";
            var pattern = Culture.DateTimeFormat.ShortDatePattern;
            return pattern.Contains("yyyy", StringComparison.Ordinal)
                ? pattern
                : pattern.Replace("yy", "y", StringComparison.Ordinal).Replace("y", "yyyy", StringComparison.Ordinal);
        }
    }

    /// <summary>How a day is to be typed, in words that stand in an empty input.</summary>
    public string DayHint =>
        string.Join(
            DayPattern.First(c => !char.IsLetter(c)),
            DayOrder.Select(static part =>
                part switch
                {
                    'd' => "day",
                    'M' => "month",
                    _ => "year",
                }
            )
        );

    /// <summary>The order in which day, month and year stand: <c>dMy</c>, <c>Mdy</c> or <c>yMd</c>.</summary>
    public string DayOrder => string.Concat(DayPattern.Where(c => c is 'd' or 'M' or 'y').Distinct());
}
