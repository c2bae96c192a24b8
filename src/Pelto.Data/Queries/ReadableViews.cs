using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using Pelto.Core.Queries;
using Pelto.Data.Expressions;

namespace Pelto.Data.Queries;

/// <summary>
/// The views that queries read (<see cref="QueryViews"/>), with columns named by the codes of fields, built in, added and live alike.
/// </summary>
/// <remarks>
/// Secrets and files stand in none of them, nor does what the clock changes. Who may see what comes of a query follows from the columns
/// that it reads.
/// </remarks>
internal static partial class ReadableViews
{
    /// <summary>The schema of the views.</summary>
    public const string Schema = "readable";

    /// <summary>
    /// A sentence, after a blank, for a query that names a column which stands in another view of a part; nothing where it names none.
    /// </summary>
    public static string Elsewhere(string sql, Catalogue catalogue, Func<Field, bool> isShown)
    {
        var words = Word().Matches(sql).Select(word => word.Value).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return QueryViews.Elsewhere(words, catalogue.RecordTypes, isShown) is { } field
            ? $" {field.Code} stands in \"{QueryViews.For(field)}\", which is joined by its id."
            : "";
    }

    [GeneratedRegex("[a-z_][a-z0-9_]*", RegexOptions.IgnoreCase)]
    private static partial Regex Word();

    /// <summary>The columns of a field in its view; none for what stands in no view.</summary>
    public static IEnumerable<string> ColumnsOf(Field field) =>
        QueryBinder.IsReadable(field) ? NamesOf(field).SelectMany(name => field.Kind.Columns.Select(column => name + column.Suffix)) : [];

    /// <summary>
    /// What a field's column is called in its view, without suffixes: for a built-in one the name that the host's table has, which stays
    /// when an update gives it another code; it can be read by the codes of all versions as well.
    /// </summary>
    public static string NameOf(Field field) => NamesOf(field)[0];

    private static IReadOnlyList<string> NamesOf(Field field) =>
        field.Content is FieldDescription description
            ?
            [
                .. description
                    .OtherCodes.Where(code => field.Part.Find(code) == field)
                    .Prepend(field.Code)
                    .Prepend(description.Column ?? field.Code)
                    .Distinct(StringComparer.Ordinal),
            ]
            : [field.Code];

    /// <summary>Makes the views those of a catalogue; those that are as they should be are not touched.</summary>
    /// <param name="source">Where.</param>
    /// <param name="catalogue">What should be readable.</param>
    /// <param name="reader">The role that reads.</param>
    /// <param name="longest">How long to try while queries are reading them; null for as long as any step of a publishing.</param>
    /// <param name="cancel">Stops it.</param>
    /// <remarks>For whoever holds the lock of publishing: two at once would make them those of different releases.</remarks>
    public static async Task MakeAsync(
        NpgsqlDataSource source,
        Catalogue catalogue,
        string reader,
        TimeSpan? longest,
        CancellationToken cancel
    )
    {
        var wanted = catalogue
            .RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => QueryViews.For(part).Select(view => (view, part)))
            .ToDictionary(one => one.view, one => SqlOf(one.part, one.view), StringComparer.Ordinal);
        var there = new Dictionary<string, string>(StringComparer.Ordinal);
        await using (
            var ask = source.CreateCommand(
                "SELECT c.relname, coalesce(obj_description(c.oid, 'pg_class'), '') FROM pg_class c "
                    + $"WHERE c.relnamespace = to_regnamespace('{Schema}') AND c.relkind = 'v'"
            )
        )
        await using (var rows = await ask.ExecuteReaderAsync(cancel))
            while (await rows.ReadAsync(cancel))
                there[rows.GetString(0)] = rows.GetString(1);
        var script = new StringBuilder();
        foreach (var gone in there.Keys.Where(name => !wanted.ContainsKey(name)))
            script.Append(CultureInfo.InvariantCulture, $"DROP VIEW {Sql.Table(Schema, gone)};\n");
        foreach (var (name, sql) in wanted)
        {
            var mark = Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(sql)))[..16];
            if (there.GetValueOrDefault(name) == mark)
                continue;
            var view = Sql.Table(Schema, name);
            script.Append(
                CultureInfo.InvariantCulture,
                $"DROP VIEW IF EXISTS {view}; CREATE VIEW {view} AS {sql}; COMMENT ON VIEW {view} IS '{mark}'; GRANT SELECT ON {view} TO {Sql.Name(reader)};\n"
            );
        }

        if (script.Length > 0)
            await StructureStatements.RunAsync(source, script.ToString(), longest, cancel);
    }

    private static string SqlOf(Part part, string view)
    {
        var (top, line) = (new QueryRow(), new QueryRow("l", "la"));
        var names = part.IsLines ? new FormulaNames(top, Columns.Literal, line) : new FormulaNames(top, Columns.Literal);
        var (row, beside) = part.IsLines ? ("l", "la") : ("h", "a");
        var live = part.IsLines ? line : top;
        var columns = new List<string> { $"{row}.id" };
        if (part.IsLines)
            columns.AddRange([$"{row}.parent", $"{row}.position"]);
        var fields = QueryViews.FieldsIn(part, view).ToList();
        foreach (var field in fields)
        {
            var from = field.ColumnNames(
                field.IsLive ? live.Prefix(field, names)
                : field.IsAdded ? beside + "."
                : row + "."
            );
            columns.AddRange(
                NamesOf(field)
                    .SelectMany(name => field.Kind.Columns.Select(column => $"{from(column.Suffix)} AS {Sql.Name(name + column.Suffix)}"))
            );
        }

        var header = part.RecordType.Header;
        // What is calculated may come from any of the tables beside it.
        var isAll = live.Joins.Length > 0 || fields.Exists(field => field.IsAdded && field.Table != view);
        var here = !part.StoredFields.Any()
            ? ""
            : $" LEFT JOIN {(isAll ? Sql.AddedTable(part) : Sql.Table(Sql.Added, view))} {beside} ON {beside}.id = {row}.id";
        var tables = part.IsLines
            ? $"{Sql.Base(part)} l{here}{(live.Joins.Length > 0 ? $" JOIN {Sql.Base(header)} h ON h.id = l.parent{Beside(header, "h", "a")}{top.Joins}" : "")}"
            : $"{Sql.Base(part)} h{here}";
        return $"SELECT {string.Join(", ", columns)} FROM {tables}{live.Joins}";
    }

    private static string Beside(Part part, string row, string beside) =>
        part.StoredFields.Any() ? $" LEFT JOIN {Sql.AddedTable(part)} {beside} ON {beside}.id = {row}.id" : "";
}
