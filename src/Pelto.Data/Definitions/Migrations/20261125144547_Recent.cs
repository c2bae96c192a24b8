using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Recent : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "recent",
                schema: "pelto",
                columns: table => new
                {
                    person = table.Column<Guid>(type: "uuid", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    record = table.Column<long>(type: "bigint", nullable: false),
                    used_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_recent", x => new { x.person, x.record_type, x.record });
                });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "recent",
                schema: "pelto");
        }
    }
}
