using System.Data;
using System.Diagnostics;
using System.Text.Json;
using Pelto.Core.Queries;

namespace Pelto.Data.Queries;

/// <summary>What became of a query that was tried.</summary>
/// <param name="Columns">The names of its columns.</param>
/// <param name="Rows">The first rows, as texts.</param>
/// <param name="IsMore">True when there are more.</param>
/// <param name="Took">How long it took, in milliseconds.</param>
/// <param name="Cost">What the database's planner reckons it costs, in its own units, where reading one page in order costs 1.</param>
/// <param name="Failure">Why it gave nothing, as a sentence.</param>
public sealed record QueryTrial(
    IReadOnlyList<string> Columns,
    IReadOnlyList<IReadOnlyList<string>> Rows,
    bool IsMore,
    double Took,
    double? Cost,
    string? Failure = null
);

/// <summary>
/// Asks queries, as their own role, in read-only transactions that end by themselves; and finds out what a query gives and reads.
/// </summary>
public sealed class QueryRunner(NpgsqlDataSource source, QueryRole role)
{
    /// <summary>How long a query may run.</summary>
    public static TimeSpan Longest { get; set; } = TimeSpan.FromSeconds(2);

    /// <summary>How long a save waits for all of its queries together, and what is calculated before it.</summary>
    public static TimeSpan OfASave { get; set; } = TimeSpan.FromMilliseconds(400);

    /// <summary>How many rows are shown of one that is tried.</summary>
    public const int MaxShown = 20;

    // The database stops a query by itself; where it does not answer at all, nobody waits much longer.
    private static readonly TimeSpan Grace = TimeSpan.FromMilliseconds(50);

    // One row is taken; a second tells that there are several.
    private const int MaxTaken = 2;
    private const int LongestText = 2000;
    private const string NoRole = "Queries cannot run here: the database lets Pelto make no role for them.";

    /// <summary>How many rows are offered to choose from.</summary>
    public const int MaxOffered = 50;

    /// <summary>Asks a query. Never throws for what the query does: the answer says why there is none.</summary>
    /// <param name="query">The query.</param>
    /// <param name="arguments">Its parameters, in their order in the definition.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="most">How many rows are taken.</param>
    /// <param name="longest">How long to wait, for a connection as well; <see cref="Longest"/> when not said.</param>
    public async Task<QueryAnswer> AskAsync(
        QueryDefinition query,
        IReadOnlyList<Value> arguments,
        CancellationToken cancel,
        int most = MaxTaken,
        TimeSpan? longest = null
    )
    {
        var rows = new List<object?[]>();
        using var impatient = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        if (longest is { } wait)
            impatient.CancelAfter(wait + Grace);
        string? failure;
        try
        {
            failure = await RunAsync(
                query,
                arguments,
                most,
                async reader =>
                {
                    while (await reader.ReadAsync(impatient.Token))
                        rows.Add([.. Enumerable.Range(0, reader.FieldCount).Select(at => Read(reader, at))]);
                },
                impatient.Token,
                longest
            );
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            failure = "It was not answered in time.";
        }

        return new(failure is null ? rows : [], failure is null ? null : $"{query.Label}: {failure}");
    }

    /// <summary>Tries a query, and says what it costs.</summary>
    public async Task<QueryTrial> TryAsync(QueryDefinition query, IReadOnlyList<Value> arguments, CancellationToken cancel)
    {
        var (columns, rows) = (new List<string>(), new List<IReadOnlyList<string>>());
        var cost = await CostAsync(query, arguments, cancel);
        var watch = Stopwatch.StartNew();
        var failure = await RunAsync(
            query,
            arguments,
            MaxShown + 1,
            async reader =>
            {
                columns.AddRange(Enumerable.Range(0, reader.FieldCount).Select(reader.GetName));
                while (await reader.ReadAsync(cancel))
                    rows.Add([.. Enumerable.Range(0, reader.FieldCount).Select(at => Text(Read(reader, at)))]);
            },
            cancel
        );
        return new(columns, [.. rows.Take(MaxShown)], rows.Count > MaxShown, watch.Elapsed.TotalMilliseconds, cost, failure);
    }

    /// <summary>
    /// A query with what it gives and what it reads, and its SQL where it was put together on the page, found out by the database from its
    /// text alone; nothing of it is run. What the database refuses goes to <paramref name="problems"/>.
    /// </summary>
    /// <param name="query">The query.</param>
    /// <param name="catalogue">The live catalogue, whose views it reads.</param>
    /// <param name="problems">Takes what is wrong.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="isShown">
    /// Which fields may be named to whoever wrote it, where it asks for a column that is not there; none when not given.
    /// </param>
    public async Task<QueryDefinition> InspectAsync(
        QueryDefinition query,
        Catalogue catalogue,
        List<QueryProblem> problems,
        CancellationToken cancel,
        Func<Field, bool>? isShown = null
    )
    {
        if (query.Built is not null)
            query = QueryWriter.Write(query, catalogue, problems);
        if (problems.Count > 0)
            return query with { Columns = [], Reads = [] };
        var text = QueryText.Read(query.Sql);
        problems.AddRange(text.Problems);
        if (problems.Count > 0)
            return query with { Columns = [], Reads = [] };
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        try
        {
            // A view is read by the database and written down with all that it depends on; it is gone with the transaction. Each parameter
            // becomes an empty value of its type.
            await transaction
                .Command(
                    $"SET LOCAL search_path = {ReadableViews.Schema}; SET LOCAL statement_timeout = '2s'; SET LOCAL lock_timeout = '2s'"
                )
                .RunAsync(cancel);
            var typed = text
                .Names.Select(
                    (name, at) =>
                        (Mark: string.Create(CultureInfo.InvariantCulture, $"${at + 1}"), Sql: $"NULL::{TypeOf(query, name).SqlType()}")
                )
                .Reverse()
                .Aggregate(text.Sql, (sql, parameter) => sql.Replace(parameter.Mark, parameter.Sql, StringComparison.Ordinal));
            await MakeViewAsync(transaction, typed, cancel);
            var columns = await ColumnsAsync(transaction, problems, cancel);
            var reads = await new QueryRecord(transaction).ReadsAsync(catalogue, problems, cancel);
            return problems.Count > 0 ? query with { Columns = [], Reads = [] } : query with { Columns = columns, Reads = reads };
        }
        catch (PostgresException refused)
        {
            problems.Add(
                new(
                    0,
                    MessageOf(refused)
                        + (
                            refused.SqlState == PostgresErrorCodes.UndefinedColumn && isShown is not null
                                ? Hint(refused, query.Sql, catalogue, isShown)
                                : ""
                        )
                )
            );
            return query with { Columns = [], Reads = [] };
        }
        finally
        {
            await transaction.RollbackAsync(CancellationToken.None);
        }
    }

    /// <summary>
    /// The kinds of the parameters of a query that was put together, as far as they follow from what each is compared with; none for one
    /// that is written as SQL.
    /// </summary>
    public static IReadOnlyDictionary<string, string> KindsTold(QueryDefinition query, Catalogue catalogue) =>
        query.Built is null
            ? new Dictionary<string, string>()
            : QueryWriter
                .Write(query with { Parameters = [] }, catalogue, [])
                .Parameters.ToDictionary(parameter => parameter.Name, parameter => parameter.Kind);

    /// <summary>A site whose queries all say what they give and read, whoever wrote that down before.</summary>
    public async Task<(SiteDefinition Site, IReadOnlyList<Problem> Problems)> AnalyseAsync(
        SiteDefinition site,
        Catalogue live,
        CancellationToken cancel
    )
    {
        var problems = new List<Problem>();
        foreach (var query in site.Queries)
        {
            var found = new List<QueryProblem>();
            site = site.With(await InspectAsync(query, live, found, cancel));
            problems.AddRange(found.Select(problem => new Problem(query.Id, problem.Property, problem.Sentence)));
        }

        return (site, problems);
    }

    internal static async Task MakeViewAsync(NpgsqlTransaction transaction, string sql, CancellationToken cancel)
    {
        await using var alone = new NpgsqlBatch(transaction.Connection, transaction);
        await Alone(alone, $"CREATE TEMPORARY VIEW pelto_inspected AS {sql}").ExecuteNonQueryAsync(cancel);
    }

    private static async Task<IReadOnlyList<QueryColumn>> ColumnsAsync(
        NpgsqlTransaction transaction,
        List<QueryProblem> problems,
        CancellationToken cancel
    )
    {
        var columns = new List<QueryColumn>();
        await using var command = new NpgsqlCommand(
            "SELECT attname, format_type(atttypid, NULL) FROM pg_attribute "
                + "WHERE attrelid = 'pg_temp.pelto_inspected'::regclass AND attnum > 0 ORDER BY attnum",
            transaction.Connection,
            transaction
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            columns.Add(new(reader.GetString(0), Simple(reader.GetString(1))));
        if (columns.Find(column => column.Name.StartsWith('?')) is not null)
            problems.Add(new(0, "Give each column a name with AS."));
        return columns;
    }

    private async Task<string?> RunAsync(
        QueryDefinition query,
        IReadOnlyList<Value> arguments,
        int most,
        Func<NpgsqlDataReader, Task> read,
        CancellationToken cancel,
        TimeSpan? longest = null
    )
    {
        if (role.Source is null)
            return NoRole;
        try
        {
            await using var connection = await role.Source.OpenConnectionAsync(cancel);
            await using var transaction = await connection.BeginTransactionAsync(IsolationLevel.ReadCommitted, cancel);
            await transaction
                .Command($"SET TRANSACTION READ ONLY; SET LOCAL statement_timeout = '{(int)(longest ?? Longest).TotalMilliseconds}'")
                .RunAsync(cancel);
            await using (
                var batch = Command(query, arguments, transaction, sql => $"SELECT {Taken(query)} FROM ({sql}\n) AS asked LIMIT {most}")
            )
            await using (var reader = await batch.ExecuteReaderAsync(CommandBehavior.Default, cancel))
                await read(reader);
            await transaction.RollbackAsync(cancel);
            return null;
        }
        catch (PostgresException refused)
        {
            return MessageOf(refused);
        }
        catch (Exception failed) when (failed is NpgsqlException or InvalidCastException or OverflowException)
        {
            return failed is NpgsqlException
                ? "The database could not be asked just now."
                : "It gives a value that is too large to be taken.";
        }
    }

    // By name: what the views have more by now is not taken, and nothing else moves into its place.
    private static string Taken(QueryDefinition query) =>
        query.Columns.Count == 0 ? "*" : string.Join(", ", query.Columns.Select(column => Sql.Name(column.Name)));

    private async Task<double?> CostAsync(QueryDefinition query, IReadOnlyList<Value> arguments, CancellationToken cancel)
    {
        if (role.Source is null)
            return null;
        try
        {
            await using var connection = await role.Source.OpenConnectionAsync(cancel);
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            await using var batch = Command(query, arguments, transaction, sql => $"EXPLAIN (FORMAT JSON) {sql}");
            using var plan = JsonDocument.Parse((string)(await batch.ExecuteScalarAsync(cancel))!);
            return plan.RootElement[0].GetProperty("Plan").GetProperty("Total Cost").GetDouble();
        }
        catch (Exception refused) when (refused is NpgsqlException or JsonException)
        {
            return null;
        }
    }

    // The text goes to the database as one statement, whatever stands in it: what a command would take apart at semicolons, a batch does
    // not.
    private static NpgsqlBatch Alone(NpgsqlBatch batch, string sql)
    {
        batch.BatchCommands.Add(new NpgsqlBatchCommand(sql));
        return batch;
    }

    private static NpgsqlBatch Command(
        QueryDefinition query,
        IReadOnlyList<Value> arguments,
        NpgsqlTransaction transaction,
        Func<string, string> context
    )
    {
        var text = QueryText.Read(query.Sql);
        var batch = Alone(
            new NpgsqlBatch(transaction.Connection, transaction) { Timeout = (int)Math.Ceiling(Longest.TotalSeconds) + 5 },
            context(text.Sql)
        );
        foreach (var name in text.Names)
        {
            var at = query.Parameters.ToList().FindIndex(parameter => parameter.Name == name);
            var type = TypeOf(query, name);
            batch
                .BatchCommands[0]
                .Parameters.Add(
                    new NpgsqlParameter
                    {
                        NpgsqlDbType = type.DbType(),
                        Value = at < 0 || at >= arguments.Count ? DBNull.Value : Stored(arguments[at], type),
                    }
                );
        }

        return batch;
    }

    private static ColumnType TypeOf(QueryDefinition query, string name) =>
        query.Parameters.FirstOrDefault(parameter => parameter.Name == name) is { } known
        && QueryBinder.ParameterKinds.FirstOrDefault(kind => kind.Kind == known.Kind) is { Kind: not null } found
            ? found.Type
            : ColumnType.Text;

    private static object Stored(Value value, ColumnType type) =>
        value.DataType switch
        {
            DataType.Text => value.Text,
            DataType.Number when type == ColumnType.Integer => (long)decimal.Round(value.Number),
            DataType.Number => value.Number,
            DataType.Link => value.Target,
            DataType.Date => value.Date,
            DataType.Time => value.Time,
            DataType.Moment => value.Moment,
            DataType.YesNo => value.Yes,
            _ => DBNull.Value,
        };

    // The few types that values have; all else is read as text.
    private static string Simple(string type) =>
        type switch
        {
            "smallint" or "integer" or "bigint" => "bigint",
            "numeric" or "real" or "double precision" => "numeric",
            "text" or "character varying" or "character" or "name" => "text",
            "timestamp without time zone" or "timestamp with time zone" => "timestamp with time zone",
            _ => type,
        };

    private static object? Read(NpgsqlDataReader reader, int at)
    {
        if (reader.IsDBNull(at))
            return null;
        return Simple(reader.GetDataTypeName(at).Split('(')[0]) switch
        {
            "bigint" => reader.GetFieldValue<long>(at),
            "numeric" => reader.GetDataTypeName(at) switch
            {
                "real" => (decimal)reader.GetFieldValue<float>(at),
                "double precision" => (decimal)reader.GetFieldValue<double>(at),
                _ => reader.GetDecimal(at),
            },
            "text" => reader.GetString(at) is { Length: > LongestText } far ? far[..LongestText] : reader.GetString(at),
            "date" => reader.GetFieldValue<DateOnly>(at),
            "boolean" => reader.GetBoolean(at),
            "time without time zone" => reader.GetFieldValue<TimeOnly>(at),
            "timestamp with time zone" => DateTime.SpecifyKind(reader.GetDateTime(at), DateTimeKind.Utc),
            _ => Convert.ToString(reader.GetValue(at), CultureInfo.InvariantCulture),
        };
    }

    private static string Text(object? value) =>
        value switch
        {
            null => "",
            bool yes => yes ? "yes" : "no",
            DateOnly day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            DateTime moment => moment.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture),
            IFormattable other => other.ToString(null, CultureInfo.InvariantCulture),
            _ => value.ToString() ?? "",
        };

    private static string MessageOf(PostgresException refused) =>
        refused.SqlState switch
        {
            PostgresErrorCodes.QueryCanceled => string.Create(
                CultureInfo.InvariantCulture,
                $"It was stopped: a query may run for {Longest.TotalSeconds:0.#} seconds, and this one did not come to an end."
            ),
            PostgresErrorCodes.InsufficientPrivilege => $"The database refuses that to queries: {refused.MessageText}.",
            PostgresErrorCodes.ReadOnlySqlTransaction => "A query only reads.",
            // What column somebody may have meant names one that they may not know of.
            PostgresErrorCodes.UndefinedColumn => $"The database says: {refused.MessageText}.",
            _ => $"The database says: {refused.MessageText}.{(refused.Hint is { Length: > 0 } hint ? $" {hint}" : "")}",
        };

    private static string Hint(PostgresException refused, string sql, Catalogue catalogue, Func<Field, bool> isShown)
    {
        if (ReadableViews.Elsewhere(sql, catalogue, isShown) is { Length: > 0 } elsewhere)
            return elsewhere;
        var isAll = catalogue.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.Fields).All(isShown);
        return isAll && refused.Hint is { Length: > 0 } meant ? $" {meant}" : "";
    }
}
