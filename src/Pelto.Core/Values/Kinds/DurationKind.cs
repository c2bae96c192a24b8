using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Pelto.Core.Values;

/// <summary>
/// How long something takes, to the second. Typed as <c>1 h 20 min</c>, <c>1:20</c> or as in ISO 8601, <c>PT1H20M</c>; a day is 24 hours.
/// In formulas it is a number of seconds, so that sums are durations again.
/// </summary>
public sealed partial record DurationKind : FieldKind
{
    private const decimal Largest = 999_999_999_999;
    private const string Example = "such as 1 h 20 min";

    // Nobody writes more than that, and what is pasted is not gone over again and again.
    private const int LongestText = 60;

    /// <inheritdoc/>
    public override bool IsSizedByValues => false;

    /// <inheritdoc/>
    public override string Name => "duration";

    /// <inheritdoc/>
    public override string Label => "Duration";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Number;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Integer);

    /// <inheritdoc/>
    public override bool IsSummable => true;

    /// <inheritdoc/>
    public override double? MaxNumber => (double)Largest;

    /// <inheritdoc/>
    public override string? Hint(Locale locale) => "1 h 20 min";

    /// <inheritdoc/>
    public override Value Fit(Value value) => Rounded(value, 0);

    /// <inheritdoc/>
    public override string FitSql(string text, string? unit) => RoundedSql(text, 0);

    /// <inheritdoc/>
    public override string? Refuse(Value value) =>
        decimal.Truncate(value.Number) != value.Number ? "A duration is told to the second."
        : Math.Abs(value.Number) > Largest ? "At most 12 digits of seconds fit."
        : null;

    /// <inheritdoc/>
    public override IEnumerable<ColumnCheck> Checks(ColumnNames column) => [new("size", $"abs({column("")}) <= 999999999999")];

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        if (text.Length > LongestText)
            return Parsed.Refused($"This is not a duration, {Example}.");
        var sign = text[0] is '-' or '\u2212' ? -1 : 1;
        var rest = text.TrimStart('-', '\u2212').TrimStart();
        var seconds =
            Clock().Match(rest) is { Success: true } clock ? Count(clock, 1, 3600) + Count(clock, 2, 60) + Count(clock, 3, 1)
            : Iso().Match(rest) is { Success: true } iso ? Count(iso, 1, 86400) + Count(iso, 2, 3600) + Count(iso, 3, 60) + Count(iso, 4, 1)
            : InUnits(rest, locale);
        if (seconds is { } known)
            return Value.From(sign * known);
        return Parsed.Refused(
            Numbers.TryParse(rest, out _, locale) ? $"Say what “{text}” counts, {Example}."
            : rest.StartsWith('P')
                ? $"“{text}” is not a duration of days, hours, minutes and seconds, {Example}: years and months have no fixed length."
            : $"“{text}” is not a duration, {Example}."
        );
    }

    // 1 h 20 min, 1h20m, 1.5 hours: each unit once, from the largest.
    private static decimal? InUnits(string text, Locale locale)
    {
        if (Units().Match(text) is not { Success: true } units)
            return null;
        var seconds = 0m;
        foreach (var (group, size) in new[] { ("d", 86400), ("h", 3600), ("min", 60), ("s", 1) })
        {
            if (!units.Groups[group].Success)
                continue;
            if (!Numbers.TryParse(units.Groups[group].Value, out var count, locale) || count > Largest)
                return null;
            seconds += count * size;
        }

        return seconds;
    }

    private static decimal? Count(Match match, int group, int size) =>
        !match.Groups[group].Success ? 0
        : decimal.TryParse(match.Groups[group].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var count) && count <= Largest
            ? count * size
        : null;

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale)
    {
        var (sign, hours, minutes, seconds) = Parts(value);
        var said = new List<string>();
        if (hours > 0)
            said.Add($"{Numbers.Format(hours, 0, locale)}\u00a0h");
        if (minutes > 0 || (hours == 0 && seconds == 0))
            said.Add(Invariant($"{minutes}\u00a0min"));
        if (seconds > 0)
            said.Add(Invariant($"{seconds}\u00a0s"));
        return sign + string.Join(' ', said);
    }

    private static (string Sign, decimal Hours, int Minutes, int Seconds) Parts(Value value)
    {
        var all = Math.Abs(decimal.Truncate(value.Number));
        return (value.Number < 0 ? "-" : "", decimal.Floor(all / 3600), (int)(all % 3600) / 60, (int)(all % 60));
    }

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        value.DataType == DataType.Number && from is not DurationKind
            ? Parsed.Refused($"“{from.Format(value)}” does not say whether it counts hours, minutes or seconds.")
            : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "A duration as in ISO 8601, such as PT1H20M,");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value)
    {
        if (value.DataType != DataType.Number)
            return null;
        var (sign, hours, minutes, seconds) = Parts(value);
        var said =
            $"{(hours > 0 ? Invariant($"{hours:0}H") : "")}{(minutes > 0 ? Invariant($"{minutes}M") : "")}{(seconds > 0 ? Invariant($"{seconds}S") : "")}";
        return JsonValue.Create($"{sign}PT{(said.Length == 0 ? "0S" : said)}");
    }

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("string", "duration", "As in ISO 8601, such as PT1H20M.");

    [GeneratedRegex(@"^(\d+):([0-5]\d)(?::([0-5]\d))?$", RegexOptions.CultureInvariant)]
    private static partial Regex Clock();

    [GeneratedRegex(
        @"^P(?=\d|T\d)(?:(\d+)D)?(?:T(?=\d)(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?)?$",
        RegexOptions.CultureInvariant | RegexOptions.IgnoreCase
    )]
    private static partial Regex Iso();

    [GeneratedRegex(
        @"^(?=.)(?:(?<d>[\d.,'’\s]*\d)\s*(?:d|days?)\s*)?(?:(?<h>[\d.,'’\s]*\d)\s*(?:h|hrs?|hours?)\s*)?"
            + @"(?:(?<min>[\d.,'’\s]*\d)\s*(?:m|mins?|minutes?)\s*)?(?:(?<s>[\d.,'’\s]*\d)\s*(?:s|secs?|seconds?))?$",
        RegexOptions.CultureInvariant | RegexOptions.IgnoreCase
    )]
    private static partial Regex Units();
}
