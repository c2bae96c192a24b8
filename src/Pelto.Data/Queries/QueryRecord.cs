using System.Text.RegularExpressions;
using Pelto.Core.Queries;

namespace Pelto.Data.Queries;

/// <summary>
/// What the database itself put down of a query, once it has read it as a view: which tables, which columns, which functions. The text of
/// the query is not asked.
/// </summary>
/// <remarks>
/// Columns stand in <c>pg_depend</c>. What is built into the database stands nowhere there, nor do whole rows; so tables, functions and
/// whole rows are taken from the tree of the view (<c>pg_rewrite.ev_action</c>),
/// in which text that somebody wrote has its blanks escaped and so is never taken for one of its marks.
/// </remarks>
internal sealed partial class QueryRecord(NpgsqlTransaction transaction)
{
    /// <summary>
    /// The ids of all fields that the view <c>pelto_inspected</c> reads; where it reads rows whole, their parts as
    /// <see cref="QueryDefinition.WholeRows"/> has it. What may not be read goes to <paramref name="problems"/>.
    /// </summary>
    public async Task<IReadOnlyList<string>> ReadsAsync(Catalogue catalogue, List<QueryProblem> problems, CancellationToken cancel)
    {
        var tree = await TreeAsync(cancel);
        await RefuseFunctionsAsync(tree, problems, cancel);
        var views = catalogue
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => QueryViews.For(part).Select(view => (view, part)))
            .ToDictionary(one => one.view, one => one.part, StringComparer.Ordinal);
        var read = new List<Part>();
        foreach (var (schema, name) in await TablesAsync(tree, cancel))
        {
            if (schema == ReadableViews.Schema && views.TryGetValue(name, out var part))
                read.Add(part);
            else
                problems.Add(new(0, $"{schema}.{name} cannot be read by queries. They read {string.Join(", ", views.Keys.Take(6))} …"));
        }

        if (WholeRow().IsMatch(tree))
            return [.. read.Select(WholeRows.In).Distinct(StringComparer.Ordinal)];
        var (reads, bare) = (new List<string>(), read.ToHashSet());
        foreach (var (view, column) in await ColumnsAsync(cancel))
        {
            if (!views.TryGetValue(view, out var part))
                continue;
            if (column is not ("id" or "parent" or "position"))
                bare.Remove(part);
            if (part.Fields.FirstOrDefault(field => ReadableViews.ColumnsOf(field).Contains(column)) is { } field)
                reads.Add(field.Id);
            else if (column is not ("id" or "parent" or "position"))
                problems.Add(new(0, $"It cannot be told what {view}.{column} is, so it cannot be read."));
        }

        // Without a field it is the rows themselves that are read: whoever may see the record type may know of them.
        return [.. reads.Concat(bare.Select(part => part.RecordType.Identifier.Id)).Distinct(StringComparer.Ordinal)];
    }

    private async Task<string> TreeAsync(CancellationToken cancel)
    {
        var tree = transaction.Command($"SELECT ev_action::text FROM pg_rewrite WHERE ev_class = {View}");
        return (await tree.ValueAsync<string>(cancel))!;
    }

    private async Task RefuseFunctionsAsync(string tree, List<QueryProblem> problems, CancellationToken cancel)
    {
        var calls = transaction.Command(
            $"""
            SELECT DISTINCT p.proname FROM pg_proc p WHERE p.oid = ANY(SELECT unnest($1) UNION SELECT o.oprcode::oid FROM pg_operator o WHERE o.oid = ANY($2)) AND NOT {QueryFunctions.Allowed} ORDER BY 1
            """,
            Oids(Functions(), tree),
            Oids(Operators(), tree)
        );
        problems.AddRange(
            (await calls.ListAsync(row => row.GetString(0), cancel)).Select(function => new QueryProblem(
                0,
                $"{function} cannot be called in a query: it is not known to keep to what the query itself reads."
            ))
        );
    }

    private async Task<List<(string Schema, string Name)>> TablesAsync(string tree, CancellationToken cancel)
    {
        var tables = transaction.Command(
            """
            SELECT n.nspname, c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
            WHERE c.oid = ANY($1) AND c.relname <> 'pelto_inspected' ORDER BY 1, 2
            """,
            Oids(Tables(), tree)
        );
        return await tables.ListAsync(row => (row.GetString(0), row.GetString(1)), cancel);
    }

    private async Task<List<(string View, string Column)>> ColumnsAsync(CancellationToken cancel)
    {
        var columns = transaction.Command(
            $"""
            SELECT DISTINCT c.relname, a.attname FROM pg_rewrite r
            JOIN pg_depend d ON d.classid = 'pg_rewrite'::regclass AND d.objid = r.oid AND d.refclassid = 'pg_class'::regclass AND d.refobjid <> r.ev_class AND d.refobjsubid > 0
            JOIN pg_class c ON c.oid = d.refobjid JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = d.refobjsubid
            WHERE r.ev_class = {View} ORDER BY 1, 2
            """
        );
        return await columns.ListAsync(row => (row.GetString(0), row.GetString(1)), cancel);
    }

    private const string View = "'pg_temp.pelto_inspected'::regclass";

    private static NpgsqlParameter Oids(Regex mark, string tree) =>
        new()
        {
            NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Oid,
            Value = mark.Matches(tree)
                .Select(match => uint.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture))
                .Distinct()
                .ToArray(),
        };

    // Calls, aggregates, window functions, samples of tables; and what is behind operators.
    [GeneratedRegex(@":(?:funcid|opfuncid|aggfnoid|winfnoid|tsmhandler) (\d+)")]
    private static partial Regex Functions();

    [GeneratedRegex(@":opno (\d+)")]
    private static partial Regex Operators();

    [GeneratedRegex(@":rtekind 0 :relid (\d+)")]
    private static partial Regex Tables();

    // A row as one value: of a table, or of what a query within the query gives; then all of it counts as read.
    [GeneratedRegex(@"\{VAR :varno \d+ :varattno 0 ")]
    private static partial Regex WholeRow();
}
