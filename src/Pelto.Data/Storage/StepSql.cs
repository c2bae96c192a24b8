using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Microsoft.EntityFrameworkCore.Migrations.Operations;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;
using Pelto.Data.Definitions;

namespace Pelto.Data.Storage;

/// <summary>Turns plan steps into SQL by way of the provider's generator; what that lacks is written here.</summary>
public sealed class StepSql(PeltoContext context)
{
    /// <summary>The statements that carry a step out.</summary>
    public IReadOnlyList<string> For(PlanStep step) =>
        [.. context.GetService<IMigrationsSqlGenerator>().Generate([.. Operations(step)]).Select(command => command.CommandText.Trim())];

    private static IEnumerable<MigrationOperation> Operations(PlanStep step) => step switch
    {
        CreateTable create => [Table(create.Part)],
        AddColumn add => [Column(add.Field)],
        DropCheck drop => [new DropCheckConstraintOperation { Schema = Sql.Added, Table = drop.Field.Part.Table, Name = drop.Name }],
        AddCheck check => [Raw($"ALTER TABLE {Named(check.Field)} ADD CONSTRAINT {Sql.Name(check.Name)} CHECK ({check.Check.Sql}) NOT VALID;")],
        ValidateCheck validate => [Raw($"ALTER TABLE {Named(validate.Field)} VALIDATE CONSTRAINT {Sql.Name(validate.Name)};")],
        _ => throw new InvalidOperationException($"A step of type {step.GetType().Name} has no SQL."),
    };

    // The row beside a host row carries its key, and goes when that goes.
    private static CreateTableOperation Table(Part part)
    {
        var table = new CreateTableOperation { Schema = Sql.Added, Name = part.Table, Comment = $"What the site added to erp.{part.Table}." };
        table.Columns.Add(new AddColumnOperation { Schema = Sql.Added, Table = part.Table, Name = "id", ClrType = typeof(long), ColumnType = "bigint" });
        table.PrimaryKey = new AddPrimaryKeyOperation { Schema = Sql.Added, Table = part.Table, Name = part.Table + "_pkey", Columns = ["id"] };
        table.ForeignKeys.Add(new AddForeignKeyOperation
        {
            Schema = Sql.Added,
            Table = part.Table,
            Name = part.Table + "_id_fkey",
            Columns = ["id"],
            PrincipalSchema = Sql.Erp,
            PrincipalTable = part.Table,
            PrincipalColumns = ["id"],
            OnDelete = ReferentialAction.Cascade,
        });
        return table;
    }

    private static AddColumnOperation Column(Field field) => new()
    {
        Schema = Sql.Added,
        Table = field.Part.Table,
        Name = field.Code,
        ClrType = field.Kind.ClrType(),
        ColumnType = field.Kind.SqlType(),
        IsNullable = true,
        Comment = FactsReader.CommentFor(field),
    };

    private static SqlOperation Raw(string sql) => new() { Sql = sql };

    private static string Named(Field field) => Sql.Table(Sql.Added, field.Part.Table);
}
