using System.Text;
using Pelto.Data.Records;

namespace Pelto.Data.Storage;

/// <summary>The tables of a host that comes with Pelto, made from its description: schema <c>erp</c>.</summary>
internal static class BaseTables
{
    /// <summary>Makes schemas, tables, counters and indexes, all in one transaction.</summary>
    public static async Task CreateAsync(Catalogue catalogue, NpgsqlConnection connection, CancellationToken cancel)
    {
        var sql = new StringBuilder("CREATE SCHEMA IF NOT EXISTS erp; CREATE SCHEMA IF NOT EXISTS added;\n");
        foreach (var part in catalogue.RecordTypes.SelectMany(type => type.Parts))
            AppendTable(sql, part);
        foreach (var field in catalogue.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.Fields))
            AppendLinkAndNumber(sql, field);
        await connection.Command(sql.ToString()).RunAsync(cancel);
    }

    /// <summary>The SQL of the table of a part of a user-defined record type, with its counters.</summary>
    public static string Create(Part part)
    {
        var sql = new StringBuilder($"CREATE SCHEMA IF NOT EXISTS {Sql.UserDefined};\n");
        AppendTable(sql, part);
        foreach (var field in part.Fields.Where(field => !field.IsAdded))
            AppendLinkAndNumber(sql, field);
        if (!part.IsLines)
            sql.Append(PickSql.Indexes(part.RecordType));
        return sql.ToString();
    }

    /// <summary>
    /// The SQL that gives a table a field's columns, if it has none yet. Rows on file get the default of a field that is required;
    /// none is looked through.
    /// </summary>
    public static IEnumerable<string> AddColumns(Field field)
    {
        var start = field.StartsWith(DateOnly.FromDateTime(DateTime.Today));
        for (var at = 0; at < field.Columns.Count; at++)
        {
            var column = field.Columns[at];
            var filled =
                field.Required && field.Kind.ToColumn(start, at) is { } value
                    ? $" NOT NULL DEFAULT {Columns.Literal(column.Type, value)}"
                    : "";
            yield return $"ALTER TABLE {Sql.Base(field.Part)} ADD COLUMN IF NOT EXISTS {Sql.Name(column.Name)} {column.Type.SqlType()}{filled};";
        }

        foreach (var check in field.Kind.Checks(field.ColumnNames()))
        {
            var name = $"{field.Code}_{check.Name}";
            yield return $"DO $$ BEGIN IF NOT EXISTS (SELECT FROM pg_constraint WHERE conrelid = '{Sql.Base(field.Part)}'::regclass AND conname = '{name}') THEN ALTER TABLE {Sql.Base(field.Part)} ADD CONSTRAINT {Sql.Name(name)} CHECK ({check.Sql}) NOT VALID; END IF; END $$;";
        }
    }

    private static IEnumerable<string> CompaniesOf(RecordType type) =>
        type.Header.Find(RecordTypeDefinition.CompanyCode)?.Kind.Choices?.All.Select(choice => choice.Code) ?? [];

    private static void AppendTable(StringBuilder sql, Part part)
    {
        var columns = new List<string> { $"id bigint CONSTRAINT {Sql.Name(part.Table + "_pkey")} PRIMARY KEY" };
        if (part.IsLines)
        {
            columns.Add(
                $"parent bigint NOT NULL CONSTRAINT {Sql.Name(part.Table + "_parent_fkey")} REFERENCES {Sql.Base(part.RecordType.Header)} ON DELETE CASCADE"
            );
            columns.Add("position integer NOT NULL");
        }

        foreach (var field in part.Fields.Where(field => !field.IsAdded))
        {
            var checks = field
                .Kind.Checks(field.ColumnNames())
                .Select(check => $"CONSTRAINT {Sql.Name($"{field.Code}_{check.Name}")} CHECK ({check.Sql})");
            var unique =
                !part.IsLines && field == part.RecordType.Identifier
                    ? $" CONSTRAINT {Sql.Name($"{part.Table}_{field.Code}_unique")} UNIQUE"
                    : "";
            foreach (var column in field.Columns)
                columns.Add(
                    $"{Sql.Name(column.Name)} {column.Type.SqlType()}{(field.Required ? " NOT NULL" : "")}{(column.Suffix.Length == 0 ? unique : "")}"
                );
            columns.AddRange(checks);
        }

        sql.Append("CREATE SEQUENCE ").Append(RecordNumbers.IdSequence(part)).AppendLine(" CACHE 1;");
        sql.Append("CREATE TABLE ").Append(Sql.Base(part)).Append(" (").AppendJoin(", ", columns).AppendLine(");");
        sql.Append("ALTER TABLE ")
            .Append(Sql.Base(part))
            .Append(" ALTER COLUMN id SET DEFAULT nextval('")
            .Append(RecordNumbers.IdSequence(part))
            .AppendLine("');");
        if (part.IsLines)
            sql.Append("CREATE INDEX ON ").Append(Sql.Base(part)).AppendLine(" (parent, position);");
    }

    // After all tables, since links may go round in circles.
    private static void AppendLinkAndNumber(StringBuilder sql, Field field)
    {
        if ((field.Kind.IsOneLink ? field.Target!.Header : field.LineOf) is { } target)
        {
            var (table, column) = (Sql.Base(field.Part), Sql.Column(field));
            sql.Append("ALTER TABLE ").Append(table).Append(" ADD CONSTRAINT ").Append(Sql.Name($"{field.Part.Table}_{field.Code}_fkey"));
            sql.Append(" FOREIGN KEY (").Append(column).Append(") REFERENCES ").Append(Sql.Base(target)).AppendLine(";");
            sql.Append("CREATE INDEX ON ").Append(table).Append(" (").Append(column).AppendLine(");");
        }

        if (field.Numbering is { Gapless: true, PerCompany: true })
            sql.Append("CREATE TABLE ")
                .Append(RecordNumbers.Counter(field))
                .AppendLine(" (year integer, company text, last bigint NOT NULL, PRIMARY KEY (year, company));");
        else if (field.Numbering is { PerCompany: true } each)
            foreach (var company in CompaniesOf(field.Part.RecordType))
                sql.Append("CREATE SEQUENCE ")
                    .Append(RecordNumbers.Sequence(field, company))
                    .Append(" START ")
                    .Append(each.Start)
                    .AppendLine(";");
        else if (field.Numbering is { Gapless: true })
            sql.Append("CREATE TABLE ")
                .Append(RecordNumbers.Counter(field))
                .AppendLine(" (year integer PRIMARY KEY, last bigint NOT NULL);");
        else if (field.Numbering is { } pattern)
            sql.Append("CREATE SEQUENCE ").Append(RecordNumbers.Sequence(field)).Append(" START ").Append(pattern.Start).AppendLine(";");
        if (field == field.Part.RecordType.Name && field.Kind is { IsSearched: true, IsShort: true })
            sql.Append("CREATE INDEX ON ").Append(Sql.Base(field.Part)).Append(" (").Append(Sql.Column(field)).AppendLine(");");
    }
}
