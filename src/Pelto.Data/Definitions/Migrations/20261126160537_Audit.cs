using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Audit : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // What stood in the tables change and showing is taken over by EarlierRecords, which then drops them: entries are tied to each other, which SQL here cannot do.
            migrationBuilder.AddColumn<Guid>(
                name: "person_id",
                schema: "pelto",
                table: "publishing",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "started_from",
                schema: "pelto",
                table: "publishing",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "audit",
                schema: "pelto",
                columns: table => new
                {
                    number = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    person = table.Column<Guid>(type: "uuid", nullable: true),
                    by = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    what = table.Column<string>(type: "text", nullable: false),
                    before = table.Column<string>(type: "text", nullable: true),
                    after = table.Column<string>(type: "text", nullable: true),
                    record_type = table.Column<string>(type: "text", nullable: true),
                    record = table.Column<long>(type: "bigint", nullable: true),
                    line = table.Column<long>(type: "bigint", nullable: true),
                    hash = table.Column<string>(type: "text", nullable: false),
                    seal = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_audit", x => x.number);
                });

            migrationBuilder.CreateIndex(
                name: "ix_audit_at",
                schema: "pelto",
                table: "audit",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_audit_record_type_record_number",
                schema: "pelto",
                table: "audit",
                columns: new[] { "record_type", "record", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_audit_subject_number",
                schema: "pelto",
                table: "audit",
                columns: new[] { "subject", "number" });

            migrationBuilder.Sql(
                """
                CREATE FUNCTION pelto.audit_only_grows() RETURNS trigger LANGUAGE plpgsql AS $$
                BEGIN
                  RAISE EXCEPTION 'the audit only grows' USING ERRCODE = 'insufficient_privilege';
                END $$;
                CREATE TRIGGER only_grows BEFORE UPDATE OR DELETE OR TRUNCATE ON pelto.audit FOR EACH STATEMENT EXECUTE FUNCTION pelto.audit_only_grows();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "audit",
                schema: "pelto");

            migrationBuilder.Sql("DROP FUNCTION pelto.audit_only_grows()");

            migrationBuilder.DropColumn(
                name: "person_id",
                schema: "pelto",
                table: "publishing");

            migrationBuilder.DropColumn(
                name: "started_from",
                schema: "pelto",
                table: "publishing");
        }
    }
}
