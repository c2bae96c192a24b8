using System.Text.Json;

namespace Pelto.Data.Records;

/// <summary>Where a page ended: what its last row was sorted by, and its id.</summary>
internal sealed record Cursor(IReadOnlyList<object?> Keys, long Id)
{
    public static string Write(IReadOnlyList<SortKey> order, ListRow last)
    {
        var keys = order
            .Select(key =>
                Convert.ToString(
                    KeyOf(key, last) switch
                    {
                        DateOnly day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                        TimeOnly time => time.ToString("HH:mm:ss", CultureInfo.InvariantCulture),
                        DateTime moment => moment.Ticks,
                        var other => other,
                    },
                    CultureInfo.InvariantCulture
                )
                    is { Length: > 0 } text
                    ? text
                    : null
            )
            .ToArray();
        var json = JsonSerializer.SerializeToUtf8Bytes(new object?[] { KeyOf(order), keys, last.Id });
        return Convert.ToBase64String(json).Replace('+', '-').Replace('/', '_').TrimEnd('=');
    }

    /// <summary>Throws <see cref="FormatException"/> when the text is no cursor of a list in this order.</summary>
    public static Cursor Read(string text, IReadOnlyList<SortKey> order)
    {
        try
        {
            var plain = text.Replace('-', '+').Replace('_', '/');
            using var json = JsonDocument.Parse(Convert.FromBase64String(plain.PadRight((plain.Length + 3) / 4 * 4, '=')));
            var root = json.RootElement;
            if (root[0].GetString() != KeyOf(order))
                throw new FormatException();
            return new([.. order.Select((key, i) => KeyIn(key, root[1][i].GetString()))], root[2].GetInt64());
        }
        catch (Exception wrong)
            when (wrong
                    is FormatException
                        or JsonException
                        or InvalidOperationException
                        or IndexOutOfRangeException
                        or ArgumentException
                        or OverflowException
            )
        {
            throw new FormatException("This place in the list is no longer known. Begin again without it.");
        }
    }

    private static string KeyOf(IReadOnlyList<SortKey> order) =>
        string.Join(',', order.Select(key => (key.Descending ? "-" : "") + key.Field.Code));

    // A list sorts by what people read, so for links the key is the target's label.
    private static object? KeyOf(SortKey key, ListRow row) =>
        key.Field.Kind.IsOneLink
            ? row[key.Field].Label is { Length: > 0 } label
                ? label
                : null
            : key.Field.Kind.OrderKey(row[key.Field].Value);

    private static object? KeyIn(SortKey key, string? text) =>
        text is null ? null
        : key.Field.Kind.IsOneLink ? text
        : key.Field.Kind.OrderType switch
        {
            ColumnType.Numeric => decimal.Parse(text, NumberStyles.Float, CultureInfo.InvariantCulture),
            ColumnType.Integer => long.Parse(text, CultureInfo.InvariantCulture),
            ColumnType.Date => DateOnly.ParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture),
            ColumnType.Time => TimeOnly.ParseExact(text, "HH:mm:ss", CultureInfo.InvariantCulture),
            ColumnType.Moment => new DateTime(long.Parse(text, CultureInfo.InvariantCulture), DateTimeKind.Utc),
            ColumnType.Boolean => bool.Parse(text),
            _ => (object)text,
        };
}
