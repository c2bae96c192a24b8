using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Metadata;
using Pelto.Data.Hosts;
using Pelto.Tests;

namespace Pelto.Data.Tests;

public sealed class InstallTests(Site site) : IClassFixture<Site>
{
    [Fact(DisplayName = "The sample company is there, whole")]
    public async Task Sample_company_is_there() =>
        Assert.Equal(
            "412 1906 40 530 1852",
            await site.ScalarAsync(
                "SELECT concat_ws(' ', (SELECT count(*) FROM erp.partner), (SELECT count(*) FROM erp.item), (SELECT count(*) "
                    + "FROM erp.employee), (SELECT count(*) FROM erp.sales_order), (SELECT count(*) FROM erp.sales_order_lines))"
            )
        );

    [Fact(DisplayName = "Totals that formulas computed are those that PostgreSQL computes")]
    public async Task Totals_agree_with_sql()
    {
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                "SELECT count(*) FROM erp.sales_order_lines WHERE amount <> round(quantity * price * (1 - coalesce(discount, 0) / 100), 2)"
            )
        );
        Assert.Equal(
            0L,
            await site.ScalarAsync(
                """
                SELECT count(*) FROM erp.sales_order o
                WHERE net_total <> (SELECT sum(amount) FROM erp.sales_order_lines WHERE parent = o.id) OR vat <> round(net_total * vat_percent / 100, 2) OR gross_total <> net_total + vat
                """
            )
        );
    }

    [Fact(
        DisplayName = "Countries are those of ISO 3166-1 by their names, "
            + "and companies have the currency of their country (ISO 4217), as Unicode CLDR carries them"
    )]
    public void Countries_are_known()
    {
        var countries = site
            .Catalogues.Live.RecordTypes.SelectMany(type => type.Parts)
            .SelectMany(part => part.Fields)
            .Where(field => field.Code == "country")
            .Select(field => field.Kind.Choices!)
            .ToList();
        Assert.NotEmpty(countries);
        Assert.All(countries.SelectMany(choices => choices.All), choice =>
            Assert.Equal(new RegionInfo(choice.Code).EnglishName, choice.Label)
        );
        Assert.Equal(2, site.Catalogues.Live.Host.Companies.Count);
        Assert.All(site.Catalogues.Live.Host.Companies, company =>
            Assert.Equal(new RegionInfo(company.Country).ISOCurrencySymbol, company.Currency)
        );
    }

    [Fact(DisplayName = "Installing again changes nothing")]
    public async Task Installing_again_is_harmless()
    {
        await site.Services.GetRequiredService<Installer>().EnsureAsync();
        Assert.Equal(1L, await site.ScalarAsync("SELECT count(*) FROM pelto.release"));
    }

    [Fact(DisplayName = "A database of an earlier description is refused with what to do, rather than worked on half")]
    public async Task Earlier_hosts_are_told()
    {
        await site.ScalarAsync("ALTER TABLE erp.visit RENAME COLUMN purpose TO reason");
        try
        {
            var refused = await Assert.ThrowsAsync<HostException>(() => site.Services.GetRequiredService<Installer>().EnsureAsync());
            Assert.Equal(
                "This database holds an earlier Rigging suite 4.2: erp.visit has no purpose. Demo data is made anew with ./pelto reset.",
                refused.Message
            );
        }
        finally
        {
            await site.ScalarAsync("ALTER TABLE erp.visit RENAME COLUMN reason TO purpose");
        }
    }

    [Fact(DisplayName = "A database that another version of Pelto set up is refused with what to do, and nothing of it changes")]
    public async Task Other_versions_are_told()
    {
        await site.ScalarAsync("INSERT INTO pelto.migrations VALUES ('20991231000000_Later', '99')");
        try
        {
            var refused = await Assert.ThrowsAsync<HostException>(() => site.Services.GetRequiredService<Installer>().EnsureAsync());
            Assert.Equal(
                "Another version of Pelto set this database up, and this one cannot work with it. "
                    + "Start that version, or make the demo data anew with ./pelto reset.",
                refused.Message
            );
        }
        finally
        {
            await site.ScalarAsync("DELETE FROM pelto.migrations WHERE migration_id = '20991231000000_Later'");
        }
    }

    [Fact(DisplayName = "The migrations say what the model says")]
    public async Task Migrations_are_complete()
    {
        await using var context = await site.Services.GetRequiredService<IDbContextFactory<PeltoContext>>().CreateDbContextAsync();
        Assert.False(context.Database.HasPendingModelChanges());
    }

    [Fact(DisplayName = "The compiled model says what the model says")]
    public async Task Compiled_model_is_current()
    {
        await using var context = await site.Services.GetRequiredService<IDbContextFactory<PeltoContext>>().CreateDbContextAsync();
        var made = context.GetService<IDesignTimeModel>().Model;
        Assert.NotSame(made, context.Model);
        Assert.Equal(Tables(made), Tables(context.Model));

        static List<string> Tables(IModel model) =>
            [
                .. model
                    .GetRelationalModel()
                    .Tables.SelectMany(table =>
                        table
                            .Columns.Select(column => $"{table.Name}.{column.Name} {column.StoreType} {column.IsNullable}")
                            .Concat(table.Indexes.Select(index => $"{index.Name} {index.IsUnique} {index.Filter}"))
                            .Concat(table.ForeignKeyConstraints.Select(key => $"{key.Name} {key.OnDeleteAction}"))
                            .Append($"{table.PrimaryKey?.Name}")
                    )
                    .Order(StringComparer.Ordinal),
            ];
    }

    [Fact(DisplayName = "A host description that does not keep to its schema is refused with file and place")]
    public void Broken_hosts_are_refused()
    {
        var folder = Directory.CreateTempSubdirectory("pelto").FullName;
        try
        {
            var version = Directory.CreateDirectory(Path.Combine(folder, "broken", "1.0")).FullName;
            foreach (var schema in Directory.GetFiles(Path.Combine(TemplateDatabase.HostFolder, "..", ".."), "*.schema.json"))
                File.Copy(schema, Path.Combine(folder, Path.GetFileName(schema)));
            File.WriteAllText(
                Path.Combine(version, "host.json"),
                """{"code": "Broken!", "label": "x", "version": "1.0", "roles": [{"code": "a", "label": "A"}], "recordTypes": ["boat"]}"""
            );
            Assert.Contains("/code", Assert.Throws<HostException>(() => new HostReader(version).Read()).Message, StringComparison.Ordinal);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact(DisplayName = "No C# class stands for a record type: the description alone makes it")]
    public void Record_types_are_described() =>
        Assert.All(site.Catalogues.Live.RecordTypes, type =>
            Assert.DoesNotContain(typeof(Catalogue).Assembly.GetTypes().Concat(typeof(Site).Assembly.GetTypes()), known =>
                string.Equals(known.Name, type.Code.Replace("_", "", StringComparison.Ordinal), StringComparison.OrdinalIgnoreCase)
            )
        );
}
