namespace Pelto.Data.Records;

/// <summary>The joins that lead from rows through links, each way gone once however many fields are seen at its end.</summary>
/// <param name="start">Names the column of the first link of a way.</param>
internal sealed class LinkJoins(Func<Field, string> start)
{
    private readonly Dictionary<string, string> aliases = new(StringComparer.Ordinal);
    private readonly List<string> joins = [];

    /// <summary>What joins them, for behind FROM.</summary>
    public string Sql => string.Concat(joins);

    /// <summary>The alias of the row at the end of a way through links.</summary>
    /// <param name="links">The links.</param>
    /// <param name="isAdded">True for the row of what is added beside it.</param>
    public string To(IReadOnlyList<Field> links, bool isAdded = false)
    {
        var key = string.Join('>', links.Select(link => link.Id)) + (isAdded ? "+" : "");
        if (aliases.TryGetValue(key, out var known))
            return known;
        var last = links[^1];
        var column = links.Count == 1 ? start(last) : Column(links.SkipLast(1).Append(last).ToList());
        var alias = string.Create(CultureInfo.InvariantCulture, $"j{aliases.Count}");
        joins.Add(
            $" LEFT JOIN {(isAdded ? Database.Sql.AddedTable(last.Target!.Header) : Database.Sql.Base(last.Target!.Header))} {alias} ON {alias}.id = {column}"
        );
        aliases.Add(key, alias);
        return alias;
    }

    /// <summary>The prefix of the columns of what is at the end of a path.</summary>
    public string Prefix(IReadOnlyList<Field> path) => To([.. path.SkipLast(1)], path[^1].IsAdded) + ".";

    private string Column(IReadOnlyList<Field> path) => path[^1].ColumnNames(Prefix(path))("");
}

/// <summary>Reads what records show of others through their links: always as it is now, in one round trip for each part.</summary>
internal static class SeeThrough
{
    /// <summary>Fills in what is seen, by the links as they stand in the record, saved or not.</summary>
    public static async Task FillAsync(
        NpgsqlConnection connection,
        NpgsqlTransaction? transaction,
        RecordState state,
        CancellationToken cancel
    )
    {
        foreach (var part in state.Type.Parts)
        {
            var seen = part.FieldsThroughLinks.ToList();
            if (seen.Count == 0)
                continue;
            var rows = part.IsLines ? state.LinesOf(part).ConvertAll(line => line.Values) : [state.Header];
            if (rows.Count == 0)
                continue;
            foreach (var piece in Columns.Pieces(seen))
                await FillAsync(connection, transaction, piece, rows, cancel);
        }
    }

    private static async Task FillAsync(
        NpgsqlConnection connection,
        NpgsqlTransaction? transaction,
        IReadOnlyList<Field> seen,
        List<Value[]> rows,
        CancellationToken cancel
    )
    {
        var first = seen.Select(field => field.Path[0]).Distinct().ToList();
        var joins = new LinkJoins(link => Invariant($"v.k{first.IndexOf(link)}"));
        var columns = seen.SelectMany(field => Columns.Quoted(field.Source, joins.Prefix(field.Path))).ToList();
        await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
        foreach (var link in first)
            command.Parameters.Add(
                new NpgsqlParameter
                {
                    Value = rows.Select(row => row[link.Slot] is { DataType: DataType.Link } to ? to.Target : (long?)null).ToArray(),
                    NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Bigint,
                }
            );
        var keys = string.Join(", ", first.Select((_, i) => Invariant($"k{i}")));
        command.CommandText = Invariant(
            $"SELECT v.at, {string.Join(", ", columns)} FROM unnest({string.Join(", ", first.Select((_, i) => Invariant($"${i + 1}::bigint[]")))}) WITH ORDINALITY AS v({keys}, at){joins.Sql}"
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var row = rows[(int)reader.GetInt64(0) - 1];
            var at = 1;
            foreach (var field in seen)
                row[field.Slot] = Columns.Read(reader, ref at, field.Source);
        }
    }
}
