using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Own : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "own",
                schema: "pelto",
                columns: table => new
                {
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    operations = table.Column<string>(type: "text", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_own", x => new { x.person_id, x.record_type });
                    table.ForeignKey(
                        name: "fk_own_person_person_id",
                        column: x => x.person_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "own",
                schema: "pelto");
        }
    }
}
