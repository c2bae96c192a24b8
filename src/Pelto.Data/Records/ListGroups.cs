using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>A group of a list.</summary>
/// <param name="Values">What its records have in common, key by key.</param>
/// <param name="Labels">What links among them point to, as text; null for all else.</param>
/// <param name="Count">How many records it has.</param>
/// <param name="Totals">
/// The totals of its records: money where it has a currency, empty where none has a value, an error where amounts do not add.
/// </param>
public sealed record ListGroup(IReadOnlyList<Value> Values, IReadOnlyList<string?> Labels, long Count, IReadOnlyList<Value> Totals);

/// <summary>A list in groups.</summary>
/// <param name="Keys">What it is grouped by.</param>
/// <param name="Totalled">The fields whose totals are given.</param>
/// <param name="Groups">The groups, those with most records first; by days, the newest first.</param>
/// <param name="All">All records together.</param>
/// <param name="IsMore">True when there are more groups than are given.</param>
public sealed record ListGroups(
    IReadOnlyList<GroupKey> Keys,
    IReadOnlyList<Field> Totalled,
    IReadOnlyList<ListGroup> Groups,
    ListGroup All,
    bool IsMore
)
{
    /// <summary>The most keys that a list is grouped by.</summary>
    public const int MaxKeys = 2;

    /// <summary>The most groups that are given.</summary>
    public const int Most = 200;

    /// <summary>
    /// Those of some fields of which this person can be told the total of a group. Of an amount that is seen through a link the currency
    /// stands elsewhere: it has none.
    /// </summary>
    public static IReadOnlyList<Field> Totals(IEnumerable<Field> fields, Viewer viewer) =>
        [
            .. fields.Where(field =>
                !field.Part.IsLines
                && field.IsTotalled
                && viewer.LevelAt(field) >= AccessLevel.Read
                && !(field.IsThroughLink && field.Source.CurrencyIn is not null)
                && (field.CurrencyIn is not { } currency || viewer.ReadsWhereRead(currency))
            ),
        ];
}

/// <summary>The SQL of a list in groups: its keys, how many records, and totals; the total of all comes first.</summary>
internal static class GroupSql
{
    private static readonly string Largest = Invariant($"{FieldKind.MaxLive}");

    /// <summary>What is selected, in the order in which <see cref="Read"/> reads it.</summary>
    /// <param name="keys">The keys.</param>
    /// <param name="totalled">The fields with totals.</param>
    /// <param name="column">Names a column of a field.</param>
    /// <param name="label">Names what a link among the keys points to; null where this person may not see that.</param>
    public static string Select(
        IReadOnlyList<GroupKey> keys,
        IReadOnlyList<Field> totalled,
        Func<Field, string, string> column,
        Func<Field, string?> label
    )
    {
        var selected = new List<string> { $"GROUPING({string.Join(", ", keys.Select(key => KeySql(key, column)))})", "count(*)" };
        foreach (var key in keys)
        {
            selected.Add(KeySql(key, column));
            selected.Add(key.Field.Kind.IsOneLink && label(key.Field) is { } text ? $"min({text})" : "NULL::text");
        }

        foreach (var field in totalled)
            selected.AddRange(Total(field, column));
        return "SELECT " + string.Join(", ", selected);
    }

    /// <summary>What stands behind the conditions.</summary>
    public static string Behind(IReadOnlyList<GroupKey> keys, Func<Field, string, string> column)
    {
        var all = string.Join(", ", keys.Select(key => KeySql(key, column)));
        var order =
            keys[0].Field.Kind.DataType == DataType.Date
                ? string.Join(", ", keys.Select(key => $"{KeySql(key, column)} DESC NULLS LAST"))
                : $"count(*) DESC, {string.Join(", ", keys.Select(key => $"{KeySql(key, column)} NULLS LAST"))}";
        return Invariant($" GROUP BY GROUPING SETS (({all}), ()) ORDER BY 1 DESC, {order} LIMIT {ListGroups.Most + 2}");
    }

    private static string KeySql(GroupKey key, Func<Field, string, string> column) =>
        key.Step == GroupStep.Value
            ? column(key.Field, "")
            : $"date_trunc('{key.Step.ToString().ToLowerInvariant()}', {column(key.Field, "")}::timestamp)::date";

    // The total, its unit, and whether amounts of several currencies or units are among them.
    private static IEnumerable<string> Total(Field field, Func<Field, string, string> column)
    {
        var value = column(field, "");
        var sum = $"sum({value})";
        yield return $"CASE WHEN abs({sum}) < {Largest} THEN {sum} END";
        var unit =
            field.Source.Columns.Count > 1 ? column(field, field.Kind.Columns[1].Suffix)
            : field.CurrencyIn is { } currency ? column(currency, "")
            : null;
        yield return unit is null ? "NULL::text" : $"min({unit}) FILTER (WHERE {value} IS NOT NULL)";
        yield return unit is null ? "false" : $"coalesce(count(DISTINCT {unit}) FILTER (WHERE {value} IS NOT NULL) > 1, false)";
    }

    /// <summary>Reads a row.</summary>
    public static (bool IsAll, ListGroup Group) Read(
        Npgsql.NpgsqlDataReader reader,
        IReadOnlyList<GroupKey> keys,
        IReadOnlyList<Field> totalled
    )
    {
        var (isAll, count) = (reader.GetInt32(0) > 0, reader.GetInt64(1));
        var (values, labels, totals) = (new List<Value>(), new List<string?>(), new List<Value>());
        var at = 2;
        foreach (var key in keys)
        {
            values.Add(Columns.Read(reader, ref at, key.Field.Source));
            labels.Add(reader.IsDBNull(at) ? null : reader.GetString(at));
            at++;
        }

        foreach (var field in totalled)
        {
            var (sum, unit, isMixed) = (
                reader.IsDBNull(at) ? (decimal?)null : reader.GetDecimal(at),
                reader.IsDBNull(at + 1) ? null : reader.GetString(at + 1),
                reader.GetBoolean(at + 2)
            );
            at += 3;
            totals.Add(
                isMixed ? Value.Failed(field.Kind.DataType == DataType.Quantity ? "Several units." : "Several currencies.")
                : sum is not { } number ? Value.Empty
                : field.Kind.DataType == DataType.Money || field.CurrencyIn is not null ? Value.Money(number, unit!)
                : field.Kind.DataType == DataType.Quantity ? Value.Quantity(number, unit!)
                : Value.From(number)
            );
        }

        return (isAll, new(values, labels, count, totals));
    }
}
