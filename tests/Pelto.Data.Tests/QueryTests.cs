using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Queries;
using Pelto.Data.Database;
using Pelto.Data.Queries;

namespace Pelto.Data.Tests;

/// <summary>Saved queries: what they fill and when, what they read, and that they can do nothing else.</summary>
public sealed class QueryTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private const string LastPrice = """
        SELECT l.price, o.number FROM sales_order_lines l JOIN sales_order o ON o.id = l.parent
        WHERE o.customer = :customer AND l.item = :item ORDER BY o.order_date DESC, o.id DESC
        """;

    private QueryRunner Runner => site.Services.GetRequiredService<QueryRunner>();

    private static QueryDefinition Query(string sql, params QueryParameter[] parameters) =>
        new()
        {
            Id = "q-test",
            Label = "Test",
            Sql = sql,
            Parameters = parameters,
        };

    private static QueryDefinition Last { get; } =
        new()
        {
            Id = "q-last",
            Label = "Last price",
            Sql = LastPrice,
            Parameters = [new("customer", "link"), new("item", "link")],
        };

    private async Task<string?> FailureOfAsync(string sql) => (await Runner.TryAsync(Query(sql), [], default)).Failure;

    private async Task GoLiveAsync(QueryDefinition query, params FieldDefinition[] fields)
    {
        await site.Drafts.ChangeAsync(
            now => fields.Aggregate(now.With(query), (then, field) => then.With(field)),
            "Test",
            Site.Administrator
        );

        // What a query gives is found out when the draft is put there; here a test stands in for the page.
        var (settled, problems) = await Runner.AnalyseAsync((await site.Drafts.ReadAsync()).Site, site.Catalogues.Live, default);
        Assert.Empty(problems);
        await site.Drafts.ChangeAsync(_ => settled, "Test", Site.Administrator);
        var publishing = await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
    }

    [Fact(
        DisplayName = "Who nearly guesses a column is not told its name, "
            + "unless all columns are shown to them; nor does trying a query tell it"
    )]
    public async Task Guessed_columns()
    {
        var guess = Query("SELECT credit_limi AS x FROM partner");
        async Task<string> SaidAsync(Func<Core.Catalog.Field, bool>? isShown)
        {
            var problems = new List<QueryProblem>();
            await Runner.InspectAsync(guess, site.Catalogues.Live, problems, default, isShown);
            return Assert.Single(problems).Message;
        }

        Assert.Equal("The database says: column \"credit_limi\" does not exist.", await SaidAsync(null));
        Assert.DoesNotContain("credit_limit", await SaidAsync(field => field.Code != "credit_limit"), StringComparison.Ordinal);
        Assert.Contains("credit_limit", await SaidAsync(_ => true), StringComparison.Ordinal);
        Assert.DoesNotContain("credit_limit", await FailureOfAsync(guess.Sql), StringComparison.Ordinal);
    }

    [Fact(
        DisplayName = "Asked again for records on file, in the background: "
            + "what differs is stored with where it came from, "
            + "what people typed and confirmed documents stay, and all of it is undone"
    )]
    public async Task Records_on_file_are_asked_for()
    {
        var use = new QueryUse
        {
            Id = "q-since",
            With = new Dictionary<string, string> { ["customer"] = "customer" },
            When = QueryWhen.New,
        };
        await GoLiveAsync(
            new()
            {
                Id = "q-since",
                Label = "Customer since",
                Sql = "SELECT 'Since ' || min(order_date) AS since, count(*) AS orders FROM sales_order WHERE customer = :customer",
                Parameters = [new("customer", "link")],
            },
            Site.Field("since", "text") with
            {
                Length = 40,
                Query = use,
            },
            Site.Field("orders_of") with
            {
                Query = use with { Column = "orders" },
            }
        );
        var type = site.Type("sales_order");
        var (since, orders) = (type.Header.Find("since")!, type.Header.Find("orders_of")!);
        var open = (long)(await site.ScalarAsync("SELECT max(id) FROM erp.sales_order WHERE status = 'open'"))!;
        Assert.Equal(
            SaveResult.Saved,
            (await site.Saver.SaveAsync(type, open, site.Changes("sales_order", ("since", Value.From("Since always"))), Site.Desk)).Result
        );
        var fills = site.Services.GetRequiredService<QueryFills>();
        var preview = (await fills.ProofAsync(since, Site.Administrator, default))!;
        Assert.True(preview is { Changed: > 0, IsAll: false });
        Assert.Null(
            await fills.ProofAsync(since, new Viewer(Guid.NewGuid(), "Nobody", []), default) is { } told && told.Examples.Count > 0
                ? told
                : null
        );

        var jobs = site.Services.GetRequiredService<Jobs.JobRunner>();
        await jobs.RefillAsync(since, Site.Administrator);
        await jobs.RefillAsync(orders, Site.Administrator);
        await jobs.RunOpenAsync();
        const string Wrong =
            "SELECT count(*) FROM erp.sales_order o LEFT JOIN added.sales_order a ON a.id = o.id WHERE o.status = 'open' "
            + "AND (a.since IS DISTINCT FROM 'Since ' || (SELECT min(order_date) FROM erp.sales_order "
            + "WHERE customer = o.customer) OR a.orders_of IS DISTINCT "
            + "FROM (SELECT count(*) FROM erp.sales_order WHERE customer = o.customer))";
        Assert.Equal(1L, await site.ScalarAsync(Wrong));
        Assert.Equal("Since always", await site.ScalarAsync($"SELECT since FROM added.sales_order WHERE id = {open}"));
        var other = (
            await site.Store.FindAsync(
                type,
                (long)(await site.ScalarAsync($"SELECT max(id) FROM erp.sales_order WHERE status = 'open' AND id <> {open}"))!,
                Site.Desk
            )
        )!;
        Assert.Equal("query/q-since", other.Origins[since].From);
        Assert.Equal(0, (await fills.ProofAsync(orders, Site.Administrator, default))!.Changed);

        var job = (await jobs.AllAsync()).First(one => one.Field == since.Id);
        Assert.True(job.Changed > 50);
        Assert.True(await jobs.UndoAsync(job.Id, Site.Administrator));
        await jobs.RunOpenAsync();
        Assert.Equal(1L, await site.ScalarAsync("SELECT count(since) FROM added.sales_order"));
        Assert.NotEqual(0L, await site.ScalarAsync("SELECT count(orders_of) FROM added.sales_order"));
    }

    [Fact(DisplayName = "What is saved between a job's asking and its storing is not written over, also where the same stood there before")]
    public async Task Saved_between()
    {
        var use = new QueryUse
        {
            Id = "q-city",
            With = new Dictionary<string, string> { ["customer"] = "customer" },
            When = QueryWhen.Change,
        };
        await GoLiveAsync(
            new()
            {
                Id = "q-city",
                Label = "City",
                Sql = "SELECT 'In ' || number AS place FROM partner WHERE id = :customer",
                Parameters = [new("customer", "link")],
            },
            Site.Field("place_of", "text") with
            {
                Length = 40,
                Query = use,
            }
        );
        var (type, place) = (site.Type("sales_order"), site.Type("sales_order").Header.Find("place_of")!);

        // Two that are asked for in one batch.
        var orders = (
            await site.ScalarAsync(
                "SELECT (array_agg(id ORDER BY id))[:2] FROM erp.sales_order "
                    + "WHERE status = 'open' GROUP BY (id - 1) / 50 HAVING count(*) > 1 LIMIT 1"
            ) as long[]
        )!;
        var customer = (long)
            (
                await site.ScalarAsync(
                    "SELECT max(id) FROM erp.partner WHERE role <> 'supplier' "
                        + $"AND id <> (SELECT customer FROM erp.sales_order WHERE id = {orders[1]})"
                )
            )!;
        await site.ScalarAsync(
            "INSERT INTO added.sales_order (id, place_of) SELECT o.id, 'In ' || p.number FROM erp.sales_order o, erp.partner p "
                + $"WHERE o.id = {orders[1]} AND p.id = {customer} ON CONFLICT (id) DO UPDATE SET place_of = excluded.place_of"
        );

        // The job has asked for all of its batch, and waits for the first.
        await using var holder = await site.Source.OpenConnectionAsync();
        await using var transaction = await holder.BeginTransactionAsync();
        await using (
            var hold = new Npgsql.NpgsqlCommand(
                $"INSERT INTO {await site.TableWithAsync("place_of")} AS t (id) "
                    + $"VALUES ({orders[0]}) ON CONFLICT (id) DO UPDATE SET id = t.id",
                holder,
                transaction
            )
        )
            await hold.ExecuteNonQueryAsync();
        var jobs = site.Services.GetRequiredService<Jobs.JobRunner>();
        await jobs.RefillAsync(place, Site.Administrator);
        var running = jobs.RunOpenAsync();
        await site.UntilWaitingAsync(running);
        var saving = await site.Saver.SaveAsync(
            type,
            orders[1],
            site.Changes("sales_order", ("customer", Value.LinkTo(customer))),
            Site.Desk
        );
        Assert.True(saving.Result == SaveResult.Saved, string.Join(" ", saving.Outcome.Messages.Select(message => message.Sentence)));
        await transaction.CommitAsync();
        await running;
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer LEFT JOIN added.sales_order a "
                    + "ON a.id = o.id WHERE o.status = 'open' AND a.place_of IS DISTINCT FROM 'In ' || p.number"
            )
        );
    }

    [Fact(
        DisplayName = "A query that takes too long is asked once: "
            + "the page that shows what asking again would do does not wait for it again, and the job ends with a sentence"
    )]
    public async Task Endless_queries_end_jobs()
    {
        var use = new QueryUse
        {
            Id = "q-forever",
            With = new Dictionary<string, string> { ["customer"] = "customer" },
            When = QueryWhen.Demand,
        };
        await GoLiveAsync(
            new()
            {
                Id = "q-forever",
                Label = "Forever",
                Sql = "SELECT count(*) AS n FROM generate_series(1, 1000000000000) AS n WHERE n % 7 = :customer",
                Parameters = [new("customer", "link")],
            },
            Site.Field("forever_of") with
            {
                Query = use,
            }
        );
        var field = site.Type("sales_order").Header.Find("forever_of")!;
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var proof = (await site.Services.GetRequiredService<QueryFills>().ProofAsync(field, Site.Administrator, default))!;
        Assert.Equal((1, 0), (proof.Failing, proof.Examples.Count));
        var jobs = site.Services.GetRequiredService<Jobs.JobRunner>();
        await jobs.RefillAsync(field, Site.Administrator);
        await jobs.RunOpenAsync();
        Assert.True(watch.Elapsed < QueryRunner.Longest * 4);
        var job = (await jobs.AllAsync()).First(one => one.Field == field.Id);
        Assert.Equal(JobState.Failed, job.State);
        Assert.Contains("Forever: It was stopped", job.Saying, StringComparison.Ordinal);
    }

    [Fact(
        DisplayName = "The last price that a customer paid for an item comes to each new line, "
            + "with the order that it was paid on from the same query; typed over it stays"
    )]
    public async Task Last_price()
    {
        var use = new QueryUse
        {
            Id = "q-last",
            Column = "price",
            With = new Dictionary<string, string> { ["customer"] = "customer", ["item"] = "item" },
        };
        await GoLiveAsync(
            Last,
            Site.Field("last_price", "decimal", "lines") with
            {
                Digits = 12,
                Decimals = 2,
                Query = use,
            },
            Site.Field("last_order", "text", "lines") with
            {
                Length = 12,
                Query = use with { Column = "number" },
            }
        );
        var orders = site.Type("sales_order");
        var part = orders.LineParts[0];
        var (price, number) = (part.Find("last_price")!, part.Find("last_order")!);
        var paid = (
            (string)
                (
                    await site.ScalarAsync(
                        "SELECT o.customer || '|' || l.item || '|' || round(l.price, 2) || '|' || o.number FROM erp.sales_order_lines l "
                            + "JOIN erp.sales_order o ON o.id = l.parent ORDER BY o.order_date DESC, o.id DESC, l.position LIMIT 1"
                    )
                )!
        ).Split('|');
        var expected = Value.From(decimal.Parse(paid[2], System.Globalization.CultureInfo.InvariantCulture));
        var (customer, item) = (
            Value.LinkTo(long.Parse(paid[0], System.Globalization.CultureInfo.InvariantCulture)),
            Value.LinkTo(long.Parse(paid[1], System.Globalization.CultureInfo.InvariantCulture))
        );

        var changes = site.Changes("sales_order", ("customer", customer));
        changes.Lines[part] =
        [
            site.Line("a", null, ("item", item), ("quantity", Value.From(1m)), ("price", Value.From(1m))),
            site.Line("b", null, ("quantity", Value.From(1m)), ("price", Value.From(2m)), ("item", Value.LinkTo(1900))),
            site.Line("c", null, ("item", item), ("quantity", Value.From(1m)), ("price", Value.From(1m)), ("last_price", Value.From(5m))),
        ];
        var tried = (await site.Store.TryAsync(orders, null, changes, Site.Desk))!.State;
        Assert.Equal((expected, Value.From(paid[3])), (tried.Lines[0][0].Values[price.Slot], tried.Lines[0][0].Values[number.Slot]));
        var saved = (await site.Saver.SaveAsync(orders, null, changes, Site.Desk)).Outcome.State;
        Assert.Equal([expected, Value.Empty, Value.From(5m)], saved.Lines[0].Select(line => line.Values[price.Slot]));
        Assert.Equal(
            ("query/q-last", null, Site.Desk.Name),
            (saved.Lines[0][0].Origins[price].From, saved.Lines[0][0].Origins[price].By, saved.Lines[0][2].Origins[price].By)
        );

        // Saved again without a change of what it is asked with, it stays as it was; another item asks anew.
        var again = new RecordChanges();
        again.Lines[part] =
        [
            site.Line("x", saved.Lines[0][0].Id, ("quantity", Value.From(9m))),
            site.Line("y", saved.Lines[0][1].Id, ("item", item)),
        ];
        var after = (await site.Saver.SaveAsync(orders, saved.Id, again, Site.Desk)).Outcome.State;
        Assert.Equal([expected, Value.From(1m)], after.Lines[0].Select(line => line.Values[price.Slot]));
    }

    [Fact(
        DisplayName = "What a query reads is found out by the database: who may not see one of its columns does not see what comes of it"
    )]
    public async Task Guarded()
    {
        var problems = new List<QueryProblem>();
        var query = await Runner.InspectAsync(
            Query(
                "SELECT count(*) AS calls, max(e.name) AS who FROM call c JOIN employee e ON e.id = c.employee WHERE c.partner = :customer",
                new QueryParameter("customer", "link")
            ),
            site.Catalogues.Live,
            problems,
            default
        );
        Assert.Empty(problems);
        Assert.Equal([new("calls", "bigint"), new QueryColumn("who", "text")], query.Columns);
        Assert.Contains("employee.name", query.Reads);
        await GoLiveAsync(
            query with
            {
                Id = "q-who",
                Label = "Who takes their calls",
            },
            Site.Field("calls_by", "text") with
            {
                Length = 60,
                Query = new()
                {
                    Id = "q-who",
                    Column = "who",
                    With = new Dictionary<string, string> { ["customer"] = "customer" },
                },
            }
        );
        var field = site.Type("sales_order").Header.Find("calls_by")!;
        Assert.Equal((AccessLevel.Write, AccessLevel.None), (Site.Administrator.LevelAt(field), Site.Guest.LevelAt(field)));

        // Whoever writes down that it reads nothing is not believed.
        await site.Drafts.ChangeAsync(
            now => now.With(now.FindQuery("q-who")! with { Reads = [], About = "Harmless" }),
            "Test",
            Site.Administrator
        );
        await site.Publishings.RunAsync(await site.Publisher.StartAsync("For a test", Site.Administrator));
        Assert.Contains("employee.name", site.Catalogues.Live.Site.FindQuery("q-who")!.Reads);
        Assert.Equal(AccessLevel.None, Site.Guest.LevelAt(site.Type("sales_order").Header.Find("calls_by")!));
    }

    [Theory(
        DisplayName = "What reads a column is told by the database's own record of the query, "
            + "in whichever way the column is read: whole rows are all columns, those that are added later too"
    )]
    [InlineData("SELECT credit_limit FROM partner")]
    [InlineData("SELECT x.c FROM (SELECT credit_limit AS c FROM partner) x")]
    [InlineData("SELECT name FROM partner ORDER BY credit_limit")]
    [InlineData("SELECT count(*) AS n FROM partner WHERE credit_limit > 5")]
    [InlineData("SELECT a.name FROM partner a JOIN partner b USING (credit_limit)")]
    [InlineData("SELECT count(*) OVER (PARTITION BY credit_limit) AS n FROM partner")]
    [InlineData("SELECT count(*) FILTER (WHERE p.credit_limit > 1) AS n FROM partner p")]
    [InlineData("SELECT to_json(p)->>'credit_limit' AS c FROM partner p")]
    [InlineData("SELECT p::text AS c FROM partner p")]
    [InlineData("SELECT (p).credit_limit AS c FROM partner p")]
    [InlineData("SELECT concat(p) AS c FROM partner p")]
    [InlineData("SELECT value AS c FROM partner p, json_each_text(row_to_json(p))")]
    [InlineData("SELECT string_agg(x.r::text, ',') AS c FROM (SELECT p AS r FROM partner p) x")]
    [InlineData("SELECT to_json(x)::text AS c FROM (SELECT * FROM partner) x")]
    [InlineData("SELECT max(p::text) AS c FROM partner p GROUP BY p.country")]
    [InlineData("SELECT count(DISTINCT p) AS n FROM partner p")]
    [InlineData("SELECT number FROM partner p WHERE p IS NOT NULL")]
    [InlineData("SELECT number FROM partner p ORDER BY p")]
    [InlineData("WITH w AS (SELECT p FROM partner p) SELECT w::text AS c FROM w")]
    [InlineData("SELECT o.number FROM sales_order o, LATERAL (SELECT q FROM partner q WHERE q.id = o.customer) z WHERE z::text LIKE '%5%'")]
    [InlineData("TABLE partner")]
    public async Task Reads_a_column(string sql)
    {
        var problems = new List<QueryProblem>();
        var query = await Runner.InspectAsync(
            Query(sql.StartsWith("TABLE", StringComparison.Ordinal) ? "WITH w AS (TABLE partner) SELECT * FROM w" : sql),
            site.Catalogues.Live,
            problems,
            default
        );
        Assert.Empty(problems);
        Assert.Contains("partner.credit_limit", QueryBinder.FieldsRead(query, site.Catalogues.Live.RecordTypes).Select(field => field.Id));
    }

    [Fact(DisplayName = "A query over whole rows reads what is added to them after it was written")]
    public async Task Whole_rows()
    {
        await GoLiveAsync(
            new()
            {
                Id = "q-whole",
                Label = "Whole",
                Sql = "SELECT to_json(c)::text AS all_of_it FROM call c ORDER BY c.id LIMIT 1",
            },
            Site.Field("whole_row", "text") with
            {
                Length = 2000,
                Query = new() { Id = "q-whole", When = QueryWhen.New },
            }
        );
        Assert.Equal(["call.*"], site.Catalogues.Live.Site.FindQuery("q-whole")!.Reads);
        await site.PublishAsync(Site.Field("later_on", "text") with { RecordType = "call", Length = 40 });
        var field = site.Type("sales_order").Header.Find("whole_row")!;
        Assert.Contains(field.GuardedBy, input => input.Code == "later_on");
        var guarded = site.Catalogues.Build(site.Catalogues.Live.Site.With(new Guard { On = "f-later_on" }));
        Assert.Equal(AccessLevel.None, Site.Desk.LevelAt(guarded.FindField(field.Id)!));
    }

    [Theory(
        DisplayName = "What cannot be told from the database's record of a query is refused "
            + "with the reason, and the role cannot call it either"
    )]
    [InlineData("SELECT table_to_xml('partner', true, true, '')::text AS c", "table_to_xml")]
    [InlineData("SELECT schema_to_xml('readable', true, true, '')::text AS c", "schema_to_xml")]
    [InlineData("SELECT U&\"\\0074able_to_xml\"('partner', true, true, '')::text AS c", "table_to_xml")]
    [InlineData("SELECT query_to_xml('SELECT credit_limit FROM partner', true, true, '')::text AS c", "query_to_xml")]
    [InlineData("SELECT database_to_xml(true, true, '')::text AS c", "database_to_xml")]
    [InlineData("SELECT word AS c FROM ts_stat('SELECT to_tsvector(note) FROM partner')", "ts_stat")]
    [InlineData("SELECT U&\"\\0070g_get_viewdef\"('partner'::regclass) AS c", "pg_get_viewdef")]
    [InlineData("SELECT current_setting('server_version') AS c", "current_setting")]
    [InlineData("SELECT col_description('partner'::regclass, 1) AS c", "col_description")]
    [InlineData("SELECT name::regclass::text AS c FROM partner", "regclass")]
    [InlineData("SELECT has_table_privilege('partner', 'SELECT') AS c", "has_table_privilege")]
    public async Task Cannot_be_told(string sql, string function)
    {
        var problems = new List<QueryProblem>();
        var query = await Runner.InspectAsync(Query(sql), site.Catalogues.Live, problems, default);
        Assert.Contains(problems, problem =>
            problem.Sentence.Contains($"{function} cannot be called in a query", StringComparison.Ordinal)
        );
        Assert.Empty(query.Columns);
        Assert.Contains("refuses that to queries", await FailureOfAsync(sql) ?? "", StringComparison.Ordinal);
    }

    [Theory(DisplayName = "What belongs to the database itself is no table for queries, however its name is written")]
    [InlineData("SELECT count(*) AS n FROM U&\"\\0070g_class\"")]
    [InlineData("SELECT count(*) AS n FROM U&\"\\0070g_catalog\".U&\"\\0070g_proc\"")]
    [InlineData("SELECT number FROM partner WHERE id IN (SELECT oid FROM U&\"\\0070g_class\")")]
    [InlineData("SELECT definition AS c FROM U&\"\\0070g_views\"")]
    [InlineData("SELECT table_name::text AS c FROM U&\"\\0069nformation_schema\".tables")]
    public async Task Catalogue_is_closed(string sql)
    {
        var problems = new List<QueryProblem>();
        Assert.Empty((await Runner.InspectAsync(Query(sql), site.Catalogues.Live, problems, default)).Columns);
        Assert.Contains(problems, problem => problem.Sentence.Contains("cannot be read by queries", StringComparison.Ordinal));
    }

    [Fact(
        DisplayName = "Of all functions of the database, the role may call only those that are on the list; what queries use every day is"
    )]
    public async Task Functions()
    {
        var role = site.Services.GetRequiredService<QueryRole>();
        var open = (string)
            (
                await site.ScalarAsync(
                    "SELECT coalesce(string_agg(p.oid::regprocedure::text, ', '), '') FROM pg_proc p "
                        + "WHERE p.pronamespace = 'pg_catalog'::regnamespace AND p.prokind IN ('f', 'w') "
                        + $"AND has_function_privilege('{role.Name}', p.oid, 'EXECUTE') AND NOT {QueryFunctions.Allowed}"
                )
            )!;
        Assert.Equal("", open);
        foreach (
            var sql in new[]
            {
                "SELECT to_char(order_date, 'YYYY-MM') AS m, date_trunc('month', "
                    + "order_date::timestamptz) AS t, extract(year "
                    + "FROM order_date) AS y, age(order_date::timestamp)::text AS a, "
                    + "now()::date AS d, current_date - order_date AS n FROM sales_order LIMIT 1",
                "SELECT coalesce(name, '') || ' ' || number AS a, concat(name, number) AS b, format('%s', name) AS c, "
                    + "lower(name) AS d, round(credit_limit, 2) AS e, row_number() OVER (ORDER BY id) AS f, public.similarity(name, "
                    + "'x') AS g, name ILIKE '%a%' AS h, id::text AS i, '5'::int + 1 AS j FROM partner LIMIT 1",
                "SELECT string_agg(name, ', ' ORDER BY name) AS a, array_to_string(array_agg(number), "
                    + "';') AS b, percentile_cont(0.5) WITHIN GROUP (ORDER BY credit_limit::float8) AS c, "
                    + "max(customer_since) AS d, round(stddev(credit_limit), 2) AS e FROM partner",
            }
        )
        {
            var problems = new List<QueryProblem>();
            await Runner.InspectAsync(Query(sql), site.Catalogues.Live, problems, default);
            Assert.Empty(problems.Select(problem => problem.Message));
            Assert.Null(await FailureOfAsync(sql));
        }
    }

    [Theory(
        DisplayName = "It cannot write, read what is not for it, sleep, lock, call out, "
            + "or become somebody else: the database refuses, whatever the text looks like"
    )]
    [InlineData("SELECT * FROM erp.partner")]
    [InlineData("SELECT * FROM pelto.person")]
    [InlineData("SELECT * FROM added.item")]
    [InlineData("SELECT id FROM readable.partner FOR UPDATE")]
    [InlineData("SELECT pg_sleep(1)")]
    [InlineData("SELECT \"pg_sleep\"(1)")]
    [InlineData("SELECT U&\"pg!005fsleep\" UESCAPE '!' (1)")]
    [InlineData("SELECT set_config('role', 'pelto', true)")]
    [InlineData("SELECT set_config('statement_timeout', '0', false)")]
    [InlineData("SELECT query_to_xml('SELECT * FROM pelto.person', true, false, '')")]
    [InlineData("SELECT lo_create(0)")]
    [InlineData("SELECT pg_advisory_lock(7301002)")]
    [InlineData("SELECT pg_notify('pelto', '{}')")]
    [InlineData("SELECT nextval('pelto.draft_version_seq')")]
    [InlineData("SELECT pg_read_file('/etc/passwd')")]
    [InlineData("SELECT pg_terminate_backend(1)")]
    [InlineData("SELECT dblink('host=127.0.0.1', 'SELECT 1')")]
    [InlineData("WITH gone AS (DELETE FROM partner RETURNING id) SELECT * FROM gone")]
    [InlineData("SELECT 1) AS x; DROP SCHEMA readable CASCADE; --")]
    [InlineData("SELECT password_hash FROM partner")]
    [InlineData("SELECT E'\\'' ; DROP SCHEMA readable CASCADE; --'")]
    [InlineData("SELECT 1 -- \r; DROP SCHEMA readable CASCADE")]
    [InlineData("SELECT 1; COMMIT; DROP SCHEMA readable CASCADE")]
    public async Task Can_do_nothing_else(string sql)
    {
        var failure = await FailureOfAsync(sql);
        Assert.NotNull(failure);

        // Nor while the database reads it as Pelto itself to find out what it gives, whatever the check of its text overlooked.
        var problems = new List<QueryProblem>();
        await Runner.InspectAsync(Query(sql), site.Catalogues.Live, problems, default);
        await using (var connection = await site.Source.OpenConnectionAsync())
        await using (var transaction = await connection.BeginTransactionAsync())
        {
            if (sql.Contains(';', StringComparison.Ordinal))
                await Assert.ThrowsAsync<PostgresException>(() => QueryRunner.MakeViewAsync(transaction, sql, default));
        }

        Assert.Equal(1L, await site.ScalarAsync("SELECT count(*) FROM pg_namespace WHERE nspname = 'readable'"));
        Assert.Equal(412L, await site.ScalarAsync("SELECT count(*) FROM erp.partner"));
    }

    [Fact(DisplayName = "The role itself, signed in by hand, reads the views and nothing else, and makes nothing")]
    public async Task Role()
    {
        var role = site.Services.GetRequiredService<QueryRole>();
        await using var connection = await role.Source!.OpenConnectionAsync();
        async Task<string> StateAsync(string sql)
        {
            try
            {
                await using var command = new NpgsqlCommand(sql, connection);
                await command.ExecuteNonQueryAsync();
                return "";
            }
            catch (PostgresException refused)
            {
                return refused.SqlState;
            }
        }

        Assert.Equal("", await StateAsync("SELECT count(*) FROM readable.partner"));
        foreach (
            var sql in new[]
            {
                "SELECT 1 FROM erp.partner",
                "SELECT 1 FROM pelto.release",
                "SET ROLE pelto",
                "SET SESSION AUTHORIZATION pelto",
            }
        )
            Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, await StateAsync(sql));
        await StateAsync("SET default_transaction_read_only = off");
        foreach (
            var sql in new[]
            {
                "CREATE TABLE readable.mine (id int)",
                "CREATE TABLE public.mine (id int)",
                "CREATE TEMPORARY TABLE mine (id int)",
                "UPDATE readable.partner SET name = 'x'",
                "CREATE FUNCTION readable.f() RETURNS int LANGUAGE sql AS 'SELECT 1'",
            }
        )
            Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, await StateAsync(sql));
    }

    [Fact(
        DisplayName = "An endless query is stopped in time, says so at its field, and holds nobody up, "
            + "however many lines there are, though its field is required"
    )]
    public async Task Endless()
    {
        var longest = QueryRunner.Longest;
        try
        {
            QueryRunner.Longest = TimeSpan.FromMilliseconds(400);
            const string Sql = "SELECT count(*) AS endless FROM generate_series(1, 1000000000000) AS n WHERE n % 7 = :item";
            Assert.Contains(
                "did not come to an end",
                (await Runner.TryAsync(Query(Sql, new QueryParameter("item", "link")), [Value.LinkTo(1)], default)).Failure
            );
            await GoLiveAsync(
                Query(Sql, new QueryParameter("item", "link")) with
                {
                    Id = "q-endless",
                    Label = "Endless",
                },
                Site.Field("endless", "integer", "lines") with
                {
                    RequiredWhen = "quantity = 17",
                    Query = new()
                    {
                        Id = "q-endless",
                        With = new Dictionary<string, string> { ["item"] = "item" },
                    },
                }
            );
            var orders = site.Type("sales_order");
            var part = orders.LineParts[0];
            var changes = site.Changes("sales_order", ("customer", Value.LinkTo(3)));
            changes.Lines[part] =
            [
                .. Enumerable
                    .Range(1, 40)
                    .Select(at =>
                        site.Line($"n{at}", null, ("item", Value.LinkTo(at)), ("quantity", Value.From(17m)), ("price", Value.From(1m)))
                    ),
            ];
            var watch = System.Diagnostics.Stopwatch.StartNew();
            var saving = await site.Saver.SaveAsync(orders, null, changes, Site.Desk);
            Assert.Equal(SaveResult.Saved, saving.Result);
            Assert.True(watch.Elapsed < TimeSpan.FromSeconds(8), $"took {watch.Elapsed}");
            var tried = (await site.Store.TryAsync(orders, null, changes, Site.Desk))!.State;
            Assert.Contains(
                "Endless",
                Core.Fills.Filling.Given(part.Find("endless")!, tried, tried.Lines[0][0]).Value?.Reason ?? "",
                StringComparison.Ordinal
            );
        }
        finally
        {
            QueryRunner.Longest = longest;
        }
    }

    [Fact(DisplayName = "A field that a query reads is not taken away from under it: the draft says which query")]
    public async Task Reads_what_is_taken_away()
    {
        await site.PublishAsync(Site.Field("remark", "text") with { Length = 40 });
        await GoLiveAsync(
            Query("SELECT remark FROM sales_order WHERE customer = :customer", new QueryParameter("customer", "link")) with
            {
                Id = "q-remark",
                Label = "Remarks",
            }
        );
        var without = site.Catalogues.Build(
            site.Catalogues.Live.Site.With(site.Catalogues.Live.Site.Find("f-remark")! with { Retired = true })
        );
        Assert.Equal(
            "It reads a field that no longer exists (f-remark).",
            Assert.Single(without.Problems, problem => problem.Element == "q-remark").Sentence
        );
    }

    [Fact(
        DisplayName = "A query can offer choices: what it finds for this record, to those who may see what it reads, without filling anything"
    )]
    public async Task Offers()
    {
        await GoLiveAsync(
            Last with
            {
                Id = "q-places",
                Label = "Places",
                Sql =
                    "SELECT DISTINCT unloading_place AS place FROM sales_order "
                    + "WHERE customer = :customer AND unloading_place IS NOT NULL ORDER BY 1",
                Parameters = [new("customer", "link")],
            },
            Site.Field("gate_at", "text") with
            {
                Length = 60,
                Query = new()
                {
                    Id = "q-places",
                    When = QueryWhen.Offer,
                    With = new Dictionary<string, string> { ["customer"] = "customer" },
                },
            }
        );
        var orders = site.Type("sales_order");
        var field = orders.Header.Find("gate_at")!;
        var customer = (long)
            (
                await site.ScalarAsync(
                    "SELECT customer FROM erp.sales_order WHERE unloading_place IS NOT NULL "
                        + "GROUP BY 1 ORDER BY count(DISTINCT unloading_place) DESC, 1 LIMIT 1"
                )
            )!;
        var tried = (
            await site.Store.TryAsync(orders, null, site.Changes("sales_order", ("customer", Value.LinkTo(customer))), Site.Desk)
        )!.State;
        Assert.Equal((true, Value.Empty), (field.IsTyped, tried.Header[field.Slot]));
        var (offered, failure) = await site.Offers.OfAsync(field, tried, null, Site.Desk);
        Assert.Equal(
            (string)
                (
                    await site.ScalarAsync(
                        "SELECT string_agg(DISTINCT unloading_place, '|' "
                            + $"ORDER BY unloading_place) FROM erp.sales_order WHERE customer = {customer}"
                    )
                )!,
            string.Join('|', offered.Select(value => value.Text))
        );
        Assert.Null(failure);
        Assert.Empty((await site.Offers.OfAsync(field, tried, null, Site.Guest)).Offered);
        Assert.Empty((await site.Offers.OfAsync(field, site.Store.Fresh(orders, Site.Desk), null, Site.Desk)).Offered);
    }

    [Fact(DisplayName = "No row, one row, many rows: each ends as was said")]
    public async Task Outcomes()
    {
        var orders = site.Type("sales_order");
        var field = orders.Header.Find("reference")!;
        Value? Take(NoRow none, ManyRows many, int rows) =>
            new Asking(Last with { None = none, Many = many }, [], [0], [], QueryWhen.Change).Take(
                field,
                new([.. Enumerable.Range(1, rows).Select(at => new object?[] { $"r{at}" })])
            );
        Assert.Equal((Value.Empty, null), (Take(NoRow.Empty, ManyRows.First, 0), Take(NoRow.Keep, ManyRows.First, 0)));
        Assert.Equal("Last price found nothing.", Take(NoRow.Say, ManyRows.First, 0)!.Value.Reason);
        Assert.Equal((Value.From("r1"), Value.Empty), (Take(NoRow.Empty, ManyRows.First, 2), Take(NoRow.Empty, ManyRows.Empty, 2)));
        Assert.Equal("Last price found several rows where one is expected.", Take(NoRow.Empty, ManyRows.Say, 2)!.Value.Reason);
        Assert.Equal(Value.From("r1"), Take(NoRow.Say, ManyRows.Say, 1));
        Assert.Equal(
            "A query begins with SELECT or WITH: it only reads.",
            Assert.Single(QueryText.Read("UPDATE partner x").Problems, problem => problem.At == 0).Message
        );
        await Task.CompletedTask;
    }

    [Theory(DisplayName = "The text of a query: parameters where they stand, not in texts, comments, casts or names")]
    [InlineData(
        "SELECT :a, ':b', \":c\", 1::text /* :d */ -- :e\n, :a + :f",
        "a f",
        "SELECT $1, ':b', \":c\", 1::text /* :d */ -- :e\n, $1 + $2"
    )]
    [InlineData("SELECT 'it''s :x' || :y", "y", "SELECT 'it''s :x' || $1")]
    public void Text(string text, string names, string sql)
    {
        var read = QueryText.Read(text);
        Assert.Equal((names, sql), (string.Join(' ', read.Names), read.Sql));
        Assert.Empty(read.Problems);
    }
}
