using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Web.Pages;

/// <summary>What the address of the audit asks for.</summary>
public sealed record AuditFilter
{
    /// <summary>Words to find.</summary>
    [FromQuery(Name = "find")]
    public string? Find { get; init; }

    /// <summary>One of the kinds.</summary>
    [FromQuery(Name = "kind")]
    public string? Kind { get; init; }

    /// <summary>The id of a person.</summary>
    [FromQuery(Name = "person")]
    public Guid? Person { get; init; }

    /// <summary>The code of a record type.</summary>
    [FromQuery(Name = "type")]
    public string? Type { get; init; }

    /// <summary>The id of a record of that type.</summary>
    [FromQuery(Name = "record")]
    public long? Record { get; init; }

    /// <summary>The first day, as people write it.</summary>
    [FromQuery(Name = "since")]
    public string? Since { get; init; }

    /// <summary>The last day, as people write it.</summary>
    [FromQuery(Name = "until")]
    public string? Until { get; init; }

    /// <summary>The search, by the days of somebody's clock; a day that makes no sense becomes a sentence.</summary>
    public AuditSearch ToSearch(Locale locale, List<(string At, string Sentence)> problems)
    {
        return new(Find, Kind, Person, Day(Since, nameof(Since), 0), Day(Until, nameof(Until), 1), Type, Record);

        DateTimeOffset? Day(string? text, string at, int after)
        {
            if (string.IsNullOrWhiteSpace(text))
                return null;
            if (Times.TryDay(text, out var day, locale))
                return new(TimeZoneInfo.ConvertTimeToUtc(day.AddDays(after).ToDateTime(TimeOnly.MinValue), locale.Zone), TimeSpan.Zero);
            problems.Add(
                (at.ToLowerInvariant(), $"“{text}” is not a day. Write it such as {Times.Format(new DateOnly(2026, 11, 25), locale)}.")
            );
            return null;
        }
    }

    /// <summary>The part of an address that asks for the same.</summary>
    public string Query()
    {
        var asked = new[]
        {
            ("find", Find),
            ("kind", Kind),
            ("person", Person?.ToString()),
            ("type", Type),
            ("record", Record?.ToString(CultureInfo.InvariantCulture)),
            ("since", Since),
            ("until", Until),
        };
        return string.Concat(
            asked.Where(pair => !string.IsNullOrEmpty(pair.Item2)).Select(pair => $"&{pair.Item1}={Uri.EscapeDataString(pair.Item2!)}")
        );
    }
}

/// <summary>What is on record: found, read, gone through as a whole.</summary>
public sealed class AuditModel(CurrentRequest request, AuditReader audit, People people) : PageModel
{
    private const int Together = 50;

    /// <summary>What is asked for.</summary>
    [BindProperty(SupportsGet = true)]
    public AuditFilter Filter { get; set; } = new();

    /// <summary>What makes no sense of it.</summary>
    public List<(string At, string Sentence)> Problems { get; } = [];

    /// <summary>Entries by day, newest first.</summary>
    public IReadOnlyList<(string Day, IReadOnlyList<AuditEntry> Entries)> Days { get; private set; } = [];

    /// <summary>The number before which more is found; null at the end.</summary>
    public long? More { get; private set; }

    /// <summary>Everybody.</summary>
    public IReadOnlyList<PersonToPick> Everybody { get; private set; } = [];

    /// <summary>Record types that entries can be about.</summary>
    public IEnumerable<RecordType> Types => request.ReadableTypes();

    /// <summary>How entries are shown.</summary>
    public AuditView View { get; private set; } = default!;

    /// <summary>What going through the chain gave, once asked for.</summary>
    public AuditCheck? Check { get; private set; }

    /// <summary>The conventions of who reads.</summary>
    public Locale Locale => request.Locale;

    /// <summary>True when something is asked for, so that nothing found is not nothing at all.</summary>
    public bool IsNarrowed => Filter.Query().Length > 0;

    /// <summary>Shows what is found.</summary>
    public async Task OnGetAsync(long? before, CancellationToken cancel)
    {
        Everybody = await people.AllAsync(cancel);
        View = new(request.Catalogue, request.Viewer);
        var search = Filter.ToSearch(Locale, Problems);
        var found = await audit.FindAsync(search, Together + 1, before, cancel);
        if (found.Count > Together)
            More = found[Together - 1].Number;
        Days =
        [
            .. found
                .Take(Together)
                .Select(View.For)
                .GroupBy(entry => Times.Format(DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(entry.At, Locale.Zone).DateTime), Locale))
                .Select(day => (day.Key, (IReadOnlyList<AuditEntry>)[.. day])),
        ];
    }

    /// <summary>Goes through the whole chain.</summary>
    public async Task<IActionResult> OnPostCheckAsync(CancellationToken cancel)
    {
        Check = await audit.CheckAsync(cancel);
        return Partial("Access/_AuditCheck", Check);
    }
}
