using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>A day of the calendar; ISO 8601 in files, the person's own order on screens.</summary>
public sealed record DateKind : FieldKind
{
    /// <inheritdoc/>
    public override string? Hint(Locale locale) => locale.DayHint;

    /// <inheritdoc/>
    public override int? Letters => 10;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Date;

    /// <inheritdoc/>
    public override string Name => "date";

    /// <inheritdoc/>
    public override string Label => "Date";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Date;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Date);

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Times.TryDay(text, out var date, locale)
            ? Value.From(date)
            : Parsed.Refused(
                locale.IsInternational
                    ? $"“{text}” is not a date. Write year, month and day, such as 2026-11-18."
                    : $"“{text}” is not a date. Write {locale.DayHint}, such as {Times.Format(new DateOnly(2026, 11, 18), locale)}."
            );

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => Times.Format(value.Date, locale);

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        value.DataType == DataType.Moment ? Value.From(DateOnly.FromDateTime(value.Moment)) : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "A date such as \"2026-11-18\"");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) => value.DataType == DataType.Date ? Times.Format(value.Date) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("string", "date");
}

/// <summary>A time of day, to the second.</summary>
public sealed record TimeKind : FieldKind
{
    /// <inheritdoc/>
    public override string? Hint(Locale locale) => Times.Format(new TimeOnly(14, 30), locale);

    /// <inheritdoc/>
    public override int? Letters => 8;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Figure;

    /// <inheritdoc/>
    public override string Name => "time";

    /// <inheritdoc/>
    public override string Label => "Time";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Time;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Time);

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale) =>
        Times.TryTime(text, out var time, locale)
            ? Value.From(time)
            : Parsed.Refused(
                $"“{text}” is not a time of day. Write hours and minutes, such as {Times.Format(new TimeOnly(14, 30), locale)}."
            );

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => Times.Format(value.Time, locale);

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        value.DataType == DataType.Moment ? Value.From(TimeOnly.FromDateTime(value.Moment)) : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "A time such as \"14:30\"");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Time ? value.Time.ToString("HH:mm:ss", CultureInfo.InvariantCulture) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("string", description: "A time of day, such as 14:30:00.");
}

/// <summary>A moment, to the second: kept in UTC, read and typed on the person's own clock.</summary>
public sealed record MomentKind : FieldKind
{
    /// <inheritdoc/>
    public override string? Hint(Locale locale) => $"{locale.DayHint} time";

    /// <inheritdoc/>
    public override int? Letters => 16;

    /// <inheritdoc/>
    public override LineWidth LineWidth => LineWidth.Address;

    /// <inheritdoc/>
    public override string Name => "date_time";

    /// <inheritdoc/>
    public override string Label => "Date and time";

    /// <inheritdoc/>
    public override DataType DataType => DataType.Moment;

    /// <inheritdoc/>
    public override IReadOnlyList<KindColumn> Columns { get; } = One(ColumnType.Moment);

    /// <inheritdoc/>
    public override int Width => 3;

    /// <inheritdoc/>
    protected override Parsed Read(string text, Locale locale)
    {
        var (utc, refusal) = Times.Moment(text, locale);
        return utc is { } moment
            ? Value.From(moment)
            : Parsed.Refused(
                refusal
                    ?? $"“{text}” is not a date and time. Write both, such as {Times.Format(new DateTime(2026, 11, 18, 12, 30, 0, DateTimeKind.Utc), locale)}."
            );
    }

    /// <inheritdoc/>
    protected override string Write(Value value, Locale locale) => Times.Format(value.Moment, locale);

    /// <inheritdoc/>
    public override Parsed Convert(Value value, FieldKind from) =>
        value.DataType == DataType.Date ? Value.From(value.Date.ToDateTime(default, DateTimeKind.Utc)) : base.Convert(value, from);

    /// <inheritdoc/>
    public override Parsed FromJson(JsonElement json) => FromText(json, "A moment such as \"2026-11-18T12:30:00Z\"");

    /// <inheritdoc/>
    public override JsonNode? ToJson(Value value) =>
        value.DataType == DataType.Moment ? value.Moment.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture) : null;

    /// <inheritdoc/>
    public override JsonObject Schema() => Nullable("string", "date-time");
}
