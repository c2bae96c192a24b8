using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Plain : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Texts as they are looked for: small letters without accents. Both extensions come with PostgreSQL, and the owner of a database may make them.
            migrationBuilder.Sql("""
                CREATE EXTENSION IF NOT EXISTS unaccent SCHEMA public;
                CREATE EXTENSION IF NOT EXISTS pg_trgm SCHEMA public;
                CREATE FUNCTION pelto.plain(text) RETURNS text LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$
                    SELECT lower(public.unaccent('public.unaccent'::regdictionary, normalize($1, NFC)))
                $$
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("DROP FUNCTION pelto.plain(text) CASCADE");
        }
    }
}
