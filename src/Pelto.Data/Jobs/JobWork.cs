using CsvHelper;
using Pelto.Data.Storage;

namespace Pelto.Data.Jobs;

/// <summary>What a batch did.</summary>
/// <param name="Position">The id of the last row that it looked at.</param>
/// <param name="Examined">How many rows it looked at; none at the end.</param>
/// <param name="Ids">Rows that it changed.</param>
/// <param name="Befores">What they held before, when it was not all the same.</param>
internal sealed record Batch(long Position, int Examined, long[] Ids, string[]? Befores = null)
{
    /// <summary>How many rows it changed.</summary>
    public long Changed { get; init; } = Ids.Length;
}

/// <summary>Ends a job before its time, with a sentence for people; what it did until then stays, and can be undone.</summary>
internal sealed class JobEndedException(string sentence) : Exception(sentence);

/// <summary>One kind of work on the rows of a field: counts what is to do, does a batch, takes a batch back.</summary>
internal abstract class JobWork(Field field)
{
    protected const int Size = 1000;

    protected Field Field { get; } = field;

    protected string Table => Sql.Of(Field);

    /// <summary>True when the field is kept in a further table, whose rows hang on those of the first.</summary>
    protected bool IsFurther => Field.Table != Field.Part.Table;

    /// <summary>The first table of what is added, which has a row wherever another has one.</summary>
    protected string FirstTable => Sql.Table(Sql.Added, Field.Part.Table);

    /// <summary>A part of a statement that keeps what a batch changed, so that it never travels: for behind WITH.</summary>
    /// <param name="job">Where the job's id stands.</param>
    /// <param name="befores">What its rows held before, and hold now; NULL where that needs not be known.</param>
    /// <param name="done">Gives what it changed.</param>
    protected static string KeepsBatch(string job, string befores, string done) =>
        $"kept AS (INSERT INTO pelto.job_batch (job_id, number, ids, befores) SELECT {job}, "
        + "(SELECT coalesce(max(number), 0) + 1 FROM pelto.job_batch "
        + $"WHERE job_id = {job}), array_agg(id), {befores} FROM {done} HAVING count(*) > 0)";

    /// <summary>
    /// A part of a statement that gives the rows of a query their row in the first table, where they have none: for behind WITH.
    /// </summary>
    /// <param name="ids">Selects ids.</param>
    protected string Founded(string ids) =>
        IsFurther ? $"founded AS (INSERT INTO {FirstTable} (id) {ids} ON CONFLICT (id) DO NOTHING), " : "";

    protected string Host => Sql.Base(Field.Part);

    protected string First => Sql.Name(Field.Columns[0].Name);

    public abstract Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel);

    /// <summary>About how many rows are to be looked at, for the progress that people see.</summary>
    public virtual Task<long> EstimateAsync(NpgsqlConnection connection, CancellationToken cancel) => CountAsync(connection, cancel);

    public abstract Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel);

    public abstract Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel);

    protected static NpgsqlCommand Command(
        NpgsqlConnection connection,
        NpgsqlTransaction? transaction,
        string sql,
        params IEnumerable<NpgsqlParameter> parameters
    )
    {
        var command = new NpgsqlCommand(sql, connection, transaction) { CommandTimeout = 0 };
        command.Parameters.AddRange(parameters.ToArray());
        return command;
    }

    protected static NpgsqlParameter P(object value) => new() { Value = value };

    // The value in each column, from a place among the parameters on.
    protected IEnumerable<NpgsqlParameter> ParametersOf(Value value) =>
        Field.Columns.Select((column, i) => Columns.Parameter(column.Type, Field.Kind.ToColumn(value, i)));

    protected string List(int from) =>
        string.Join(", ", Field.Columns.Select((_, i) => string.Create(CultureInfo.InvariantCulture, $"${from + i}")));

    protected string Names(string prefix = "") => string.Join(", ", Columns.Quoted(Field, prefix));
}

/// <summary>Gives rows that hold one choice another.</summary>
internal sealed class MergeWork(Field field, string from, string to) : JobWork(field)
{
    private bool IsSeveral => Field.Kind.IsSeveralChoices;

    private string Types => IsSeveral ? $"{First} @> ARRAY[$1]" : $"{First} = $1";

    public override async Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var command = Command(connection, null, $"SELECT count(*) FROM {Table} WHERE {Types}", P(from));
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var rows = new List<(long Id, Value Value)>();
        await using (
            var read = Command(
                transaction.Connection!,
                transaction,
                $"SELECT id, {Names()} FROM {Table} WHERE {Types} AND id > $2 ORDER BY id LIMIT {Size} FOR UPDATE SKIP LOCKED",
                P(from),
                P(reached)
            )
        )
        await using (var reader = await read.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                var at = 1;
                rows.Add((reader.GetInt64(0), Columns.Read(reader, ref at, Field)));
            }
        }

        if (rows.Count == 0)
            return new(reached, 0, []);
        await using var write = new NpgsqlCommand(BulkUpdate.For(Field), transaction.Connection, transaction);
        BulkUpdate.Bind(
            write,
            Field,
            [
                .. rows.Select(row =>
                    (row.Id, IsSeveral ? Value.From(row.Value.Codes.Select(code => code == from ? to : code).Distinct()) : Value.From(to))
                ),
            ]
        );
        await write.ExecuteNonQueryAsync(cancel);
        return new(
            rows[^1].Id,
            rows.Count,
            [.. rows.Select(row => row.Id)],
            IsSeveral ? [.. rows.Select(row => string.Join(' ', row.Value.Codes))] : null
        );
    }

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(
            BulkUpdate.For(Field, IsSeveral ? $"AND t.{First} @> ARRAY[$3]" : $"AND t.{First} = $3"),
            transaction.Connection,
            transaction
        );
        BulkUpdate.Bind(
            command,
            Field,
            [.. ids.Select((id, i) => (id, befores is null ? Value.From(from) : Value.From(befores[i].Split(' '))))]
        );
        command.Parameters.Add(P(to));
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>Gives rows back what was saved when their field was removed; what is there meanwhile stays.</summary>
internal sealed class ReadBackWork : JobWork
{
    private readonly List<(long Id, string[] Texts)> rows;

    private ReadBackWork(Field field, List<(long Id, string[] Texts)> rows)
        : base(field) => this.rows = rows;

    /// <summary>Reads the newest saved data of a field; columns that it has not are skipped.</summary>
    public static async Task<ReadBackWork> OfAsync(IDbContextFactory<PeltoContext> contexts, Field field, CancellationToken cancel)
    {
        var rows = new List<(long, string[])>();
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var saved = context
            .SavedData.Where(data => data.Field == field.Id)
            .OrderByDescending(data => data.SavedAt)
            .Select(data => data.Csv);
        if (await saved.FirstOrDefaultAsync(cancel) is not { } csv)
            return new(field, rows);
        using var reader = new CsvReader(new StringReader(csv), CultureInfo.InvariantCulture);
        await reader.ReadAsync();
        reader.ReadHeader();
        var headings = reader.HeaderRecord ?? [];

        // A field that comes back stands in its first column again, whatever it was kept in last.
        var places = field
            .Columns.Select(column =>
                Array.FindLastIndex(headings, heading =>
                    heading != DataSaver.IdHeading
                    && heading.EndsWith(column.Suffix, StringComparison.Ordinal)
                    && (
                        column.Suffix.Length > 0
                        || !field.Kind.Columns.Any(other =>
                            other.Suffix.Length > 0 && heading.EndsWith(other.Suffix, StringComparison.Ordinal)
                        )
                    )
                )
            )
            .ToArray();
        while (await reader.ReadAsync())
            rows.Add((reader.GetField<long>(0), [.. places.Select(place => place < 0 ? "" : reader.GetField(place) ?? "")]));
        return new(field, rows);
    }

    public override Task<long> CountAsync(NpgsqlConnection connection, CancellationToken cancel) =>
        Task.FromResult((long)rows.Count(row => row.Id > Done));

    public override async Task<Batch> RunAsync(NpgsqlTransaction transaction, long reached, CancellationToken cancel)
    {
        var batch = rows.Where(row => row.Id > reached).OrderBy(row => row.Id).Take(Size).ToList();
        if (batch.Count == 0)
            return new(reached, 0, []);
        Done = Math.Max(Done, batch[^1].Id);
        var casts = Field.Columns.Select(
            (column, i) =>
                column.Type == ColumnType.TextArray ? $"ARRAY(SELECT jsonb_array_elements_text(nullif(u.c{i}, '')::jsonb))"
                : column.Type == ColumnType.IntegerArray
                    ? $"nullif(ARRAY(SELECT e.v::bigint FROM jsonb_array_elements_text(nullif(u.c{i}, '')::jsonb) WITH ORDINALITY AS e(v, o) "
                        + $"WHERE EXISTS (SELECT FROM {Sql.Base(Field.Target!.Header)} t WHERE t.id = e.v::bigint) ORDER BY e.o), '{{}}')"
                : $"nullif(u.c{i}, '')::{column.Type.SqlType()}"
        );
        var arrays = Field.Columns.Select((_, i) => string.Create(CultureInfo.InvariantCulture, $"${i + 2}::text[]"));
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"""
            WITH {Founded(
                $"SELECT u.id FROM unnest($1::bigint[]) AS u(id) JOIN {Host} h ON h.id = u.id"
            )}done AS (INSERT INTO {Table} AS t (id, {Names()})
                SELECT u.id, {string.Join(", ", casts)} FROM unnest($1::bigint[], {string.Join(", ", arrays)}) AS u(id, {string.Join(
                ", ",
                Field.Columns.Select((_, i) => $"c{i}")
            )}) JOIN {Host} h ON h.id = u.id
                ON CONFLICT (id) DO UPDATE SET ({Names()}) = ROW({Names("excluded.")}) WHERE t.{First} IS NULL RETURNING id)
            SELECT coalesce(array_agg(id), ARRAY[]::bigint[]) FROM done
            """,
            Field.Columns.Select((_, i) => P(batch.Select(row => row.Texts[i]).ToArray())).Prepend(P(batch.Select(row => row.Id).ToArray()))
        );
        return new(batch[^1].Id, batch.Count, (long[])(await command.ExecuteScalarAsync(cancel))!);
    }

    public override async Task UndoAsync(NpgsqlTransaction transaction, long[] ids, string[]? befores, CancellationToken cancel)
    {
        await using var command = Command(
            transaction.Connection!,
            transaction,
            $"UPDATE {Table} SET {string.Join(", ", Columns.Quoted(Field).Select(name => name + " = NULL"))} WHERE id = ANY($1)",
            P(ids)
        );
        await command.ExecuteNonQueryAsync(cancel);
    }

    private long Done { get; set; }
}
