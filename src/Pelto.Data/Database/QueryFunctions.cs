namespace Pelto.Data.Database;

/// <summary>
/// Which functions of the database queries may call. All others are refused when a query is looked at, and taken from the role that queries
/// run as.
/// </summary>
/// <remarks>
/// A function that PostgreSQL declares immutable gives the same for the same arguments for ever, so it reads no table and tells nothing of
/// the database (PostgreSQL 15, section 38.7).
/// Of those that are only stable, some read tables by a name in a text (<c>table_to_xml</c>), and some tell what is defined
/// (<c>pg_get_viewdef</c>); so each of them that may be called is named here.
/// </remarks>
internal static class QueryFunctions
{
    // The clock, and conversions that depend on language or time zone, which is why they are not immutable.
    private static readonly string[] Stable =
    [
        "age",
        "array_to_json",
        "array_to_string",
        "concat",
        "concat_ws",
        "current_user",
        "date_part",
        "date_trunc",
        "extract",
        "format",
        "generate_series",
        "json_build_array",
        "json_build_object",
        "json_to_record",
        "json_to_recordset",
        "jsonb_build_array",
        "jsonb_build_object",
        "jsonb_to_record",
        "jsonb_to_recordset",
        "length",
        "make_timestamptz",
        "now",
        "overlaps",
        "phraseto_tsquery",
        "plainto_tsquery",
        "quote_literal",
        "quote_nullable",
        "row_to_json",
        "statement_timestamp",
        "timestamptz",
        "timezone",
        "to_char",
        "to_date",
        "to_json",
        "to_jsonb",
        "to_number",
        "to_timestamp",
        "to_tsquery",
        "to_tsvector",
        "transaction_timestamp",
        "websearch_to_tsquery",
        // The driver asks for it when it signs in.
        "version",
    ];

    // Names of things of the database are looked up by casts to these.
    private const string Registers =
        "'regclass', 'regproc', 'regprocedure', 'regoper', 'regoperator', 'regtype', "
        + "'regrole', 'regnamespace', 'regconfig', 'regdictionary', 'regcollation'";

    /// <summary>
    /// What holds, in SQL, for a function <c>p</c> of <c>pg_proc</c> that queries may call: those of Pelto's formulas; of the database
    /// itself what is immutable, an operator, a cast of values, or named; of extensions what is immutable.
    /// </summary>
    public static string Allowed { get; } =
        $"""
            (p.pronamespace = to_regnamespace('{Core.Formulas.Functions.Schema}')
             OR (p.pronamespace = 'pg_catalog'::regnamespace AND (p.provolatile = 'i' OR (p.provolatile = 's' AND (p.proname IN ({string.Join(
                ", ",
                Stable.Select(name => $"'{name}'")
            )})
                 OR EXISTS (SELECT FROM pg_operator o WHERE o.oprcode = p.oid) OR EXISTS (SELECT FROM pg_cast c WHERE c.castfunc = p.oid AND c.casttarget NOT IN (SELECT t.oid FROM pg_type t WHERE t.typname IN ({Registers})))))))
             OR (p.provolatile = 'i' AND NOT p.prosecdef AND EXISTS (SELECT FROM pg_depend d JOIN pg_extension e ON e.oid = d.refobjid WHERE d.classid = 'pg_proc'::regclass AND d.objid = p.oid AND d.refclassid = 'pg_extension'::regclass AND d.deptype = 'e')))
            """;
}
