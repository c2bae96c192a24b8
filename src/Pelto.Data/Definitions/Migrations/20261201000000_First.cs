using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Pelto.Data.Definitions.Migrations
{
    /// <inheritdoc />
    public partial class First : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.EnsureSchema(
                name: "pelto");

            migrationBuilder.CreateSequence(
                name: "draft_version",
                schema: "pelto");

            migrationBuilder.CreateTable(
                name: "admin_right",
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
                    table.PrimaryKey("pk_admin_right", x => x.id);
                });

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

            migrationBuilder.CreateTable(
                name: "conversion",
                schema: "pelto",
                columns: table => new
                {
                    number = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    table_name = table.Column<string>(type: "text", nullable: false),
                    column_name = table.Column<string>(type: "text", nullable: false),
                    row_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_conversion", x => x.number);
                });

            migrationBuilder.CreateTable(
                name: "deleted",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    record = table.Column<string>(type: "text", nullable: false),
                    deleted_by = table.Column<Guid>(type: "uuid", nullable: false),
                    deleted_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deleted", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "draft",
                schema: "pelto",
                columns: table => new
                {
                    version = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    definition = table.Column<string>(type: "text", nullable: false),
                    what = table.Column<string>(type: "text", nullable: false),
                    changed_by = table.Column<string>(type: "text", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_draft", x => x.version);
                });

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
                name: "file",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    media_type = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false),
                    uploaded_by = table.Column<Guid>(type: "uuid", nullable: false),
                    uploaded_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    stored = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_file", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "job",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    work = table.Column<string>(type: "text", nullable: false),
                    field = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: true),
                    to = table.Column<string>(type: "text", nullable: true),
                    description = table.Column<string>(type: "text", nullable: false),
                    release = table.Column<int>(type: "integer", nullable: false),
                    started_by = table.Column<string>(type: "text", nullable: false),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<long>(type: "bigint", nullable: false),
                    examined = table.Column<long>(type: "bigint", nullable: false),
                    total = table.Column<long>(type: "bigint", nullable: false),
                    changed = table.Column<long>(type: "bigint", nullable: false),
                    saying = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "key",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    friendly_name = table.Column<string>(type: "text", nullable: true),
                    xml = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_key", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "person",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    full_name = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    language = table.Column<string>(type: "text", nullable: false),
                    zone = table.Column<string>(type: "text", nullable: false),
                    company = table.Column<string>(type: "text", nullable: false),
                    disabled = table.Column<bool>(type: "boolean", nullable: false),
                    password_set_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    totp_key = table.Column<string>(type: "text", nullable: true),
                    totp_step = table.Column<long>(type: "bigint", nullable: false),
                    user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    security_stamp = table.Column<string>(type: "text", nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true),
                    phone_number = table.Column<string>(type: "text", nullable: true),
                    phone_number_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    two_factor_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    lockout_end = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lockout_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    access_failed_count = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_person", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "presence",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    person_name = table.Column<string>(type: "text", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    title = table.Column<string>(type: "text", nullable: false),
                    seen_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_presence", x => x.id);
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
                name: "publishing",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    definition = table.Column<string>(type: "text", nullable: false),
                    @base = table.Column<int>(name: "base", type: "integer", nullable: false),
                    draft_version = table.Column<long>(type: "bigint", nullable: false),
                    comment = table.Column<string>(type: "text", nullable: false),
                    started_by = table.Column<string>(type: "text", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: true),
                    started_from = table.Column<string>(type: "text", nullable: false),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    saying = table.Column<string>(type: "text", nullable: false),
                    release = table.Column<int>(type: "integer", nullable: true),
                    storage_before = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_publishing", x => x.id);
                });

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

            migrationBuilder.CreateTable(
                name: "release",
                schema: "pelto",
                columns: table => new
                {
                    number = table.Column<int>(type: "integer", nullable: false),
                    definition = table.Column<string>(type: "text", nullable: false),
                    comment = table.Column<string>(type: "text", nullable: false),
                    summary = table.Column<string>(type: "text", nullable: false),
                    published_by = table.Column<string>(type: "text", nullable: false),
                    published_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_release", x => x.number);
                });

            migrationBuilder.CreateTable(
                name: "role",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_role", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "saved_data",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    field = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    record_type = table.Column<string>(type: "text", nullable: false),
                    part = table.Column<string>(type: "text", nullable: false),
                    definition = table.Column<string>(type: "text", nullable: false),
                    csv = table.Column<string>(type: "text", nullable: false),
                    count = table.Column<long>(type: "bigint", nullable: false),
                    saved_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_saved_data", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "setting",
                schema: "pelto",
                columns: table => new
                {
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_setting", x => x.name);
                });

            migrationBuilder.CreateTable(
                name: "job_batch",
                schema: "pelto",
                columns: table => new
                {
                    job_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    ids = table.Column<long[]>(type: "bigint[]", nullable: false),
                    befores = table.Column<string[]>(type: "text[]", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_job_batch", x => new { x.job_id, x.number });
                    table.ForeignKey(
                        name: "fk_job_batch_job_job_id",
                        column: x => x.job_id,
                        principalSchema: "pelto",
                        principalTable: "job",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
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
                name: "person_claim",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_person_claim", x => x.id);
                    table.ForeignKey(
                        name: "fk_person_claim_person_user_id",
                        column: x => x.user_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "person_login",
                schema: "pelto",
                columns: table => new
                {
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    provider_key = table.Column<string>(type: "text", nullable: false),
                    provider_display_name = table.Column<string>(type: "text", nullable: true),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_person_login", x => new { x.login_provider, x.provider_key });
                    table.ForeignKey(
                        name: "fk_person_login_person_user_id",
                        column: x => x.user_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "person_token",
                schema: "pelto",
                columns: table => new
                {
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_person_token", x => new { x.user_id, x.login_provider, x.name });
                    table.ForeignKey(
                        name: "fk_person_token_person_user_id",
                        column: x => x.user_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "personal_layer",
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
                    table.PrimaryKey("pk_personal_layer", x => new { x.person_id, x.record_type });
                    table.ForeignKey(
                        name: "fk_personal_layer_person_person_id",
                        column: x => x.person_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
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
                name: "token",
                schema: "pelto",
                columns: table => new
                {
                    digest = table.Column<string>(type: "text", nullable: false),
                    person_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    types = table.Column<string[]>(type: "text[]", nullable: false),
                    writes = table.Column<bool>(type: "boolean", nullable: false),
                    sets_up = table.Column<bool>(type: "boolean", nullable: false),
                    made_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    ends_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    used_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_token", x => x.digest);
                    table.ForeignKey(
                        name: "fk_token_person_person_id",
                        column: x => x.person_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "person_role",
                schema: "pelto",
                columns: table => new
                {
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    role_id = table.Column<Guid>(type: "uuid", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_person_role", x => new { x.user_id, x.role_id });
                    table.ForeignKey(
                        name: "fk_person_role_person_user_id",
                        column: x => x.user_id,
                        principalSchema: "pelto",
                        principalTable: "person",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_person_role_role_role_id",
                        column: x => x.role_id,
                        principalSchema: "pelto",
                        principalTable: "role",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "role_claim",
                schema: "pelto",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    role_id = table.Column<Guid>(type: "uuid", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_role_claim", x => x.id);
                    table.ForeignKey(
                        name: "fk_role_claim_role_role_id",
                        column: x => x.role_id,
                        principalSchema: "pelto",
                        principalTable: "role",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
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

            migrationBuilder.CreateIndex(
                name: "ix_conversion_table_name_column_name",
                schema: "pelto",
                table: "conversion",
                columns: new[] { "table_name", "column_name" });

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
                name: "EmailIndex",
                schema: "pelto",
                table: "person",
                column: "normalized_email");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                schema: "pelto",
                table: "person",
                column: "normalized_user_name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_person_claim_user_id",
                schema: "pelto",
                table: "person_claim",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_person_login_user_id",
                schema: "pelto",
                table: "person_login",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_person_role_role_id",
                schema: "pelto",
                table: "person_role",
                column: "role_id");

            migrationBuilder.CreateIndex(
                name: "ix_publishing_started_at",
                schema: "pelto",
                table: "publishing",
                column: "started_at",
                filter: "state IN ('Preparing', 'Finishing') OR storage_before IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "RoleNameIndex",
                schema: "pelto",
                table: "role",
                column: "normalized_name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_role_claim_role_id",
                schema: "pelto",
                table: "role_claim",
                column: "role_id");

            migrationBuilder.CreateIndex(
                name: "ix_session_person_id",
                schema: "pelto",
                table: "session",
                column: "person_id");

            migrationBuilder.CreateIndex(
                name: "ix_token_person_id",
                schema: "pelto",
                table: "token",
                column: "person_id");

            migrationBuilder.Sql(Functions);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql(WithoutFunctions);

            migrationBuilder.DropTable(
                name: "admin_right",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "audit",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "conversion",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "deleted",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "draft",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "entry",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "failure",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "file",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "invitation",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "job_batch",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "key",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "person_claim",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "person_login",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "person_role",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "person_token",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "personal_layer",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "presence",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "proposal",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "publishing",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "recent",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "recovery_code",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "release",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "role_claim",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "saved_data",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "session",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "setting",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "token",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "job",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "role",
                schema: "pelto");

            migrationBuilder.DropTable(
                name: "person",
                schema: "pelto");

            migrationBuilder.DropSequence(
                name: "draft_version",
                schema: "pelto");
        }
    }
}
