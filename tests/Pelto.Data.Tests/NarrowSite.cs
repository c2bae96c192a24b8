using System.Text.RegularExpressions;

namespace Pelto.Data.Tests;

/// <summary>
/// A site whose tables of what is added take two columns each, so that whatever a test adds goes on in further tables, on headers, lines
/// and record types of its own.
/// </summary>
public sealed partial class NarrowSite : Site
{
    /// <inheritdoc/>
    protected override int ColumnsInATable => 2;

    // What a test reads by hand stands in any of the tables; what it writes goes where the column is, and every row has one there.
    /// <inheritdoc/>
    public override async Task<string> SpreadAsync(string sql)
    {
        var begin = "";
        foreach (Match match in Written().Matches(sql))
        {
            var (table, column) = (match.Groups["table"].Value, match.Groups["column"].Value);
            if (
                await TablesAsync(table, $"EXISTS (SELECT FROM pg_attribute WHERE attrelid = c.oid AND attname = '{column}')")
                    is not [var holds]
                || holds == table
            )
                continue;
            var host = await ValueAsync($"SELECT coalesce(to_regclass('erp.{table}'), to_regclass('own.{table}'))::text");
            foreach (var one in new[] { table, holds })
                begin += $"INSERT INTO added.\"{one}\" (id) SELECT id FROM {host} ON CONFLICT (id) DO NOTHING; ";
            sql = sql.Replace(
                match.Value,
                match.Value.Replace($"added.{table}", $"added.\"{holds}\"", StringComparison.Ordinal),
                StringComparison.Ordinal
            );
        }

        foreach (Match match in Read().Matches(sql))
        {
            var tables = await TablesAsync(match.Groups["table"].Value, "true");
            var joined = string.Concat(tables.Select((one, at) => at == 0 ? $"added.\"{one}\"" : $" LEFT JOIN added.\"{one}\" USING (id)"));
            if (tables.Length > 1)
                sql = sql.Replace(match.Value, $"{match.Groups["before"].Value}({joined})", StringComparison.Ordinal);
        }

        return begin + sql;
    }

    private async Task<string[]> TablesAsync(string table, string condition) =>
        (
            await ValueAsync(
                "SELECT string_agg(relname, ',' ORDER BY relname) FROM pg_class c WHERE relnamespace = 'added'::regnamespace "
                    + $"AND relkind = 'r' AND (relname = '{table}' OR relname LIKE '{table}+%') AND {condition}"
            )
        )?.Split(',') ?? [];

    private async Task<string?> ValueAsync(string sql)
    {
        await using var command = Source.CreateCommand(sql);
        return await command.ExecuteScalarAsync() as string;
    }

    [GeneratedRegex(@"(?<!DELETE )\b(?<before>FROM |JOIN )added\.(?<table>\w+)\b")]
    private static partial Regex Read();

    [GeneratedRegex(@"(INSERT INTO added\.(?<table>\w+) \(id, |UPDATE added\.(?<table>\w+) SET )(?<column>\w+)")]
    private static partial Regex Written();
}
