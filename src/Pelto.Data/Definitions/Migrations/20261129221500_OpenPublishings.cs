using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class OpenPublishings : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateIndex(
                name: "ix_publishing_started_at",
                schema: "pelto",
                table: "publishing",
                column: "started_at",
                filter: "state IN ('Preparing', 'Settling') OR storage_before IS NOT NULL");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_publishing_started_at",
                schema: "pelto",
                table: "publishing");
        }
    }
}
