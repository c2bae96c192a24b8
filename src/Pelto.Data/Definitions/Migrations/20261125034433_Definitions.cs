using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Definitions : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "language",
                schema: "pelto",
                table: "person",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "zone",
                schema: "pelto",
                table: "person",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "carry",
                schema: "pelto",
                columns: table => new
                {
                    number = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    table_name = table.Column<string>(type: "text", nullable: false),
                    column_name = table.Column<string>(type: "text", nullable: false),
                    row_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_carry", x => x.number);
                });

            migrationBuilder.CreateTable(
                name: "change",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    element = table.Column<string>(type: "text", nullable: false),
                    what = table.Column<string>(type: "text", nullable: false),
                    before = table.Column<string>(type: "text", nullable: true),
                    after = table.Column<string>(type: "text", nullable: true),
                    changed_by = table.Column<string>(type: "text", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_change", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "file",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    media_type = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false),
                    uploaded_by = table.Column<Guid>(type: "uuid", nullable: false),
                    uploaded_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    kept = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_file", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "job",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    work = table.Column<string>(type: "text", nullable: false),
                    field = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: true),
                    to = table.Column<string>(type: "text", nullable: true),
                    says = table.Column<string>(type: "text", nullable: false),
                    release = table.Column<int>(type: "integer", nullable: false),
                    started_by = table.Column<string>(type: "text", nullable: false),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    reached = table.Column<long>(type: "bigint", nullable: false),
                    looked = table.Column<long>(type: "bigint", nullable: false),
                    total = table.Column<long>(type: "bigint", nullable: false),
                    changed = table.Column<long>(type: "bigint", nullable: false),
                    saying = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "saved_data",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    field = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    part = table.Column<string>(type: "text", nullable: false),
                    definition = table.Column<string>(type: "text", nullable: false),
                    csv = table.Column<string>(type: "text", nullable: false),
                    count = table.Column<long>(type: "bigint", nullable: false),
                    saved_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_saved_data", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "showing",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    field = table.Column<string>(type: "text", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    record = table.Column<long>(type: "bigint", nullable: false),
                    line = table.Column<long>(type: "bigint", nullable: true),
                    shown_to = table.Column<string>(type: "text", nullable: false),
                    shown_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_showing", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "job_batch",
                schema: "pelto",
                columns: table => new
                {
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    ids = table.Column<long[]>(type: "bigint[]", nullable: false),
                    befores = table.Column<string[]>(type: "text[]", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job_batch", x => new { x.job_id, x.number });
                    table.ForeignKey(
                        name: "fk_job_batch_job_job_id",
                        column: x => x.job_id,
                        principalSchema: "pelto",
                        principalTable: "job",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_carry_table_name_column_name",
                schema: "pelto",
                table: "carry",
                columns: new[] { "table_name", "column_name" });

            migrationBuilder.CreateIndex(
                name: "ix_change_element",
                schema: "pelto",
                table: "change",
                column: "element");

            migrationBuilder.CreateIndex(
                name: "ix_showing_field",
                schema: "pelto",
                table: "showing",
                column: "field");

            // Writes down which rows changed in a column whose values are being carried to another one.
            migrationBuilder.Sql("""
                CREATE FUNCTION pelto.note_carry() RETURNS trigger LANGUAGE plpgsql AS $$
                BEGIN
                    INSERT INTO pelto.carry (table_name, column_name, row_id) VALUES (TG_TABLE_NAME, TG_ARGV[0], NEW.id);
                    RETURN NULL;
                END $$
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "carry",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "change",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "file",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "job_batch",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "saved_data",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "showing",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "job",
                schema: "pelto");

            migrationBuilder.DropColumn(
                name: "language",
                schema: "pelto",
                table: "person");

            migrationBuilder.DropColumn(
                name: "zone",
                schema: "pelto",
                table: "person");
        }
    }
}
