using Npgsql;
using Pelto.Core.Formulas;
using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>Indexes of added and live fields: made where that is possible, used by lists, gone with their definition.</summary>
public sealed class ListIndexTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    private static FieldDefinition Live(string code, string formula, string kind = "decimal") =>
        Site.Field(code, kind) with
        {
            Formula = formula,
            Live = true,
            Indexed = true,
            Digits = kind == "decimal" ? 14 : null,
            Decimals = kind == "decimal" ? 2 : null,
            Length = kind == "text" ? 60 : null,
        };

    private string? Refusal(FieldDefinition field) =>
        site
            .Catalogues.Build(new SiteDefinition { Fields = [Site.Field("note_of", "text"), field] })
            .Problems.FirstOrDefault(problem => problem.Property == "indexed")
            ?.Sentence;

    private async Task<HashSet<string>> IndexesAsync()
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        await using var command = site.Source.CreateCommand("SELECT indexname FROM pg_indexes WHERE indexname LIKE '%\\_list\\_%'");
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
            names.Add(reader.GetString(0)[..reader.GetString(0).IndexOf("_list_", StringComparison.Ordinal)]);
        return names;
    }

    [Fact(
        DisplayName = "A list that is held to a live field, or to an added one, and put in its order, "
            + "goes by its index; another formula is another index, and none stays behind"
    )]
    public async Task Lists_go_by_indexes()
    {
        await site.ScalarAsync(
            "INSERT INTO erp.sales_order (id, number, customer, order_date, status, payment_terms, currency, "
                + "company, vat_percent, net_total, gross_total) SELECT 900000 + n, 'X-' || n, 1 + n % 50, "
                + "DATE '2020-01-01' + n % 700, 'open', s.payment_terms, 'EUR', s.company, n % 25, n, n * 1.2 "
                + "FROM generate_series(1, 30000) n, (SELECT payment_terms, company FROM erp.sales_order LIMIT 1) s"
        );
        await site.ScalarAsync("ANALYZE erp.sales_order");
        var publishing = await site.PublishAsync([
            Live("margin", "gross_total * 1.25 - net_total * (1 + vat_percent / 100)"),
            Live("flag", "AND(net_total > 100; status = \"open\")", "yes_no"),
            Live("tag", "UPPER(status) & \"/\" & number", "text"),
            Site.Field("rank") with
            {
                Indexed = true,
            },
            Site.Field("plain"),
        ]);
        Assert.True(publishing.State == PublishingState.Done, publishing.Saying);
        Assert.Equal(["flag", "margin", "rank", "tag"], (await IndexesAsync()).Order());
        foreach (var code in new[] { "rank", "plain" })
            await site.ScalarAsync(
                $"INSERT INTO added.sales_order (id, {code}) SELECT id, id FROM erp.sales_order "
                    + $"ON CONFLICT (id) DO UPDATE SET {code} = excluded.{code}"
            );
        await site.ScalarAsync("ANALYZE");
        foreach (
            var (filter, order, code) in new[]
            {
                ("margin~from~11000", "-margin", "margin"),
                ("margin~between~5000~5010", "margin", "margin"),
                ("tag~is~OPEN/X-77", "number", "tag"),
                ("rank~between~900100~900120", "-rank", "rank"),
            }
        )
        {
            var type = site.Type("sales_order");
            Assert.Null(RecordLists.TryOrder(type, order, Site.Desk, out var keys));
            await using var connection = await site.Source.OpenConnectionAsync();
            var before = await site.IndexUsesAsync($"^{code}_list_");
            var rows = (await site.Lists.ReadAsync(new(type, keys, 50) { Filters = [Filter.Parse(type, filter).Filter!] }, Site.Desk)).Rows;
            Assert.NotEmpty(rows);
            Assert.True(await site.IndexUsesAsync($"^{code}_list_", before) > before, $"{filter} did not go by the index of {code}.");
        }

        var changed = await site.PublishAsync([
            Live("margin", "gross_total - net_total"),
            Live("tag", "number & \"!\"", "text") with
            {
                Indexed = false,
            },
        ]);
        Assert.True(changed.State == PublishingState.Done, changed.Saying);
        Assert.Equal(["flag", "margin", "rank"], (await IndexesAsync()).Order());
        Assert.Contains(
            "gross_total - net_total",
            ((string)(await site.ScalarAsync("SELECT indexdef FROM pg_indexes WHERE indexname LIKE 'margin\\_list\\_%'"))!)
                .Replace("(", "", StringComparison.Ordinal)
                .Replace(")", "", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Where no index is possible it says why, and what else could be done")]
    public void Refusals()
    {
        Assert.Null(Refusal(Live("a", "net_total * 2")));
        Assert.Contains("Let it be kept", Refusal(Live("a", "SUM(lines.quantity)")), StringComparison.Ordinal);
        Assert.Contains("Let it be kept", Refusal(Live("a", "customer.credit_limit - gross_total")), StringComparison.Ordinal);
        Assert.Contains("stored apart", Refusal(Live("a", "LEN(note_of) + net_total")), StringComparison.Ordinal);
        Assert.Contains("as time goes by", Refusal(Live("a", "TODAY() - order_date")), StringComparison.Ordinal);
        Assert.Contains("writes days", Refusal(Live("a", "\"x\" & order_date", "text")), StringComparison.Ordinal);
        Assert.Contains("have no index", Refusal(Site.Field("a", "long_text") with { Indexed = true }), StringComparison.Ordinal);
    }

    [Fact(DisplayName = "Every function whose index is not refused can stand in one: the database is asked with the example of each")]
    public async Task Functions_fit_indexes()
    {
        await using var connection = await site.Source.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        await using (var table = new NpgsqlCommand("CREATE TEMPORARY TABLE probe (LIKE erp.sales_order)", connection, transaction))
            await table.ExecuteNonQueryAsync();
        var tried = 0;
        foreach (var function in Core.Formulas.Functions.ByName.Values.Where(function => function.Group != FunctionGroup.Lists))
        {
            // Over a column, so that nothing is calculated beforehand.
            var text = string.Join(
                "; ",
                function
                    .Parameters.Where(parameter => !parameter.IsOptional)
                    .Select(parameter =>
                        parameter.Type switch
                        {
                            DataType.Text => "reference",
                            DataType.Date => "order_date",
                            DataType.YesNo => "net_total > 1",
                            DataType.Time => "TIME(1; 1; vat_percent)",
                            DataType.Quantity => "QUANTITY(net_total; \"MTR\")",
                            DataType.Money => "MONEY(net_total; currency)",
                            _ => "net_total",
                        }
                    )
            );
            var problems = new List<FormulaProblem>();
            var kind = Formula.Bind($"{function.Name}({text})", site.Type("sales_order").Header, problems)?.DataType switch
            {
                DataType.Number => "decimal",
                DataType.Text => "text",
                DataType.Date => "date",
                DataType.Time => "time",
                DataType.YesNo => "yes_no",
                _ => null,
            };
            if (kind is null)
                continue;
            var field = site
                .Catalogues.Build(new SiteDefinition { Fields = [Live("probe_of", $"{function.Name}({text})", kind)] })
                .FindField("f-probe_of");
            if (field is null || Indexing.Refuse(field) is not null)
                continue;
            tried++;
            await using var command = new NpgsqlCommand(
                $"CREATE INDEX ON probe (({ListIndexSql.Over(field).Replace("\"sales_order\".", "probe.", StringComparison.Ordinal)}))",
                connection,
                transaction
            );
            try
            {
                await command.ExecuteNonQueryAsync();
            }
            catch (PostgresException refused)
            {
                Assert.Fail($"{function.Name}: {refused.MessageText}");
            }
        }

        Assert.True(tried > 70, $"{tried} functions");
    }
}
