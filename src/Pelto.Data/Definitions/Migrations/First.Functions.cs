using Microsoft.EntityFrameworkCore.Migrations;

namespace Pelto.Data.Definitions.Migrations;

public partial class First
{
    // The functions that triggers and indexes call, the right that everybody begins with, and how large columns are stored.
    private const string Functions = """
        CREATE EXTENSION IF NOT EXISTS unaccent SCHEMA public;
        CREATE EXTENSION IF NOT EXISTS pg_trgm SCHEMA public;

        -- How lists search and sort text: without accents, case and different ways to write the same letter.
        CREATE FUNCTION pelto.plain(text) RETURNS text LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$
            SELECT lower(public.unaccent('public.unaccent'::regdictionary, normalize($1, NFC)))
        $$;

        -- Notes a row that changed while its values are converted to another column.
        CREATE FUNCTION pelto.note_conversion() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            INSERT INTO pelto.conversion (table_name, column_name, row_id) VALUES (TG_TABLE_NAME, TG_ARGV[0], NEW.id);
            RETURN NULL;
        END $$;

        -- Keeps the table of several links as the column says.
        CREATE FUNCTION pelto.keep_links() RETURNS trigger LANGUAGE plpgsql AS $$
        DECLARE wanted bigint[];
        BEGIN
            EXECUTE format('SELECT ($1).%I', TG_ARGV[1]) USING NEW INTO wanted;
            EXECUTE format('DELETE FROM linked.%I WHERE owner = $1 AND NOT (target = ANY($2))', TG_ARGV[0])
                USING NEW.id, coalesce(wanted, '{}'::bigint[]);
            EXECUTE format(
                'INSERT INTO linked.%I AS l (owner, position, target) '
                'SELECT $1, min(u.o)::integer, u.t FROM unnest($2) WITH ORDINALITY AS u(t, o) GROUP BY u.t '
                'ON CONFLICT (owner, target) DO UPDATE SET position = excluded.position WHERE l.position <> excluded.position',
                TG_ARGV[0]
            ) USING NEW.id, wanted;
            RETURN NULL;
        END $$;

        -- Takes a target that was deleted out of the column that named it.
        CREATE FUNCTION pelto.release_link() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            EXECUTE format(
                'UPDATE added.%1$I SET %2$I = nullif(array_remove(%2$I, $1), ''{}'') WHERE id = $2 AND $1 = ANY(%2$I)',
                TG_ARGV[0], TG_ARGV[1]
            ) USING OLD.target, OLD.owner;
            RETURN NULL;
        END $$;

        CREATE FUNCTION pelto.audit_only_grows() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            RAISE EXCEPTION 'the audit only grows' USING ERRCODE = 'insufficient_privilege';
        END $$;
        CREATE TRIGGER only_grows BEFORE UPDATE OR DELETE OR TRUNCATE ON pelto.audit
            FOR EACH STATEMENT EXECUTE FUNCTION pelto.audit_only_grows();

        INSERT INTO pelto.admin_right (id, audience, work, types, companies)
            VALUES (gen_random_uuid(), 'everyone', 'arrange_own', '{}', '{}');

        -- What a job stores for undoing is written once and hardly ever read: to compress it took a fifth of the job's time.
        ALTER TABLE pelto.job_batch ALTER ids SET STORAGE EXTERNAL, ALTER befores SET STORAGE EXTERNAL;
        """;

    private const string WithoutFunctions = """
        DROP FUNCTION IF EXISTS pelto.plain(text), pelto.note_conversion(), pelto.keep_links(), pelto.release_link() CASCADE;
        DROP FUNCTION IF EXISTS pelto.audit_only_grows() CASCADE;
        """;
}
