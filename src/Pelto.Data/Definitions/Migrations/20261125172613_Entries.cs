using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Entries : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "entry",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    record = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    sent_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    form = table.Column<string>(type: "text", nullable: false),
                    release = table.Column<int>(type: "integer", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    network = table.Column<string>(type: "text", nullable: false),
                    agent = table.Column<string>(type: "text", nullable: false),
                    decided_by = table.Column<string>(type: "text", nullable: false),
                    decided_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    record_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_entry", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_entry_network_sent_at",
                schema: "pelto",
                table: "entry",
                columns: new[] { "network", "sent_at" });

            migrationBuilder.CreateIndex(
                name: "ix_entry_record_type_record_id",
                schema: "pelto",
                table: "entry",
                columns: new[] { "record_type", "record_id" });

            migrationBuilder.CreateIndex(
                name: "ix_entry_record_type_state_sent_at",
                schema: "pelto",
                table: "entry",
                columns: new[] { "record_type", "state", "sent_at" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "entry",
                schema: "pelto");
        }
    }
}
