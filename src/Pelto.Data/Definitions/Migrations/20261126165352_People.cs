using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class People : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "ends_at",
                schema: "pelto",
                table: "token",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: new DateTimeOffset(new DateTime(1, 1, 1, 0, 0, 0, 0, DateTimeKind.Unspecified), new TimeSpan(0, 0, 0, 0, 0)));

            migrationBuilder.AddColumn<string>(
                name: "name",
                schema: "pelto",
                table: "token",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "sets_up",
                schema: "pelto",
                table: "token",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string[]>(
                name: "types",
                schema: "pelto",
                table: "token",
                type: "text[]",
                nullable: false,
                defaultValue: new string[0]);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "used_at",
                schema: "pelto",
                table: "token",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "writes",
                schema: "pelto",
                table: "token",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "disabled",
                schema: "pelto",
                table: "person",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "password_set_at",
                schema: "pelto",
                table: "person",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "totp_key",
                schema: "pelto",
                table: "person",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "totp_step",
                schema: "pelto",
                table: "person",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateTable(
                name: "failure",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    name = table.Column<string>(type: "text", nullable: false),
                    sender = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_failure", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "invitation",
                schema: "pelto",
                columns: table => new
                {
                    digest = table.Column<string>(type: "text", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    ends_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_invitation", x => x.digest);
                    table.ForeignKey(
                        name: "fk_invitation_person_person_id",
                        column: x => x.person_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "proposal",
                schema: "pelto",
                columns: table => new
                {
                    draft_version = table.Column<long>(type: "bigint", nullable: false),
                    comment = table.Column<string>(type: "text", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_proposal", x => x.draft_version);
                });

            migrationBuilder.CreateTable(
                name: "recovery_code",
                schema: "pelto",
                columns: table => new
                {
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    digest = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_recovery_code", x => new { x.person_id, x.digest });
                    table.ForeignKey(
                        name: "fk_recovery_code_person_person_id",
                        column: x => x.person_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "session",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    began_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    seen_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    confirmed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    agent = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_session", x => x.id);
                    table.ForeignKey(
                        name: "fk_session_person_person_id",
                        column: x => x.person_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "work_right",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    audience = table.Column<string>(type: "text", nullable: false),
                    work = table.Column<string>(type: "text", nullable: false),
                    types = table.Column<string[]>(type: "text[]", nullable: false),
                    companies = table.Column<string[]>(type: "text[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_work_right", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_failure_name_at",
                schema: "pelto",
                table: "failure",
                columns: new[] { "name", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_invitation_person_id",
                schema: "pelto",
                table: "invitation",
                column: "person_id");

            migrationBuilder.CreateIndex(
                name: "ix_session_person_id",
                schema: "pelto",
                table: "session",
                column: "person_id");

            // Tokens from before they had limits go on for three months; everybody arranges for themselves until somebody says otherwise; and who arranged for others by the definition has the right from now on.
            migrationBuilder.Sql(
                """
                UPDATE pelto.token SET name = 'From before', writes = true, sets_up = true, ends_at = now() + interval '90 days';
                INSERT INTO pelto.work_right (id, audience, work, types, companies) VALUES (gen_random_uuid(), 'everyone', 'arrange_own', '{}', '{}');
                INSERT INTO pelto.work_right (id, audience, work, types, companies)
                    SELECT gen_random_uuid(), whom, 'arrange', '{}', '{}' FROM pelto.release, jsonb_array_elements_text(coalesce(definition::jsonb -> 'arrangers', '[]')) whom WHERE number = (SELECT max(number) FROM pelto.release);
                UPDATE pelto.release SET definition = (definition::jsonb - 'arrangers')::text WHERE definition::jsonb ? 'arrangers';
                UPDATE pelto.draft SET definition = (definition::jsonb - 'arrangers')::text WHERE definition::jsonb ? 'arrangers';
                UPDATE pelto.publishing SET definition = (definition::jsonb - 'arrangers')::text WHERE definition::jsonb ? 'arrangers';
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "failure",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "invitation",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "proposal",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "recovery_code",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "session",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "work_right",
                schema: "pelto");

            migrationBuilder.DropColumn(
                name: "ends_at",
                schema: "pelto",
                table: "token");

            migrationBuilder.DropColumn(
                name: "name",
                schema: "pelto",
                table: "token");

            migrationBuilder.DropColumn(
                name: "sets_up",
                schema: "pelto",
                table: "token");

            migrationBuilder.DropColumn(
                name: "types",
                schema: "pelto",
                table: "token");

            migrationBuilder.DropColumn(
                name: "used_at",
                schema: "pelto",
                table: "token");

            migrationBuilder.DropColumn(
                name: "writes",
                schema: "pelto",
                table: "token");

            migrationBuilder.DropColumn(
                name: "disabled",
                schema: "pelto",
                table: "person");

            migrationBuilder.DropColumn(
                name: "password_set_at",
                schema: "pelto",
                table: "person");

            migrationBuilder.DropColumn(
                name: "totp_key",
                schema: "pelto",
                table: "person");

            migrationBuilder.DropColumn(
                name: "totp_step",
                schema: "pelto",
                table: "person");
        }
    }
}
