namespace Pelto.Web.Pages.Account;

/// <summary>What a person sets for themselves: language and country conventions, and the time zone.</summary>
public sealed class SettingsModel(CurrentRequest request, People people) : PageModel
{
    /// <summary>The zones that can be chosen, with their distance from UTC today.</summary>
    public static IReadOnlyList<(string Id, string Label)> Zones { get; } =
    [
        ("", "that of your company"),
        ("UTC", "UTC"),
        .. TimeZoneInfo
            .GetSystemTimeZones()
            .Where(zone => zone.Id.Contains('/', StringComparison.Ordinal) && !zone.Id.StartsWith("Etc/", StringComparison.Ordinal))
            .OrderBy(zone => zone.Id, StringComparer.Ordinal)
            .Select(zone => (zone.Id, zone.Id.Replace('_', ' '))),
    ];

    /// <summary>The language and country chosen.</summary>
    public string Language { get; private set; } = "";

    /// <summary>The time zone chosen.</summary>
    public string Zone { get; private set; } = "";

    /// <summary>The zone that counts: the one chosen, or that of the company.</summary>
    public TimeZoneInfo Clock => request.Locale.Zone;

    /// <summary>True when it was kept just now.</summary>
    public bool IsSaved { get; private set; }

    /// <summary>How values read so.</summary>
    public IEnumerable<(string Name, string Text)> Samples
    {
        get
        {
            var locale = request.Locale;
            var moment = new DateTime(2026, 11, 25, 12, 30, 0, DateTimeKind.Utc);
            yield return ("Date", Times.Format(DateOnly.FromDateTime(moment), locale));
            yield return ("Date and time", Times.Format(moment, locale));
            yield return ("Number", Numbers.Format(-1234567.5m, 2, locale));
            yield return ("Money", FieldKinds.Find("money")!.Format(Value.Money(1234.5m, "EUR"), locale));
            yield return ("Percent", FieldKinds.Find("percent")!.Format(Value.From(0.125m), locale));
        }
    }

    /// <summary>A language, in words.</summary>
    public static string NameOf(string code) =>
        code.Length == 0 ? "International (ISO dates, SI numbers)" : CultureInfo.GetCultureInfo(code).EnglishName;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(bool saved) =>
        (Language, Zone, IsSaved) = (request.Viewer.Locale.Culture.Name, await people.ZoneAsync(request.Viewer), saved);

    /// <summary>Keeps them.</summary>
    public async Task<IActionResult> OnPostAsync(string? language, string? zone)
    {
        var locale = Locale.For(language, zone);
        await people.SetLocaleAsync(request.Viewer, locale.Culture.Name, string.IsNullOrEmpty(zone) ? "" : locale.Zone.Id);
        return Redirect("/account/settings?saved=true");
    }
}
