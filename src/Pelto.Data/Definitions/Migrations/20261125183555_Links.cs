using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class Links : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Keeps the table of what several links point to as the column says, touching only what changed.
            migrationBuilder.Sql("""
                CREATE FUNCTION pelto.keep_links() RETURNS trigger LANGUAGE plpgsql AS $$
                DECLARE wanted bigint[];
                BEGIN
                    EXECUTE format('SELECT ($1).%I', TG_ARGV[1]) USING NEW INTO wanted;
                    EXECUTE format('DELETE FROM linked.%I WHERE owner = $1 AND NOT (target = ANY($2))', TG_ARGV[0]) USING NEW.id, coalesce(wanted, '{}'::bigint[]);
                    EXECUTE format('INSERT INTO linked.%I AS l (owner, position, target) SELECT $1, min(u.o)::integer, u.t FROM unnest($2) WITH ORDINALITY AS u(t, o) GROUP BY u.t ON CONFLICT (owner, target) DO UPDATE SET position = excluded.position WHERE l.position <> excluded.position', TG_ARGV[0]) USING NEW.id, wanted;
                    RETURN NULL;
                END $$
                """);

            // Takes a target that was deleted out of the column that named it.
            migrationBuilder.Sql("""
                CREATE FUNCTION pelto.release_link() RETURNS trigger LANGUAGE plpgsql AS $$
                BEGIN
                    EXECUTE format('UPDATE added.%1$I SET %2$I = nullif(array_remove(%2$I, $1), ''{}'') WHERE id = $2 AND $1 = ANY(%2$I)', TG_ARGV[0], TG_ARGV[1]) USING OLD.target, OLD.owner;
                    RETURN NULL;
                END $$
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) => migrationBuilder.Sql("DROP FUNCTION pelto.keep_links(), pelto.release_link()");
    }
}
