using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Microsoft.EntityFrameworkCore.Migrations.Operations;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;
using Pelto.Data.Database;
using Pelto.Data.Definitions;
using Pelto.Data.Records;

namespace Pelto.Data.Storage;

/// <summary>Turns plan steps into SQL by way of the provider's generator; what that lacks is written here.</summary>
public sealed class StepSql(IDbContextFactory<PeltoContext> contexts)
{
    /// <summary>The statements that carry a step out.</summary>
    public IReadOnlyList<string> For(PlanStep step)
    {
        using var context = contexts.CreateDbContext();
        var commands = context.GetService<IMigrationsSqlGenerator>().Generate([.. Operations(step)]);
        return [.. commands.Select(command => command.CommandText.Trim())];
    }

    private static IEnumerable<MigrationOperation> Operations(PlanStep step) =>
        step switch
        {
            CreateOwnTable create => [Raw(BaseTables.Of(create.Part))],
            AddHostColumns add => [.. BaseTables.ColumnsOf(add.Field).Select(sql => Raw(sql))],
            LeaveHostColumn leave =>
            [
                .. Columns
                    .Quoted(leave.Field)
                    .Select(column => Raw($"ALTER TABLE {Sql.Base(leave.Field.Part)} ALTER COLUMN {column} DROP NOT NULL;")),
            ],
            CreateTable create => [Table(create.Part, create.Table)],
            AddColumn add => [Column(add.Field, add.Column)],
            DropCheck drop =>
            [
                new DropCheckConstraintOperation
                {
                    Schema = Sql.Added,
                    Table = drop.Field.Table,
                    Name = drop.Name,
                },
            ],
            AddCheck check =>
            [
                Raw($"ALTER TABLE {Named(check.Field)} ADD CONSTRAINT {Sql.Name(check.Name)} CHECK ({check.Check.Sql}) NOT VALID;"),
            ],
            AddUnique add =>
            [
                Raw($"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(Sql.Added, add.Name)};", alone: true),
                Raw(
                    $"CREATE UNIQUE INDEX CONCURRENTLY {Sql.Name(add.Name)} ON {Named(add.Field)} ({string.Join(", ", Columns.Quoted(add.Field))});",
                    alone: true
                ),
            ],
            DropUnique drop => [Raw($"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(Sql.Added, drop.Name)};", alone: true)],
            AddReference add =>
            [
                Raw(
                    $"ALTER TABLE {Named(add.Field)} ADD CONSTRAINT {Sql.Name(add.Name)} FOREIGN KEY ({Sql.Name(add.Field.Columns[0].Name)}) REFERENCES {Target(add.Field)}{(add.Clears ? " ON DELETE SET NULL" : "")} NOT VALID;"
                ),
            ],

            // Whoever saves locks what is pointed to first; in the other order both would wait for each other.
            DropReference drop =>
            [
                Raw(
                    $"DO $$ BEGIN LOCK TABLE {Target(drop.Field)} IN ACCESS EXCLUSIVE MODE; ALTER TABLE {Named(drop.Field)} DROP CONSTRAINT IF EXISTS {Sql.Name(drop.Name)}; END $$;"
                ),
            ],
            ValidateReference validate => [Raw($"ALTER TABLE {Named(validate.Field)} VALIDATE CONSTRAINT {Sql.Name(validate.Name)};")],
            AddLinkIndex add =>
            [
                Raw($"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(Sql.Added, add.Name)};", alone: true),
                Raw(
                    $"CREATE INDEX CONCURRENTLY {Sql.Name(add.Name)} ON {Named(add.Field)} ({Sql.Name(add.Field.Columns[0].Name)});",
                    alone: true
                ),
            ],
            AddFindIndex add =>
            [
                Raw($"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(FindColumns.SchemaOf(add), add.Name)};", alone: true),
                Raw(
                    $"CREATE INDEX CONCURRENTLY {Sql.Name(add.Name)} ON {Sql.Of(add.Columns[0])} USING gin ({FindColumns.TextOf(add)} gin_trgm_ops);",
                    alone: true
                ),
            ],
            AddListIndex add =>
            [
                Raw($"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(ListIndexSql.SchemaOf(add.Field), add.Name)};", alone: true),
                Raw(
                    $"CREATE INDEX CONCURRENTLY {Sql.Name(add.Name)} ON {ListIndexSql.Table(add.Field)} (({ListIndexSql.Over(add.Field)}));",
                    alone: true
                ),
                Raw($"ANALYZE {ListIndexSql.Table(add.Field)};"),
            ],
            KeepLinks keep => LinkTable(keep),
            ValidateLinks validate => [Raw($"ALTER TABLE {Sql.LinkTable(validate.Field)} VALIDATE CONSTRAINT {Sql.Name(validate.Name)};")],
            DropFindIndex drop => [Raw($"DROP INDEX CONCURRENTLY IF EXISTS {Sql.Table(drop.Schema, drop.Name)};", alone: true)],
            TrackColumn track => [Raw(Tracking(track.From))],
            FinishCarrying finish => [Raw(Untracking(finish.From))],
            CarryValues or SaveData => [],
            DropColumns drop =>
            [
                .. drop.Columns.Select(column =>
                    Raw(
                        $"DROP TRIGGER IF EXISTS {Sql.Name("links_" + column)} ON {Sql.Table(Sql.Added, drop.Table)}; DROP TABLE IF EXISTS {Sql.Table(Sql.Linked, KeepLinks.TableOf(drop.Part, column))};"
                    )
                ),
                Raw(
                    $"ALTER TABLE {Sql.Table(Sql.Added, drop.Table)} {string.Join(", ", drop.Columns.Select(column => $"DROP COLUMN IF EXISTS {Sql.Name(column)}"))};"
                ),
            ],
            ValidateCheck validate => [Raw($"ALTER TABLE {Named(validate.Field)} VALIDATE CONSTRAINT {Sql.Name(validate.Name)};")],
            _ => throw new InvalidOperationException($"A step of type {step.GetType().Name} has no SQL."),
        };

    // The column holds what people read and write, in order; from it, the database itself keeps the table, whose foreign keys hold what is
    // pointed to.
    // Whoever saves locks what is pointed to first; in the other order both would wait for each other.
    private static List<MigrationOperation> LinkTable(KeepLinks keep)
    {
        var (table, column) = (Sql.LinkTable(keep.Field), keep.Field.Columns[0].Name);
        return
        [
            Raw($"CREATE SCHEMA IF NOT EXISTS {Sql.Linked};"),
            Raw(
                $"CREATE TABLE IF NOT EXISTS {table} (owner bigint NOT NULL REFERENCES {Named(keep.Field)} ON DELETE CASCADE, position integer NOT NULL, target bigint NOT NULL, PRIMARY KEY (owner, target));"
            ),
            Raw($"CREATE INDEX IF NOT EXISTS {Sql.Name(keep.Table + "_target")} ON {table} (target);"),
            Raw(
                $"""
                DO $$ DECLARE other text; BEGIN
                  FOR other IN SELECT conname FROM pg_constraint WHERE conrelid = '{table.Replace(
                    "'",
                    "''",
                    StringComparison.Ordinal
                )}'::regclass AND contype = 'f' AND conname LIKE 'target\_%' LOOP
                    LOCK TABLE {Target(keep.Field)} IN ACCESS EXCLUSIVE MODE;
                    EXECUTE format('ALTER TABLE {table} DROP CONSTRAINT %I', other);
                  END LOOP;
                  ALTER TABLE {table} ADD CONSTRAINT {Sql.Name(keep.Name)} FOREIGN KEY (target) REFERENCES {Target(keep.Field)}{(
                    keep.Clears ? " ON DELETE CASCADE" : ""
                )} NOT VALID;
                END $$;
                """
            ),
            Raw(
                $"CREATE OR REPLACE TRIGGER {Sql.Name("links_" + column)} AFTER INSERT OR UPDATE OF {Sql.Name(column)} ON {Named(keep.Field)} FOR EACH ROW EXECUTE FUNCTION pelto.keep_links('{keep.Table}', '{column}');"
            ),
            Raw(
                $"CREATE OR REPLACE TRIGGER release AFTER DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION pelto.release_link('{keep.Field.Table}', '{column}');"
            ),
        ];
    }

    // The row beside a host row carries its key, and goes when that goes; a row of a further table hangs on the first one's in the same
    // way.
    private static CreateTableOperation Table(Part part, string name)
    {
        var isFirst = name == part.Table;
        var table = new CreateTableOperation
        {
            Schema = Sql.Added,
            Name = name,
            Comment = $"What the site added to {Sql.SchemaOf(part.RecordType)}.{part.Table}{(isFirst ? "" : ", further columns")}.",
        };
        table.Columns.Add(
            new AddColumnOperation
            {
                Schema = Sql.Added,
                Table = name,
                Name = "id",
                ClrType = typeof(long),
                ColumnType = "bigint",
            }
        );
        if (isFirst)
            table.Columns.Add(
                new AddColumnOperation
                {
                    Schema = Sql.Added,
                    Table = name,
                    Name = Sql.Origins,
                    ClrType = typeof(string),
                    ColumnType = "text",
                    IsNullable = true,
                    Comment = "Where values come from that were filled and may be changed.",
                }
            );
        table.PrimaryKey = new AddPrimaryKeyOperation
        {
            Schema = Sql.Added,
            Table = name,
            Name = name + "_pkey",
            Columns = ["id"],
        };
        table.ForeignKeys.Add(
            new AddForeignKeyOperation
            {
                Schema = Sql.Added,
                Table = name,
                Name = name + "_id_fkey",
                Columns = ["id"],
                PrincipalSchema = isFirst ? Sql.SchemaOf(part.RecordType) : Sql.Added,
                PrincipalTable = part.Table,
                PrincipalColumns = ["id"],
                OnDelete = ReferentialAction.Cascade,
            }
        );
        return table;
    }

    private static AddColumnOperation Column(Field field, FieldColumn column) =>
        new()
        {
            Schema = Sql.Added,
            Table = field.Table,
            Name = column.Name,
            ClrType = column.Type.ClrType(),
            ColumnType = column.Type.SqlType(),
            IsNullable = true,
            Comment = FactsReader.CommentFor(field),
        };

    private static string Untracking(Field field) => $"DROP TRIGGER IF EXISTS {Sql.Name(Trigger(field))} ON {Named(field)};";

    /// <summary>What the names of triggers begin with that write changes of a column down.</summary>
    public const string TrackingPrefix = "track_";

    private static string Trigger(Field field) => TrackingPrefix + field.Columns[0].Name;

    private static string Tracking(Field field)
    {
        var columns = string.Join(", ", Columns.Quoted(field));
        return $"CREATE OR REPLACE TRIGGER {Sql.Name(Trigger(field))} AFTER INSERT OR UPDATE OF {columns} ON {Named(field)} FOR EACH ROW EXECUTE FUNCTION pelto.note_carry('{field.Columns[0].Name}');";
    }

    private static SqlOperation Raw(string sql, bool alone = false) => new() { Sql = sql, SuppressTransaction = alone };

    private static string Target(Field field) => Sql.Base(field.Target!.Header);

    private static string Named(Field field) => Sql.Of(field);
}
